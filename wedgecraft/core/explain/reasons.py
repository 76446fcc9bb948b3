"""Why there is no design: which field, what, why, and the nearest thing that works."""

from __future__ import annotations

import math
from collections.abc import Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.field_words import worded
from wedgecraft.core.layout.check import Fault
from wedgecraft.core.locate.chain import Check
from wedgecraft.core.locate.standing import Locating
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.machine import spindle_at
from wedgecraft.core.records.plan import CutLoad, Reason
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import OpView, op_path


def no_cuts(view: OpView) -> Reason:
    return Reason(
        field=f"{op_path(view)}.cuts",
        what=f"op {view.op.number} has no cuts yet",
        why="the load on the part and the room the cutter takes come from the cuts",
        nearest="enter at least the heaviest cut of the op",
    )


def out_of_range(request: PlanRequest, view: OpView, error: OutOfRange) -> Reason:
    """A value the engine refused of one of the ops."""
    field = error.field
    if field.startswith("cuts."):
        field = f"{op_path(view)}.{field}"
    what, why, nearest = worded(OutOfRange(field, error.value, error.allowed), request)
    return Reason(field=field, what=what, why=why, nearest=nearest)


def of_hold(view: OpView, verdict: HoldVerdict) -> list[Reason]:
    result = verdict.result
    turning = verdict.indexing is not None and verdict.indexing < verdict.needed
    if result.factor >= verdict.needed and turning:
        return [
            Reason(
                field="station.clamp.torque_nm",
                what=(
                    f"the part is not held while the bar indexes: {verdict.indexing:.2f} times its"
                    " weight"
                ),
                why=(
                    f"it hangs every way then, and the house rule asks for {verdict.needed:g} times"
                ),
                nearest="more torque, or one more clamp",
            )
        ]
    if result.factor >= verdict.needed:
        return []
    if not verdict.torque:
        return [
            Reason(
                field="station.element.low_kpa",
                what=f"the part is not held: factor {result.factor:.2f}, needs {verdict.needed:g}",
                why=(
                    f"{result.sentence}, held down with {verdict.preload_low_n:.0f} N by the vacuum"
                ),
                nearest="more area inside the seal, better vacuum, higher stops, or a lighter cut",
            )
        ]
    rated = view.station.element.rated_nm(view.station.clamp)
    nearest = (
        f"it holds from {verdict.least_torque_nm:g} N·m"
        if verdict.least_torque_nm is not None
        else (
            (
                f"not even the screw's rated {rated:g} N·m is enough: a larger screw, one more"
                " clamp, or a lighter cut"
            )
            if view.station.element.drive == "screw"
            else (
                f"not even the vise's rated {rated:g} N·m is enough: more of the part between the"
                " jaws, a stronger vise, or a lighter cut"
            )
        )
    )
    return [
        Reason(
            field="station.clamp.torque_nm",
            what=f"the part is not held: factor {result.factor:.2f}, needs {verdict.needed:g}",
            why=(
                f"{result.sentence}, with {view.station.clamp.torque_nm:g} N·m on the"
                f" {'clamp screw' if view.station.element.drive == 'screw' else 'handle'}"
            ),
            nearest=nearest,
        )
    ]


def of_grip(view: OpView) -> list[Reason]:
    """A part that sits less deep between jaws than the house counts."""
    depth, least = view.station.stops.height_mm, view.rules.least_grip_mm
    if view.station.element.flat_mm is None or depth >= least:
        return []
    return [
        Reason(
            field="station.stops.height_mm",
            what=f"only {depth:g} mm of the part are between the jaws",
            why=f"the house rule counts no grip under {least:g} mm",
            nearest=f"{least:g} mm, or the house rule for the least grip",
        )
    ]


def of_spindle(view: OpView, loads: list[CutLoad]) -> list[Reason]:
    """Cuts the spindle cannot drive, each named."""
    machine, found = view.machine, []
    for index, (cut, answer) in enumerate(zip(view.op.cuts, loads, strict=True)):
        field = f"{op_path(view)}.cuts.{index}"
        torque, power = spindle_at(machine, cut.spindle_rpm)
        at = f"at {cut.spindle_rpm:g} 1/min"
        if cut.spindle_rpm > machine.spindle_rpm:
            found.append(
                Reason(
                    field=f"{field}.spindle_rpm",
                    what=f"{cut.name} asks for {cut.spindle_rpm:g} 1/min",
                    why=f"the spindle turns at most {machine.spindle_rpm:g} 1/min",
                    nearest=f"{machine.spindle_rpm:g} 1/min, or another machine",
                )
            )
        if answer.load.mean_power_w / 1000 > power:
            found.append(
                Reason(
                    field=field,
                    what=f"{cut.name} takes {answer.load.mean_power_w / 1000:.2f} kW",
                    why=f"the spindle has {power:.3g} kW {at}",
                    nearest=(
                        f"the same cut at {100 * power * 1000 / answer.load.mean_power_w:.0f} % of"
                        " its width or depth"
                    ),
                )
            )
        if answer.load.peak_torque_nm > torque:
            found.append(
                Reason(
                    field=field,
                    what=f"{cut.name} takes {answer.load.peak_torque_nm:.1f} N·m",
                    why=f"the spindle has {torque:.3g} N·m {at}",
                    nearest="less depth, a smaller cutter, or a gear with more torque",
                )
            )
    return found


