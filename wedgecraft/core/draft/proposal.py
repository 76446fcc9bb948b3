"""The document: parts with stock, ops and cuts, a route that holds them, and why each was so."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely

from wedgecraft.core.draft.bevelled import chamfer
from wedgecraft.core.draft.blanks import Blank, blank_of, kept_in
from wedgecraft.core.draft.drilled import Hole, drill, drillable, holes_seen
from wedgecraft.core.draft.held import Tried, asked_of, in_a_vise, on_a_plate
from wedgecraft.core.draft.milled import Bench, Shop, mill
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.draft.sides import Sides, sides_of
from wedgecraft.core.draft.tolerances import features_of, thread_of
from wedgecraft.core.draft.tools import Crib
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.job import Job, JobDocument, Proposal, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.stock import Axis, Stock
from wedgecraft.core.workpiece.blank_body import blank_body
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.finished import file_pose, finished_body
from wedgecraft.core.workpiece.mend import NotABody
from wedgecraft.core.workpiece.pose import pose_of, stands, turn_of
from wedgecraft.core.workpiece.surfaces import planes_of, round_holes_of

Progress = Callable[[str, float], None]
#: A first op is held by so much stock under the part, or what the house asks for, mm.
_GRIP_MM = 5.0
#: Where that does not hold it, mm.
_MORE_GRIP_MM = (9.0, 14.0)
#: The outside is cut so far below the part, where stock is left there: no film stays between ops.
_BELOW_MM = 0.2
#: A plane leans where it is neither level nor upright by these cosines; smaller ones are edges.
_LEVEL, _UPRIGHT, _LEAST_FACE_MM2 = 0.99999, 0.005, 100.0
#: Each step told is so much of what is left.
_STEP = 0.2
#: So much more than the part, as a share, is no film.
_MORE_LEFT = 2e-3
#: A part lies askew where a turned rectangle round it is smaller than this share of its box.
_SQUARE = 0.97
#: A table that takes this many times the part is large enough.
_ROOM = 3.0


@dataclass
class Draft:
    """What is being proposed, with the reasons so far."""

    stores: Stores
    machine: Machine
    rules: HouseRules
    unit: Literal["mm", "in"]
    progress: Progress | None = None
    share: float = 0.0
    proposals: list[Proposal] = field(default_factory=list)
    #: Of every setup: why it is held so, and how doubtful that is.
    held: list[tuple[str, float]] = field(default_factory=list)

    def tells(self, step: str) -> None:
        """What is being found just now; how much is left nobody knows before it is."""
        self.share += _STEP * (1 - self.share)
        if self.progress is not None:
            self.progress(step, self.share)

    def says(self, pointer: str, why: str, doubt: float = 0.0) -> None:
        self.proposals.append(Proposal(pointer=pointer, why=why[:300], doubt=doubt))


def drafted(
    name: str,
    quantity: int,
    parts: Sequence[Part],
    stores: Stores,
    machine: Machine | None = None,
    rules: HouseRules | None = None,
    unit: Literal["mm", "in"] = "mm",
    progress: Progress | None = None,
) -> JobDocument:
    """A job with everything proposed. Raises OutOfRange where a part cannot be made of any stock,
    or the shop lacks what every job needs.
    """
    stores = stores.with_plates_in(unit)
    picked = machine or _machine(stores, parts)
    draft = Draft(stores, picked, rules or HouseRules(), unit, progress)
    made: list[Part] = []
    setups: list[Setup] = []
    for number, part in enumerate(parts):
        draft.tells(f"{part.name}: sides and features")
        full, held = _part(draft, name, quantity, [*made, part, *parts[number + 1 :]], number)
        made.append(full)
        setups += held
    job = Job(name=name, quantity=quantity, parts=made, rules=draft.rules)
    why = f"{picked.name}: {_why_machine(machine)}"
    for number, setup in enumerate(setups):
        draft.says(f"/route/setups/{number}/machine", why, 0.3)
        why_held, doubt = draft.held[number]
        draft.says(f"/route/setups/{number}/form", why_held, doubt)
        for name, said in setup.form.taken_for_granted().items():
            draft.says(f"/route/setups/{number}/form/{name}", said, 0.4)
    return JobDocument(job=job, route=Route(setups=setups), proposals=draft.proposals)


def _why_machine(asked: Machine | None) -> str:
    return "as asked" if asked else "the smallest three-axis mill with room for a few of them"


def _machine(stores: Stores, parts: Sequence[Part]) -> Machine:
    """The smallest vertical with room. Raises OutOfRange for a shop without one."""
    mills = sorted(
        (item for item in stores.machines if not item.spindle_level and item.axes == 3),
        key=lambda item: item.travel_x_mm * item.travel_y_mm,
    )
    mills = mills or list(stores.machines)
    if not mills:
        raise OutOfRange("shop.machines", "none", "a machine in the shop")
    size = max(max(finished_body(part).box[3:]) for part in parts)
    return next((item for item in mills if item.travel_x_mm >= _ROOM * size + 400), mills[-1])


def _part(
    draft: Draft, name: str, quantity: int, parts: list[Part], number: int
) -> tuple[Part, list[Setup]]:
    """The best of the ways to begin: the first whose ops all hold, else the one with the most."""
    part = parts[number]
    try:
        body = finished_body(part)
    except NotABody as error:
        raise OutOfRange(f"job.parts.{number}.solid", error.what, error.remedy) from None
    ways = sides_of(body)
    if not ways:
        raise OutOfRange(
            f"job.parts.{number}",
            part.name,
            "a part that can be cut from its six sides: some of it is reached from none of them",
        )
    fewest = len(ways[0].others)
    best: tuple[int, Part, list[Setup], _Attempt] | None = None
    every = [item for item in ways if len(item.others) == fewest][:4]
    more = [(every[0], grip) for grip in _MORE_GRIP_MM] if part.stock == Stock() else []
    for way, grip_mm in [*((way, _GRIP_MM) for way in every), *more]:
        draft.tells(f"{part.name}: {way.first} up first")
        attempt = _Attempt(draft, name, quantity, parts, number, way, grip_mm)
        found = attempt.made()
        if best is None or attempt.missing < best[0]:
            best = (attempt.missing, *found, attempt)
        if best[0] == 0:
            break
    if best is None:
        raise OutOfRange(f"job.parts.{number}", part.name, "a way to begin")
    draft.proposals += best[3].notes
    draft.held += best[3].held
    return best[1], best[2]


class _Attempt:
    """One way to begin, followed to the end. ``missing``: ops that nothing holds."""

    def __init__(
        self,
        draft: Draft,
        name: str,
        quantity: int,
        parts: list[Part],
        number: int,
        way: Sides,
        grip_mm: float,
    ) -> None:
        self.grip_mm = max(grip_mm, draft.rules.least_grip_mm)
        self.draft, self.parts, self.number, self.way = draft, parts, number, way
        self.job = Job(name=name, quantity=quantity, parts=parts, rules=draft.rules)
        self.missing = 0
        self.notes: list[Proposal] = []
        self.held: list[tuple[str, float]] = []

    def made(self) -> tuple[Part, list[Setup]]:
        part = self.parts[self.number]
        body = finished_body(part)
        if part.stock != Stock():
            blank = Blank(part.stock, "as it was set", finished_walls=False)
        else:
            kept = kept_in(self.draft.stores.stock, self.draft.unit)
            blank = blank_of(body, self.way.first, self.grip_mm, kept)
            self._says("stock", blank.why, 0.2)
        own = part.features
        part = part.model_copy(update={"stock": blank.stock, "features": [], "ops": [Op()]})
        first = pose_of(body, self.way.first)
        now = blank_body(blank.stock, body, first, "largest", file_pose(part))
        self.crib = Crib(*self.draft.stores.cutters_in(self.draft.unit))
        self.holes = round_holes_of(body)
        ops: list[Op] = []
        setups: list[Setup] = []
        for place, up in enumerate(self.way.every):
            as_it_comes = blank.finished_walls and place > 1
            found = self._op(part, ops, setups, up, now, blank, as_it_comes)
            if found is None:
                continue
            tried, now = found
            ops.append(tried.op)
            setups.append(tried.setup)
            self.missing += not tried.holds
        if now.volume_mm3 > body.volume_mm3 * (1 + _MORE_LEFT):
            self._leaning(body, ops)
        general = features_of(self.holes, ops, own)
        full = part.model_copy(update={"ops": ops, "features": [*own, *general]})
        self._tolerated(full, len(own))
        return full, setups

    def _leaning(self, body: Body, ops: list[Op]) -> None:
        """Say which faces no op brings level or upright."""
        ways = [turn_of(op.up)[2] for op in ops]
        for plane in planes_of(body):
            off = [abs(float(way @ np.array(plane.normal))) for way in ways]
            if plane.area_mm2 < _LEAST_FACE_MM2 or any(a > _LEVEL or a < _UPRIGHT for a in off):
                continue
            leans = math.degrees(math.acos(max(map(abs, plane.normal))))
            self._says(
                "ops",
                f"a face of {plane.area_mm2:.0f} mm² leans by {leans:.1f}° and is left uncut: none"
                " of the six sides up brings it level; stand the part on a sine vise, or cut it"
                " with a ball nose, neither of which is planned yet",
                1.0,
            )

    def _tolerated(self, part: Part, own: int) -> None:
        """Mark the tolerances that were proposed: all but a person's ``own``, which stand first."""
        for number in range(own, len(part.features)):
            why = "general tolerance of the house, ISO 2768-1 class m, from memory"
            self._says(f"features/{number}/tolerance_mm", why, 0.5)
        threads: dict[str, int] = {}
        for number, item in enumerate(part.features[own:], own):
            diameter = float(item.name.split(" ")[0].removeprefix("Ø"))
            thread = thread_of(diameter)
            if thread is not None and thread not in threads:
                threads[thread] = number
                why = f"drilled plain, Ø{diameter:g}: is it for {thread}? Then it wants a tap"
                self._says(f"features/{number}/name", why, 0.7)

    def _op(
        self,
        part: Part,
        ops: list[Op],
        setups: list[Setup],
        up: Direction,
        now: Body,
        blank: Blank,
        as_it_comes: bool,
    ) -> tuple[Tried, Body] | None:
        """The next op with the way it is held, and what it leaves; nothing where it has nothing to
        cut.
        """
        best: tuple[Tried, Body, list[Hole]] | None = None
        asked = None
        gripped = blank.stock.gripped if not ops else None
        for turn in _turns(finished_body(part), now, up, gripped):
            pose, finished = stands(finished_body(part), up, turn)
            self.draft.tells(f"{part.name}: op {10 * len(ops) + 10}, {up} up: cuts, holding")
            shop = Shop(self.crib, part.material, self.draft.machine)
            bench = Bench(finished, pose.put(now), [], shop)
            seen = holes_seen(self.holes, pose)
            around = None if ops else -_BELOW_MM if bench.now.box[2] < -_BELOW_MM else 0.0
            mill(bench, around, drillable(seen), as_it_comes)
            missing = drill(bench, seen)
            chamfer(bench)
            if not bench.cuts:
                return None
            op = Op(
                number=10 * len(ops) + 10,
                does=_does(bench.cuts),
                up=up,
                turn_deg=turn,
                reached=[up],
                cuts=bench.cuts,
            )
            parts = list(self.parts)
            parts[self.number] = part.model_copy(update={"ops": [*ops, op]})
            job = self.job.model_copy(update={"parts": parts})
            asked = asked_of(job, setups, self.number, len(ops))
            tried = in_a_vise(asked, self.draft.stores, self.draft.machine)
            left = pose.back(bench.now)
            if tried is not None and (best is None or tried.margin > best[0].margin):
                best = (tried, left, missing)
            if tried is not None and tried.holds:
                break
        if asked is not None and (best is None or not best[0].holds):
            tried = on_a_plate(asked, self.draft.stores, self.draft.machine)
            if tried is not None and (best is None or tried.holds):
                best = (tried, left, missing)
        if best is None:
            raise OutOfRange("shop.vises", "none", "a vise or a plate in the shop")
        self._not_drilled(len(ops), best[2])
        made = best[0].op
        self._says(f"ops/{len(ops)}", f"op {made.number}, {up} up: {made.does.lower()}", 0.2)
        self.held.append((_why_held(best[0]), 0.3 if best[0].holds else 1.0))
        return best[0], best[1]

    def _not_drilled(self, place: int, missing: Sequence[Hole]) -> None:
        for hole in missing:
            said = f"no cutter of the shop makes the hole of {hole.diameter_mm:.2f} mm"
            self._says(f"ops/{place}/cuts", f"{said}, {hole.top_mm - hole.low_mm:.1f} deep", 1.0)

    def _says(self, where: str, why: str, doubt: float) -> None:
        pointer = f"/job/parts/{self.number}/{where}"
        self.notes.append(Proposal(pointer=pointer, why=why[:300], doubt=doubt))


