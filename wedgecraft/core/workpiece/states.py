"""The workpiece through all its ops: what each cut takes, what it gouges, what is left over.

A cut takes what is there where its sweep is; it gouges where its sweep reaches into the finished
part. No toolpaths are needed and none are invented. Depths count from the finished part's top.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.cutting.reach import filled, largest_cutter_mm, left_in_corners
from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, CuttingRequest, Sweep
from wedgecraft.core.records.feature import DIRECTIONS, Direction
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.workpiece.blank_body import Which, blank_body
from wedgecraft.core.workpiece.body import Body, bevelled, cylinder, nothing, prism, united
from wedgecraft.core.workpiece.finished import file_pose, finished_body
from wedgecraft.core.workpiece.pose import Pose, pose_of, stands, turn_of

#: A sweep reaches this far above all there is.
_ABOVE_MM = 10.0
#: Material this much higher than where a cut begins was meant to be gone, mm.
_BURIED_MM = 0.02
#: Areas smaller than this are rounding.
_NO_AREA_MM2 = 1e-6
#: In so many steps a piece is lifted out of its own height.
_RISES = 5
#: What is left over, or stands loose, is no speck, mm3.
_LOOSE_MM3 = 0.5
#: A corner that only a smaller cutter would clear is sharp: it is a corner of chords.
_SHARP_MM = 1.0
#: No mill reaches so many diameters deep; common practice, from memory.
_DEEPEST = 8.0


@dataclass(frozen=True)
class Gouge:
    """Where a cut takes what should stay: how much, how thick, and a place in the op's frame."""

    volume_mm3: float
    depth_mm: float
    place_mm: tuple[float, float, float]


@dataclass(frozen=True)
class Taken:
    """What one cut does. ``buried_mm``: how much stands above where it begins; ``loose``: what it
    frees, mm3 each; ``wrong``: why nothing is known of it.
    """

    name: str
    volume_mm3: float
    gouges: tuple[Gouge, ...] = ()
    buried_mm: float = 0.0
    loose: tuple[float, ...] = ()
    wrong: str | None = None
    field: str = ""


@dataclass(frozen=True, eq=False)
class Scene:
    """What a cut sees (``records/cut.py``)."""

    finished: Body
    before: Body

    @cached_property
    def top_mm(self) -> float:
        return self.finished.box[5]

    @cached_property
    def covered(self) -> MultiPolygon:
        return self.before.seen()

    def kept_above(self, height_mm: float) -> MultiPolygon:
        low = height_mm + 2 * CHORD_ERROR_MM
        return self.finished.seen(low if low > self.finished.box[2] else -math.inf)

    def cut_at(self, height_mm: float) -> MultiPolygon:
        return self.finished.slice(height_mm)


@dataclass(frozen=True, eq=False)
class OpState:
    """The workpiece in one op; bodies in the op's frame. ``after`` is without what fell off."""

    op: Op
    pose: Pose
    finished: Body
    before: Body
    after: Body
    taken: tuple[Taken, ...]
    swept: tuple[Body, ...]
    scenes: tuple[Scene, ...]

    @cached_property
    def cuts(self) -> tuple[Taken, ...]:
        """What each cut does, gouges and all."""
        return tuple(_gouged(self.op, self.scenes, self.taken))


@dataclass(frozen=True)
class LeftOver:
    """What no cut took: its volume, its box in the part's frame, the nearest side a tool could
    come from, and, in a corner that a round cutter leaves, the largest that would do (0: sharp).
    """

    volume_mm3: float
    low_mm: tuple[float, float, float]
    high_mm: tuple[float, float, float]
    from_side: Direction | None
    corner_mm: float | None = None


@dataclass(frozen=True)
class Burr:
    """Two holes that cross: the later one leaves a burr in the earlier. ``cut_away_by``: a cut
    after both that takes it off; else ``before``: the cut that would if it came after.
    """

    first: str
    second: str
    cut_away_by: str | None
    before: str | None


