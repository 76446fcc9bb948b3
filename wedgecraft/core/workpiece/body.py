"""A body: what a part, a blank or a sweep is in space, as a closed mesh whose booleans are exact.

mm, Z towards the spindle where it matters. Every body knows how far its chords may stray from what
it stands for; volumes smaller than surface x that error are nothing. Booleans, slices and shadows
are those of manifold3d (Apache-2.0), whose results are always closed.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from manifold3d import CrossSection, FillRule, Manifold, Mesh64, OpType
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, sides_of

Array = NDArray[np.float64]
Box = tuple[float, float, float, float, float, float]
#: Coordinates of slices and shadows are rounded to this many decimals of a millimetre: booleans
#: move corners by less.
_DECIMALS = 6
#: What lies exactly in the plane of an end is not between two heights.
_OPEN_MM = 1e-5
#: So many slices are tried before a shadow is cast.
_LEVELS_TRIED = 4
#: A corner this near to the line of its neighbours is none.
_IN_LINE_MM = 1e-5
#: Areas and volumes smaller than these are rounding.
_NO_AREA_MM2, _NO_VOLUME_MM3 = 1e-6, 1e-6


@dataclass(frozen=True, eq=False)
class Body:
    """One closed body, which may be empty or in several pieces. ``chord_error_mm``: how far its
    chords may lie from the curves they stand for.

    >>> from shapely.geometry import box
    >>> block = prism(box(0, 0, 40, 30), 0, 20)
    >>> bored = block - cylinder((20, 15, -1), 22, 5)
    >>> round(block.volume_mm3), round(bored.slice(10).area, 1)
    (24000, 1121.5)
    """

    solid: Manifold
    chord_error_mm: float = 0.0

    @cached_property
    def volume_mm3(self) -> float:
        return float(self.solid.volume())

    @cached_property
    def surface_mm2(self) -> float:
        return float(self.solid.surface_area())

    @cached_property
    def empty(self) -> bool:
        return bool(self.solid.is_empty()) or self.volume_mm3 < _NO_VOLUME_MM3

    @property
    def doubt_mm3(self) -> float:
        """A volume smaller than this may be nothing but chords."""
        return max(_NO_VOLUME_MM3, self.surface_mm2 * self.chord_error_mm)

    @property
    def thickness_mm(self) -> float:
        """How thick a film of this volume and surface is; nothing for nothing."""
        return 2 * self.volume_mm3 / self.surface_mm2 if self.surface_mm2 > 0 else 0.0

    @cached_property
    def box(self) -> Box:
        """Lowest x, y, z and highest x, y, z. Raises ValueError for an empty body."""
        if self.empty:
            raise ValueError("an empty body has no box")
        found = self.solid.bounding_box()
        return tuple(float(value) for value in found)  # type: ignore[return-value]

    @cached_property
    def mesh(self) -> tuple[Array, NDArray[np.int64]]:
        """Points (n, 3) and triangles (m, 3), wound to point outwards."""
        found = self.solid.to_mesh64()
        points = np.array(found.vert_properties, dtype=float, order="C")[:, :3]
        triangles = np.asarray(found.tri_verts, dtype=np.int64)
        # a corner that several faces share stands there once for each
        merge = np.arange(len(points))
        merge[np.asarray(found.merge_from_vert, dtype=np.int64)] = np.asarray(
            found.merge_to_vert, dtype=np.int64
        )
        return points, merge[triangles]

    @cached_property
    def origins(self) -> NDArray[np.int64]:
        """For each triangle of ``mesh`` which named body its surface came from (m,)."""
        found = self.solid.to_mesh64()
        starts = np.asarray(found.run_index, dtype=np.int64) // 3
        ids = np.asarray(found.run_original_id, dtype=np.int64)
        return np.repeat(ids, np.diff(starts))

    @cached_property
    def centre_mm(self) -> tuple[float, float, float]:
        """Centre of gravity, by the divergence theorem. Raises ValueError for an empty body."""
        if self.empty:
            raise ValueError("an empty body has no centre")
        points, triangles = self.mesh
        middle = points.mean(axis=0)
        a, b, c = (points[triangles[:, k]] - middle for k in range(3))
        six = np.einsum("ij,ij->i", a, np.cross(b, c))
        found = (six[:, None] * (a + b + c)).sum(axis=0) / (4 * six.sum()) + middle
        return float(found[0]), float(found[1]), float(found[2])

    @cached_property
    def inertia_mm5(self) -> Array:
        """Second moments of volume about the centre, (3, 3): times density, the inertia."""
        points, triangles = self.mesh
        centre = np.array(self.centre_mm)
        a, b, c = (points[triangles[:, k]] - centre for k in range(3))
        six = np.einsum("ij,ij->i", a, np.cross(b, c))
        total = a + b + c
        products = sum(
            (np.einsum("i,ij,ik->jk", six, one, one) for one in (a, b, c, total)), np.zeros((3, 3))
        )
        products = products / 120
        found: Array = np.trace(products) * np.eye(3) - products
        return found

    def __sub__(self, other: Body) -> Body:
        return Body(self.solid - other.solid, max(self.chord_error_mm, other.chord_error_mm))

    def __and__(self, other: Body) -> Body:
        return Body(self.solid ^ other.solid, max(self.chord_error_mm, other.chord_error_mm))

    def __or__(self, other: Body) -> Body:
        return Body(self.solid + other.solid, max(self.chord_error_mm, other.chord_error_mm))

    def named(self) -> tuple[Body, int]:
        """The same body under a name of its own: surfaces that stay in later results say so."""
        found = self.solid.as_original()
        return Body(found, self.chord_error_mm), int(found.original_id())

    def turned(self, turn: Array, shift: Sequence[float] | Array = (0.0, 0.0, 0.0)) -> Body:
        """Every point p comes to ``turn @ p + shift``; ``turn`` (3, 3) is a proper rotation."""
        matrix = np.column_stack([np.asarray(turn, dtype=float), np.asarray(shift, dtype=float)])
        return Body(self.solid.transform(matrix), self.chord_error_mm)

    def moved(self, x: float, y: float, z: float) -> Body:
        return Body(self.solid.translate((x, y, z)), self.chord_error_mm)

    def slice(self, height_mm: float) -> MultiPolygon:
        """The body cut by the plane at this height: of two different slices that meet there, the
        one above.
        """
        known = self.known
        key = ("slice", float(height_mm))
        if key not in known:
            known[key] = _areas(self.solid.slice(float(height_mm)))
        return known[key]

    def seen(self, low_mm: float = -math.inf, high_mm: float = math.inf) -> MultiPolygon:
        """All it covers between two heights, seen from above."""
        known, key = self.known, ("seen", float(low_mm), float(high_mm))
        if key in known:
            return known[key]
        if (math.isfinite(low_mm) or math.isfinite(high_mm)) and self._all_of_it(low_mm, high_mm):
            known[key] = self.seen()
            return known[key]
        solid = self.solid
        if math.isfinite(low_mm):
            solid = solid.trim_by_plane((0.0, 0.0, 1.0), float(low_mm) + _OPEN_MM)
        if math.isfinite(high_mm):
            solid = solid.trim_by_plane((0.0, 0.0, -1.0), _OPEN_MM - float(high_mm))
        known[key] = _shadow(solid)
        return known[key]

    def _all_of_it(self, low_mm: float, high_mm: float) -> bool:
        """Whether a few slices between two heights cover as much as the whole body: of most
        machined parts they do, and slices are quicker than shadows.
        """
        if self.empty:
            return False
        whole = self.seen().area
        within = [level for level in (*self.levels, high_mm) if low_mm < level <= high_mm]
        cover: Any = Polygon()
        for level in sorted(filter(math.isfinite, within), reverse=True)[:_LEVELS_TRIED]:
            found = self.slice(level - _OPEN_MM)
            cover = found if cover.is_empty else shapely.union(cover, found)
            if cover.area >= whole - _NO_AREA_MM2:
                return True
        return False

    @cached_property
    def known(self) -> dict[tuple[object, ...], Any]:
        """Slices, shadows and walls asked for before."""
        return {}

    @cached_property
    def poses(self) -> dict[tuple[str, float], Any]:
        """How it stands with each side up (``pose.py``)."""
        return {}

    def above(self, height_mm: float) -> Body:
        return Body(
            self.solid.trim_by_plane((0.0, 0.0, 1.0), float(height_mm)), self.chord_error_mm
        )

    def shrunk(self, by_mm: float) -> Body:
        """What of it is still there when it moves so far along each axis, either way: films are
        gone.
        """
        steps = np.concatenate([np.eye(3), -np.eye(3)]) * by_mm
        moved = [self.solid.translate(tuple(map(float, step))) for step in steps]
        found = Manifold.batch_boolean([self.solid, *moved], OpType.Intersect)
        return Body(found, self.chord_error_mm)

    def pieces(self) -> list[Body]:
        """What hangs together, the largest first."""
        if len(set(self._shells.tolist())) <= 1:
            return [] if self.empty else [self]
        found = [Body(piece, self.chord_error_mm) for piece in self.solid.decompose()]
        return sorted((piece for piece in found if not piece.empty), key=lambda b: -b.volume_mm3)

    def lumps(self, film_mm: float) -> list[Body]:
        """What hangs together and is thicker than a film, the largest first; told apart on the
        mesh, as chords can leave thousands of films.
        """
        points, triangles = self.mesh
        if not len(triangles):
            return []
        number = self._shells
        a, b, c = (points[triangles[:, k]] for k in range(3))
        crossed = np.cross(b - a, c - a)
        area = np.bincount(number, np.linalg.norm(crossed, axis=1) / 2)
        volume = np.bincount(number, np.einsum("ij,ij->i", a, np.cross(b, c)) / 6)
        thick = np.flatnonzero(2 * volume > film_mm * np.maximum(area, 1e-12))
        found = []
        for lump in thick[np.argsort(-volume[thick])].tolist():
            own = triangles[number == lump]
            used, renumbered = np.unique(own, return_inverse=True)
            solid = Manifold(
                Mesh64(
                    np.ascontiguousarray(points[used]), renumbered.reshape(-1, 3).astype(np.uint64)
                )
            )
            if not solid.is_empty():
                found.append(Body(solid, self.chord_error_mm))
        return found

    @cached_property
    def _shells(self) -> NDArray[np.int64]:
        """For each triangle the number of the closed surface it belongs to (m,)."""
        # it is not needed before pages are served
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import connected_components

        points, triangles = self.mesh
        ends = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]]])
        graph = coo_matrix((np.ones(len(ends)), ends.T), shape=(len(points), len(points)))
        of_point = connected_components(graph, directed=False)[1]
        return np.asarray(of_point[triangles[:, 0]])

    @cached_property
    def levels(self) -> list[float]:
        """Heights at which its slices may change abruptly: of all flat faces that lie level."""
        points, triangles = self.mesh
        heights = points[triangles][:, :, 2]
        flat = np.ptp(heights, axis=1) < 1e-7
        found = np.unique(np.round(heights[flat, 0], _DECIMALS))
        return [float(value) for value in found]

    def holds_ray(self, start: Sequence[float] | Array, end: Sequence[float] | Array) -> bool:
        """Whether anything of it lies between two points."""
        return bool(self.solid.ray_cast(tuple(map(float, start)), tuple(map(float, end))))


def nothing() -> Body:
    return Body(Manifold())


def prism(
    area: Polygon | MultiPolygon, low_mm: float, high_mm: float, chord_error_mm: float = 0.0
) -> Body:
    """An area between two heights."""
    if area.is_empty or high_mm <= low_mm:
        return nothing()
    solid = Manifold.extrude(_section(area), float(high_mm - low_mm))
    return Body(solid.translate((0.0, 0.0, float(low_mm))), chord_error_mm)


def cylinder(
    foot: Sequence[float],
    length_mm: float,
    radius_mm: float,
    point_deg: float | None = None,
    chord_error_mm: float = CHORD_ERROR_MM,
) -> Body:
    """An upright cylinder that stands on ``foot``; with ``point_deg`` a cone of that full angle
    below it, as a drill leaves it. Its corners lie outside the circle by as much as its chords'
    middles lie inside.
    """
    sides = sides_of(radius_mm, chord_error_mm)
    turn = 2 * math.pi / sides
    radius = radius_mm * math.sqrt(turn / math.sin(turn))  # neither larger nor smaller in area
    half = [(0.0, 0.0), (radius, 0.0), (radius, length_mm), (0.0, length_mm)]
    if point_deg is not None and point_deg < 180:
        half[0] = (0.0, -radius / math.tan(math.radians(point_deg / 2)))
    solid = Manifold.revolve(CrossSection([np.array(half)], FillRule.EvenOdd), sides)
    return Body(solid.translate(tuple(map(float, foot))), chord_error_mm)


def bevelled(area: Polygon, low_mm: float, high_mm: float, grow_mm: float) -> Body:
    """An area at its foot that is wider by ``grow_mm`` on every side at its top, corners kept
    sharp: what a chamfer leaves out. ``grow_mm`` may be negative.
    """
    rings = [np.asarray(ring.coords)[:-1] for ring in (area.exterior, *area.interiors)]
    low = [
        ring if Polygon(ring).exterior.is_ccw == (k == 0) else ring[::-1]
        for k, ring in enumerate(rings)
    ]
    high = [_offset(ring, grow_mm) for ring in low]
    rings_of_both = enumerate(zip(low, high, strict=True))
    solids = [_frustum(foot, top, low_mm, high_mm, k > 0) for k, (foot, top) in rings_of_both]
    solid = Manifold.batch_boolean(solids, OpType.Subtract)
    return Body(solid, CHORD_ERROR_MM)


def _offset(ring: Array, grow_mm: float) -> Array:
    """Corners moved along their bisectors, material on the left: as many as before."""
    before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    normals = [np.column_stack([way[:, 1], -way[:, 0]]) for way in (before, after)]
    a, b = (way / np.linalg.norm(way, axis=1)[:, None] for way in normals)
    both = a + b
    found: Array = ring + grow_mm * 2 * both / np.maximum((both**2).sum(axis=1), 0.05)[:, None]
    return found


def _frustum(low: Array, high: Array, low_mm: float, high_mm: float, hole: bool) -> Manifold:
    """The body between two rings of as many corners; a hole's is wound the other way."""
    if hole:
        low, high = low[::-1], high[::-1]
    count = len(low)
    foot, top = _caps(low), _caps(high)
    k = np.arange(count)
    n = (k + 1) % count
    sides = np.concatenate(
        [np.column_stack([k, n, n + count]), np.column_stack([k, n + count, k + count])]
    )
    points = np.concatenate(
        [
            np.column_stack([low, np.full(count, low_mm)]),
            np.column_stack([high, np.full(count, high_mm)]),
        ]
    )
    triangles = np.concatenate([foot[:, ::-1], top + count, sides])
    return Manifold(Mesh64(points, triangles.astype(np.uint64)))


