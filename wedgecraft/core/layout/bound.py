"""Upper bounds: what no layout on the face can exceed. The smallest of several, each proven by itself.

Area: bodies grown by half the gap are disjoint and lie in what bodies can reach. Boxes: where centres keep off each other by at
least a box, count grid points; each box covers a least number of them, none is covered twice (a dual feasible function in the
sense of Fekete and Schepers, "A general framework for bounds for higher-dimensional orthogonal packing problems", 2004).
"""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import shapely
from shapely.geometry import box

from wedgecraft.core.layout.nofit import TOUCH_MM, Area, minkowski, moved
from wedgecraft.core.layout.search import Array, FaceProblem

_SLACK = 1e-6


def upper_bound(problem: FaceProblem) -> int:
    """No layout on this face holds more stations than this."""
    if not problem.variants:
        return 0
    return max(1, min(_by_area(problem), _by_boxes(problem)))


def usable_area(problem: FaceProblem) -> float:
    """Face that some station's body with half the gap round it can cover, mm²: what stations take of it is never more."""
    return float(reach(problem, [_grown(problem, index) for index in range(len(problem.variants))]).area)


def used_area(problem: FaceProblem) -> list[float]:
    """Area a station of each variant takes: its body and half the gap round it, mm²."""
    return [float(_grown(problem, index).area) for index in range(len(problem.variants))]


def _grown(problem: FaceProblem, index: int) -> Area:
    variant = problem.variants[index]
    gap = problem.geometry.clearance(variant, variant)
    body = problem.geometry.body(variant)
    # Chords on the inside: never larger than the true set.
    return body.buffer(gap / 2, quad_segs=4) if gap else body


def reach(problem: FaceProblem, shapes: list[Area]) -> Area:
    """Everything the shapes can cover from where their stations may stand."""
    covers = []
    for room, shape in zip(problem.rooms, shapes, strict=True):
        hull = shapely.get_coordinates(shape.convex_hull)[:-1]
        pieces = [shapely.get_coordinates(t.exterior)[:-1] for t in shapely.constrained_delaunay_triangles(room).geoms]
        if len(pieces) > 400:
            pieces = [shapely.get_coordinates(room.convex_hull)[:-1]]
        covers.append(minkowski(pieces, [hull]))
    return shapely.union_all(covers)


def _by_area(problem: FaceProblem) -> int:
    grown = [_grown(problem, index) for index in range(len(problem.variants))]
    smallest = min(shape.area for shape in grown) - 8 * TOUCH_MM * max(shape.length for shape in grown)
    return math.floor(reach(problem, grown).area / smallest + _SLACK)


def _by_boxes(problem: FaceProblem) -> int:
    """Try boxes of several proportions; each that fits inside all no-fit regions gives a bound."""
    count = len(problem.variants)
    regions = {}
    centres = [np.array([(b[0] + b[2]) / 2, (b[1] + b[3]) / 2]) for b in (problem.nofit(i, i).bounds for i in range(count))]
    sizes = []
    for i in range(count):
        left, low, right, high = problem.nofit(i, i).bounds
        sizes.append(((right - left) / 2, (high - low) / 2))
        body = problem.geometry.body(problem.variants[i]).bounds
        centres[i] = np.array([(body[0] + body[2]) / 2, (body[1] + body[3]) / 2])
    for i in range(count):
        for j in range(count):
            region = moved(problem.nofit(i, j), centres[j] - centres[i]).buffer(2 * TOUCH_MM, join_style="mitre")
            shapely.prepare(region)
            regions[i, j] = region
    best = 10**9
    own_axes = [problem.variants[i].turn % 180 == problem.variants[0].turn % 180 for i in range(count)]
    wide, deep = sizes[0]
    shares = [1.0, 0.95, 0.9, 0.85, 0.8, 0.75, 0.7, 0.6, 0.5]
    for share_x in shares:
        for share_y in shares:
            first = (wide * share_x, deep * share_y)
            boxes = [first if same else (first[1], first[0]) for same in own_axes]
            if _separates(regions, boxes):
                best = min(best, _points_bound(problem, centres, boxes, best))
                break
        else:
            continue
        if share_y == 1.0:
            break
    return best


def _separates(regions: dict[tuple[int, int], Area], boxes: list[tuple[float, float]]) -> bool:
    for (i, j), region in regions.items():
        width, depth = (boxes[i][0] + boxes[j][0]) / 2, (boxes[i][1] + boxes[j][1]) / 2
        if not region.covers(box(-width, -depth, width, depth)):
            return False
    return True


def _points_bound(problem: FaceProblem, centres: list[Array], boxes: list[tuple[float, float]], best: int) -> int:
    covers = []
    for room, centre, (w, d) in zip(problem.rooms, centres, boxes, strict=True):
        moved_room = moved(room, centre)
        # Only the bounding box of each part of the room: a superset is on the safe side and cheap.
        parts = getattr(moved_room, "geoms", [moved_room])
        covers += [box(p.bounds[0] - w / 2, p.bounds[1] - d / 2, p.bounds[2] + w / 2, p.bounds[3] + d / 2) for p in parts]
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
        least = min(math.floor((w - hair) / step_x + 1e-12) * math.floor((d - hair) / step_y + 1e-12) for w, d in boxes)
        if least < 1:
            continue
        columns, rows = math.floor((right - left) / step_x + 1e-12), math.floor((high - low) / step_y + 1e-12)
        if plain and columns * rows // least >= best:
            continue
        # Boxes and face are taken half open: the first point lies one step in, so floor(length / step) lie in a length.
        points = columns * rows
        if not plain and points <= 40_000:
            xs = left + step_x * (np.arange(columns) + 1)
            ys = low + step_y * (np.arange(rows) + 1)
            xx, yy = np.meshgrid(xs, ys)
            points = int(shapely.intersects_xy(cover, xx.ravel(), yy.ravel()).sum())
        best = min(best, points // least)
    return best
