"""Screws and the clamps they drive, as a person sets them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length, Torque

ScrewSize = Literal[
    "M5", "M6", "M8", "M10", "M12", "#10-32", "1/4-20", "5/16-18", "3/8-16", "1/2-13", "5/8-11"
]


@dataclass(frozen=True)
class Screw:
    """A thread with socket head; lengths in mm, rating for property class 8.8, or grade 5."""

    nominal_mm: float
    pitch_mm: float
    pitch_diameter_mm: float
    head_mean_diameter_mm: float
    rated_torque_nm: float


#: Pitch and pitch diameter: ISO 261 and ISO 724. Head friction diameter: mean of head (ISO 4762)
#: and clearance hole (ISO 273). Rated torque: class 8.8 at friction 0.12, rounded down, from memory
#: of the usual tables.
SCREWS: dict[str, Screw] = {
    "M5": Screw(5, 0.8, 4.480, 7.0, 5.5),
    "M6": Screw(6, 1.0, 5.350, 8.3, 9.5),
    "M8": Screw(8, 1.25, 7.188, 11.0, 23),
    "M10": Screw(10, 1.5, 9.026, 13.5, 46),
    "M12": Screw(12, 1.75, 10.863, 15.75, 79),
    # Unified threads: basic pitch diameter 0.649519 pitches under the nominal (ASME B1.1). Heads
    # ASME B18.3, clearance holes ASME B18.2.8, normal. Rated as the metric ones are, the same share
    # of the yield of grade 5 (92 ksi) at friction 0.12, rounded down: from memory.
    "#10-32": Screw(4.826, 0.79375, 4.3104, 6.77, 4.5),
    "1/4-20": Screw(6.35, 1.27, 5.5251, 8.33, 10),
    "5/16-18": Screw(7.9375, 1.41111, 7.0210, 10.32, 20),
    "3/8-16": Screw(9.525, 1.5875, 8.4939, 12.30, 36),
    "1/2-13": Screw(12.7, 1.95385, 11.4309, 16.67, 88),
    "5/8-11": Screw(15.875, 2.30909, 14.3752, 20.64, 175),
}


class EdgeClamp(Document):
    """A low clamp whose vertical screw drives a toe against the part's side, inward and slightly
    down.

    ``transmission`` is toe force per screw force, as the clamp's maker states it. Friction and
    torque scatter turn one torque into a low and a high preload. ``toe_land_mm``: height of the
    strip that touches the part; ``toe_hollow_mm``: radius it is hollowed to for round parts, 0 for
    a flat toe. ``opens_mm``: how far the toe draws back.
    """

    screw: ScrewSize = "M8"
    torque_nm: Annotated[Torque, Field(gt=0, le=200)]
    torque_scatter: Annotated[float, Field(ge=0, le=0.6)] = 0.1
    screw_friction_low: Annotated[float, Field(ge=0.05, le=0.5)] = 0.10
    screw_friction_high: Annotated[float, Field(ge=0.05, le=0.5)] = 0.16
    transmission: Annotated[float, Field(gt=0, le=3)] = 0.7
    down_angle_deg: Annotated[float, Field(ge=0, le=45)] = 8
    toe_friction: Annotated[float, Field(ge=0.02, le=1.0)] = 0.2
    width_mm: Annotated[Length, Field(gt=0, le=200)] = 20
    length_mm: Annotated[Length, Field(gt=0, le=200)] = 28
    height_mm: Annotated[Length, Field(gt=0, le=200)] = 12
    toe_height_mm: Annotated[Length, Field(gt=0, le=200)] = 8
    toe_land_mm: Annotated[Length, Field(gt=0, le=100)] = 4
    toe_hollow_mm: Annotated[Length, Field(ge=0, le=5000)] = 0
    wrench_diameter_mm: Annotated[Length, Field(gt=0, le=200)] = 18
    opens_mm: Annotated[Length, Field(gt=0, le=200)] = 3
    shop_id: Annotated[str, Field(max_length=40)] | None = None

    @property
    def toe_mm(self) -> tuple[float, float]:
        """Between which heights the toe touches."""
        half = self.toe_land_mm / 2
        return max(0.0, self.toe_height_mm - half), self.toe_height_mm + half


def at_torque(clamp: EdgeClamp, torque_nm: float) -> EdgeClamp:
    """The same clamp with its screw at another torque."""
    return EdgeClamp.model_validate({**clamp.model_dump(), "torque_nm": torque_nm})


@dataclass(frozen=True)
class Preload:
    """Toe force normal to the part's side, N, at the low and high end; ``seating_n`` presses the
    part down at the low end.
    """

    low_n: float
    high_n: float
    seating_n: float
