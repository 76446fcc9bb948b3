"""Where stations may stand: no-fit regions between two stations, inner-fit regions on a face.

``t`` lies in the no-fit region of (A, B) when B moved by t collides with A at the origin: the union of Minkowski sums of A's
layers with B's mirrored ones, over the pairs of layers that may not meet. Method: Art, "An approach to the two dimensional
irregular cutting stock problem" (1966); Bennell and Oliveira, "The geometry of nesting problems" (2008).

Touching is allowed: regions are opened by ``TOUCH_MM``, and positions are given to a tenth of that.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.layout.document import Face, Layer, Obstacle, Region, StationKind, Turn

Array = NDArray[np.float64]
Area: TypeAlias = Polygon | MultiPolygon

TOUCH_MM = 2e-4
_MOST_POINTS = 72
_MOST_ROOMS = 200
_QUARTERS = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}


@dataclass(frozen=True)
class Variant:
    """A kind at one turn."""

    kind: int
    turn: Turn


def turned(points: Array, turn: int) -> Array:
    """Quarter turns about the origin, exactly."""
    cosine, sine = _QUARTERS[turn % 360]
    return np.stack([cosine * points[..., 0] - sine * points[..., 1], sine * points[..., 0] + cosine * points[..., 1]], axis=-1)


def turned_area(area: Area, turn: int) -> Area:
    result: Area = shapely.transform(area, lambda points: turned(points, turn))
    return result


def moved(area: Area, by: Sequence[float] | Array) -> Area:
    result: Area = shapely.transform(area, lambda points: points + np.asarray(by))
    return result


def outer_simplified(polygon: Polygon) -> Polygon:
    """A polygon with few points that contains this one, by a few hundredths of a millimetre at most for ordinary parts."""
    if len(polygon.exterior.coords) <= _MOST_POINTS:
        return polygon
    corners = _ring(polygon)
    middle = (corners.max(axis=0) + corners.min(axis=0)) / 2
    reach = np.hypot(*(corners - middle).T)
    if reach.max() - reach.min() < 0.005 * reach.max():  # a round: the regular polygon about it is closer than any simplifying
        sides = _MOST_POINTS - 8
        angles = 2 * np.pi * np.arange(sides) / sides
        return Polygon(middle + reach.max() / np.cos(np.pi / sides) * np.stack([np.cos(angles), np.sin(angles)], axis=1))
    step = 0.005
    while len(polygon.exterior.coords) > _MOST_POINTS:
        shrunk = polygon.buffer(step, join_style="mitre").simplify(step)
        # A single loop again: what closes up is filled, which is on the safe side.
        polygon = Polygon(max(getattr(shrunk, "geoms", [shrunk]), key=lambda p: p.area).exterior)
        step *= 1.6
    return polygon


def convex_pieces(polygon: Polygon) -> list[Array]:
    """Cover a polygon without holes exactly by convex pieces: triangles, merged across shared edges while they stay convex."""
    if shapely.area(polygon.convex_hull) - polygon.area < 1e-9 * polygon.area:
        return [_ring(polygon.convex_hull)]
    pieces = [Polygon(t.exterior) for t in shapely.constrained_delaunay_triangles(polygon).geoms]
    merged = True
    while merged:
        merged = False
        for i in range(len(pieces)):
            for j in range(i + 1, len(pieces)):
                if pieces[i].touches(pieces[j]):
                    both = shapely.union(pieces[i], pieces[j])
                    hull = both.convex_hull
                    if both.geom_type == "Polygon" and hull.area - both.area < 1e-9 * hull.area:
                        pieces[i] = hull
                        del pieces[j]
                        merged = True
                        break
            if merged:
                break
    return [_ring(piece) for piece in pieces]


def _ring(polygon: Polygon) -> Array:
    return shapely.get_coordinates(polygon.exterior)[:-1]


def minkowski(first: Sequence[Array], second: Sequence[Array], gap: float = 0.0) -> Area:
    """Sum of two sets given as convex pieces, grown by ``gap`` (corners square, so never too little)."""
    sums = []
    for a in first:
        for b in second:
            hull = shapely.convex_hull(shapely.linestrings((a[:, None, :] + b[None, :, :]).reshape(-1, 2)))
            sums.append(hull)
    whole = shapely.union_all(sums)
    return whole.buffer(gap, join_style="mitre", mitre_limit=2) if gap else whole


def may_not_meet(first: Layer, second: Layer) -> bool:
    """Bodies keep off bodies, and off what must be swept or reached by a wrench at their height."""
    roles = {first.role, second.role}
    if "body" not in roles:
        return False
    if roles == {"body"}:
        return True
    return first.low_mm < second.high_mm and second.low_mm < first.high_mm


class Geometry:
    """All regions of one request, worked out once and kept."""

    def __init__(self, kinds: Sequence[StationKind]) -> None:
        self.kinds = kinds
        self.variants = [Variant(index, turn) for index, kind in enumerate(kinds) for turn in sorted(set(kind.turns))]
        self._layers = [[(layer, outer_simplified(Polygon(layer.outer))) for layer in kind.layers] for kind in kinds]
        self._pieces = [[(layer, convex_pieces(polygon)) for layer, polygon in layers] for layers in self._layers]
        self.bodies: list[Area] = [
            shapely.union_all([polygon for layer, polygon in layers if layer.role == "body"]) for layers in self._layers
        ]
        self.nofit = lru_cache(maxsize=None)(self._nofit)
        self._rooms: dict[tuple[str, Variant], Area] = {}
        self._base = lru_cache(maxsize=None)(self._nofit_untuned)

    def body(self, variant: Variant) -> Area:
        return turned_area(self.bodies[variant.kind], variant.turn)

    def pieces(self, variant: Variant, wanted: Callable[[Layer], bool]) -> list[Array]:
        found = [piece for layer, pieces in self._pieces[variant.kind] if wanted(layer) for piece in pieces]
        return [turned(piece, variant.turn) for piece in found]

    def clearance(self, first: Variant, second: Variant) -> float:
        return max(self.kinds[first.kind].clearance_mm, self.kinds[second.kind].clearance_mm)

    def _nofit(self, first: Variant, second: Variant) -> Area:
        """Opened no-fit region of ``second`` about ``first``: only the relative turn costs, the rest is turning."""
        base = self._base(first.kind, second.kind, (second.turn - first.turn) % 360)
        return turned_area(base, first.turn)

    def _nofit_untuned(self, first: int, second: int, turn: int) -> Area:
        a, b = Variant(first, 0), Variant(second, turn)  # type: ignore[arg-type]
        bodies_a = self.pieces(a, lambda layer: layer.role == "body")
        bodies_b = [-piece for piece in self.pieces(b, lambda layer: layer.role == "body")]
        parts = [minkowski(bodies_a, bodies_b, self.clearance(a, b))]
        for layer_a, pieces_a in self._pieces[first]:
            for layer_b, pieces_b in self._pieces[second]:
                if layer_a.role == layer_b.role or not may_not_meet(layer_a, layer_b):
                    continue
                parts.append(minkowski(pieces_a, [-turned(piece, turn) for piece in pieces_b]))
        region = shapely.union_all(parts).buffer(-TOUCH_MM, join_style="mitre")
        return areas_only(region)

    def inner_fit(self, face: Face, variant: Variant) -> Area:
        """Where the station's origin may be on the face, opened by ``TOUCH_MM``; empty where it does not fit."""
        key = (face.model_dump_json(), variant)
        if key not in self._rooms:
            if len(self._rooms) > _MOST_ROOMS:
                self._rooms.clear()
            self._rooms[key] = self._inner_fit(face, variant)
        return self._rooms[key]

    def _inner_fit(self, face: Face, variant: Variant) -> Area:
        room = self.inside(face, variant)
        for keepout in face.keepouts:
            room = shapely.difference(room, self.closed_by(keepout, variant))
        for region in self.kinds[variant.kind].regions:
            room = shapely.intersection(room, self.within(region, variant))
        return areas_only(room)

    def inside(self, face: Face, variant: Variant) -> Area:
        """Where the station's bodies stay on the face."""
        return _inside(Polygon(face.outer), self.body(variant), self.pieces(variant, lambda layer: layer.role == "body"))

    def closed_by(self, keepout: Obstacle, variant: Variant) -> Area:
        """Where the station would stand into a keep-out."""
        obstacle = Layer(role="body", name="keep-out", outer=keepout.outer, low_mm=0, high_mm=max(keepout.height_mm, 1e-3))
        stands = convex_pieces(outer_simplified(Polygon(keepout.outer)))
        hit = self.pieces(variant, lambda layer: may_not_meet(obstacle, layer))
        return minkowski(stands, [-piece for piece in hit]).buffer(-TOUCH_MM, join_style="mitre")

    def within(self, region: Region, variant: Variant) -> Area:
        """Where the station's point lies in the region."""
        point = turned(np.array(region.point_mm), variant.turn)
        return moved(Polygon(region.outer), -point).buffer(TOUCH_MM, join_style="mitre")


