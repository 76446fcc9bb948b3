"""A planned setup put together, as it stands in the machine."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.blocks import is_on
from wedgecraft.core.make.pair import Turned, pair_of
from wedgecraft.core.plan.pieces import pieces_of, planned_setup
from wedgecraft.core.program.poses import Array, face_pose, lifted_mm, rise_mm, shifted, spun
from wedgecraft.core.records.assembly import Assembly, Pose, Slab, Solid, Stands
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.piece import Piece
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.workpiece.body import Body

#: A part that tapers stands in as so many steps between two of its levels.
_STEPS = 4
_SAME_MM2 = 1e-3
_THIN_MM = 1e-3


def assembled(
    document: JobDocument, number: int, planned: PlanResult | None = None
) -> Assembly | None:
    """One setup, counted from 1, of its first design; nothing without one. Raises OutOfRange."""
    asked = planned_setup(document, number, planned)
    if asked is None:
        return None
    made = pieces_of(document, number, planned)
    return _Together(asked, made.pieces).whole()


class _Together:
    def __init__(self, asked: Asked, pieces: list[Piece]) -> None:
        self.asked, self.pieces = asked, pieces
        self.solids: list[Solid] = []
        self.stands: list[Stands] = []
        self._known: dict[object, int] = {}

    def whole(self) -> Assembly:
        asked, lifted = self.asked, lifted_mm(self.asked)
        plates = [piece for piece in self.pieces if piece.is_plate]
        for face in range(asked.request.block.faces):
            pose = face_pose(asked.request, face, lifted)
            own = [item for item in plates if len(plates) == 1 or is_on(asked, item, face)]
            plate = own[0] if own else None
            if plate is not None:
                down = shifted(0.0, 0.0, -plate.thickness_mm)
                self._put(plate.name, ("piece", plate.name), pose @ down, piece=plate)
            for station in asked.on_face(face):
                rise = rise_mm(asked, station.kind)
                out = pose @ shifted(station.x_mm, station.y_mm, rise) @ spun(2, station.turn)
                self._station(station.kind, station.number, out)
        for piece in self.pieces:
            if piece.is_block:
                self._put(piece.name, ("piece", piece.name), self._foot(piece), piece=piece)
        return Assembly(number=asked.number, solids=self.solids, stands=self.stands)

    def _station(self, kind: int, number: int, out: Array) -> None:
        drawing = self.asked.design.kinds[kind].drawing
        ready = self.asked.kinds[kind]
        op = self.asked.design.kinds[kind].op_number
        jaws = next((p for p in self.pieces if p.follows_part and p.ops == [op]), None)
        pair = pair_of(ready) if jaws is not None else None
        if jaws is not None and pair is not None:
            # the piece's X is the station's Y, its Y the other way of the station's X
            aside, up = Turned(pair).moved
            turn = np.eye(4)
            turn[:3, :3] = [[0, -1, 0], [1, 0, 0], [0, 0, 1]]
            own = shifted(up, -aside, pair.depth_mm - jaws.thickness_mm) @ turn
            self._put(f"{jaws.name}, station {number}", ("piece", jaws.name), out @ own, piece=jaws)
        for place, body in enumerate(drawing.bodies):
            high = body.high_mm
            if jaws is not None and pair is not None:  # made: what is left below them is the vise
                high = min(high, pair.depth_mm - jaws.thickness_mm)
            if body.name == "part" or high - body.low_mm < _THIN_MM:
                continue
            slab = Slab(areas=[[body.outer]], low_mm=body.low_mm, high_mm=high)
            name = f"{body.name}, station {number}"
            self._put(name, (kind, place), out, slabs=[slab])
        if ready.sitting.before.empty:
            return
        for k, member in enumerate(drawing.places):
            own = shifted(member.x_mm, member.y_mm, 0.0)
            own = own @ spun(2, 180.0 if member.half_turn else 0.0)
            more = f".{k + 1}" if len(drawing.places) > 1 else ""
            name = f"part as op {op} gets it, station {number}{more}"
            self._put(name, (kind, "part"), out @ own, body=ready.sitting.before)

    def _put(
        self,
        name: str,
        key: object,
        pose: Array,
        piece: Piece | None = None,
        slabs: list[Slab] | None = None,
        body: Body | None = None,
    ) -> None:
        if key not in self._known:
            self._known[key] = len(self.solids)
            found = slabs or ([] if body is None else _slabs(body))
            self.solids.append(Solid(name=name.split(", station")[0], piece=piece, slabs=found))
        self.stands.append(Stands(name=name, solid=self._known[key], pose=_pose(pose)))

    def _foot(self, piece: Piece) -> Array:
        """From a block's own corner to the middle of the table: its foot stands on that, or its
        length lies along X.
        """
        turn = np.eye(4)
        x, y = piece.width_mm / 2, piece.depth_mm / 2
        if piece.section:
            x, y = np.array(piece.section).mean(axis=0)
        if self.asked.request.block.axis == "upright":
            turn[:3, :3] = [[1, 0, 0], [0, 0, 1], [0, -1, 0]]
            return turn @ shifted(-x, -y, 0.0)
        turn[:3, :3] = [[0, 0, 1], [-1, 0, 0], [0, -1, 0]]
        return turn @ shifted(-x, -y, -piece.thickness_mm / 2)


def _pose(matrix: Array) -> Pose:
    rows = [tuple(float(value) for value in row) for row in np.round(matrix[:3], 9)]
    return rows[0], rows[1], rows[2]  # type: ignore[return-value]


def _slabs(body: Body) -> list[Slab]:
    """A body as slabs: as it is where its walls stand upright, in steps where they lean."""
    low, high = body.box[2], body.box[5]
    levels = [low, *(level for level in body.levels if low < level < high), high]
    found = []
    for a, b in pairwise(levels):
        if b - a < _THIN_MM:
            continue
        gap = (b - a) * 0.02
        ends = body.slice(a + gap), body.slice(b - gap)
        upright = float(ends[0].symmetric_difference(ends[1]).area) < _SAME_MM2 * ends[0].area
        count = 1 if upright else _STEPS
        for c, d in pairwise(np.linspace(a, b, count + 1).tolist()):
            areas = _areas(body.slice((c + d) / 2))
            if areas:
                found.append(Slab(areas=areas, low_mm=c, high_mm=d))
    return found


def _areas(shape: MultiPolygon | BaseGeometry) -> list[Rings]:
    return [
        [
            [(round(float(x), 6), round(float(y), 6)) for x, y in ring.coords[:-1]]
            for ring in (part.exterior, *part.interiors)
        ]
        for part in getattr(shape, "geoms", [shape])
        if part.area > _SAME_MM2
    ]
