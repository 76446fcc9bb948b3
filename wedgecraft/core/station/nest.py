"""Where soft jaws touch: all along the profile that was cut into them, each jaw on its side of the
gap between them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.cut import largest
from wedgecraft.core.records.element import Nest
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.workpiece.sitting import Sitting

Jaw = Literal["fixed", "moving"]
#: A wall presses where it faces its jaw within 45°: beyond, a pocket with clearance lets it go, and
#: what would wedge there is not counted on.
_FACES = math.cos(math.radians(45))
#: Touching is looked at on these heights, as shares of the depth.
_LEVELS = (0.25, 0.75)
#: A touching piece is no longer than this share of the outline, and turns no more, radians.
_PIECE, _BENDS = 0.1, 0.6
#: A jaw touches in no more places than this at a height.
_MOST = 8
#: A post is at least so thick, and so much is round it for a cutter; house usage, from memory.
_POST_MM, _ROUND_MM = 6.0, 3.2
#: What lies farther inside the profile does not touch it, mm.
_TOUCHES_MM = 0.03


@dataclass(frozen=True)
class Touch:
    """A piece of wall against a jaw: its middle, which way it faces, how long and high it is."""

    at: tuple[float, float, float]
    faces: tuple[float, float]
    length_mm: float
    high_mm: float


def profile(sitting: Sitting, kind: StopAndEdgeClamp) -> Polygon:
    """What both jaws leave free: all that the part covers down there."""
    return sitting.between(0.0, kind.stops.height_mm)


def posts_in(held: Polygon, nest: Nest) -> list[Polygon]:
    """Openings right through the profile that a post stands in: in one jaw alone, wide enough for
    one, and with room round them for a cutter.
    """
    if not nest.posts:
        return []
    split, half = nest.split_mm(held), nest.gap_mm / 2
    rings = [held.exterior, *held.interiors]
    found = []
    for ring in rings[1:]:
        area = Polygon(ring)
        x0, _, x1, _ = area.bounds
        alone = x1 < split - half or x0 > split + half
        room = min(ring.distance(other) for other in rings if other is not ring)
        if alone and room >= _ROUND_MM and not area.buffer(-_POST_MM / 2).is_empty:
            found.append(area)
    return found


def fixed_half(
    sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, along: Sequence[float]
) -> Polygon:
    """The fixed jaw round its half of the profile, seen from above; once for each part of a row,
    so far ``along`` the jaws.
    """
    held = profile(sitting, kind)
    _, low, _, high = held.bounds
    middle, half = (low + high + along[0] + along[-1]) / 2, nest.width_mm / 2
    split = nest.split_mm(held) - nest.gap_mm / 2
    whole = box(-kind.stops.thickness_mm, middle - half, split, middle + half)
    return largest(_parts(whole.difference(nest.pockets(held, along))))


def moving_half(
    jaw: Polygon, sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, along: Sequence[float]
) -> Polygon:
    """The moving jaw, a hard one before, round its half of the profiles."""
    held = profile(sitting, kind)
    _, near, back, far = jaw.bounds
    whole = box(nest.split_mm(held) + nest.gap_mm / 2, near, back, far)
    return largest(_parts(whole.difference(nest.pockets(held, along))))


def touches(sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, jaw: Jaw) -> list[Touch]:
    """Where a jaw touches the part. Raises OutOfRange where it does not."""
    known, key = sitting.before.known, ("nest", kind.stops.height_mm, nest, jaw)
    if key not in known:
        known[key] = _touches(sitting, kind, nest, jaw)
    found: list[Touch] = known[key]
    if not found:
        raise OutOfRange(
            "station.stops.height_mm",
            kind.stops.height_mm,
            f"where the {jaw} jaw meets the part: it touches nothing there",
        )
    return found


def _touches(sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, jaw: Jaw) -> list[Touch]:
    held = profile(sitting, kind)
    sign = -1.0 if jaw == "fixed" else 1.0
    reach = nest.split_mm(held) + sign * nest.gap_mm / 2
    posts = posts_in(held, nest)
    walls = shapely.union_all([held.exterior, *(post.exterior for post in posts)])
    edge = walls.buffer(_TOUCHES_MM)
    shapely.prepare(edge)
    depth = min(kind.stops.height_mm, sitting.height_mm)
    found: list[Touch] = []
    for share in _LEVELS:
        level = share * depth
        pieces: list[_Piece] = []
        for part in shapely.get_parts(sitting.before.slice(level)):
            pieces += _pieces(part.exterior, sign, reach, edge)
            for ring in part.interiors if posts else ():
                pieces += _pieces(ring, sign, reach, edge, inner=True)
        found += [piece.touch(level, depth / 2) for piece in _few(pieces)]
    return found


@dataclass(frozen=True)
class _Piece:
    at: tuple[float, float]
    faces: tuple[float, float]
    length_mm: float

    def touch(self, level_mm: float, high_mm: float) -> Touch:
        return Touch((*self.at, level_mm), self.faces, self.length_mm, high_mm)


def _pieces(
    ring: shapely.LinearRing, sign: float, reach_mm: float, edge: Polygon, inner: bool = False
) -> list[_Piece]:
    """Edges of a ring that face a jaw beyond the gap, cut short and gathered. ``inner``: it goes
    round an opening.
    """
    most = _PIECE * float(ring.length)
    corners = shapely.get_coordinates(ring.segmentize(most))
    if ring.is_ccw == inner:
        corners = corners[::-1]
    ways = np.diff(corners, axis=0)
    lengths = np.linalg.norm(ways, axis=1)
    faces = np.column_stack([ways[:, 1], -ways[:, 0]]) / np.maximum(lengths, 1e-12)[:, None]
    middles = (corners[:-1] + corners[1:]) / 2
    there = (lengths > 1e-9) & (sign * faces[:, 0] >= _FACES)
    there &= sign * (middles[:, 0] - reach_mm) > 0
    there &= shapely.contains_xy(edge, middles[:, 0], middles[:, 1])
    found: list[_Piece] = []
    run: list[int] = []
    for k in [*np.flatnonzero(there).tolist(), -1]:
        if run and (
            k != run[-1] + 1
            or faces[k] @ faces[run[0]] < math.cos(_BENDS)
            or lengths[[*run, k]].sum() > most * 1.001
        ):
            sums = np.cumsum(lengths[run])
            amid = run[int(np.searchsorted(sums, sums[-1] / 2))]
            (x, y), (fx, fy) = middles[amid].tolist(), faces[amid].tolist()
            found.append(_Piece((x, y), (fx, fy), float(sums[-1])))
            run = []
        run.append(k)
    return found


def _few(pieces: Sequence[_Piece]) -> list[_Piece]:
    """So few that holding can be looked at: neighbours as the one of them that presses most."""
    whole = sum(piece.length_mm for piece in pieces)
    groups: dict[int, list[_Piece]] = {}
    passed = 0.0
    for piece in pieces:
        place = int(_MOST * (passed + piece.length_mm / 2) / whole)
        groups.setdefault(place if len(pieces) > _MOST else len(groups), []).append(piece)
        passed += piece.length_mm
    return [
        replace(
            max(group, key=lambda piece: piece.length_mm * abs(piece.faces[0])),
            length_mm=sum(piece.length_mm for piece in group),
        )
        for group in groups.values()
    ]


def nest_contacts(
    sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, preload_n: float
) -> list[Contact]:
    """Both jaws' touches as contacts: the moving jaw presses on each the harder the more it faces
    the closing, all together with the preload.
    """
    moving = touches(sitting, kind, nest, "moving")
    total = sum(item.length_mm * item.faces[0] ** 2 for item in moving)
    found = [
        Contact(
            name=f"fixed jaw {number}",
            kind="locator",
            point_mm=item.at,
            normal=(-item.faces[0], -item.faces[1], 0.0),
            friction=kind.stops.friction,
            capacity_n=kind.stops.capacity_n,
            area_mm2=item.length_mm * item.high_mm,
        )
        for number, item in enumerate(touches(sitting, kind, nest, "fixed"), 1)
    ]
    found += [
        Contact(
            name=f"moving jaw {number}",
            kind="clamp",
            point_mm=item.at,
            normal=(-item.faces[0], -item.faces[1], 0.0),
            friction=kind.element.rubs(kind.clamp),
            preload_n=preload_n * item.length_mm * item.faces[0] / total,
            area_mm2=item.length_mm * item.high_mm,
        )
        for number, item in enumerate(moving, 1)
    ]
    return found


def _parts(shape: shapely.Geometry) -> MultiPolygon:
    parts: Sequence[shapely.Geometry] = shapely.get_parts(shape)
    return MultiPolygon([part for part in parts if isinstance(part, Polygon)])
