"""In which order tools and stations run: the fewest tool changes, then the least travel.

Several ops each with their own order of tools: the order for all of them with the fewest changes is
the shortest common supersequence of theirs. Exact, by A* over how far each op is (Hart, Nilsson and
Raphael, 1968): a tool that is in the spindle goes on in every op that waits for it.
"""

from __future__ import annotations

import heapq
from collections import Counter
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: Up to so many places the shortest way round is found for certain.
EXACT = 9


@lru_cache(maxsize=64)
def fewest_changes(orders: tuple[tuple[int, ...], ...]) -> tuple[int, ...]:
    """The shortest sequence of tools in which every op finds its own in its order; of several the
    one whose tools come first in the ops.

    >>> fewest_changes(((1, 2, 3), (2, 1, 3)))
    (1, 2, 1, 3)
    """
    single = tuple(_merged(order) for order in orders)
    start = (0,) * len(single)
    counts = [[Counter(order[at:]) for at in range(len(order) + 1)] for order in single]

    def least(at: tuple[int, ...]) -> int:
        """Each tool at least as often as the op that still wants it most often."""
        need: Counter[int] = Counter()
        for op, place in zip(counts, at, strict=True):
            need |= op[place]
        return need.total()

    heap: list[tuple[int, int, tuple[int, ...], tuple[int, ...]]] = [(least(start), 0, (), start)]
    seen: dict[tuple[int, ...], int] = {start: 0}
    while heap:
        _, taken, done, at = heapq.heappop(heap)
        if all(place == len(order) for place, order in zip(at, single, strict=True)):
            return done
        if seen.get(at, taken) < taken:
            continue
        waiting = [o[p] for p, o in zip(at, single, strict=True) if p < len(o)]
        for tool in dict.fromkeys(waiting):
            then = tuple(p + (p < len(o) and o[p] == tool) for p, o in zip(at, single, strict=True))
            if seen.get(then, taken + 2) > taken + 1:
                seen[then] = taken + 1
                heapq.heappush(heap, (taken + 1 + least(then), taken + 1, (*done, tool), then))
    return ()


def _merged(order: Sequence[int]) -> tuple[int, ...]:
    """Without the same tool twice on end."""
    return tuple(b for a, b in pairwise([None, *order]) if a != b and b is not None)


def changes_by_station(orders: Sequence[Sequence[int]], stations: Sequence[int]) -> int:
    """Tool changes where every station is finished before the next; ``stations``: which op is at
    each.
    """
    tools = [tool for op in stations for tool in orders[op]]
    return len(_merged(tools))


def least_travel(places: Array, start: Array | None = None) -> list[int]:
    """The order in which places (n, 2) are visited on the shortest way that ends anywhere, from
    ``start`` or from any of them. Exact for few; for many the best of rows and columns there and
    back, made shorter by turning stretches round.
    """
    count = len(places)
    if count < 2:
        return list(range(count))
    apart = np.linalg.norm(places[:, None] - places[None], axis=2)
    first = np.zeros(count) if start is None else np.linalg.norm(places - start, axis=1)
    return _exact(apart, first) if count <= EXACT else _shortened(places, apart, first)


def travel_mm(places: Array, order: Sequence[int], start: Array | None = None) -> float:
    """How far it is from place to place, in this order."""
    way = places[list(order)]
    begun = 0.0 if start is None or not len(way) else float(np.linalg.norm(way[0] - start))
    return begun + float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum())


def _exact(apart: Array, first: Array) -> list[int]:
    """Dynamic programming over sets of places (Held and Karp, 1962)."""
    count = len(first)
    best: dict[tuple[int, int], tuple[float, int]] = {
        (1 << k, k): (float(first[k]), -1) for k in range(count)
    }
    for sets in range(1, 1 << count):
        for last in range(count):
            if (sets, last) not in best:
                continue
            cost = best[sets, last][0]
            for k in range(count):
                if sets >> k & 1:
                    continue
                key, then = (sets | 1 << k, k), cost + float(apart[last, k])
                if key not in best or then < best[key][0] - 1e-9:
                    best[key] = then, last
    whole = (1 << count) - 1
    last = min(range(count), key=lambda k: (round(best[whole, k][0], 9), k))
    order, sets = [], whole
    while last >= 0:
        order.append(last)
        sets, last = sets & ~(1 << last), best[sets, last][1]
    return order[::-1]


def _shortened(places: Array, apart: Array, first: Array) -> list[int]:
    starts = [_there_and_back(places, axis) for axis in (0, 1)]
    starts += [order[::-1] for order in starts]
    return min((_two_opt(order, apart, first) for order in starts), key=lambda it: it[0])[1]


def _there_and_back(places: Array, axis: int) -> list[int]:
    """Row after row, every other one backwards."""
    rows: dict[float, list[int]] = {}
    for k in np.argsort(places[:, axis], kind="stable").tolist():
        rows.setdefault(round(float(places[k, axis]), 1), []).append(k)
    order: list[int] = []
    for number, row in enumerate(rows.values()):
        along = sorted(row, key=lambda k: float(places[k, 1 - axis]))
        order += along[::-1] if number % 2 else along
    return order


def _two_opt(order: list[int], apart: Array, first: Array) -> tuple[float, list[int]]:
    """Stretches turned round while that is shorter (Croes, 1958)."""
    count = len(order)
    better = True
    while better:
        better = False
        for i in range(count - 1):
            for j in range(i + 1, count):
                a, b = order[i], order[j]
                before = first[a] if i == 0 else apart[order[i - 1], a]
                then = first[b] if i == 0 else apart[order[i - 1], b]
                if j + 1 < count:
                    before, then = before + apart[b, order[j + 1]], then + apart[a, order[j + 1]]
                if then < before - 1e-9:
                    order[i : j + 1] = order[i : j + 1][::-1]
                    better = True
    whole = float(first[order[0]]) + float(sum(apart[a, b] for a, b in pairwise(order)))
    return whole, order
