"""How each op is held: vises first, then a plate; so deep and with such torque that it holds."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.explain import reasons
from wedgecraft.core.forms.plate import OnPlate
from wedgecraft.core.forms.vises import Vises
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.hold.torque_window import least_torque_of
from wedgecraft.core.hold.verdict import Holding, quick_hold
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.setup_view import refusal_of, setup_request
from wedgecraft.core.records.form import Form
from wedgecraft.core.records.job import Held, Job, JobDocument, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.release import release
from wedgecraft.core.station.stood import stood

#: Depths between the jaws that are tried, as shares of what there is.
_DEPTHS = (1.0, 0.6, 0.35)
#: A part is not held deeper than this share of its height, or this, mm.
_MOST_SHARE, _MOST_MM = 0.6, 25.0
#: Cutters keep so far over jaws, mm.
_OVER_JAWS_MM = 1.5
#: So much more than the least torque is given, where the vise has it.
_MORE_TORQUE = 1.25
#: A station starts from a common edge clamp; a form that has its own takes that.
_STATION = StopAndEdgeClamp(clamp=EdgeClamp(torque_nm=14))


@dataclass(frozen=True)
class Tried:
    """One way to hold an op: ``margin``: factor over what is needed; ``why`` it does not do."""

    setup: Setup
    turn_deg: float
    margin: float
    why: str = ""
    field: str = ""

    @property
    def holds(self) -> bool:
        return not self.why and self.margin >= 1


@dataclass(frozen=True)
class Asked:
    """An op to be held: of which part, the setups before it, what its cuts leave outside above."""

    job: Job
    before: Sequence[Setup]
    part: int
    op: int
    grip_mm: float | None
    lowest_outside_mm: float
    size_mm: tuple[float, float, float]


def ways_to_hold(asked: Asked, stores: Stores, machine: Machine) -> list[Tried]:
    """Every way that is tried, what holds best first."""
    found = [_tried(asked, form, turn, machine) for form, turn in _vises(asked, stores)]
    if not any(item.holds for item in found):
        found += [_tried(asked, form, turn, machine) for form, turn in _plates(stores, machine)]
    return sorted(found, key=lambda item: (not item.holds, bool(item.why), -item.margin))


def _vises(asked: Asked, stores: Stores) -> Iterator[tuple[Form, float]]:
    wide, deep, high = asked.size_mm
    for turn, across, along in ((0.0, wide, deep), (90.0, deep, wide)):
        vise = next(
            (
                item
                for item in sorted(stores.vises, key=lambda item: item.jaw_width_mm)
                if item.stations == 1
                and item.opening_mm >= across + 4
                and item.jaw_width_mm >= 0.5 * along
            ),
            None,
        )
        if vise is None:
            continue
        if asked.grip_mm is not None:
            depths = [asked.grip_mm]
        else:
            most = min(
                vise.jaw_height_mm,
                _MOST_SHARE * high,
                _MOST_MM,
                asked.lowest_outside_mm - _OVER_JAWS_MM,
            )
            depths = [round(share * most, 1) for share in _DEPTHS if share * most >= 1.0]
        for depth in dict.fromkeys(depths):
            torque = min(vise.rated_torque_nm, 200.0)
            yield Vises(vise=vise, depth_mm=depth, torque_nm=torque), turn


def _plates(stores: Stores, machine: Machine) -> Iterator[tuple[Form, float]]:
    fitting = [
        item
        for item in stores.plates
        if item.width_mm <= machine.table_x_mm and item.depth_mm <= machine.table_y_mm
    ]
    if fitting:
        plate = max(fitting, key=lambda item: item.width_mm * item.depth_mm)
        yield OnPlate(plate=plate), 0.0


def _tried(asked: Asked, form: Form, turn: float, machine: Machine) -> Tried:
    station = _STATION
    if not isinstance(form, Vises):
        station = station.model_copy(update={"by_planner": True})
    held = Held(part=asked.part, op=asked.op, station=station)
    setup = Setup(machine=machine, form=form, holds=[held])
    if isinstance(form, Vises):
        return judged(asked, setup, turn)
    return Tried(setup, turn, 1.0)  # its own planner says


def judged(asked: Asked, setup: Setup, turn: float) -> Tried:
    """Whether it holds, with the least torque that does and a little more."""
    part = asked.job.parts[asked.part]
    ops = list(part.ops)
    ops[asked.op] = ops[asked.op].model_copy(update={"turn_deg": turn})
    parts = list(asked.job.parts)
    parts[asked.part] = part.model_copy(update={"ops": ops})
    job = asked.job.model_copy(update={"parts": parts})
    route = Route(setups=[*asked.before, setup])
    document = JobDocument(job=job, route=route)
    refusal = refusal_of(setup)
    if refusal is not None:
        return Tried(setup, turn, 0.0, refusal.allowed, refusal.field)
    request = setup_request(document, len(route.setups))
    if request is None:
        return Tried(setup, turn, 0.0, "this form cannot be planned")
    try:
        (view,) = views_of(request)
        sitting = stood(view)
        loads = cut_loads(view, sitting)
        kind = ready(view)
        release(view, sitting)
        shallow = list(reasons.of_grip(view))
        if shallow:
            return Tried(setup, turn, 0.0, shallow[0].why, shallow[0].field)
        holding = Holding(view, kind.station, sitting, loads)
        verdict = quick_hold(holding)
        margin = verdict.result.factor / verdict.needed
        if margin < 1:
            return Tried(setup, turn, margin, f"not held: {verdict.result.sentence}")
        least = least_torque_of(holding)
        return Tried(_with_torque(setup, least), turn, margin)
    except OutOfRange as error:
        return Tried(setup, turn, 0.0, error.allowed, error.field)
    except NotSeated as error:
        return Tried(setup, turn, 0.0, error.allowed, error.field)


def _with_torque(setup: Setup, least: float | None) -> Setup:
    form = setup.form
    if least is None or not isinstance(form, Vises):
        return setup
    torque = min(form.torque_nm, max(5.0, math.ceil(_MORE_TORQUE * least)))
    return setup.model_copy(update={"form": form.model_copy(update={"torque_nm": float(torque)})})
