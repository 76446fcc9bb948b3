"""Rounds: as many equal circles as go into a rectangle, a circle or any convex room, by pressing
one more in.

One circle more than is known is thrown in and all are moved until nothing overlaps, from several
starts (penalties minimised by L-BFGS: Huang and Ye, "Quasi-physical global optimization method for
solving the equal circle packing problem", 2011).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import product

import numba
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.optimize import minimize

from wedgecraft.core.layout.nofit import TOUCH_MM
from wedgecraft.core.layout.search import FaceProblem, Layout

Array = NDArray[np.float64]
_MOST_ROUNDS = 130
_ROUND_CORNERS = 20


def round_diameter(problem: FaceProblem) -> tuple[float, tuple[float, float]] | None:
    """Diameter of the circle round the station with half its gap, and its centre; nothing where the
    station is not round.
    """
    kind = problem.geometry.kinds[problem.variants[0].kind]
    if len({variant.kind for variant in problem.variants}) != 1 or any(
        layer.role != "body" for layer in kind.layers
    ):
        return None
    corners = np.concatenate([np.array(layer.outer) for layer in kind.layers])
    if len(corners) < _ROUND_CORNERS:
        return None
    centre = (corners.max(axis=0) + corners.min(axis=0)) / 2
    reach = np.hypot(*(corners - centre).T)
    if reach.max() - reach.min() > 0.005 * reach.max():
        return None
    return 2 * float(reach.max()) + kind.clearance_mm, (float(centre[0]), float(centre[1]))


def pressed_in(problem: FaceProblem, start: Layout, limit: int, starts: int) -> Iterator[Layout]:
    """Better and better layouts of rounds, from this one up; ends when one more could not be
    pressed in.
    """
    shape = round_diameter(problem)
    room = problem.rooms[0]
    if shape is None or len(start.spots) > _MOST_ROUNDS or room.geom_type != "Polygon":
        return
    if room.convex_hull.area - room.area > 1e-6 * room.area or not problem.plain:
        return
    diameter = shape[0]
    walls = _walls(room)
    walls[:, 2] -= TOUCH_MM
    places = np.array([spot[1:] for spot in start.spots]).reshape(-1, 2)
    variant = 0
    while len(places) < limit:
        found = _one_more(places, walls, diameter, starts)
        if found is None:
            return
        places = found
        yield Layout("rounds pressed in", tuple((variant, float(x), float(y)) for x, y in places))


def _walls(room: shapely.Polygon) -> Array:
    """The room as half planes: rows of nx, ny, d with nx x + ny y <= d."""
    corners = shapely.get_coordinates(shapely.geometry.polygon.orient(room).exterior)
    along = np.diff(corners, axis=0)
    length = np.hypot(*along.T)
    along, corners = along[length > 1e-9], corners[:-1][length > 1e-9]
    normals = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.hypot(*along.T)[:, None]
    return np.hstack([normals, (normals * corners).sum(axis=1)[:, None]])


def _one_more(places: Array, walls: Array, diameter: float, starts: int) -> Array | None:
    count = len(places) + 1
    rng = np.random.default_rng(count)
    low, high = _box(walls)
    rows = _rows(low, high, count)
    for attempt in range(starts + len(rows)):
        if attempt < len(rows):
            begin = rows[attempt]
        elif attempt % 3 == 0 and len(places):
            begin = np.vstack(
                [
                    places + rng.normal(0, 0.1 * diameter * (attempt > 0), places.shape),
                    rng.uniform(low, high),
                ]
            )
        elif attempt % 3 == 1:
            begin = _spread(rng, low, high, count)
        else:
            begin = rng.uniform(low, high, (count, 2))
        settled = _settled(begin, walls, diameter)
        for _ in range(6):
            if settled is None or _overlap(settled, walls, diameter) < TOUCH_MM / 2:
                break
            # The most pressed one jumps elsewhere, and all settle again.
            pressed = _pressure(settled, walls, diameter)
            again = settled.copy()
            again[int(np.argmax(pressed))] = _emptiest(rng, settled, low, high)
            again = _settled(again, walls, diameter)
            if _overlap(again, walls, diameter) < _overlap(settled, walls, diameter):
                settled = again
        if _overlap(settled, walls, diameter) < TOUCH_MM / 2:
            return settled
    return None


def _box(walls: Array) -> tuple[Array, Array]:
    """A box about the half planes' middle that contains them."""
    from scipy.spatial import HalfspaceIntersection

    middle = _middle(walls)
    corners = HalfspaceIntersection(np.hstack([walls[:, :2], -walls[:, 2:]]), middle).intersections
    return corners.min(axis=0), corners.max(axis=0)


def _middle(walls: Array) -> Array:
    from scipy.optimize import linprog

    answer = linprog(
        [0, 0, -1],
        A_ub=np.hstack([walls[:, :2], np.ones((len(walls), 1))]),
        b_ub=walls[:, 2],
        bounds=[(None, None)] * 3,
    )
    return np.array(answer.x[:2])


