"""A drawing of the layout, in layers."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.design import Design
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.formats.export import EXPORTS, Export


@EXPORTS.register
class Dxf(Export):
    """Read by any drawing or cam program."""

    kind: ClassVar[str] = "dxf"
    mime: ClassVar[str] = "image/vnd.dxf"
    label: ClassVar[str] = "Layout as DXF, in layers"
    listed: ClassVar[int] = 1

    def made(self, request: PlanRequest, design: Design, units: Literal["mm", "inch"]) -> bytes:
        from wedgecraft.formats.layout_files import to_dxf

        return to_dxf(request, design, 1.0 if units == "mm" else 25.4)
