"""Where drills come out below a part: what it stands on is relieved there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from wedgecraft.core.cutting.reach import point_mm
from wedgecraft.core.station.member import Member
from wedgecraft.core.workpiece.sitting import Sitting

#: A relief is so much wider than the drill on each side, and so much deeper than it comes; house
#: usage, from memory.
_BESIDE_MM, _BELOW_MM = 1.0, 1.0
#: Depths and widths are whole steps of this, mm.
_STEP_MM = 0.5
_OUT_MM = 1e-3


class Relief(NamedTuple):
    """A round pocket in what the station stands on, in the station's frame."""

    x: float
    y: float
    diameter_mm: float
    depth_mm: float


def reliefs(sitting: Sitting, members: Sequence[Member]) -> list[Relief]:
    """One for each place where holes come out below, as wide and deep as the largest needs."""
    found: dict[tuple[float, float], tuple[float, float]] = {}
    for cut in sitting.cuts:
        below = point_mm(cut.tool) - sitting.lowest(cut)
        if not cut.of.hole or below <= _OUT_MM:
            continue
        wide, deep = cut.tool.diameter_mm + 2 * _BESIDE_MM, below + _BELOW_MM
        for x, y in cut.at:
            place = round(x, 3), round(y, 3)
            known = found.get(place, (0.0, 0.0))
            found[place] = max(wide, known[0]), max(deep, known[1])
    return [
        Relief(float(x), float(y), _whole(wide), _whole(deep))
        for member in members
        for place, (wide, deep) in found.items()
        for x, y in [member.put(np.array(place))]
    ]


def _whole(value: float) -> float:
    return math.ceil(value / _STEP_MM - 1e-6) * _STEP_MM
