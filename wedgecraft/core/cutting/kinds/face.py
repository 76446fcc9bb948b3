"""Facing the top, or a box of it."""

from __future__ import annotations

import math
from typing import ClassVar

import shapely
from shapely.geometry import Polygon, box

from wedgecraft.core.cutting.milling import Milling, ends_of
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep


@CUT_KINDS.register
class Face(Milling):
    """To one level, in rows as wide as the cutter is engaged."""

    kind: ClassVar[str] = "face"
    listed: ClassVar[int] = 2
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill", "face mill")
    usual: ClassVar[CutterKind] = "face mill"
    facing: ClassVar[bool] = True

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        area = _area(cut, Polygon(outline.exterior))
        x0, y0, x1, y1 = area.bounds
        long, short = max(x1 - x0, y1 - y0), min(x1 - x0, y1 - y0)
        rows = math.ceil(short / max(cut.radial_width_mm, 1e-6) - 1e-9)
        if rows > 100_000:
            raise OutOfRange(
                "cut.radial_width_mm",
                cut.radial_width_mm,
                f"enough to face {short:g} mm in a reasonable number of passes",
            )
        return CutPath(area, cut.passes * rows * (long + cut.tool.diameter_mm))

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """All that stands above its depth, or what does so in its box."""
        low = scene.top_mm - cut.depth_mm + cut.leave_mm
        if cut.at:
            return [Sweep(_area(cut, Polygon()), low)]
        return [Sweep(scene.covered.buffer(cut.tool.diameter_mm / 2, quad_segs=8), low)]

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        """The ends of what is faced, and its middle."""
        area = self.path(cut, outline).axis if cut.at else outline
        ring = shapely.get_coordinates(area.exterior)[:-1]
        middle = Polygon(ring).centroid
        return ends_of(ring) | {(float(middle.x), float(middle.y)): "in the middle"}


def _area(cut: Cut, solid: Polygon) -> Polygon:
    if not cut.at:
        return solid
    if len(cut.at) != 2 or cut.at[0][0] == cut.at[1][0] or cut.at[0][1] == cut.at[1][1]:
        raise OutOfRange(
            "cut.at",
            len(cut.at),
            "two opposite corners of the box to face, or nothing for the whole top",
        )
    (x0, y0), (x1, y1) = cut.at
    return box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
