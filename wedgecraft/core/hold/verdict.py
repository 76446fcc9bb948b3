"""How the parts of a station are held at the torque set: the worst part in the worst direction of
its weight.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from wedgecraft.core.ground.units import GRAVITY_M_S2
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.share_out import share_out
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.hold import (
    DirectionFactor,
    HoldRequest,
    HoldResult,
    HoldVerdict,
    TurnFactor,
)
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.rules import factor_needed
from wedgecraft.core.records.screw import Preload, at_torque
from wedgecraft.core.records.share import ShareRequest, ShareResult
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.contacts import station_contacts, station_loads
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.workpiece.sitting import Sitting

Vector = tuple[float, float, float]
#: Weight that is this small a share of what presses does not change how a part is held.
_COUNTS = 0.002


@dataclass(frozen=True)
class Holding:
    """What a verdict on hold is worked out from: one op's station, how the part sits, and what its
    cuts ask.
    """

    plan: OpView
    station: Station
    sitting: Sitting
    loads: Sequence[CutLoad]

    def at(self, torque_nm: float) -> Holding:
        """The same at another torque."""
        kind = self.plan.station
        station = kind.model_copy(update={"clamp": at_torque(kind.clamp, torque_nm)})
        return replace(self, plan=replace(self.plan, station=station))

    @cached_property
    def cases(self) -> list[LoadCase]:
        return [
            case
            for cut, guide, load in zip(
                self.sitting.cuts, self.sitting.guides, self.loads, strict=True
            )
            for case in station_loads(self.sitting, cut, guide, load.load)
        ]

    @cached_property
    def preload(self) -> Preload:
        """What each part gets. Raises OutOfRange."""
        return preload_of(self.plan, self.sitting, self.station)

    @property
    def driven(self) -> bool:
        """Whether a screw presses, so that there is a torque to choose."""
        return self.plan.station.element.driven

    @property
    def rated_nm(self) -> float:
        """Of the clamp's screw, or a handle."""
        return self.plan.station.element.rated_nm(self.plan.station.clamp)

    @property
    def needed(self) -> float:
        """The factor the house asks for."""
        return factor_needed(self.plan.rules, self.plan.op.cuts)

    @cached_property
    def weakest(self) -> Weakest:
        """The part held worst; of one whose cuts are done no case is looked at farther than it was
        held before. Raises OutOfRange, NotSeated.
        """
        return _weakest(self)

    @cached_property
    def weakest_exactly(self) -> Weakest:
        """The same, every case as far as it goes."""
        found = self.weakest
        if not found.part.done:
            return found
        result = hold(found.part.request(self.cases, self.preload.low_n))
        return replace(found, result=result)

    @cached_property
    def judged(self) -> HoldVerdict:
        """The verdict at this torque."""
        return _judged(self, self.weakest)

    @cached_property
    def judged_exactly(self) -> HoldVerdict:
        """The same, every case as far as it goes."""
        return _judged(self, self.weakest_exactly) if self.weakest.part.done else self.judged

    def parts(self) -> dict[tuple[object, tuple[object, ...]], HeldAs]:
        """Parts that are held differently, by where they are pressed and how their weight hangs; as
        they are put in, and where that differs as they are when the cuts are done.
        """
        turns = self.plan.station.turns
        found: dict[tuple[object, tuple[object, ...]], HeldAs] = {
            (member.presses, weight): HeldAs(self, member, weight)
            for member in self.station.members
            for weight in (_weight(self, turn, member) for turn in turns)
        }
        if not self._lighter_counts:
            return found
        share = self.sitting.after_kg / self.sitting.before_kg
        lighter = {
            (presses, (*weight, "done")): item.when_done(share)
            for (presses, weight), item in found.items()
        }
        return found | lighter

    @cached_property
    def _lighter_counts(self) -> bool:
        """Whether it has to be looked at again when its cuts are done: standing on less, or so
        heavy against its clamping that what was cut off counts.
        """
        sitting = self.sitting
        if not self.plan.op.cuts or sitting.after.empty:
            return False
        lost = (sitting.before_kg - sitting.after_kg) * GRAVITY_M_S2
        return lost > _COUNTS * self.preload.low_n or sitting.comes_out_different


def quick_hold(holding: Holding) -> HoldVerdict:
    """Factor and share-out at this torque, without anything that is searched for. Raises
    OutOfRange, NotSeated.
    """
    return holding.judged


def _shared(
    worst: HeldAs, cases: Sequence[LoadCase], result: HoldResult, preload: Preload
) -> ShareResult:
    """How contacts share the load in the cases that do not move the part: under the others it never
    comes to rest.
    """
    rest = [case for case, item in zip(cases, result.cases, strict=True) if item.factor >= 1]
    share = share_out(worst.sharing(rest, preload.low_n, preload.high_n))
    return share if len(rest) == len(cases) else share.model_copy(update={"settled": False})


@dataclass(frozen=True)
class Weakest:
    """The part of a station that is held worst, at the low end of the preload; ``by_part``: how all
    of them are held.
    """

    part: HeldAs
    result: HoldResult
    by_part: dict[tuple[object, tuple[object, ...]], HoldResult]

    @property
    def factors(self) -> list[float]:
        """Of each case."""
        return [case.factor for case in self.result.cases]