@dataclass(frozen=True, eq=False)
class Workpiece:
    """A part from blank to finished. ``made_by``: which op and cut a named surface came from,
    (-1, -1) for the blank's own.
    """

    part: Part
    finished: Body
    blank: Body
    ops: tuple[OpState, ...]
    made_by: dict[int, tuple[int, int]]

    @cached_property
    def faces_known(self) -> dict[tuple[int, Direction], int | None]:
        """What ``made.py`` found out."""
        return {}

    @cached_property
    def sittings(self) -> dict[tuple[int, float], Any]:
        """How it stands in stations (``sitting.py``)."""
        return {}

    @cached_property
    def last(self) -> Body:
        """What comes off the last op, in the part's frame."""
        return self.ops[-1].pose.back(self.ops[-1].after)

    @cached_property
    def more_than_finished(self) -> float:
        """How much more there is when all ops are done than there should be, as a share."""
        return self.last.volume_mm3 / self.finished.volume_mm3 - 1

    @cached_property
    def standing_out_mm3(self) -> float:
        """How much of the finished part the blank does not hold."""
        out = self.finished - self.blank
        return 0.0 if _is_film(out) else out.volume_mm3

    @cached_property
    def left_over(self) -> tuple[LeftOver, ...]:
        left, skin = self.last - self.finished, _skin(self.finished)
        lumps = [
            lump
            for whole in left.lumps(skin)
            for lump in _without_films(whole, skin)
            if lump.volume_mm3 > _LOOSE_MM3
        ]
        return tuple(self._left(lump) for lump in sorted(lumps, key=lambda it: -it.volume_mm3))

    def _left(self, piece: Body) -> LeftOver:
        box = piece.box
        return LeftOver(
            volume_mm3=piece.volume_mm3,
            low_mm=box[:3],
            high_mm=box[3:],
            from_side=_reached_from(piece, self.finished, [state.op.up for state in self.ops]),
            corner_mm=self._corner(piece),
        )

    def _corner(self, piece: Body) -> float | None:
        """The largest cutter that would take it, where it stands in a corner some cutter left."""
        film = 2 * max(CHORD_ERROR_MM, self.finished.chord_error_mm)
        for state in reversed(self.ops):
            stood = state.pose.put(piece)
            seen = stood.seen()
            scene = Scene(state.finished, state.before)
            for cut in state.op.cuts:
                if not cut.of.clears:
                    continue
                keep = scene.kept_above(scene.top_mm - cut.depth_mm)
                near = seen.buffer(2 * cut.tool.diameter_mm + 1.0).envelope
                wanted = filled(keep) if cut.of.inside else seen.envelope.buffer(1.0)
                wanted = wanted.intersection(near)
                around = (filled(keep) if cut.of.around else keep).intersection(near)
                corners = left_in_corners(wanted, around, cut.tool.diameter_mm / 2, film)
                if corners.buffer(0.01).intersection(seen).area > 0.8 * seen.area:
                    own = wanted.intersection(seen.buffer(film))
                    largest = largest_cutter_mm(own, around, cut.tool.diameter_mm, film)
                    high = stood.box[5] - stood.box[2]
                    return largest if largest >= max(_SHARP_MM, high / _DEEPEST) else 0.0
        return None

    @cached_property
    def burrs(self) -> tuple[Burr, ...]:
        """Crossing holes, in the order they are cut."""
        holes = [
            (state.op.number, cut, state.pose.back(body))
            for state in self.ops
            for cut, body in zip(state.op.cuts, state.swept, strict=True)
            if cut.of.hole and not body.empty
        ]
        return tuple(_burrs([(f"op {n} {cut.name}", cut, body) for n, cut, body in holes]))


def _without_films(lump: Body, skin_mm: float) -> list[Body]:
    """What of a lump is thicker than the films that chords leave on curved walls, which can hang
    on to it and on to other lumps.
    """
    found = []
    for piece in _wide_from_above(lump, skin_mm):
        for core in piece.shrunk(2 * skin_mm).lumps(0.0):
            if core.empty:
                continue
            x0, y0, z0, x1, y1, z1 = core.box
            more = 3 * skin_mm
            around = prism(box(x0 - more, y0 - more, x1 + more, y1 + more), z0 - more, z1 + more)
            found.append(piece & around)
    return found


