"""How deep this op's part would have to sit in a vise of the shop: its own cuts, its own weight,
that vise's jaws and force.
"""

from __future__ import annotations

import math

import shapely
from shapely.geometry import box

from wedgecraft.core.clamping.forces import vise_force_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.ground.planar import spread_out
from wedgecraft.core.ground.units import GRAVITY_M_S2
from wedgecraft.core.hold.grip_depth import Gripped, grip, jaw_contacts
from wedgecraft.core.records.clamp import ViseForce
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.material import HOLDER_YIELD_MPA, TOOTHED_FRICTION
from wedgecraft.core.records.rules import factor_needed
from wedgecraft.core.records.view import views_of
from wedgecraft.core.records.vise import GripRequest, GripResult, InVise, InViseResult, Verdict
from wedgecraft.core.station.contacts import station_loads
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.patch import EVERYWHERE, LINE_MM, Patch, Side, Span, touched
from wedgecraft.core.workpiece.sitting import Sitting, sits


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
    low_end, high_end = _between_jaws(sitting, vise.jaw_height_mm, vise.jaw_width_mm)
    softer = min(plan.part.material.yield_mpa, HOLDER_YIELD_MPA)
    friction = TOOTHED_FRICTION if asked.toothed else vise.jaw_friction
    request = GripRequest(
        width_mm=width,
        along_mm=high_end - low_end,
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
    )
    held = _gripped(request, sitting, (low_end, high_end), plan.part.material.youngs_mpa)
    found = grip(request, held)
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
        figures=_figures(asked, found, low, high, held.area_mm2(jaw) / jaw, friction, softer),
        cautions=_cautions(asked, any(cut.interrupted for cut in plan.op.cuts)),
    )


def _between_jaws(sitting: Sitting, reach_mm: float, jaw_width_mm: float) -> Span:
    """From where to where the jaws stand along the part, amid what both touch. Raises OutOfRange
    where they touch nothing that lies opposite.
    """
    high = min(reach_mm, sitting.height_mm)
    width = float(sitting.touching.bounds[2])
    spans = []
    for side, at in _jaws(width):
        found = touched(sitting.before, side, at, EVERYWHERE, (0.0, high))
        if found is None:
            raise OutOfRange(
                "vise.jaw_height_mm",
                reach_mm,
                "higher jaws, or another side up: one of them touches nothing of the part",
            )
        spans.append(found.along)
    first, last = max(low for low, _ in spans), min(high for _, high in spans)
    if first - last > LINE_MM:
        raise OutOfRange(
            "op.up",
            "clamping over sides that do not lie opposite",
            "sides that face each other: turn the part over",
        )
    middle = (first + last) / 2
    return middle - jaw_width_mm / 2, middle + jaw_width_mm / 2


def _jaws(width_mm: float) -> tuple[tuple[Side, float], tuple[Side, float]]:
    return ("left", 0.0), ("right", width_mm)


def _gripped(request: GripRequest, sitting: Sitting, along: Span, youngs_mpa: float) -> Gripped:
    """What the jaws touch of the workpiece, as wide as they are, with so much of it in them; it
    stands on what of its floor lies between their ends.
    """
    known: dict[float, tuple[Patch | None, Patch | None]] = {}

    def patches(depth_mm: float) -> tuple[Patch | None, Patch | None]:
        if depth_mm not in known:
            fixed, moving = (
                touched(sitting.before, side, at, along, (0.0, depth_mm))
                for side, at in _jaws(request.width_mm)
            )
            known[depth_mm] = fixed, moving
        return known[depth_mm]

    x0, _, x1, _ = sitting.floor.bounds
    stands = sitting.floor.intersection(box(x0, along[0], x1, along[1]))
    hull = shapely.get_coordinates((stands if stands.area else sitting.floor).convex_hull)
    bed = [(float(x), float(y)) for x, y in hull[spread_out(hull)]]

    def contacts(depth_mm: float) -> list[Contact]:
        fixed, moving = patches(depth_mm)
        if fixed is None or moving is None:
            return []
        return jaw_contacts(request, bed, fixed.corners, moving.corners)

    def area(depth_mm: float) -> float:
        return min(
            0.0 if patch is None else patch.pressed_mm2(request.force_high_n, youngs_mpa)
            for patch in patches(depth_mm)
        )

    return Gripped(contacts, area, sitting.before.centre_mm)


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
