"""How the parts of a station are held: the worst part in the worst direction of its weight, the window of torque, what would help."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from wedgecraft.core.clamps import SCREWS, EdgeClamp, Preload, edge_clamp_preload
from wedgecraft.core.contacts import Contact, HoldRequest, LoadCase
from wedgecraft.core.cutting.document import HOLE_KINDS, CuttingRequest
from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.elastic import SINKS_IN, ShareRequest, share_out
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.hold import hold
from wedgecraft.core.part import part_mass_kg
from wedgecraft.core.placing import blanks_of, row_places
from wedgecraft.core.plan import CutLoad, DirectionFactor, HoldVerdict, PlanRequest, Remedy, TorquePoint, TurnFactor
from wedgecraft.core.sharing import part_preload, row_share
from wedgecraft.core.sitting import Sitting
from wedgecraft.core.station import Member, Station, build_station
from wedgecraft.core.station_contacts import station_contacts, station_loads

_GRAVITY = 9.80665
Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Holding:
    """What a verdict on hold is worked out from: one op's station, how the part sits, and what its cuts ask."""

    plan: PlanRequest
    station: Station
    sitting: Sitting
    loads: Sequence[CutLoad]

    def at(self, torque_nm: float) -> Holding:
        """The same at another torque."""
        kind = self.plan.station
        clamp = EdgeClamp.model_validate({**kind.clamp.model_dump(), "torque_nm": torque_nm})
        return replace(self, plan=self.plan.model_copy(update={"station": kind.model_copy(update={"clamp": clamp})}))

    @cached_property
    def cases(self) -> list[LoadCase]:
        return [
            case
            for cut, load in zip(self.plan.op.cuts, self.loads, strict=True)
            for case in station_loads(self.station, self.sitting.height_mm, cut, load.load)
        ]

    @cached_property
    def preload(self) -> Preload:
        """What each part gets. Raises OutOfRange."""
        kind = self.plan.station
        return part_preload(kind.clamp, kind.sharing, blanks_of(self.plan, self.sitting), row_places(self.station))

    @property
    def needed(self) -> float:
        """The factor the house asks for; one interrupted cut asks it of the whole op."""
        rules = self.plan.rules
        interrupted = any(cut.interrupted for cut in self.plan.op.cuts)
        return rules.safety_factor_interrupted if interrupted else rules.safety_factor

    @cached_property
    def judged(self) -> tuple[HoldVerdict, _HeldAs, list[float]]:
        return _judged(self)

    def parts(self) -> dict[tuple[object, Vector], _HeldAs]:
        """Parts that are held differently, by where they are pressed and how their weight hangs."""
        turns = self.plan.station.turns
        return {
            (member.presses, weight): _HeldAs(self, member, weight)
            for member in self.station.members
            for weight in (_weight(self.plan, turn, member) for turn in turns)
        }


def quick_hold(holding: Holding) -> HoldVerdict:
    """Factor and share-out at this torque, without anything that is searched for. Raises OutOfRange, NotSeated."""
    return holding.judged[0]


def full_hold(holding: Holding) -> HoldVerdict:
    """The whole verdict: quick, with the window of torque and, where it does not hold, what would help."""
    quick, worst, factors = holding.judged
    least = _least_torque(worst, factors)
    kind, row = holding.plan.station, None
    if kind.sharing.how == "row between jaws":
        whole = edge_clamp_preload(kind.clamp)
        row = row_share(kind.sharing, blanks_of(holding.plan, holding.sitting), row_places(holding.station), whole.low_n)
    return quick.model_copy(
        update={
            "least_torque_nm": least,
            "marks_from_nm": _presses_from(worst, 1.0),
            "sinks_from_nm": _presses_from(worst, SINKS_IN),
            "row": row,
            "curve": _curve(worst, factors),
            "remedies": remedies(holding, least) if quick.result.factor < quick.needed else [],
        }
    )


