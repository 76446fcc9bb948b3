"""A round in an upright V: where it touches, and what its diameter does to where its middle
stands.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.ground.errors import OutOfRange

#: An outline whose points all lie this near to one circle is a round.
_ROUND_MM = 0.05
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
    x0, y0, x1, y1 = outline.bounds
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    radii = np.linalg.norm(ring - middle, axis=1)
    if len(ring) < 12 or np.ptp(radii) > _ROUND_MM:
        return None
    return (float(middle[0]), float(middle[1])), float(radii.max())


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