def _inside(outline: Polygon, body: Area, pieces: Sequence[Array]) -> Area:
    """Translations that keep the body inside the outline."""
    left, low, right, high = body.bounds
    x0, y0, x1, y1 = outline.bounds
    width, depth = (x1 - right) - (x0 - left), (y1 - high) - (y0 - low)
    if width < -TOUCH_MM or depth < -TOUCH_MM:
        return Polygon()
    room: Area = box(x0 - left - TOUCH_MM, y0 - low - TOUCH_MM, x1 - right + TOUCH_MM, y1 - high + TOUCH_MM)
    if abs(outline.area - (x1 - x0) * (y1 - y0)) < 1e-9 * outline.area:
        return room
    reach = max(right - left, high - low) + 1
    outside = box(x0 - reach, y0 - reach, x1 + reach, y1 + reach).difference(outline)
    around = [_ring(t) for t in shapely.constrained_delaunay_triangles(outside).geoms]
    blocked = minkowski(around, [-piece for piece in pieces]).buffer(-TOUCH_MM, join_style="mitre")
    return shapely.difference(room, blocked)


def areas_only(shape: shapely.Geometry) -> Area:
    """Drop the points and lines that set operations leave behind."""
    if shape.geom_type in ("Polygon", "MultiPolygon"):
        return shape
    return shapely.multipolygons([g for g in getattr(shape, "geoms", []) if g.geom_type == "Polygon"])