def _wide_from_above(lump: Body, skin_mm: float) -> list[Body]:
    """What of it is wider than a film seen from above, apart where only films join it: a wheel
    leaves as many corners as it has teeth, joined by one film all round.
    """
    wide = shapely.get_parts(lump.seen().buffer(-0.75 * skin_mm, join_style="mitre"))
    wide = [area for area in wide if area.area > _NO_AREA_MM2]
    if len(wide) < 2:
        return [lump]
    _, _, low, _, _, high = lump.box
    near = [area.buffer(4 * skin_mm, join_style="mitre") for area in wide]
    return [lump & prism(area, low - 1.0, high + 1.0) for area in near]


def _burrs(holes: Sequence[tuple[str, Cut, Body]]) -> list[Burr]:
    """Holes cut one after another, each by all cuts of one axis."""
    found = []
    axes = [_axis(body) for _, _, body in holes]
    for j, (second, _, later) in enumerate(holes):
        for i, (first, _, earlier) in enumerate(holes[:j]):
            if axes[i] == axes[j] or _is_film(earlier & later):
                continue
            again = [k for k in range(j + 1, len(holes)) if _same(holes[k][2], earlier)]
            fine = [k for k in range(i + 1, j) if _same(holes[k][2], earlier)]
            if fine and not again and fine[0] != i:
                found.append(Burr(first, second, None, holes[fine[-1]][0]))
            elif not any(_same(holes[k][2], earlier) for k in range(i)):
                away = holes[again[0]][0] if again else None
                found.append(Burr(first, second, away, None))
    return found


def _axis(body: Body) -> int:
    x0, y0, z0, x1, y1, z1 = body.box
    return int(np.argmax([x1 - x0, y1 - y0, z1 - z0]))


def _same(a: Body, b: Body) -> bool:
    """Whether two holes are one hole, cut twice."""
    if _axis(a) != _axis(b):
        return False
    both = (a & b).volume_mm3
    return both > 0.5 * min(a.volume_mm3, b.volume_mm3)


def _is_film(body: Body) -> bool:
    """Whether it is nothing but the stray of chords."""
    return body.empty or body.thickness_mm <= 2 * max(body.chord_error_mm, CHORD_ERROR_MM)


def _reached_from(piece: Body, finished: Body, ups: Sequence[Direction]) -> Direction | None:
    """The side from which nothing of the finished part is in the way; those of the ops first."""
    order = [*dict.fromkeys([*ups, *DIRECTIONS])]
    for side in order:
        turn = turn_of(side)
        stood, part = piece.turned(turn), finished.turned(turn)
        high = stood.box[5] - stood.box[2]
        above = [prism(stood.seen(), stood.box[5], part.box[5] + 1.0)]
        above += [stood.moved(0.0, 0.0, high * k / _RISES) for k in range(1, _RISES)]
        if not any(_in_the_way(body & part) for body in above):
            return side
    return None


def _in_the_way(body: Body) -> bool:
    film = 4 * max(body.chord_error_mm, CHORD_ERROR_MM)
    return not body.empty and body.thickness_mm > film


def workpiece(part: Part, which: Which = "nominal") -> Workpiece:
    """The part's states, from the nominal blank, or the smallest or largest there may be.

    Raises NotABody for a solid that cannot be read. Cuts that cannot be worked out say so in their
    own record and take nothing.
    """
    found = next((piece for one, size, piece in _RECENT if one is part and size == which), None)
    if found is None:
        found = _cached(part.model_dump_json(), part.__class__, which)
        _RECENT.append((part, which, found))
    return found


#: The same document asked again is known by itself, without being written out.
_RECENT: deque[tuple[Part, Which, Workpiece]] = deque(maxlen=24)


@lru_cache(maxsize=16)
def _cached(document: str, kind: type[Part], which: Which) -> Workpiece:
    return _worked(kind.model_validate_json(document), which)


