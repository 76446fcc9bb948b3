"""Identical boxes with quarter turns, nearly without waste: a depth-first search that fills the
lowest valley of a skyline.

Blocks cannot make every pattern; where the bound leaves only a little waste, the waste itself
steers. Three rules leave a branch: a row between walls, or a column up to the edge, that whole
boxes cannot fill loses what is over; and cells coloured by (x + k y) mod p, where p is a side of
the box and k has no factor in common with it, are covered by every box evenly, so uneven colours
must be evened out by waste (Barnes, "Packing the maximum number of m x n tiles in a large p x q
rectangle", 1979, has k = 1). What it finds is checked against published optima (Scheithauer and
Terno, "The G4-heuristic for the pallet loading problem", 1996; Lins, Lins and Morabito, "An
L-approach for packing (l, w)-rectangles into rectangular and L-shaped pieces", 2003).
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

#: (x, y, turned) of a box's lower left corner; not turned: its long side along x.
Box = tuple[int, int, bool]
MOST_SIDE = 255
_SEEN_BITS = 20
_Ints = NDArray[np.int64]


class SkylineSearch:
    """Looks for ``target`` boxes ``long`` x ``short`` in ``width`` x ``depth``, all whole numbers
    of one unit, up to 255.

    ``exhausted`` after a search without success: no packing of so many exists (states are told
    apart by 64-bit keys).
    """

    def __init__(self, width: int, depth: int, long: int, short: int) -> None:
        if not (0 < short <= long and 0 < width <= MOST_SIDE and 0 < depth <= MOST_SIDE):
            raise ValueError(
                f"boxes {long} x {short} in {width} x {depth}: sides from 1 to {MOST_SIDE}, the"
                " long one first"
            )
        self.exhausted = False
        self._swapped = width > depth
        # The skyline runs along the shorter side: fewer columns, and fewer ways to begin.
        self._width, self._depth = min(width, depth), max(width, depth)
        self._long, self._short = long, short

    def most(self) -> int:
        """No packing holds more: the area, less the waste that some colouring asks for."""
        area, box = self._width * self._depth, self._long * self._short
        wasted = _uneven(
            _coloured(self._width, self._depth, self._long, self._short),
            _sides(self._long, self._short),
        )
        return (area - int(wasted)) // box

    def boxes(self, target: int, most_steps: int = 60_000) -> list[Box] | None:
        """A packing of so many; nothing when there is none, or none was found in so many steps. The
        same every time.
        """
        spare = self._width * self._depth - target * self._long * self._short
        self.exhausted = target > self.most()
        if self.exhausted:
            return None
        colours, sides = (
            _coloured(self._width, self._depth, self._long, self._short),
            _sides(self._long, self._short),
        )
        losses = _losses(max(self._width, self._depth), self._long, self._short)
        placed = np.zeros((self._width * self._depth, 3), dtype=np.int64)
        found = _search(
            self._width,
            self._depth,
            self._long,
            self._short,
            spare,
            most_steps,
            losses,
            sides,
            colours,
            _keys(self._width),
            placed,
        )
        self.exhausted = found == -1
        if found < 0:
            return None
        boxes = [(int(x), int(y), bool(turned)) for x, y, turned in placed[:found]]
        # Turned on the diagonal, a box that lay along x stands.
        return [(y, x, not turned) for x, y, turned in boxes] if self._swapped else boxes


def _losses(length: int, long: int, short: int) -> _Ints:
    """What whole boxes leave of every length up to this one."""
    found = [0]
    for size in range(1, length + 1):
        fits = any(size >= side and found[size - side] == 0 for side in (long, short))
        found.append(0 if fits else found[-1] + 1)
    return np.array(found, dtype=np.int64)


def _sides(long: int, short: int) -> _Ints:
    """Colourings that every box covers evenly: (p, k) each."""
    return np.array(
        [
            (p, k)
            for p in dict.fromkeys((long, short))
            for k in range(1, max(p, 2))
            if math.gcd(k, p) == 1
        ],
        dtype=np.int64,
    )


def _coloured(width: int, depth: int, long: int, short: int) -> _Ints:
    """Cells of each colour, a row for each colouring."""
    sides = _sides(long, short)
    x, y = np.meshgrid(np.arange(width), np.arange(depth))
    return np.array(
        [np.bincount(((x + k * y) % p).ravel(), minlength=long) for p, k in sides], dtype=np.int64
    )


def _uneven(colours: _Ints, sides: _Ints) -> int:
    """Cells that must stay empty for the rest to be even, in the worst colouring."""
    return max(
        int(row[:p].sum() - p * row[:p].min()) for row, (p, _) in zip(colours, sides, strict=True)
    )


@lru_cache(maxsize=32)
def _keys(width: int) -> NDArray[np.uint64]:
    """A random number for every height in every column, the same every time."""
    return np.random.default_rng(7).integers(1, 2**64 - 1, (width, MOST_SIDE + 1), dtype=np.uint64)


def ready() -> None:
    """Have the search compiled before someone waits for it."""
    SkylineSearch(5, 5, 3, 2).boxes(4)


@numba.njit(cache=True)
def _colour(colours: Any, sides: Any, x: int, low: int, high: int, sign: int) -> None:
    for row in range(len(sides)):
        p, k = sides[row, 0], sides[row, 1]
        for y in range(low, high):
            colours[row, (x + k * y) % p] += sign


@numba.njit(cache=True)
def _to_even(colours: Any, sides: Any) -> int:
    most = 0
    for row in range(len(sides)):
        p = sides[row, 0]
        total, least = 0, colours[row, 0]
        for colour in range(p):
            total += colours[row, colour]
            least = min(least, colours[row, colour])
        most = max(most, total - p * least)
    return most


@numba.njit(cache=True)
def _search(
    width: int,
    depth: int,
    long: int,
    short: int,
    spare: int,
    most_steps: int,
    losses: Any,
    sides: Any,
    colours: Any,
    keys: Any,
    placed: Any,
) -> int:
    """Number of boxes placed; -1 when every way was tried, -2 when the steps ran out.

    A step takes the lowest valley, the leftmost of several, and tries in turn: a box along it, a
    box across it, its left column left empty to some height; or, where no box fits in, all of it
    left empty.
    """
    size = width * depth + 2
    sky = np.zeros(width + 1, dtype=np.int64)
    sky[width] = depth
    seen_key = np.zeros(1 << _SEEN_BITS, dtype=np.uint64)
    seen_waste = np.zeros(1 << _SEEN_BITS, dtype=np.int64)
    option, start, end, floor = np.zeros((4, size), dtype=np.int64)
    wall, left, wasted, tried = np.zeros((4, size), dtype=np.int64)
    stack_from, stack_height = (
        np.zeros(width + 2, dtype=np.int64),
        np.zeros(width + 2, dtype=np.int64),
    )
    level, steps, enter = 0, 0, True
    while True:
        if enter:
            enter = False
            waste, promising, done = wasted[level], True, True
            columns, key, mirrored = waste, np.uint64(0), np.uint64(0)
            lowest = depth
            for x in range(width):
                height = sky[x]
                columns += losses[depth - height]
                key ^= keys[x, height]
                mirrored ^= keys[width - 1 - x, height]
                if height < lowest:
                    lowest = height
                if height != depth:
                    done = False
            if done:
                count = 0
                for step in range(level):
                    if tried[step] < 2:
                        placed[count, 0], placed[count, 1] = start[step], floor[step]
                        placed[count, 2] = 1 if tried[step] == 1 and long != short else 0
                        count += 1
                return count
            # A skyline and its mirror image are filled alike.
            key = min(key, mirrored)
            slot = key >> np.uint64(64 - _SEEN_BITS)
            if columns > spare or (seen_key[slot] == key and seen_waste[slot] <= waste):
                promising = False
            else:
                seen_key[slot], seen_waste[slot] = key, waste
                # Rows between walls, from the lowest up, by a stack of rising heights.
                rows, top, first = waste, 1, -1
                stack_from[0], stack_height[0] = 0, depth
                for x in range(width + 1):
                    height, begin = sky[x], x
                    while top > 1 and stack_height[top - 1] < height:
                        low, begin = stack_height[top - 1], stack_from[top - 1]
                        top -= 1
                        up = min(stack_height[top - 1], height)
                        rows += losses[x - begin] * (up - low)
                        if low == lowest and first < 0:
                            first = begin
                            start[level], end[level], floor[level], wall[level] = begin, x, low, up
                            left[level] = sky[begin - 1] if begin > 0 else depth
                    if x < width and not (top > 1 and stack_height[top - 1] == height):
                        stack_from[top], stack_height[top] = begin, height
                        top += 1
                if rows > spare:
                    promising = False
            steps += 1
            if promising and steps > most_steps:
                return -2
            option[level] = 0 if promising else 1 << 40
        else:
            # Back from what was tried last: undo it.
            if tried[level] == 0 or tried[level] == 1:
                across, up = (long, short) if tried[level] == 0 else (short, long)
                for x in range(start[level], start[level] + across):
                    sky[x] -= up
            elif tried[level] == 2:
                for x in range(start[level], end[level]):
                    _colour(colours, sides, x, floor[level], wall[level], 1)
                    sky[x] = floor[level]
            elif tried[level] > 2:
                sky[start[level]] = floor[level]
        # The next thing to try here.
        advanced = False
        low, room = floor[level], end[level] - start[level]
        narrow = room < short
        while option[level] < 1 << 40:
            choice = option[level]
            option[level] += 1
            if choice < 2:
                across, up = (long, short) if choice == 0 else (short, long)
                if (choice == 1 and long == short) or across > room or low + up > depth:
                    continue
                for x in range(start[level], start[level] + across):
                    sky[x] += up
                tried[level], wasted[level + 1], advanced = choice, wasted[level], True
                break
            if narrow:
                option[level] = 1 << 40
                lost = room * (wall[level] - low)
                if wasted[level] + lost > spare:
                    break
                for x in range(start[level], end[level]):
                    _colour(colours, sides, x, low, wall[level], -1)
                if wasted[level] + lost + _to_even(colours, sides) > spare:
                    for x in range(start[level], end[level]):
                        _colour(colours, sides, x, low, wall[level], 1)
                    break
                for x in range(start[level], end[level]):
                    sky[x] = wall[level]
                tried[level], wasted[level + 1], advanced = 2, wasted[level] + lost, True
                break
            height = choice - 1
            if height > min(spare - wasted[level], left[level] - low):
                for y in range(low, low + height - 1):
                    _colour(colours, sides, start[level], y, y + 1, 1)
                option[level] = 1 << 40
                break
            _colour(colours, sides, start[level], low + height - 1, low + height, -1)
            if wasted[level] + height + _to_even(colours, sides) > spare:
                continue
            sky[start[level]] = low + height
            tried[level], wasted[level + 1], advanced = 2 + height, wasted[level] + height, True
            break
        if advanced:
            level += 1
            enter = True
        else:
            level -= 1
            if level < 0:
                return -1
