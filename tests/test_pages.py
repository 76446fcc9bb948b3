"""How the front end lies: rooms that use only those before them, and no circle among its files."""

from __future__ import annotations

import graphlib
import os
import re
from pathlib import Path

SRC = Path(__file__).parents[1] / "web/src"
#: Each uses those before it; pages of their own, side by side, and what holds them all come last.
ROOMS = ["api", "ui", "editing", "drawing", "charts", "steps", "job"]
PAGES = {"jobs", "shop", "people", "session", "shelf", "today"}


def _imports() -> dict[str, set[str]]:
    """File by file what it imports of ours, paths without their endings."""
    found: dict[str, set[str]] = {}
    for file in SRC.rglob("*.ts*"):
        named = re.findall(r'(?:from|import)\s*\(?\s*"(\.[^"]+)"', file.read_text())
        own = file.relative_to(SRC)
        found[str(own.with_suffix(""))] = {
            os.path.normpath(own.parent / name) for name in named if not name.endswith(".css")
        }
    return found


def test_no_room_of_the_front_end_uses_a_later_one_and_no_file_itself_on_the_way():
    imports = _imports()
    assert len(imports) > 60
    graphlib.TopologicalSorter(imports).prepare()  # says the circle, if there is one
    for file, used in imports.items():
        room = file.split("/")[0]
        for other in used:
            theirs = other.split("/")[0]
            if room == theirs or "/" not in file:  # in one room; the frame round all of them
                continue
            if room in PAGES:
                assert theirs in ("api", "ui", "drawing"), (file, other)
            else:
                assert ROOMS.index(theirs) < ROOMS.index(room), (file, other)
