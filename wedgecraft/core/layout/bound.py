"""Upper bounds: what no layout on the face can exceed. The smallest of several, each proven by
itself.

Area: bodies grown by half the gap are disjoint and lie in what bodies can reach; so is half of what
two stations keep each other off, where that is convex. Centres: points of a convex region that are
at least one apart, as a convex region about each of them measures, are no more than its area over
the least cell, and half its rim, and one (Oler, "An inequality in the geometry of numbers", Acta
Mathematica 105, 1961; for discs Groemer, "Ueber die Einlagerung von Kreisen in einen konvexen
Bereich", 1960). Boxes: where centres keep off each other by at least a box, points under them
(``points``).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import combinations, product

import numpy as np
import shapely
from numpy.typing import NDArray

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.layout import points
from wedgecraft.core.layout.nofit import (
    TOUCH_MM,
    Area,
    Geometry,
    Variant,
    minkowski,
    moved,
    turned_area,
)
from wedgecraft.core.layout.outlines import convex_sums
from wedgecraft.core.layout.search import Array, FaceProblem

_SLACK = 1e-6
_MOST_CORNERS = 32
_MOST_SIDES = 128
#: So far may chords on the inside of arcs move the middle of a box, mm.
_CHORDS_MM = 0.1
#: Sides that turn less than this from one another are taken for one, radians.
_SAME_TURN = 1e-7
_NONE = 10**9
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
        near = min(_by_area(problem), _by_halves(problem))
        known = _keep(problem, max(1, _by_boxes(problem, near)))
    return known


def closer(problem: FaceProblem) -> int:
    """As ``upper_bound``, with what takes longer and is worth it only where that was not reached;
    from then on it says the same.
    """
    if not problem.variants:
        return 0
    return _keep(problem, _by_boxes(problem, upper_bound(problem), weighed=True))


def _keep(problem: FaceProblem, limit: int) -> int:
    if len(_KNOWN) > _MOST_KNOWN:
        _KNOWN.clear()
    _KNOWN[problem.content] = limit
    return limit


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
    for pieces, shape in zip(problem.pieces, shapes, strict=True):
        hull = shapely.get_coordinates(shape.convex_hull)[:-1]
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
    for _ in range(14):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low


def _by_centres(problem: FaceProblem, middles: Middles, region: Area) -> int:
    """Oler's inequality: middles are at least one apart where the region is what is one away; and
    by the largest disc in it, which loses nothing to chords.
    """
    hull = shapely.union_all(
        [
            moved(room, _middle(middles, variant))
            for room, variant in zip(problem.rooms, problem.variants, strict=True)
        ]
    ).convex_hull
    inner = shapely.intersection(region, turned_area(region, 90)) if _quarters(problem) else region
    reaching = float(shapely.distance(inner.boundary, shapely.Point(0, 0)))
    if reaching <= 4 * TOUCH_MM:
        return _NONE
    one = _fewer_corners(_scaled(inner, 1 - 4 * TOUCH_MM / reaching))
    cell = _least_hexagon(one) / 4
    least = reaching - 4 * TOUCH_MM
    by_disc = 2 / math.sqrt(3) * hull.area / least**2 + hull.length / least / 2
    return math.floor(min(hull.area / cell + _rim(hull, one) / 2, by_disc) + 1 + _SLACK)


def _fewer_corners(region: Area) -> Area:
    """The same or a little less of a convex region that is the same when turned half round."""
    corners = shapely.get_coordinates(region)[:-1]
    kept = corners[:: -(-len(corners) // _MOST_SIDES)]
    return shapely.convex_hull(shapely.multipoints(np.concatenate([kept, -kept])))


def _least_hexagon(region: Area) -> float:
    """Area of the least hexagon, or parallelogram, round a convex region that is the same when
    turned half round: four times the least cell of points that are one apart (Reinhardt; Mahler).

    It may be taken the same when turned half round (Dowker, "On minimum circumscribed polygons",
    1944), and each of its sides along one of the region's: turned about where it touches, a side
    cuts most off the corner of the others at one end of its turn.
    """
    corners = shapely.get_coordinates(region)[:-1]
    along = np.diff(corners, axis=0, append=corners[:1])
    turns = np.sort(np.arctan2(along[:, 1], along[:, 0]) % np.pi)
    turns = turns[np.diff(turns, prepend=turns[-1] - np.pi) > _SAME_TURN]
    normals = np.stack([-np.sin(turns), np.cos(turns)], axis=1)
    normals, far = np.vstack([normals, -normals]), np.tile((corners @ normals.T).max(axis=0), 2)
    count = len(far) // 2

    def meet(one: NDArray[np.int64], other: NDArray[np.int64]) -> Array:
        """Where two sides meet, x and y."""
        (ax, ay), (bx, by) = normals[one].T, normals[other].T
        a, b = far[one], far[other]
        return np.stack([a * by - b * ay, b * ax - a * bx]) / (ax * by - ay * bx)

    def across(a: Array, b: Array) -> Array:
        return a[0] * b[1] - a[1] * b[0]

    # Three sides and the same turned half round; of two, a parallelogram.
    a, b = np.array(list(combinations(range(count), 2)), dtype=np.int64).T
    least = float((across(meet(a, b), meet(b, a + count)) * 2).min())
    if count > 2:
        a, b, c = np.array(list(combinations(range(count), 3)), dtype=np.int64).T
        ab, bc, ca = meet(a, b), meet(b, c), meet(c, a + count)
        least = min(least, float((across(ab, bc) + across(bc, ca) - across(ca, ab)).min()))
    return least * (1 - 10 * _SAME_TURN)


def _rim(hull: Area, region: Area) -> float:
    """Round a convex region, as another about 0 measures."""
    corners = shapely.get_coordinates(region)
    sides = np.diff(corners, axis=0)
    normals = np.stack([sides[:, 1], -sides[:, 0]], axis=1)
    away = (normals * corners[:-1]).sum(axis=1)
    along = np.diff(shapely.get_coordinates(hull), axis=0)
    return float((along @ (normals / away[:, None]).T).max(axis=1).sum())


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
    boxes = {kind: _amid(problem, kind, middle(problem.geometry.bodies[kind])) for kind in kinds}
    parts = {kind: middle(_part_of(problem, kind)) for kind in kinds}
    parts = {k: boxes[k] if math.dist(boxes[k], at) < _CHORDS_MM else at for k, at in parts.items()}
    return [boxes] if boxes == parts else [boxes, parts]


def _amid(problem: FaceProblem, kind: int, near: Point) -> Point:
    """The middle about which two that stand half round keep off alike, where that is the same but
    for what chords make of it.
    """
    for first, second, turn, region in _relative(problem):
        if first == second == kind and turn == 180:
            x, y = np.round(np.array(region.bounds).reshape(2, 2).mean(axis=0) / 2, 6)
            if math.dist((x, y), near) < _CHORDS_MM:
                return float(x), float(y)
    return near


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
    return shapely.convex_hull(convex_sums([a], [-b])[0])


def _by_boxes(problem: FaceProblem, best: int = _NONE, weighed: bool = False) -> int:
    """Try boxes of several proportions; each that fits inside all no-fit regions gives a bound.
    ``best`` if that is known and not more.
    """
    wide = deep = math.inf
    for variant in problem.variants:
        own = problem.geometry.nofit(variant, variant).bounds
        sides = (own[2] - own[0]) / 2, (own[3] - own[1]) / 2
        across, along = sides[::-1] if variant.turn % 180 else sides
        wide, deep = min(wide, across), min(deep, along)
    upright = [variant.turn % 180 == 90 for variant in problem.variants]
    for middles in _middles(problem):
        rooms = [
            points.Room(moved(room, _middle(middles, variant)))
            for room, variant in zip(problem.rooms, problem.variants, strict=True)
        ]
        about = [(turn, region) for _, _, turn, region in _about(problem, middles)]
        for _, region in about:
            shapely.prepare(region)
        for size in points.apart_by(about, wide, deep):
            boxes = [size[::-1] if stands else size for stands in upright]
            best = points.fewest(rooms, boxes, best, weighed)
    return best
