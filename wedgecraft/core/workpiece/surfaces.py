"""Planes and round holes found among the triangles of a body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely.geometry import Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.records.feature import DIRECTIONS, Direction
from wedgecraft.core.workpiece.body import Body

Array = NDArray[np.float64]
Vector = tuple[float, float, float]
#: Neighbours that turn less than this, as a cosine, lie in one plane; in one curved surface.
_FLAT, _SMOOTH = 1 - 1e-7, 0.88
#: Chords of one curve differ by less than this factor.
_ALIKE = 4.0
#: A face that faces a way does so by this cosine.
_UPRIGHT = 0.9999
#: A circle through a chord and its neighbours bulges over it by no more than this.
_BULGE_MM = 0.05
#: A plane smaller than this is no face, mm2.
_LEAST_MM2 = 0.05


@dataclass(frozen=True)
class Plane:
    """A plane face: outward normal, area, a point in it."""

    normal: Vector
    area_mm2: float
    place_mm: Vector


@dataclass(frozen=True)
class RoundFace:
    """A whole cylinder that curves inwards: where its axis begins and ends, its diameter, whether
    it is open at both ends, and from which sides a tool can come along its axis.
    """

    diameter_mm: float
    start_mm: Vector
    end_mm: Vector
    through: bool
    open_to: tuple[Vector, ...]


def planes_of(body: Body) -> list[Plane]:
    """The largest first."""
    normals, areas, middles, pairs, cosines = _triangles(body)
    labels = _groups(len(areas), pairs[cosines > _FLAT])
    chords = _chords(body, labels, areas, pairs, cosines)
    found = []
    for members in _members(labels):
        area = float(areas[members].sum())
        if area >= _LEAST_MM2 and not chords[labels[members[0]]]:
            normal = _unit((normals[members] * areas[members, None]).sum(axis=0))
            place = (middles[members] * areas[members, None]).sum(axis=0) / area
            if np.abs((middles[members] - place) @ normal).max() < 1e-4:
                found.append(Plane(_vector(normal), area, _vector(place)))
    return sorted(found, key=lambda plane: -plane.area_mm2)


def wall(body: Body, axis: int, sign: int, at_mm: float, within_mm: float) -> Any:
    """Its plane faces that lie at the plane ``at_mm`` of an axis, facing that way: polygons of the
    other axis in the plane and height.
    """
    key = ("wall", axis, sign, round(at_mm, 6), within_mm)
    if key not in body.known:
        points, triangles = body.mesh
        near = (np.abs(points[:, axis] - at_mm) < within_mm)[triangles].all(axis=1)
        corners = points[triangles[near & _faces(body)]]
        twice = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        size = np.linalg.norm(twice, axis=1)
        facing = sign * twice[:, axis] > _UPRIGHT * np.maximum(size, 1e-12)
        flat = np.round(corners[facing][:, :, [1 - axis, 2]], 6)
        body.known[key] = shapely.union_all(shapely.polygons(flat)) if len(flat) else Polygon()
    return body.known[key]


def _faces(body: Body) -> NDArray[np.bool_]:
    """Which triangles lie in plane faces; chords of curves do not (m,)."""
    if ("faces",) not in body.known:
        _, areas, _, pairs, cosines = _triangles(body)
        labels = _groups(len(areas), pairs[cosines > _FLAT])
        chords = _chords(body, labels, areas, pairs, cosines)
        body.known["faces",] = ~chords[labels]
    found: NDArray[np.bool_] = body.known["faces",]
    return found


def _chords(
    body: Body, labels: NDArray[np.int64], areas: Array, pairs: NDArray[np.int64], cosines: Array
) -> NDArray[np.bool_]:
    """Which groups of triangles are chords of a curve and no faces: a neighbour goes on smoothly on
    either side, is not much smaller, and a circle through both bulges no more than chords may.
    """
    count = int(labels.max()) + 1
    size = np.bincount(labels, weights=areas, minlength=count)
    bent = (cosines > _SMOOTH) & (cosines <= _FLAT)
    near, far = pairs[bent].T
    a, b = labels[near], labels[far]
    apart = a != b
    length = _shared_mm(body, near[apart], far[apart])
    turn = np.tile(np.arccos(np.clip(cosines[bent][apart], -1, 1)), 2)
    a, b = np.concatenate([a[apart], b[apart]]), np.concatenate([b[apart], a[apart]])
    length = np.tile(length, 2)
    sides = np.bincount(a, minlength=count)
    largest = np.zeros(count)
    np.maximum.at(largest, a, size[b])
    edges = np.maximum(np.bincount(a, length, count), 1e-12)
    bulge = 2 * size / edges * np.bincount(a, length * turn, count) / edges / 8
    most = max(_BULGE_MM, 2 * body.chord_error_mm)
    return np.asarray((sides >= 2) & (largest > size / _ALIKE) & (bulge <= most))


def _shared_mm(body: Body, near: NDArray[np.int64], far: NDArray[np.int64]) -> Array:
    """How long the edge is that two triangles share, (n,)."""
    points, triangles = body.mesh
    shared = (triangles[near][:, :, None] == triangles[far][:, None, :]).any(axis=2)
    corners = points[triangles[near]]
    first, last = np.argmax(shared, axis=1), 2 - np.argmax(shared[:, ::-1], axis=1)
    row = np.arange(len(near))
    found: Array = np.linalg.norm(corners[row, first] - corners[row, last], axis=1)
    return found


def round_holes_of(body: Body) -> list[RoundFace]:
    """Whole round holes, the widest first; fillets and the ends of slots are none."""
    normals, areas, middles, pairs, cosines = _triangles(body)
    bent = pairs[(cosines > _SMOOTH)]
    labels = _groups(len(areas), bent)
    points, triangles = body.mesh
    found = []
    for members in _members(labels):
        if len(members) < 16:
            continue
        corners = points[np.unique(triangles[members])]
        hole = _cylinder(corners, normals[members], areas[members], middles[members])
        if hole is not None:
            found.append(hole)
    rounds = [_looked_along(body, *hole) for hole in _in_line(body, found)]
    return sorted(rounds, key=lambda hole: (-hole.diameter_mm, hole.start_mm))


Ends = tuple[Array, Array, float]


def _in_line(body: Body, holes: list[Ends]) -> list[Ends]:
    """Holes of one size on one axis with nothing between them are one hole."""
    found: list[Ends] = []
    for low, high, radius in sorted(holes, key=lambda hole: tuple(np.round(hole[0], 3))):
        for k, (first, last, size) in enumerate(found):
            axis = _unit(last - first)
            off = [
                np.linalg.norm((end - first) - axis * ((end - first) @ axis)) for end in (low, high)
            ]
            if abs(size - radius) < 0.01 and max(off) < 0.01 and _clear(body, last, low):
                found[k] = (first, high, size)
                break
        else:
            found.append((low, high, radius))
    return found


def _clear(body: Body, start: Array, end: Array) -> bool:
    """Whether nothing lies between two ends that face each other."""
    way = end - start
    return not body.holds_ray(start + 0.001 * way, end - 0.001 * way)


def sagitta_mm(body: Body) -> float:
    """How far the chords of its curved surfaces may lie from the curves: from how much neighbours
    turn and how wide they are, as a circle through both would bulge.
    """
    _, areas, _, pairs, cosines = _triangles(body)
    bent = (cosines > _SMOOTH) & (cosines < _FLAT)
    if not bent.any():
        return 0.0
    near, far = pairs[bent].T
    length = _shared_mm(body, near, far)
    # how high both triangles stand over the edge they share: the width of the strips
    wide = 2 * np.maximum(areas[near], areas[far]) / np.maximum(length, 1e-9)
    turn = np.arccos(np.clip(cosines[bent], -1, 1))
    return float(np.percentile(wide * turn / 8, 95))


def side_of(direction: Vector) -> Direction | None:
    """The side of a part that a direction points to; nothing for one that lies between."""
    for side in DIRECTIONS:
        if direction["XYZ".index(side[1])] * (1 if side[0] == "+" else -1) > 1 - 1e-4:
            return side
    return None


def _cylinder(points: Array, normals: Array, areas: Array, middles: Array) -> Ends | None:
    """Both ends of the axis and the radius of a whole cylinder that curves inwards."""
    spread = np.einsum("i,ij,ik->jk", areas, normals, normals) / areas.sum()
    values, vectors = np.linalg.eigh(spread)
    axis = vectors[:, 0]
    if values[0] > 1e-6 or values[1] < 0.2:
        return None  # no one axis that all normals are square to, or a strip of it only
    axis = axis if tuple(np.round(axis, 6)) > (0, 0, 0) else -axis
    snapped = np.round(axis)
    if np.abs(axis - snapped).max() < 1e-4:  # the mesh's own rounding
        axis = snapped
    u = _unit(cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))]))
    v = cross(axis, u)
    flat = np.column_stack([points @ u, points @ v])
    fitted = np.linalg.lstsq(
        np.column_stack([2 * flat, np.ones(len(flat))]), (flat**2).sum(axis=1), rcond=None
    )[0]
    centre = fitted[:2]
    radii = np.linalg.norm(flat - centre, axis=1)
    if np.ptp(radii) > max(0.02, 4 * CHORD_ERROR_MM):
        return None
    outwards = np.column_stack([middles @ u, middles @ v]) - centre
    if (np.einsum("ij,ij->i", np.column_stack([normals @ u, normals @ v]), outwards) > 0).any():
        return None  # a boss
    along = points @ axis
    foot = u * centre[0] + v * centre[1]
    return foot + axis * along.min(), foot + axis * along.max(), float(radii.mean())


def _looked_along(body: Body, low: Array, high: Array, radius: float) -> RoundFace:
    axis = _unit(high - low)
    x0, y0, z0, x1, y1, z1 = body.box
    far = float(np.linalg.norm([x1 - x0, y1 - y0, z1 - z0]))
    u = _unit(cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))]))
    v = cross(axis, u)
    rim = [0.9 * radius * (c * u + s * v) for c, s in ((1, 0), (0, 1), (-1, 0), (0, -1))]
    opens = []
    for way in (axis, -axis):
        middle = (low + high) / 2
        if not any(
            body.holds_ray(middle + off, middle + off + way * far) for off in [np.zeros(3), *rim]
        ):
            opens.append(_vector(way))
    return RoundFace(2 * radius, _vector(low), _vector(high), len(opens) == 2, tuple(opens))


def _triangles(body: Body) -> tuple[Array, Array, Array, NDArray[np.int64], Array]:
    """Normals, areas, middles of triangles; pairs of neighbours, and the cosines between them."""
    points, triangles = body.mesh
    a, b, c = (points[triangles[:, k]] for k in range(3))
    twice = cross(b - a, c - a)
    length = np.linalg.norm(twice, axis=1)
    normals = twice / np.maximum(length, 1e-300)[:, None]
    edges = np.sort(
        np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1
    )
    order = np.lexsort((edges[:, 1], edges[:, 0]))
    pairs = (order % len(triangles)).reshape(-1, 2)
    cosines = np.einsum("ij,ij->i", normals[pairs[:, 0]], normals[pairs[:, 1]])
    sound = (length[pairs] > 1e-12).all(axis=1)
    return normals, length / 2, (a + b + c) / 3, pairs, np.where(sound, cosines, 1.0)


def _groups(count: int, pairs: NDArray[np.int64]) -> NDArray[np.int64]:
    ones = np.ones(len(pairs))
    graph = coo_matrix((ones, (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1])


def _members(labels: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    order = np.argsort(labels, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(labels[order])) + 1)


def _unit(vector: Array) -> Array:
    found: Array = vector / np.linalg.norm(vector)
    return found


def _vector(values: Array) -> Vector:
    x, y, z = (float(value) + 0.0 for value in np.round(values, 9))
    return x, y, z
