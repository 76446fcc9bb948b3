"""Corner by corner: put the next station where it lies lowest in a given direction, for several directions and choices of turn."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from wedgecraft.core.layout.nofit import moved
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot

#: Which way "down" is, then which way "left": rows from each edge, columns from each edge, and a slant.
DIRECTIONS: tuple[tuple[tuple[float, float], tuple[float, float]], ...] = (
    ((0, 1), (1, 0)),
    ((1, 0), (0, 1)),
    ((0, -1), (1, 0)),
    ((-1, 0), (0, 1)),
    ((1, 1), (1, -1)),
)


def fills(problem: FaceProblem) -> list[Layout]:
    """Greedy layouts over directions and groups of turns."""
    everything = tuple(range(len(problem.variants)))
    groups = [everything] + [(index,) for index in everything]
    for first, variant in enumerate(problem.variants):
        for second, other in enumerate(problem.variants):
            if first < second and variant.kind == other.kind and (other.turn - variant.turn) % 360 == 180:
                groups.append((first, second))
    return [
        Layout("corner by corner", tuple(fill(problem, group, *direction)))
        for group in dict.fromkeys(groups)
        for direction in DIRECTIONS
    ]


def fill(
    problem: FaceProblem, group: Sequence[int], down: tuple[float, float], left: tuple[float, float], start: Sequence[Spot] = ()
) -> list[Spot]:
    """Fill what ``start`` leaves free."""
    free: dict[int, shapely.Geometry] = {variant: problem.rooms[variant] for variant in group}
    # Judged by how far the whole station reaches, so that turns compare fairly.
    reach = {}
    for variant in group:
        body: Array = shapely.get_coordinates(problem.geometry.body(problem.variants[variant]))
        reach[variant] = (float((body @ np.array(down, dtype=float)).max()), float((body @ np.array(left, dtype=float)).max()))
    spots: list[Spot] = []
    for spot in start:
        _take(problem, free, spot)
    while True:
        choices = []
        for variant, room in free.items():
            if room.is_empty:
                continue
            points: Array = shapely.get_coordinates(room)
            first = np.round(points @ np.array(down, dtype=float), 3)
            second = np.round(points @ np.array(left, dtype=float), 3)
            index = int(np.lexsort((second, first))[0])
            ahead, aside = reach[variant]
            choices.append((round(float(first[index]) + ahead, 3), round(float(second[index]) + aside, 3), variant, points[index]))
        if not choices:
            return spots
        _, _, variant, point = min(choices, key=lambda choice: choice[:3])
        spot = (variant, float(point[0]), float(point[1]))
        spots.append(spot)
        _take(problem, free, spot)


def _take(problem: FaceProblem, free: dict[int, shapely.Geometry], spot: Spot) -> None:
    placed, x, y = spot
    for variant, room in free.items():
        if not room.is_empty:
            free[variant] = shapely.difference(room, moved(problem.nofit(placed, variant), (x, y)))
