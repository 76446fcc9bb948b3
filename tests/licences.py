"""The licences of what is shipped: ``python -m tests.licences > NOTICE``; ``test_licences`` says
when that was forgotten.
"""

from __future__ import annotations

import json
import re
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def python_packages() -> list[str]:
    """``name version: licence`` of every package of the lock file that is run with."""
    locked = re.findall(
        r"^([A-Za-z0-9_.\-]+)==([^ \\]+)", (ROOT / "requirements.lock").read_text(), re.MULTILINE
    )
    return [f"{name} {version}: {_licence(name)}" for name, version in sorted(locked)]


def _licence(name: str) -> str:
    try:
        found = metadata(name)
    except PackageNotFoundError:
        return "not installed"
    said = found.get("License-Expression") or ""
    named = [
        line.split(" :: ")[-1]
        for line in found.get_all("Classifier") or []
        if line.startswith("License ::")
    ]
    short = (found.get("License") or "").strip()
    return (
        said
        or ", ".join(named)
        or (short if "\n" not in short and len(short) < 80 else short.split("\n")[0][:80])
        or "see the package"
    )


def front_end_packages() -> list[str]:
    """As above, of what the built pages hold."""
    packages = json.loads((ROOT / "web/package-lock.json").read_text())["packages"]
    used = {
        path.split("node_modules/")[-1]: entry
        for path, entry in packages.items()
        if path and not entry.get("dev")
    }
    return [
        f"{name} {entry['version']}: {entry.get('license', 'see the package')}"
        for name, entry in sorted(used.items())
    ]


def notice() -> str:
    """The page."""
    head = (
        "Wedgecraft\nLicensed under the Apache License, Version 2.0 (LICENSE).\n\nIt is installed"
        " with, or holds in its built pages, the packages below, each under its own licence; their"
        " texts come with them."
    )
    kernel = (
        "cadquery-ocp-novtk holds the CAD kernel Open CASCADE Technology (LGPL-2.1 with its"
        " exception).\n"
    )
    server = (
        "Debian's packages PostgreSQL (PostgreSQL Licence), libGL and libX11 (MIT), libexpat (MIT)"
        " are used where they are installed."
    )
    return "\n".join(
        [
            head,
            "",
            "Python:",
            *python_packages(),
            "",
            "Front end:",
            *front_end_packages(),
            "",
            kernel + server,
            "",
        ]
    )


if __name__ == "__main__":
    print(notice(), end="")