def _caps(ring: Array) -> NDArray[np.int64]:
    from manifold3d import triangulate

    return np.asarray(triangulate([ring]), dtype=np.int64)


def united(bodies: Iterable[Body]) -> Body:
    """All of them as one."""
    every = [body for body in bodies if not body.solid.is_empty()]
    if not every:
        return nothing()
    if len(every) == 1:
        return every[0]
    solids = [body.solid for body in every]
    apart = _apart(np.array([solid.bounding_box() for solid in solids]))
    solid = Manifold.compose(solids) if apart else Manifold.batch_boolean(solids, OpType.Add)
    return Body(solid, max(body.chord_error_mm for body in every))


def _apart(boxes: Array) -> bool:
    """Whether no two boxes (n, 6) touch."""
    low, high = boxes[:, :3], boxes[:, 3:]
    off = (low[:, None] > high[None] + 1e-6).any(axis=2)
    off = np.asarray(off | off.T)
    np.fill_diagonal(off, True)
    return bool(off.all())


def less(body: Body, others: Sequence[Body]) -> Body:
    """What is left of a body when all others are taken away from it."""
    if not others:
        return body
    solid = Manifold.batch_boolean(
        [body.solid, *(other.solid for other in others)], OpType.Subtract
    )
    return Body(solid, max(body.chord_error_mm, *(other.chord_error_mm for other in others)))


