"""What stands in a machine while it cuts: clamps, stops, plates, the block with its other faces,
table or pallet; at any index of the block. mm, machine coordinates of a tool's tip.

What faces the spindle stands there as it is; what is turned away stands as the boxes of its pieces,
in steps that are never lower than they.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError
from shapely.geometry import Point, Polygon

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.poses import (
    face_pose,
    index_deg,
    lifted_mm,
    machine_pose,
    rise_mm,
    shifted,
    spun,
)
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.layout import Layer
from wedgecraft.core.records.program import PartZero
from wedgecraft.core.station.relief import milled_reliefs, reliefs

Array = NDArray[np.float64]
#: Angles this near are one.
_SAME_DEG = 1e-3
#: In so many steps the slope of a turned box goes down.
_STEPS = 6
#: A table or pallet is taken this thick.
_TABLE_MM = 100.0


@dataclass(frozen=True)
class Standing:
    """An upright prism: ``ring`` (n, 2), counter-clockwise or not, up to ``high_mm``; what stands
    under it is not looked at, as a tool reaches up to its spindle. ``station`` counts from 1.
    """

    what: str
    station: int | None
    ring: Array
    high_mm: float


@dataclass(frozen=True)
class _Box:
    """Between two corners, in the frame of a face."""

    what: str
    station: int | None
    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def corners(self) -> Array:
        x, y, z = zip(self.low, self.high, strict=True)
        found: Array = np.array([(a, b, c, 1.0) for a in x for b in y for c in z])
        return found


class Scene:
    """``parts``: those that are there."""

    def __init__(self, asked: Asked, parts: Sequence[PartZero]) -> None:
        self.asked = asked
        self.there = {(part.station, part.member) for part in parts}
        self._lifted = lifted_mm(asked)
        self._known: dict[float, list[Standing]] = {}

    @property
    def axis(self) -> int:
        """The axis the block turns about: X or Y."""
        return 1 if self.asked.request.block.axis == "upright" else 0

    def index_of(self, rotary: Sequence[float]) -> float:
        """The block's index out of A, B and C; nothing where nothing turns."""
        if self.asked.request.block.faces == 1:
            return 0.0
        return round(float(rotary[self.axis]) % 360, 3) % 360

    def faces_up(self, face: int, index: float) -> bool:
        """Whether a face looks at the spindle."""
        off = abs(index - index_deg(self.asked.request.block, face)) % 360
        return min(off, 360 - off) < _SAME_DEG

    def at(self, index: float) -> list[Standing]:
        """All that stands at an index, but for the parts of the face that looks at the spindle."""
        if index not in self._known:
            self._known[index] = list(self._standing(index))
        return self._known[index]

    def swing(self) -> list[tuple[float, float, float]]:
        """How far what turns stands from the axis: distance, and from where to where along it."""
        pose = machine_pose(self.asked.request, 0.0)
        middle = pose[:3, 3]
        found = []
        for face in range(self.asked.request.block.faces):
            out = pose @ face_pose(self.asked.request, face, self._lifted)
            for item in self._boxes(face):
                own = (item.corners @ out.T)[:, :3] - middle
                along = own[:, self.axis]
                far = np.hypot(own[:, 1 - self.axis], own[:, 2]).max()
                at = middle[self.axis]
                found.append((float(far), float(along.min() + at), float(along.max() + at)))
        return found

    def _standing(self, index: float) -> Iterator[Standing]:
        request = self.asked.request
        turned = machine_pose(request, index)
        for face in range(request.block.faces):
            pose = turned @ face_pose(request, face, self._lifted)
            if self.faces_up(face, index):
                yield from self._facing(face, pose)
            else:
                for item in self._boxes(face):
                    yield from _steps(item, pose, self.axis)
        for item in self._carrying():
            yield from _steps(item, turned, self.axis)

    def _facing(self, face: int, pose: Array) -> Iterator[Standing]:
        plate, relieved = self._plate(), list(self._relieved(face))
        if plate is not None:
            yield from _with_reliefs(
                "the plate", None, Polygon(_rectangle(plate.low, plate.high)), relieved, pose
            )
        for station in self.asked.on_face(face):
            out = pose @ self._placed(station)
            for body in self.asked.design.kinds[station.kind].drawing.bodies:
                if body.name == "part":
                    continue
                if body.high_mm == 0:  # parts stand on it
                    flat = np.array([(x, y, 0.0, 1.0) for x, y in body.outer])
                    area = Polygon((flat @ self._placed(station).T)[:, :2])
                    yield from _with_reliefs(
                        f"the {body.name}",
                        station.number,
                        area,
                        relieved,
                        pose,
                        out[2, 3] - pose[2, 3],
                    )
                    continue
                ring = np.array([(x, y, body.high_mm, 1.0) for x, y in body.outer]) @ out.T
                yield Standing(f"the {body.name}", station.number, ring[:, :2], float(ring[0, 2]))

    def _placed(self, station: PlacedStation) -> Array:
        """From a station's frame to its plate's corner."""
        rise = rise_mm(self.asked, station.kind)
        return shifted(station.x_mm, station.y_mm, rise) @ spun(2, station.turn)

    def _relieved(self, face: int) -> Iterator[tuple[Polygon, float]]:
        """Reliefs under what comes out below, on a face: where, and how deep."""
        for station in self.asked.on_face(face):
            ready = self.asked.kinds[station.kind]
            out = self._placed(station)
            for x, y, wide, deep in reliefs(ready.sitting, ready.station.members):
                place = out @ np.array([x, y, 0.0, 1.0])
                yield Point(place[:2]).buffer(wide / 2, quad_segs=8), deep
            for area, deep, _ in milled_reliefs(ready.sitting, ready.station.members):
                ring = [(x, y, 0.0, 1.0) for x, y in area.exterior.coords]
                yield Polygon((np.array(ring) @ out.T)[:, :2]), deep

    def _boxes(self, face: int) -> Iterator[_Box]:
        """What stands on a face, plate and parts included, each as its box."""
        plate = self._plate()
        if plate is not None:
            yield plate
        for station in self.asked.on_face(face):
            kind = self.asked.design.kinds[station.kind]
            out = self._placed(station)
            for body in kind.drawing.bodies:
                if body.name != "part":
                    yield _boxed(f"the {body.name}", station, out, body)
            before = self.asked.kinds[station.kind].sitting.before
            for k, member in enumerate(kind.drawing.places):
                if (station.number, k) not in self.there or before.empty:
                    continue
                own = out @ shifted(member.x_mm, member.y_mm, 0.0)
                own = own @ spun(2, 180.0 if member.half_turn else 0.0)
                box = before.box
                corners = _Box("", None, box[:3], box[3:]).corners @ own.T
                low, high = corners[:, :3].min(axis=0), corners[:, :3].max(axis=0)
                yield _Box("the part", station.number, tuple(low), tuple(high))

    def _plate(self) -> _Box | None:
        """The plate parts stand on; nothing where what clamps them stands on the table itself."""
        request = self.asked.request
        if request.station.element.up_mm:
            return None
        plate = request.plate
        return _Box(
            "the plate", None, (0, 0, -plate.thickness_mm), (plate.width_mm, plate.depth_mm, 0)
        )

    def _carrying(self) -> Iterator[_Box]:
        """Block, and table or pallet, from the middle of either."""
        request = self.asked.request
        block, machine, plate = request.block, request.machine, request.plate
        half = block.across_mm / 2
        x, y = machine.table_x_mm / 2, machine.table_y_mm / 2
        if block.faces == 1 and not block.across_mm:
            yield _Box("the table", None, (-x, -y, -_TABLE_MM), (x, y, 0))
        elif block.axis == "upright":
            yield _Box("the block", None, (-half, 0, -half), (half, plate.depth_mm, half))
            yield _Box("the pallet", None, (-x, -_TABLE_MM, -y), (x, 0, y))
        else:
            wide = plate.width_mm / 2
            yield _Box("the bar", None, (-wide, -half, -half), (wide, half, half))


