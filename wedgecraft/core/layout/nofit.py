"""Where stations may stand: no-fit regions between two stations, inner-fit regions on a face.

``t`` lies in the no-fit region of (A, B) when B moved by t collides with A at the origin: the union
of Minkowski sums of A's layers with B's mirrored ones, over the pairs of layers that may not meet.
Method: Art, "An approach to the two dimensional irregular cutting stock problem" (1966); Bennell
and Oliveira, "The geometry of nesting problems" (2008).

Touching is allowed: regions are opened by ``TOUCH_MM``, and positions are given to a tenth of that.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.layout import outlines
from wedgecraft.core.layout.outlines import convex_pieces, convex_sums, ring
from wedgecraft.core.records.layout import Face, Layer, Obstacle, Region, StationKind, Turn

Array = NDArray[np.float64]
Area: TypeAlias = Polygon | MultiPolygon

TOUCH_MM = 2e-4
_MOST_ROOMS = 200


@dataclass(frozen=True)
class Variant:
    """A kind at one turn."""

    kind: int
    turn: Turn


def turned_area(area: Area, turn: int) -> Area:
    result: Area = shapely.transform(area, lambda points: turned(points, turn))
    return result


def moved(area: Area, by: Sequence[float] | Array) -> Area:
    result: Area = shapely.transform(area, lambda points: points + np.asarray(by))
    return result


def minkowski(
    first: Sequence[Array], second: Sequence[Array], gap: float = 0.0, less: bool = False
) -> Area:
    """Sum of two sets given as convex pieces, grown by ``gap``: corners square, so never too
    little; ``less``: round, never too much.
    """
    whole = _sum(first, second)
    if not gap:
        return whole
    return (
        whole.buffer(gap, quad_segs=16)
        if less
        else whole.buffer(gap, join_style="mitre", mitre_limit=2)
    )


#: Sums of more pairs than this are kept: a layout with more room asks for the same ones again.
_FEW_PAIRS = 200


def _sum(first: Sequence[Array], second: Sequence[Array]) -> Area:
    if len(first) * len(second) < _FEW_PAIRS:
        return _union(convex_sums(first, second))
    return _kept(*_as_key(first), *_as_key(second))


def _as_key(pieces: Sequence[Array]) -> tuple[bytes, tuple[int, ...]]:
    corners = np.ascontiguousarray(np.concatenate(pieces), dtype=np.float64)
    return corners.tobytes(), tuple(len(piece) for piece in pieces)


@lru_cache(maxsize=64)
def _kept(
    first: bytes, first_sizes: tuple[int, ...], second: bytes, second_sizes: tuple[int, ...]
) -> Area:
    pieces = [
        np.split(np.frombuffer(data).reshape(-1, 2), np.cumsum(sizes)[:-1])
        for data, sizes in ((first, first_sizes), (second, second_sizes))
    ]
    return _union(convex_sums(pieces[0], pieces[1]))


#: Of so many sums at once the union is made; of many more, those that lie in what is there already
#: are left out first.
_AT_ONCE = 300


def _union(sums: NDArray[np.object_]) -> Area:
    """The union of sums of pieces, the large ones first: of thousands nearly all lie within
    those.
    """
    left = sums[np.argsort(-shapely.area(sums))]
    whole: Area = shapely.union_all(left[:_AT_ONCE])
    left = left[_AT_ONCE:]
    while len(left):
        shapely.prepare(whole)
        left = left[~shapely.covers(whole, left)]
        whole = shapely.union_all([whole, *left[:_AT_ONCE]])
        left = left[_AT_ONCE:]
    return whole


def may_not_meet(first: Layer, second: Layer) -> bool:
    """Bodies keep off bodies, and off what must be swept or reached by a wrench at their height."""
    roles = {first.role, second.role}
    if "body" not in roles:
        return False
    if roles == {"body"}:
        return True
    return first.low_mm < second.high_mm and second.low_mm < first.high_mm


class Geometry:
    """All regions of one request, worked out once and kept.

    Outlines of many corners are taken larger by a stated hair, so that what stands clear here does;
    ``least``: smaller by as much, so that what has no room here has none. Layouts come from the
    one, what no layout can exceed from the other.
    """

    def __init__(
        self, kinds: Sequence[StationKind], smaller: bool = False, like: Geometry | None = None
    ) -> None:
        """``like``: one of kinds that differ in their turns only; what it knows is shared."""
        self.kinds = kinds
        self.variants = [
            Variant(index, turn)
            for index, kind in enumerate(kinds)
            for turn in sorted(set(kind.turns))
        ]
        self._smaller = smaller
        self.nofit = lru_cache(maxsize=None)(self._nofit)
        self._like = like
        if like is not None:
            self._share(like)
            return
        self.curved = any(
            outlines.is_curved(layer.outer) for kind in kinds for layer in kind.layers
        )
        self._layers = [
            [
                (layer, polygon)
                for layer in kind.layers
                for polygon in self._simple(Polygon(layer.outer))
            ]
            for kind in kinds
        ]
        self._pieces = [
            [(layer, convex_pieces(polygon)) for layer, polygon in layers]
            for layers in self._layers
        ]
        self.bodies: list[Area] = [
            shapely.union_all([polygon for layer, polygon in layers if layer.role == "body"])
            for layers in self._layers
        ]
        self._bodies = [self._body_pieces(kind) for kind in range(len(kinds))]
        self._rooms: dict[tuple[str, Variant], Area] = {}
        self._closed: dict[tuple[bytes, float, Variant], Area] = {}
        self._base = lru_cache(maxsize=None)(self._nofit_untuned)

    def _share(self, like: Geometry) -> None:
        self.curved, self._layers, self._pieces = like.curved, like._layers, like._pieces
        self.bodies, self._bodies = like.bodies, like._bodies
        self._rooms, self._base, self._closed = like._rooms, like._base, like._closed

    def _body_pieces(self, kind: int) -> list[Array]:
        """The fewer of the bodies' own pieces and those of all bodies in one: of an outline that
        lies within another (a toothed wheel over its vise) none is left in these.
        """
        bodies = [pieces for layer, pieces in self._pieces[kind] if layer.role == "body"]
        own = [piece for pieces in bodies for piece in pieces]
        parts = shapely.get_parts(self.bodies[kind])
        if len(bodies) < 2 or any(len(part.interiors) for part in parts):
            return own
        whole = [piece for part in parts for piece in convex_pieces(part)]
        return min(own, whole, key=len)

    def _simple(self, polygon: Polygon) -> list[Polygon]:
        return outlines.inside(polygon) if self._smaller else [outlines.outside(polygon)]

    @cached_property
    def least(self) -> Geometry:
        """The same from within; where the stations' outlines are as they were given, only keep-outs
        differ.
        """
        if self._like is not None:
            return Geometry(self.kinds, smaller=True, like=self._like.least)
        found = Geometry(self.kinds, smaller=True)
        if not self.curved:
            found._base = self._base
        return found

    @cached_property
    def content(self) -> str:
        """What the regions follow from."""
        kinds = " ".join(kind.model_dump_json(exclude={"name"}) for kind in self.kinds)
        return f"{self._smaller} {kinds}"

    def body(self, variant: Variant) -> Area:
        return turned_area(self.bodies[variant.kind], variant.turn)

    def body_pieces(self, variant: Variant) -> list[Array]:
        """Convex pieces that cover its bodies exactly."""
        return [turned(piece, variant.turn) for piece in self._bodies[variant.kind]]

    def _hit_by(self, obstacle: Layer, variant: Variant) -> list[Array]:
        """Pieces of all that may not meet an obstacle."""
        found = [
            piece
            for layer, pieces in self._pieces[variant.kind]
            if layer.role != "body" and may_not_meet(obstacle, layer)
            for piece in pieces
        ]
        return [*self.body_pieces(variant), *(turned(piece, variant.turn) for piece in found)]

    def clearance(self, first: Variant, second: Variant) -> float:
        return max(self.kinds[first.kind].clearance_mm, self.kinds[second.kind].clearance_mm)

    def _nofit(self, first: Variant, second: Variant) -> Area:
        """Opened no-fit region of ``second`` about ``first``: only the relative turn costs, the
        rest is turning.
        """
        base = self._base(first.kind, second.kind, (second.turn - first.turn) % 360)
        return turned_area(base, first.turn)

    def _nofit_untuned(self, first: int, second: int, turn: int) -> Area:
        a, b = Variant(first, 0), Variant(second, turn)  # type: ignore[arg-type]
        bodies_a = self.body_pieces(a)
        bodies_b = [-piece for piece in self.body_pieces(b)]
        parts = [minkowski(bodies_a, bodies_b, self.clearance(a, b), self._smaller)]
        for layer_a, pieces_a in self._pieces[first]:
            for layer_b, pieces_b in self._pieces[second]:
                if layer_a.role == layer_b.role or not may_not_meet(layer_a, layer_b):
                    continue
                parts.append(minkowski(pieces_a, [-turned(piece, turn) for piece in pieces_b]))
        region = shapely.union_all(parts).buffer(-TOUCH_MM, join_style="mitre")
        return areas_only(region)

    def inner_fit(self, face: Face, variant: Variant) -> Area:
        """Where the station's origin may be on the face, opened by ``TOUCH_MM``; empty where it
        does not fit.
        """
        key = (face.model_dump_json(), variant)
        if key not in self._rooms:
            if len(self._rooms) > _MOST_ROOMS:
                self._rooms.clear()
            self._rooms[key] = self._inner_fit(face, variant)
        return self._rooms[key]

    def _inner_fit(self, face: Face, variant: Variant) -> Area:
        room = self.inside(face, variant)
        if face.keepouts and not room.is_empty:
            closed = [self.closed_by(keepout, variant) for keepout in face.keepouts]
            room = shapely.difference(room, shapely.union_all(closed))
        for region in self.kinds[variant.kind].regions:
            room = shapely.intersection(room, self.within(region, variant))
        return areas_only(room)

    def inside(self, face: Face, variant: Variant) -> Area:
        """Where the station's bodies stay on the face."""
        return _inside(Polygon(face.outer), self.body(variant), self.body_pieces(variant))

    def closed_by(self, keepout: Obstacle, variant: Variant) -> Area:
        """Where the station would stand into a keep-out; of screws that are alike it is worked out
        for one.
        """
        corners = np.array(keepout.outer)
        shape = np.round(corners - corners[0], 5)
        key = shape.tobytes(), keepout.height_mm, variant
        if key not in self._closed:
            if len(self._closed) > _MOST_ROOMS:
                self._closed.clear()
            about = keepout.model_copy(update={"outer": [(x, y) for x, y in shape.tolist()]})
            self._closed[key] = self._closed_by(about, variant)
        return moved(self._closed[key], corners[0])

    def _closed_by(self, keepout: Obstacle, variant: Variant) -> Area:
        obstacle = Layer(
            role="body",
            name="keep-out",
            outer=keepout.outer,
            low_mm=0,
            high_mm=max(keepout.height_mm, 1e-3),
        )
        stands = [
            piece
            for polygon in self._simple(Polygon(keepout.outer))
            for piece in convex_pieces(polygon)
        ]
        hit = self._hit_by(obstacle, variant)
        return minkowski(stands, [-piece for piece in hit]).buffer(-TOUCH_MM, join_style="mitre")

    def within(self, region: Region, variant: Variant) -> Area:
        """Where the station's point lies in the region."""
        point = turned(np.array(region.point_mm), variant.turn)
        return moved(Polygon(region.outer), -point).buffer(TOUCH_MM, join_style="mitre")


