"""Round the outside of the part."""

from __future__ import annotations

from typing import ClassVar

from shapely.geometry import Polygon

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.cutting.reach import cleared, filled
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep, largest


@CUT_KINDS.register
class Contour(Milling):
    """Round the outline, the cutter outside it."""

    kind: ClassVar[str] = "contour"
    listed: ClassVar[int] = 1
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill",)
    usual: ClassVar[CutterKind] = "end mill"
    clears: ClassVar[bool] = True
    around: ClassVar[bool] = True
    through: ClassVar[bool] = True

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """A band as wide as the cutter round all that stands above its depth."""
        low = scene.top_mm - cut.depth_mm
        solid = filled(scene.kept_above(low)).buffer(cut.leave_mm)
        band = solid.buffer(cut.tool.diameter_mm, quad_segs=16)
        return [Sweep(cleared(band, solid, cut.tool.diameter_mm / 2), low)]

    def guide(self, cut: Cut, scene: Scene) -> Polygon:
        """What stands above its depth."""
        return Polygon(largest(scene.kept_above(scene.top_mm - cut.depth_mm)).exterior)

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        solid = Polygon(outline.exterior)
        axis = Polygon(solid.buffer(cut.tool.diameter_mm / 2, quad_segs=16).exterior)
        return CutPath(axis, cut.passes * float(axis.exterior.length), encloses=True)