def _with_reliefs(
    what: str,
    station: int | None,
    area: Polygon,
    relieved: Sequence[tuple[Polygon, float]],
    pose: Array,
    rise: float = 0.0,
) -> Iterator[Standing]:
    """What parts stand on, up to its height, in pieces without holes; the floors of its reliefs."""
    own = [(disc, deep) for disc, deep in relieved if disc.intersects(area)]
    left = area.difference(shapely.union_all([disc for disc, _ in own]))
    pieces = [area] if not own else shapely.get_parts(shapely.constrained_delaunay_triangles(left))
    for piece, low in [*((piece, 0.0) for piece in pieces), *((d, -deep) for d, deep in own)]:
        ring = [(x, y, low + rise, 1.0) for x, y in piece.exterior.coords[:-1]]
        found = np.array(ring) @ pose.T
        yield Standing(what, station, found[:, :2], float(found[0, 2]))


def _rectangle(low: Sequence[float], high: Sequence[float]) -> list[tuple[float, float]]:
    return [(low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1])]


def _boxed(what: str, station: PlacedStation, out: Array, body: Layer) -> _Box:
    ring = np.array(body.outer, dtype=float)
    flat = np.column_stack([ring, np.zeros(len(ring)), np.ones(len(ring))]) @ out.T
    low, high = flat[:, :2].min(axis=0), flat[:, :2].max(axis=0)
    rise = float(out[2, 3])
    return _Box(
        what,
        station.number,
        (float(low[0]), float(low[1]), body.low_mm + rise),
        (float(high[0]), float(high[1]), body.high_mm + rise),
    )


def _steps(item: _Box, pose: Array, axis: int) -> Iterator[Standing]:
    """A box turned about an axis across the spindle's, as rectangles seen from the spindle."""
    own = (item.corners @ pose.T)[:, :3]
    along = own[:, axis].min(), own[:, axis].max()
    across = own[:, [1 - axis, 2]]
    try:
        hull = across[ConvexHull(across).vertices]
    except QhullError:  # a box without thickness
        return
    levels = np.unique(np.round(hull[:, 1], 6))
    if len(levels) > 2:
        levels = np.linspace(levels[0], levels[-1], _STEPS + 1)
    for low, high in itertools.pairwise(levels):
        left, right = _between(hull, low, high)
        x, y = ((left, right), along) if axis == 1 else (along, (left, right))
        ring = np.array(_rectangle((x[0], y[0]), (x[1], y[1])), dtype=float)
        yield Standing(item.what, item.station, ring, float(high))


def _between(hull: Array, low: float, high: float) -> tuple[float, float]:
    """How far a convex outline goes to both sides between two heights."""
    ends = np.roll(hull, -1, axis=0)
    found = [x for x, z in hull if low <= z <= high]
    for level in (low, high):
        for (x0, z0), (x1, z1) in zip(hull, ends, strict=True):
            if min(z0, z1) <= level <= max(z0, z1) and z0 != z1:
                found.append(x0 + (x1 - x0) * (level - z0) / (z1 - z0))
    return float(min(found)), float(max(found))
