"""How deep this op's part would have to sit in a vise of the shop: its own cuts, its own weight,
that vise's jaws and force.
"""

from __future__ import annotations

import math

from shapely.geometry import Polygon

from wedgecraft.core.clamping.forces import vise_force_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.ground.units import GRAVITY_M_S2
from wedgecraft.core.hold.grip_depth import grip
from wedgecraft.core.records.clamp import ViseForce
from wedgecraft.core.records.material import HOLDER_YIELD_MPA, TOOTHED_FRICTION
from wedgecraft.core.records.rules import factor_needed
from wedgecraft.core.records.view import views_of
from wedgecraft.core.records.vise import GripRequest, GripResult, InVise, InViseResult, Verdict
from wedgecraft.core.station.contacts import station_loads
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.touch import touch
from wedgecraft.core.workpiece.sitting import sits


def in_vise(asked: InVise) -> InViseResult:
    """Grip depth by the loads of the planned op, as the part lies there. Raises OutOfRange: no
    cuts, jaws too narrow to open, ratings.
    """
    plan, vise = views_of(asked.request)[0], asked.vise
    sitting = sits(plan.part, plan.op, vise.jaw_height_mm)
    if not plan.op.cuts:
        raise OutOfRange("op.cuts", 0, "at least one cut: the grip follows from what the cuts pull")
    width = float(sitting.touching.bounds[2])
    if width > vise.opening_mm:
        raise OutOfRange(
            "vise.opening_mm",
            vise.opening_mm,
            f"at least the part's {width:g} mm across the jaws; turn the part or take a larger"
            " vise",
        )
    force = ViseForce(
        rated_force_n=vise.rated_force_n,
        rated_torque_nm=vise.rated_torque_nm,
        torque_nm=asked.torque_nm,
        scatter=vise.force_scatter,
    )
    low, high = vise_force_n(force)
    loads = cut_loads(plan, sitting)
    cases = [
        case
        for cut, guide, load in zip(sitting.cuts, sitting.guides, loads, strict=True)
        for case in station_loads(sitting, cut, guide, load.load)
    ]
    beside = [cut for cut in plan.op.cuts if not (cut.of.hole or cut.of.facing)]
    lowest = min((sitting.lowest(cut) for cut in beside), default=None)
    needed = factor_needed(plan.rules, plan.op.cuts)
    jaw = min(vise.jaw_height_mm, math.floor(sitting.height_mm * 20) / 20)
    start, end = _between_jaws(sitting.touching, vise.jaw_width_mm)
    along = end - start
    cases = [
        case.model_copy(
            update={"point_mm": (case.point_mm[0], case.point_mm[1] - start, case.point_mm[2])}
        )
        for case in cases
    ]
    friction = TOOTHED_FRICTION if asked.toothed else vise.jaw_friction
    softer = min(plan.part.material.yield_mpa, HOLDER_YIELD_MPA)
    found = grip(
        GripRequest(
            width_mm=width,
            along_mm=along,
            height_mm=sitting.height_mm,
            jaw_mm=jaw,
            force_low_n=low,
            force_high_n=high,
            friction=friction,
            weight_n=sitting.before_kg * GRAVITY_M_S2,
            yield_mpa=softer,
            needed=needed,
            loads=cases,
            lowest_cut_mm=max(lowest, 0.0) if lowest is not None else None,
            least_mm=plan.rules.least_grip_mm,
            centre_mm=sitting.before.centre_mm[1] - start,
        )
    )
    verdict, deeper = _verdict(asked.depth_mm, found.least_mm, jaw)
    return InViseResult(
        verdict=verdict,
        deeper_mm=deeper,
        grip=found,
        torque_nm=asked.torque_nm,
        depth_mm=asked.depth_mm,
        height_mm=sitting.height_mm,
        jaw_mm=jaw,
        force_low_n=low,
        force_high_n=high,
        needed=needed,
        figures=_figures(asked, found, low, high, along, friction, softer),
        cautions=_cautions(asked, any(cut.interrupted for cut in plan.op.cuts)),
    )


