"""What an op chamfers: outer edges and rims of holes that lean by the angle of a chamfer mill."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.cutting.starting import started
from wedgecraft.core.draft.milled import Bench
from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.states import swept_by

#: Chamfers between these sizes are looked for, mm; slices are taken this far inside.
_SIZES_MM, _INSIDE_MM = (0.1, 8.0), 2e-3
#: An edge grown by the chamfer is the other one within this share of what lies between.
_LIKE = 0.06
#: A chamfer that takes less is none, mm3.
_LEAST_MM3 = 0.2
#: So many heights below a level are tried.
_FEET = 6


@dataclass(frozen=True)
class Bevel:
    """A chamfer of 45° from a level down; ``at``: the holes whose rims it breaks, nothing for the
    outside.
    """

    level_mm: float
    wide_mm: float
    at: tuple[tuple[float, float], ...]


def chamfer(bench: Bench) -> None:
    """Add a cut for each size and level."""
    mills = [item for item in bench.shop.crib.of("chamfer mill") if item.entering_deg == 45]
    for bevel in bevels_of(bench.finished):
        tool = next((t for t in reversed(mills) if t.flute_length_mm >= bevel.wide_mm), None)
        if tool is None:
            continue
        said = "rims" if bevel.at else "edges"
        cut = Cut(
            name=f"T{bench.shop.crib.number(tool)} chamfer {said} {bevel.wide_mm:g}",
            kind="chamfer",
            tool=tool,
            axial_depth_mm=bevel.wide_mm,
            radial_width_mm=min(bevel.wide_mm, tool.diameter_mm),
            feed_per_tooth_mm=0.01,
            spindle_rpm=100,
            from_top_mm=round(bench.top_mm - bevel.level_mm, 6) + 0.0,
            at=list(bevel.at),
        )
        try:
            cut = started(cut, bevel.wide_mm, bench.shop.work, bench.shop.machine)
            swept = swept_by(cut, bench.scene, bench.now)
        except OutOfRange:
            continue
        film = 4 * max(CHORD_ERROR_MM, bench.finished.chord_error_mm)
        if not (swept & bench.finished).lumps(film):
            bench.take(cut, least=_LEAST_MM3)


def bevels_of(finished: Body) -> Iterator[Bevel]:
    """Those that are seen from above, the highest first; of each edge as deep as it goes."""
    heights = np.unique(np.round(finished.mesh[0][:, 2], 4))
    for level in sorted({*finished.levels, finished.box[5]}, reverse=True):
        low, high = level - _SIZES_MM[1], level - _SIZES_MM[0]
        feet = [z for z in heights[::-1].tolist() if low <= z <= high][:_FEET]
        top = finished.slice(level - _INSIDE_MM)
        outer, rims = 0.0, dict[tuple[float, float], float]()
        for foot in feet:
            below, wide = finished.slice(foot - _INSIDE_MM), round(level - foot, 3)
            if below.is_empty or top.is_empty:
                continue
            if _outer(below, top, wide):
                outer = wide
            rims |= dict.fromkeys(_rims(below, top, wide), wide)
        if outer:
            yield Bevel(level, outer, ())
        for wide in sorted(set(rims.values()), reverse=True):
            yield Bevel(level, wide, tuple(at for at, size in rims.items() if size == wide))


def _outer(below: MultiPolygon, top: MultiPolygon, wide: float) -> bool:
    """Whether every outer edge is that much smaller at the level."""
    whole = shapely.union_all([Polygon(part.exterior) for part in below.geoms])
    there = shapely.union_all([Polygon(part.exterior) for part in top.geoms])
    return _same(whole.buffer(-wide, join_style="mitre"), there, whole.area - there.area)


def _rims(below: MultiPolygon, top: MultiPolygon, wide: float) -> list[tuple[float, float]]:
    """Middles of the holes whose rims are that much wider at the level."""
    upper = [Polygon(ring) for part in top.geoms for ring in part.interiors]
    found = []
    for part in below.geoms:
        for ring in part.interiors:
            hole = Polygon(ring)
            over = next((other for other in upper if other.covers(hole)), None)
            if over is not None and _same(hole.buffer(wide), over, over.area - hole.area):
                found.append((round(hole.centroid.x, 4), round(hole.centroid.y, 4)))
    return found


def _same(one: shapely.Geometry, other: shapely.Geometry, between_mm2: float) -> bool:
    return between_mm2 > 0.01 and one.symmetric_difference(other).area <= _LIKE * between_mm2
