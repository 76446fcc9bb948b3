"""Cutters, cuts, and what a cut puts on the part.

Each kind of cut is one file of ``core/cutting/kinds``, and says all about itself there: which
cutters it takes, where it goes, what it puts on the part. Here is what every kind answers; what
milling cuts and hole cuts have in common lies in ``core/cutting``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, Protocol

from pydantic import BeforeValidator, Field, model_validator
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.ground.documents import Document, Point, Text
from wedgecraft.core.ground.kinds import Kinds, NameOf
from wedgecraft.core.ground.units import Length, parse_places
from wedgecraft.core.records.material import Material, MaterialRef

CutterKind = Literal[
    "end mill",
    "face mill",
    "fly cutter",
    "drill",
    "reamer",
    "tap",
    "boring bar",
    "slitting saw",
    "chamfer mill",
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
    at feed, all passes; ``encloses``: it runs along the edge of ``axis``, round what lies inside.
    """

    axis: Any
    length_mm: float
    encloses: bool = False


@dataclass(frozen=True)
class Sweep:
    """One region that a cut takes away: ``area`` seen from the spindle, down to ``low_mm``.

    ``high_mm``: up to where; nothing for all that lies above. ``point_deg``: a cone of this full
    angle below it, as a drill leaves it. ``bevel_mm``: how much wider it is at its top than at its
    foot; with ``outside`` it is what lies outside that, down to its foot.
    """

    area: Polygon | MultiPolygon
    low_mm: float
    high_mm: float | None = None
    point_deg: float | None = None
    bevel_mm: float = 0.0
    outside: bool = False


class Scene(Protocol):
    """The part as a cut sees it: seen from the spindle, the finished part's underside at height 0,
    its datum corner at the origin.
    """

    @property
    def top_mm(self) -> float:
        """The finished part's top."""

    @property
    def covered(self) -> MultiPolygon:
        """All that the part covers before the cut."""

    def kept_above(self, height_mm: float) -> MultiPolygon:
        """What the finished part covers above a height."""

    def cut_at(self, height_mm: float) -> MultiPolygon:
        """The finished part cut at a height."""


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
    #: It stays inside the part's outline where that holds it.
    inside: ClassVar[bool] = False
    #: It clears with its side, so that a round cutter leaves inner corners.
    clears: ClassVar[bool] = False
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

    def guide(self, cut: Cut, scene: Scene) -> Polygon:
        """The outline it follows on a part of this shape: what ``path`` and ``places`` are given.
        Raises OutOfRange.
        """
        return largest(scene.kept_above(-math.inf))

    def load(self, cut: Cut, work: Material) -> CuttingLoad:
        """Forces, torque and power. Raises OutOfRange."""
        raise NotImplementedError

    def chart(self, cut: Cut, work: Material) -> CutChart:
        """Force and torque over one turn. Raises OutOfRange."""
        raise NotImplementedError

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        """Where its load is looked at, each place once, with its name."""
        raise NotImplementedError

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """What it takes away, whatever is there. Raises OutOfRange."""
        raise NotImplementedError

    def unsaid(self) -> dict[str, Any]:
        """Fields that a table of cuts may leave out."""
        return {}

    def tool_unsaid(self, depth: Any) -> dict[str, Any]:
        """The same of its cutter; ``depth``: of a pass, as it is written."""
        return {}


def largest(area: MultiPolygon) -> Polygon:
    """The largest piece of an area; nothing for an empty one."""
    found: Polygon = max(area.geoms, key=lambda part: float(part.area), default=Polygon())
    return found


CUT_KINDS: Kinds[CutKind] = Kinds("wedgecraft.core.cutting.kinds", "cut.kind")
CutKindName = Annotated[str, NameOf(CUT_KINDS)]


class Cut(Document):
    """One cut of an op.

    ``axial_depth_mm`` is the depth of one pass (of the hole, for hole cuts), ``radial_width_mm``
    the width engaged (for ream and bore, the stock left on the radius; not used by drill and tap).
    ``feed_per_tooth_mm`` times the cutter's teeth is the feed per turn; a tap's is its pitch.
    ``at``: for hole cuts the holes; for slot and saw two points, from and to; for facing two
    corners of a box, or nothing for the whole top; nothing for a contour. Points in the part's
    frame, from its datum corner. Depths run from ``from_top_mm`` below the finished part's top
    (above it where negative) through ``passes`` equal passes. ``leave_mm``: what it leaves on
    walls and floor for a later cut.
    """

    name: Text = "T1 contour"
    kind: CutKindName = "contour"
    tool: Cutter
    axial_depth_mm: Annotated[Length, Field(gt=0, le=500, title="Depth of a pass")]
    radial_width_mm: Annotated[Length, Field(ge=0, le=500, title="Width engaged")] = 0
    feed_per_tooth_mm: Annotated[Length, Field(ge=0, le=10, title="Feed per tooth")]
    spindle_rpm: Annotated[float, Field(gt=0, le=100_000, title="Spindle, 1/min")]
    from_top_mm: Annotated[Length, Field(ge=-500, le=1000, title="Begins below the top")] = 0
    leave_mm: Annotated[Length, Field(ge=0, le=50, title="Leaves on walls and floor")] = 0
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
        """How far below the finished top the cut ends."""
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
