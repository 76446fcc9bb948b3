"""Rows, staggered rows and rows of turned pairs, laid over the face as a lattice; and the grid a person would space by hand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString

from wedgecraft.core.layout.nofit import Area, moved
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot, best

_PHASES = 5
_PAIR_OFFSETS = 8
_MOST_LATTICES = 28
_SHIFTS = 8
_SLANT_ROWS = 8


@dataclass(frozen=True)
class Unit:
    """One station, or two that stand together: (variant, dx, dy) each."""

    members: tuple[Spot, ...]

    @property
    def turned(self) -> bool:
        return len(self.members) > 1


@dataclass(frozen=True)
class Step:
    """Pitch along a row, shift and pitch from row to row; ``slanted`` rows go on shifting, others alternate."""

    pitch_x: float
    shift: float
    pitch_y: float
    slanted: bool


def hand_grid(problem: FaceProblem) -> Layout:
    """Bounding boxes spaced by the clearance on a straight grid from the datum corner, left out where they hit something.

    The practice this is measured against: for each turn, the box round everything a neighbour must keep off.
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
        layouts.append(Layout(f"straight grid at {variant.turn}°", tuple((index, float(x), float(y)) for x, y in inside)))
    return best(layouts, problem)


def _grid(start: float, end: float, pitch: float) -> Array:
    steps = np.arange(int((end - start) / pitch + 1e-9) + 1, dtype=np.float64)
    return start + pitch * steps


def lattices(problem: FaceProblem) -> list[Layout]:
    """Straight and staggered lattices of single stations and of turned pairs."""
    plans = [
        (step.pitch_x * step.pitch_y / len(unit.members), unit, step)
        for unit in _units(problem)
        for step in _row_steps(_unit_nofit(problem, unit))
    ]
    # The face each station takes says nearly all: lay the tightest, and the simplest of every turn.
    plans.sort(key=lambda plan: round(plan[0], 6))
    chosen = plans[:_MOST_LATTICES] + [plan for plan in plans[_MOST_LATTICES:] if len(plan[1].members) == 1 and not plan[2].shift]
    return [_laid(problem, unit, step) for _, unit, step in chosen]


def _units(problem: FaceProblem) -> list[Unit]:
    units = [Unit(((index, 0.0, 0.0),)) for index in range(len(problem.variants))]
    for first, variant in enumerate(problem.variants):
        for second, other in enumerate(problem.variants):
            if variant.kind != other.kind or (other.turn - variant.turn) % 360 != 180 or variant.turn >= 180:
                continue
            units += [Unit(((first, 0.0, 0.0), (second, dx, dy))) for dx, dy in _touching(problem, first, second)]
    return units


def _touching(problem: FaceProblem, first: int, second: int) -> list[tuple[float, float]]:
    """Places of a turned neighbour touching the first, those with the smallest box first."""
    region = problem.nofit(first, second)
    ring = shapely.get_coordinates(shapely.get_exterior_ring(max(getattr(region, "geoms", [region]), key=lambda p: p.area)))
    bodies = problem.geometry.body(problem.variants[first]), problem.geometry.body(problem.variants[second])
    boxes = np.array(bodies[0].bounds), np.array(bodies[1].bounds)
    low = np.minimum(boxes[0][:2], boxes[1][:2] + ring)
    high = np.maximum(boxes[0][2:], boxes[1][2:] + ring)
    order = np.argsort(np.round(np.prod(high - low, axis=1), 6), kind="stable")
    chosen: list[tuple[float, float]] = []
    for index in order:
        x, y = map(float, ring[index])
        if all(abs(x - a) + abs(y - b) > 1 for a, b in chosen):
            chosen.append((x, y))
        if len(chosen) == _PAIR_OFFSETS:
            break
    return chosen


def _unit_nofit(problem: FaceProblem, unit: Unit) -> Area:
    regions = []
    for a, ax, ay in unit.members:
        for b, bx, by in unit.members:
            regions.append(moved(problem.nofit(a, b), (ax - bx, ay - by)))
    return shapely.union_all(regions)


