"""What an op drills: round holes whose axis points to the spindle."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import MultiPolygon

from wedgecraft.core.draft.milled import Bench
from wedgecraft.core.draft.tools import disc_of
from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.workpiece.pose import Pose
from wedgecraft.core.workpiece.surfaces import RoundFace

#: Holes up to this size are drilled; wider ones are milled.
WIDEST_MM = 20.0
#: A drill goes so much farther than a through hole is long, besides its point.
_BEYOND_MM = 0.5
#: Ends of holes as near as this lie in one plane.
_NEAR_MM = 0.02
#: An axis points to the spindle by this cosine.
_UPRIGHT = 0.99999


@dataclass(frozen=True)
class Hole:
    """A round hole open to the spindle, in the op's frame: from ``top_mm`` down to ``low_mm``."""

    x: float
    y: float
    diameter_mm: float
    top_mm: float
    low_mm: float
    through: bool


def holes_seen(holes: Sequence[RoundFace], pose: Pose) -> list[Hole]:
    """Those a drill can come to from above, of a part's holes in its own frame."""
    found = []
    for hole in holes:
        ends = np.array([pose.place(*hole.start_mm), pose.place(*hole.end_mm)])
        off = np.abs(ends[0, :2] - ends[1, :2]).max()
        towards = [pose.turn @ np.array(way) for way in hole.open_to]
        if off > 1e-3 or not any(way[2] > _UPRIGHT for way in towards):
            continue
        low, high = sorted(ends[:, 2])
        found.append(
            Hole(
                float(ends[0, 0]),
                float(ends[0, 1]),
                hole.diameter_mm,
                float(high),
                float(low),
                hole.through,
            )
        )
    return found


def drillable(holes: Sequence[Hole]) -> MultiPolygon:
    """Those that are drilled, seen from above."""
    return MultiPolygon(
        [disc_of(h.x, h.y, h.diameter_mm) for h in holes if h.diameter_mm <= WIDEST_MM]
    )


def drill(bench: Bench, holes: Sequence[Hole]) -> list[Hole]:
    """Add a cut for each size and depth. Gives the holes no drill of the shop makes."""
    groups: dict[tuple[float, float, float, bool], list[Hole]] = {}
    for hole in holes:
        if hole.diameter_mm <= WIDEST_MM and not _there(bench, hole):
            key = (
                round(hole.diameter_mm, 2),
                round(hole.top_mm, 2),
                round(hole.low_mm, 2),
                hole.through,
            )
            groups.setdefault(key, []).append(hole)
    missing = []
    for alike in sorted(groups.values(), key=lambda group: -group[0].diameter_mm):
        missing += _drilled(bench, alike)
    return missing


def _there(bench: Bench, hole: Hole) -> bool:
    """Whether it has been made already."""
    middle = bench.now.seen(hole.low_mm + _NEAR_MM, hole.top_mm - _NEAR_MM)
    return not middle.intersects(disc_of(hole.x, hole.y, 0.8 * hole.diameter_mm))


def _drilled(bench: Bench, alike: list[Hole]) -> list[Hole]:
    one, crib = alike[0], bench.shop.crib
    begins = max(_stands(bench, hole) for hole in alike)
    exact = crib.drill(one.diameter_mm, begins - one.low_mm)
    tool = exact or crib.smaller_drill(one.diameter_mm, begins - one.low_mm)
    if tool is None:
        return alike
    ends = one.low_mm - (point_mm(tool) + _BEYOND_MM if one.through else 0.0)
    if not one.through and exact is None:
        ends = min(begins - 0.5, one.low_mm + point_mm(tool))
    many = f"{len(alike)} x " if len(alike) > 1 else ""
    places = [(_written(hole.x), _written(hole.y)) for hole in alike]
    try:
        cut = bench.cut("drill", f"drill {many}{tool.diameter_mm:g}", tool, begins, ends)
    except OutOfRange:
        return alike
    bench.take(cut.model_copy(update={"at": places}))
    if exact is not None:
        return []
    return [hole for hole in alike if not _to_size(bench, hole)]


def _written(place: float) -> float:
    """To a hundredth, where that is what chords moved it from."""
    near = round(place, 2)
    return near if abs(near - place) <= CHORD_ERROR_MM else round(place, 4)


def _to_size(bench: Bench, hole: Hole) -> bool:
    """Mill a drilled hole to its size."""
    disc = disc_of(hole.x, hole.y, hole.diameter_mm)
    begins = _stands(bench, hole)
    picked = bench.shop.crib.mills(disc, disc.buffer(1.0).difference(disc), begins - hole.low_mm)
    if picked is None:
        return False
    cut = bench.cut("pocket", f"hole {hole.diameter_mm:g} to size", picked[0], begins, hole.low_mm)
    at = [(round(float(x), 4), round(float(y), 4)) for x, y in list(disc.exterior.coords)[:-1]]
    return bench.take(cut.model_copy(update={"at": at}))


def _stands(bench: Bench, hole: Hole) -> float:
    """How high it still stands over a hole."""
    level = hole.top_mm
    for height in sorted({*bench.now.levels, bench.now.box[5]}, reverse=True):
        if height <= level + _NEAR_MM:
            break
        there = bench.now.slice(height - _NEAR_MM)
        if there.intersects(disc_of(hole.x, hole.y, 0.9 * hole.diameter_mm)):
            return float(height)
    return level


def point_mm(tool: Cutter) -> float:
    """How much longer a drill is at its point."""
    return tool.diameter_mm / 2 / math.tan(math.radians(tool.point_deg / 2))
