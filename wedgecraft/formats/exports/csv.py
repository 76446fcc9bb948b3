"""Station positions as a table."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.design import Design
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.formats.export import EXPORTS, Export


@EXPORTS.register
class Csv(Export):
    """One station a row, datum corner and turn; it can be read again."""

    kind: ClassVar[str] = "csv"
    mime: ClassVar[str] = "text/csv"
    label: ClassVar[str] = "Station positions as CSV"
    listed: ClassVar[int] = 3

    def made(self, request: PlanRequest, design: Design, units: Literal["mm", "inch"]) -> str:
        from wedgecraft.formats.stations import to_csv

        return to_csv(design.stations, units)