def _row_steps(region: Area) -> list[Step]:
    """Ways to repeat a unit in rows that keep it clear of itself: rows alike, every other row shifted, or each shifted further."""
    _, _, right, high = region.bounds
    tight = _beyond(region, 0.0, right, along_x=True)
    steps = []
    for pitch_x in dict.fromkeys([tight, right, (tight + right) / 2]):
        if pitch_x < tight - 1e-9:
            continue
        reach = int(right / pitch_x) + 2
        heights = _RowHeights(region, high, [k * pitch_x for k in range(-reach, reach + 1)])
        for share in range(_SHIFTS):
            shift = share * pitch_x / _SHIFTS
            # Every other row: the next row lies at +shift or -shift, the one after right above.
            zigzag = max(heights.above(shift), heights.above(-shift), heights.above(0) / 2)
            if zigzag > 1e-6:
                steps.append(Step(pitch_x, shift, zigzag, slanted=False))
            if share == 0:
                continue
            slant = max(heights.above(k * shift) / k for k in range(1, _SLANT_ROWS))
            if slant * _SLANT_ROWS > high:  # rows further up are clear by their height alone
                steps.append(Step(pitch_x, shift, slant, slanted=True))
    return steps


class _RowHeights:
    """How far up a row must move to clear the row below, for a shift between them; asked once per shift."""

    def __init__(self, region: Area, high: float, columns: list[float]) -> None:
        self._region, self._high, self._columns = region, high, columns
        self._known: dict[float, float] = {}

    def above(self, shift: float) -> float:
        key = round(shift, 9)
        if key not in self._known:
            self._known[key] = max(_beyond(self._region, shift + x, self._high, along_x=False) for x in self._columns)
        return self._known[key]


def _beyond(region: Area, at: float, reach: float, along_x: bool) -> float:
    """The far end of the region on a ray from the axis, 0 where the ray misses it."""
    far = reach + 1
    ray = LineString([(0, at), (far, at)] if along_x else [(at, 0), (at, far)])
    crossed = shapely.intersection(region, ray)
    if crossed.is_empty:
        return 0.0
    return float(crossed.bounds[2 if along_x else 3])


def _laid(problem: FaceProblem, unit: Unit, step: Step) -> Layout:
    """Count the lattice at several phases and keep the best."""
    pitch_x, shift, pitch_y = step.pitch_x, step.shift, step.pitch_y
    rooms = [problem.rooms[variant] for variant, _, _ in unit.members]
    x0 = min(room.bounds[0] for room in rooms) - pitch_x
    y0 = min(room.bounds[1] for room in rooms) - pitch_y
    x1 = max(room.bounds[2] for room in rooms) + pitch_x
    y1 = max(room.bounds[3] for room in rooms) + pitch_y
    columns = np.arange(int((x1 - x0) / pitch_x) + 3)
    rows = np.arange(int((y1 - y0) / pitch_y) + 2)
    if len(columns) * len(rows) > 20_000:
        return Layout("lattice", ())
    along = rows * shift % pitch_x if step.slanted else (rows % 2) * shift
    grid_x = columns[None, :] * pitch_x + along[:, None] - (shift > 0) * pitch_x
    grid_y = np.broadcast_to(rows[:, None] * pitch_y, grid_x.shape)
    base = np.stack([grid_x.ravel(), grid_y.ravel()], axis=1)
    kind = "pairs in " if unit.turned else ""
    name = f"{kind}{'slanted' if step.slanted else 'staggered' if shift else 'straight'} rows"
    members = [np.array([dx, dy]) for _, dx, dy in unit.members]
    layouts = []
    anchors_x = {
        round(room.bounds[side] - member[0] - x0, 6) for room, member in zip(rooms, members, strict=True) for side in (0, 2)
    }
    anchors_y = {
        round(room.bounds[side] - member[1] - y0, 6) for room, member in zip(rooms, members, strict=True) for side in (1, 3)
    }
    phases_x = sorted({a % pitch_x for a in anchors_x} | {k * pitch_x / _PHASES for k in range(_PHASES)})
    phases_y = sorted({a % pitch_y for a in anchors_y} | {k * pitch_y / _PHASES for k in range(_PHASES)})
    if shift:
        phases_x += [(phase + shift) % pitch_x for phase in phases_x]
    for phase_y in phases_y:
        for phase_x in phases_x:
            points = base + (x0 + phase_x, y0 + phase_y)
            spots: list[Spot] = []
            for (variant, _, _), member in zip(unit.members, members, strict=True):
                places = points + member
                inside = places[problem.fits(variant, places)]
                spots += [(variant, float(x), float(y)) for x, y in inside]
            layouts.append(Layout(name, tuple(spots)))
    return min(layouts, key=lambda layout: -len(layout.spots))
