"""How each op is held: vises first, then a plate; so deep and with such torque that it holds."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from wedgecraft.core.draft.blanks import CLEAR_MM
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.explain import reasons
from wedgecraft.core.forms.plate import OnPlate
from wedgecraft.core.forms.vises import Vises
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.hold.torque_window import least_torque_of, marks_from, sinks_from
from wedgecraft.core.hold.verdict import Holding
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.clamp_choice import ways
from wedgecraft.core.plan.settled import with_way
from wedgecraft.core.plan.setup_view import refusal_of, setup_request
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.job import Held, Job, JobDocument, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import factor_needed
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.view import views_of
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.release import release
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.states import workpiece

#: Depths between the jaws that are tried, as shares of what there is.
_DEPTHS = (1.0, 0.6, 0.35)
#: A part is not held deeper than this share of its height, or this, mm.
_MOST_SHARE, _MOST_MM = 0.6, 25.0
#: Cutters keep so far over jaws, mm.
_OVER_JAWS_MM = 1.5
#: A vise opens so much wider than the part, and its jaws hold at least this share of its length.
_ROOM_MM, _ALONG_SHARE = 4.0, 0.35
#: Parts of a row stand so far apart, and no row is longer: a rigid jaw balances on two (common
#: practice, no source).
_BETWEEN_MM, _LONGEST_ROW = 12.0, 2
#: So often cuts are made lighter; a cut that engages less of its cutter than this is not made
#: narrower; a feed a tooth below this rubs, mm.
_TIMES, _NARROW, _LEAST_MM = 6, 0.12, 0.01
#: What holds a part that nothing is done to for it.
_OFFERED = ("edge clamp", "strap", "swing clamp", "expanding pin")
#: What holds less than this, of what is needed, even so much stronger is not tried.
_HOPELESS = 0.9
#: So much more than the least torque is given, where the vise has it.
_MORE_TORQUE = 1.25
#: A station starts from a common edge clamp; a form that has its own takes that.
_STATION = StopAndEdgeClamp(clamp=EdgeClamp(torque_nm=14))


@dataclass(frozen=True)
class Tried:
    """One way to hold an op. ``margin``: its factor over what is needed; ``why`` it does not do;
    ``op``: with the cuts it holds; ``vises``: the form, where it is that; ``least_nm`` on their
    handle.
    """

    setup: Setup
    op: Op
    margin: float
    why: str = ""
    field: str = ""
    marks: bool = False
    vises: Vises | None = None
    least_nm: float | None = None

    @property
    def holds(self) -> bool:
        return not self.why and self.margin >= 1


#: Between soft jaws when they are cut, by the house's way: 1/8 in, 0.030 in.
_GAPS = {"by parallel": 3.2, "by card": 0.76}


@dataclass(frozen=True)
class Asked:
    """An op to be held: in which job, after which setups, of which part. ``grip_mm``: of stock
    under the part that is there to be held; ``raw``: what jaws touch, so that marks do not matter;
    ``lowest_outside_mm``: how low cutters come beside it; ``size_mm``: across the jaws, along them,
    and high; ``rounded``: jaws touch a round bar.
    """

    job: Job
    before: Sequence[Setup]
    part: int
    op: int
    grip_mm: float | None
    lowest_outside_mm: float
    raw: bool
    size_mm: tuple[float, float, float]
    rounded: bool = False

    def with_op(self, op: Op) -> Job:
        """The job with the op in this shape."""
        return self.job.with_op(self.part, self.op, op)

    @property
    def as_it_is(self) -> Op:
        return self.job.parts[self.part].ops[self.op]


def asked_of(job: Job, before: Sequence[Setup], part: int, op: int) -> Asked:
    """An op of a job as it stands there. Raises NotABody for a part that cannot be read."""
    state = workpiece(job.parts[part], "largest").ops[op]
    x0, y0, z0, x1, y1, z1 = state.before.box
    top, floor = state.finished.box[5], state.finished.box[2]
    outside = [top - cut.depth_mm for cut in state.op.cuts if cut.of.around or cut.of.facing]
    kind, stock = job.parts[part].stock.kind, floor - z0 - CLEAR_MM
    as_it_comes = kind == "hexagon bar"
    return Asked(
        job=job,
        before=before,
        part=part,
        op=op,
        grip_mm=stock if stock >= job.rules.least_grip_mm and not as_it_comes else None,
        raw=op == 0 or as_it_comes,
        lowest_outside_mm=min(outside, default=top) - z0,
        size_mm=(x1 - x0, y1 - y0, z1 - z0),
        rounded=op == 0 and kind == "round bar",
    )


def in_a_vise(asked: Asked, stores: Stores, machine: Machine) -> Tried | None:
    """The smallest vise that holds it, as deep as it may; cuts are made lighter where none does as
    they are, and where that is not enough what comes nearest is given. Nothing for a shop without a
    vise it goes into.
    """
    best: tuple[Tried, dict[str, float]] | None = None
    vises = _vises(asked, stores)
    kinds: tuple[Literal["hard", "soft"], ...] = ("hard",) if asked.raw else ("hard", "soft")
    if asked.rounded:  # flat jaws touch a bar in two lines
        kinds = ("soft",)
    for jaws in kinds:
        weaker: tuple[float, float] | None = None  # its margin, and its force
        for vise in vises:
            # a part is held about as much better as a vise is stronger
            if weaker and vise is not vises[-1]:
                margin, force = weaker
                if margin * vise.rated_force_n / force < _HOPELESS:
                    continue
            tried = _in(asked, vise, jaws, machine)
            if tried[0].holds:
                return _in_rows(asked, tried[0])
            if best is None or tried[0].marks or tried[0].margin > best[0].margin:
                best = tried
            if tried[0].marks:
                break  # harder pressed it would be marked more
            weaker = (tried[0].margin, vise.rated_force_n) if tried[0].margin else None
    return None if best is None else _eased(asked, *best)


def _in(
    asked: Asked, vise: Vise, jaws: Literal["hard", "soft"], machine: Machine
) -> tuple[Tried, dict[str, float]]:
    """The deepest grip that is possible: shallower ones hold less."""
    tried: tuple[Tried, dict[str, float]] | None = None
    for depth in _depths(asked, vise):
        torque = min(vise.rated_torque_nm, 200.0)
        form = Vises(
            vise=vise,
            jaws=jaws,
            depth_mm=depth,
            torque_nm=torque,
            gap_mm=_GAPS[asked.job.rules.jaw_gap],
        )
        tried = _judged(asked, machine, form, asked.as_it_is)
        if tried[0].margin > 0 or tried[0].marks:
            break
    if tried is None:
        raise ValueError("there is always a depth to try")
    return tried


def _in_rows(asked: Asked, alone: Tried) -> Tried:
    """With as many side by side in one vise as its jaws are long, if that holds them too."""
    form = alone.vises
    if form is None:
        return alone
    most = math.floor(form.vise.jaw_width_mm / (asked.size_mm[1] + _BETWEEN_MM))
    for row in range(min(most, _LONGEST_ROW), 1, -1):
        torque = min(form.vise.rated_torque_nm, 200.0)
        longer = form.model_copy(update={"row": row, "torque_nm": torque})
        tried, _ = _judged(asked, alone.setup.machine, longer, alone.op)
        if tried.holds:
            return tried
    return alone


def _vises(asked: Asked, stores: Stores) -> list[Vise]:
    across, along, _ = asked.size_mm
    return [
        item
        for item in sorted(stores.vises, key=lambda item: item.jaw_width_mm)
        if item.stations == 1
        and item.opening_mm >= across + _ROOM_MM
        and item.jaw_width_mm >= _ALONG_SHARE * along
    ]


def _depths(asked: Asked, vise: Vise) -> list[float]:
    if asked.grip_mm is not None:
        return [min(asked.grip_mm, vise.jaw_height_mm)]
    least = asked.job.rules.least_grip_mm
    free = asked.lowest_outside_mm - _OVER_JAWS_MM
    most = min(vise.jaw_height_mm, _MOST_SHARE * asked.size_mm[2], _MOST_MM, free)
    found = [max(least, math.floor(10 * share * most) / 10) for share in _DEPTHS]
    return [depth for depth in dict.fromkeys(found) if depth <= max(most, 0.0)] or [least]


def on_a_plate(asked: Asked, stores: Stores, machine: Machine) -> Tried | None:
    """With the elements that the planner picks; nothing for a shop without a plate that fits."""
    fitting = [
        item
        for item in stores.plates
        if item.width_mm <= machine.table_x_mm and item.depth_mm <= machine.table_y_mm
    ]
    if not fitting:
        return None
    plate = max(fitting, key=lambda item: item.width_mm * item.depth_mm)
    station = _STATION.model_copy(update={"by_planner": True, "offered": list(_OFFERED)})
    op = asked.as_it_is
    held = Held(part=asked.part, op=asked.op, station=station)
    setup = Setup(machine=machine, form=OnPlate(plate=plate), holds=[held])
    request = _request(asked, setup, op)
    found = ways(request)
    best = next((way for way in found if way.rank == 1), None)
    if best is None:
        why = next((way.refused for way in found if way.refused), "nothing holds it")
        return Tried(setup, asked.as_it_is, 0.0, why or "", "station.offered")
    settled = with_way(request, best).station.model_copy(update={"by_planner": False})
    held = held.model_copy(update={"station": settled})
    setup = setup.model_copy(update={"holds": [held]})
    return Tried(setup, asked.as_it_is, best.factor / factor_needed(request.rules, op.cuts))


def _request(asked: Asked, setup: Setup, op: Op) -> PlanRequest:
    route = Route(setups=[*asked.before, setup])
    request = setup_request(JobDocument(job=asked.with_op(op), route=route), len(route.setups))
    if request is None:
        raise OutOfRange("form", setup.form.kind, "a form that can be planned")
    return request


def _eased(asked: Asked, tried: Tried, weak: dict[str, float]) -> Tried:
    """With those cuts lighter that would move the part."""
    for _ in range(_TIMES):
        if tried.holds or not weak or tried.vises is None:
            break
        lighter = [_lighter(cut, weak.get(cut.name, 1.0)) for cut in tried.op.cuts]
        op = tried.op.model_copy(update={"cuts": lighter})
        tried, weak = _judged(asked, tried.setup.machine, tried.vises, op)
    return tried


def _judged(asked: Asked, machine: Machine, form: Vises, op: Op) -> tuple[Tried, dict[str, float]]:
    """Whether it holds, with the least torque that does and a little more; cuts that would move the
    part, by their names, with how far they are held.
    """
    held = Held(part=asked.part, op=asked.op, station=_STATION)
    setup = Setup(machine=machine, form=form, holds=[held])
    none = Tried(setup, op, 0.0, vises=form)
    refusal = refusal_of(setup)
    if refusal is not None:
        return replace(none, why=refusal.allowed, field=refusal.field), {}
    try:
        request = _request(asked, setup, op)
        (view,) = views_of(request)
        sitting = stood(view)
        loads = cut_loads(view, sitting)
        kind = ready(view)
        release(view, sitting)
        for wrong in [*reasons.of_grip(view), *reasons.of_tolerance(view, kind.locating)]:
            return replace(none, why=wrong.why, field=wrong.field), {}
        holding = Holding(view, kind.station, sitting, loads)
        found = holding.weakest
        margin = found.result.factor / holding.needed
        if margin < 1:
            weak = _weak(op, holding, found.factors, holding.needed)
            return replace(none, margin=margin, why=f"not held: {found.result.sentence}"), weak
        least = least_torque_of(holding)
        marks = sinks_from(holding) if asked.raw else marks_from(holding)
    except (OutOfRange, NotSeated) as error:
        return replace(none, why=error.allowed, field=error.field), {}
    if least is None:
        return replace(none, margin=margin), {}
    if marks is not None and marks < least:
        does = "sinks into" if asked.raw else "marks"
        why = f"it {does} the part from {marks:g} N·m and holds it only from {least:g} N·m"
        return replace(none, why=why, field="form.torque_nm", marks=True), {}
    tight = _tightened(form, least, marks)
    setup = setup.model_copy(update={"form": tight})
    return Tried(setup, op, margin, vises=tight, least_nm=least), {}


def _weak(op: Op, holding: Holding, factors: Sequence[float], needed: float) -> dict[str, float]:
    found: dict[str, float] = {}
    for case, factor in zip(holding.cases, factors, strict=True):
        name = max(
            (cut.name for cut in op.cuts if case.name.startswith(cut.name)), key=len, default=""
        )
        if factor < needed:
            found[name] = min(found.get(name, 1.0), factor / needed)
    return found


def _lighter(cut: Cut, share: float) -> Cut:
    """With about this share of its force: less wide first, then less deep a pass, then slower."""
    if share >= 1:
        return cut
    wanted = max(0.5, 0.92 * share)
    if cut.of.hole:
        slow = max(_LEAST_MM, wanted * cut.feed_per_tooth_mm)
        return cut.model_copy(update={"feed_per_tooth_mm": slow})
    # a tooth of a face mill cuts as thick a chip however narrow the row is
    if not cut.of.facing and cut.radial_width_mm > _NARROW * cut.tool.diameter_mm:
        return cut.model_copy(update={"radial_width_mm": wanted * cut.radial_width_mm})
    deep = cut.passes * cut.axial_depth_mm
    passes = math.ceil(cut.passes / wanted - 1e-9)
    return cut.model_copy(update={"passes": passes, "axial_depth_mm": deep / passes})


def _tightened(form: Vises, least: float, marks: float | None) -> Vises:
    """With a little more torque than the least, where that does not mark."""
    torque = min(form.torque_nm, max(5.0, math.ceil(_MORE_TORQUE * least)))
    if marks is not None and marks < torque:
        torque = max(least, math.floor(2 * marks) / 2)
    return form.model_copy(update={"torque_nm": float(torque)})
