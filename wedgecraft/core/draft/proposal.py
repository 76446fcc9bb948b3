"""The document: parts with stock, ops and cuts, a route that holds them, and why each was so."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from wedgecraft.core.draft.blanks import CLEAR_MM, Blank, blank_of
from wedgecraft.core.draft.drilled import Hole, drill, drillable, holes_seen
from wedgecraft.core.draft.held import Asked, Tried, ways_to_hold
from wedgecraft.core.draft.milled import Bench, Shop, mill
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.draft.sides import Sides, sides_of
from wedgecraft.core.draft.tools import Crib
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.feature import opposite
from wedgecraft.core.records.job import Job, JobDocument, Proposal, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.workpiece.blank_body import blank_body
from wedgecraft.core.workpiece.finished import file_pose, finished_body
from wedgecraft.core.workpiece.mend import NotABody
from wedgecraft.core.workpiece.pose import pose_of, stands
from wedgecraft.core.workpiece.surfaces import round_holes_of

Progress = Callable[[str, float], None]
#: A first op is held by so much stock under the part, or what the house asks for, mm.
_GRIP_MM = 5.0
#: A table that takes this many times the part is large enough.
_ROOM = 3.0
#: So often cuts are made lighter, and each time by this, before a way to hold is given up.
_LIGHTER, _TIMES = 0.6, 3


@dataclass
class Draft:
    """What is being proposed, with the reasons so far."""

    stores: Stores
    machine: Machine
    rules: HouseRules
    unit: Literal["mm", "in"]
    proposals: list[Proposal] = field(default_factory=list)

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
    tell: Progress = progress or (lambda step, share: None)
    picked = machine or _machine(stores, parts)
    draft = Draft(stores, picked, rules or HouseRules(), unit)
    made: list[Part] = []
    setups: list[Setup] = []
    for number, part in enumerate(parts):
        tell(f"{part.name}: sides and features", number / len(parts))
        full, held = _part(draft, name, quantity, [*made, part, *parts[number + 1 :]], number, tell)
        made.append(full)
        setups += held
    job = Job(name=name, quantity=quantity, parts=made, rules=draft.rules)
    for number in range(len(setups)):
        draft.says(
            f"/route/setups/{number}/machine", f"{picked.name}: {_why_machine(machine)}", 0.3
        )
    return JobDocument(job=job, route=Route(setups=setups), proposals=draft.proposals)


def _why_machine(asked: Machine | None) -> str:
    return "as asked" if asked else "the smallest three-axis mill with room for a few of them"


def _machine(stores: Stores, parts: Sequence[Part]) -> Machine:
    """The smallest vertical with room. Raises OutOfRange for a shop without one."""
    mills = sorted(
        (item for item in stores.machines if item.kind == "vertical" and item.axes == 3),
        key=lambda item: item.travel_x_mm * item.travel_y_mm,
    )
    mills = mills or list(stores.machines)
    if not mills:
        raise OutOfRange("shop.machines", "none", "a machine in the shop")
    size = max(max(finished_body(part).box[3:]) for part in parts)
    return next((item for item in mills if item.travel_x_mm >= _ROOM * size + 400), mills[-1])


def _part(
    draft: Draft, name: str, quantity: int, parts: list[Part], number: int, tell: Progress
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
    best: tuple[int, Part, list[Setup], list[Proposal]] | None = None
    for way in [item for item in ways if len(item.others) == fewest][:4]:
        tell(f"{part.name}: {way.first} up first", (number + 0.2) / len(parts))
        attempt = _Attempt(draft, name, quantity, parts, number, way)
        found = attempt.made()
        if best is None or attempt.missing < best[0]:
            best = (attempt.missing, *found, attempt.notes)
        if best[0] == 0:
            break
    if best is None:
        raise OutOfRange(f"job.parts.{number}", part.name, "a way to begin")
    draft.proposals += best[3]
    return best[1], best[2]


class _Attempt:
    """One way to begin, followed to the end. ``missing``: ops that nothing holds."""

    def __init__(
        self, draft: Draft, name: str, quantity: int, parts: list[Part], number: int, way: Sides
    ) -> None:
        self.draft, self.parts, self.number, self.way = draft, parts, number, way
        self.job = Job(name=name, quantity=quantity, parts=parts, rules=draft.rules)
        self.missing = 0
        self.notes: list[Proposal] = []

    def made(self) -> tuple[Part, list[Setup]]:
        part = self.parts[self.number]
        body = finished_body(part)
        grip = max(_GRIP_MM, self.draft.rules.least_grip_mm)
        blank = blank_of(body, self.way.first, grip, self.draft.unit)
        self._says("stock", blank.why, 0.2)
        stocked = part.model_copy(update={"stock": blank.stock, "features": [], "ops": [Op()]})
        first = pose_of(body, self.way.first)
        now = blank_body(blank.stock, body, first, "largest", file_pose(stocked))
        holes = round_holes_of(body)
        crib = Crib(self.draft.stores.cutters_in(self.draft.unit))
        shop = Shop(crib, part.material, self.draft.machine)
        ops: list[Op] = []
        for place, up in enumerate(self.way.every):
            pose, finished = stands(body, up)
            bench = Bench(finished, pose.put(now), [], shop)
            seen = holes_seen(holes, pose)
            mill(bench, 0.0, drillable(seen), as_it_comes=blank.finished_walls and place > 1)
            self._not_drilled(place, drill(bench, seen))
            if not bench.cuts:
                continue
            now = pose.back(bench.now)
            ops.append(Op(number=10 * len(ops) + 10, up=up, reached=[up], cuts=bench.cuts))
        full = stocked.model_copy(update={"ops": ops})
        return self._held(full, blank, grip)

    def _held(self, part: Part, blank: Blank, grip: float) -> tuple[Part, list[Setup]]:
        setups: list[Setup] = []
        for index in range(len(part.ops)):
            part, tried = self._op(part, index, setups, blank, grip)
            setups.append(tried.setup)
            if not tried.holds:
                self.missing += 1
        return part, setups

    def _op(
        self, part: Part, index: int, setups: list[Setup], blank: Blank, grip: float
    ) -> tuple[Part, Tried]:
        """An op with the way it is held, its cuts made lighter where that is what it takes."""
        best: Tried | None = None
        for _ in range(_TIMES):
            tried = ways_to_hold(
                self._asked(part, index, setups, blank, grip), self.draft.stores, self.draft.machine
            )[0]
            best = tried
            if tried.holds or not 0 < tried.margin < 1:
                break
            part = _lighter(part, index)
        if best is None:
            raise OutOfRange("shop.vises", "none", "a vise or a plate in the shop")
        ops = list(part.ops)
        ops[index] = ops[index].model_copy(update={"turn_deg": best.turn_deg})
        self._says(f"ops/{index}", _why_held(best), 0.3 if best.holds else 1.0)
        return part.model_copy(update={"ops": ops}), best

    def _asked(
        self, part: Part, index: int, setups: list[Setup], blank: Blank, grip: float
    ) -> Asked:
        op = part.ops[index]
        parts = list(self.parts)
        parts[self.number] = part
        _, stood = stands(finished_body(part), op.up)
        x0, y0, z0, x1, y1, z1 = stood.box
        outside = [z1 - cut.depth_mm for cut in op.cuts if cut.of.around or cut.of.facing]
        held_by_stock = index == 0 and not blank.finished_walls
        allowed = max(sum(dim.sides_mm) for dim in (part.stock.x, part.stock.y, part.stock.z))
        more = allowed if index == 0 else 0.0
        return Asked(
            job=self.job.model_copy(update={"parts": parts}),
            before=setups,
            part=self.number,
            op=index,
            grip_mm=grip if held_by_stock else None,
            lowest_outside_mm=min(outside, default=z1),
            size_mm=(x1 - x0 + more, y1 - y0 + more, z1 - z0),
        )

    def _not_drilled(self, place: int, missing: Sequence[Hole]) -> None:
        for hole in missing:
            said = f"no cutter of the shop makes the hole of {hole.diameter_mm:.2f} mm"
            self._says(f"ops/{place}/cuts", f"{said}, {hole.top_mm - hole.low_mm:.1f} deep", 1.0)

    def _says(self, where: str, why: str, doubt: float) -> None:
        pointer = f"/job/parts/{self.number}/{where}"
        self.notes.append(Proposal(pointer=pointer, why=why[:300], doubt=doubt))


def _why_held(tried: Tried) -> str:
    form = tried.setup.form
    if tried.why:
        return f"nothing holds it yet: {tried.why}"
    return f"in {form.said}; {tried.margin:.1f} times what is needed"


def _lighter(part: Part, index: int) -> Part:
    """Milling cuts of an op less wide."""

    def less(cut: Cut) -> Cut:
        if cut.of.hole:
            return cut
        return cut.model_copy(update={"radial_width_mm": _LIGHTER * cut.radial_width_mm})

    ops = list(part.ops)
    ops[index] = ops[index].model_copy(update={"cuts": [less(cut) for cut in ops[index].cuts]})
    return part.model_copy(update={"ops": ops})


__all__ = ["CLEAR_MM", "drafted", "opposite"]
