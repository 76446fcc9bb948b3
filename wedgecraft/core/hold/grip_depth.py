"""How deep a part must sit in the jaws: the least depth at which every cut is held and no face is
crushed.

A part between two parallel jaws, on a parallel under it: a rectangular one, or what jaws touch of
any other. Each jaw touches over its width and the depth gripped; the force of each jaw lands on the
corners of that patch, evenly, as even pressure would. Friction holds against lifting and sliding,
the parallel against pressing. By bisection on depth: deeper always holds better, as the patch's
lever grows, and presses less. The hold itself is ``hold``'s, a clamp on one jaw against a locator
on the other.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.limit import FACTOR_CAP, NotSeated
from wedgecraft.core.records.contact import Contact, Vector
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.vise import GripPoint, GripRequest, GripResult

_STEP_MM = 0.05
Pair = tuple[float, float]


@dataclass(frozen=True)
class Gripped:
    """What jaws and bed touch with so much of the part in the jaws, as contacts; the smaller of
    both jaws' patches, mm2; and where the part's weight lies.
    """

    contacts: Callable[[float], list[Contact]]
    area_mm2: Callable[[float], float]
    centre_mm: Vector


def grip(request: GripRequest, gripped: Gripped | None = None) -> GripResult:
    """Find the least depth, to a twentieth of a millimetre upwards. ``gripped``: of a part that is
    not rectangular, in the frame of the loads. Raises OutOfRange for jaws deeper than the part.
    """
    held = gripped or rectangular(request)
    if request.force_low_n > request.force_high_n:
        raise OutOfRange("force_low_n", request.force_low_n, "at most force_high_n")
    if request.jaw_mm > request.height_mm:
        raise OutOfRange(
            "jaw_mm",
            request.jaw_mm,
            f"at most the part's height, {request.height_mm:g} mm: jaws stand above the part",
        )
    steps = max(1, math.floor(request.jaw_mm / _STEP_MM + 1e-9))
    least_mm2 = request.force_high_n / request.yield_mpa

    def enough(step: int) -> bool:
        return held.area_mm2(step * _STEP_MM) >= least_mm2 * (1 - 1e-9)

    def holds(step: int, asked: GripRequest) -> bool:
        return _ranked(asked, held, step * _STEP_MM, request.needed)[1] >= request.needed

    depths = [request.jaw_mm * (k / 8) ** 2 for k in range(1, 9)]  # closest where it matters
    ranks = [_ranked(request, held, depth) for depth in depths]
    curve = [
        GripPoint(
            depth_mm=depth,
            factor=factor,
            pressure_mpa=request.force_high_n / max(held.area_mm2(depth), 1e-9),
        )
        for depth, (_, factor) in zip(depths, ranks, strict=True)
    ]
    if request.least_mm > request.jaw_mm:
        words = (
            f"the jaws are {request.jaw_mm:g} mm high, the house rule counts no grip under"
            f" {request.least_mm:g} mm: higher jaws"
        )
        return GripResult(
            feasible=False,
            least_mm=None,
            limited_by="not held at any depth",
            sentence=words,
            clears=None,
            curve=curve,
        )
    if not enough(steps):
        most = held.area_mm2(steps * _STEP_MM)
        words = (
            f"even {request.jaw_mm:g} mm of grip is pressed beyond yield: less force, longer jaws,"
            f" or more depth; {most:.0f} mm² are touched, {least_mm2:.0f} mm² are needed"
        )
        return GripResult(
            feasible=False,
            least_mm=None,
            limited_by="crushed at any depth",
            sentence=words,
            clears=None,
            curve=curve,
        )
    deepest = (
        curve[-1].factor
        if steps * _STEP_MM == request.jaw_mm
        else _ranked(request, held, steps * _STEP_MM)[1]
    )
    if deepest < request.needed:
        words = (
            f"even {request.jaw_mm:g} mm of grip holds only {curve[-1].factor:.2f} times the"
            f" cutting force, needs {request.needed:g}"
        )
        return GripResult(
            feasible=False,
            least_mm=None,
            limited_by="not held at any depth",
            sentence=words,
            clears=None,
            curve=curve,
        )
    # Nearly always the worst on the curve decide; the others are only asked whether they agree.
    worst = sorted({k for rank, _ in ranks for k in rank[:_WORST]} or {0})
    few = request.model_copy(update={"loads": [request.loads[k] for k in worst]})
    pressed = _least(0, steps, enough)
    high = _least(0, steps, lambda step: holds(step, few))
    if high < steps and not holds(high, request):
        high = _least(high, steps, lambda step: holds(step, request))
    least = max(high, pressed) * _STEP_MM
    by: Literal["hold", "pressure", "house rule"] = "hold" if high >= pressed else "pressure"
    if least < request.least_mm:
        least, by = request.least_mm, "house rule"
    clears = None if request.lowest_cut_mm is None else request.lowest_cut_mm > least
    words = f"{least:.2f} mm in the jaws, because of {_BECAUSE[by]}"
    if clears is False:
        words += f"; but the lowest cut comes down to {request.lowest_cut_mm:g} mm, into the jaws"
    return GripResult(
        feasible=clears is not False,
        least_mm=least,
        limited_by=by,
        sentence=words,
        clears=clears,
        curve=curve,
    )


_BECAUSE = {
    "hold": "the hold",
    "pressure": "the pressure on the faces",
    "house rule": "the house rule for the least grip that counts",
}


def _least(low: int, high: int, holds: Callable[[int], bool]) -> int:
    """The least step over ``low`` that holds, where ``high`` does: by bisection, as more depth
    holds more.
    """
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high


#: Cases of each point of the curve that are looked at for every depth; the depth found is checked
#: on all.
_WORST = 5


def _ranked(
    request: GripRequest, held: Gripped, depth_mm: float, enough: float = FACTOR_CAP
) -> tuple[list[int], float]:
    """The cases from the worst on, and the worst's factor; none and nothing where the part does not
    even sit.
    """
    asked = HoldRequest.model_construct(
        contacts=held.contacts(depth_mm),
        loads=request.loads,
        weight_n=(0, 0, -request.weight_n),
        centre_of_gravity_mm=held.centre_mm,
    )
    if not any(contact.kind == "clamp" for contact in asked.contacts):
        return [], 0.0
    try:
        cases = hold(asked, enough).cases
    except NotSeated:
        return [], 0.0
    rank = sorted(range(len(cases)), key=lambda k: cases[k].factor)
    return rank, cases[rank[0]].factor


def factor_at(request: GripRequest, depth_mm: float) -> float:
    """The lowest factor of all loads with so much in the jaws; nothing where it does not even
    sit.
    """
    return _ranked(request, rectangular(request), depth_mm)[1]


def rectangular(request: GripRequest) -> Gripped:
    """A block between jaws, standing on all of its floor."""
    width, along = request.width_mm, request.along_mm

    def contacts(depth_mm: float) -> list[Contact]:
        corners = [(y, z) for y in (0.0, along) for z in (0.0, depth_mm)]
        bed = [(x, y) for x in (0.0, width) for y in (0.0, along)]
        return jaw_contacts(request, bed, corners, corners)

    middle = along / 2 if request.centre_mm is None else request.centre_mm
    return Gripped(
        contacts, lambda depth: along * depth, (width / 2, middle, request.height_mm / 2)
    )


def jaw_contacts(
    request: GripRequest, bed: Sequence[Pair], fixed: Sequence[Pair], moving: Sequence[Pair]
) -> list[Contact]:
    """Corners of the bed (x, y) and of what the fixed and the moving jaw touch, as places along the
    jaws and heights.
    """
    found = [
        Contact(
            name=f"bed {x:g} {y:g}",
            kind="locator",
            point_mm=(x, y, 0.0),
            normal=(0, 0, 1),
            friction=request.bed_friction,
        )
        for x, y in bed
    ]
    found += [
        Contact(
            name=f"fixed jaw {y:g} {z:g}",
            kind="locator",
            point_mm=(0.0, y, z),
            normal=(1, 0, 0),
            friction=request.friction,
        )
        for y, z in fixed
    ]
    return found + [
        Contact(
            name=f"moving jaw {y:g} {z:g}",
            kind="clamp",
            point_mm=(request.width_mm, y, z),
            normal=(-1, 0, 0),
            friction=request.friction,
            preload_n=request.force_low_n / len(moving),
        )
        for y, z in moving
    ]
