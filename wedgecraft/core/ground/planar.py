"""Rings and quarter turns in the plane."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from wedgecraft.core.ground.documents import Rings

Array = NDArray[np.float64]
QUARTERS = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}


def turned(points: Array, turn: int) -> Array:
    """Quarter turns about the origin, exactly."""
    cosine, sine = QUARTERS[turn % 360]
    return np.stack(
        [
            cosine * points[..., 0] - sine * points[..., 1],
            sine * points[..., 0] + cosine * points[..., 1],
        ],
        axis=-1,
    )


def ring_of(polygon: Polygon) -> list[tuple[float, float]]:
    """Exterior, the last point not repeated."""
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(polygon.exterior)[:-1]]


def rings_of(polygon: Polygon) -> Rings:
    """Exterior, then holes."""
    return [
        [(float(x), float(y)) for x, y in ring.coords[:-1]]
        for ring in (polygon.exterior, *polygon.interiors)
    ]


def spread_out(hull: Array, most: int = 12) -> list[int]:
    """Indices of at most ``most`` hull points: the farthest in evenly spread directions."""
    angles = 2 * math.pi * np.arange(most) / most + math.pi / most
    directions = np.stack([np.cos(angles), np.sin(angles)])
    return sorted(set(np.argmax(hull @ directions, axis=0).tolist()))
