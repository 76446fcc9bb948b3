"""The window of torque in which a part is held and not marked, with what gives, how it comes out,
and what would help.
"""

from __future__ import annotations

import math

import numpy as np

from wedgecraft.core.clamping.pressure import SINKS_IN
from wedgecraft.core.clamping.sharing import row_share
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.clamped_section import section_gives, too_squeezed
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.hold.remedies import remedies
from wedgecraft.core.hold.share_out import share_out
from wedgecraft.core.hold.station_deflection import gives
from wedgecraft.core.hold.verdict import HeldAs, Holding
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.hold import HoldVerdict, TorquePoint
from wedgecraft.core.station.preload import blanks_of, row_places
from wedgecraft.core.station.release import release


def full_hold(holding: Holding) -> HoldVerdict:
    """The whole verdict: quick, with the window of torque and, where it does not hold, what would
    help.
    """
    quick, found = holding.judged_exactly, holding.weakest_exactly
    worst, factors = found.part, found.factors
    kind, row, least = holding.plan.station, None, None
    window: dict[str, object] = {}
    if holding.driven:
        least = _least_torque(worst, factors)
        window = {
            "least_torque_nm": least,
            "marks_from_nm": _presses_from(worst, 1.0),
            "sinks_from_nm": _presses_from(worst, SINKS_IN),
            "curve": _curve(worst, factors),
        }
    share = quick.share
    moves, under = (share.moves_mm, share.moves_under) if share else (0.0, "")
    if kind.sharing.how == "row between jaws":
        whole = kind.element.preload(kind.clamp)
        places, screw = row_places(holding.sitting, kind, holding.station)
        row = row_share(
            kind.sharing, blanks_of(holding.plan, holding.sitting), places, whole.low_n, screw
        )
    section, bores = section_gives(
        holding.plan, holding.sitting, holding.station, holding.preload.high_n
    )
    own = gives(holding.plan, holding.sitting, holding.station, list(holding.loads), moves, under)
    return quick.model_copy(
        update=window
        | {
            "row": row,
            "gives": [*own, *section],
            "squeezed": bores,
            "cautions": [
                *([kind.element.caution] if kind.element.caution else []),
                *too_squeezed(bores, kind.clamp.torque_nm if holding.driven else None),
            ],
            "release": release(holding.plan, holding.sitting),
            "remedies": remedies(holding, least) if quick.result.factor < quick.needed else [],
        }
    )


def least_torque_of(holding: Holding) -> float | None:
    """Least torque that holds every case, to half a newton metre; nothing when the rating does not
    reach. Raises OutOfRange.
    """
    try:
        found = holding.weakest_exactly
    except NotSeated:
        return None
    return _least_torque(found.part, found.factors)


def marks_from(holding: Holding) -> float | None:
    """Torque from which clamping alone marks the part; nothing where the rating does not get there.
    Raises OutOfRange.
    """
    return _presses_from(holding.weakest_exactly.part, 1.0)


def sinks_from(holding: Holding) -> float | None:
    """The same from which it sinks into the part."""
    return _presses_from(holding.weakest_exactly.part, SINKS_IN)


def _least_torque(worst: HeldAs, factors: list[float]) -> float | None:
    """Least torque, to half a newton metre upwards, at which every case holds; None when the
    screw's rating does not reach.

    By bisection on the cases that were worst, then checked on all of them.
    """
    loads = worst.holding.cases
    few = [loads[index] for index in np.argsort(factors, kind="stable")[:40]]

    def holds(torque: float, cases: list[LoadCase]) -> bool:
        part, needed = worst.at(torque), worst.holding.needed
        try:
            return hold(part.request(cases, part.holding.preload.low_n), needed).factor >= needed
        except OutOfRange:  # not seated; or with so little force a part of a row is loose
            return False

    steps = math.floor(worst.holding.rated_nm * 2)
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


def _curve(worst: HeldAs, factors: list[float]) -> list[TorquePoint]:
    """Factor and pressure from next to nothing to the screw's rating."""
    few = [
        worst.holding.cases[index] for index in np.argsort(factors, kind="stable")[:_CURVE_CASES]
    ]
    rated = worst.holding.rated_nm
    own = worst.holding.plan.station.clamp.torque_nm
    found = []
    for torque in sorted(
        {round(rated * k / _CURVE_POINTS, 3) for k in range(1, _CURVE_POINTS + 1)} | {own}
    ):
        part = worst.at(torque)
        try:
            preload = part.holding.preload
            factor = hold(part.request(few, preload.low_n)).factor
        except OutOfRange:  # not seated, or a part of a row loose
            factor = 0.0
        found.append(TorquePoint(torque_nm=torque, factor=factor, pressure_share=_pressure(part)))
    return found


def _pressure(part: HeldAs) -> float:
    """The most that clamping alone, at its high end, presses any contact, over yield; nothing where
    parts of a row are loose.
    """
    try:
        high = part.holding.preload.high_n
        found = share_out(part.sharing([], high, high))
    except OutOfRange:
        return 0.0
    return max(item.pressure_share for item in found.contacts)


def _presses_from(worst: HeldAs, share: float) -> float | None:
    """Torque, to a tenth of a newton metre, from which clamping alone, at its high end, presses
    some contact this hard.
    """

    def presses(torque: float) -> bool:
        return _pressure(worst.at(torque)) >= share

    rated = worst.holding.rated_nm
    if not presses(rated):
        return None
    low, high = 0.0, rated
    while high - low > 0.05:
        middle = (low + high) / 2
        low, high = (low, middle) if presses(middle) else (middle, high)
    return math.floor(high * 10) / 10
