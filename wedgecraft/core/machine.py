"""The machine and the plate on it, as far as a layout needs them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.model import Document, Number, Text
from wedgecraft.core.units import Length, Mass


class Machine(Document):
    """Travels, table, load and accuracy, as the machine builder states them.

    Positioning error over a distance L is taken as ``positioning_mm + positioning_per_m_mm * L``; the scales grow with
    ``scale_expansion_per_k``.
    """

    name: Text
    travel_x_mm: Annotated[Length, Field(gt=0, le=20_000)]
    travel_y_mm: Annotated[Length, Field(gt=0, le=20_000)]
    table_load_kg: Annotated[Mass, Field(gt=0, le=100_000)]
    spindle_power_kw: Annotated[float, Field(gt=0, le=500)]
    spindle_torque_nm: Annotated[float, Field(gt=0, le=5000)]
    positioning_mm: Annotated[Length, Field(ge=0, le=1)] = 0.004
    positioning_per_m_mm: Annotated[Length, Field(ge=0, le=1)] = 0.008
    scale_expansion_per_k: Annotated[float, Field(ge=0, le=5e-5)] = 8e-6


class KeepOut(Document):
    """Where nothing may stand: a hold-down screw (``round``) or a bar (``box``), ``height_mm`` above the plate."""

    shape: Literal["round", "box"] = "round"
    x_mm: Annotated[Length, Field(ge=-5000, le=5000)]
    y_mm: Annotated[Length, Field(ge=-5000, le=5000)]
    width_mm: Annotated[Length, Field(gt=0, le=5000)]
    depth_mm: Annotated[Length, Field(gt=0, le=5000)] | None = None
    height_mm: Annotated[Length, Field(ge=0, le=1000)] = 10


class Plate(Document):
    """A rectangular fixture plate, its corner at (0, 0); stations stand ``margin_mm`` inside its edge."""

    name: Text = "Plate"
    width_mm: Annotated[Length, Field(gt=0, le=5000)]
    depth_mm: Annotated[Length, Field(gt=0, le=5000)]
    thickness_mm: Annotated[Length, Field(gt=0, le=500)] = 25
    material: Text = "aluminium-6061"
    margin_mm: Annotated[Length, Field(ge=0, le=500)] = 5
    keepouts: Annotated[list[KeepOut], Field(max_length=500)] = []


class Datum(Document):
    """Where the plate's zero is picked up, in plate coordinates."""

    x_mm: Number = 0.0
    y_mm: Number = 0.0
