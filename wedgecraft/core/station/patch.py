"""What a flat from the side touches of a workpiece, a stop's face or a toe's: a patch where a face
of it lies against the flat, a line where it is round, or where an edge meets a slope.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.clamping.pressure import hertz_line
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Vector
from wedgecraft.core.records.material import HOLDER_YOUNGS_MPA
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.surfaces import wall

Array = NDArray[np.float64]
Side = Literal["left", "front", "right"]
#: Nearer than this to the plane of a flat, a surface touches it.
_TOUCHES_MM = 0.02
#: Less than this across touches as a line: a round, or a corner.
LINE_MM = 0.5
#: No corner is sharper than a broken edge.
_EDGE_MM = 0.2
#: Slices are taken this far inside an end; how far apart they are looked at for a slope.
_INSIDE_MM, _STEP_MM = 1e-3, 0.25
#: Slopes above and below an edge that differ by less than this share are one surface.
_ONE_SLOPE = 0.3
#: What turns more than this, radians, is a corner and no chord of a round.
_CORNER = 0.6
#: Surfaces beside a line of contact face its flat by this cosine.
_BESIDE = 0.7
#: What a flat pushes along, and which way its side faces.
_AXES: dict[Side, tuple[int, int]] = {"left": (0, -1), "front": (1, -1), "right": (0, 1)}
Span = tuple[float, float]
EVERYWHERE: Span = (-math.inf, math.inf)


@dataclass(frozen=True)
class Patch:
    """``corners``: the outermost points touched, as places along the side and heights, near and
    low ones first. ``area_mm2`` of a flat; of a line nothing, but its ``length_mm``, the
    ``radius_mm`` across it and how wide it is at least. ``lean``: angle by which the surface faces
    up (below nothing: down) where the flat's own edge meets it.
    """

    corners: tuple[tuple[float, float], ...]
    area_mm2: float = 0.0
    length_mm: float = 0.0
    radius_mm: float = math.inf
    wide_mm: float = 0.0
    lean: float = 0.0

    @property
    def along(self) -> Span:
        return min(a for a, _ in self.corners), max(a for a, _ in self.corners)

    @property
    def heights(self) -> Span:
        return min(z for _, z in self.corners), max(z for _, z in self.corners)

    @property
    def ends(self) -> tuple[float, ...]:
        """Along the side: two, or one where it is a round that touches."""
        low, high = self.along
        return (low,) if high - low < LINE_MM else (low, high)

    def pressed_mm2(self, force_n: float, youngs_mpa: float) -> float:
        """Its area under a force; a line's as wide as Hertz has it."""
        if self.area_mm2:
            return self.area_mm2
        half, _ = hertz_line(
            max(force_n, 1.0), self.length_mm, self.radius_mm, youngs_mpa, HOLDER_YOUNGS_MPA
        )
        return max(self.wide_mm, 2 * half) * self.length_mm

    def hollowed(self, hollow_mm: float, field: str) -> Patch:
        """As it touches in a hollow. Raises OutOfRange for a hollow that pinches it."""
        return replace(self, radius_mm=hollowed(self.radius_mm, hollow_mm, field))

    def pushed(self, side: Side) -> Vector:
        """Which way the flat pushes on it, square to the surface."""
        axis, sign = _AXES[side]
        way = [0.0, 0.0, -math.sin(self.lean) + 0.0]
        way[axis] = -sign * math.cos(self.lean)
        return way[0], way[1], way[2]


def hollowed(radius_mm: float, hollow_mm: float, field: str) -> float:
    """Radius of a cylinder on a flat that touches as this round does in a hollow. Raises OutOfRange
    for a hollow that pinches it.
    """
    if not hollow_mm or math.isinf(radius_mm):
        return radius_mm
    if hollow_mm <= 1.001 * radius_mm:
        raise OutOfRange(
            field,
            hollow_mm,
            f"more than the part's radius, {radius_mm:.2f} mm, or it touches with its edges alone",
        )
    return 1 / (1 / radius_mm - 1 / hollow_mm)


def touched(body: Body, side: Side, at_mm: float, along: Span, heights: Span) -> Patch | None:
    """What a flat at the plane ``at_mm`` of a side touches of a body, between two places along the
    side and two heights; nothing where it touches nothing.
    """
    known, key = body.known, ("touched", side, at_mm, along, heights)
    if key not in known:
        known[key] = _touched(body, side, at_mm, _frame(along, heights))
    found: Patch | None = known[key]
    return found