def _judged(holding: Holding) -> tuple[HoldVerdict, _HeldAs, list[float]]:
    """Hold at the low end of the preload, of the part held worst; with that part, and the factor of each case."""
    cases, preload, station, asked = holding.cases, holding.preload, holding.station, holding.parts()
    answers = {key: hold(item.request(cases, preload.low_n)) for key, item in asked.items()}
    worst_key = min(answers, key=lambda key: answers[key].factor)
    result, worst = answers[worst_key], asked[worst_key]
    by_turn = [
        TurnFactor(
            turn=turn, factor=min(answers[member.presses, _weight(holding.plan, turn, member)].factor for member in station.members)
        )
        for turn in sorted(set(holding.plan.station.turns))
    ]
    directions: dict[float, float] = {}
    for case, answer in zip(cases, result.cases, strict=True):
        if case.force_n[0] == 0 and case.force_n[1] == 0:
            continue  # straight down a hole: no direction in the plane
        angle = round(math.degrees(math.atan2(case.force_n[1], case.force_n[0])) % 360, 3) % 360
        directions[angle] = min(directions.get(angle, math.inf), answer.factor)
    verdict = HoldVerdict(
        result=result.model_copy(update={"cases": []}),
        needed=holding.needed,
        preload_low_n=preload.low_n,
        preload_high_n=preload.high_n,
        seating_n=preload.seating_n,
        contacts=worst.contacts(preload.low_n),
        by_direction=[DirectionFactor(angle_deg=angle, factor=factor) for angle, factor in sorted(directions.items())],
        by_turn=by_turn,
        least_torque_nm=None,
        share=share_out(worst.sharing(cases, preload.low_n, preload.high_n)),
    )
    return verdict, worst, [case.factor for case in result.cases]


@dataclass(frozen=True)
class _HeldAs:
    """One part of a station, with its weight in the direction it has there."""

    holding: Holding
    member: Member
    weight_n: Vector

    def at(self, torque_nm: float) -> _HeldAs:
        return replace(self, holding=self.holding.at(torque_nm))

    def contacts(self, preload_n: float) -> list[Contact]:
        held = self.holding
        youngs = held.plan.part.material.youngs_mpa
        return station_contacts(held.station, held.sitting.height_mm, held.plan.station, preload_n, self.member, youngs)

    @property
    def _centre(self) -> Vector:
        middle = self.holding.station.part.centroid
        return middle.x, middle.y, self.holding.sitting.height_mm / 2

    def request(self, loads: list[LoadCase], preload_n: float) -> HoldRequest:
        return HoldRequest(
            contacts=self.contacts(preload_n), weight_n=self.weight_n, centre_of_gravity_mm=self._centre, loads=loads
        )

    def sharing(self, loads: list[LoadCase], low_n: float, high_n: float) -> ShareRequest:
        """The same as it is asked how the forces share themselves out; patches as wide as the high end presses them."""
        material = self.holding.plan.part.material
        wide = {contact.name: contact.area_mm2 for contact in self.contacts(high_n)}
        contacts = [item.model_copy(update={"area_mm2": wide[item.name]}) for item in self.contacts(low_n)]
        return ShareRequest(
            contacts=contacts, weight_n=self.weight_n, centre_of_gravity_mm=self._centre, loads=loads, high=high_n / low_n,
            youngs_mpa=material.youngs_mpa, yield_mpa=material.yield_mpa,
        )  # fmt: skip


def _weight(request: PlanRequest, turn: int, member: Member) -> Vector:
    """The part's weight in its own frame: down on a plate that lies; along an upright face, as the station's turn has it."""
    weight = part_mass_kg(request.part) * _GRAVITY
    if request.block.faces == 1:
        return (0.0, 0.0, -weight)
    sideways = {0: (0.0, -1.0), 90: (-1.0, 0.0), 180: (0.0, 1.0), 270: (1.0, 0.0)}
    x, y = sideways[(turn + (180 if member.half_turn else 0)) % 360]
    return (x * weight, y * weight, 0.0)


def _least_torque(worst: _HeldAs, factors: list[float]) -> float | None:
    """Least torque, to half a newton metre upwards, at which every case holds; None when the screw's rating does not reach.

    By bisection on the cases that were worst, then checked on all of them.
    """
    loads = worst.holding.cases
    few = [loads[index] for index in np.argsort(factors, kind="stable")[:40]]

    def holds(torque: float, cases: list[LoadCase]) -> bool:
        part = worst.at(torque)
        try:
            return hold(part.request(cases, part.holding.preload.low_n)).factor >= worst.holding.needed
        except OutOfRange:  # not seated; or with so little force a part of a row is loose
            return False

    steps = math.floor(_rated(worst.holding) * 2)
    if not holds(steps / 2, few):
        return None
    low, high = 0, steps
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if holds(middle / 2, few) else (middle, high)
    while high <= steps and not holds(high / 2, loads):
        high += 1
    return high / 2 if high <= steps else None


_CURVE_POINTS, _CURVE_CASES = 8, 30


