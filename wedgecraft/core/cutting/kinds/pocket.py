"""A pocket: all that is open from above down to its floor, or what is said of it."""

from __future__ import annotations

import math
from typing import ClassVar

import shapely
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.cutting.reach import cleared, filled
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep


@CUT_KINDS.register
class Pocket(Milling):
    """Rows as wide as the cutter is engaged, then along its walls. ``at``: two corners of a box, or
    three points and more round it; nothing for all that the finished part leaves open there.
    """

    kind: ClassVar[str] = "pocket"
    listed: ClassVar[int] = 3
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill",)
    usual: ClassVar[CutterKind] = "end mill"
    clears: ClassVar[bool] = True
    inside: ClassVar[bool] = True
    through: ClassVar[bool] = True

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        low = scene.top_mm - cut.depth_mm + cut.leave_mm
        return [Sweep(_region(cut, scene), low)]

    def guide(self, cut: Cut, scene: Scene) -> Polygon:
        """What it clears: the largest piece of it."""
        if cut.at:
            return _typed(cut)
        found = [part for part in shapely.get_parts(_region(cut, scene)) if part.area > 0]
        if not found:
            raise OutOfRange(
                "cut.at",
                "nothing",
                f"where it is: at {cut.depth_mm:g} mm below the top the finished part is open"
                f" nowhere that a cutter of {cut.tool.diameter_mm:g} mm gets into",
            )
        largest: Polygon = max(found, key=lambda part: part.area)
        return largest

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        area = _typed(cut) if cut.at else outline
        axis = area.buffer(-cut.tool.diameter_mm / 2)
        if axis.is_empty:
            raise OutOfRange(
                "cut.tool.diameter_mm",
                cut.tool.diameter_mm,
                "a smaller cutter: it does not go into the pocket",
            )
        rows = area.area / max(cut.radial_width_mm, 1e-6)
        if rows > 1e7:
            raise OutOfRange(
                "cut.radial_width_mm",
                cut.radial_width_mm,
                "enough to clear the pocket in a reasonable number of passes",
            )
        largest: Polygon = max(shapely.get_parts(axis), key=lambda part: part.area)
        return CutPath(largest, cut.passes * (rows + float(area.exterior.length)))


def _typed(cut: Cut) -> Polygon:
    points = cut.at
    if len(points) == 2 and points[0][0] != points[1][0] and points[0][1] != points[1][1]:
        (x0, y0), (x1, y1) = points
        return box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
    ring = Polygon(points) if len(points) >= 3 else Polygon()
    if ring.is_empty or not ring.is_valid or ring.area <= 0:
        raise OutOfRange(
            "cut.at",
            len(points),
            "two opposite corners of the pocket, three points and more round it, or nothing",
        )
    return ring


def _region(cut: Cut, scene: Scene) -> MultiPolygon | Polygon:
    """What it clears, walls left by its allowance."""
    low = scene.top_mm - cut.depth_mm
    if cut.at:
        asked: Polygon = _typed(cut).buffer(-cut.leave_mm)
        return asked
    keep = scene.kept_above(low).buffer(cut.leave_mm)
    around = filled(scene.kept_above(-math.inf))
    cleared_of_it: MultiPolygon = cleared(around.difference(keep), keep, cut.tool.diameter_mm / 2)
    return cleared_of_it
