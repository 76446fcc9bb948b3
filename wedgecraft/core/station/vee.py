"""A round in an upright V: where it touches, and what its diameter does to where its middle
stands.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.workpiece.holes import round_hole

#: An outline of fewer corners is no round: a V would touch its corners.
_LEAST_POINTS = 12
Pair = tuple[float, float]


@dataclass(frozen=True)
class Vee:
    """The block in plan, the round's middle and radius, where it touches each flank and the flanks'
    normals into it.
    """

    block: Polygon
    middle: Pair
    radius_mm: float
    touches: tuple[Pair, Pair]
    normals: tuple[Pair, Pair]


def round_outline(outline: Polygon) -> tuple[Pair, float] | None:
    """Middle and radius of an outline that is a circle; nothing for any other."""
    ring = shapely.get_coordinates(outline.exterior)[:-1]
    found = round_hole(ring) if len(ring) >= _LEAST_POINTS else None
    return None if found is None else ((found.x_mm, found.y_mm), found.diameter_mm / 2)


def in_vee(outline: Polygon, angle_deg: float, length_mm: float, behind_mm: float) -> Vee:
    """A V open towards X+ round the left of a round; ``length_mm`` from tip to tip, ``behind_mm``
    of block behind its bottom.

    Raises OutOfRange for a part that is not round, and a V too short to reach where the round
    touches.
    """
    found = round_outline(outline)
    if found is None:
        raise OutOfRange(
            "station.locating.kind",
            "V",
            "stops, pins or a nest: only a round part finds its middle in a V",
        )
    (x, y), radius = found
    half = math.radians(angle_deg / 2)
    up = radius * math.cos(half)
    if length_mm < 2 * up + 2:
        raise OutOfRange(
            "station.stops.length_mm",
            length_mm,
            f"at least {2 * up + 2:.1f} mm from tip to tip, so that the round touches both flanks",
        )
    apex = x - radius / math.sin(half)
    tip, reach = apex + length_mm / 2 / math.tan(half), length_mm / 2
    ring = [
        (apex - behind_mm, y - reach),
        (tip, y - reach),
        (apex, y),
        (tip, y + reach),
        (apex - behind_mm, y + reach),
    ]
    touches = (x - radius * math.sin(half), y - up), (x - radius * math.sin(half), y + up)
    normals = (math.sin(half), math.cos(half)), (math.sin(half), -math.cos(half))
    return Vee(Polygon(ring), (x, y), radius, touches, normals)


def middle_shift_mm(diameter_change_mm: float, angle_deg: float) -> float:
    """How far the middle of a round moves out of a V: ``change / (2 sin(angle / 2))``. Source: any
    text on fixtures.
    """
    return diameter_change_mm / (2 * math.sin(math.radians(angle_deg / 2)))