def _worked(part: Part, which: Which) -> Workpiece:
    first = Op(up=part.ops[0].up, turn_deg=part.ops[0].turn_deg)
    shape = part.model_copy(update={"ops": [first], "features": []}).model_dump_json()
    done = _after(shape, part.__class__, which, tuple(op.model_dump_json() for op in part.ops))
    return Workpiece(part, done.finished, done.blank, done.ops, done.made_by)


@dataclass(frozen=True, eq=False)
class _Done:
    """A part so many ops on; ``left`` in the part's frame."""

    finished: Body
    blank: Body
    left: Body
    ops: tuple[OpState, ...]
    made_by: dict[int, tuple[int, int]]


@lru_cache(maxsize=64)
def _after(shape: str, kind: type[Part], which: Which, ops: tuple[str, ...]) -> _Done:
    """The first ops of a part are worked out once, whatever comes after them."""
    if not ops:
        part = kind.model_validate_json(shape)
        finished = finished_body(part)
        first = pose_of(finished, part.ops[0].up, part.ops[0].turn_deg)
        blank, number = blank_body(part.stock, finished, first, which, file_pose(part)).named()
        return _Done(finished, blank, blank, (), {number: (-1, -1)})
    done = _after(shape, kind, which, ops[:-1])
    op, made_by = Op.model_validate_json(ops[-1]), dict(done.made_by)
    pose, stood = stands(done.finished, op.up, op.turn_deg)
    found = _op(op, len(done.ops), pose, stood, done.left, made_by)
    left = pose.back(found.after)
    return _Done(done.finished, done.blank, left, (*done.ops, found), made_by)


def _op(
    op: Op, index: int, pose: Pose, stood: Body, state: Body, made_by: dict[int, tuple[int, int]]
) -> OpState:
    before = pose.put(state)
    now = before
    taken: list[Taken] = []
    swept: list[Body] = []
    scenes: list[Scene] = []
    for number, cut in enumerate(op.cuts):
        scene = Scene(stood, now)
        scenes.append(scene)
        try:
            body = swept_by(cut, scene, now)
        except OutOfRange as error:
            taken.append(Taken(cut.name, 0.0, wrong=str(error.allowed), field=error.field))
            swept.append(nothing())
            continue
        body, ident = body.named() if not body.empty else (body, -1)
        made_by[ident] = (index, number)
        after: Body = now - body
        loose: tuple[float, ...] = ()
        if cut.of.around or not (cut.of.facing or cut.of.hole):
            after, loose = _without_loose(after, stood)
        taken.append(
            Taken(
                name=cut.name,
                volume_mm3=max(0.0, now.volume_mm3 - after.volume_mm3 - sum(loose)),
                buried_mm=buried_mm(cut, scene, body),
                loose=loose,
            )
        )
        swept.append(body)
        now = after
    return OpState(op, pose, stood, before, now, tuple(taken), tuple(swept), tuple(scenes))


def _gouged(op: Op, scenes: Sequence[Scene], taken: Sequence[Taken]) -> list[Taken]:
    """The same, with what each takes of the finished part; nearly always none does."""
    return [
        replace(item, gouges=_gouges(_core_of(cut, scene), scene.finished))
        if item.wrong is None and _may_gouge(cut, scene)
        else item
        for cut, scene, item in zip(op.cuts, scenes, taken, strict=True)
    ]


def _may_gouge(cut: Cut, scene: Scene) -> bool:
    """Whether what it takes for sure covers anything of the finished part, seen from above."""
    skin = _skin(scene.finished)
    for sweep in cut.of.sweeps(cut, scene):
        if sweep.bevel_mm:
            return True
        high = math.inf if sweep.high_mm is None else sweep.high_mm
        low = sweep.low_mm + skin
        there = scene.finished.seen(low if low > scene.finished.box[2] else -math.inf, high)
        if there.intersection(sweep.area.buffer(-skin)).area > _NO_AREA_MM2:
            return True
    return False


