"""Round the outside of the part."""

from __future__ import annotations

from typing import ClassVar

from shapely.geometry import Polygon

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind


@CUT_KINDS.register
class Contour(Milling):
    """Round the outline, the cutter outside it."""

    kind: ClassVar[str] = "contour"
    listed: ClassVar[int] = 1
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill",)
    usual: ClassVar[CutterKind] = "end mill"
    around: ClassVar[bool] = True
    through: ClassVar[bool] = True

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        solid = Polygon(outline.exterior)
        axis = Polygon(solid.buffer(cut.tool.diameter_mm / 2, quad_segs=16).exterior)
        return CutPath(axis, cut.passes * float(axis.exterior.length))
