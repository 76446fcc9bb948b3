"""Where drills and cutters come out below a part: what it stands on is relieved there."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.cutting.path import cut_path
from wedgecraft.core.cutting.shape import point_mm
from wedgecraft.core.station.member import Member
from wedgecraft.core.workpiece.sitting import Sitting

#: What a relief is called among a piece's holes.
RELIEF = "relief under a hole"
#: A relief is so much wider than the drill on each side, and so much deeper than it comes; house
#: usage, from memory.
_BESIDE_MM, _BELOW_MM = 1.0, 1.0
#: Depths and widths are whole steps of this, mm.
_STEP_MM = 0.5
_OUT_MM = 1e-3
#: A round of chords is smaller than its circle by less than this share.
_NOT_ROUND = 0.01


class Relief(NamedTuple):
    """A round pocket in what the station stands on, in the station's frame."""

    x: float
    y: float
    diameter_mm: float
    depth_mm: float


def reliefs(sitting: Sitting, members: Sequence[Member]) -> list[Relief]:
    """One for each place where holes, or round pockets, come out below, as wide and deep as the
    largest needs.
    """
    found: dict[tuple[float, float], tuple[float, float]] = {}

    def under(x: float, y: float, wide: float, deep: float) -> None:
        place = round(x, 3), round(y, 3)
        known = found.get(place, (0.0, 0.0))
        found[place] = max(wide, known[0]), max(deep, known[1])

    for cut in sitting.cuts:
        below = point_mm(cut.tool) - sitting.lowest(cut)
        if cut.of.hole and below > _OUT_MM:
            for x, y in cut.at:
                under(x, y, cut.tool.diameter_mm + 2 * _BESIDE_MM, below + _BELOW_MM)
    for area, deep, _ in _milled(sitting):
        if (at := _round(area)) is not None:
            under(*at, deep)
    return [
        Relief(float(x), float(y), _whole(wide), _whole(deep))
        for member in members
        for place, (wide, deep) in found.items()
        for x, y in [member.put(np.array(place))]
    ]


def milled_reliefs(
    sitting: Sitting, members: Sequence[Member]
) -> list[tuple[Polygon, float, float]]:
    """Where a cutter that mills inside a part comes out below, and that is no round: the area, how
    deep, and the radius of its corners.
    """
    return [
        (member.put(area), _whole(deep), corner)
        for area, deep, corner in _milled(sitting)
        if _round(area) is None
        for member in members
    ]


def _milled(sitting: Sitting) -> Iterator[tuple[Polygon, float, float]]:
    for cut, guide in zip(sitting.cuts, sitting.guides, strict=True):
        below = -sitting.lowest(cut)
        if cut.of.hole or not (cut.of.inside and cut.of.through) or below <= _OUT_MM:
            continue
        radius = cut.tool.diameter_mm / 2 + _BESIDE_MM
        area = shapely.union_all(shapely.get_parts(cut_path(cut, guide).axis))
        for part in shapely.get_parts(area.buffer(radius, quad_segs=16)):
            yield Polygon(part.exterior), below + _BELOW_MM, radius


def _round(area: Polygon) -> tuple[float, float, float] | None:
    """Its middle and how wide it is; nothing for what is no round."""
    middle = area.centroid
    far = shapely.hausdorff_distance(middle, area.exterior)
    if math.pi * far**2 - area.area > _NOT_ROUND * area.area:
        return None
    return middle.x, middle.y, 2 * far


def _whole(value: float) -> float:
    return math.ceil(value / _STEP_MM - 1e-6) * _STEP_MM
