"""From loose curves to loops, and from loops to outlines with holes and islands."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

Array = NDArray[np.float64]
#: Coordinates nearer than this are one point.
_SAME_MM = 1e-9
#: Pieces whose points agree to this many decimals were drawn twice.
_TWICE_DECIMALS = 6


class LoopFault(ValueError):
    """Loops that make no outline: what was found, and what to do."""

    def __init__(self, what: str, remedy: str) -> None:
        super().__init__(f"{what}; {remedy}")
        self.what, self.remedy = what, remedy


@dataclass(frozen=True)
class Gap:
    """Two ends that were joined, or that stayed apart: where, and how far."""

    x_mm: float
    y_mm: float
    gap_mm: float


@dataclass
class Chained:
    """Closed loops (last point not repeated), gaps closed on the way, and chains that do not close:
    their gaps, and their points.
    """

    loops: list[Array] = field(default_factory=list)
    healed: list[Gap] = field(default_factory=list)
    open: list[Gap] = field(default_factory=list)
    loose: list[Array] = field(default_factory=list)
    twice: int = 0


@dataclass(frozen=True)
class Nested:
    """One part: its outer loop, the holes in it, what stands in the holes."""

    outer: Polygon
    holes: list[Polygon]
    islands: list[Polygon]


def chain(pieces: list[Array], join_mm: float) -> Chained:
    """Join pieces end to end, nearest ends first, over gaps up to ``join_mm``; order and direction
    do not matter.

    Pieces are (n, 2), or (n, 3) with what ``arcs`` says of each point, and loops are as they are.
    """
    found = Chained()
    loose = _each_once(pieces, found)
    rest = []
    for piece in loose:
        gap = math.dist(piece[0], piece[-1]) if len(piece) >= 4 else math.inf
        if gap <= join_mm and (gap <= _SAME_MM or gap < 0.5 * _length(piece)):
            _close(piece, gap, found)
        else:
            rest.append(piece)
    ends: dict[tuple[int, int], list[int]] = {}
    for index, piece in enumerate(rest):
        for end in (piece[0], piece[-1]):
            ends.setdefault(_cell(end, join_mm), []).append(index)
    unused = [True] * len(rest)
    for start in range(len(rest)):
        if unused[start]:
            unused[start] = False
            _follow(start, rest, ends, unused, join_mm, found)
    return found


def _each_once(pieces: list[Array], found: Chained) -> list[Array]:
    """Without points that repeat, pieces of no length, and pieces drawn twice in either
    direction.
    """
    if not pieces:
        return []
    every = np.concatenate(pieces)
    sizes = np.array([len(piece) for piece in pieces])
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    step = np.concatenate([[True], np.abs(np.diff(every, axis=0)).max(axis=1) > _SAME_MM])
    step[starts] = True
    left = np.add.reduceat(step, starts)
    rounded = np.round(every, _TWICE_DECIMALS) + 0.0
    seen: set[bytes] = set()
    kept = []
    for piece, start, size, distinct in zip(
        pieces, starts.tolist(), sizes.tolist(), left.tolist(), strict=True
    ):
        if distinct < 2:
            continue
        same = rounded[start : start + size]
        forward = same.tobytes()
        if forward in seen or same[::-1].tobytes() in seen:
            found.twice += 1
            continue
        seen.add(forward)
        kept.append(piece if distinct == size else piece[step[start : start + size]])
    return kept


def _length(piece: Array) -> float:
    return float(np.linalg.norm(np.diff(piece[:, :2], axis=0), axis=1).sum())


def _close(points: Array, gap: float, found: Chained) -> None:
    if gap > _SAME_MM:
        found.healed.append(Gap(float(points[-1][0]), float(points[-1][1]), gap))
    found.loops.append(points[:-1])  # of two joined ends one stays: both would leave a tiny zigzag


def _follow(
    start: int,
    pieces: list[Array],
    ends: dict[tuple[int, int], list[int]],
    unused: list[bool],
    join_mm: float,
    found: Chained,
) -> None:
    """Grow a chain from both ends of a piece until it closes or nothing is near."""
    run = [pieces[start]]
    healed: list[Gap] = []
    for _ in range(2):
        while True:
            head, tail = run[0][0], run[-1][-1]
            step = _nearest(tail, pieces, ends, unused, join_mm)
            back = float(np.linalg.norm(head - tail))
            if step is None or (len(run) > 1 and back <= join_mm and back <= step[0]):
                break
            gap, index, piece = step
            unused[index] = False
            if gap > _SAME_MM:
                healed.append(Gap(float(tail[0]), float(tail[1]), gap))
            run.append(piece[1:])
        run = [part[::-1] for part in reversed(run)]
    points = np.concatenate(run)
    gap = float(np.linalg.norm(points[0] - points[-1]))
    if len(points) >= 4 and gap <= join_mm and gap < 0.5 * _length(points):
        found.healed += healed
        _close(points, gap, found)
    else:
        found.open.append(Gap(float(points[-1][0]), float(points[-1][1]), gap))
        found.loose.append(points)


#: More loose chains than this are not tried together.
_MOST_LOOSE = 500


def what_keeps_open(loose: list[Array], most_mm: float) -> tuple[Gap, bool]:
    """The gap that keeps chains from closing, and whether joining ends over it (at most
    ``most_mm``) gives a loop.

    Of all gaps that have to be closed together, the widest; where no loop comes of it, the two ends
    nearest to each other.
    """
    gaps = _gaps_between(loose)
    if len(loose) <= _MOST_LOOSE:
        steps = [gap for gap in gaps if gap.gap_mm <= most_mm]
        low, high = 0, len(steps)
        while low < high:  # joining farther never opens a loop
            middle = (low + high) // 2
            low, high = (
                (low, middle)
                if chain(loose, steps[middle].gap_mm + _SAME_MM).loops
                else (middle + 1, high)
            )
        if low < len(steps):
            return steps[low], True
    return gaps[0], False


def _gaps_between(loose: list[Array]) -> list[Gap]:
    """From each end to the one nearest to it, and between the two ends of each chain, narrowest
    first.
    """
    from scipy.spatial import (
        cKDTree,
    )  # only where a drawing is refused: not before pages are served

    ends = np.array([end[:2] for piece in loose for end in (piece[0], piece[-1])])
    tree = cKDTree(ends)
    apart, near = tree.query(ends, k=min(3, len(ends)))
    found = {
        (min(one, other), max(one, other)): far
        for one in range(len(ends))
        for far, other in zip(apart[one], near[one], strict=True)
    }
    found |= {
        (2 * k, 2 * k + 1): math.dist(piece[0][:2], piece[-1][:2]) for k, piece in enumerate(loose)
    }
    return sorted(
        (
            Gap(
                float(ends[[one, other], 0].mean()), float(ends[[one, other], 1].mean()), float(far)
            )
            for (one, other), far in found.items()
            if one != other
        ),
        key=lambda gap: gap.gap_mm,
    )


def _cell(point: Array, size: float) -> tuple[int, int]:
    return math.floor(point[0] / size), math.floor(point[1] / size)


def _nearest(
    end: Array,
    pieces: list[Array],
    ends: dict[tuple[int, int], list[int]],
    unused: list[bool],
    join_mm: float,
) -> tuple[float, int, Array] | None:
    """The unused piece that starts or ends nearest to here, turned to start here."""
    column, row = _cell(end, join_mm)
    best: tuple[float, int, bool] | None = None
    for dx in (-1, 0, 1):
        for dy in (-1, 0, 1):
            bucket = ends.get((column + dx, row + dy))
            if not bucket:
                continue
            bucket[:] = [index for index in bucket if unused[index]]
            for index in bucket:
                piece = pieces[index]
                for backwards, point in ((False, piece[0]), (True, piece[-1])):
                    gap = math.hypot(point[0] - end[0], point[1] - end[1])
                    if gap <= join_mm and (best is None or (gap, index, backwards) < best):
                        best = (gap, index, backwards)
    if best is None:
        return None
    gap, index, backwards = best
    return gap, index, pieces[index][::-1] if backwards else pieces[index]


def nest(loops: list[Array]) -> tuple[list[Nested], list[str]]:
    """Outlines, largest first, with notes on what was left out. Raises LoopFault for loops that
    cross.
    """
    polygons, notes = _polygons(loops)
    parents = _parents(polygons)
    depth = [0] * len(polygons)
    for index, parent in enumerate(parents):  # parents are larger, so they come first
        depth[index] = 0 if parent is None else depth[parent] + 1
    inside: dict[int, list[int]] = {}
    for index, parent in enumerate(parents):
        if parent is not None:
            inside.setdefault(parent, []).append(index)
    found = []
    for index, polygon in enumerate(polygons):
        if depth[index]:
            continue
        holes = inside.get(index, [])
        islands = sorted(island for hole in holes for island in inside.get(hole, []))
        found.append(Nested(polygon, [polygons[k] for k in holes], [polygons[k] for k in islands]))
    deeper = sum(1 for item in depth if item > 2)
    if deeper:
        notes.append(f"{deeper} loops inside islands were left out")
    return found, notes


def _polygons(loops: list[Array]) -> tuple[Any, list[str]]:
    """Valid polygons, largest first, each once, as an array."""
    long_enough = [loop for loop in loops if len(loop) >= 3]
    sizes = [len(loop) for loop in long_enough]
    if not sizes:
        raise LoopFault(
            "the loops found have no area", "draw the outline as a closed loop around the part"
        )
    rings = shapely.linearrings(
        np.concatenate(long_enough), indices=np.repeat(np.arange(len(sizes)), sizes)
    )
    every = shapely.polygons(rings)
    solid = shapely.area(shapely.convex_hull(every)) >= 1e-6
    found = every[solid]
    if not len(found):
        raise LoopFault(
            "the loops found have no area", "draw the outline as a closed loop around the part"
        )
    wrong = np.flatnonzero(~shapely.is_valid(found))
    if len(wrong):
        raise LoopFault(
            f"a loop crosses itself: {shapely.is_valid_reason(found[wrong[0]])}",
            "draw it as one simple loop",
        )
    areas = shapely.area(found)
    order = np.lexsort((np.arange(len(found)), -areas))
    found = found[order]
    once = _once(found, areas[order])
    flat = len(loops) - int(solid.sum())
    notes = [f"{flat} loops without area were left out"] if flat else []
    if len(once) < len(found):
        notes.append(f"{len(found) - len(once)} loops drawn twice were taken once")
    return found[once], notes


def _once(polygons: Any, areas: Array) -> list[int]:
    """Indices without the copies: same area, same centre, and equal."""
    centres = shapely.get_coordinates(shapely.centroid(polygons))
    known: dict[tuple[float, ...], list[int]] = {}
    kept = []
    for index, key in enumerate(
        map(tuple, np.round(np.column_stack([areas, centres]), 4).tolist())
    ):
        same = known.setdefault(key, [])
        if not any(
            shapely.equals(polygons[other], polygons[index])
            or _near(polygons[other], polygons[index])
            for other in same
        ):
            same.append(index)
            kept.append(index)
    return kept


def _near(first: Any, second: Any) -> bool:
    return bool(shapely.hausdorff_distance(first, second) < 1e-5)


def _parents(polygons: Any) -> list[int | None]:
    """The smallest polygon each lies inside of. Raises LoopFault where two cross or touch."""
    count = len(polygons)
    first, second = _overlapping_boxes(polygons)
    shapely.prepare(polygons)
    inside = shapely.contains_properly(polygons[first], polygons[second])
    outer, inner = first[inside], second[inside]
    first, second = first[~inside], second[~inside]
    meets = shapely.intersects(polygons[first], polygons[second])
    crossing = first[meets] * count + second[meets]
    if len(crossing):
        where = _meeting(polygons[crossing[0] // count], polygons[crossing[0] % count])
        raise LoopFault(
            f"two loops cross or touch each other near X{where[0]:.2f} Y{where[1]:.2f}",
            "draw them as separate loops, one inside the other",
        )
    parents = np.full(count, -1)
    np.maximum.at(parents, inner, outer)
    return [None if parent < 0 else int(parent) for parent in parents]


_MOST_PAIRS, _AT_A_TIME = 4_000_000, 500


def _overlapping_boxes(polygons: Any) -> tuple[Any, Any]:
    """Pairs whose boxes meet, the larger of each first, as only it can hold the other. Raises
    LoopFault where there are millions.
    """
    tree = shapely.STRtree(polygons)
    found, pairs = [], 0
    for start in range(0, len(polygons), _AT_A_TIME):
        first, second = tree.query(polygons[start : start + _AT_A_TIME])
        first = first + start
        found.append((first[first < second], second[first < second]))
        pairs += len(found[-1][0])
        if pairs > _MOST_PAIRS:
            raise LoopFault(
                f"more than {_MOST_PAIRS:,} pairs of its loops lie over one another",
                "export the outline's layer only",
            )
    return np.concatenate([pair[0] for pair in found]), np.concatenate([pair[1] for pair in found])


def _meeting(first: Any, second: Any) -> tuple[float, float]:
    point = first.exterior.intersection(second.exterior)
    if point.is_empty:
        point = second
    point = point.representative_point()
    return float(point.x), float(point.y)


def rings_of(polygons: Sequence[Polygon]) -> list[list[tuple[float, float]]]:
    """Exteriors to a millionth of a millimetre, the last point of each not repeated; in bulk, as a
    drawing can have thousands.
    """
    if not polygons:
        return []
    rings = shapely.get_exterior_ring(np.array(polygons, dtype=object))
    points, which = shapely.get_coordinates(rings, return_index=True)
    every = list(map(tuple, np.round(points, 6).tolist()))
    ends = np.searchsorted(which, np.arange(len(polygons)), side="right").tolist()
    return [every[start : end - 1] for start, end in zip([0, *ends], ends, strict=False)]
