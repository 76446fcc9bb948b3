"""What a cycle takes beside its cuts, where no program says it: rapids between stations."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from wedgecraft.core.program.motion import Pace, ramp_seconds

#: Over the work and down again at every station, mm each way; from memory.
_UP_AND_DOWN_MM = 40.0


def rapid_seconds(
    faces: Sequence[Sequence[tuple[float, float]]], visits: Sequence[int], pace: Pace
) -> float:
    """``faces``: where stations stand on each; ``visits``: how often a tool goes to every one of
    that face. Along rows, there and back; up and down at each.

    >>> pace = Pace(60_000.0, 1e9)  # 1 m/s, at once
    >>> round(rapid_seconds([[(0, 0), (100, 0)]], [1], pace), 3)
    0.26
    """
    total = 0.0
    for places, times in zip(faces, visits, strict=True):
        rows: dict[int, list[tuple[float, float]]] = {}
        for x, y in places:
            rows.setdefault(round(y / 20), []).append((x, y))
        way: list[tuple[float, float]] = []
        for k, row in enumerate(rows[at] for at in sorted(rows)):
            way += sorted(row, reverse=k % 2 == 1)
        speed = pace.rapid_mm_min / 60
        across = sum(
            ramp_seconds(max(abs(bx - ax), abs(by - ay)), speed, pace)
            for (ax, ay), (bx, by) in pairwise(way)
        )
        lifts = 2 * len(places) * ramp_seconds(_UP_AND_DOWN_MM, speed, pace)
        total += times * (across + lifts)
    return total if math.isfinite(total) else 0.0
