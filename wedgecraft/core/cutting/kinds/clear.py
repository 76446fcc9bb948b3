"""All that stands outside the part, however wide that is."""

from __future__ import annotations

from typing import ClassVar

import shapely
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.cutting.milling import Milling
from wedgecraft.core.cutting.reach import cleared, filled
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutPath, CutterKind, Scene, Sweep, largest


@CUT_KINDS.register
class Clear(Milling):
    """Rows as wide as the cutter is engaged, from the blank's edge in to the part's outline."""

    kind: ClassVar[str] = "clear"
    listed: ClassVar[int] = 2
    cutters: ClassVar[tuple[CutterKind, ...]] = ("end mill",)
    usual: ClassVar[CutterKind] = "end mill"
    clears: ClassVar[bool] = True
    around: ClassVar[bool] = True
    through: ClassVar[bool] = True

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """What the blank covers outside all that stands above its depth."""
        radius = cut.tool.diameter_mm / 2
        around = scene.covered.buffer(radius, quad_segs=16)
        return [Sweep(cleared(around, _solid(cut, scene), radius), _low(cut, scene))]

    def guide(self, cut: Cut, scene: Scene) -> Polygon:
        """Where the cutter's axis goes: the largest piece of it."""
        solid = _solid(cut, scene)
        near = solid.buffer(cut.tool.diameter_mm / 2, quad_segs=16)
        region = shapely.union(scene.covered, near).difference(near.buffer(-_RUN_MM))
        found = largest(MultiPolygon([p for p in shapely.get_parts(region) if p.area > 0]))
        if found.is_empty:
            raise OutOfRange("cut.at", "nothing", "a blank that stands out round the part there")
        return found

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        if cut.radial_width_mm <= 0 or outline.area / cut.radial_width_mm > 1e7:
            raise OutOfRange(
                "cut.radial_width_mm",
                cut.radial_width_mm,
                "enough to clear what stands there in a reasonable number of passes",
            )
        once = float(outline.exterior.length + sum(ring.length for ring in outline.interiors))
        return CutPath(outline, cut.passes * (outline.area / cut.radial_width_mm + once / 2))


#: The axis runs round the outline on a line; so wide it counts.
_RUN_MM = 0.01


def _low(cut: Cut, scene: Scene) -> float:
    return scene.top_mm - cut.depth_mm + cut.leave_mm


def _solid(cut: Cut, scene: Scene) -> shapely.Geometry:
    return filled(scene.kept_above(scene.top_mm - cut.depth_mm)).buffer(cut.leave_mm)
