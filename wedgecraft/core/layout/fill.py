"""Corner by corner: put the next station where it lies lowest in a given direction, for several
directions and choices of turn.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Sequence

import numpy as np
import shapely

from wedgecraft.core.layout.nofit import Area, areas_only, moved
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot

#: How far a station there would reach, down and left; its variant, and where it stands.
_Corner = tuple[float, float, int, float, float]

#: Which way "down" is, then which way "left": rows from each edge, columns from each edge, and a
#: slant.
DIRECTIONS: tuple[tuple[tuple[float, float], tuple[float, float]], ...] = (
    ((0, 1), (1, 0)),
    ((1, 0), (0, 1)),
    ((0, -1), (1, 0)),
    ((-1, 0), (0, 1)),
    ((1, 1), (1, -1)),
)


def groups(problem: FaceProblem) -> list[tuple[int, ...]]:
    """Each turn by itself, and each with its half turn."""
    found: list[tuple[int, ...]] = [(index,) for index in range(len(problem.variants))]
    for first, variant in enumerate(problem.variants):
        for second, other in enumerate(problem.variants):
            if (
                first < second
                and variant.kind == other.kind
                and (other.turn - variant.turn) % 360 == 180
            ):
                found.append((first, second))
    return found


def fills(
    problem: FaceProblem, among: Sequence[tuple[int, ...]], most_runs: int = 1000
) -> list[Layout]:
    """Greedy layouts in every direction, from each of these groups of turns; the first so many of
    them.
    """
    ways = [(group, direction) for group in dict.fromkeys(among) for direction in DIRECTIONS]
    return [
        Layout("corner by corner", tuple(fill(problem, group, *direction)))
        for group, direction in ways[:most_runs]
    ]


def fill(
    problem: FaceProblem,
    group: Sequence[int],
    down: tuple[float, float],
    left: tuple[float, float],
    start: Sequence[Spot] = (),
    wanted: Callable[[Sequence[Spot]], Container[int]] | None = None,
) -> list[Spot]:
    """Fill what ``start`` leaves free; ``wanted`` says of what stands so far which kinds may come
    next.
    """
    free = {variant: _Free(problem, variant, down, left, start) for variant in group}
    own = {variant: problem.variants[variant].kind for variant in group}
    spots: list[Spot] = []
    while True:
        kinds = wanted([*start, *spots]) if wanted else own.values()
        corners = [room.lowest() for variant, room in free.items() if own[variant] in kinds]
        best = min((corner for corner in corners if corner is not None), default=None)
        if best is None:
            for room in free.values():
                room.keep([*start, *spots])
            return spots
        spot = best[2:]
        spots.append(spot)
        for room in free.values():
            room.take(spot)


class _Free:
    """Where a station may still stand, tile by tile, and the corner of each tile that lies lowest:
    a new station changes only those it reaches.
    """

    def __init__(
        self,
        problem: FaceProblem,
        variant: int,
        down: tuple[float, float],
        left: tuple[float, float],
        start: Sequence[Spot],
    ) -> None:
        self._problem, self._variant = problem, variant
        self._ways = np.array([down, left], dtype=float).T
        # Judged by how far the whole station reaches, so that turns compare fairly.
        body = shapely.get_coordinates(problem.geometry.body(problem.variants[variant]))
        self._ahead, self._aside = (float(way) for way in (body @ self._ways).max(axis=0))
        self._tiles, known = problem.left_by(variant, start)
        self._edges = shapely.bounds(problem.tiles(variant)).T
        self._lowest: list[_Corner | None] = [None] * len(self._tiles)
        for spot in start[known:]:
            self.take(spot)
        if known < len(start):
            self.keep(start)

    def keep(self, spots: Sequence[Spot]) -> None:
        self._problem.keep_left(self._variant, spots, self._tiles)

    def take(self, spot: Spot) -> None:
        """Without what this station keeps off."""
        placed, x, y = spot
        region = moved(self._problem.nofit(placed, self._variant), (x, y))
        for tile in self._reached(region):
            room = self._tiles[tile]
            if not room.is_empty:
                # Lines and points that set operations leave are no room: a station there would be
                # placed again and again.
                self._tiles[tile] = areas_only(shapely.difference(room, region))
                self._lowest[tile] = None

    def _reached(self, region: Area) -> Iterable[int]:
        if len(self._tiles) == 1:
            return (0,)
        left, low, right, high = region.bounds
        x0, y0, x1, y1 = self._edges
        return np.flatnonzero((x0 < right) & (x1 > left) & (y0 < high) & (y1 > low)).tolist()

    def lowest(self) -> _Corner | None:
        """How far the station there reaches, down and left; the variant, and where it stands."""
        for tile, known in enumerate(self._lowest):
            if known is None and not self._tiles[tile].is_empty:
                self._lowest[tile] = self._lowest_of(self._tiles[tile])
        return min((known for known in self._lowest if known is not None), default=None)

    def _lowest_of(self, room: Area) -> _Corner:
        points: Array = shapely.get_coordinates(room)
        first, second = np.round(points @ self._ways, 3).T
        index = int(np.lexsort((second, first))[0])
        return (
            round(float(first[index]) + self._ahead, 3),
            round(float(second[index]) + self._aside, 3),
            self._variant,
            float(points[index, 0]),
            float(points[index, 1]),
        )
