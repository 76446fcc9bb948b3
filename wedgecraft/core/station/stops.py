"""Where a stop stands along a side."""

from __future__ import annotations

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.station.touch import Interval


def stop_middle(touch: list[Interval], length: float, side: float) -> float:
    """Centre of a stop: amid all it can touch, or on the longest stretch when the stop would fall
    into a gap; within the side.
    """
    if not touch:
        raise OutOfRange(
            "station.stops.length_mm",
            length,
            "a part that lies against its stops: here only an edge of it does; turn it square",
        )
    middle = _within((touch[0][0] + touch[-1][1]) / 2, length, side)
    if any(low <= middle + length / 2 and high >= middle - length / 2 for low, high in touch):
        return middle
    low, high = max(touch, key=lambda interval: (round(interval[1] - interval[0], 6), -interval[0]))
    return _within((low + high) / 2, length, side)


def _within(middle: float, length: float, side: float) -> float:
    return min(max(middle, length / 2), side - length / 2)
