"""Cutters, cuts, and what a cut puts on the part."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from wedgecraft.core.ground.documents import Document, Point, Text
from wedgecraft.core.ground.units import Length, parse_places
from wedgecraft.core.records.material import MaterialRef

CutterKind = Literal[
    "end mill", "face mill", "fly cutter", "drill", "reamer", "tap", "boring bar", "slitting saw"
]
CutKind = Literal["contour", "face", "slot", "fly cut", "drill", "ream", "tap", "bore", "saw"]

#: Cuts that go down into holes; the others mill along a path.
HOLE_KINDS: tuple[CutKind, ...] = ("drill", "ream", "tap", "bore")
#: Which cutters a cut can use.
CUTTERS_FOR: dict[CutKind, tuple[CutterKind, ...]] = {
    "contour": ("end mill",),
    "face": ("end mill", "face mill"),
    "slot": ("end mill",),
    "fly cut": ("fly cutter",),
    "drill": ("drill",),
    "ream": ("reamer",),
    "tap": ("tap",),
    "bore": ("boring bar",),
    "saw": ("slitting saw",),
}


class Cutter(Document):
    """A rotating cutter: what the load and the room it takes are worked out from."""

    name: Annotated[str, Field(max_length=120, title="Name")] = ""
    kind: Annotated[CutterKind, Field(title="Kind")] = "end mill"
    diameter_mm: Annotated[Length, Field(gt=0, le=500, title="Diameter")]
    teeth: Annotated[int, Field(ge=1, le=200, title="Teeth")]
    helix_deg: Annotated[float, Field(ge=0, le=60, title="Helix, degrees")] = 30
    entering_deg: Annotated[float, Field(ge=10, le=90, title="Entering angle, degrees")] = 90
    flute_length_mm: Annotated[Length, Field(gt=0, le=600, title="Cutting length")] = 30
    point_deg: Annotated[float, Field(ge=60, le=180, title="Point angle, degrees")] = 140
    pitch_mm: Annotated[Length, Field(ge=0, le=12, title="Thread pitch")] = 0
    width_mm: Annotated[Length, Field(ge=0, le=50, title="Blade thickness")] = 0
    reach_mm: Annotated[Length, Field(ge=0, le=1000, title="Reach from the holder")] = 0
    shop_id: Annotated[str, Field(max_length=40)] | None = None

    @model_validator(mode="after")
    def _complete(self) -> Cutter:
        if self.kind == "tap" and self.pitch_mm <= 0:
            raise ValueError("a tap needs its thread pitch")
        if self.kind == "slitting saw" and self.width_mm <= 0:
            raise ValueError("a slitting saw needs its blade thickness")
        return self


class Cut(Document):
    """One cut of an op.

    ``axial_depth_mm`` is the depth of one pass (of the hole, for hole cuts), ``radial_width_mm``
    the width engaged (for ream and bore, the stock left on the radius; not used by drill and tap).
    ``feed_per_tooth_mm`` times the cutter's teeth is the feed per turn; a tap's is its pitch.
    ``at``: for hole cuts the holes; for slot and saw two points, from and to; for facing two
    corners of a box, or nothing for the whole top; nothing for a contour. Points in the part's
    frame, from its datum corner. Depths run from ``from_top_mm`` below the part's top through
    ``passes`` equal passes.
    """

    name: Text = "T1 contour"
    kind: CutKind = "contour"
    tool: Cutter
    axial_depth_mm: Annotated[Length, Field(gt=0, le=500, title="Depth of a pass")]
    radial_width_mm: Annotated[Length, Field(ge=0, le=500, title="Width engaged")] = 0
    feed_per_tooth_mm: Annotated[Length, Field(ge=0, le=10, title="Feed per tooth")]
    spindle_rpm: Annotated[float, Field(gt=0, le=100_000, title="Spindle, 1/min")]
    from_top_mm: Annotated[Length, Field(ge=0, le=1000, title="Begins below the top")] = 0
    passes: Annotated[int, Field(ge=1, le=500, title="Passes")] = 1
    at: Annotated[
        list[Point],
        BeforeValidator(parse_places, json_schema_input_type=list[Point] | str),
        Field(max_length=400, json_schema_extra={"also_text": True}),
    ] = []
    path_mm: Annotated[Length, Field(ge=0, le=10_000_000, title="Path")] | None = None
    seconds: Annotated[float, Field(gt=0, le=1_000_000, title="Seconds")] | None = None
    wear_factor: Annotated[float, Field(ge=1, le=2.5, title="Wear factor")] = 1.3
    interrupted: bool = False

    @property
    def depth_mm(self) -> float:
        """How far below the top the cut ends."""
        return self.from_top_mm + self.passes * self.axial_depth_mm


class CuttingRequest(Document):
    """Input of ``compute cutting``: a cut in a material."""

    material: MaterialRef
    cut: Cut


class CuttingLoad(Document):
    """What a cut puts on the part and the spindle.

    ``in_plane_peak_n`` is the largest resultant in the plane square to the spindle over one turn;
    ``pull_peak_n`` lifts the part towards the spindle, ``push_peak_n`` presses it away;
    ``twist_nm`` turns it about the cutter's axis (hole cuts: a milling cut's twist is its force at
    the tooth, which stands off the axis).
    """

    in_plane_peak_n: float
    pull_peak_n: float
    push_peak_n: float
    twist_nm: float = 0.0
    mean_power_w: float
    peak_torque_nm: float
    removal_rate_mm3_min: float
    feed_rate_mm_min: float
    cutting_speed_m_min: float
    mean_chip_mm: float


class CutChart(Document):
    """Force in the plane and torque over one turn of the cutter, at equal steps of the angle."""

    angle_deg: list[float]
    in_plane_n: list[float]
    torque_nm: list[float]
