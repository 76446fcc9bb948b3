"""A slot as wide as its cutter, from one point to another."""

from __future__ import annotations

from typing import ClassVar

from shapely.geometry import LineString, Polygon

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep


class Line(Milling):
    """What goes straight from one point to another has in common."""

    through: ClassVar[bool] = True

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        if len(cut.at) != 2 or cut.at[0] == cut.at[1]:
            raise OutOfRange(
                "cut.at",
                len(cut.at),
                f"two different points: from where to where the {self.kind} goes",
            )
        line = LineString(cut.at)
        return CutPath(line, cut.passes * (float(line.length) + cut.tool.diameter_mm))

    def _band(self, cut: Cut) -> Polygon:
        """What its cutter runs over."""
        self.path(cut, Polygon())
        band: Polygon = LineString(cut.at).buffer(cut.tool.diameter_mm / 2, quad_segs=32)
        return band

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        (x0, y0), (x1, y1) = cut.at
        middle = ((x0 + x1) / 2, (y0 + y1) / 2)
        return {(x0, y0): "at its start", (x1, y1): "at its end", middle: "in its middle"}


@CUT_KINDS.register
class Slot(Line):
    """It engages the whole cutter."""

    kind: ClassVar[str] = "slot"
    listed: ClassVar[int] = 3
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill",)
    usual: ClassVar[CutterKind] = "end mill"

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        return [Sweep(self._band(cut), scene.top_mm - cut.depth_mm + cut.leave_mm)]

    def width_mm(self, cut: Cut) -> float:
        return cut.tool.diameter_mm
