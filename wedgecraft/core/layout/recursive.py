"""Identical boxes with quarter turns, in blocks: the face is cut into up to five blocks round a
pinwheel, each solved likewise.

Source: Morabito and Morales, "A simple and effective recursive procedure for the manufacturer's
pallet loading problem", Journal of the Operational Research Society 49 (1998). Sizes are whole
numbers of a unit; positions come out in that unit.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

import numpy as np

#: (x, y, turned) of a box's lower left corner.
Box = tuple[int, int, bool]


class BlockSearch:
    """Packs boxes ``long`` x ``short`` (whole numbers) into rectangles. ``most_cuts`` limits the
    cuts weighed.
    """

    def __init__(self, long: int, short: int, most_cuts: int = 10000) -> None:
        self.long, self.short = long, short
        self.left = most_cuts
        self._area = long * short
        self._sums = lru_cache(maxsize=None)(self._all_sums)
        self._known: dict[tuple[int, int], tuple[int, tuple[int, int, int, int] | None]] = {}

    def _all_sums(self, length: int) -> tuple[int, ...]:
        """All whole sums of the two sides up to a length."""
        return tuple(
            sorted(
                {
                    i * self.long + j * self.short
                    for i in range(length // self.long + 1)
                    for j in range((length - i * self.long) // self.short + 1)
                }
            )
        )

    def _shrunk(self, length: int) -> int:
        """The part of a length that boxes can fill exactly."""
        return self._sums(length)[-1] if length >= 0 else 0

    def count(self, width: int, depth: int) -> int:
        """Most boxes found for a rectangle."""
        sides = self._shrunk(width), self._shrunk(depth)
        return self._solve(max(sides), min(sides))[0]

    def _solve(self, width: int, depth: int) -> tuple[int, tuple[int, int, int, int] | None]:
        key = (width, depth)
        if key in self._known:
            return self._known[key]
        bound = width * depth // self._area
        best = max(
            (width // a) * (depth // b)
            for a, b in ((self.long, self.short), (self.short, self.long))
        )
        found: tuple[int, tuple[int, int, int, int] | None] = (best, None)
        self._known[key] = found
        if best == bound or bound == 0 or self.left <= 0:
            return found
        for cut in self._cuts(width, depth):
            self.left -= 1
            if self.left <= 0:
                return self._known[key]
            total = sum(self.count(w, d) for _, _, w, d in _blocks(width, depth, *cut))
            if total > found[0]:
                found = (total, cut)
                self._known[key] = found
                if total == bound:
                    return found
        return found

    def _cuts(self, width: int, depth: int) -> Iterator[tuple[int, int, int, int]]:
        """Cuts that could hold more than what is known, by the areas of their blocks; of two that
        are half turns of one another, one.
        """
        columns, rows = np.array(self._sums(width)), np.array(self._sums(depth))
        low, high = (grid.ravel() for grid in np.meshgrid(rows, rows, indexing="ij"))
        low, high = low[low <= high], high[low <= high]
        shrunk = np.array([self._shrunk(length) for length in range(max(width, depth) + 1)])
        for x1 in columns.tolist():
            for x2 in columns[(columns >= x1) & (columns <= width - x1)].tolist():
                blocks = (
                    (x1, depth - low),
                    (width - x1, depth - high),
                    (x2 - x1, high - low),
                    (x2, low),
                    (width - x2, high),
                )
                most = sum(shrunk[w] * shrunk[d] // self._area for w, d in blocks)
                better = most > self._known[width, depth][0]
                for y1, y2, promised in zip(
                    low[better].tolist(), high[better].tolist(), most[better].tolist(), strict=True
                ):
                    if promised > self._known[width, depth][0] and not any(
                        (w, d) == (width, depth)
                        for _, _, w, d in _blocks(width, depth, x1, x2, y1, y2)
                    ):
                        yield x1, x2, y1, y2

    def boxes(self, width: int, depth: int) -> list[Box]:
        """The packing behind ``count``."""
        if self._shrunk(width) < self._shrunk(depth):
            # Only lying rectangles are solved; a pinwheel mirrored on the diagonal turns the other
            # way, so boxes are mirrored, not cuts.
            return [(y, x, not turned) for x, y, turned in self.boxes(depth, width)]
        inner_width, inner_depth = self._shrunk(width), self._shrunk(depth)
        _, cut = self._solve(inner_width, inner_depth)
        if cut is None:
            across = (inner_width // self.long) * (inner_depth // self.short)
            upright = (inner_width // self.short) * (inner_depth // self.long)
            w, d, turned = (
                (self.long, self.short, False)
                if across >= upright
                else (self.short, self.long, True)
            )
            return [
                (i * w, j * d, turned)
                for j in range(inner_depth // d)
                for i in range(inner_width // w)
            ]
        placed = []
        for x, y, w, d in _blocks(inner_width, inner_depth, *cut):
            placed += [(x + bx, y + by, turned) for bx, by, turned in self.boxes(w, d)]
        return placed


def _blocks(
    width: int, depth: int, x1: int, x2: int, y1: int, y2: int
) -> list[tuple[int, int, int, int]]:
    """The five blocks of a pinwheel: (x, y, width, depth)."""
    return [
        (0, y1, x1, depth - y1),
        (x1, y2, width - x1, depth - y2),
        (x1, y1, x2 - x1, y2 - y1),
        (0, 0, x2, y1),
        (x2, 0, width - x2, y2),
    ]
