"""Stations more than are known, squeezed in: all may overlap at first, and one after another goes
where it overlaps least, what overlaps for long weighing more and more; what nearly stands clear is
pushed apart.

Method: guided local search on overlaps (Egeblad, Nielsen and Odgaard, "Fast neighborhood search for
two- and three-dimensional nesting problems", 2007; Imamichi, Yagiura and Nagamochi, "An iterated
local search algorithm based on nonlinear programming for the irregular strip packing problem",
2009). Own choice: how deep stations overlap is read from rasters of their no-fit regions, whole
numbers, so that every place on the face is weighed at once and every machine finds the same.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from typing import TypeAlias

import numba
import numpy as np
import shapely
from numpy.typing import NDArray

from wedgecraft.core.layout.nofit import TOUCH_MM, Area, Geometry
from wedgecraft.core.layout.search import FaceProblem, Layout, Spot, compatible
from wedgecraft.core.records.layout import Face, Layer, StationKind

Array: TypeAlias = NDArray[np.float64]
Whole: TypeAlias = NDArray[np.int64]
Cells: TypeAlias = NDArray[np.int32]
Depths: TypeAlias = NDArray[np.int16]

#: A raster has so many cells across what one station keeps another off.
_ACROSS = 128
#: Every so many cells, in x and y, are weighed first; round the best of those, all.
_STEP = 4
#: Depths are counted in so many parts of a cell.
_PARTS = 8
#: Regions are read into rasters without corners that matter less than this, cells.
_PLAIN = 0.05
#: More than this is not tried to be pushed apart, cells: the deepest, and all together.
_NEAR = 2.5
_NEAR_IN_ALL = 10.0
#: Pushed so much further than need be, and what is left may be so much, mm.
_OVER = 5e-5
#: At most so many times round; given up where so many brought less than a seventh.
_SWEEPS, _LOOK, _SLOWER = 2000, 25, 0.85
#: What an overlap weighs at first, and at most: sums stay whole numbers of 32 bits.
_WEIGHT, _MOST_WEIGHT = 8, 10_000
_CLOSED = 1 << 30
_DEEPEST = 30_000
_DIGITS = 4
_MOST_CELLS = 4_000_000
_MOST_OFFSETS = 16_000_000
_MOST_STATIONS = 80
#: Cells weighed and edges looked at for one station more before it is given up: for each station,
#: and at most.
_WORK, _MOST_WORK = 1e8, 2e9
#: An edge looked at takes as long as so many cells.
_EDGE = 20


@dataclass(frozen=True)
class Rasters:
    """A face in cells: where each variant may stand, and how deep two overlap by how far apart they
    are; and the same as edges, for what nearly stands clear.

    ``rooms``: 0 or closed, variants x cells in x x cells in y; ``coarse``: the same for every few.
    ``depths``: by offsets from -``far`` to ``far``, in parts of a cell, variants x variants x
    what is over of the offsets when divided by the step x the offsets divided by the step, in x
    and y; ``reach``: from and to of these at which there is any, in x and y. ``edges``: x0, y0, x1,
    y1 of all no-fit regions and rooms, ``regions`` and ``walls``: which are whose; ``bounds``:
    boxes round regions.
    """

    cell: float
    origin: Array
    far: int
    rooms: Cells
    coarse: Cells
    depths: Depths
    reach: Whole
    edges: Array
    regions: Whole
    walls: Whole
    bounds: Array


def rasters(problem: FaceProblem) -> Rasters:
    """Cells are wider where there would be too many."""
    variants = problem.variants
    # A hair more than must be, so that what rounding takes is there.
    areas = [
        [problem.nofit(i, j).buffer(TOUCH_MM, join_style="mitre") for j in range(len(variants))]
        for i in range(len(variants))
    ]
    bounds = np.array([[area.bounds for area in row] for row in areas])
    sizes = (bounds[..., 2:] - bounds[..., :2]).prod(axis=-1)
    around = np.array([room.bounds for room in problem.rooms])
    low, high = around[:, :2].min(axis=0), around[:, 2:].max(axis=0)
    widest = float(np.abs(bounds).max())
    cell = max(
        float(np.sqrt(sizes.diagonal().min())) / _ACROSS,
        math.sqrt(len(variants) * float((high - low).prod()) / _MOST_CELLS),
        2 * len(variants) * widest / math.sqrt(_MOST_OFFSETS),
    )
    far = math.ceil(widest / cell) + 1
    xs, ys = (
        start + cell * np.arange(np.ceil((end - start) / cell) + 1)
        for start, end in zip(low, high, strict=True)
    )
    rooms, coarse = (
        np.stack([_closed(room, room_cell, x, y) for room in problem.rooms])
        for room_cell, x, y in ((cell, xs, ys), (_STEP * cell, xs[::_STEP], ys[::_STEP]))
    )
    inner = [room.buffer(-TOUCH_MM / 2) for room in problem.rooms]
    edges = [_edges(area) for row in areas for area in row] + [
        _edges(room if inside.is_empty else inside)
        for room, inside in zip(problem.rooms, inner, strict=True)
    ]
    ends = np.cumsum([len(item) for item in edges])
    owned = np.stack([ends - [len(item) for item in edges], ends], axis=1)
    depths = _depths(problem, areas, cell, far)
    return Rasters(
        cell,
        low,
        far,
        rooms,
        coarse,
        depths,
        _reach(depths),
        np.vstack(edges),
        owned[: -len(variants)].reshape(len(variants), -1, 2),
        owned[-len(variants) :],
        bounds,
    )


def _closed(room: Area, cell: float, xs: Array, ys: Array) -> Cells:
    near = room.buffer(0.75 * cell)
    shapely.prepare(near)
    closed = np.full((len(xs), len(ys)), _CLOSED, np.int32)
    closed[shapely.contains_xy(near, *np.meshgrid(xs, ys, indexing="ij"))] = 0
    return closed


def _depths(problem: FaceProblem, areas: Sequence[Sequence[Area]], cell: float, far: int) -> Depths:
    """Of every two variants; only how the second is turned against the first matters."""
    variants, side = problem.variants, 2 * far + 1
    rows = -(-side // _STEP)
    found = np.zeros((len(variants), len(variants), _STEP, _STEP, rows, rows), np.int16)
    known: dict[tuple[int, int, int], Depths] = {}
    for (i, a), (j, b) in product(enumerate(variants), repeat=2):
        key = a.kind, b.kind, (b.turn - a.turn) % 360
        if key not in known:
            plain, deep = areas[i][j].simplify(_PLAIN * cell), np.zeros((side, side), np.int16)
            _fill_depths(deep, _edges(plain), *_cells(plain, cell, far), cell)
            known[key] = np.rot90(deep, -a.turn // 90)
        padded = np.pad(np.rot90(known[key], a.turn // 90), (0, rows * _STEP - side))
        apart = padded.reshape(rows, _STEP, rows, _STEP)
        found[i, j] = apart.transpose(1, 3, 0, 2)
    return found


def _cells(area: Area, cell: float, far: int) -> tuple[int, int, int, int]:
    """The offsets that can lie in the area: from and to in x and y."""
    left, low, right, high = area.bounds
    return (
        max(0, math.floor(left / cell) + far),
        min(2 * far, math.ceil(right / cell) + far) + 1,
        max(0, math.floor(low / cell) + far),
        min(2 * far, math.ceil(high / cell) + far) + 1,
    )


def _reach(depths: Depths) -> Whole:
    found = np.zeros((*depths.shape[:2], 4), np.int64)
    for i, j in product(range(depths.shape[0]), range(depths.shape[1])):
        any_over = depths[i, j].any(axis=(0, 1))
        for axis in (0, 1):
            deep = np.flatnonzero(any_over.any(axis=1 - axis))
            if len(deep):
                found[i, j, 2 * axis : 2 * axis + 2] = deep[0], deep[-1] + 1
    return found


def ready() -> None:
    """Have the search compiled before someone waits for it."""
    square = [(0.0, 0.0), (4.0, 0.0), (4.0, 4.0), (0.0, 4.0)]
    body = Layer(role="body", name="body", outer=square)
    kinds = [StationKind(name="square", turns=[0], layers=[body])]
    face = Face(name="face", outer=[(3 * x, 3 * y) for x, y in square])
    Squeeze(FaceProblem(face, Geometry(kinds)), 1.0).more(Layout("one", ((0, 0.0, 0.0),)), [0])


def worth_a_try(problem: FaceProblem, count: int, effort: float) -> bool:
    """Few enough stations that one more goes in where there is room for it."""
    return effort > 0 and 0 < count <= _MOST_STATIONS and bool(problem.variants)


class Squeeze:
    """Stations more again and again, as long as they go in."""

    def __init__(self, problem: FaceProblem, effort: float) -> None:
        self._problem, self._effort = problem, effort
        self._known: Rasters | None = None

    def more(self, start: Layout, kinds: Sequence[int]) -> Layout | None:
        """The layout with one more of each of these kinds, if they were found."""
        if self._known is None:
            self._known = rasters(self._problem)
        work = self._effort * min(_MOST_WORK, _WORK * (len(start.spots) + len(kinds)))
        found = squeezed(self._problem, self._known, start.spots, kinds, work)
        return None if found is None else Layout("squeezed in one by one", tuple(found))


def squeezed(
    problem: FaceProblem, known: Rasters, spots: Sequence[Spot], kinds: Sequence[int], work: float
) -> list[Spot] | None:
    """These stations and one more of each of these kinds, all clear; nothing where they were not
    found with so many cells weighed.
    """
    of_kind = [variant.kind for variant in problem.variants]
    who = np.array([spot[0] for spot in spots] + [of_kind.index(kind) for kind in kinds])
    middle = known.origin + known.cell * np.array(known.rooms.shape[1:]) / 2
    places = np.array([spot[1:] for spot in spots] + [middle for _ in kinds])
    most = np.array(known.rooms.shape[1:]) - 1
    cells = np.clip(np.rint((places - known.origin) / known.cell).astype(np.int64), 0, most)
    found = _search(
        who,
        cells,
        places,
        np.array(of_kind),
        known.rooms,
        known.coarse,
        known.depths,
        known.reach,
        known.far,
        known.cell,
        known.origin,
        known.edges,
        known.regions,
        known.walls,
        known.bounds,
        work,
    )
    if not found:
        return None
    placed = [
        (int(v), round(float(x), _DIGITS), round(float(y), _DIGITS))
        for v, (x, y) in zip(who, places, strict=True)
    ]
    return placed if len(compatible(problem, placed)) == len(placed) else None


def _edges(area: Area) -> Array:
    rings = [
        shapely.get_coordinates(ring)
        for part in shapely.get_parts(area)
        for ring in (part.exterior, *part.interiors)
    ]
    return np.vstack([np.hstack([ring[:-1], ring[1:]]) for ring in rings])


@numba.njit(cache=True)
def _nearest(
    edges: Array, start: int, end: int, x: float, y: float
) -> tuple[bool, float, float, float]:
    """Is the point inside, how far is the rim, and where."""
    inside, least, to_x, to_y = False, 1e18, x, y
    for edge in range(start, end):
        x0, y0, x1, y1 = edges[edge, 0], edges[edge, 1], edges[edge, 2], edges[edge, 3]
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
        dx, dy = x1 - x0, y1 - y0
        length = dx * dx + dy * dy
        share = ((x - x0) * dx + (y - y0) * dy) / length if length > 0 else 0.0
        share = min(1.0, max(0.0, share))
        px, py = x0 + share * dx, y0 + share * dy
        away = (px - x) ** 2 + (py - y) ** 2
        if away < least:
            least, to_x, to_y = away, px, py
    return inside, np.sqrt(least), to_x, to_y


@numba.njit(cache=True)
def _fill_depths(
    depths: Depths, edges: Array, u0: int, u1: int, v0: int, v1: int, cell: float
) -> None:
    """How deep each of these offsets lies in a region, in parts of a cell."""
    far = depths.shape[0] // 2
    for u in range(u0, u1):
        for v in range(v0, v1):
            inside, deep, _, _ = _nearest(edges, 0, len(edges), (u - far) * cell, (v - far) * cell)
            if inside:
                depths[u, v] = min(_DEEPEST, int(np.ceil(deep / cell * _PARTS)))


@numba.njit(cache=True)
def _depth(who: Whole, cells: Whole, i: int, j: int, depths: Depths, far: int) -> int:
    u, v = cells[j, 0] - cells[i, 0] + far, cells[j, 1] - cells[i, 1] + far
    if u < 0 or v < 0 or u > 2 * far or v > 2 * far:
        return 0
    return int(depths[who[i], who[j], u % _STEP, v % _STEP, u // _STEP, v // _STEP])


@numba.njit(cache=True)
def _next(state: int) -> int:
    """The next of a row of numbers that look thrown."""
    return (state * 1103515245 + 12345) & 0x7FFFFFFF


@numba.njit(cache=True)
def _weigh(
    field: Cells,
    moved: int,
    variant: int,
    who: Whole,
    cells: Whole,
    weights: Cells,
    coarse: Cells,
    depths: Depths,
    reach: Whole,
    far: int,
) -> None:
    """What the station would overlap, at every few cells."""
    nx, ny = field.shape
    field[:, :] = coarse[variant]
    for other in range(len(who)):
        if other == moved:
            continue
        of, weight = who[other], weights[moved, other]
        x, over_x = divmod(far - cells[other, 0], _STEP)
        y, over_y = divmod(far - cells[other, 1], _STEP)
        u0, u1 = max(reach[of, variant, 0] - x, 0), min(reach[of, variant, 1] - x, nx)
        v0, v1 = max(reach[of, variant, 2] - y, 0), min(reach[of, variant, 3] - y, ny)
        if v1 <= v0:
            continue
        deep = depths[of, variant, over_x, over_y]
        for u in range(u0, u1):
            row, more = field[u, v0:v1], deep[u + x, v0 + y : v1 + y]
            for v in range(v1 - v0):
                row[v] += weight * more[v]


@numba.njit(cache=True)
def _least(field: Cells) -> int:
    least = np.int32(_CLOSED)
    for u in range(field.shape[0]):
        row, low = field[u], np.int32(_CLOSED)
        for v in range(field.shape[1]):
            low = min(low, row[v])
        least = min(least, low)
    return int(least)


@numba.njit(cache=True)
def _closely(
    x: int,
    y: int,
    moved: int,
    variant: int,
    who: Whole,
    cells: Whole,
    weights: Cells,
    rooms: Cells,
    depths: Depths,
    reach: Whole,
    far: int,
    field: Cells,
) -> tuple[int, int, int]:
    """The least the station would overlap round a cell, and where."""
    nx, ny = rooms.shape[1:]
    x0, y0, x1, y1 = max(0, x - _STEP + 1), max(0, y - _STEP + 1), x + _STEP, y + _STEP
    x1, y1 = min(nx, x1), min(ny, y1)
    for u in range(x1 - x0):
        for v in range(y1 - y0):
            field[u, v] = rooms[variant, x0 + u, y0 + v]
    for other in range(len(who)):
        if other == moved:
            continue
        of, weight = who[other], weights[moved, other]
        left, low = far - cells[other, 0], far - cells[other, 1]
        if (
            x1 + left <= reach[of, variant, 0] * _STEP
            or x0 + left >= reach[of, variant, 1] * _STEP
            or y1 + low <= reach[of, variant, 2] * _STEP
            or y0 + low >= reach[of, variant, 3] * _STEP
        ):
            continue
        deep = depths[of, variant]
        for u in range(max(0, x0 + left), min(2 * far + 1, x1 + left)):
            for v in range(max(0, y0 + low), min(2 * far + 1, y1 + low)):
                field[u - left - x0, v - low - y0] += (
                    weight * deep[u % _STEP, v % _STEP, u // _STEP, v // _STEP]
                )
    least, to_x, to_y = _CLOSED, x, y
    for u in range(x1 - x0):
        for v in range(y1 - y0):
            if field[u, v] < least:
                least, to_x, to_y = int(field[u, v]), x0 + u, y0 + v
    return least, to_x, to_y


@numba.njit(cache=True)
def _one_of(field: Cells, least: int, state: int) -> tuple[int, int, int]:
    """One of the cells with so little, any of them."""
    count, x, y = 0, 0, 0
    for u in range(field.shape[0]):
        row = field[u]
        for v in range(field.shape[1]):
            if row[v] == least:
                count += 1
                state = _next(state)
                if (state >> 8) % count == 0:
                    x, y = u, v
    return x, y, state


@numba.njit(cache=True)
def _search(
    who: Whole,
    cells: Whole,
    places: Array,
    of_kind: Whole,
    rooms: Cells,
    coarse: Cells,
    depths: Depths,
    reach: Whole,
    far: int,
    cell: float,
    origin: Array,
    edges: Array,
    regions: Whole,
    walls: Whole,
    bounds: Array,
    work: float,
) -> bool:
    """Move stations until all stand clear, then ``places`` says where; not found: False."""
    count, variants = len(who), len(rooms)
    field = np.empty(coarse.shape[1:], np.int32)
    close = np.empty((2 * _STEP, 2 * _STEP), np.int32)
    weights = np.full((count, count), _WEIGHT, np.int32)
    order, state = np.arange(count), 1
    one = field.size + count * (reach[0, 0, 1] - reach[0, 0, 0]) * (reach[0, 0, 3] - reach[0, 0, 2])
    while work > 0:
        better = False
        for last in range(count - 1, 0, -1):
            state = _next(state)
            other = (state >> 8) % (last + 1)
            order[last], order[other] = order[other], order[last]
        for at in range(count):
            i = int(order[at])
            now = 0 if rooms[who[i], cells[i, 0], cells[i, 1]] == 0 else _CLOSED
            for j in range(count):
                now += weights[i, j] * _depth(who, cells, i, j, depths, far) if j != i else 0
            if now == 0:
                continue
            kind, before = of_kind[who[i]], now
            best = who[i], cells[i, 0], cells[i, 1]
            for variant in range(variants):
                if of_kind[variant] != kind:
                    continue
                work -= one
                _weigh(field, i, variant, who, cells, weights, coarse, depths, reach, far)
                about = _least(field)
                if about >= _CLOSED:
                    continue
                x, y, state = _one_of(field, about, state)
                least, to_x, to_y = _closely(
                    x * _STEP,
                    y * _STEP,
                    i,
                    variant,
                    who,
                    cells,
                    weights,
                    rooms,
                    depths,
                    reach,
                    far,
                    close,
                )
                if least < now:
                    now, better = least, True
                    best = variant, to_x, to_y
            if now < before:
                who[i], cells[i, 0], cells[i, 1] = best
        deepest, in_all = _overlaps(who, cells, depths, far)
        if better and deepest > 0:
            continue
        if deepest <= _NEAR * _PARTS and in_all <= _NEAR_IN_ALL * _PARTS:
            for i in range(count):
                for axis in range(2):
                    places[i, axis] = origin[axis] + cells[i, axis] * cell
            apart, looked = _push_apart(who, places, edges, regions, walls, bounds, cell)
            if apart:
                return True
            work -= looked * _EDGE
        if deepest == 0:
            # Clear but for what rooms lack: one of them goes anywhere.
            state = _next(state)
            i = (state >> 8) % count
            x, y, state = _one_of(coarse[who[i]], 0, state)
            cells[i, 0], cells[i, 1] = x * _STEP, y * _STEP
            deepest, _ = _overlaps(who, cells, depths, far)
        for i in range(count):
            for j in range(i):
                deep = _depth(who, cells, i, j, depths, far)
                if deep > 0:
                    more = max(1, _WEIGHT * deep // max(1, deepest))
                    weights[i, j] = min(_MOST_WEIGHT, weights[i, j] + more)
                    weights[j, i] = weights[i, j]
    return False


@numba.njit(cache=True)
def _overlaps(who: Whole, cells: Whole, depths: Depths, far: int) -> tuple[int, int]:
    """The deepest, and all together."""
    deepest = in_all = 0
    for i in range(len(who)):
        for j in range(i):
            deep = _depth(who, cells, i, j, depths, far)
            deepest, in_all = max(deepest, deep), in_all + deep
    return deepest, in_all


@numba.njit(cache=True)
def _push_apart(
    who: Whole,
    places: Array,
    edges: Array,
    regions: Whole,
    walls: Whole,
    bounds: Array,
    cell: float,
) -> tuple[bool, int]:
    """Push every two that overlap apart, the shortest way, until none do; and how many edges were
    looked at. False where they stay.
    """
    count, pairs, looked, before = len(who), 0, 0, 1e9
    near = np.empty((count * count, 2), np.int64)
    for i in range(count):
        for j in range(i):
            box = bounds[who[j], who[i]]
            x, y = places[i, 0] - places[j, 0], places[i, 1] - places[j, 1]
            over = 6 * cell
            if box[0] - over < x < box[2] + over and box[1] - over < y < box[3] + over:
                near[pairs, 0], near[pairs, 1] = i, j
                pairs += 1
    for sweep in range(_SWEEPS):
        worst = 0.0
        for pair in range(pairs):
            i, j = near[pair]
            x, y = places[i, 0] - places[j, 0], places[i, 1] - places[j, 1]
            box = bounds[who[j], who[i]]
            if x <= box[0] or y <= box[1] or x >= box[2] or y >= box[3]:
                continue
            start, end = regions[who[j], who[i]]
            looked += end - start
            inside, deep, to_x, to_y = _nearest(edges, start, end, x, y)
            if inside and deep > 0:
                worst = max(worst, deep)
                half = 0.5 + _OVER / max(deep, _OVER)
                for axis, by in enumerate((to_x - x, to_y - y)):
                    places[i, axis] += by * half
                    places[j, axis] -= by * half
        for i in range(count):
            start, end = walls[who[i]]
            looked += end - start
            inside, away, to_x, to_y = _nearest(edges, start, end, places[i, 0], places[i, 1])
            if not inside:
                worst = max(worst, away)
                places[i, 0], places[i, 1] = to_x, to_y
        if worst < _OVER:
            return True, looked
        if sweep % _LOOK == _LOOK - 1:
            if worst > _SLOWER * before:
                break
            before = worst
    return False, looked
