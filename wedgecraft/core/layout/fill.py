"""Corner by corner: put the next station where it lies lowest in a given direction, for several
directions and choices of turn.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence

import numpy as np
import shapely

from wedgecraft.core.layout.nofit import areas_only, moved
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot

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
    free: dict[int, shapely.Geometry] = {variant: problem.rooms[variant] for variant in group}
    # Judged by how far the whole station reaches, so that turns compare fairly.
    reach = {}
    for variant in group:
        body: Array = shapely.get_coordinates(problem.geometry.body(problem.variants[variant]))
        reach[variant] = (
            float((body @ np.array(down, dtype=float)).max()),
            float((body @ np.array(left, dtype=float)).max()),
        )
    spots: list[Spot] = []
    for spot in start:
        _take(problem, free, spot)
    while True:
        choices = []
        kinds = wanted([*start, *spots]) if wanted else None
        for variant, room in free.items():
            if room.is_empty or (kinds is not None and problem.variants[variant].kind not in kinds):
                continue
            points: Array = shapely.get_coordinates(room)
            first = np.round(points @ np.array(down, dtype=float), 3)
            second = np.round(points @ np.array(left, dtype=float), 3)
            index = int(np.lexsort((second, first))[0])
            ahead, aside = reach[variant]
            choices.append(
                (
                    round(float(first[index]) + ahead, 3),
                    round(float(second[index]) + aside, 3),
                    variant,
                    points[index],
                )
            )
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
            # Lines and points that set operations leave are no room: a station there would be
            # placed again and again.
            free[variant] = areas_only(
                shapely.difference(room, moved(problem.nofit(placed, variant), (x, y)))
            )
