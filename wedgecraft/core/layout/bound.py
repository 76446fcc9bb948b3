"""Upper bounds: what no layout on the face can exceed. The smallest of several, each proven by
itself.

Area: bodies grown by half the gap are disjoint and lie in what bodies can reach; so is half of what
two stations keep each other off, where that is convex. Centres: points of a convex region at least
so far apart are no more than its area over that of a hexagon's cell, and half its rim over the
distance, and one (Oler, "An inequality in the geometry of numbers", Acta Mathematica 105, 1961;
Groemer, "Ueber die Einlagerung von Kreisen in einen konvexen Bereich", 1960). Boxes: where
centres keep off each other by at least a box, count grid points; each box covers a least number of
them, none is covered twice (a dual feasible function in the sense of Fekete and Schepers, "A
general framework for bounds for higher-dimensional orthogonal packing problems", 2004).
"""

from __future__ import annotations

import math
from collections.abc import Callable
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
_NONE = 10**9
_MOST_ROOM_CORNERS = 300
Point = tuple[float, float]
#: By kind, in the station's own frame.
Middles = dict[int, Point]
#: Two kinds, the turn of the second against the first, and where the second's origin may not be.
Relation = tuple[int, int, int, Area]


def upper_bound(problem: FaceProblem) -> int:
    """No layout on this face holds more stations than this, of all its kinds together."""
    if not problem.variants:
        return 0
    known = _KNOWN.get(problem.content)
    if known is None:
        known = max(1, min(_by_area(problem), _by_boxes(problem), _by_halves(problem)))
        if len(_KNOWN) > _MOST_KNOWN:
            _KNOWN.clear()
        _KNOWN[problem.content] = known
    return known


#: Bounds by what they follow from.
_KNOWN: dict[str, int] = {}
_MOST_KNOWN = 200


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
    if len(_kinds(problem)) != 1:
        return []
    part = _part_of(problem, problem.variants[0].kind)
    relative = _relative(problem)
    low, high = 0.0, math.sqrt(part.area)
    for _ in range(7):
        middle = (low + high) / 2
        grown = part.buffer(middle / 2, quad_segs=3)
        if all(
            region.covers(_difference(grown, turned_area(grown, turn)))
            for _, _, turn, region in relative
        ):
            low = middle
        else:
            high = middle
    if low == 0.0:
        return []
    return [
        turned_area(part.buffer(low / 2, quad_segs=3), variant.turn) for variant in problem.variants
    ]


def _by_halves(problem: FaceProblem) -> int:
    """About each of two middles: half of what stations keep each other off, whatever their turns
    and kinds, is disjoint from another's; and their middles are some way apart.
    """
    best = _NONE
    for middles in _middles(problem):
        region = _kept_off(problem, middles)
        if region is None:
            continue
        shapes = _halves(problem, middles, dict.fromkeys(middles, region))
        best = min(best, _area_bound(problem, shapes), _by_centres(problem, middles, region))
    return best


def _halves(problem: FaceProblem, middles: Middles, regions: dict[int, Area]) -> list[Area]:
    """Half of each kind's region about its middle, as its variants have it."""
    half = {kind: _scaled(region, 0.5) for kind, region in regions.items()}
    return [
        moved(turned_area(half[variant.kind], variant.turn), _middle(middles, variant))
        for variant in problem.variants
    ]


def _middle(middles: Middles, variant: Variant) -> Array:
    return turned(np.array(middles[variant.kind]), variant.turn)


def shares(problem: FaceProblem) -> list[tuple[dict[int, float], float]]:
    """What a station of each kind takes of the face, and what there is of it, mm²: by bodies with
    half the gap round them; and by half of what stations of its kind keep each other off, smaller
    by as much as the other kinds ask for.
    """
    found = [bodies_take(problem)]
    for middles in _middles(problem):
        regions = {kind: _kept_off(problem, middles, kind) for kind in middles}
        known = {kind: region for kind, region in regions.items() if region is not None}
        share = _together(problem, middles, known) if len(known) == len(regions) else 0.0
        if share:
            smaller = {kind: _scaled(region, share) for kind, region in known.items()}
            found.append(_take(problem, _halves(problem, middles, smaller)))
    return found


def bodies_take(problem: FaceProblem) -> tuple[dict[int, float], float]:
    """The first of ``shares``, at once."""
    return _take(problem, [_grown(problem, index) for index in range(len(problem.variants))])


