"""Rounds: stations that keep each other off as circles do, whatever they are made of, pressed in on
any room, round what is closed.

One circle more than is known is thrown in and all are moved until nothing overlaps, from several
starts; where they stay pressed, one of them jumps elsewhere (penalties minimised by L-BFGS: Huang
and Ye, "Quasi-physical global optimization method for solving the equal circle packing problem",
2011).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import numba
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.optimize import minimize

from wedgecraft.core.layout.nofit import TOUCH_MM, Area, areas_only
from wedgecraft.core.layout.search import FaceProblem, Layout

Array = NDArray[np.float64]
_MOST_ROUNDS = 130
#: Rounds times corners of their room: what is more takes too long.
_MOST_WORK = 100_000
#: How far from a circle what a station keeps off may be, as a share.
_ROUND = 0.01
_HOPS = 10
#: Steps of settling, and of doing so to the end: only where no more than so large a share of a
#: diameter overlaps.
_QUICKLY, _TO_THE_END = 80, 400
_NEARLY = 0.02


@dataclass(frozen=True)
class Round:
    """A variant that keeps its like off all round: middles are to be so far apart, mm."""

    variant: int
    diameter: float


def round_station(problem: FaceProblem) -> Round | None:
    """The station as a circle, by what it keeps its like off; of its turns the one with the most
    room. Nothing where none is round, or kinds are several.
    """
    if len({variant.kind for variant in problem.variants}) != 1:
        return None
    found, most = None, 0.0
    for number, room in enumerate(problem.rooms):
        region = problem.nofit(number, number)
        corners = shapely.get_coordinates(region)
        if region.geom_type != "Polygon" or region.interiors:
            continue
        far = float(np.hypot(*corners.T).max())
        near = float(shapely.distance(region.exterior, shapely.Point(0, 0)))
        if far - near <= _ROUND * far and room.area > most * (1 + _ROUND):
            found, most = Round(number, far), room.area
    return found


def pressable(problem: FaceProblem, count: int) -> Round | None:
    """The station as a circle, where so many are few enough to press one more in."""
    shape = round_station(problem) if count <= _MOST_ROUNDS else None
    if shape and count * shapely.count_coordinates(problem.rooms[shape.variant]) > _MOST_WORK:
        return None
    return shape


def pressed_in(problem: FaceProblem, start: Layout, limit: int, starts: int) -> Iterator[Layout]:
    """Better and better layouts of rounds, from this one up; ends when one more could not be
    pressed in.
    """
    shape = pressable(problem, len(start.spots))
    if shape is None:
        return
    room = areas_only(problem.rooms[shape.variant].buffer(-TOUCH_MM, join_style="mitre"))
    edges = edges_of(room)
    if not len(edges):
        return
    # where a station of another turn would stand if it were turned as this one is
    aside = [
        np.array(problem.nofit(shape.variant, other).bounds).reshape(2, 2).mean(axis=0)
        for other in range(len(problem.variants))
    ]
    places = np.array(
        [np.array(spot[1:]) - aside[spot[0]] for spot in start.spots], dtype=np.float64
    ).reshape(-1, 2)
    while len(places) < limit:
        found = _one_more(places, edges, shape.diameter, starts)
        if found is None:
            return
        places = found
        spots = tuple((shape.variant, float(x), float(y)) for x, y in places)
        yield Layout("rounds pressed in", spots)


def ready() -> None:
    """Have the search compiled before someone waits for it."""
    square = edges_of(shapely.box(0, 0, 1, 1))
    _one_more(np.zeros((1, 2)), square, 2.0, 1)


def edges_of(room: Area) -> Array:
    """All edges of a room and its holes: rows of x, y from and to."""
    rings = [
        shapely.get_coordinates(ring)
        for part in shapely.get_parts(room)
        for ring in (part.exterior, *part.interiors)
    ]
    edges = np.concatenate([np.empty((0, 4)), *(np.hstack([r[:-1], r[1:]]) for r in rings)])
    return edges[(edges[:, :2] != edges[:, 2:]).any(axis=1)]


def _one_more(places: Array, edges: Array, diameter: float, starts: int) -> Array | None:
    count = len(places) + 1
    rng = np.random.default_rng(count)
    ends = edges.reshape(-1, 2)
    low, high = ends.min(axis=0), ends.max(axis=0)
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
        settled, energy = _settled(begin, edges, diameter)
        for hop in range(_HOPS):
            if _overlap(settled, edges, diameter) < TOUCH_MM / 2:
                return settled
            # The most pressed one, or any, jumps elsewhere, and all settle again.
            pressed = int(np.argmax(_pressure(settled, edges, diameter)))
            again = settled.copy()
            jumps = int(rng.integers(count)) if hop % 2 else pressed
            again[jumps] = _emptiest(rng, np.delete(settled, jumps, axis=0), edges, low, high)
            again, then = _settled(again, edges, diameter)
            if then < energy:
                settled, energy = again, then
        if _overlap(settled, edges, diameter) < TOUCH_MM / 2:
            return settled
    return None


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


def _settled(begin: Array, edges: Array, diameter: float) -> tuple[Array, float]:
    """Places after all have moved apart, and what still presses: to the end where little does."""
    found = begin.ravel()
    for iterations, exact in ((_QUICKLY, 1e-9), (_TO_THE_END, 1e-16)):
        # A hair larger than needed, so that what settles is clear.
        answer = minimize(
            lambda flat: _energy(flat, edges, diameter + TOUCH_MM / 4),
            found,
            jac=True,
            method="L-BFGS-B",
            options={"maxiter": iterations, "ftol": exact, "gtol": 1e-9, "maxcor": 8},
        )
        found, pressing = np.asarray(answer.x), float(answer.fun)
        if pressing > (_NEARLY * diameter) ** 2:
            break
    return found.reshape(-1, 2), pressing


def _emptiest(
    rng: np.random.Generator, places: Array, edges: Array, low: Array, high: Array
) -> Array:
    trials = rng.uniform(low, high, (200, 2))
    nearest = np.linalg.norm(trials[:, None] - places[None], axis=2).min(axis=1, initial=np.inf)
    return np.asarray(trials[int(np.argmax(nearest - 2 * _beyond(trials.ravel(), edges)))])


@numba.njit(cache=True)
def _energy(flat: Array, edges: Array, diameter: float) -> tuple[float, Array]:
    """Squares of all overlaps, of circles with one another, and of how far middles are beyond the
    room, and the gradient.
    """
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
        out_x, out_y = _out(x, y, edges)
        total += out_x * out_x + out_y * out_y
        slope[2 * i] += 2 * out_x
        slope[2 * i + 1] += 2 * out_y
    return total, slope


@numba.njit(cache=True)
def _out(x: float, y: float, edges: Array) -> tuple[float, float]:
    """From the nearest point of the room to a place beyond it; nothing for a place within."""
    within = False
    for k in range(len(edges)):
        ay, by = edges[k, 1], edges[k, 3]
        if (ay > y) != (by > y):
            ax, bx = edges[k, 0], edges[k, 2]
            if x < ax + (y - ay) / (by - ay) * (bx - ax):
                within = not within
    if within:
        return 0.0, 0.0
    least, out_x, out_y = np.inf, 0.0, 0.0
    for k in range(len(edges)):
        ax, ay = edges[k, 0], edges[k, 1]
        dx, dy = edges[k, 2] - ax, edges[k, 3] - ay
        t = min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)))
        off_x, off_y = x - ax - t * dx, y - ay - t * dy
        if off_x * off_x + off_y * off_y < least:
            least, out_x, out_y = off_x * off_x + off_y * off_y, off_x, off_y
    return out_x, out_y


@numba.njit(cache=True)
def _beyond(flat: Array, edges: Array) -> Array:
    """How far each place is beyond the room."""
    found = np.zeros(len(flat) // 2)
    for i in range(len(found)):
        out_x, out_y = _out(flat[2 * i], flat[2 * i + 1], edges)
        found[i] = math.sqrt(out_x * out_x + out_y * out_y)
    return found


def _overlaps(places: Array, edges: Array, diameter: float) -> tuple[Array, Array]:
    apart = np.linalg.norm(places[:, None] - places[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    return np.maximum(0, diameter - apart), _beyond(places.ravel(), edges)


def _overlap(places: Array, edges: Array, diameter: float) -> float:
    pairs, beyond = _overlaps(places, edges, diameter)
    return float(max(pairs.max(initial=0), beyond.max(initial=0)))


def _pressure(places: Array, edges: Array, diameter: float) -> Array:
    pairs, beyond = _overlaps(places, edges, diameter)
    return np.asarray((pairs**2).sum(axis=1) + beyond**2)
