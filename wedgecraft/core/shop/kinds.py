"""The dimensions of each kind of thing a shop has. Titles and limits here make the forms, the grids
and the files.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Force, Length, Mass, Torque
from wedgecraft.core.records.element import picked_names
from wedgecraft.core.records.material import MATERIALS, MaterialRef
from wedgecraft.core.records.screw import ScrewSize

Size = Annotated[Length, Field(gt=0, le=5000)]


class Block(Document):
    """A tombstone, or a bar for a rotary: faces around an axis."""

    name: Text
    kind: Annotated[Literal["tombstone", "rotary bar", "five-axis block"], Field(title="Kind")] = (
        "tombstone"
    )
    faces: Annotated[int, Field(ge=1, le=8, title="Faces")] = 4
    face_width_mm: Annotated[Length, Field(gt=0, le=3000, title="Face width")]
    face_height_mm: Annotated[Length, Field(gt=0, le=3000, title="Face height or length")]
    across_mm: Annotated[Length, Field(gt=0, le=3000, title="Across opposite faces")]
    wall_mm: Annotated[Length, Field(ge=0, le=1000, title="Wall (0: solid)")] = 0
    base_mm: Annotated[Length, Field(ge=0, le=1000, title="Base plate, thickness")] = 0
    material: MaterialRef = MATERIALS["cast-iron-250"]
    hole_pitch_mm: Annotated[Length, Field(ge=0, le=500, title="Hole pattern, pitch")] = 0
    mass_kg: Annotated[Mass, Field(ge=0, le=20_000, title="Mass")] = 0


#: A double wedge is two edge clamps back to back: a clamp to buy, no element of its own.
if TYPE_CHECKING:
    ClampKind = str
else:
    ClampKind = Literal[(*picked_names(), "double wedge")]


class ClampElement(Document):
    """A clamp: what a screw, a handle or a pump turns into force on the part."""

    name: Text
    kind: Annotated[ClampKind, Field(title="Kind")] = "edge clamp"
    screw: Annotated[ScrewSize, Field(title="Screw")] = "M8"
    torque_nm: Annotated[Torque, Field(gt=0, le=500, title="Usual torque")] = 14
    rated_force_n: Annotated[
        Force, Field(ge=0, le=1_000_000, title="Force, rated by its maker")
    ] = 0
    transmission: Annotated[float, Field(gt=0, le=5, title="Force on the part per screw force")] = (
        0.7
    )
    down_angle_deg: Annotated[float, Field(ge=0, le=45, title="Pulls down by, degrees")] = 0
    friction: Annotated[float, Field(ge=0.02, le=2, title="Friction at the part")] = 0.2
    width_mm: Annotated[Length, Field(gt=0, le=500, title="Width")]
    length_mm: Annotated[Length, Field(gt=0, le=500, title="Length")]
    height_mm: Annotated[Length, Field(gt=0, le=500, title="Height")]
    toe_height_mm: Annotated[Length, Field(ge=0, le=500, title="Presses at height")] = 0
    stroke_mm: Annotated[Length, Field(ge=0, le=200, title="Stroke")] = 2
    wrench_diameter_mm: Annotated[Length, Field(gt=0, le=200, title="Wrench needs, diameter")] = 18


class Locator(Document):
    """What a part is pushed against or set on."""

    name: Text
    kind: Annotated[
        Literal["stop", "round pin", "diamond pin", "rest button", "V", "mandrel"],
        Field(title="Kind"),
    ] = "stop"
    diameter_mm: Annotated[Length, Field(ge=0, le=500, title="Diameter (pins, buttons)")] = 0
    fit: Annotated[str, Field(max_length=12, title="Fit, ISO 286")] = ""
    thickness_mm: Annotated[Length, Field(ge=0, le=500, title="Thickness")] = 8
    length_mm: Annotated[Length, Field(ge=0, le=1000, title="Length")] = 40
    height_mm: Annotated[Length, Field(gt=0, le=500, title="Height over the plate")] = 12
    capacity_n: Annotated[Force, Field(gt=0, le=1_000_000, title="Carries")] = 20_000
    friction: Annotated[float, Field(ge=0.02, le=1, title="Friction at the part")] = 0.2
    repeat_mm: Annotated[Length, Field(ge=0, le=1, title="Repeats within, ±")] = 0.005