def of_tolerance(view: OpView, locating: Locating) -> list[Reason]:
    """Features that not even a station where they use least could meet; what the machine itself
    cannot hold is said first.
    """
    first: list[Reason] = []
    found: list[Reason] = []
    said: set[str] = set()
    for check in locating.checks:
        if check.problem or check.feature.name in said:
            continue
        least = min(_least(locating, check, turn) for turn in view.station.turns)
        if least <= check.limit_mm * (1 + 1e-9):
            continue
        said.add(check.feature.name)
        feature, zone = check.feature, check.feature.tolerance_mm
        needs = least * zone / check.limit_mm
        number = view.part.features.index(feature)
        field = f"parts.{view.planned.part}.features.{number}.tolerance_mm"
        alone = (
            view.machine.positioning_mm
            * (2 * math.sqrt(2) if check.way is None else 1)
            * zone
            / check.limit_mm
        )
        least_zone = f"at least {math.ceil(needs * 1000) / 1000:.3f} mm"
        if alone > zone:
            what = f"{feature.name} within {zone:g} mm is less than the machine itself is good for"
            why = (
                f"its positioning alone, ±{view.machine.positioning_mm:g} mm, takes {alone:.4f}"
                " mm, wherever the part stands"
            )
            nearest = f"another machine, a process that measures and corrects, or {least_zone}"
        else:
            what = f"no station can meet {feature.name} within {zone:g} mm"
            why = (
                f"even where it uses least it takes {needs:.4f} mm"
                f" ({view.rules.tolerance_rule}), {check.said}"
            )
            nearest = f"{least_zone}, or what step 6 names to bring it in"
        (first if alone > zone else found).append(
            Reason(field=field, what=what, why=why, nearest=nearest)
        )
    return first + found


def _least(locating: Locating, check: Check, turn: int) -> float:
    """What a check uses at the place where it uses least, mm of its limit."""
    best = locating.least_place(check, [turn])
    return float(locating.shares_at(check, best[None, :], turn)[0]) * check.limit_mm


def of_table_load(request: PlanRequest, bare_kg: float, set_kg: float) -> list[Reason]:
    """Too heavy with the least that makes sense on it: one station, or one complete set."""
    total, carries = bare_kg + set_kg, request.machine.table_load_kg
    if total <= carries:
        return []
    what = "block" if request.block.faces > 1 else "plate"
    return [
        Reason(
            field="machine.table_load_kg",
            what=(
                f"the {what} with one {'set of stations' if request.also else 'station'} weighs"
                f" {total:.1f} kg"
            ),
            why=f"the table carries {carries:g} kg",
            nearest=f"a {what} at most {max(0.0, carries - set_kg):.1f} kg heavy",
        )
    ]


def of_standing(
    request: PlanRequest, placements: Sequence[Placement], wrong: Sequence[Fault]
) -> list[Reason]:
    """What is wrong with stations where a person placed them, each once."""
    found = []
    for fault in wrong:
        if fault.other is not None and fault.other > fault.station:
            continue  # told of the other one
        name, place = f"station {fault.station + 1}", fault.nearest_mm
        says = (
            fault.says
            if fault.other is None
            else fault.says.replace("another", f"station {fault.other + 1}")
        )
        nearest = "another turn, or fewer stations round it"
        if place is not None:
            at = placements[fault.station]
            away = math.hypot(place[0] - at.x_mm, place[1] - at.y_mm)
            nearest = f"X{place[0]:.2f} Y{place[1]:.2f}, {away:.2f} mm away"
        gap = request.station.clearance_mm
        why = (
            f"bodies keep {gap:g} mm apart, and off what cutter and wrench need"
            if fault.other is not None
            else "it would not stand clear there"
        )
        found.append(
            Reason(
                field=f"arrangement.stations.{fault.station}",
                what=f"{name} {says}",
                why=why,
                nearest=nearest,
            )
        )
    return found


def out_of_tolerance(station: PlacedStation) -> Reason:
    """A station a person placed where a feature uses more than its tolerance."""
    return Reason(
        field=f"arrangement.stations.{station.number - 1}",
        what=(
            f"station {station.number} would not hold {station.feature}:"
            f" {100 * station.tolerance_share:.0f} % of its tolerance"
        ),
        why=(
            "its place, with what is measured and known of it, adds up to more than the drawing"
            " allows"
        ),
        nearest="nearer the datum, or what step 6 names to bring it in",
    )


def of_count(request: PlanRequest, count: int, bare_kg: float, stations_kg: float) -> list[Reason]:
    """Whether a layout of so many stations a person placed is one at all, and not too heavy."""
    if count == 0:
        why = "the layout is your own and empty"
        return [
            Reason(
                field="arrangement",
                what="no station is placed",
                why=why,
                nearest="add a station, or plan anew",
            )
        ]
    load, weight = request.machine.table_load_kg, bare_kg + stations_kg
    if weight <= load:
        return []
    most = max(0, math.floor((load - bare_kg) / (stations_kg / count) + 1e-9))
    return [
        Reason(
            field="arrangement",
            what=f"the plate with {count} stations weighs {weight:.1f} kg",
            why=f"the table carries {load:g} kg",
            nearest=f"at most {most} stations",
        )
    ]


def not_seated() -> Reason:
    return Reason(
        field="station.stops.length_mm",
        what="clamping alone already moves the part",
        why=(
            "the clamps do not press it squarely against the long stop, so it turns or slides off"
            " before any cutting"
        ),
        nearest=(
            "longer stops, another side of the part against them, or clamps on both sides of the"
            " middle"
        ),
    )


def no_room(hindered: str) -> Reason:
    return Reason(
        field="plate",
        what="no station fits on the plate",
        why=hindered,
        nearest="a larger plate, a slimmer clamp, fewer keep-outs, or another datum",
    )
