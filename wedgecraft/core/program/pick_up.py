"""How a zero is picked up at the machine, step by step; common practice, no source."""

from __future__ import annotations

import math

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.records.plate import PickUp
from wedgecraft.core.records.rules import Strategy

_SAME_MM = 0.01
_STEPS: dict[PickUp, tuple[str, ...]] = {
    "corner": (
        "touch the left face near the front: half the probe's ball further in is X0",
        "touch the front face near the left: half the ball further in is Y0",
    ),
    "bore": (
        "over the bore, down into it by its depth less 2 mm",
        "touch left and right: midway is X0; on X0 touch front and back: midway is Y0; once more",
    ),
    "midway between faces": (
        "touch the left face and the right one at one height: midway is X0",
        "touch the front face and the back one: midway is Y0",
    ),
    "axis": (
        "indicate the block's own axis, as the machine builder has it: X0; do not take it from a"
        " plate",
        "touch what the plates stand on below: Y0",
    ),
}


def steps_of(asked: Asked, strategy: Strategy, top_mm: float) -> list[str]:
    """One after another, Z last."""
    if strategy == "one per station":
        own = (
            "touch the stop that the part lies against in X: X0",
            "touch the stop that it lies against in Y: Y0",
        )
        z = f"touch what the part stands on: {top_mm:g} mm over that is Z0"
        return [*own, z]
    datum = asked.request.datum
    z = f"touch what the parts stand on: {top_mm:g} mm over that is Z0"
    return [*_STEPS[datum.from_what], z]


def misplaced(asked: Asked) -> list[str]:
    """What the place of a zero says against what it is picked up from."""
    datum, plate = asked.request.datum, asked.request.plate
    middle = (plate.width_mm / 2, plate.depth_mm / 2)
    if datum.from_what == "corner" and not datum.at_corner:
        return [f"a corner is at X0 Y0, and the zero is set at X{datum.x_mm:g} Y{datum.y_mm:g}"]
    off = math.dist((datum.x_mm, datum.y_mm), middle)
    if datum.from_what == "midway between faces" and off > _SAME_MM:
        return [
            f"midway between its faces is X{middle[0]:g} Y{middle[1]:g}, and the zero is set at"
            f" X{datum.x_mm:g} Y{datum.y_mm:g}"
        ]
    if datum.from_what == "axis" and asked.request.block.faces == 1:
        return ["there is no axis: one plate lies on the table"]
    return []
