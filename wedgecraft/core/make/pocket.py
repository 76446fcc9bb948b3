"""A pocket that a part drops into from above: its layers, what a round cutter makes of them, and
circles that let sharp corners free.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.workpiece.body import Body

#: End mills that cut jaws, the largest first, mm.
CUTTERS_MM = (16.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.0)
#: An end mill reaches so many diameters deep without trembling; common practice, from memory.
_DEEP = 4.0
#: A tapering part is followed in so many steps, each on the free side.
_STEPS = 8
#: Narrower than this, what a cutter leaves is rounding.
_FILM_MM = 0.01
_HAIR_MM = 0.001
#: Of gripping wall, so many mm are as good as none.
_AS_MUCH = 2.0
#: No corner is farther from where a cutter fits in than so many of its radii: what is, is a slot.
_FAR = 2.5
#: So many ways a relief is tried, besides along the walls.
_WAYS = 32
#: A wall grips where it faces along the jaws' travel within 45°.
_FACES = math.cos(math.radians(45))
_QUARTER = 32
_LEVEL_MM = 1e-6


@dataclass(frozen=True)
class Layer:
    """What is milled between two heights over the pocket's floor, alike all the way."""

    low_mm: float
    high_mm: float
    area: MultiPolygon


def layers(
    before: Body, depth_mm: float, clearance_mm: float, posts: Sequence[Polygon] = ()
) -> list[Layer]:
    """At every height all that lies at or below it, grown by the clearance all round: what must be
    free for the part to come down; ``posts`` stand in its openings. Body with its floor at Z0.
    """
    left = shapely.union_all([post.buffer(-clearance_mm, quad_segs=_QUARTER) for post in posts])
    levels = [level for level in before.levels if _LEVEL_MM < level < depth_mm - _LEVEL_MM]
    found: list[Layer] = []
    for low, high in pairwise([0.0, *levels, depth_mm]):
        steps = 1 if _upright(before, low, high) else _STEPS
        for a, b in pairwise(np.linspace(low, high, steps + 1).tolist()):
            area = _parts(_grown(before.seen(0.0, b), clearance_mm).difference(left))
            if found and area.difference(found[-1].area.buffer(_FILM_MM)).is_empty:
                found[-1] = replace(found[-1], high_mm=b)
            else:
                found.append(Layer(a, b, area))
    return found


def _upright(body: Body, low: float, high: float) -> bool:
    """Whether its walls stand upright between two heights."""
    gap = (high - low) * 0.02
    ends = body.slice(low + gap), body.slice(high - gap)
    return float(ends[0].symmetric_difference(ends[1]).area) < 1e-3 * max(ends[0].area, 1.0)


def _grown(area: MultiPolygon, by_mm: float) -> MultiPolygon:
    """Grown all round, holes filled: a cutter leaves no posts unless it is told to."""
    grown = area.buffer(by_mm, quad_segs=_QUARTER) if by_mm else area
    return _parts(shapely.union_all([Polygon(part.exterior) for part in shapely.get_parts(grown)]))


def _parts(shape: BaseGeometry) -> MultiPolygon:
    return MultiPolygon([p for p in shapely.get_parts(shape) if isinstance(p, Polygon) and p.area])


@dataclass(frozen=True)
class Relief:
    """What frees a corner: the cutter goes on from ``start``, where it fits into the corner, to
    (x, y), down to the pocket's floor.
    """

    x: float
    y: float
    start: tuple[float, float]
    radius_mm: float

    @property
    def area(self) -> Polygon:
        way = LineString([self.start, (self.x, self.y)])
        return way.buffer(self.radius_mm, quad_segs=_QUARTER)

    @property
    def takes(self) -> Polygon:
        """What of a wall is gone: not where it only runs along."""
        way = LineString([self.start, (self.x, self.y)])
        return way.buffer(self.radius_mm - _FILM_MM, quad_segs=_QUARTER)


@dataclass(frozen=True)
class Cutting:
    """A layer as a cutter of this diameter makes it: where its round edge gets to, circles in the
    corners, and what even those leave.
    """

    cutter_mm: float
    area: MultiPolygon
    reliefs: tuple[Relief, ...]
    left: MultiPolygon


def cut_by(
    area: MultiPolygon,
    cutter_mm: float,
    grips: BaseGeometry,
    inside: BaseGeometry,
    film_mm: float = _FILM_MM,
) -> Cutting:
    """Cut with a round cutter, corners relieved where most of the wall that grips stays.
    ``grips``: that wall, as lines; ``inside``: what the jaws have to give, less their least walls.
    Narrower than ``film_mm``, what is left is no matter.
    """
    radius = cutter_mm / 2
    hair = radius - _HAIR_MM  # so that a slot just as wide as the cutter is cut
    middles = area.buffer(-hair, quad_segs=_QUARTER)
    shapely.prepare(inside)
    opened = middles.buffer(hair, quad_segs=_QUARTER)
    if middles.is_empty:
        return Cutting(cutter_mm, MultiPolygon(), (), area)
    missing = _thick(area.difference(opened), film_mm)
    reliefs: list[Relief] = []
    for corner in missing:
        found = _relief(corner, middles, radius, grips, inside)
        if found is not None:
            reliefs.append(found)
    whole = shapely.union_all([opened, *(relief.area for relief in reliefs)])
    left = _thick(area.difference(whole), film_mm)
    return Cutting(cutter_mm, _parts(whole), tuple(reliefs), MultiPolygon(left))


