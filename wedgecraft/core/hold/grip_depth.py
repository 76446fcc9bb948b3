"""How deep a part must sit in the jaws: the least depth at which every cut is held and no face is
crushed.

A rectangular part between two parallel jaws, on a parallel under it. Each jaw touches over its
width and the depth gripped; the force of each jaw lands on the corners of that patch, half at the
top and half at the bottom, as an even pressure would. Friction holds against lifting and sliding,
the parallel against pressing. By bisection on depth: deeper always holds better, as the patch's
lever grows, and presses less. The hold itself is ``hold``'s, a clamp on one jaw against a locator
on the other.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.hold import HoldRequest, HoldResult
from wedgecraft.core.records.vise import GripPoint, GripRequest, GripResult

_STEP_MM = 0.05


def grip(request: GripRequest) -> GripResult:
    """Find the least depth, to a twentieth of a millimetre upwards. Raises OutOfRange for jaws
    deeper than the part.
    """
    if request.force_low_n > request.force_high_n:
        raise OutOfRange("force_low_n", request.force_low_n, "at most force_high_n")
    if request.jaw_mm > request.height_mm:
        raise OutOfRange(
            "jaw_mm",
            request.jaw_mm,
            f"at most the part's height, {request.height_mm:g} mm: jaws stand above the part",
        )
    steps = max(1, math.floor(request.jaw_mm / _STEP_MM + 1e-9))
    crush = request.force_high_n / (request.along_mm * request.yield_mpa)
    pressed = math.ceil(crush / _STEP_MM - 1e-9)

    def holds(step: int, asked: GripRequest) -> bool:
        return factor_at(asked, step * _STEP_MM) >= request.needed

    depths = [request.jaw_mm * (k / 8) ** 2 for k in range(1, 9)]  # closest where it matters
    ranks = [_ranked(request, depth) for depth in depths]
    curve = [
        GripPoint(
            depth_mm=depth,
            factor=factor,
            pressure_mpa=request.force_high_n / (request.along_mm * depth),
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
    if pressed > steps:
        words = (
            f"even {request.jaw_mm:g} mm of grip is pressed beyond yield: less force, longer jaws,"
            f" or {crush:.1f} mm of depth"
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
        else factor_at(request, steps * _STEP_MM)
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


def _ranked(request: GripRequest, depth_mm: float) -> tuple[list[int], float]:
    """The cases from the worst on, and the worst's factor; none and nothing where the part does not
    even sit.
    """
    try:
        cases = _held(request, depth_mm).cases
    except NotSeated:
        return [], 0.0
    rank = sorted(range(len(cases)), key=lambda k: cases[k].factor)
    return rank, cases[rank[0]].factor


def factor_at(request: GripRequest, depth_mm: float) -> float:
    """The lowest factor of all loads with so much in the jaws; nothing where it does not even
    sit.
    """
    return _ranked(request, depth_mm)[1]


def _held(request: GripRequest, depth_mm: float) -> HoldResult:
    return hold(
        HoldRequest(
            contacts=grip_contacts(request, depth_mm),
            loads=request.loads,
            weight_n=(0, 0, -request.weight_n),
            centre_of_gravity_mm=(
                request.width_mm / 2,
                request.along_mm / 2 if request.centre_mm is None else request.centre_mm,
                request.height_mm / 2,
            ),
        )
    )


def grip_contacts(request: GripRequest, depth_mm: float) -> list[Contact]:
    """Corners of both jaws' patches, and of the parallel under the part."""
    found = []
    for x in (0.0, request.width_mm):
        for y in (0.0, request.along_mm):
            bed = (x, y, 0.0)
            found.append(
                Contact(
                    name=f"bed {x:g} {y:g}",
                    kind="locator",
                    point_mm=bed,
                    normal=(0, 0, 1),
                    friction=request.bed_friction,
                )
            )
    for y in (0.0, request.along_mm):
        for z in (0.0, depth_mm):
            fixed, moving = (0.0, y, z), (request.width_mm, y, z)
            found.append(
                Contact(
                    name=f"fixed jaw {y:g} {z:g}",
                    kind="locator",
                    point_mm=fixed,
                    normal=(1, 0, 0),
                    friction=request.friction,
                )
            )
            found.append(
                Contact(
                    name=f"moving jaw {y:g} {z:g}",
                    kind="clamp",
                    point_mm=moving,
                    normal=(-1, 0, 0),
                    friction=request.friction,
                    preload_n=request.force_low_n / 4,
                )
            )
    return found
