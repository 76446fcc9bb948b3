"""Rows, staggered rows and double lattices of turned pairs, laid over the face; and the grid a
person would space by hand.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from wedgecraft.core.layout.edges import count_inside, edges_of, far_up, slant_heights
from wedgecraft.core.layout.nofit import Area, moved
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot, best

_PHASES = 5
_PAIR_OFFSETS = 15
_MOST_LATTICES = 28
_SHIFTS = 8
_SLANT_ROWS = 8
_DIRECTIONS = 18
_TILTED_SHIFTS = 32
_TILTED_UNITS = 10
_MOST_SPOTS = 20_000
_MANY_EDGES = 400
_INWARD_MM = 1e-4
#: Points against edges, for one lattice: more phases than that are not tried where keep-outs have
#: very many edges.
_MOST_WORK = 30_000_000


@dataclass(frozen=True)
class Unit:
    """One station, or two that stand together: (variant, dx, dy) each."""

    members: tuple[Spot, ...]

    @property
    def turned(self) -> bool:
        return len(self.members) > 1


@dataclass(frozen=True)
class Step:
    """Along a row, and from row to row. ``slanted`` rows go on shifting, others alternate; rows may
    run at an ``angle``, radians.
    """

    pitch_x: float
    shift: float
    pitch_y: float
    slanted: bool
    angle: float = 0.0

    @property
    def area(self) -> float:
        return self.pitch_x * self.pitch_y


def hand_grid(problem: FaceProblem) -> Layout:
    """Bounding boxes spaced by the clearance on a straight grid from the datum corner, left out
    where they hit something.

    The practice this is measured against: for each turn, the box round everything a neighbour must
    keep off.
    """
    layouts = []
    for index, variant in enumerate(problem.variants):
        left, low, right, high = problem.nofit(index, index).bounds
        # The no-fit region of a box with itself is the box doubled: its half is the pitch.
        pitch = ((right - left) / 2, (high - low) / 2)
        x0, y0, x1, y1 = problem.rooms[index].bounds
        grid = _grid(x0, x1, pitch[0]), _grid(y0, y1, pitch[1])
        points = np.array([(x, y) for y in grid[1] for x in grid[0]])
        inside = points[problem.fits(index, points)]
        layouts.append(
            Layout(
                f"straight grid at {variant.turn}°",
                tuple((index, float(x), float(y)) for x, y in inside),
            )
        )
    return best(layouts, problem)


def _grid(start: float, end: float, pitch: float) -> Array:
    steps = np.arange(int((end - start) / pitch + 1e-9) + 1, dtype=np.float64)
    return start + pitch * steps


def lattices(problem: FaceProblem, limit: int | None = None, tilted: bool = False) -> list[Layout]:
    """Straight and staggered lattices of single stations and of turned pairs; no more once one
    reaches the limit.

    Rows run along X; ``tilted``: in the direction of any corner of what a unit keeps off, for the
    tightest fit.
    """
    every = units(problem)
    every = every[: len(problem.variants) + _TILTED_UNITS] if tilted else every
    steps = _tilted_steps if tilted else _level_steps
    plans = [
        (step.area / len(unit.members), unit, step)
        for unit in every
        for step in steps(edges_of(unit_nofit(problem, unit)))
    ]
    # The face each station takes says nearly all: lay the tightest, and the simplest of every turn.
    plans.sort(key=lambda plan: (round(plan[0], 3), len(plan[1].members)))
    chosen = plans[:_MOST_LATTICES]
    if not tilted:
        chosen += [
            plan
            for plan in plans[_MOST_LATTICES:]
            if len(plan[1].members) == 1 and not plan[2].shift
        ]
    found: list[Layout] = []
    for _, unit, step in chosen:
        found.append(_laid(problem, unit, step))
        if limit is not None and len(found[-1].spots) >= limit:
            break
    return found


def units(problem: FaceProblem) -> list[Unit]:
    """Every station by itself, and pairs half turned to one another that touch."""
    found = [Unit(((index, 0.0, 0.0),)) for index in range(len(problem.variants))]
    for first, variant in enumerate(problem.variants):
        for second, other in enumerate(problem.variants):
            if (
                variant.kind != other.kind
                or (other.turn - variant.turn) % 360 != 180
                or variant.turn >= 180
            ):
                continue
            found += [
                Unit(((first, 0.0, 0.0), (second, dx, dy)))
                for dx, dy in _touching(problem, first, second)
            ]
    return found


def _touching(problem: FaceProblem, first: int, second: int) -> list[tuple[float, float]]:
    """Places of a turned neighbour touching the first: a third with the smallest box, a third where
    both fill their hull best.
    """
    region = problem.nofit(first, second)
    outline = shapely.get_exterior_ring(
        max(getattr(region, "geoms", [region]), key=lambda p: p.area)
    )
    ring = shapely.get_coordinates(shapely.segmentize(outline, outline.length / 48))
    bodies = [
        shapely.get_coordinates(problem.geometry.body(problem.variants[index]).convex_hull)
        for index in (first, second)
    ]
    pairs = np.concatenate(
        [
            np.broadcast_to(bodies[0], (len(ring), *bodies[0].shape)),
            bodies[1][None] + ring[:, None],
        ],
        axis=1,
    )
    spread = np.prod(np.ptp(pairs, axis=1), axis=1)
    hulls = np.array([shapely.convex_hull(shapely.multipoints(points)).area for points in pairs])
    chosen: list[tuple[float, float]] = []
    for measure, most in (
        (spread, _PAIR_OFFSETS // 3),
        (hulls, 2 * _PAIR_OFFSETS // 3),
        (np.arange(len(ring)) % 7, _PAIR_OFFSETS),
    ):
        for index in np.argsort(np.round(measure, 6), kind="stable"):
            x, y = map(float, ring[index])
            if all(abs(x - a) + abs(y - b) > 1 for a, b in chosen):
                chosen.append((x, y))
            if len(chosen) >= most:
                break
    return chosen


def unit_nofit(problem: FaceProblem, unit: Unit) -> Area:
    """What a unit keeps another of its like off."""
    regions = []
    for a, ax, ay in unit.members:
        for b, bx, by in unit.members:
            regions.append(moved(problem.nofit(a, b), (ax - bx, ay - by)))
    return shapely.union_all(regions)


def _tilted_steps(edges: Array) -> list[Step]:
    return [step for angle in _directions(edges) if (step := _tightest(edges, angle)) is not None]


def _directions(edges: Array) -> list[float]:
    """Angles to the corners of a region and to the middles of its edges, half a turn of them."""
    places = np.concatenate([edges[:, :2], (edges[:, :2] + edges[:, 2:]) / 2])
    angles = np.arctan2(places[:, 1], places[:, 0]) % math.pi
    found = sorted({round(float(a), 3) for a in angles if 1e-3 < a < math.pi - 1e-3})
    return found[:: -(-len(found) // _DIRECTIONS)]


def _level_steps(edges: Array) -> list[Step]:
    """Ways to repeat a unit in rows that keep it clear of itself: rows alike, every other row
    shifted, or each shifted further.
    """
    right = float(edges[:, 0].max())
    turned = edges[:, [1, 0, 3, 2]]
    tight = far_up(turned, np.zeros(1))
    steps = []
    for pitch_x in dict.fromkeys([tight, right, (tight + right) / 2]):
        if pitch_x < tight - 1e-9:
            continue
        heights = _RowHeights(edges, pitch_x)
        for share in range(_SHIFTS):
            shift = share * pitch_x / _SHIFTS
            # Every other row: the next row lies at +shift or -shift, the one after right above.
            zigzag = max(heights.above(shift), heights.above(-shift), heights.above(0) / 2)
            if zigzag > 1e-6:
                steps.append(Step(pitch_x, shift, zigzag, slanted=False))
            if share and (slant := heights.slant(shift)):
                steps.append(Step(pitch_x, shift, slant, slanted=True))
    return steps


def _tightest(edges: Array, angle: float) -> Step | None:
    """The lattice that takes least face with rows at an angle."""
    cosine, sine = math.cos(angle), math.sin(angle)
    turned = np.concatenate(
        [
            edges[:, :2] @ [[cosine, -sine], [sine, cosine]],
            edges[:, 2:] @ [[cosine, -sine], [sine, cosine]],
        ],
        axis=1,
    )
    pitch = far_up(turned[:, [1, 0, 3, 2]], np.zeros(1))
    if pitch < 1e-6:
        return None
    columns, high = _columns(turned, pitch), float(turned[:, 1].max())
    shares = np.unique(
        np.round(np.concatenate([turned[:, 0] % pitch, np.arange(12) * pitch / 12]), 2)
    )[:_TILTED_SHIFTS]
    height, shift = math.inf, 0.0
    for fine in (0.0, pitch / 64, pitch / 256, pitch / 1024):
        if fine:
            shares = (shift + fine * np.arange(-3, 4)) % pitch
        heights = slant_heights(turned, columns, shares, _SLANT_ROWS)
        heights[heights * _SLANT_ROWS <= high] = np.inf  # rows far up would still meet
        least = int(np.argmin(heights))
        if heights[least] < height:
            height, shift = float(heights[least]), float(shares[least])
    return Step(pitch, shift, height, slanted=True, angle=angle) if math.isfinite(height) else None


def _columns(edges: Array, pitch: float) -> Array:
    reach = int(edges[:, 0].max() / pitch) + 2
    return np.asarray(np.arange(-reach, reach + 1) * pitch, dtype=np.float64)


class _RowHeights:
    """How far up a row must move to clear the row below, for a shift between them; asked once per
    shift.
    """

    def __init__(self, edges: Array, pitch: float) -> None:
        self._edges, self._high = edges, float(edges[:, 1].max())
        self._columns = _columns(edges, pitch)
        self._pitch = pitch
        self._known: dict[float, float] = {}

    def above(self, shift: float) -> float:
        key = round(shift % self._pitch, 9)
        if key not in self._known:
            self._known[key] = float(far_up(self._edges, key + self._columns))
        return self._known[key]

    def slant(self, shift: float) -> float | None:
        """Pitch of rows that each shift further; nothing where rows far up would still meet."""
        slant = max(self.above(k * shift) / k for k in range(1, _SLANT_ROWS))
        return (
            slant if slant * _SLANT_ROWS > self._high else None
        )  # rows further up are clear by their height alone


def _laid(problem: FaceProblem, unit: Unit, step: Step) -> Layout:
    """Count the lattice at several phases and keep the best."""
    members = [np.array([dx, dy]) for _, dx, dy in unit.members]
    rooms = [problem.rooms[variant] for variant, _, _ in unit.members]
    bounds = np.array(
        [
            np.array(room.bounds) - np.tile(member, 2)
            for room, member in zip(rooms, members, strict=True)
        ]
    )
    base = _lattice_points(step, bounds)
    kind = "pairs in " if unit.turned else ""
    name = f"{kind}{'slanted' if step.slanted else 'staggered' if step.shift else 'straight'} rows"
    if not 0 < len(base) <= _MOST_SPOTS:
        return Layout("lattice", ())
    shifts = _phases(step, bounds)
    work = len(base) * len(shifts) * sum(shapely.count_coordinates(room) for room in rooms)
    shifts = shifts[:: max(1, math.ceil(work / _MOST_WORK))]
    counts = sum(
        _counted(room, base + member, shifts) for room, member in zip(rooms, members, strict=True)
    )
    points = base + shifts[int(np.argmax(counts))]
    spots: list[Spot] = []
    for (variant, _, _), member in zip(unit.members, members, strict=True):
        places = points + member
        spots += [(variant, float(x), float(y)) for x, y in places[problem.fits(variant, places)]]
    return Layout(name, tuple(spots))


def _counted(room: Area, points: Array, shifts: Array) -> NDArray[np.int64]:
    """How many of the points lie in a room, for each shift; by a tree where its edges are many."""
    if shapely.count_coordinates(room) < _MANY_EDGES:
        return count_inside(edges_of(room), points, shifts)
    places = points[None, :, :] + shifts[:, None, :]
    shapely.prepare(room)
    inside: NDArray[np.bool_] = shapely.intersects_xy(room, places[..., 0], places[..., 1])
    return inside.sum(axis=1)


def _lattice_points(step: Step, bounds: Array) -> Array:
    """Lattice points over the rooms' bounds and one step round them; the lattice passes through the
    lower left of the bounds.
    """
    x0, y0 = bounds[:, :2].min(axis=0)
    x1, y1 = bounds[:, 2:].max(axis=0)
    turn = np.array(
        [
            [math.cos(step.angle), math.sin(step.angle)],
            [-math.sin(step.angle), math.cos(step.angle)],
        ]
    )
    corners = (np.array([(x0, y0), (x1, y0), (x0, y1), (x1, y1)]) - (x0, y0)) @ turn.T
    low, high = corners.min(axis=0), corners.max(axis=0)
    rows = np.arange(math.floor(low[1] / step.pitch_y) - 1, math.ceil(high[1] / step.pitch_y) + 2)
    columns = np.arange(
        math.floor(low[0] / step.pitch_x) - 2, math.ceil(high[0] / step.pitch_x) + 3
    )
    if len(rows) * len(columns) > 4 * _MOST_SPOTS:
        return np.zeros((0, 2))
    along = (rows * step.shift if step.slanted else (rows % 2) * step.shift) % step.pitch_x
    grid_x = columns[None, :] * step.pitch_x + along[:, None]
    grid_y = np.broadcast_to(rows[:, None] * step.pitch_y, grid_x.shape)
    points: Array = np.stack([grid_x.ravel(), grid_y.ravel()], axis=1) @ turn + (x0, y0)
    margin = math.hypot(step.pitch_x, step.pitch_y)
    near = ((points > (x0 - margin, y0 - margin)) & (points < (x1 + margin, y1 + margin))).all(
        axis=1
    )
    return points[near]


def _phases(step: Step, bounds: Array) -> Array:
    """Shifts of the whole lattice: an even spread, and those that bring a row or column against an
    edge of a room.
    """
    spread = [k / _PHASES for k in range(_PHASES)]
    if step.angle:
        along = np.array([math.cos(step.angle), math.sin(step.angle)]) * step.pitch_x
        up = np.array([-math.sin(step.angle), math.cos(step.angle)]) * step.pitch_y
        fine = [k / (2 * _PHASES) for k in range(2 * _PHASES)]
        return np.array([a * along + b * up for a in fine for b in fine])
    # Against the left and lower edges from inside, against the right and upper ones from inside
    # too.
    anchors_x = (
        np.concatenate([bounds[:, 0] + _INWARD_MM, bounds[:, 2] - _INWARD_MM]) - bounds[:, 0].min()
    )
    anchors_y = (
        np.concatenate([bounds[:, 1] + _INWARD_MM, bounds[:, 3] - _INWARD_MM]) - bounds[:, 1].min()
    )
    phases_x = sorted(
        {round(float(a) % step.pitch_x, 6) for a in anchors_x} | {k * step.pitch_x for k in spread}
    )
    phases_y = sorted(
        {round(float(a) % step.pitch_y, 6) for a in anchors_y} | {k * step.pitch_y for k in spread}
    )
    if step.shift:
        phases_x += [(phase + step.shift) % step.pitch_x for phase in phases_x]
    return np.array([(x, y) for y in phases_y for x in phases_x])