def _touched(body: Body, side: Side, at_mm: float, frame: Polygon) -> Patch | None:
    met = wall(body, *_AXES[side], at_mm, _TOUCHES_MM).intersection(frame)
    wide = 0.0
    if not met.is_empty:
        a0, z0, a1, z1 = met.bounds
        if met.area > 0 and a1 - a0 >= LINE_MM and z1 > z0:
            return Patch(_outermost(met), area_mm2=float(met.area))
        wide = a1 - a0
    return _line(body, side, at_mm, frame, wide)


def _frame(along: Span, heights: Span) -> Polygon:
    far = 1e5
    return box(max(along[0], -far), heights[0], min(along[1], far), heights[1])


def _outermost(met: Any) -> tuple[tuple[float, float], ...]:
    """The four points of a shape that lie farthest towards the corners of its box."""
    a0, z0, a1, z1 = met.bounds
    points = shapely.get_coordinates(met)
    scaled = (points - (a0, z0)) / (max(a1 - a0, 1e-9), max(z1 - z0, 1e-9))
    found = []
    for a, z in ((-1, -1), (-1, 1), (1, -1), (1, 1)):
        best = points[int(np.argmax(scaled @ (a, z)))]
        found.append((float(best[0]), float(best[1])))
    return tuple(dict.fromkeys(found))


def _line(body: Body, side: Side, at_mm: float, frame: Polygon, wide_mm: float) -> Patch | None:
    """Where it touches along a line, or several, or in a point."""
    met = _near(body, side, at_mm, frame)
    if met.is_empty:
        return None
    a0, z0, a1, z1 = met.bounds
    lobes = _lobes(met)
    if len(lobes) == 1 and a1 - a0 >= LINE_MM and _lies(body, side, at_mm, met.bounds):
        middle = (z0 + z1) / 2
        corners: tuple[tuple[float, float], ...] = ((a0, middle), (a1, middle))
        lean = _lean(body, side, (a0, a1), middle, frame)
        radius = (
            _EDGE_MM
            if lean
            else _radius(_across(body, side, (a0 + a1) / 2), at_mm * _AXES[side][1], middle)
        )
        return Patch(corners, 0.0, a1 - a0, radius, 0.0, lean)
    middles = [(low + high) / 2 for low, high in lobes]
    corners = tuple((a, z) for a in dict.fromkeys((middles[0], middles[-1])) for z in (z0, z1))
    slice_ = body.slice((z0 + z1) / 2 if z1 - z0 > 2 * _INSIDE_MM else _within(body, z0, z1))
    axis, sign = _AXES[side]
    seen = shapely.transform(slice_, lambda xy: np.stack([sign * xy[:, axis], xy[:, 1 - axis]], 1))
    return Patch(
        tuple(dict.fromkeys(corners)),
        0.0,
        max((z1 - z0) * len(lobes), _EDGE_MM),
        _radius(seen, at_mm * sign, middles[0]),
        wide_mm,
    )


def _lies(body: Body, side: Side, at_mm: float, bounds: Sequence[float]) -> bool:
    """Whether a line of contact lies along the side: what is next to it turns up or down rather
    than along.
    """
    axis, sign = _AXES[side]
    a0, z0, a1, z1 = bounds
    points, triangles = body.mesh
    near = np.abs(points[:, axis] - at_mm) < _TOUCHES_MM
    flat = points[:, [1 - axis, 2]]
    there = triangles[near[triangles].any(axis=1)]
    low, high = flat[there].min(axis=1), flat[there].max(axis=1)
    there = there[(low <= (a1, z1)).all(axis=1) & (high >= (a0, z0)).all(axis=1)]
    corners = points[there]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    beside = np.abs(normals[sign * normals[:, axis] > _BESIDE])
    along, up = beside[:, 1 - axis].sum(), beside[:, 2].sum()
    return bool(up > along + 1e-6) if abs(up - along) > 1e-6 else a1 - a0 > z1 - z0


def _within(body: Body, low: float, high: float) -> float:
    """A height at which there is something to cut, at or just beside both."""
    middle = (low + high) / 2
    return middle + (_INSIDE_MM if body.box[5] > middle + _INSIDE_MM else -_INSIDE_MM)