def geometry_of(kinds: Sequence[StationKind]) -> Geometry:
    """The regions of these stations; the same object for as long as the same are asked, so that
    what is known of them stays known.
    """
    asked = list(kinds)
    found = next((geometry for known, geometry in list(_RECENT) if known == asked), None)
    if found is None:
        shapes = [_whatever_turn(kind) for kind in asked]
        like = next(
            (
                geometry
                for known, geometry in list(_RECENT)
                if [_whatever_turn(kind) for kind in known] == shapes
            ),
            None,
        )
        found = Geometry(asked, like=like)
        _RECENT.append((asked, found))
    return found


def _whatever_turn(kind: StationKind) -> StationKind:
    return kind.model_copy(update={"turns": []})


_RECENT: deque[tuple[list[StationKind], Geometry]] = deque(maxlen=8)


def _inside(outline: Polygon, body: Area, pieces: Sequence[Array]) -> Area:
    """Translations that keep the body inside the outline."""
    left, low, right, high = body.bounds
    x0, y0, x1, y1 = outline.bounds
    width, depth = (x1 - right) - (x0 - left), (y1 - high) - (y0 - low)
    if width < -TOUCH_MM or depth < -TOUCH_MM:
        return Polygon()
    room: Area = box(
        x0 - left - TOUCH_MM, y0 - low - TOUCH_MM, x1 - right + TOUCH_MM, y1 - high + TOUCH_MM
    )
    if abs(outline.area - (x1 - x0) * (y1 - y0)) < 1e-9 * outline.area:
        return room
    reach = max(right - left, high - low) + 1
    outside = box(x0 - reach, y0 - reach, x1 + reach, y1 + reach).difference(outline)
    blocked = minkowski(triangles(outside), [-piece for piece in pieces]).buffer(
        -TOUCH_MM, join_style="mitre"
    )
    return shapely.difference(room, blocked)


def triangles(shape: Area) -> list[Array]:
    """Corners of triangles that cover an area exactly."""
    return [ring(piece) for piece in shapely.constrained_delaunay_triangles(shape).geoms]


def areas_only(shape: shapely.Geometry) -> Area:
    """Drop the points and lines that set operations leave behind."""
    if shape.geom_type in ("Polygon", "MultiPolygon"):
        return shape
    areas = [part for part in getattr(shape, "geoms", []) if part.geom_type == "Polygon"]
    return shapely.multipolygons(areas) if areas else Polygon()
