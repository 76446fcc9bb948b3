"""Regions as edges, for what is asked of them many thousand times: is a point inside, how far out
does a ray leave.
"""

from __future__ import annotations

import numba
import numpy as np
import shapely
from numpy.typing import NDArray

from wedgecraft.core.layout.nofit import Area

Array = NDArray[np.float64]


def edges_of(area: Area) -> Array:
    """All edges of a region, holes included: rows of x1, y1, x2, y2."""
    rings = [
        ring
        for piece in getattr(area, "geoms", [area])
        if not piece.is_empty
        for ring in (piece.exterior, *piece.interiors)
    ]
    if not rings:
        return np.zeros((0, 4))
    return np.concatenate(
        [np.hstack([points[:-1], points[1:]]) for points in map(shapely.get_coordinates, rings)]
    )


@numba.njit(cache=True)
def count_inside(edges: Array, points: Array, shifts: Array) -> NDArray[np.int64]:
    """For every shift of the points: how many of them lie inside, by crossings."""
    found = np.zeros(len(shifts), dtype=np.int64)
    for shift in range(len(shifts)):
        for point in range(len(points)):
            x, y = points[point, 0] + shifts[shift, 0], points[point, 1] + shifts[shift, 1]
            inside = False
            for edge in range(len(edges)):
                y1, y2 = edges[edge, 1], edges[edge, 3]
                if (y1 > y) != (y2 > y) and x < edges[edge, 0] + (y - y1) * (
                    edges[edge, 2] - edges[edge, 0]
                ) / (y2 - y1):
                    inside = not inside
            if inside:
                found[shift] += 1
    return found


@numba.njit(cache=True)
def far_up(edges: Array, columns: Array) -> float:
    """The highest point of the region over any of these x, 0 where there is none above the axis."""
    far = 0.0
    for column in range(len(columns)):
        x = columns[column]
        for edge in range(len(edges)):
            x1, x2 = edges[edge, 0], edges[edge, 2]
            if (x1 <= x <= x2) or (x2 <= x <= x1):
                if x1 == x2:
                    y = max(edges[edge, 1], edges[edge, 3])
                else:
                    y = edges[edge, 1] + (x - x1) * (edges[edge, 3] - edges[edge, 1]) / (x2 - x1)
                far = max(far, y)
    return far


@numba.njit(cache=True)
def slant_heights(edges: Array, columns: Array, shifts: Array, rows: int) -> Array:
    """For every shift from row to row: the least pitch of rows that each shift further, looking so
    many rows up.
    """
    pitch = columns[1] - columns[0]
    highest = 0.0
    for edge in range(len(edges)):
        highest = max(highest, edges[edge, 1], edges[edge, 3])
    found = np.zeros(len(shifts))
    for index in range(len(shifts)):
        for row in range(1, rows):
            if highest / row <= found[index]:  # no row from here on asks for more
                break
            found[index] = max(
                found[index], far_up(edges, (row * shifts[index]) % pitch + columns) / row
            )
    return found
