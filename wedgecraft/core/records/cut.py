"""Cutters, cuts, and what a cut puts on the part.

Each kind of cut is one file of ``core/cutting/kinds``, and says all about itself there: which
cutters it takes, where it goes, what it puts on the part. Here is what every kind answers; what
milling cuts and hole cuts have in common lies in ``core/cutting``.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field, model_validator
from shapely.geometry import Polygon

from wedgecraft.core.ground.documents import Document, Point, Text
from wedgecraft.core.ground.kinds import Kinds, NameOf
from wedgecraft.core.ground.units import Length, parse_places
from wedgecraft.core.records.material import Material, MaterialRef

CutterKind = Literal[
    "end mill", "face mill", "fly cutter", "drill", "reamer", "tap", "boring bar", "slitting saw"
]


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


@dataclass(frozen=True)
class CutPath:
    """``axis``: where the spindle's axis goes, seen from above; ``length_mm``: how far it travels
    at feed, all passes.
    """

    axis: Any
    length_mm: float


@dataclass(frozen=True)
class Stories:
    """How the figures of a cut are worked out, in words, and from where."""

    source: str
    force: str
    pull: str
    push: str
    power: str
    torque: str
    chip: str
    chip_source: str
    feed: str = "feed per tooth x teeth x spindle speed"


class CutKind:
    """What every kind of cut answers. Points and outlines in the part's frame, from its datum
    corner.
    """

    kind: ClassVar[str]
    #: Cutters it can use; the one that a table which names none is taken to mean.
    cutters: ClassVar[tuple[CutterKind, ...]]
    usual: ClassVar[CutterKind]
    usual_teeth: ClassVar[int] = 1
    #: Where it stands in a list of kinds.
    listed: ClassVar[int] = 50
    #: It goes down into holes; others mill along a path.
    hole: ClassVar[bool] = False
    #: It brings the top to one level, so that what stands beside is cut as deep.
    facing: ClassVar[bool] = False
    #: It goes round the outside of the part.
    around: ClassVar[bool] = False
    #: It may end below the part's underside.
    through: ClassVar[bool] = False
    #: It is fed by a thread's pitch, whatever is typed.
    by_pitch: ClassVar[bool] = False
    stories: ClassVar[Stories]

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        """Where it goes on a part of this outline. Raises OutOfRange."""
        raise NotImplementedError

    def load(self, cut: Cut, work: Material) -> CuttingLoad:
        """Forces, torque and power. Raises OutOfRange."""
        raise NotImplementedError

    def chart(self, cut: Cut, work: Material) -> CutChart:
        """Force and torque over one turn. Raises OutOfRange."""
        raise NotImplementedError

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        """Where its load is looked at, each place once, with its name."""
        raise NotImplementedError

    def unsaid(self) -> dict[str, Any]:
        """Fields that a table of cuts may leave out."""
        return {}

    def tool_unsaid(self, depth: Any) -> dict[str, Any]:
        """The same of its cutter; ``depth``: of a pass, as it is written."""
        return {}


CUT_KINDS: Kinds[CutKind] = Kinds("wedgecraft.core.cutting.kinds", "cut.kind")
CutKindName = Annotated[str, NameOf(CUT_KINDS)]


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
    kind: CutKindName = "contour"
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
    def of(self) -> CutKind:
        """Its kind, with all that follows from it."""
        return CUT_KINDS[self.kind]()

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
