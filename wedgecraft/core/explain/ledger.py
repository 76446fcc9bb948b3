"""The limits of a design, judged."""

from __future__ import annotations

import math
from typing import Literal, get_args

from wedgecraft.core.clamping.pressure import SINKS_IN
from wedgecraft.core.explain.facts import Facts, Worked
from wedgecraft.core.explain.figures import BUILDER
from wedgecraft.core.explain.hold import squeezed_most
from wedgecraft.core.ground.limits import Figure, Limit, SetBy, given, limit
from wedgecraft.core.records.machine import offsets_free, spindle_at
from wedgecraft.core.records.material import HOLDER_YIELD_MPA
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import HouseRules

_STRATEGIES = get_args(HouseRules.model_fields["datum"].annotation)


def ledger(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """Limits: what keeps one more part out first, then the tightest."""
    request, machine = facts.request, facts.request.machine
    one_more = sum(
        math.ceil(each / len(item.ready.station.members)) * item.ready.masses.station_kg
        for item, each in zip(facts.kinds, request.per_set, strict=True)
    )
    full_table = story["load"].value + one_more > machine.table_load_kg
    one_more_parts = sum(request.per_set)
    full_offsets = (
        request.rules.datum == "one per station"
        and facts.offsets + one_more_parts > offsets_free(machine)
    )
    travel = machine.travel_x_mm if story["travel"].label.endswith("X") else machine.travel_y_mm
    lines = [
        limit(
            story["face_room"],
            100,
            "the plate inside its margin"
            if request.block.faces == 1
            else "all plates inside their margin",
            set_by=_spaced(request),
        ),
        *[
            limit(
                story[f"hold_factor_{number}" if number else "hold_factor"],
                item.hold.needed,
                _rule(item),
                at_least=True,
                set_by=_asked_of(item),
            )
            for number, item in enumerate(facts.kinds)
        ],
        limit(story["load"], machine.table_load_kg, BUILDER, binds=full_table),
        limit(story["travel"], travel, BUILDER),
        limit(
            story["offsets"],
            max(1, offsets_free(machine)),
            f"{BUILDER}; {len(machine.offsets_taken)} taken",
            binds=full_offsets,
            set_by=SetBy(
                field="rules.datum", label="Zeros", shows="beside", options=list(_STRATEGIES)
            ),
        ),
        *_of_screw(facts, story),
        _of_spindle(facts, story, "power"),
        _of_spindle(facts, story, "spindle_torque"),
    ]
    lines += _of_pressure(facts, story)
    lines += _of_vises(facts)
    lines += _of_squeeze(facts, story)
    if "tolerance" in story:
        lines.append(_of_tolerance(facts, story))
    return sorted(lines, key=lambda line: (not line.binds, -line.share))


def _of_tolerance(facts: Facts, story: dict[str, Figure]) -> Limit:
    worst = max(facts.stations, key=lambda station: station.tolerance_share)
    view = facts.kinds[worst.kind].ready.view
    zone, at = next(
        (item.tolerance_mm, view.part.features.index(item))
        for item in view.judged
        if item.name == worst.feature
    )
    field = f"parts.{view.planned.part}.features.{at}.tolerance_mm"
    drawn = SetBy(field=field, label="Tolerance", unit="mm", shows="allowed")
    return limit(story["tolerance"], zone, f"drawing: {worst.feature}", set_by=drawn)


def _spaced(request: PlanRequest) -> SetBy:
    field = f"{request.station_path(0)}.clearance_mm"
    return SetBy(field=field, label="Clearance", unit="mm", shows="beside")


def _asked_of(item: Worked) -> SetBy:
    interrupted = any(cut.interrupted for cut in item.ready.view.op.cuts)
    field = "safety_factor_interrupted" if interrupted else "safety_factor"
    return SetBy(field=f"rules.{field}", label="Factor needed", shows="allowed")


def _named(facts: Facts, figure: Figure, item: Worked) -> str:
    """A figure's label, with the part where several stand on the faces."""
    return (
        figure.label
        if len(facts.kinds) == 1
        else f"{figure.label.split(',')[0]}, {item.ready.view.part.name}"[:120]
    )


def _of_screw(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """The screw that is tightened to most of its rating; none where only vacuum holds."""
    driven = [(item, item.ready.view.station.clamp) for item in facts.kinds if item.hold.torque]
    if not driven:
        return []
    item, clamp = max(driven, key=lambda pair: pair[1].torque_nm / _rated_nm(pair[0]))
    figure = story["screw"].model_copy(
        update={"value": clamp.torque_nm, "label": _named(facts, story["screw"], item)}
    )
    path = facts.request.station_path(facts.kinds.index(item))
    turned = SetBy(field=f"{path}.clamp.torque_nm", label="Torque", unit="N·m", shows="used")
    rated = "screw of class 8.8, from memory of the usual tables"
    return [limit(figure, _rated_nm(item), rated, set_by=turned)]


def _rated_nm(item: Worked) -> float:
    station = item.ready.view.station
    return station.element.rated_nm(station.clamp)


def _bodies(facts: Facts) -> int:
    """How many vises the stations stand in: two in one, where it has two."""
    shared = facts.request.station.element.back_mm is not None
    return len(facts.stations) // 2 if shared else len(facts.stations)


def _of_vises(facts: Facts) -> list[Limit]:
    """Against how many of them there are."""
    there_are = facts.request.station.element.there_are
    if there_are is None:
        return []
    count = _bodies(facts)
    figure = Figure(
        id="vises",
        label="Vises",
        value=count,
        digits=0,
        formula="vises that hold a part",
        source="this design",
        inputs=[given("vises there are", there_are, "", "this setup")],
    )
    return [limit(figure, there_are, "this setup", binds=count >= there_are)]


def _of_pressure(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """The contact pressed hardest against what the softer side bears."""
    found = []
    for item in facts.kinds if "pressure" in story else []:
        softer = min(item.ready.view.part.material.yield_mpa, HOLDER_YIELD_MPA)
        most = (
            max((contact.pressure_mpa for contact in item.hold.share.contacts), default=0.0)
            if item.hold.share
            else 0.0
        )
        figure = story["pressure"].model_copy(
            update={"value": most, "label": _named(facts, story["pressure"], item)}
        )
        found.append(
            limit(
                figure,
                SINKS_IN * softer,
                "2.8 x yield of the softer side, from where it sinks in (Tabor 1951)",
            )
        )
    return [max(found, key=lambda line: line.share)] if found else []


def _of_squeeze(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """The bore that is squeezed most, against half its tolerance."""
    found = []
    for item in facts.kinds if "squeeze" in story else []:
        bore = squeezed_most(item.hold)
        if bore is not None and bore.limit_mm:
            figure = story["squeeze"].model_copy(
                update={"value": bore.changes_mm, "label": f"Bore squeezed, {bore.feature}"[:120]}
            )
            found.append(limit(figure, bore.limit_mm, f"half the tolerance of {bore.feature}"))
    return [max(found, key=lambda line: line.share)] if found else []


def _rule(item: Worked) -> str:
    return (
        "house rule, interrupted cut"
        if any(cut.interrupted for cut in item.ready.view.op.cuts)
        else "house rule"
    )


def _of_spindle(
    facts: Facts, story: dict[str, Figure], name: Literal["power", "spindle_torque"]
) -> Limit:
    """Against what the spindle has at the speed of the cut that uses most of it."""
    most = None
    for item in facts.kinds:
        for cut, answer in zip(item.ready.view.op.cuts, item.loads, strict=True):
            torque, power = spindle_at(facts.request.machine, cut.spindle_rpm)
            used, allowed = (
                (answer.load.mean_power_w / 1000, power)
                if name == "power"
                else (answer.load.peak_torque_nm, torque)
            )
            label = f"{story[name].label.split(',')[0]}, {cut.name}"[:120]
            figure = story[name].model_copy(
                update={
                    "value": used,
                    "label": label if len(facts.kinds) > 1 else story[name].label,
                }
            )
            found = limit(figure, allowed, f"{BUILDER}, at {cut.spindle_rpm:g} 1/min")
            most = found if most is None or found.share > most.share else most
    assert most is not None, "a design has at least one cut"  # noqa: S101
    return most