def _between_jaws(outline: Polygon, jaw_width_mm: float) -> tuple[float, float]:
    """From where to where along the jaws both touch, the jaws amid what they share. Raises
    OutOfRange: not flat, open, or not opposite.
    """
    spans = []
    for side, words in (("left", "fixed"), ("right", "moving")):
        found = touch(outline, side)  # type: ignore[arg-type]
        if len(found) != 1 or found[0][1] - found[0][0] < _LEAST_TOUCH_MM:
            said = "open in the middle" if len(found) > 1 else "round or pointed"
            raise OutOfRange(
                "op.up",
                f"clamping over a side that is {said} ({words} jaw)",
                "both sides flat over all the jaws hold, which is all that is worked out so far:"
                " turn the part over, or clamp other sides",
            )
        spans.append(found[0])
    low, high = max(low for low, _ in spans), min(high for _, high in spans)
    if high - low < _LEAST_TOUCH_MM:
        raise OutOfRange(
            "op.up",
            "clamping over sides that do not lie opposite",
            "sides that face each other: turn the part over",
        )
    middle, half = (low + high) / 2, min(jaw_width_mm, high - low) / 2
    return middle - half, middle + half


#: Flat for less than this is an edge, which bites or slips.
_LEAST_TOUCH_MM = 1.0


def _verdict(depth: float, least: float | None, jaw: float) -> tuple[Verdict, float]:
    if depth > jaw:
        return "deeper than the jaws", 0.0
    if least is None:
        return "not held", 0.0
    return ("held", 0.0) if depth >= least else ("hold it deeper", least - depth)


def _figures(
    asked: InVise,
    found: GripResult,
    low: float,
    high: float,
    along: float,
    friction: float,
    softer: float,
) -> list[Figure]:
    vise = asked.vise
    force = [
        given("rated force", vise.rated_force_n, "N", "vise maker's figure, as entered"),
        given("handle torque", asked.torque_nm, "N·m", "as set here"),
        given("rated torque", vise.rated_torque_nm, "N·m", "vise maker's figure, as entered"),
        given("scatter", vise.force_scatter, "", "vise of the shop"),
    ]
    figures = [
        Figure(
            id="vise_low",
            label="Jaw force, low end",
            value=low,
            unit="N",
            digits=0,
            formula="rated force x torque / rated torque x (1 - scatter)",
            inputs=force,
            source="proportional to the handle's torque; common practice, no source",
        ),
        Figure(
            id="vise_high",
            label="Jaw force, high end",
            value=high,
            unit="N",
            digits=0,
            formula="rated force x torque / rated torque x (1 + scatter)",
            inputs=force,
            source="proportional to the handle's torque; common practice, no source",
        ),
    ]
    if found.least_mm is not None:
        figures.append(
            Figure(
                id="grip",
                label="Least grip",
                value=found.least_mm,
                unit="mm",
                digits=2,
                formula=(
                    "least depth at which every cut is held and no face yields; by bisection, jaw"
                    " patches growing with the depth"
                ),
                inputs=[
                    given("jaw force, low end", low, "N", "vise"),
                    given("friction at the jaws", friction, "", "vise, or toothed inserts"),
                    given("touching along the jaws", along, "mm", "part and jaw width"),
                    given("yield of the softer", softer, "MPa", "part or jaw"),
                ],
                source="the hold check, one jaw a clamp, the other a locator",
            )
        )
    return figures


def _cautions(asked: InVise, interrupted: bool) -> list[str]:
    found = [
        "Least grip is a bound, not advice: blanks that are out of square, burrs and chips under"
        " the part all take from it."
    ]
    if asked.toothed:
        found.append("Teeth leave marks: only on faces that are cut off later.")
    if interrupted:
        found.append("An interrupted cut hammers the part loose: the house rule for it is used.")
    found.append("Vise within its maker's rating; first article in single block, door shut.")
    return found
