"""Which sides tools must come from, so that all of a part can be cut.

The part is looked at on a grid: what no part of it covers in the direction of a side can be cut
from there. Of all ways to choose sides the fewest win; of those, the ones along which most of its
surface is floor or wall.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray

from wedgecraft.core.records.feature import DIRECTIONS, Direction, opposite
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.pose import turn_of

Array = NDArray[np.float64]
Cells = NDArray[np.bool_]
#: Cells along the part's longest side; a cell is never smaller than this.
_CELLS, _LEAST_MM = 150, 0.2
#: So many cells that hang together are more than the grid's own roughness.
_LEAST_CELLS = 12
#: A surface is floor or wall of a side by these cosines.
_FLOOR, _WALL = 0.9999, 0.02


@dataclass(frozen=True)
class Sides:
    """``first`` and the side across from it, and what must come from elsewhere besides.
    ``out_of_reach_mm3``: what no side of the six gets to.
    """

    first: Direction
    others: tuple[Direction, ...]
    out_of_reach_mm3: float
    straight: float

    @property
    def every(self) -> tuple[Direction, ...]:
        return (self.first, opposite(self.first), *self.others)


def sides_of(body: Body) -> list[Sides]:
    """Every way to begin, the best first."""
    cells, pitch = cells_of(body)
    free = {side: _free(cells, side) for side in DIRECTIONS}
    left = ~cells
    for reached in free.values():
        left &= ~reached
    out_of_reach = float(left.sum()) * pitch**3
    wanted = ~cells & ~left
    found = [
        Sides(first, others, out_of_reach, _straight(body, first))
        for first in DIRECTIONS
        for others in [_others(wanted, free, first)]
        if others is not None
    ]
    return sorted(
        found,
        key=lambda item: (
            len(item.others),
            -round(item.straight, 1),
            _high(body, item.first),
            -_area_facing(body, item.first),
            DIRECTIONS.index(item.first),
        ),
    )


def _others(
    wanted: Cells, free: dict[Direction, Cells], first: Direction
) -> tuple[Direction, ...] | None:
    """The fewest sides beside ``first`` and the one across; nothing for none that do."""
    rest = wanted & ~free[first] & ~free[opposite(first)]
    beside = [side for side in DIRECTIONS if side[1] != first[1]]
    for count in range(len(beside) + 1):
        best: tuple[int, tuple[Direction, ...]] | None = None
        for chosen in combinations(beside, count):
            left = rest.copy()
            for side in chosen:
                left &= ~free[side]
            missed = _lumps(left)
            if missed == 0 and (best is None or missed < best[0]):
                best = (missed, chosen)
        if best is not None:
            return best[1]
    return None


def _lumps(left: Cells) -> int:
    """Cells in lumps that are more than roughness."""
    if not left.any():
        return 0
    from scipy.ndimage import label

    numbered, _ = label(left)
    sizes = np.bincount(numbered.ravel())[1:]
    return int(sizes[sizes >= _LEAST_CELLS].sum())


def _free(cells: Cells, side: Direction) -> Cells:
    """Cells from which nothing of the part lies towards a side."""
    axis = "XYZ".index(side[1])
    towards = np.flip(cells, axis) if side[0] == "+" else cells
    covered = np.logical_or.accumulate(towards, axis=axis)
    return ~(np.flip(covered, axis) if side[0] == "+" else covered)


def cells_of(body: Body) -> tuple[Cells, float]:
    """The part on a grid (x, y, z) over its box, and how wide a cell is."""
    low, high = np.array(body.box[:3]), np.array(body.box[3:])
    pitch = max(float((high - low).max()) / _CELLS, _LEAST_MM)
    shape = np.maximum(1, np.ceil((high - low) / pitch - 1e-9)).astype(int)
    start = (low + high) / 2 - (shape - 1) / 2 * pitch
    cells = np.zeros(tuple(shape), dtype=np.bool_)
    for k in range(shape[2]):
        for polygon in body.slice(float(start[2] + k * pitch)).geoms:
            for ring in (polygon.exterior, *polygon.interiors):
                corners = shapely.get_coordinates(ring)
                _fill(cells[:, :, k], (corners - start[:2]) / pitch)
    return cells, pitch


@njit(cache=True)
def _fill(cells: Cells, ring: Array) -> None:
    """Turn every cell inside a ring over: even-odd, as rings lie in one another."""
    wide, deep = cells.shape
    for i in range(len(ring) - 1):
        x0, y0 = ring[i]
        x1, y1 = ring[i + 1]
        if y0 == y1:
            continue
        low, high = min(y0, y1), max(y0, y1)
        for row in range(max(0, int(np.ceil(low))), min(deep - 1, int(np.floor(high))) + 1):
            if row == high:
                continue
            x = x0 + (row - y0) * (x1 - x0) / (y1 - y0)
            for column in range(max(0, int(np.ceil(x))), wide):
                cells[column, row] = not cells[column, row]


def _straight(body: Body, side: Direction) -> float:
    """Share of the surface that is floor or wall seen from a side."""
    size, along = _facing(body, side)
    level = np.abs(along)
    return float(size[(level > _FLOOR) | (level < _WALL)].sum() / size.sum())


def _high(body: Body, side: Direction) -> float:
    """How high the part stands with a side up, to a millimetre."""
    axis = "XYZ".index(side[1])
    return round(body.box[3 + axis] - body.box[axis])


def _area_facing(body: Body, side: Direction) -> float:
    size, along = _facing(body, side)
    return float(size[along > _FLOOR].sum() / 2)


def _facing(body: Body, side: Direction) -> tuple[Array, Array]:
    """Of each triangle twice its area, and by which cosine it faces a side (n,)."""
    points, triangles = body.mesh
    corners = points[triangles]
    twice = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(twice, axis=1)
    return size, twice @ turn_of(side)[2] / np.maximum(size, 1e-12)
