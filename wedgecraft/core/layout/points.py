"""Points under boxes: where stations keep boxes apart, no two boxes cover the same point, and none
covers less than so many of them.

Points on a grid all count one (a dual feasible function in the sense of Fekete and Schepers, "A
general framework for bounds for higher-dimensional orthogonal packing problems", 2004). Where
boxes are few the points lie at sums of whole boxes from each edge, and a linear programme finds
what each should count: the dual of choosing positions where no point is covered twice.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.optimize import linprog
from scipy.sparse import csr_matrix
from shapely.geometry import box

from wedgecraft.core.layout.nofit import TOUCH_MM, Area, minkowski, moved, triangles
from wedgecraft.core.layout.search import Array

_MOST_ROOM_CORNERS = 300
_MOST_ON_A_GRID = 40_000
_MOST_WEIGHED = 700
#: Weights gain less than this on points that count alike.
_NEAR = 1.3
_SLACK = 1e-6
#: Boxes lose a hair so that touching layouts are surely disjoint; the face gains the same hair.
_HAIR = 4 * TOUCH_MM
Size = tuple[float, float]
#: Of points in order, the first and the one after the last under a box, while its near edge is
#: between these two, mm.
Run = tuple[float, float, int, int]


@dataclass(frozen=True)
class Room:
    """Where the middles of boxes may be, mm; and in convex pieces, of rooms with very many corners
    a little more.
    """

    area: Area

    @cached_property
    def pieces(self) -> list[Array]:
        simple = shapely.simplify(self.area.buffer(0.05, join_style="mitre"), 0.05)
        if shapely.count_coordinates(simple) > _MOST_ROOM_CORNERS or not simple.covers(self.area):
            simple = self.area.envelope
        return triangles(simple)


def fewest(rooms: Sequence[Room], boxes: Sequence[Size], best: int, weighed: bool = False) -> int:
    """No more boxes than this stand with their middles each in its room; ``best`` if that is known
    and not more. ``weighed``: also by points that do not count the same, which takes longer.
    """
    if not weighed:
        return min(best, _on_a_grid(rooms, boxes, best))
    far = math.ceil(_NEAR * best)
    found = _on_a_grid(rooms, boxes, far)
    return _weighed([room.area for room in rooms], boxes, min(found, best)) if found < far else best


def apart_by(regions: Sequence[tuple[int, Area]], wide: float, deep: float) -> list[Size]:
    """For several widths, the deepest box that two stations keep apart by whatever their turns;
    ``regions``: the turn of one against the other, and where its middle may not be.
    """
    found: list[Size] = []
    for share in (1.0, 0.95, 0.9, 0.85, 0.8, 0.75, 0.7, 0.6, 0.5):
        width, low, high = share * wide, 0.0, deep
        if not _apart(regions, width, deep):
            for _ in range(7):
                middle = (low + high) / 2
                low, high = (middle, high) if _apart(regions, width, middle) else (low, middle)
        else:
            low = deep
        if low > 0.2 * deep and (not found or low > found[-1][1] * 1.001):
            found.append((width, low))
    return found


def _apart(regions: Sequence[tuple[int, Area]], wide: float, deep: float) -> bool:
    for turn, region in regions:
        width, depth = ((wide + deep) / 2,) * 2 if turn % 180 else (wide, deep)
        if not region.covers(box(-width, -depth, width, depth)):
            return False
    return True


def _swept(room: Room, w: float, d: float) -> Area:
    """What boxes with their middle in a room can cover."""
    half = np.array([[-w, -d], [w, -d], [w, d], [-w, d]]) / 2
    return minkowski(room.pieces, [half])


def _on_a_grid(rooms: Sequence[Room], boxes: Sequence[Size], best: int) -> int:
    cover: Area = shapely.union_all(
        [_swept(room, w, d) for room, (w, d) in zip(rooms, boxes, strict=True)]
    )
    left, low, right, high = cover.bounds
    edges = {edge for size in boxes for edge in size}
    steps = sorted({(edge - _HAIR) / k for edge in edges for k in range(1, 7)})
    shapely.prepare(cover)
    plain = abs(cover.area - (right - left) * (high - low)) < 1e-9 * cover.area
    for step_x, step_y in product(steps, steps):
        least = min(
            math.floor((w - _HAIR) / step_x + 1e-12) * math.floor((d - _HAIR) / step_y + 1e-12)
            for w, d in boxes
        )
        if least < 1:
            continue
        columns, rows = (
            math.floor((right - left) / step_x + 1e-12),
            math.floor((high - low) / step_y + 1e-12),
        )
        if plain and columns * rows // least >= best:
            continue
        # Boxes and face are taken half open: the first point lies one step in, so floor(length /
        # step) lie in a length.
        points = columns * rows
        if not plain and points <= _MOST_ON_A_GRID:
            # what is farther from the rim than a cell is across has its point
            inner = cover.area - cover.length * math.hypot(step_x, step_y)
            if inner / (step_x * step_y) >= least * (best + 1):
                continue
            xs = left + step_x * (np.arange(columns) + 1)
            ys = low + step_y * (np.arange(rows) + 1)
            xx, yy = np.meshgrid(xs, ys)
            points = int(shapely.intersects_xy(cover, xx.ravel(), yy.ravel()).sum())
        best = min(best, points // least)
    return best


def _weighed(rooms: Sequence[Area], boxes: Sequence[Size], best: int) -> int:
    """As ``fewest``, by the weights that make the bound least; ``best`` where points are many."""
    sizes = np.array(boxes)
    low, high = (
        np.array([room.bounds[side : side + 2] for room in rooms]) - sizes / 2 for side in (0, 2)
    )
    xs, ys = (
        _sums(
            float(low[:, axis].min()) - 2 * _HAIR,
            float((high + sizes)[:, axis].max()) + 2 * _HAIR,
            sorted(set((sizes[:, axis] - 2 * _HAIR).tolist())),
        )
        for axis in (0, 1)
    )
    if not 0 < len(xs) * len(ys) <= _MOST_WEIGHED:
        return best
    by_size: dict[Size, list[Area]] = {}
    for room, (w, d) in zip(rooms, boxes, strict=True):
        by_size.setdefault((w - _HAIR, d - _HAIR), []).append(
            moved(room, (-w / 2, -d / 2)).buffer(2 * _HAIR, join_style="mitre")
        )
    corners = {size: shapely.union_all(of) for size, of in by_size.items()}
    seen: set[tuple[int, int, int, int]] = set()
    for (w, d), room in corners.items():
        left, low, right, high = room.bounds
        across, up = _runs(xs, w, left, right), _runs(ys, d, low, high)
        pairs = list(product(across, up))
        near = shapely.box(*np.array([(x[0], y[0], x[1], y[1]) for x, y in pairs]).T)
        shapely.prepare(room)
        seen |= {
            (x[2], x[3], y[2], y[3])
            for (x, y), stands in zip(pairs, shapely.intersects(room, near), strict=True)
            if stands
        }
    return min(best, _least_weight(_within_others(np.array(sorted(seen))), len(xs), len(ys), best))


def _sums(low: float, high: float, lengths: Sequence[float]) -> Array:
    """Where whole boxes end, one after the other, from either edge."""
    sums = {0.0}
    for length in lengths:
        most = int((high - low) / length)
        sums = {
            round(one + k * length, 6)
            for one in sums
            for k in range(most + 1)
            if one + k * length <= high - low
        }
        if len(sums) > _MOST_WEIGHED:
            return np.zeros(0)
    ends = np.unique([at for one in sums if one > 0 for at in (low + one, high - one)])
    return ends[np.diff(ends, prepend=-np.inf) > _HAIR]


def _runs(points: Array, length: float, low: float, high: float) -> list[Run]:
    """All that a length, half open, can have under it while its near edge goes from low to high."""
    turns = np.unique(np.concatenate([points, points - length]))
    turns = np.concatenate([[low], turns[(turns > low) & (turns < high)], [high]])
    middles = (turns[:-1] + turns[1:]) / 2
    first, after = np.searchsorted(points, middles), np.searchsorted(points, middles + length)
    return [
        (float(a), float(b), int(i), int(j))
        for a, b, i, j in zip(turns[:-1], turns[1:], first, after, strict=True)
    ]


def _within_others(windows: NDArray[np.int64]) -> NDArray[np.int64]:
    """Without those that have another of them inside: what the smaller covers the larger does."""
    first_x, after_x, first_y, after_y = windows.T
    keep = [
        ((first_x >= a) & (after_x <= b) & (first_y >= c) & (after_y <= d)).sum() == 1
        for a, b, c, d in windows
    ]
    return windows[np.array(keep)]


def _least_weight(windows: NDArray[np.int64], columns: int, rows: int, best: int) -> int:
    """Points weighed so that every window has one or more and all together least. Whatever the
    solver gives is scaled by the lightest window: the bound does not hang on its precision.
    """
    under = [
        (np.arange(a, b)[:, None] * rows + np.arange(c, d)[None, :]).ravel()
        for a, b, c, d in windows
    ]
    if not all(len(points) for points in under):
        return best
    matrix = csr_matrix(
        (np.ones(sum(map(len, under))), np.concatenate(under), np.cumsum([0, *map(len, under)])),
        shape=(len(under), columns * rows),
    )
    solved = linprog(
        np.ones(columns * rows), A_ub=-matrix, b_ub=-np.ones(len(under)), bounds=(0, 1)
    )
    if solved.x is None:
        return best
    weights = np.maximum(solved.x, 0)
    lightest = float((matrix @ weights).min())
    return math.floor(float(weights.sum()) / lightest + _SLACK) if lightest > 0 else best