def _weakest(holding: Holding) -> Weakest:
    cases, preload, asked = holding.cases, holding.preload, holding.parts()
    answers: dict[tuple[object, tuple[object, ...]], HoldResult] = {}
    for key, item in asked.items():
        request = item.request(cases, preload.low_n)
        # when its cuts are done only as far as that is worse than as it was put in
        answers[key] = (
            hold(request, answers[key[0], key[1][:3]].factor) if item.done else hold(request)
        )
    worst_key = min(answers, key=lambda key: answers[key].factor)
    return Weakest(asked[worst_key], answers[worst_key], answers)


def _judged(holding: Holding, found: Weakest) -> HoldVerdict:
    cases, preload, station = holding.cases, holding.preload, holding.station
    worst, result, answers = found.part, found.result, found.by_part
    by_turn = [
        TurnFactor(
            turn=turn,
            factor=min(
                answer.factor
                for member in station.members
                for (presses, weight), answer in answers.items()
                if presses == member.presses and weight[:3] in (_weight(holding, turn, member),)
            ),
        )
        for turn in sorted(set(holding.plan.station.turns))
    ]
    directions: dict[float, float] = {}
    for case, answer in zip(cases, result.cases, strict=True):
        if case.force_n[0] == 0 and case.force_n[1] == 0:
            continue  # straight down a hole: no direction in the plane
        angle = round(math.degrees(math.atan2(case.force_n[1], case.force_n[0])) % 360, 3) % 360
        directions[angle] = min(directions.get(angle, math.inf), answer.factor)
    return HoldVerdict(
        result=result.model_copy(update={"cases": []}),
        needed=holding.needed,
        preload_low_n=preload.low_n,
        preload_high_n=preload.high_n,
        seating_n=preload.seating_n,
        contacts=worst.contacts(preload.low_n),
        by_direction=[
            DirectionFactor(angle_deg=angle, factor=factor)
            for angle, factor in sorted(directions.items())
        ],
        by_turn=by_turn,
        least_torque_nm=None,
        share=_shared(worst, cases, result, preload),
        indexing=_indexing(holding, preload.low_n),
        torque=holding.driven,
    )


@dataclass(frozen=True)
class HeldAs:
    """One part of a station, with its weight in the direction it has there."""

    holding: Holding
    member: Member
    weight_n: Vector
    done: bool = False

    def when_done(self, share: float) -> HeldAs:
        """The same when its cuts are done, so much of its weight left."""
        x, y, z = self.weight_n
        return replace(self, done=True, weight_n=(x * share, y * share, z * share))

    def at(self, torque_nm: float) -> HeldAs:
        return replace(self, holding=self.holding.at(torque_nm))

    def contacts(self, preload_n: float) -> list[Contact]:
        held = self.holding
        youngs = held.plan.part.material.youngs_mpa
        return station_contacts(
            held.station, held.sitting, held.plan.station, preload_n, self.member, youngs, self.done
        )

    @property
    def centre(self) -> Vector:
        sitting = self.holding.sitting
        return (sitting.after if self.done else sitting.before).centre_mm

    def request(self, loads: list[LoadCase], preload_n: float) -> HoldRequest:
        return HoldRequest(
            contacts=self.contacts(preload_n),
            weight_n=self.weight_n,
            centre_of_gravity_mm=self.centre,
            loads=loads,
        )

    def sharing(self, loads: list[LoadCase], low_n: float, high_n: float) -> ShareRequest:
        """The same as it is asked how the forces share themselves out; patches as wide as the high
        end presses them.
        """
        material = self.holding.plan.part.material
        wide = {contact.name: contact.area_mm2 for contact in self.contacts(high_n)}
        contacts = [
            item.model_copy(update={"area_mm2": wide[item.name]}) for item in self.contacts(low_n)
        ]
        return ShareRequest(
            contacts=contacts,
            weight_n=self.weight_n,
            centre_of_gravity_mm=self.centre,
            loads=loads,
            high=high_n / low_n,
            youngs_mpa=material.youngs_mpa,
            yield_mpa=material.yield_mpa,
        )


def _indexing(holding: Holding, preload_n: float) -> float | None:
    """Times its weight that every part is held while a bar turns it about, in 16 directions;
    nothing where nothing turns it.

    The bar lies along the plate's width, so along a part that is not turned or turned half round,
    across one turned by a quarter.
    """
    block = holding.plan.block
    if block.faces == 1 or block.axis == "upright":
        return None
    weight, lowest = holding.sitting.before_kg * GRAVITY_M_S2, math.inf
    for member in holding.station.members:
        for across in {turn % 180 for turn in holding.plan.station.turns}:
            held = HeldAs(holding, member, (0.0, 0.0, 0.0))
            hangs = []
            for step in range(16):
                angle = math.tau * step / 16
                side, up = weight * math.cos(angle), weight * math.sin(angle)
                force = (side, 0.0, up) if across else (0.0, side, up)
                hangs.append(
                    LoadCase(
                        name=f"its weight, turned {360 * step / 16:g}°",
                        point_mm=held.centre,
                        force_n=force,
                    )
                )
            lowest = min(lowest, hold(held.request(hangs, preload_n)).factor)
    return lowest


def _weight(holding: Holding, turn: int, member: Member) -> Vector:
    """The part's weight in its own frame: down on a plate that lies, also on a bar; along a
    tombstone's face, as the turn has it.
    """
    weight, block = holding.sitting.before_kg * GRAVITY_M_S2, holding.plan.block
    if block.faces == 1 or block.axis == "lying":
        return (0.0, 0.0, -weight)
    sideways = {0: (0.0, -1.0), 90: (-1.0, 0.0), 180: (0.0, 1.0), 270: (1.0, 0.0)}
    x, y = sideways[(turn + (180 if member.half_turn else 0)) % 360]
    return (x * weight, y * weight, 0.0)
