"""Boxes in blocks: a rectangle is cut in two, or into five round a pinwheel, and each block
likewise; bottom-up over all lengths that boxes can fill, compiled.

Source: Morabito and Morales, "A simple and effective recursive procedure for the manufacturer's
pallet loading problem", Journal of the Operational Research Society 49 (1998); Scheithauer and
Terno, "The G4-heuristic for the pallet loading problem", same journal 47 (1996). Where part of the
rectangle is closed, blocks are told apart by where they lie, and those that nothing closes come
from the first table. Sizes are whole numbers of a unit; positions come out in it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

_Ints = NDArray[np.int64]
_Table = NDArray[np.int32]
_Cuts = NDArray[np.int16]
#: Lower left corner of a box, and which of the sizes it is.
Placed = tuple[int, int, int]
#: Left, low, right, high.
Closed = tuple[int, int, int, int]

#: Cuts weighed at most, about a second's worth.
_WORK = 200_000_000
_MOST_PLACES = 36


@dataclass(frozen=True)
class Size:
    """A box: so wide, so deep, for so many stations."""

    width: int
    depth: int
    holds: int = 1


def packed(
    width: int,
    depth: int,
    sizes: Sequence[Size],
    known: int = 0,
    closed: Sequence[Sequence[Closed]] = (),
) -> list[Placed]:
    """The most stations found in blocks of these boxes; with ``known``, whatever cannot hold more
    than that is left out. ``closed``: for each size, where its lower left corner may not lie
    (edges may).

    >>> len(packed(40, 25, [Size(7, 3), Size(3, 7)]))
    47
    """
    # Round what is closed blocks are small, and mostly cut in two.
    table = _Blocks(width, depth, sizes, known, _WORK // 4 if any(closed) else _WORK)
    if not any(closed):
        return table.boxes(width, depth)
    return _Places(width, depth, sizes, closed, table).boxes()


def most(width: int, depth: int, sizes: Sequence[Size]) -> int:
    """How many stations blocks cut in two hold: at once."""
    return int(_Blocks(width, depth, sizes, 0, 0).counts[-1, -1])


def ready() -> None:
    """Have the tables compiled before someone waits for them."""
    packed(9, 7, [Size(3, 2), Size(2, 3)], closed=[[(2, 2, 4, 4)], []])


class _Blocks:
    """The table of rectangles, for every pair of lengths that boxes can fill."""

    def __init__(
        self, width: int, depth: int, sizes: Sequence[Size], known: int, work: int = _WORK
    ) -> None:
        self._wide, self._deep, self._holds = (
            np.array([getattr(size, name) for size in sizes], dtype=np.int64)
            for name in ("width", "depth", "holds")
        )
        self.x = _sums(width, self._wide)
        self.y = _sums(depth, self._deep)
        self._across, self._up = _left_over(self.x), _left_over(self.y)
        area = float((self._wide * self._deep / self._holds).min())
        args = self.x, self.y, self._across, self._up, self._wide, self._deep, self._holds
        none = np.zeros((len(self.x), len(self.y)), dtype=np.bool_)
        counts, cuts = _filled(*args, area, none)
        if not work or not len(self.x) > 1 or not len(self.y) > 1:
            self.counts, self._cuts = counts, cuts
            return
        known = max(known, int(counts[-1, -1]))
        # More than known wastes no more than this, in all blocks together.
        spare = float(self.x[-1] * self.y[-1]) - (known + 1) * area
        self.counts, self._cuts = _filled(*args, area, self._worth(counts, area, spare, work))

    def _worth(self, counts: _Table, area: float, spare: float, work: int) -> NDArray[np.bool_]:
        """Rectangles that are cut in five: those that two cuts may not have filled as full as they
        go and a fuller packing could hold, the small ones first for as long as the work lasts.
        """
        size = self.x[:, None] * self.y[None, :].astype(float)
        most = np.floor(size / area + 1e-9)
        open_ = (counts < most) & (size - most * area <= spare + 1e-6)
        cost = _pinwheels(self.x)[:, None] * _pinwheels(self.y)[None, :].astype(float)
        order = np.argsort(np.where(open_, cost, np.inf), axis=None, kind="stable")
        spent = np.cumsum(cost.ravel()[order])
        chosen = np.zeros(cost.size, dtype=np.bool_)
        chosen[order[spent <= work]] = True
        result: NDArray[np.bool_] = chosen.reshape(cost.shape) & open_
        if work and cost[-1, -1] <= _WORK:
            result[-1, -1] = open_[-1, -1]
        return result

    def at(self, width: int, depth: int) -> tuple[int, int]:
        """Where a rectangle stands in the table."""
        return (
            int(np.searchsorted(self.x, width, side="right")) - 1,
            int(np.searchsorted(self.y, depth, side="right")) - 1,
        )

    def boxes(self, width: int, depth: int) -> list[Placed]:
        """The packing behind the count of a rectangle."""
        return self._of(*self.at(width, depth))

    def _of(self, i: int, j: int) -> list[Placed]:
        kind, first, second, low, high = self._cuts[i, j].tolist()
        x, y, across, up = self.x, self.y, self._across, self._up
        if kind == _GRID:
            return _grid(
                0, 0, int(x[i]), int(y[j]), int(self._wide[first]), int(self._deep[first]), first
            )
        if kind == _BESIDE:
            parts = [(0, 0, first, j), (x[first], 0, across[i, first], j)]
        elif kind == _ABOVE:
            parts = [(0, 0, i, low), (0, y[low], i, up[j, low])]
        else:
            parts = [
                (0, y[low], first, up[j, low]),
                (x[first], y[high], across[i, first], up[j, high]),
                (x[first], y[low], across[second, first], up[high, low]),
                (0, 0, second, low),
                (x[second], 0, across[i, second], high),
            ]
        return [
            (int(left) + bx, int(bottom) + by, size)
            for left, bottom, wide, deep in parts
            for bx, by, size in self._of(int(wide), int(deep))
        ]


class _Places:
    """The table of blocks by where they lie; those that nothing closes are those of ``free``."""

    def __init__(
        self,
        width: int,
        depth: int,
        sizes: Sequence[Size],
        closed: Sequence[Sequence[Closed]],
        free: _Blocks,
    ) -> None:
        self._free, self._sizes = free, sizes
        wide, deep = ([getattr(size, name) for size in sizes] for name in ("width", "depth"))
        self._x = _places(
            width, free.x, [(c[0], c[2], w) for w, of in zip(wide, closed, strict=True) for c in of]
        )
        self._y = _places(
            depth, free.y, [(c[1], c[3], d) for d, of in zip(deep, closed, strict=True) for c in of]
        )
        flat = [(number, *c) for number, of in enumerate(closed) for c in of]
        self._closed = np.array(sorted(flat), dtype=np.int64)
        self._ends = np.searchsorted(self._closed[:, 0], np.arange(len(sizes) + 1))
        fits_x, fits_y = (
            np.maximum(np.searchsorted(sums, at[None, :] - at[:, None], side="right") - 1, 0)
            for sums, at in ((free.x, self._x), (free.y, self._y))
        )
        self._counts, self._cuts = _placed(
            self._x,
            self._y,
            fits_x,
            fits_y,
            free.counts,
            *(np.array(side, dtype=np.int64) for side in (wide, deep, [s.holds for s in sizes])),
            self._closed,
            self._ends,
        )

    def boxes(self) -> list[Placed]:
        return self._of(0, len(self._x) - 1, 0, len(self._y) - 1)

    def _of(self, a: int, b: int, c: int, e: int) -> list[Placed]:
        if a >= b or c >= e or not self._counts[a, b, c, e]:
            return []
        kind, first, second, low, high = self._cuts[a, b, c, e].tolist()
        left, bottom = int(self._x[a]), int(self._y[c])
        width, depth = int(self._x[b]) - left, int(self._y[e]) - bottom
        if kind == _FREE:
            return [(left + x, bottom + y, size) for x, y, size in self._free.boxes(width, depth)]
        if kind == _GRID:
            size = self._sizes[first]
            return [
                spot
                for spot in _grid(left, bottom, width, depth, size.width, size.depth, first)
                if _clear(self._closed, self._ends, first, spot[0], spot[1])
            ]
        if kind == _BESIDE:
            parts = [(a, first, c, e), (first, b, c, e)]
        elif kind == _ABOVE:
            parts = [(a, b, c, low), (a, b, low, e)]
        else:
            parts = [
                (a, first, low, e),
                (first, b, high, e),
                (first, second, low, high),
                (a, second, c, low),
                (second, b, c, high),
            ]
        return [spot for part in parts for spot in self._of(*part)]


def _places(length: int, sums: _Ints, closed: Sequence[tuple[int, int, int]]) -> _Ints:
    """Where cuts are tried: at the edges of what is closed, and at lengths that boxes can fill from
    either end; spread evenly where they are too many.
    """
    ends = np.array([0, length], dtype=np.int64)
    edges = np.array(
        [at for low, high, side in closed for at in (low + side, high) if 0 < at < length],
        dtype=np.int64,
    )
    kept = np.union1d(ends, _spread(np.setdiff1d(edges, ends), 2 * _MOST_PLACES // 3))
    others = np.setdiff1d(np.concatenate([sums, length - sums]), kept)
    return np.union1d(kept, _spread(others, _MOST_PLACES - len(kept)))


def _spread(places: _Ints, most: int) -> _Ints:
    if len(places) <= most:
        return places
    return places[np.unique(np.linspace(0, len(places) - 1, max(0, most)).round().astype(int))]


def _grid(left: int, low: int, width: int, depth: int, w: int, d: int, size: int) -> list[Placed]:
    return [(left + i * w, low + j * d, size) for j in range(depth // d) for i in range(width // w)]


def _sums(length: int, sides: _Ints, most: int = 1 << 30) -> _Ints:
    """All sums of sides up to a length, and none; no further once there are more than ``most``."""
    found = np.zeros(1, dtype=np.int64)
    for side in np.unique(sides).tolist():
        times = np.arange(length // side + 1, dtype=np.int64) * side
        found = np.unique((found[:, None] + times[None, :]).ravel())
        found = found[found <= length]
        if len(found) > most:
            break
    return found


def fine(length: int, sides: Sequence[int], most: int) -> bool:
    """Can whole boxes fill no more different lengths than that, up to this one?"""
    return len(_sums(length, np.array(sides, dtype=np.int64), most)) <= most


def _left_over(sums: _Ints) -> _Ints:
    """Of the first less the second, the place of the longest that boxes can fill, shape (n, n)."""
    found: _Ints = np.searchsorted(sums, sums[:, None] - sums[None, :], side="right") - 1
    return np.maximum(found, 0)


def _pinwheels(sums: _Ints) -> _Ints:
    """How many pairs of cuts across each length there are, of two that are half turns of one
    another one.
    """
    return np.array(
        [
            sum(
                max(0, int(np.searchsorted(sums, length - first, side="right")) - 1 - k)
                for k, first in enumerate(sums[1 : n + 1].tolist(), start=1)
            )
            for n, length in enumerate(sums.tolist())
        ],
        dtype=np.int64,
    )


_GRID, _BESIDE, _ABOVE, _PINWHEEL, _FREE = 0, 1, 2, 3, 4


@numba.njit(cache=True)
def _filled(
    xs: _Ints,
    ys: _Ints,
    across: _Ints,
    up: _Ints,
    wide: _Ints,
    deep: _Ints,
    holds: _Ints,
    area: float,
    in_five: NDArray[np.bool_],
) -> tuple[_Table, _Cuts]:
    """The most stations in each rectangle, shape (x, y), and the cut behind it: its kind, then
    places of its lines.
    """
    counts = np.zeros((len(xs), len(ys)), dtype=np.int32)
    cuts = np.zeros((len(xs), len(ys), 5), dtype=np.int16)
    between = up.T.copy()
    for i in range(len(xs)):
        for j in range(len(ys)):
            top = int(xs[i] * ys[j] / area + 1e-9)
            best = 0
            for t in range(len(wide)):
                found = holds[t] * (xs[i] // wide[t]) * (ys[j] // deep[t])
                if found > best:
                    best = found
                    cuts[i, j, 1] = t
            for k in range(1, i):
                if best == top or xs[k] > xs[i] - xs[k]:
                    break
                found = counts[k, j] + counts[across[i, k], j]
                if found > best:
                    best = found
                    cuts[i, j, 0], cuts[i, j, 1] = _BESIDE, k
            for k in range(1, j):
                if best == top or ys[k] > ys[j] - ys[k]:
                    break
                found = counts[i, k] + counts[i, up[j, k]]
                if found > best:
                    best = found
                    cuts[i, j, 0], cuts[i, j, 3] = _ABOVE, k
            if in_five[i, j] and best < top:
                best = _in_five(counts, xs, ys, across, up, between, i, j, best, top, cuts)
            counts[i, j] = best
    return counts, cuts


@numba.njit(cache=True)
def _in_five(
    counts: _Table,
    xs: _Ints,
    ys: _Ints,
    across: _Ints,
    up: _Ints,
    between: _Ints,
    i: int,
    j: int,
    best: int,
    top: int,
    cuts: _Cuts,
) -> int:
    for first in range(1, i):
        right = across[i, first]
        for second in range(first + 1, i):
            if xs[first] + xs[second] > xs[i]:
                break
            inner, last = across[second, first], across[i, second]
            for low in range(1, j):
                two = counts[first, up[j, low]] + counts[second, low]
                for high in range(low + 1, j):
                    found = (
                        two
                        + counts[right, up[j, high]]
                        + counts[inner, between[low, high]]
                        + counts[last, high]
                    )
                    if found > best:
                        best = found
                        cuts[i, j, 0] = _PINWHEEL
                        cuts[i, j, 1], cuts[i, j, 2] = first, second
                        cuts[i, j, 3], cuts[i, j, 4] = low, high
                        if best == top:
                            return best
    return best


@numba.njit(cache=True)
def _clear(closed: _Ints, ends: _Ints, size: int, x: int, y: int) -> bool:
    """May a box of this size have its corner there?"""
    for row in range(ends[size], ends[size + 1]):
        if closed[row, 1] < x < closed[row, 3] and closed[row, 2] < y < closed[row, 4]:
            return False
    return True


@numba.njit(cache=True)
def _open(
    closed: _Ints, ends: _Ints, wide: _Ints, deep: _Ints, x0: int, x1: int, y0: int, y1: int
) -> bool:
    """Is nothing closed to any box in this rectangle?"""
    for size in range(len(wide)):
        right, top = x1 - wide[size], y1 - deep[size]
        if right < x0 or top < y0:
            continue
        for row in range(ends[size], ends[size + 1]):
            if (
                closed[row, 1] < right
                and x0 < closed[row, 3]
                and closed[row, 2] < top
                and y0 < closed[row, 4]
            ) or (closed[row, 1] < x0 < closed[row, 3] and closed[row, 2] < y0 < closed[row, 4]):
                return False
    return True


@numba.njit(cache=True)
def _placed(
    xs: _Ints,
    ys: _Ints,
    fits_x: _Ints,
    fits_y: _Ints,
    free: _Table,
    wide: _Ints,
    deep: _Ints,
    holds: _Ints,
    closed: _Ints,
    ends: _Ints,
) -> tuple[Any, Any]:
    """The most stations in each block (a to b along x, c to e along y), small ones first; no more
    than where nothing were closed.
    """
    n, m = len(xs), len(ys)
    counts = np.zeros((n, n, m, m), dtype=np.int16)
    cuts = np.zeros((n, n, m, m, 5), dtype=np.int8)
    for span in range(1, n):
        for a in range(n - span):
            b = a + span
            for rise in range(1, m):
                for c in range(m - rise):
                    e = c + rise
                    top = free[fits_x[a, b], fits_y[c, e]]
                    if top == 0:
                        continue
                    cut = cuts[a, b, c, e]
                    if _open(closed, ends, wide, deep, xs[a], xs[b], ys[c], ys[e]):
                        counts[a, b, c, e], cut[0] = top, _FREE
                        continue
                    best = 0
                    for k in range(a + 1, b):
                        found = counts[a, k, c, e] + counts[k, b, c, e]
                        if found > best:
                            best, cut[0], cut[1] = found, _BESIDE, k
                    for k in range(c + 1, e):
                        found = counts[a, b, c, k] + counts[a, b, k, e]
                        if found > best:
                            best, cut[0], cut[3] = found, _ABOVE, k
                    for t in range(len(wide)):
                        across, up = (xs[b] - xs[a]) // wide[t], (ys[e] - ys[c]) // deep[t]
                        if holds[t] * across * up <= best:
                            continue
                        found = 0
                        for i in range(across):
                            for j in range(up):
                                if _clear(
                                    closed, ends, t, xs[a] + i * wide[t], ys[c] + j * deep[t]
                                ):
                                    found += holds[t]
                        if found > best:
                            best, cut[0], cut[1] = found, _GRID, t
                    if best < top and 10 * span >= 9 * n and 10 * rise >= 9 * m:
                        for first in range(a + 1, b):
                            for second in range(first + 1, b):
                                for low in range(c + 1, e):
                                    two = counts[a, first, low, e] + counts[a, second, c, low]
                                    for high in range(low + 1, e):
                                        found = (
                                            two
                                            + counts[first, b, high, e]
                                            + counts[first, second, low, high]
                                            + counts[second, b, c, high]
                                        )
                                        if found > best:
                                            best, cut[0] = found, _PINWHEEL
                                            cut[1], cut[2] = first, second
                                            cut[3], cut[4] = low, high
                    counts[a, b, c, e] = best
    return counts, cuts