def _shadow(solid: Manifold) -> MultiPolygon:
    """All a solid covers seen from above. Casting it loses what stands under slivers that lean
    over; a slice amid it says so, and is put to it.
    """
    found = _areas(solid.project())
    if solid.is_empty():
        return found
    box = solid.bounding_box()
    amid = _areas(solid.slice((box[2] + box[5]) / 2))
    if amid.area <= found.area + _NO_AREA_MM2 or found.covers(amid):
        return found
    whole = shapely.union(found, amid)
    return MultiPolygon([part for part in shapely.get_parts(whole) if isinstance(part, Polygon)])


def _section(area: Polygon | MultiPolygon) -> CrossSection:
    rings = [
        np.asarray(ring.coords)[:-1]
        for polygon in getattr(area, "geoms", [area])
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return CrossSection(rings, FillRule.EvenOdd)


def _islands(outer: Any, inner: Any) -> list[Any]:
    """Outer loops that lie in holes, the largest first."""
    small = outer[shapely.area(outer) < float(shapely.area(inner).max())]
    if not len(small):
        return []
    tree = shapely.STRtree(inner)
    found = np.unique(tree.query(small, predicate="within")[0])
    return sorted(small[found], key=lambda loop: -loop.area)


def _areas(found: CrossSection) -> MultiPolygon:
    """Polygons with their holes, largest first."""
    simpler = found.simplify(_IN_LINE_MM)  # walls are cut twice, in both their triangles
    rings = [np.round(np.asarray(ring, dtype=float), _DECIMALS) for ring in simpler.to_polygons()]
    rings = [ring for ring in rings if len(ring) >= 3]
    if not rings:
        return MultiPolygon()
    loops = shapely.polygons(
        shapely.linearrings(
            np.concatenate(rings), indices=np.repeat(np.arange(len(rings)), list(map(len, rings)))
        )
    )
    ccw = shapely.is_ccw(shapely.get_exterior_ring(loops))
    outer, inner = shapely.make_valid(loops[ccw]), shapely.make_valid(loops[~ccw])
    whole = shapely.union_all(outer)
    if len(inner):
        islands = _islands(outer, inner)
        whole = shapely.difference(whole, shapely.union_all(inner))
        for island in islands:  # the largest first: what stands in a hole, and holes in that
            whole = shapely.union(whole, island)
            within = [hole for hole in inner if hole.area < island.area and island.covers(hole)]
            whole = shapely.difference(whole, shapely.union_all(within))
    parts = [
        part
        for part in shapely.get_parts(whole)
        if isinstance(part, Polygon) and part.area > _NO_AREA_MM2
    ]
    return MultiPolygon(sorted(parts, key=lambda part: -part.area))