def _why_held(tried: Tried) -> str:
    said = f"op {tried.op.number}: "
    if not tried.holds:
        return f"{said}nothing holds it yet; {tried.why}"
    least = "" if tried.least_nm is None else f"; holds from {tried.least_nm:g} N·m"
    return f"{said}{tried.setup.form.told()}{least}"


def _does(cuts: Sequence[Cut]) -> str:
    """What an op machines, in a few words."""
    said = {
        "top": any(cut.of.facing for cut in cuts),
        "outside": any(cut.of.around for cut in cuts),
        "pockets": any(cut.of.clears and cut.of.inside for cut in cuts),
        "holes": any(cut.of.hole for cut in cuts),
    }
    return ", ".join(word for word, there in said.items() if there).capitalize()


def _turns(body: Body, now: Body, up: Direction, gripped: Axis | None) -> list[float]:
    """Which way round it is put in, the likelier first: over what it is to be gripped over, else
    over its narrower side, square to the jaws though the file has it askew.
    """
    pose, stood = stands(body, up)
    across = "xyz"[int(np.argmax(np.abs(turn_of(up)[0])))]
    narrow = stood.box[3] <= stood.box[4]
    as_it_is = across == gripped if gripped is not None else narrow
    square = [0.0, 90.0] if as_it_is else [90.0, 0.0]
    if gripped is not None:
        return square
    rest = shapely.minimum_rotated_rectangle(pose.put(now).seen())
    x0, y0, x1, y1 = rest.bounds
    if rest.geom_type != "Polygon" or rest.area > _SQUARE * (x1 - x0) * (y1 - y0):
        return square
    a, b, c = shapely.get_coordinates(rest)[:3]
    long = max((b - a, c - b), key=lambda side: float(np.hypot(*side)))
    askew = math.degrees(math.atan2(long[1], long[0]))
    # its long side along the jaws first, then across them
    return [round((90 - askew) % 180, 6), round(-askew % 180, 6), *square]
