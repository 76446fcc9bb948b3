"""Where an outline touches the planes of its bounding box."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Polygon

EPSILON_MM = 1e-6
Interval = tuple[float, float]


def touch(outline: Polygon, side: Literal["left", "front", "right"]) -> list[Interval]:
    """Where along its length the outline touches the plane at that side of its bounding box; points
    are intervals of no length.

    A chord that stands for an arc is the point that the arc touches at.
    """
    ring = shapely.get_coordinates(outline.exterior)
    axis, value = {"left": (0, 0.0), "front": (1, 0.0), "right": (0, outline.bounds[2])}[side]
    on_plane = np.abs(ring[:, axis] - value) < EPSILON_MM
    found = [(float(point[1 - axis]),) * 2 for point in ring[on_plane]]
    starts = np.flatnonzero(on_plane[:-1] & on_plane[1:])
    for start in starts.tolist():
        low, high = sorted((float(ring[start, 1 - axis]), float(ring[start + 1, 1 - axis])))
        if len(starts) == 1 and _of_an_arc(ring[:-1], start):
            return [((low + high) / 2,) * 2]
        found.append((low, high))
    merged: list[Interval] = []
    for low, high in sorted(found):
        if merged and low <= merged[-1][1] + EPSILON_MM:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    return merged


#: No chord of an arc, as drawings are read, lies farther from it; and how much its turns at both
#: ends may differ.
_CHORD_MM, _UNEVEN = 0.011, 0.3


def _of_an_arc(ring: np.ndarray, start: int) -> bool:
    """Whether an edge of a closed ring stands for part of an arc: it turns by the same small angle
    at both ends.
    """
    count = len(ring)
    before, here, after = (
        ring[(start + k + 1) % count] - ring[(start + k) % count] for k in (-1, 0, 1)
    )
    turns = [
        math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b))
        for a, b in ((before, here), (here, after))
    ]
    mean = abs(sum(turns)) / 2
    if mean <= 1e-6 or abs(turns[0] - turns[1]) > 2 * _UNEVEN * mean:
        return False
    return float(np.hypot(*here)) * math.tan(min(mean, 1.5) / 2) / 4 <= _CHORD_MM
