"""A solid as triangles: seen from above, cut at a height, its box and volume. The same for every
file a solid may come from.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, on_the_outside, with_arcs
from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.workpiece.loops import LoopFault, chain, nest

Array = NDArray[np.float64]
#: Slivers that rounding leaves in a silhouette are not holes.
_SLIVER_MM2 = 0.01
_SNAP_MM = 1e-4
_SECTION_DECIMALS = 6
#: A corner of a silhouette nearer than this to a corner of the mesh is that one.
_NEAR_MM = 1e-3
#: A curve turns less than this at a point of its mesh, radians, and its chords are alike in length.
_SMOOTH, _ALIKE = 0.5, 4.0
#: How far chords of a silhouette may lie from it, beside the mesh's own error.
_SIMPLER_MM = 0.003


@dataclass(frozen=True)
class Mesh:
    """``points`` (n, 3) in mm, ``triangles`` (m, 3) indices, wound to point outwards; ``faces``
    (m,) the face each belongs to.
    """

    points: Array
    triangles: NDArray[np.int64]
    faces: NDArray[np.int64]


def volume_mm3(mesh: Mesh) -> float:
    """By the divergence theorem."""
    a, b, c = (mesh.points[mesh.triangles[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->i", a, cross(b, c)).sum() / 6)


def turn_up(up: tuple[float, float, float]) -> Array:
    """The turn (3, 3) that brings ``up`` to +Z: of all turns about ``up`` the one that keeps the
    file's X nearest to X, or its Y where X is up.
    """
    z = np.array(up, dtype=float)
    z /= np.linalg.norm(z)
    guide = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
    x = guide - z * (guide @ z)
    x /= np.linalg.norm(x)
    return np.stack([x, cross(z, x), z])


def turned_up(mesh: Mesh, up: tuple[float, float, float]) -> tuple[Mesh, Array]:
    """The mesh with ``up`` along +Z and its box's lower corner at the origin, and the turn (3, 3)
    that did it.
    """
    turn = turn_up(up)
    points = mesh.points @ turn.T
    return Mesh(points - points.min(axis=0), mesh.triangles, mesh.faces), turn


def silhouette(mesh: Mesh) -> Polygon:
    """Everything the solid covers, seen along Z. Raises LoopFault when that is not one piece."""
    corners = mesh.points[mesh.triangles]
    flat = corners[:, :, :2]
    edge1, edge2 = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = edge1[:, 0] * edge2[:, 1] - edge1[:, 1] * edge2[:, 0]
    facing = np.flatnonzero(area > 1e-9)
    if not len(facing):
        raise LoopFault("nothing is seen from this side", "choose another side to be up")
    # First each face by itself: its triangles tile it, and far fewer pieces are left to unite.
    order = facing[np.argsort(mesh.faces[facing], kind="stable")]
    pieces = []
    for _, run in groupby(order.tolist(), key=lambda index: int(mesh.faces[index])):
        tiles = shapely.polygons(np.round(flat[list(run)] / _SNAP_MM) * _SNAP_MM)
        pieces.append(_united(tiles[shapely.is_valid(tiles)]))
    whole = shapely.union_all(pieces).buffer(_SNAP_MM).buffer(-_SNAP_MM)
    return _one_piece(whole)


def outline_of(seen: Polygon, circles: Array, curved: Array, stray_mm: float) -> Polygon:
    """A silhouette that leaves no material out, with true arcs for chords of ``circles`` (k, 3: x,
    y, radius, seen along their axes).

    ``curved`` (n, 2): points of all other curved surfaces, whose chords lie up to ``stray_mm`` from
    them.
    """
    from scipy.spatial import cKDTree  # the reader's process alone needs it

    tree = cKDTree(curved) if len(curved) else None
    rings = []
    for ring, wound in ((seen.exterior, True), *((hole, False) for hole in seen.interiors)):
        points = np.asarray(ring.coords)[:-1]
        points = points if ring.is_ccw == wound else points[::-1]
        found = with_arcs(points, circles, stray_mm + _SIMPLER_MM)
        if tree is not None:
            found[:, 2] = np.maximum(
                found[:, 2], _runs_on(found[:, :2]) & (tree.query(found[:, :2])[0] < _NEAR_MM)
            )
        rings.append(
            on_the_outside(found, stray_mm + _SIMPLER_MM if tree is not None else CHORD_ERROR_MM)
        )
    whole = Polygon(rings[0], rings[1:])
    return whole if whole.is_valid else seen


def _runs_on(ring: Array) -> NDArray[np.bool_]:
    """Where a curve goes on through a point of a ring of chords: a small turn between chords of
    much the same length.
    """
    chord = np.roll(ring, -1, axis=0) - ring
    length, along = np.hypot(*chord.T), np.arctan2(chord[:, 1], chord[:, 0])
    turn = np.abs(np.angle(np.exp(1j * (along - np.roll(along, 1)))))
    before = np.roll(length, 1)
    return np.asarray(
        (turn < _SMOOTH) & (np.maximum(length, before) < _ALIKE * np.minimum(length, before))
    )


def from_below(seen: Polygon | str) -> Polygon | str:
    """A silhouette as it stands with the solid's other end up (``turned_up`` keeps X and turns Y
    round); a reason why there is none stays.
    """
    if isinstance(seen, str):
        return seen
    low, high = seen.bounds[1], seen.bounds[3]
    turned: Polygon = shapely.transform(
        seen, lambda points: np.column_stack([points[:, 0], low + high - points[:, 1]])
    )
    return turned.reverse()


def _united(tiles: Any) -> Any:
    """Tiles of one face: quickly as a coverage; the long way where they overlap, as on a face that
    turns under itself.
    """
    try:
        quick = shapely.coverage_union_all(tiles)
    except shapely.GEOSException:  # they meet side on side without sharing corners
        return shapely.union_all(tiles)
    whole = float(shapely.area(tiles).sum())
    return (
        quick
        if shapely.is_valid(quick) and abs(quick.area - whole) <= 1e-9 * max(1.0, whole)
        else shapely.union_all(tiles)
    )


def _one_piece(whole: Any) -> Polygon:
    parts = list(whole.geoms) if isinstance(whole, MultiPolygon) else [whole]
    parts = [part for part in parts if part.area > _SLIVER_MM2]
    if len(parts) != 1:
        raise LoopFault(
            f"seen from here the solid is {len(parts)} pieces",
            "load one part at a time, or choose another side to be up",
        )
    simpler = parts[0].simplify(_SIMPLER_MM)
    holes = [hole for hole in simpler.interiors if Polygon(hole).area > _SLIVER_MM2]
    return Polygon(simpler.exterior, holes)


def section(mesh: Mesh, height_mm: float) -> list[Polygon]:
    """The solid cut by the plane at this height, largest piece first; empty above and below it.
    Raises LoopFault for a mesh with holes.
    """
    z = mesh.points[:, 2] - height_mm
    z = np.where(
        np.abs(z) < 1e-7, 1e-7, z
    )  # a plane through corners is moved by nothing that matters
    corners, heights = mesh.points[mesh.triangles], z[mesh.triangles]
    above = heights > 0
    crossing = above.any(axis=1) & ~above.all(axis=1)
    if not crossing.any():
        return []
    corners, heights, above = corners[crossing], heights[crossing], above[crossing]
    # The corner that is alone on its side, and the two edges from it.
    alone = np.where(above.sum(axis=1) == 1, np.argmax(above, axis=1), np.argmin(above, axis=1))
    row = np.arange(len(alone))
    ends = []
    for step in (1, 2):
        other = (alone + step) % 3
        share = heights[row, alone] / (heights[row, alone] - heights[row, other])
        ends.append(
            corners[row, alone, :2]
            + share[:, None] * (corners[row, other, :2] - corners[row, alone, :2])
        )
    pieces = np.round(np.stack(ends, axis=1), _SECTION_DECIMALS)
    pieces = pieces[np.any(pieces[:, 0] != pieces[:, 1], axis=1)]
    merged = shapely.get_parts(
        shapely.line_merge(shapely.multilinestrings(shapely.linestrings(pieces)))
    )
    rings = [shapely.get_coordinates(line)[:-1] for line in merged[shapely.is_closed(merged)]]
    loops = [ring for ring in rings if len(ring) >= 3 and Polygon(ring).area > _SLIVER_MM2]
    if not loops:  # ends that differ by more than rounding: the patient way
        loops = [
            loop for loop in chain(list(pieces), 1e-3).loops if Polygon(loop).area > _SLIVER_MM2
        ]
    if not loops:
        raise LoopFault(
            "the solid's surface is open at this height", "mend the solid and export it again"
        )
    found, _ = nest([_smoothed(loop) for loop in loops])
    pieces_found = [
        Polygon(item.outer.exterior, [hole.exterior for hole in item.holes]) for item in found
    ]
    return [piece for piece in pieces_found if piece.is_valid]


def _smoothed(loop: Array) -> Array:
    simple = Polygon(loop).simplify(_SIMPLER_MM)
    return shapely.get_coordinates(simple.exterior)[:-1]
