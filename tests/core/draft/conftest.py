"""Parts that were read once: strangers' ones, and ours that are awkward on purpose."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.part import Part
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.formats.part_files import read_part
from wedgecraft.formats.step.reader import StepReader

PARTS = Path(__file__).parents[2] / "parts"
FACTS = json.loads((PARTS / "facts.json").read_text())
OWN = {
    "angle_bracket": "aluminium-6061",
    "clevis": "steel-c45",
    "housing": "aluminium-6061",
    "counterbored_plate": "steel-c45",
    "chamfered_cover": "aluminium-6061",
    "sloped_wedge": "steel-c45",
}


@pytest.fixture(scope="session")
def stores() -> Stores:
    return Stores.of(shipped())


@pytest.fixture(scope="session")
def read() -> Iterator[Callable[[str], Part]]:
    reader, known = StepReader(), {}

    def part(name: str) -> Part:
        if name not in known:
            facts = FACTS.get(name, {"file": f"{name}.step", "material": OWN.get(name)})
            known[name] = read_part(
                (PARTS / facts["file"]).read_bytes(),
                facts["file"],
                MATERIALS[facts["material"]],
                facts.get("thickness_mm"),
                reader=reader,
            )
        return known[name]

    yield part
    reader.close()
