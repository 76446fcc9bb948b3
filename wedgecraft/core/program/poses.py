"""Where a part stands in the machine: one product of transforms, (4, 4), from its own zero to
machine coordinates. Nothing else works an offset out.

Machine axes as a vertical or horizontal machine has them: Z towards the spindle. Faces of a block
that stands turn about Y (horizontal), those of a bar that lies about X (vertical); at a face's own
index its normal points at the spindle.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.records.design import MemberPlace, PlacedStation
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.request import Block, PlanRequest

Array = NDArray[np.float64]


def shifted(x: float, y: float, z: float) -> Array:
    found = np.eye(4)
    found[:3, 3] = x, y, z
    return found


def spun(axis: int, degrees: float) -> Array:
    """About X, Y or Z (0, 1, 2), counter-clockwise seen from its end."""
    turn = math.radians(degrees)
    a, b = (axis + 1) % 3, (axis + 2) % 3
    found = np.eye(4)
    found[a, a] = found[b, b] = math.cos(turn)
    found[b, a], found[a, b] = math.sin(turn), -math.sin(turn)
    return found


def middle_of(machine: Machine) -> tuple[tuple[float, float, float], bool]:
    """Machine coordinates with the spindle's face on the middle of the table, or on a block's axis
    over the middle of its foot; and whether anybody said so: else amid the travels, the table at
    the end of them.
    """
    said = machine.middle_x_mm, machine.middle_y_mm, machine.middle_z_mm
    upright = machine.spindle_level
    taken = (
        -machine.travel_x_mm / 2,
        -machine.travel_y_mm if upright else -machine.travel_y_mm / 2,
        -(machine.travel_z_mm + machine.spindle_to_table_mm),
    )
    x, y, z = (b if a is None else a for a, b in zip(said, taken, strict=True))
    return (x, y, z), None not in said


def index_deg(block: Block, face: int) -> float:
    """The index at which a face looks at the spindle."""
    return 360.0 * face / block.faces


def face_pose(request: PlanRequest, face: int, lifted_mm: float) -> Array:
    """From a plate's own corner, Z0 on what parts stand on, to the middle of table or block, the
    block at its first index. ``lifted_mm``: of what parts stand on over the table where no block
    carries the plate.
    """
    block, plate = request.block, request.plate
    if block.faces == 1 and not block.across_mm:
        return shifted(-plate.width_mm / 2, -plate.depth_mm / 2, lifted_mm)
    out = block.across_mm / 2 + plate.thickness_mm
    if block.axis == "upright":
        return spun(1, -index_deg(block, face)) @ shifted(-plate.width_mm / 2, 0.0, out)
    return spun(0, -index_deg(block, face)) @ shifted(-plate.width_mm / 2, -plate.depth_mm / 2, out)


def part_pose(station: PlacedStation, member: MemberPlace, top_mm: float) -> Array:
    """From a part's own zero to its plate's corner."""
    placed = shifted(station.x_mm, station.y_mm, 0.0) @ spun(2, station.turn)
    own = shifted(member.x_mm, member.y_mm, 0.0) @ spun(2, 180.0 if member.half_turn else 0.0)
    return placed @ own @ shifted(0.0, 0.0, top_mm)


def machine_pose(request: PlanRequest, index: float) -> Array:
    """From the middle of table or block to machine coordinates, turned to an index."""
    (x, y, z), _ = middle_of(request.machine)
    axis = 1 if request.block.axis == "upright" else 0
    return shifted(x, y, z) @ spun(axis, index)


def rise_mm(asked: Asked, kind: int) -> float:
    """How much higher a kind of station stands than the first: the two of a vise may stand on
    parallels of different heights.
    """
    return asked.kinds[kind].view.station.element.up_mm - asked.request.station.element.up_mm


def lifted_mm(asked: Asked) -> float:
    """What parts of the first kind stand on, over the table: a plate's top, or the bed of what
    stands there alone.
    """
    element = asked.request.station.element
    return element.up_mm if element.up_mm else asked.request.plate.thickness_mm
