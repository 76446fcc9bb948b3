"""From a file to a planned draft, as a person's own goes: every part of a folder."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from wedgecraft.core.draft.assumed import answered
from wedgecraft.core.draft.proposal import drafted
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.formats.part_files import read_part
from wedgecraft.formats.step.reader import StepReader

#: Strangers' parts, beside the package in a checkout.
PARTS = Path(__file__).parents[2] / "tests" / "parts"
_BAR_SECONDS = 30.0


def drafts(folder: Path = PARTS) -> Iterator[JobDocument]:
    """Every part of a folder, drafted with the shop that ships."""
    stores, reader = Stores.of(shipped()), StepReader()
    try:
        for file, about in _parts(folder):
            work = MATERIALS[about.get("material", "aluminium-6061")]
            part = read_part(
                file.read_bytes(), file.name, work, about.get("thickness_mm"), reader=reader
            )
            yield drafted(part.name, about.get("quantity", 100), [part], stores)
    finally:
        reader.close()


def _parts(folder: Path) -> Iterator[tuple[Path, dict[str, Any]]]:
    facts = json.loads((folder / "facts.json").read_text()) if folder.is_dir() else {}
    known = {item["file"]: item for item in facts.values()}
    for file in sorted([*folder.glob("*.step"), *folder.glob("*.dxf")]):
        yield file, known.get(file.name, {})


def lines(folder: Path = PARTS) -> Iterator[str]:
    """A heading, then a line a part; the bar is half a minute for each, file to plan."""
    stores, reader = Stores.of(shipped()), StepReader()
    yield (
        f"{'part':<22}{'read s':>8}{'draft s':>9}{'plan s':>8}{'bar s':>7}{'ops':>5}"
        f"{'a cycle':>9}{'min a part':>12}{'left mm³':>10}{'corners':>9}  made"
    )
    try:
        for file, about in _parts(folder):
            work = MATERIALS[about.get("material", "aluminium-6061")]
            start = time.perf_counter()
            thick = about.get("thickness_mm")
            part = read_part(file.read_bytes(), file.name, work, thick, reader=reader)
            read = time.perf_counter()
            document = drafted(part.name, about.get("quantity", 100), [part], stores)
            done = time.perf_counter()
            answer = answered(plan_route(document))  # with all that a person is shown
            end = time.perf_counter()
            made = "yes" if answer.feasible else answer.reasons[0][:60]
            yield (
                f"{part.name:<22}{read - start:>8.2f}{done - read:>9.2f}{end - done:>8.2f}"
                f"{_BAR_SECONDS:>7.0f}{len(document.job.parts[0].ops):>5}"
                f"{answer.parts_a_cycle or 0:>9}{answer.minutes_a_part or 0:>12.2f}"
                f"{answer.left_over_mm3:>10.1f}{answer.corners_mm3:>9.1f}  {made}"
            )
    finally:
        reader.close()
