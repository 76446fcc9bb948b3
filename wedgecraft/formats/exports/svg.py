"""A picture of the layout, in layers."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.design import Design
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.formats.export import EXPORTS, Export


@EXPORTS.register
class Svg(Export):
    """To scale, in millimetres whatever the units."""

    kind: ClassVar[str] = "svg"
    mime: ClassVar[str] = "image/svg+xml"
    label: ClassVar[str] = "Layout as SVG"
    listed: ClassVar[int] = 2

    def made(
        self, request: PlanRequest, design: Design, units: Literal["mm", "inch"]
    ) -> str | bytes:
        from wedgecraft.formats.layout_files import to_svg

        return to_svg(request, design)
