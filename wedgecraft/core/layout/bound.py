"""Upper bounds: what no layout on the face can exceed. The smallest of several, each proven by
itself.

Area: bodies grown by half the gap are disjoint and lie in what bodies can reach. Boxes: where
centres keep off each other by at least a box, count grid points; each box covers a least number of
them, none is covered twice (a dual feasible function in the sense of Fekete and Schepers, "A
general framework for bounds for higher-dimensional orthogonal packing problems", 2004).
"""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import shapely
from shapely.geometry import box

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.layout.nofit import (
    TOUCH_MM,
    Area,
    Geometry,
    Variant,
    minkowski,
    moved,
    turned_area,
)
from wedgecraft.core.layout.search import Array, FaceProblem

_SLACK = 1e-6
_MOST_CORNERS = 32


def upper_bound(problem: FaceProblem) -> int:
    """No layout on this face holds more stations than this."""
    if not problem.variants:
        return 0
    return max(1, min(_by_area(problem), _by_boxes(problem)))


def at_a_glance(problem: FaceProblem) -> int:
    """A first bound at once: bodies are disjoint and inside the face."""
    smallest = min(
        float(problem.geometry.bodies[variant.kind].area) for variant in problem.variants
    )
    return math.floor(float(shapely.Polygon(problem.face.outer).area) / smallest + _SLACK)


def usable_area(problem: FaceProblem) -> float:
    """Face that some station's body with half the gap round it can cover, mm²: what stations take
    of it is never more.
    """
    return float(
        reach(problem, [_grown(problem, index) for index in range(len(problem.variants))]).area
    )


def taken(geometry: Geometry, variant: Variant) -> float:
    """Area a station takes: its body and half the gap round it, mm²."""
    return float(grown_body(geometry, variant).area)


def _grown(problem: FaceProblem, index: int) -> Area:
    return grown_body(problem.geometry, problem.variants[index])


def grown_body(geometry: Geometry, variant: Variant) -> Area:
    gap, body = geometry.clearance(variant, variant), geometry.body(variant)
    # Chords on the inside: never larger than the true set.
    return body.buffer(gap / 2, quad_segs=4) if gap else body


def reach(problem: FaceProblem, shapes: list[Area]) -> Area:
    """Everything the shapes can cover from where their stations may stand."""
    covers = []
    for room, shape in zip(problem.rooms, shapes, strict=True):
        hull = shapely.get_coordinates(shape.convex_hull)[:-1]
        pieces = [
            shapely.get_coordinates(t.exterior)[:-1]
            for t in shapely.constrained_delaunay_triangles(room).geoms
        ]
        if len(pieces) > 400:
            pieces = [shapely.get_coordinates(room.convex_hull)[:-1]]
        covers.append(minkowski(pieces, [hull]))
    return shapely.union_all(covers)


def _by_area(problem: FaceProblem) -> int:
    bodies = [_grown(problem, index) for index in range(len(problem.variants))]
    found = _area_bound(problem, bodies)
    cores = _cores(problem)
    return min(found, _area_bound(problem, cores)) if cores else found


def _area_bound(problem: FaceProblem, shapes: list[Area]) -> int:
    smallest = min(shape.area for shape in shapes) - 8 * TOUCH_MM * max(
        shape.length for shape in shapes
    )
    return math.floor(reach(problem, shapes).area / smallest + _SLACK)


def _cores(problem: FaceProblem) -> list[Area]:
    """The parts of one kind, grown as far as no two of them may come nearer whatever their turns:
    cutters keep neighbours off.

    Stops and clamps of a neighbour may reach into such a shape, but two of them never overlap.
    """
    if len({variant.kind for variant in problem.variants}) != 1:
        return []
    part = _part_of(problem)
    relative = _relative(problem)
    low, high = 0.0, math.sqrt(part.area)
    for _ in range(7):
        middle = (low + high) / 2
        grown = part.buffer(middle / 2, quad_segs=3)
        if all(
            region.covers(_difference(grown, turned_area(grown, turn))) for turn, region in relative
        ):
            low = middle
        else:
            high = middle
    if low == 0.0:
        return []
    return [
        turned_area(part.buffer(low / 2, quad_segs=3), variant.turn) for variant in problem.variants
    ]


