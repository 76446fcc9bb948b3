"""Every package that is shipped is named with its licence, none of them one that would bind
ours.
"""

from __future__ import annotations

import re

from tests.licences import ROOT, front_end_packages, python_packages


def test_the_notice_names_every_package_with_its_licence():
    said = (ROOT / "NOTICE").read_text()
    lines = [*python_packages(), *front_end_packages()]
    assert len(lines) > 100
    assert [line for line in lines if line not in said] == []
    assert not any(re.search(r"\bA?GPL", line) for line in lines)


def test_what_is_installed_is_locked_by_its_contents():
    for name in ("requirements.lock", "requirements-test.lock"):
        text = (ROOT / name).read_text()
        blocks = re.split(r"\n(?=[A-Za-z0-9])", text.strip())
        assert all("--hash=sha256:" in block for block in blocks), name
    assert '"integrity"' in (ROOT / "web/package-lock.json").read_text()