def _spread(rng: np.random.Generator, low: Array, high: Array, count: int) -> Array:
    """Staggered rows with about so many places, stretched over the box."""
    rows = max(
        1,
        round(
            math.sqrt(count * (high[1] - low[1]) / max(1e-9, high[0] - low[0]) * 2 / math.sqrt(3))
            + rng.integers(-1, 2)
        ),
    )
    columns = math.ceil(count / rows)
    grid = [
        ((c + 0.5 * (r % 2)) / columns, (r + 0.5) / rows)
        for r in range(rows)
        for c in range(columns)
    ]
    chosen = np.array(grid)[rng.permutation(len(grid))[:count]]
    if len(chosen) < count:
        chosen = np.vstack([chosen, rng.uniform(0, 1, (count - len(chosen), 2))])
    return np.asarray(low + chosen * (high - low) + rng.normal(0, 1e-3, chosen.shape))


def _rows(low: Array, high: Array, count: int) -> list[Array]:
    """Staggered rows of just so many places, stretched over the box: rows alike, or long and short
    ones in turn.
    """
    found = []
    for rows, short, first in product(range(1, count + 1), (0, 1), (0, 1)):
        fewer = (rows + first) // 2 if short else 0
        columns = (count + fewer) // rows
        if columns * rows - fewer != count or columns - short < 1 or (first and not short):
            continue
        length = max(1.0, columns - 1 if short else columns - 0.5 * (rows > 1) - 0.5 * (rows == 1))
        grid = []
        for row in range(rows):
            is_short = short and (row + first) % 2
            aside = 0.5 if is_short or (not short and row % 2) else 0.0
            grid += [
                ((c + aside) / length, row / max(rows - 1, 1))
                for c in range(columns - int(is_short))
            ]
        # How far from staggered rows of equal circles: sides of a triangle are alike.
        across, up = (high - low) / (length, max(rows - 1, 1))
        found.append(
            (
                abs(math.log(max(up, 1e-9) / max(across, 1e-9) * 2 / math.sqrt(3))),
                low + np.array(grid) * (high - low),
            )
        )
    return [places for _, places in sorted(found, key=lambda item: item[0])[:4]]


def _settled(begin: Array, walls: Array, diameter: float) -> Array:
    # A hair larger than needed, so that what settles is clear.
    answer = minimize(
        lambda flat: _energy(flat, walls, diameter + TOUCH_MM / 4),
        begin.ravel(),
        jac=True,
        method="L-BFGS-B",
        options={"maxiter": 400, "ftol": 1e-16, "gtol": 1e-9, "maxcor": 20},
    )
    return np.asarray(answer.x).reshape(-1, 2)


def _emptiest(rng: np.random.Generator, places: Array, low: Array, high: Array) -> Array:
    trials = rng.uniform(low, high, (200, 2))
    nearest = np.linalg.norm(trials[:, None] - places[None], axis=2).min(axis=1)
    return np.asarray(trials[int(np.argmax(nearest))])


@numba.njit(cache=True)
def _energy(flat: Array, walls: Array, diameter: float) -> tuple[float, Array]:
    """Squares of all overlaps, of circles with one another and with walls, and the gradient."""
    count = len(flat) // 2
    total, slope = 0.0, np.zeros(len(flat))
    for i in range(count):
        x, y = flat[2 * i], flat[2 * i + 1]
        for j in range(i + 1, count):
            dx, dy = x - flat[2 * j], y - flat[2 * j + 1]
            if abs(dx) < diameter and abs(dy) < diameter:
                distance = math.sqrt(dx * dx + dy * dy)
                if distance < diameter:
                    over = diameter - distance
                    total += over * over
                    pull = -2 * over / max(distance, 1e-9)
                    slope[2 * i] += pull * dx
                    slope[2 * i + 1] += pull * dy
                    slope[2 * j] -= pull * dx
                    slope[2 * j + 1] -= pull * dy
        for wall in range(len(walls)):
            over = walls[wall, 0] * x + walls[wall, 1] * y - walls[wall, 2]
            if over > 0:
                total += over * over
                slope[2 * i] += 2 * over * walls[wall, 0]
                slope[2 * i + 1] += 2 * over * walls[wall, 1]
    return total, slope


def _overlaps(places: Array, walls: Array, diameter: float) -> tuple[Array, Array]:
    apart = np.linalg.norm(places[:, None] - places[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    return np.maximum(0, diameter - apart), np.maximum(0, places @ walls[:, :2].T - walls[:, 2])


def _overlap(places: Array, walls: Array, diameter: float) -> float:
    pairs, edges = _overlaps(places, walls, diameter)
    return float(max(pairs.max(initial=0), edges.max(initial=0)))


def _pressure(places: Array, walls: Array, diameter: float) -> Array:
    pairs, edges = _overlaps(places, walls, diameter)
    return np.asarray((pairs**2).sum(axis=1) + (edges**2).sum(axis=1))
