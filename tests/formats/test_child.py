"""Files are read where they can do no harm: every hostile one ends in words, in time and within its
memory, and the next is read.
"""

from __future__ import annotations

import json
import time
from dataclasses import replace
from pathlib import Path

import pytest

from tests.formats import hostile
from wedgecraft.formats.child import Limits, Readers
from wedgecraft.formats.drawings import LIMITS, read_json
from wedgecraft.formats.errors import FileRefused, UnitsMissing

_SQUARE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="30mm" viewBox="0 0 50 30"><rect'
    b' width="50" height="30"/></svg>'
)


@pytest.fixture(scope="module")
def readers():
    made = Readers(replace(LIMITS, seconds=3))
    yield made
    made.close()


@pytest.mark.parametrize("name", hostile.drawings())
def test_a_hostile_drawing_ends_in_words_and_the_next_is_read(readers, name):
    readers.warm()
    began = time.monotonic()
    with pytest.raises(FileRefused) as refused:
        readers.call(read_json, hostile.drawings()[name], "mm", name, None, 0.01)
    assert refused.value.remedy
    assert time.monotonic() - began < 30
    for pid in readers.pids:
        peak = next(
            line
            for line in Path(f"/proc/{pid}/status").read_text().splitlines()
            if line.startswith("VmHWM")
        )
        assert int(peak.split()[1]) < 1_000_000
    assert (
        json.loads(readers.call(read_json, _SQUARE, None, "next.svg", None, 0.01))["outlines"][0][
            "width_mm"
        ]
        == 50
    )


def _hold(count: int) -> int:
    return len(b"x" * count)


def _break() -> None:
    raise UnitsMissing(3, 4)


def test_a_reader_is_stopped_by_its_memory_and_says_what_a_person_has_to(readers):
    small = Readers(Limits(seconds=20, memory=300_000_000, libraries=()))
    assert small.call(_hold, 1000) == 1000
    with pytest.raises(FileRefused, match=r"0\.3 GB"):
        small.call(_hold, 2_000_000_000)
    with pytest.raises(UnitsMissing) as missing:  # crosses whole
        small.call(_break)
    assert (missing.value.width, missing.value.depth) == (3, 4)
    small.close()
