"""The limits of a design, judged."""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.figures import BUILDER, Facts
from wedgecraft.core.limits import Figure, Limit, limit
from wedgecraft.core.machine import spindle_at


def ledger(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """Limits: what keeps one more part out first, then the tightest."""
    full_table = facts.plate_kg + (facts.layout.count + 1) * facts.station_kg > facts.request.machine.table_load_kg
    full_batch = facts.layout.count >= facts.request.wanted
    request, machine = facts.request, facts.request.machine
    travel = machine.travel_x_mm if story["travel"].label.endswith("X") else machine.travel_y_mm
    rule = "house rule, interrupted cut" if any(cut.interrupted for cut in request.op.cuts) else "house rule"
    lines = [
        limit(story["face_room"], 100, "the plate inside its margin", binds=not full_table and not full_batch),
        limit(story["hold_factor"], facts.hold.needed, rule, at_least=True),
        limit(story["load"], machine.table_load_kg, BUILDER, binds=full_table),
        limit(story["travel"], travel, BUILDER),
        limit(
            story["screw"],
            SCREWS[request.station.clamp.screw].rated_torque_nm,
            "screw of class 8.8, from memory of the usual tables",
        ),
        _of_spindle(facts, story, "power"),
        _of_spindle(facts, story, "spindle_torque"),
    ]
    if "tolerance" in story:
        worst = max(facts.stations, key=lambda station: station.tolerance_share)
        zone = next(item.tolerance_mm for item in request.judged if item.name == worst.feature)
        lines.append(limit(story["tolerance"], zone, f"drawing: {worst.feature}"))
    return sorted(lines, key=lambda line: (not line.binds, -line.share))


def _of_spindle(facts: Facts, story: dict[str, Figure], name: Literal["power", "spindle_torque"]) -> Limit:
    """Against what the spindle has at the speed of the cut that uses most of it."""
    most = None
    for cut, answer in zip(facts.request.op.cuts, facts.loads, strict=True):
        torque, power = spindle_at(facts.request.machine, cut.spindle_rpm)
        used, allowed = (answer.load.mean_power_w / 1000, power) if name == "power" else (answer.load.peak_torque_nm, torque)
        found = limit(story[name].model_copy(update={"value": used}), allowed, f"{BUILDER}, at {cut.spindle_rpm:g} 1/min")
        most = found if most is None or found.share > most.share else most
    assert most is not None, "a design has at least one cut"  # noqa: S101
    return most
