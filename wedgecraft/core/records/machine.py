"""The machine and the plate on it, as far as a layout needs them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Length, Mass, Place, Power, Rate, Torque
from wedgecraft.core.records.tool import Tool

#: Where a machine has the middle of its table, or the axis of its rotary.
_MIDDLE = (
    "Machine X over the table's middle",
    "Machine Y over the table's middle, or on a pallet's top",
    "Machine Z with the spindle's face on the table, or on the rotary's axis",
)
MachineKind = Literal["vertical", "horizontal", "five-axis"]


class SpindlePoint(Document):
    """One point of the torque curve, as the machine builder prints it."""

    rpm: Annotated[float, Field(gt=0, le=100_000)]
    torque_nm: Annotated[Torque, Field(gt=0, le=5000)]


class Machine(Document):
    """Travels, table, load, spindle and accuracy, as the machine builder states them.

    Positioning error over a distance L is taken as ``positioning_mm + positioning_per_m_mm * L``;
    the scales grow with ``scale_expansion_per_k``. ``tools``: which cutter stands under which
    number. ``middle_x_mm`` and the rest: machine coordinates with the spindle's face there, nothing
    where nobody has said. ``torque_curve`` may be empty: then the rated
    torque holds up to the rated power.
    """

    name: Text
    kind: Annotated[MachineKind, Field(title="Kind")] = "vertical"
    axes: Annotated[int, Field(ge=3, le=5, title="Axes")] = 3
    travel_x_mm: Annotated[Length, Field(gt=0, le=20_000, title="Travel X")]
    travel_y_mm: Annotated[Length, Field(gt=0, le=20_000, title="Travel Y")]
    travel_z_mm: Annotated[Length, Field(gt=0, le=20_000, title="Travel Z")] = 500
    table_x_mm: Annotated[Length, Field(gt=0, le=20_000, title="Table or pallet, width")] = 900
    table_y_mm: Annotated[Length, Field(gt=0, le=20_000, title="Table or pallet, depth")] = 500
    pallets: Annotated[int, Field(ge=0, le=200, title="Pallets")] = 0
    table_load_kg: Annotated[Mass, Field(gt=0, le=100_000, title="Table or pallet load")]
    swing_mm: Annotated[Length, Field(ge=0, le=20_000, title="Swing, diameter")] = 0
    spindle_to_table_mm: Annotated[
        Length, Field(ge=0, le=5000, title="Spindle nose to table, least")
    ] = 120
    shortest_tool_mm: Annotated[Length, Field(ge=0, le=2000, title="Shortest tool")] = 60
    longest_tool_mm: Annotated[Length, Field(gt=0, le=2000, title="Longest tool")] = 300
    spindle_power_kw: Annotated[Power, Field(gt=0, le=500, title="Spindle power")]
    spindle_torque_nm: Annotated[Torque, Field(gt=0, le=5000, title="Spindle torque")]
    spindle_rpm: Annotated[float, Field(gt=0, le=100_000, title="Highest spindle speed, 1/min")] = (
        12_000
    )
    torque_curve: Annotated[list[SpindlePoint], Field(max_length=40, title="Torque curve")] = []
    magazine: Annotated[int, Field(ge=1, le=1000, title="Tools in the magazine")] = 24
    tool_change_s: Annotated[float, Field(ge=0, le=600, title="Tool change, chip to chip, s")] = 5
    pallet_change_s: Annotated[float, Field(ge=0, le=3600, title="Pallet change, s")] = 0
    index_s: Annotated[float, Field(ge=0, le=600, title="Index by 90°, s")] = 0
    positioning_mm: Annotated[Length, Field(ge=0, le=1, title="Positioning, ±")] = 0.004
    positioning_per_m_mm: Annotated[Length, Field(ge=0, le=1, title="and per metre, ±")] = 0.008
    index_arcsec: Annotated[float, Field(ge=0, le=3600, title="Index error, ± arc seconds")] = 0
    index_repeat_arcsec: Annotated[
        float, Field(ge=0, le=3600, title="Index repeatability, ± arc seconds")
    ] = 2
    pallet_repeat_mm: Annotated[Length, Field(ge=0, le=1, title="Pallet repeatability, ±")] = 0
    scale_expansion_per_k: Annotated[
        float, Field(ge=0, le=5e-5, title="Expansion of the scales, per °C")
    ] = 8e-6
    rapid_m_min: Annotated[Rate, Field(gt=0, le=200, title="Rapid rate")] = 24
    acceleration_m_s2: Annotated[float, Field(gt=0, le=50, title="Acceleration, m/s²")] = 3
    middle_x_mm: Annotated[Place | None, Field(title=_MIDDLE[0])] = None
    middle_y_mm: Annotated[Place | None, Field(title=_MIDDLE[1])] = None
    middle_z_mm: Annotated[Place | None, Field(title=_MIDDLE[2])] = None
    work_offsets: Annotated[list[Text], Field(max_length=400, title="Work offsets there")] = [
        "G54",
        "G55",
        "G56",
        "G57",
        "G58",
        "G59",
    ]
    offsets_taken: Annotated[list[Text], Field(max_length=400, title="Work offsets taken")] = []
    local_shift: Annotated[bool, Field(title="Control: local shift, G52")] = True
    turned_coordinates: Annotated[bool, Field(title="Control: turned coordinates, G68")] = True
    subprograms: Annotated[bool, Field(title="Programs with subprograms, M98")] = False
    stops_to_look: Annotated[bool, Field(title="M1 after each tool change")] = False
    first_lines: Annotated[list[Text], Field(max_length=40, title="Lines at the beginning")] = []
    last_lines: Annotated[list[Text], Field(max_length=40, title="Lines before the end")] = []
    tools: Annotated[list[Tool], Field(max_length=1000, title="Tool table")] = []
    rate_an_hour: Annotated[float, Field(ge=0, le=10_000, title="Rate an hour; 0 unknown")] = 0
    shop_id: Annotated[str, Field(max_length=40)] | None = None

    @property
    def spindle_level(self) -> bool:
        """Whether it cuts from the side: Y is up."""
        return self.kind == "horizontal"

    @model_validator(mode="after")
    def _each_number_once(self) -> Machine:
        numbers = [tool.number for tool in self.tools]
        twice = next((n for n in numbers if numbers.count(n) > 1), None)
        if twice is not None:
            raise ValueError(f"T{twice} is in the tool table twice")
        return self


def offsets_free(machine: Machine) -> int:
    """Work offsets of the machine that nothing else has taken."""
    return len(
        [name for name in dict.fromkeys(machine.work_offsets) if name not in machine.offsets_taken]
    )


def offsets_used(rule: str, parts: Sequence[tuple[int, int]]) -> int:
    """Work offsets for parts given as (face, turn): one for each turn, for each turn on each face,
    or for each part.

    A program runs turned only from a zero of its own; common practice, no source. ``rule``: the
    house rule on datums.
    """
    if rule == "one per station":
        return len(parts)
    return len(set(parts)) if rule == "one per face" else len({turn for _, turn in parts})


def spindle_at(machine: Machine, rpm: float) -> tuple[float, float]:
    """Torque (N·m) and power (kW) the spindle has at a speed: from its curve, straight between
    points; else from its ratings.
    """
    turn = 2 * math.pi * rpm / 60
    if machine.torque_curve:
        points = sorted((point.rpm, point.torque_nm) for point in machine.torque_curve)
        torque = float(
            np.interp(rpm, [point[0] for point in points], [point[1] for point in points])
        )
        # Straight lines between points lie above a curve that falls as one over the speed: the
        # rated power still holds.
        torque = min(torque, machine.spindle_power_kw * 1000 / turn)
        return torque, torque * turn / 1000
    return min(
        machine.spindle_torque_nm, machine.spindle_power_kw * 1000 / turn
    ), machine.spindle_power_kw