def _thick(area: BaseGeometry, film_mm: float) -> list[Polygon]:
    """What of an area is no film; films that join corners are left out."""
    half = film_mm / 2
    cores = shapely.get_parts(area.buffer(-half, join_style="mitre"))
    grown = [core.buffer(2 * half, join_style="mitre").intersection(area) for core in cores]
    return [piece for found in grown for piece in _parts(found).geoms if piece.area > half**2]


def _relief(
    corner: Polygon,
    opened_to: BaseGeometry,
    radius: float,
    grips: BaseGeometry,
    inside: BaseGeometry,
) -> Relief | None:
    """The shortest way on that takes a corner with it, of all directions the one that takes least
    of the gripping wall, then least of the jaw; nothing where each would come too near the jaw's
    outside. ``opened_to``: where the cutter's middle may go.
    """
    line = shapely.shortest_line(_near(opened_to, corner, 2 * radius), corner.centroid)
    start = shapely.get_coordinates(line)[0]
    gripping = _near(grips, corner, (2 + _FAR) * radius)
    ways = _directions(corner)
    far = _far_enough(shapely.get_coordinates(corner.exterior) - start, ways, radius)
    far, ways = far[np.isfinite(far)], ways[np.isfinite(far)]
    ends = start + far[:, None] * ways
    slots = shapely.linestrings(np.stack([np.broadcast_to(start, ends.shape), ends], axis=1))
    takes = shapely.buffer(slots, radius - _FILM_MM, quad_segs=_QUARTER // 2)
    lost = np.round(shapely.length(shapely.intersection(gripping, takes)), 3)
    for k in np.lexsort([far, lost]).tolist():  # of several alike the least of the jaw
        x, y = ends[k].tolist()
        relief = Relief(x, y, (float(start[0]), float(start[1])), radius)
        if inside.covers(relief.area):
            return relief
    return None


def _near(shape: BaseGeometry, corner: Polygon, more_mm: float) -> BaseGeometry:
    """What of a shape lies about a corner; all of it where nothing does."""
    x0, y0, x1, y1 = corner.bounds
    found = shapely.clip_by_rect(shape, x0 - more_mm, y0 - more_mm, x1 + more_mm, y1 + more_mm)
    return shape if found.is_empty else found


def _directions(corner: Polygon) -> NDArray[np.float64]:
    """All round, and along the corner's own walls."""
    ring = np.diff(shapely.get_coordinates(corner.exterior), axis=0)
    sizes = np.linalg.norm(ring, axis=1)
    walls = ring[sizes > 0.2 * sizes.max()] / sizes[sizes > 0.2 * sizes.max()][:, None]
    turns = 2 * np.pi * np.arange(_WAYS) / _WAYS
    return np.concatenate([walls, -walls, np.column_stack([np.cos(turns), np.sin(turns)])])


def _far_enough(
    points: NDArray[np.float64], ways: NDArray[np.float64], radius: float
) -> NDArray[np.float64]:
    """How far each way (w x 2) takes the circle over all of a corner's points (n x 2, from the
    start); infinite where it would make a slot wider, or goes too far.
    """
    reach = radius + _FILM_MM / 4
    along, across = points @ ways.T, points @ np.column_stack([-ways[:, 1], ways[:, 0]]).T
    beside = np.abs(across) > reach
    behind = (along < 0) & (np.linalg.norm(points, axis=1)[:, None] > reach)
    far = (along - np.sqrt(np.maximum(reach**2 - across**2, 0.0))).max(axis=0).clip(0.0)
    return np.where((beside | behind).any(axis=0) | (far > _FAR * radius), np.inf, far)


def best_cutting(
    area: MultiPolygon,
    depth_mm: float,
    grips: BaseGeometry,
    inside: BaseGeometry,
    film_mm: float = _FILM_MM,
) -> Cutting:
    """With the largest cutter that reaches the floor, leaves nothing but what circles free, and
    keeps as much of the gripping wall as any; the one that leaves least where none does.
    """
    found: list[tuple[tuple[float, int], Cutting]] = []
    for size in [size for size in CUTTERS_MM if size * _DEEP >= depth_mm] or [CUTTERS_MM[0]]:
        cut = cut_by(area, size, grips, inside, film_mm)
        gone = shapely.union_all([relief.takes for relief in cut.reliefs])
        lost = float(grips.intersection(gone).length)
        found.append(((round(cut.left.area, 2), round(lost / _AS_MUCH)), cut))
        if found[-1][0] == (0.0, 0):  # a smaller one is no better
            break
    return min(found, key=lambda item: item[0])[1]


def gripping(
    area: MultiPolygon, split_mm: float, gap_mm: float
) -> tuple[BaseGeometry, BaseGeometry]:
    """The walls of a pocket that face along X, left and right of the gap between the jaws."""
    left: list[LineString] = []
    right: list[LineString] = []
    for part in area.geoms:
        turned = shapely.orient_polygons(part)
        for ring in (turned.exterior, *turned.interiors):
            corners = shapely.get_coordinates(ring)
            ways = np.diff(corners, axis=0)
            sizes = np.linalg.norm(ways, axis=1)
            faces = ways[:, 1] / np.maximum(sizes, 1e-12)  # outward normal along X
            for k in np.flatnonzero(np.abs(faces) >= _FACES).tolist():
                (left if faces[k] < 0 else right).append(LineString(corners[k : k + 2]))
    x0, y0, x1, y1 = area.bounds
    fixed = shapely.box(x0 - 1, y0 - 1, split_mm - gap_mm / 2, y1 + 1)
    moving = shapely.box(split_mm + gap_mm / 2, y0 - 1, x1 + 1, y1 + 1)
    return (
        shapely.intersection(shapely.MultiLineString(left), fixed),
        shapely.intersection(shapely.MultiLineString(right), moving),
    )