def _curve(worst: _HeldAs, factors: list[float]) -> list[TorquePoint]:
    """Factor and pressure from next to nothing to the screw's rating."""
    few = [worst.holding.cases[index] for index in np.argsort(factors, kind="stable")[:_CURVE_CASES]]
    rated = _rated(worst.holding)
    own = worst.holding.plan.station.clamp.torque_nm
    found = []
    for torque in sorted({round(rated * k / _CURVE_POINTS, 3) for k in range(1, _CURVE_POINTS + 1)} | {own}):
        part = worst.at(torque)
        try:
            preload = part.holding.preload
            factor = hold(part.request(few, preload.low_n)).factor
        except OutOfRange:  # not seated, or a part of a row loose
            factor = 0.0
        found.append(TorquePoint(torque_nm=torque, factor=factor, pressure_share=_pressure(part)))
    return found


def _pressure(part: _HeldAs) -> float:
    """The most that clamping alone, at its high end, presses any contact, over yield; nothing where parts of a row are loose."""
    try:
        high = part.holding.preload.high_n
        found = share_out(part.sharing([], high, high))
    except OutOfRange:
        return 0.0
    return max(item.pressure_share for item in found.contacts)


def _rated(holding: Holding) -> float:
    return SCREWS[holding.plan.station.clamp.screw].rated_torque_nm


def _presses_from(worst: _HeldAs, share: float) -> float | None:
    """Torque, to a tenth of a newton metre, from which clamping alone, at its high end, presses some contact this hard."""

    def presses(torque: float) -> bool:
        return _pressure(worst.at(torque)) >= share

    rated = _rated(worst.holding)
    if not presses(rated):
        return None
    low, high = 0.0, rated
    while high - low > 0.05:
        middle = (low + high) / 2
        low, high = (low, middle) if presses(middle) else (middle, high)
    return math.floor(high * 10) / 10


#: Toothed toe inserts hold raw and cut faces about so well; common practice, from memory.
_TOOTHED = 0.35


def remedies(holding: Holding, least_nm: float | None) -> list[Remedy]:
    """What would make it hold, each solved again: more torque, one more clamp, a double wedge, teeth, a lighter cut; what works first."""
    plan, kind, found = holding.plan, holding.plan.station, []

    def tried(what: str, field: str, value: float, other: PlanRequest, loads: Sequence[CutLoad] | None = None) -> None:
        try:
            station = build_station(holding.sitting, other.op.cuts, other.station)
            factor = quick_hold(Holding(other, station, holding.sitting, loads or holding.loads)).result.factor
        except OutOfRange:
            return
        found.append(Remedy(what=what, field=field, value=value, factor=factor, holds=factor >= holding.needed))

    if least_nm is not None and least_nm > kind.clamp.torque_nm:
        tried(
            f"{least_nm - kind.clamp.torque_nm:.1f} N·m more on the screw",
            "station.clamp.torque_nm",
            least_nm,
            holding.at(least_nm).plan,
        )
    if kind.clamps < 3 and kind.sharing.how in ("a clamp each", "double wedge between two"):
        more = plan.model_copy(update={"station": kind.model_copy(update={"clamps": kind.clamps + 1})})
        tried("one more clamp", "station.clamps", kind.clamps + 1, more)
    if kind.clamp.toe_friction < _TOOTHED:
        clamp = kind.clamp.model_copy(update={"toe_friction": _TOOTHED})
        toothed = plan.model_copy(update={"station": kind.model_copy(update={"clamp": clamp})})
        tried("a toothed toe", "station.clamp.toe_friction", _TOOTHED, toothed)
    worst = quick_hold(holding).result
    index = next((k for k, cut in enumerate(plan.op.cuts) if worst.load.name.startswith(cut.name)), None)
    if index is not None and plan.op.cuts[index].kind not in HOLE_KINDS:
        lighter = _lighter(holding, index)
        if lighter is not None:
            found.append(lighter)
    return sorted(found, key=lambda item: (not item.holds, -item.factor))


def _lighter(holding: Holding, index: int) -> Remedy | None:
    """The deepest share of its depth, in tenths, at which the cut that fails would be held."""
    cut, material = holding.plan.op.cuts[index], holding.plan.part.material
    for share in (0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1):
        less = cut.model_copy(update={"axial_depth_mm": cut.axial_depth_mm * share})
        loads = list(holding.loads)
        try:
            loads[index] = loads[index].model_copy(update={"load": cutting_load(CuttingRequest(material=material, cut=less))})
            factor = quick_hold(replace(holding, loads=loads)).result.factor
        except OutOfRange:
            return None
        if factor >= holding.needed:
            field = f"parts.{holding.plan.planned.part}.ops.{holding.plan.planned.op}.cuts.{index}.axial_depth_mm"
            what = f"{cut.name} {less.axial_depth_mm:.3g} mm deep a pass instead of {cut.axial_depth_mm:g}, more passes"
            return Remedy(what=what, field=field, value=less.axial_depth_mm, factor=factor, holds=True)
    return None
