"""Outlines as the layout works on them: few corners, on a stated side of the true one, and convex
pieces that cover them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numba
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

Array = NDArray[np.float64]
Whole = NDArray[np.int64]

#: Nowhere does a simplified outline stand farther from the true one than this.
OUTLINE_MM = 0.02
_FEW_CORNERS = 72


def is_curved(corners: Sequence[tuple[float, float]]) -> bool:
    """Whether an outline is simplified: it has many corners, which stand for arcs."""
    return len(corners) > _FEW_CORNERS


def outside(polygon: Polygon) -> Polygon:
    """An outline with few corners that contains the polygon, nowhere more than ``OUTLINE_MM``
    beyond it and never beyond its box.

    Holes are filled; what has few corners stays as it is.
    """
    true = Polygon(polygon.exterior)
    if not is_curved(true.exterior.coords[1:]):
        return true
    loop = shapely.get_coordinates(shapely.orient_polygons(true).exterior)[:-1]
    first = _sharpest(loop)
    corners = _around(np.concatenate([loop[first:], loop[: first + 1]]), _FULL * OUTLINE_MM)
    around = Polygon(corners)
    # By so much more that rounding leaves nothing of the true outline out.
    grown = around.buffer(_ROUNDING_MM, join_style="mitre") if around.is_valid else around
    for found in (
        grown,
        *(Polygon(parts[0].exterior) for parts in _simplified(true, OUTLINE_MM / 2)),
    ):
        if not found.is_valid:
            continue
        boxed = shapely.intersection(found, true.envelope)
        if (
            boxed.geom_type == "Polygon"
            and boxed.covers(true)
            and len(boxed.exterior.coords) < len(loop)
        ):
            return boxed
    return true


#: Of the tolerance, what is used; the rest is for rounding.
_FULL = 0.98
_MOST_TURN = 1.2
_ROUNDING_MM = 1e-7


def _sharpest(loop: Array) -> int:
    step = np.roll(loop, -1, axis=0) - loop
    before = np.roll(step, 1, axis=0)
    return int(
        np.argmax(
            np.abs(
                np.arctan2(
                    before[:, 0] * step[:, 1] - before[:, 1] * step[:, 0],
                    (before * step).sum(axis=1),
                )
            )
        )
    )


@numba.njit(cache=True)
def _around(ring: Array, tolerance: float) -> Array:
    """Fewer corners round a closed counter-clockwise ring (n + 1, 2), never inside it, nowhere
    farther from it than the tolerance.

    Where it bulges, sides are left out and their neighbours prolonged until they meet; where it is
    hollow, corners are left out.
    """
    n = len(ring) - 1
    out = np.empty((2 * n + 2, 2))
    out[0] = ring[0]
    count, side = 1, 0
    while side < n - 1:
        d = ring[side + 1] - ring[side]
        last, x, y = side, 0.0, 0.0
        turned = 0.0
        for other in range(side + 1, n):
            before, here = ring[other] - ring[other - 1], ring[other + 1] - ring[other]
            turn = math.atan2(
                before[0] * here[1] - before[1] * here[0], before[0] * here[0] + before[1] * here[1]
            )
            turned += turn
            if turn < 0 or turned > _MOST_TURN:
                break
            across = d[0] * here[1] - d[1] * here[0]
            if other == side + 1 or across < 1e-12:
                tip_x, tip_y = ring[other, 0], ring[other, 1]
            else:
                along = (
                    (ring[other, 0] - ring[side, 0]) * here[1]
                    - (ring[other, 1] - ring[side, 1]) * here[0]
                ) / across
                tip_x, tip_y = ring[side, 0] + along * d[0], ring[side, 1] + along * d[1]
            if other > side + 1 and _away(ring, side + 1, other, tip_x, tip_y) > tolerance:
                break
            last, x, y = other, tip_x, tip_y
        if last > side:
            out[count] = (x, y)
            count, side = count + 1, last
            continue
        corner = side + 1  # hollow
        out[count] = ring[corner]
        count += 1
        last = corner
        for other in range(corner + 2, n + 1):
            before, here = ring[other - 1] - ring[other - 2], ring[other] - ring[other - 1]
            if before[0] * here[1] - before[1] * here[0] >= 0:
                break
            chord = ring[other] - ring[corner]
            size = math.hypot(chord[0], chord[1])
            far = 0.0
            for k in range(corner + 1, other):
                off = ring[k] - ring[corner]
                far = max(far, abs(chord[0] * off[1] - chord[1] * off[0]) / size)
            if far > tolerance:
                break
            last = other
        if last > corner and last < n:
            out[count] = ring[last]
            count += 1
        side = last
    return out[:count]


@numba.njit(cache=True)
def _away(ring: Array, first: int, last: int, x: float, y: float) -> float:
    """Of a point from the sides between two corners of a ring."""
    least = math.inf
    for k in range(first, last):
        ax, ay = ring[k]
        dx, dy = ring[k + 1, 0] - ax, ring[k + 1, 1] - ay
        share = ((x - ax) * dx + (y - ay) * dy) / max(dx * dx + dy * dy, 1e-30)
        share = min(1.0, max(0.0, share))
        least = min(least, math.hypot(ax + share * dx - x, ay + share * dy - y))
    return least


def inside(polygon: Polygon) -> list[Polygon]:
    """The same from within: what lies in the polygon, nowhere more than ``OUTLINE_MM`` inside it
    but in what is thinner than that.
    """
    true = Polygon(polygon.exterior)
    if not is_curved(true.exterior.coords[1:]):
        return [true]
    for found in _simplified(true, -OUTLINE_MM / 2):
        if found and all(true.covers(part) for part in found):
            return [Polygon(part.exterior) for part in found]
    return [true]


def _simplified(polygon: Polygon, by: float) -> Iterator[list[Polygon]]:
    """Grown by half the tolerance, in chords of no less than nine tenths of it, and simplified by
    less than that, more and more careful.
    """
    grown = polygon.buffer(by, quad_segs=2)
    for share in (0.75, 0.5):
        simple = grown.simplify(share * abs(by))
        parts = [part for part in getattr(simple, "geoms", [simple]) if not part.is_empty]
        if sum(len(part.exterior.coords) for part in parts) < len(polygon.exterior.coords):
            yield parts


def convex_pieces(polygon: Polygon) -> list[Array]:
    """Cover a polygon without holes exactly by convex pieces: triangles, merged across their
    longest common sides while convex.

    Never more than four times the fewest there could be (Hertel and Mehlhorn, "Fast triangulation
    of simple polygons", 1983).
    """
    if shapely.area(polygon.convex_hull) - polygon.area < 1e-9 * polygon.area:
        return [ring(polygon.convex_hull)]
    triangles = [
        shapely.get_coordinates(shapely.orient_polygons(t).exterior)[:-1]
        for t in _triangles(polygon)
    ]
    points, numbers = np.unique(np.concatenate(triangles), axis=0, return_inverse=True)
    loops = [row.tolist() for row in numbers.reshape(-1, 3)]
    owner = {(loop[k - 1], loop[k]): index for index, loop in enumerate(loops) for k in range(3)}
    sides = [(a, b) for a, b in owner if a < b and (b, a) in owner]
    sides.sort(key=lambda side: -float(np.hypot(*(points[side[0]] - points[side[1]]))))
    for a, b in sides:
        one, other = owner[a, b], owner[b, a]
        first, second = _from(loops[one], b), _from(loops[other], a)  # b … a, and a … b
        if _left(points, first[-2], a, second[1]) and _left(points, second[-2], b, first[1]):
            loops[one], loops[other] = first + second[1:-1], []
            for k, corner in enumerate(loops[one]):
                owner[loops[one][k - 1], corner] = one
    return [points[loop] for loop in loops if loop]


def _triangles(polygon: Polygon) -> list[Polygon]:
    return list(shapely.constrained_delaunay_triangles(polygon).geoms)


def _from(loop: list[int], corner: int) -> list[int]:
    at = loop.index(corner)
    return loop[at:] + loop[:at]


def _left(points: Array, before: int, corner: int, after: int) -> bool:
    """Whether the way turns left there, or goes straight on."""
    (ax, ay), (bx, by), (cx, cy) = points[before], points[corner], points[after]
    return bool((bx - ax) * (cy - by) - (by - ay) * (cx - bx) >= 0)


def convex_sums(first: Sequence[Array], second: Sequence[Array]) -> NDArray[np.object_]:
    """The Minkowski sum of every pair of convex polygons, by running round both at once."""
    if not len(first) or not len(second):
        return np.array([], dtype=object)
    ends = [np.cumsum([0, *(len(piece) for piece in pieces)]) for pieces in (first, second)]
    corners, rings = _sums(np.concatenate(first), ends[0], np.concatenate(second), ends[1])
    sums: NDArray[np.object_] = shapely.polygons(shapely.linearrings(corners, indices=rings))
    return sums


@numba.njit(cache=True)
def _sums(
    first: Array, first_ends: Whole, second: Array, second_ends: Whole
) -> tuple[Array, Whole]:
    """Corners of all sums one after another, and which sum each belongs to; loops may run either
    way round.
    """
    first, second = _lowest_first(first, first_ends), _lowest_first(second, second_ends)
    many, others = len(first_ends) - 1, len(second_ends) - 1
    total = len(first) * others + len(second) * many
    corners, rings = np.empty((total, 2)), np.empty(total, dtype=np.int64)
    at = 0
    for a in range(many):
        for b in range(others):
            one, other = (
                first[first_ends[a] : first_ends[a + 1]],
                second[second_ends[b] : second_ends[b + 1]],
            )
            i, j = 0, 0
            while i < len(one) or j < len(other):
                here, there = one[i % len(one)], other[j % len(other)]
                corners[at] = here + there
                rings[at] = a * others + b
                at += 1
                along, beside = one[(i + 1) % len(one)] - here, other[(j + 1) % len(other)] - there
                turn = along[0] * beside[1] - along[1] * beside[0]
                ahead = i < len(one) and (j == len(other) or turn >= 0)
                aside = j < len(other) and (i == len(one) or turn <= 0)
                i, j = i + ahead, j + aside
    return corners[:at], rings[:at]


@numba.njit(cache=True)
def _lowest_first(loops: Array, ends: Whole) -> Array:
    """Each loop counter-clockwise from its lowest corner, of several the leftmost."""
    found = np.empty_like(loops)
    for p in range(len(ends) - 1):
        loop = loops[ends[p] : ends[p + 1]]
        n = len(loop)
        area, low = 0.0, 0
        for k in range(n):
            after = loop[(k + 1) % n]
            area += (loop[k, 0] - loop[0, 0]) * (after[1] - loop[0, 1]) - (
                loop[k, 1] - loop[0, 1]
            ) * (after[0] - loop[0, 0])
            if loop[k, 1] < loop[low, 1] or (
                loop[k, 1] == loop[low, 1] and loop[k, 0] < loop[low, 0]
            ):
                low = k
        step = 1 if area >= 0 else -1
        for k in range(n):
            found[ends[p] + k] = loop[(low + step * k) % n]
    return found


def ring(polygon: Polygon) -> Array:
    """Corners of the outline, the first not repeated, shape (n, 2)."""
    corners: Array = shapely.get_coordinates(polygon.exterior)[:-1]
    return corners