def _near(body: Body, side: Side, at_mm: float, frame: Polygon) -> Any:
    """Edges and corners that lie at the plane, within the frame, and where the frame's upper and
    lower end cut the surface there.
    """
    axis, _ = _AXES[side]
    points, triangles = body.mesh
    near = np.abs(points[:, axis] - at_mm) < _TOUCHES_MM
    flat = points[:, [1 - axis, 2]]
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    edges = np.unique(np.sort(edges[near[edges].all(axis=1)], axis=1), axis=0)
    found = [shapely.linestrings(flat[edges])] if len(edges) else []
    found.append(shapely.points(flat[near]))
    low, high = frame.bounds[1], frame.bounds[3]
    for height, inside in ((low, low + _INSIDE_MM), (high, high - _INSIDE_MM)):
        for ring in shapely.get_rings(shapely.get_parts(body.slice(inside))):
            places = shapely.get_coordinates(ring)
            there = np.column_stack([places[:, 1 - axis], np.full(len(places), height)])
            close = np.abs(places[:, axis] - at_mm) < _TOUCHES_MM
            found.append(shapely.points(there[close]))
            both = np.flatnonzero(close[:-1] & close[1:])
            found.append(shapely.linestrings(np.stack([there[both], there[both + 1]], axis=1)))
    return shapely.union_all(np.concatenate(found)).intersection(frame)


def _lobes(met: Any) -> list[Span]:
    """Stretches along the side, apart by more than a line's width."""
    spans = sorted((item.bounds[0], item.bounds[2]) for item in getattr(met, "geoms", [met]))
    found: list[Span] = []
    for low, high in spans:
        if found and low <= found[-1][1] + LINE_MM:
            found[-1] = (found[-1][0], max(high, found[-1][1]))
        else:
            found.append((low, high))
    return found


def _across(body: Body, side: Side, along_mm: float) -> MultiPolygon:
    """Its section square to the side's length, outwards and up."""
    axis, sign = _AXES[side]
    turn = np.zeros((3, 3))
    turn[0, axis], turn[1, 2] = sign, 1.0
    turn[2] = np.cross(turn[0], turn[1])
    height = along_mm * turn[2, 1 - axis]
    return body.turned(turn).slice(height)


def _radius(seen: Any, out_mm: float, along_mm: float) -> float:
    """Of a section, outwards along X, where it reaches out to ``out_mm`` at this place along."""
    best, radius = math.inf, _EDGE_MM
    for piece in getattr(seen, "geoms", [seen]):
        ring = shapely.get_coordinates(piece.exterior)[:-1]
        if not len(ring):
            continue
        off = np.hypot(ring[:, 0] - out_mm, ring[:, 1] - along_mm)
        k = int(np.argmin(off))
        if off[k] >= best:
            continue
        best = float(off[k])
        a, b, c = ring[k - 1], ring[k], ring[(k + 1) % len(ring)]
        area = abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2
        if area < 1e-12:
            radius = 1e4
        elif _turn(a, b, c) > _CORNER:
            radius = _EDGE_MM
        else:
            radius = math.dist(a, b) * math.dist(b, c) * math.dist(c, a) / (4 * area)
    return max(radius, _EDGE_MM)


def _turn(a: Array, b: Array, c: Array) -> float:
    """How much a path turns at ``b``, radians."""
    before, after = b - a, c - b
    return abs(math.atan2(before[0] * after[1] - before[1] * after[0], float(before @ after)))


def _lean(body: Body, side: Side, along: Span, height: float, frame: Polygon) -> float:
    """How far the surface faces up where the upper or lower end of a flat meets it; nothing where
    the body's own edge touches the flat.
    """
    ends = [abs(height - frame.bounds[k]) < 2 * _INSIDE_MM for k in (1, 3)]
    if not any(ends) or height - _STEP_MM <= body.box[2] or height + _STEP_MM >= body.box[5]:
        return 0.0
    axis, sign = _AXES[side]
    strip = [-1e5, -1e5, 1e5, 1e5]
    strip[1 - axis], strip[3 - axis] = along
    window = box(*strip)
    out = []
    for z in (height - _STEP_MM, height, height + _STEP_MM):
        there = body.slice(z).intersection(window)
        if there.is_empty:
            return 0.0
        out.append(sign * (there.bounds[axis + 2] if sign > 0 else there.bounds[axis]))
    below, above = ((b - a) / _STEP_MM for a, b in pairwise(out))
    if abs(below - above) > _ONE_SLOPE * max(abs(below), abs(above)):
        return 0.0
    return -math.atan((below + above) / 2)
