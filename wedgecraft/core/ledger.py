"""The limits of a design, judged."""

from __future__ import annotations

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.figures import BUILDER, Facts
from wedgecraft.core.limits import Figure, Limit, limit


def ledger(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """Limits: what keeps one more part out first, then the tightest."""
    full_table = facts.plate_kg + (facts.layout.count + 1) * facts.station_kg > facts.request.machine.table_load_kg
    full_batch = facts.layout.count >= facts.request.quantity
    request, machine = facts.request, facts.request.machine
    travel = machine.travel_x_mm if story["travel"].label.endswith("X") else machine.travel_y_mm
    rule = "house rule, interrupted cut" if request.cut.interrupted else "house rule"
    lines = [
        limit(story["face_room"], 100, "the plate inside its margin", binds=not full_table and not full_batch),
        limit(story["hold_factor"], facts.hold.needed, rule, at_least=True),
        limit(story["tolerance"], request.tolerance.zone_mm, f"drawing: {request.tolerance.feature}"),
        limit(story["load"], machine.table_load_kg, BUILDER, binds=full_table),
        limit(story["travel"], travel, BUILDER),
        limit(
            story["screw"],
            SCREWS[request.station.clamp.screw].rated_torque_nm,
            "screw of class 8.8, from memory of the usual tables",
        ),
        limit(story["power"], machine.spindle_power_kw, BUILDER),
        limit(story["spindle_torque"], machine.spindle_torque_nm, BUILDER),
    ]
    return sorted(lines, key=lambda line: (not line.binds, -line.share))