def _take(problem: FaceProblem, shapes: list[Area]) -> tuple[dict[int, float], float]:
    """Of shapes that are disjoint, one for each variant: the smallest of each kind, and all that
    they can cover.
    """
    takes = {
        kind: min(
            shape.area - 8 * TOUCH_MM * shape.length
            for shape, variant in zip(shapes, problem.variants, strict=True)
            if variant.kind == kind
        )
        for kind in _kinds(problem)
    }
    return takes, float(reach(problem, shapes).area)


def _together(problem: FaceProblem, middles: Middles, regions: dict[int, Area]) -> float:
    """How large, against half of their own, shapes of several kinds may be that none overlaps
    another where stations stand clear.
    """
    about = [
        (first, second, turn, region)
        for first, second, turn, region in _about(problem, middles)
        if first != second
    ]
    for *_, region in about:
        shapely.prepare(region)

    def apart(share: float) -> bool:
        half = {kind: _scaled(region, share / 2) for kind, region in regions.items()}
        return all(
            region.covers(_difference(half[first], turned_area(half[second], turn)))
            for first, second, turn, region in about
        )

    return _largest(apart)


def _scaled(region: Area, share: float) -> Area:
    return shapely.transform(region, lambda corners: corners * share)


def _largest(holds: Callable[[float], bool]) -> float:
    """The largest share up to one that is known to hold, by halving; 0 where none is."""
    low, high = 0.0, 1.0
    if holds(high):
        return high
    for _ in range(8):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low


def _by_centres(problem: FaceProblem, middles: Middles, region: Area) -> int:
    """Oler's inequality: middles are as far apart as the largest disc in the region says."""
    hull = shapely.union_all(
        [
            moved(room, _middle(middles, variant))
            for room, variant in zip(problem.rooms, problem.variants, strict=True)
        ]
    ).convex_hull
    inner = shapely.intersection(region, turned_area(region, 90)) if _quarters(problem) else region
    apart = float(shapely.distance(inner.boundary, shapely.Point(0, 0))) - 4 * TOUCH_MM
    if apart <= 0:
        return _NONE
    cell = math.sqrt(3) / 2 * apart**2
    return math.floor(hull.area / cell + hull.length / (2 * apart) + 1 + _SLACK)


def _quarters(problem: FaceProblem) -> bool:
    return len({variant.turn % 180 for variant in problem.variants}) > 1


def _about(problem: FaceProblem, middles: Middles) -> list[Relation]:
    """Where the second's middle may not be about the first's."""
    return [
        (
            first,
            second,
            turn,
            moved(region, turned(np.array(middles[second]), turn) - np.array(middles[first])),
        )
        for first, second, turn, region in _relative(problem)
    ]


def _kept_off(problem: FaceProblem, middles: Middles, kind: int | None = None) -> Area | None:
    """A convex region, the same when turned half round, in which no other's middle lies about a
    station at turn 0 whatever its own turn, among stations of one kind or of all; one at a quarter
    turn keeps it off turned.
    """
    regions = [
        (turn, region)
        for first, second, turn, region in _about(problem, middles)
        if kind is None or first == second == kind
    ]
    level, quarter = (
        [turned_area(r, k) for turn, r in regions if (turn % 180 > 0) == aside for k in turns]
        for aside, turns in ((False, (0, 180)), (True, (0, 90, 180, 270)))
    )
    region = _convex(shapely.intersection_all(level))
    if region is None or not quarter:
        return region
    both = shapely.intersection_all(quarter)
    shapely.prepare(both)

    def apart(share: float) -> bool:
        half = _scaled(region, share / 2)
        return bool(both.covers(_difference(half, turned_area(half, 90))))

    share = _largest(apart)
    return _scaled(region, share) if share else None


def _convex(region: shapely.Geometry) -> Area | None:
    """What is left of a region about its middle when every hollow corner is cut off across."""
    origin = shapely.Point(0, 0)
    parts = [part for part in shapely.get_parts(region) if part.contains(origin)]
    if not parts:
        return None
    found: Area = parts[0]
    far = 4 * float(np.abs(found.bounds).max())
    loops = [found.exterior, *found.interiors]
    for loop in loops:
        corners = shapely.get_coordinates(loop)[:-1]
        before, after = (
            corners - np.roll(corners, 1, axis=0),
            np.roll(corners, -1, axis=0) - corners,
        )
        bends = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        hollow = corners[bends * (1 if shapely.is_ccw(loop) == (loop is loops[0]) else -1) < -1e-9]
        for corner in hollow:
            out = corner / max(1e-9, float(np.hypot(*corner)))
            along = np.array([-out[1], out[0]]) * far
            near, back = corner, -out * far
            kept = shapely.Polygon([near + along, near - along, back - along, back + along])
            found = next(
                (
                    part
                    for part in shapely.get_parts(shapely.intersection(found, kept))
                    if part.contains(origin)
                ),
                shapely.Polygon(),
            )
    if found.is_empty or found.interiors or found.area < 0.98 * found.convex_hull.area:
        return None
    # A hair of hollow that rounding leaves: shrunk until its hull lies in what was there.
    hull = found.convex_hull
    shrunk = shapely.transform(hull, lambda corners: corners * (1 - 1e-6))
    return shrunk if found.covers(shrunk) else None