def _part_of(problem: FaceProblem) -> Area:
    """The hull of the largest body of the kind, in its own frame."""
    kind = problem.geometry.kinds[problem.variants[0].kind]
    bodies = [shapely.Polygon(layer.outer) for layer in kind.layers if layer.role == "body"]
    hull = max(bodies, key=lambda body: float(body.area)).convex_hull
    # Fewer corners of a hull span a smaller one: still on the safe side.
    corners = shapely.get_coordinates(hull)[:-1]
    return (
        shapely.convex_hull(shapely.linestrings(corners[:: -(-len(corners) // _MOST_CORNERS)]))
        if len(corners) > 3
        else hull
    )


def _relative(problem: FaceProblem) -> list[tuple[int, Area]]:
    """What one station keeps another off, for every turn of the other against its own; only their
    relative turn matters.
    """
    found: dict[int, Area] = {}
    for a in problem.variants:
        for b in problem.variants:
            turn = (b.turn - a.turn) % 360
            if turn not in found:
                region = problem.geometry.nofit(a, b)
                found[turn] = turned_area(region, -a.turn).buffer(2 * TOUCH_MM, join_style="mitre")
                shapely.prepare(found[turn])
    return list(found.items())


def _difference(first: Area, second: Area) -> Area:
    """All offsets of the second at which two convex shapes overlap."""
    a, b = (shapely.get_coordinates(shape)[:-1] for shape in (first, second))
    return shapely.convex_hull(shapely.linestrings((a[:, None, :] - b[None, :, :]).reshape(-1, 2)))


def _by_boxes(problem: FaceProblem) -> int:
    """Try boxes of several proportions; each that fits inside all no-fit regions gives a bound."""
    if len({variant.kind for variant in problem.variants}) != 1:
        return 10**9
    relative, geometry = _relative(problem), problem.geometry
    own = geometry.nofit(problem.variants[0], problem.variants[0]).bounds
    wide, deep = (own[2] - own[0]) / 2, (own[3] - own[1]) / 2
    if problem.variants[0].turn % 180:
        wide, deep = deep, wide
    upright = [variant.turn % 180 == 90 for variant in problem.variants]
    best = 10**9
    body = turned_area(geometry.body(problem.variants[0]), -problem.variants[0].turn)
    middles = {
        tuple(np.round(shape.envelope.centroid.coords[0], 6)) for shape in (body, _part_of(problem))
    }
    for middle in sorted(middles):
        centres = [turned(np.array(middle), variant.turn) for variant in problem.variants]
        shifted = [
            (turn, moved(region, turned(np.array(middle), turn) - np.array(middle)))
            for turn, region in relative
        ]
        for _, region in shifted:
            shapely.prepare(region)
        for box_size in _boxes_apart(shifted, wide, deep):
            boxes = [box_size[::-1] if stands else box_size for stands in upright]
            best = min(best, _points_bound(problem, centres, boxes, best))
    return best


def _boxes_apart(
    regions: list[tuple[int, Area]], wide: float, deep: float
) -> list[tuple[float, float]]:
    """For several widths, the deepest box that two stations keep apart by whatever their turns."""
    found: list[tuple[float, float]] = []
    for share in (1.0, 0.95, 0.9, 0.85, 0.8, 0.75, 0.7, 0.6, 0.5):
        width, low, high = share * wide, 0.0, deep
        if not _apart(regions, width, deep):
            for _ in range(7):
                middle = (low + high) / 2
                low, high = (middle, high) if _apart(regions, width, middle) else (low, middle)
        else:
            low = deep
        if low > 0.2 * deep and (not found or low > found[-1][1] * 1.001):
            found.append((width, low))
    return found


def _apart(regions: list[tuple[int, Area]], wide: float, deep: float) -> bool:
    for turn, region in regions:
        width, depth = ((wide + deep) / 2,) * 2 if turn % 180 else (wide, deep)
        if not region.covers(box(-width, -depth, width, depth)):
            return False
    return True


def _points_bound(
    problem: FaceProblem, centres: list[Array], boxes: list[tuple[float, float]], best: int
) -> int:
    covers = []
    for room, centre, (w, d) in zip(problem.rooms, centres, boxes, strict=True):
        moved_room = moved(room, centre)
        # Only the bounding box of each part of the room: a superset is on the safe side and cheap.
        parts = getattr(moved_room, "geoms", [moved_room])
        covers += [
            box(p.bounds[0] - w / 2, p.bounds[1] - d / 2, p.bounds[2] + w / 2, p.bounds[3] + d / 2)
            for p in parts
        ]
    cover = shapely.union_all(covers)
    left, low, right, high = cover.bounds
    edges_x = {w for w, _ in boxes}
    edges_y = {d for _, d in boxes}
    # Boxes lose a hair so that touching layouts are surely disjoint; the face gained the same hair.
    hair = 4 * TOUCH_MM
    steps_x = {(edge - hair) / k for edge in edges_x | edges_y for k in range(1, 7)}
    steps_y = {(edge - hair) / k for edge in edges_x | edges_y for k in range(1, 7)}
    plain = abs(cover.area - (right - left) * (high - low)) < 1e-9 * cover.area
    for step_x, step_y in product(sorted(steps_x), sorted(steps_y)):
        least = min(
            math.floor((w - hair) / step_x + 1e-12) * math.floor((d - hair) / step_y + 1e-12)
            for w, d in boxes
        )
        if least < 1:
            continue
        columns, rows = (
            math.floor((right - left) / step_x + 1e-12),
            math.floor((high - low) / step_y + 1e-12),
        )
        if plain and columns * rows // least >= best:
            continue
        # Boxes and face are taken half open: the first point lies one step in, so floor(length /
        # step) lie in a length.
        points = columns * rows
        if not plain and points <= 40_000:
            xs = left + step_x * (np.arange(columns) + 1)
            ys = low + step_y * (np.arange(rows) + 1)
            xx, yy = np.meshgrid(xs, ys)
            points = int(shapely.intersects_xy(cover, xx.ravel(), yy.ravel()).sum())
        best = min(best, points // least)
    return best
