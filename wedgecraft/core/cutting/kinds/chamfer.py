"""A chamfer round the top edge, or round the rims of holes."""

from __future__ import annotations

import math
from typing import ClassVar

import shapely
from shapely.geometry import MultiPoint, Point, Polygon

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep

#: It is looked at this far below its foot, where the wall it breaks is still whole.
_BELOW_MM = 1e-3


@CUT_KINDS.register
class Chamfer(Milling):
    """As deep as it says, as wide as its cutter's angle makes it. ``at``: the holes whose rims it
    breaks; nothing for the outside.
    """

    kind: ClassVar[str] = "chamfer"
    listed: ClassVar[int] = 10
    cutters: ClassVar[tuple[CutterKind, ...]] = ("chamfer mill",)
    usual: ClassVar[CutterKind] = "chamfer mill"
    around: ClassVar[bool] = True

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        low, wide = scene.top_mm - cut.depth_mm, self.bevel_mm(cut)
        whole = scene.cut_at(low - _BELOW_MM)
        parts = list(shapely.get_parts(whole))
        if not cut.at:
            return [Sweep(Polygon(part.exterior), low, None, None, -wide, True) for part in parts]
        rims = [Polygon(ring) for part in parts for ring in part.interiors]
        found = []
        for x, y in cut.at:
            rim = next((ring for ring in rims if ring.contains(Point(x, y))), None)
            if rim is None:
                raise OutOfRange(
                    "cut.at", f"{x:g}, {y:g}", "the middle of a hole: there is none to break"
                )
            found.append(Sweep(rim, low, None, None, wide))
        return found

    def bevel_mm(self, cut: Cut) -> float:
        """How wide it is: the angle is the cutter's edge to the plane."""
        return cut.axial_depth_mm * cut.passes / math.tan(math.radians(cut.tool.entering_deg))

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        if cut.at:
            return CutPath(MultiPoint(cut.at), len(cut.at) * 4 * math.pi * self.bevel_mm(cut))
        off = max(0.0, cut.tool.diameter_mm / 2 - self.bevel_mm(cut))
        axis = Polygon(Polygon(outline.exterior).buffer(off, quad_segs=16).exterior)
        return CutPath(axis, cut.passes * float(axis.exterior.length), encloses=True)