def _kinds(problem: FaceProblem) -> list[int]:
    return sorted({variant.kind for variant in problem.variants})


def _middles(problem: FaceProblem) -> list[Middles]:
    """The middles of each station's box; and those of their parts' boxes, where they differ."""

    def middle(shape: Area) -> Point:
        x, y = np.round(shape.envelope.centroid.coords[0], 6)
        return float(x), float(y)

    kinds = _kinds(problem)
    boxes = {kind: middle(problem.geometry.bodies[kind]) for kind in kinds}
    parts = {kind: middle(_part_of(problem, kind)) for kind in kinds}
    return [boxes] if boxes == parts else [boxes, parts]


def _part_of(problem: FaceProblem, kind: int) -> Area:
    """The hull of the largest body of the kind, in its own frame."""
    layers = problem.geometry.kinds[kind].layers
    bodies = [shapely.Polygon(layer.outer) for layer in layers if layer.role == "body"]
    hull = max(bodies, key=lambda body: float(body.area)).convex_hull
    # Fewer corners of a hull span a smaller one: still on the safe side.
    corners = shapely.get_coordinates(hull)[:-1]
    return (
        shapely.convex_hull(shapely.linestrings(corners[:: -(-len(corners) // _MOST_CORNERS)]))
        if len(corners) > 3
        else hull
    )


def _relative(problem: FaceProblem) -> list[Relation]:
    """What one station keeps another off, for every two kinds and every turn of the other against
    its own; only their relative turn matters.
    """
    found: dict[tuple[int, int, int], Area] = {}
    for a, b in product(problem.variants, repeat=2):
        key = a.kind, b.kind, (b.turn - a.turn) % 360
        if key not in found:
            region = turned_area(problem.geometry.nofit(a, b), -a.turn)
            found[key] = region.buffer(2 * TOUCH_MM, join_style="mitre")
            shapely.prepare(found[key])
    return [(*key, region) for key, region in found.items()]


def _difference(first: Area, second: Area) -> Area:
    """All offsets of the second at which two convex shapes overlap."""
    a, b = (shapely.get_coordinates(shape)[:-1] for shape in (first, second))
    return shapely.convex_hull(shapely.linestrings((a[:, None, :] - b[None, :, :]).reshape(-1, 2)))


def _by_boxes(problem: FaceProblem) -> int:
    """Try boxes of several proportions; each that fits inside all no-fit regions gives a bound."""
    wide = deep = math.inf
    for variant in problem.variants:
        own = problem.geometry.nofit(variant, variant).bounds
        sides = (own[2] - own[0]) / 2, (own[3] - own[1]) / 2
        across, along = sides[::-1] if variant.turn % 180 else sides
        wide, deep = min(wide, across), min(deep, along)
    upright = [variant.turn % 180 == 90 for variant in problem.variants]
    best = _NONE
    for middles in _middles(problem):
        centres = [_middle(middles, variant) for variant in problem.variants]
        shifted = [(turn, region) for _, _, turn, region in _about(problem, middles)]
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


def _swept(room: Area, w: float, d: float) -> Area:
    """What boxes with their middle in a room can cover; of rooms with very many corners, and of
    what lies near curves, a little more.
    """
    half = np.array([[-w, -d], [w, -d], [w, d], [-w, d]]) / 2
    simple = shapely.simplify(room.buffer(0.05, join_style="mitre"), 0.05)
    if shapely.count_coordinates(simple) > _MOST_ROOM_CORNERS or not simple.covers(room):
        simple = room.envelope
    pieces = [
        shapely.get_coordinates(t.exterior)[:-1]
        for t in shapely.constrained_delaunay_triangles(simple).geoms
    ]
    return minkowski(pieces, [half])


def _points_bound(
    problem: FaceProblem, centres: list[Array], boxes: list[tuple[float, float]], best: int
) -> int:
    covers = []
    for room, centre, (w, d) in zip(problem.rooms, centres, boxes, strict=True):
        covers.append(_swept(moved(room, centre), w, d))
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