def swept_by(cut: Cut, scene: Scene, there: Body) -> Body:
    """What a cut sweeps, in the op's frame. Raises OutOfRange."""
    top = (scene.top_mm if there.empty else max(there.box[5], scene.top_mm)) + _ABOVE_MM
    begins = scene.top_mm - cut.from_top_mm
    return united([_swept(sweep, begins, top) for sweep in cut.of.sweeps(cut, scene)])


def _core_of(cut: Cut, scene: Scene) -> Body:
    """The same less a skin, and without the points of drills, whose cone under a flat bottom is no
    gouge: what it takes for sure.
    """
    skin = _skin(scene.finished)
    top = max(scene.before.box[5], scene.top_mm) + _ABOVE_MM
    begins = scene.top_mm - cut.from_top_mm
    found = []
    for sweep in cut.of.sweeps(cut, scene):
        area = sweep.area.buffer(skin if sweep.outside else -skin)
        inner = replace(sweep, area=area, low_mm=sweep.low_mm + skin, point_deg=None)
        if not area.is_empty:
            found.append(_swept(inner, begins, top))
    return united(found)


def _skin(finished: Body) -> float:
    return 2 * max(CHORD_ERROR_MM, finished.chord_error_mm)


def _swept(sweep: Sweep, begins_mm: float, top_mm: float) -> Body:
    high = top_mm if sweep.high_mm is None else sweep.high_mm
    if sweep.bevel_mm and isinstance(sweep.area, Polygon):
        flank = bevelled(sweep.area, sweep.low_mm, begins_mm, sweep.bevel_mm)
        if not sweep.outside:
            return flank
        around = sweep.area.buffer(abs(sweep.bevel_mm) + 1.0)
        return prism(around, sweep.low_mm, begins_mm) - flank
    if sweep.point_deg is None:
        return prism(sweep.area, sweep.low_mm, high, CHORD_ERROR_MM)
    return united(
        [
            cylinder(
                (hole.centroid.x, hole.centroid.y, sweep.low_mm),
                high - sweep.low_mm,
                math.sqrt(hole.area / math.pi),
                sweep.point_deg,
            )
            for hole in getattr(sweep.area, "geoms", [sweep.area])
        ]
    )


def _gouges(core: Body, finished: Body) -> tuple[Gouge, ...]:
    found = []
    for lump in (core & finished).lumps(_skin(finished)):
        x, y, z = lump.centre_mm
        found.append(Gouge(lump.volume_mm3, lump.thickness_mm + _skin(finished), (x, y, z)))
    return tuple(found)


def buried_mm(cut: Cut, scene: Scene, body: Body) -> float:
    """How much it takes above where it says it begins; films other cutters left are nothing."""
    begins = scene.top_mm - cut.from_top_mm
    if body.empty or scene.before.box[5] <= begins + _BURIED_MM:
        return 0.0
    removed = scene.before.above(begins) & body
    film = 2 * _skin(scene.finished)
    over = max((lump.box[5] - begins for lump in removed.lumps(film)), default=0.0)
    return over if over > _BURIED_MM else 0.0


def _without_loose(body: Body, finished: Body) -> tuple[Body, tuple[float, ...]]:
    """What stays when pieces that hold nothing of the part have fallen off."""
    pieces = body.pieces()
    if len(pieces) < 2:
        return body, ()
    kept: list[Body] = []
    loose: list[Body] = []
    for piece in pieces:
        (kept if (piece & finished).volume_mm3 > 1e-3 * piece.volume_mm3 else loose).append(piece)
    if not kept or not loose:
        return body, ()
    return united(kept), tuple(piece.volume_mm3 for piece in loose if piece.volume_mm3 > _LOOSE_MM3)


def least_seconds(cut: Cut, taken: Taken, part: Part) -> float | None:
    """No faster can the cut take what it takes: volume over removal rate. Nothing where its load is
    not known.
    """
    try:
        load = cutting_load(CuttingRequest(material=part.material, cut=cut))
    except OutOfRange:
        return None
    rate = load.removal_rate_mm3_min
    return 60 * taken.volume_mm3 / rate if rate > 0 else None
