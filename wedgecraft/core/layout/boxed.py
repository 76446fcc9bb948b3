"""Stations of any shape as boxes: for stations, and pairs that stand turned to one another, boxes
that keep off each other wherever the stations do not; packed in blocks, round what is closed.

A box reaches from ``low`` to ``high`` along each axis about the origin of its first station. Two of
them side by side are as far apart as the no-fit regions ask: the smallest such boxes are a linear
programme for each axis.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.optimize import linprog

from wedgecraft.core.layout import recursive
from wedgecraft.core.layout.nofit import TOUCH_MM, Area, areas_only, moved
from wedgecraft.core.layout.recursive import Closed, Size
from wedgecraft.core.layout.regular import Unit, unit_nofit, units
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot, compatible

#: Of a box, in millimetres; what is a hundredth but for this much is taken as that hundredth.
UNIT = 1e-4
_CLEAN = 5e-4
_MOST_LENGTHS = 250
_PAIRS = 2
#: Of the box round what it keeps another off, a unit fills at least this much to be taken for one.
_NEARLY = 0.93
_MOST_RECTANGLES = 80
_THOROUGH = 3


@dataclass(frozen=True)
class Boxed:
    """A unit of one or two stations, where its origin may lie, and its box about that, mm."""

    unit: Unit
    room: Area
    low: Array
    high: Array

    def size(self) -> Size:
        wide, deep = (self.high - self.low).tolist()
        return Size(_whole(wide), _whole(deep), len(self.unit.members))


def packings(problem: FaceProblem, known: int, limit: int) -> Iterator[Layout]:
    """Packings in blocks, best choice of boxes first; nothing where one kind is not alone, or
    stations are far from boxes for each other.

    Each choice of boxes is first laid in rows and columns of blocks on the bare face; the fullest
    few that hold as many as known are then cut in five, and round what is closed.
    """
    if len({variant.kind for variant in problem.variants}) != 1:
        return
    found: list[tuple[int, int, list[Boxed]]] = []
    for number, choice in enumerate(_choices(problem)):
        boxes = boxed(problem, choice)
        if not boxes:
            continue
        wide, deep, _ = face_of(boxes)
        sizes = [item.size() for item in boxes]
        coarse = _coarse(wide, deep, sizes)
        free = recursive.most(wide // coarse, deep // coarse, _coarsened(sizes, coarse))
        if free >= known:
            found.append((-free, number, boxes))
    found.sort(key=lambda item: item[:2])
    for _, _, boxes in found[:_THOROUGH]:
        layout = _laid(problem, boxes, known)
        known = max(known, len(layout.spots))
        yield layout
        if known >= limit:
            return


def are_boxes(problem: FaceProblem) -> bool:
    """Do stations of one turn, one by one, keep off each other nearly as boxes do?"""
    return any(_alone(problem).values())


def _alone(problem: FaceProblem) -> dict[int, list[Unit]]:
    one_by_one = [unit for unit in units(problem) if not unit.turned]
    return {at: nearly(problem, one_by_one, at) for at in (0, 90)}


def _choices(problem: FaceProblem) -> Iterator[list[Unit]]:
    """Stations one by one, lying and upright; where those are no boxes, pairs of them that are."""
    alone, pairs = ([u for u in units(problem) if u.turned == two] for two in (False, True))
    near = _alone(problem)
    if near[0] or near[90]:
        yield from _one_of_each(near[0], near[90])
        return
    near = {
        at: sorted(
            nearly(problem, pairs, at), key=lambda unit: round(_pitch_area(problem, unit), 3)
        )[:_PAIRS]
        for at in (0, 90)
    }
    for both in _one_of_each(near[0], near[90]):
        yield both
        yield [*both, *alone]


def _one_of_each(lying: Sequence[Unit], upright: Sequence[Unit]) -> Iterator[list[Unit]]:
    if lying and upright:
        yield from ([one, other] for one in lying for other in upright)
    else:
        yield from ([one] for one in (*lying, *upright))


def nearly(problem: FaceProblem, among: Sequence[Unit], turn: int) -> list[Unit]:
    """Those at a turn, or half round from it, that nearly fill the box round what they keep their
    like off.
    """
    found = []
    for unit in among:
        if problem.variants[unit.members[0][0]].turn % 180 == turn:
            region = unit_nofit(problem, unit)
            if region.area >= _NEARLY * region.envelope.area:
                found.append(unit)
    return found


def _pitch_area(problem: FaceProblem, unit: Unit) -> float:
    left, low, right, high = unit_nofit(problem, unit).bounds
    return (right - left) * (high - low)


def boxed(problem: FaceProblem, choice: Sequence[Unit]) -> list[Boxed]:
    """The boxes of these units, all on one rectangle; those that nowhere fit are left out."""
    rooms = [(unit, _room(problem, unit)) for unit in choice]
    rooms = [(unit, room) for unit, room in rooms if not room.is_empty]
    if not rooms:
        return []
    apart = np.array([[between(problem, one, other) for other, _ in rooms] for one, _ in rooms])
    bounds = np.array([room.bounds for _, room in rooms])
    sides = [_sides(apart[:, :, axis], bounds[:, [axis, axis + 2]]) for axis in (0, 1)]
    return [
        Boxed(unit, room, *(np.array([sides[axis][end][k] for axis in (0, 1)]) for end in (0, 1)))
        for k, (unit, room) in enumerate(rooms)
    ]


def _room(problem: FaceProblem, unit: Unit) -> Area:
    room: Area = problem.rooms[unit.members[0][0]]
    for variant, dx, dy in unit.members[1:]:
        room = areas_only(shapely.intersection(room, moved(problem.rooms[variant], (-dx, -dy))))
    return room


def between(problem: FaceProblem, one: Unit, other: Unit) -> tuple[float, float]:
    """How far right of, and above the first the second begins to be clear of it, in any case."""
    regions = [
        np.array(problem.nofit(a, b).bounds[2:]) + (ax - bx, ay - by)
        for a, ax, ay in one.members
        for b, bx, by in other.members
    ]
    x, y = (_snapped(float(value)) for value in np.max(regions, axis=0))
    return x, y


def _snapped(value: float) -> float:
    """The hundredth it is meant to be, else a hair more."""
    clean = round(value, 2)
    return clean if abs(value - clean) <= _CLEAN else math.ceil(value / UNIT) * UNIT


def _sides(apart: Array, rooms: Array) -> tuple[Array, Array]:
    """Low and high ends of all boxes along an axis: the least in all that keep the distances, and
    of those the ones that leave the longest face to all.
    """
    n = len(rooms)
    rows, limits = [], []
    for one in range(n):
        for other in range(n):
            row = np.zeros(2 * n + 2)
            row[n + one] -= 1.0  # high of the one, less low of the other
            row[other] += 1.0
            rows.append(row)
            limits.append(-apart[one, other])
    for k in range(n):
        first, last = np.zeros(2 * n + 2), np.zeros(2 * n + 2)
        first[k], first[-2] = 1.0, -1.0  # the face begins where the last box may begin
        last[n + k], last[-1] = -1.0, 1.0
        rows += [first, last]
        limits += [-rooms[k, 0], rooms[k, 1]]
    cost = np.concatenate([-np.ones(n), np.ones(n), [0.1, -0.1]])
    answer = linprog(cost, A_ub=np.array(rows), b_ub=limits, bounds=(None, None), method="highs-ds")
    ends = np.round(answer.x / UNIT) * UNIT
    return ends[:n], ends[n : 2 * n]


def face_of(boxes: Sequence[Boxed]) -> tuple[int, int, Array]:
    """The rectangle that all boxes may fill, in units, and its corner, mm."""
    low = np.max([np.array(item.room.bounds[:2]) + item.low for item in boxes], axis=0)
    high = np.min([np.array(item.room.bounds[2:]) + item.high for item in boxes], axis=0)
    # Rooms are open by a touch at both ends: the first box stands at the true one.
    wide, deep = (
        math.floor((end - TOUCH_MM + 1e-6) / UNIT) for end in np.maximum(high - low, TOUCH_MM)
    )
    return wide, deep, low + TOUCH_MM


def _whole(length: float) -> int:
    return max(1, round(length / UNIT))


def _laid(problem: FaceProblem, boxes: Sequence[Boxed], known: int) -> Layout:
    wide, deep, corner = face_of(boxes)
    sizes = [item.size() for item in boxes]
    shut = [closed(item, corner) for item in boxes]
    bare = not any(shut)
    coarse = _coarse(wide, deep, sizes)
    shut = [
        [(a // coarse, b // coarse, -(-c // coarse), -(-d // coarse)) for a, b, c, d in of]
        for of in shut
    ]
    placed = recursive.packed(
        wide // coarse, deep // coarse, _coarsened(sizes, coarse), known if bare else 0, shut
    )
    spots: list[Spot] = []
    for x, y, size in placed:
        origin = corner + np.array([x, y]) * coarse * UNIT - boxes[size].low
        spots += [
            (variant, round(float(origin[0]) + dx, 4), round(float(origin[1]) + dy, 4))
            for variant, dx, dy in boxes[size].unit.members
        ]
    name = "blocks of turned boxes" if bare else "blocks round what is closed"
    return Layout(name, tuple(compatible(problem, spots)))


def _coarse(wide: int, deep: int, sizes: Sequence[Size]) -> int:
    """The unit in which the table stays small, in units of a ten-thousandth: boxes are rounded up
    to it.
    """
    coarse = 1
    while not all(
        recursive.fine(
            side // coarse, [-(-getattr(s, name) // coarse) for s in sizes], _MOST_LENGTHS
        )
        for side, name in ((wide, "width"), (deep, "depth"))
    ):
        coarse = 100 if coarse == 1 else 2 * coarse
    return coarse


def _coarsened(sizes: Sequence[Size], coarse: int) -> list[Size]:
    return [Size(-(-s.width // coarse), -(-s.depth // coarse), s.holds) for s in sizes]


def closed(item: Boxed, corner: Array) -> list[Closed]:
    """Where the box's lower left corner may not lie, as rectangles, in units from the face's."""
    x0, y0, x1, y1 = item.room.bounds
    rest = shapely.box(x0, y0, x1, y1).difference(
        shapely.buffer(item.room, 1e-6, join_style="mitre")
    )
    found: list[Closed] = []
    for piece in _rectangles(areas_only(rest)):
        by = item.low - corner
        ends = (np.array(piece).reshape(2, 2) + by) / UNIT
        low, high = np.floor(ends[0] + 1e-6), np.ceil(ends[1] - 1e-6)
        found.append((int(low[0]), int(low[1]), int(high[0]), int(high[1])))
    return found


def _rectangles(area: Area) -> list[tuple[float, float, float, float]]:
    """Boxes that cover an area: halved, along their longer side, where they cover too much."""
    parts = [part for part in getattr(area, "geoms", [area]) if part.area > 1e-6]
    depth = next((n for n in (4, 3, 1) if len(parts) * 2**n <= _MOST_RECTANGLES), 0)
    return [found for part in parts for found in _halved(part, depth)]


def _halved(part: Area, depth: int) -> list[tuple[float, float, float, float]]:
    x0, y0, x1, y1 = part.bounds
    if depth == 0 or part.area > 0.9 * (x1 - x0) * (y1 - y0):
        return [(x0, y0, x1, y1)]
    along = 0 if x1 - x0 >= y1 - y0 - 1e-3 else 1  # squares alike whatever rounding does
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)[along]
    halves = (
        shapely.box(*((x0, y0, middle, y1) if along == 0 else (x0, y0, x1, middle))),
        shapely.box(*((middle, y0, x1, y1) if along == 0 else (x0, middle, x1, y1))),
    )
    return [
        found
        for half in halves
        for piece in shapely.get_parts(areas_only(shapely.intersection(part, half)))
        if piece.area > 1e-6
        for found in _halved(piece, depth - 1)
    ]
