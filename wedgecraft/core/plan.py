"""The plan document: what is asked, and the designs that answer it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from wedgecraft.core.clamps import at_torque
from wedgecraft.core.contacts import Contact, HoldResult
from wedgecraft.core.cutting.document import CuttingLoad
from wedgecraft.core.cycle import Cycle
from wedgecraft.core.elastic import ShareResult
from wedgecraft.core.elements import Element
from wedgecraft.core.features import Feature, Op, judged_in
from wedgecraft.core.house_rules import HouseRules, Strategy
from wedgecraft.core.layout.document import Layer, Turn
from wedgecraft.core.limits import Figure, Limit
from wedgecraft.core.locate.document import Accuracy
from wedgecraft.core.machine import Datum, Machine, Plate
from wedgecraft.core.materials import MATERIALS, MaterialRef
from wedgecraft.core.model import Document, Point, Text
from wedgecraft.core.part import Part
from wedgecraft.core.plan_upgrade import upgraded
from wedgecraft.core.row import RowResult
from wedgecraft.core.sharing import Sharing
from wedgecraft.core.station import StopAndEdgeClamp
from wedgecraft.core.tolerance import Contribution
from wedgecraft.core.units import Length, Mass, Place


class Planned(Document):
    """Which part of the kit, and which of its ops, the plate is laid out for; both count from 0.

    ``station``: its own, where it is held in another way than the first.
    """

    part: Annotated[int, Field(ge=0)] = 0
    op: Annotated[int, Field(ge=0)] = 0
    station: StopAndEdgeClamp | None = None


class Block(Document):
    """What carries the plates: one lies on the table; several, alike, stand round a block that indexes about its axis.

    ``axis`` upright: a tombstone, cut from the side, its foot at the plates' lower edge. Lying: a bar on a rotary along the plates'
    width, cut from above, so that parts hang every way while it indexes. ``across_mm`` of its square section and ``wall_mm`` (0: solid),
    for what it gives; ``joint_nm_per_mrad``: stiffness of base joint or rotary, 0 for a stiff one. ``tail``: a tail support.
    """

    faces: Annotated[int, Field(ge=1, le=8)] = 1
    body_kg: Annotated[Mass, Field(ge=0, le=10_000)] = 0
    axis: Literal["upright", "lying"] = "upright"
    across_mm: Annotated[Length, Field(ge=0, le=3000)] = 0
    wall_mm: Annotated[Length, Field(ge=0, le=1000)] = 0
    material: MaterialRef = MATERIALS["cast-iron-250"]
    joint_nm_per_mrad: Annotated[float, Field(ge=0, le=1e6)] = 0
    tail: bool = False


class Measured(Document):
    """Where a station of the real fixture was found: its datum corner on the plate, its rests' height off the drawing, how well known."""

    x_mm: Place
    y_mm: Place
    z_mm: Place | None = None
    within_mm: Annotated[Length, Field(ge=0, le=1)] = 0.003


class OwnStation(Document):
    """A station where a person put it: its datum corner and its turn. ``locked``: planning leaves it there.

    ``face`` and ``kind`` count from 0: which face it stands on, which of the planned ops it is for. ``measured``: on the real fixture.
    """

    face: Annotated[int, Field(ge=0, le=7)] = 0
    kind: Annotated[int, Field(ge=0, le=5)] = 0

    x_mm: Length
    y_mm: Length
    turn: Turn = 0
    locked: bool = False
    measured: Measured | None = None


class Arrangement(Document):
    """Stations a person placed. ``own``: the layout is these and no others; otherwise the locked ones stay and planning adds the rest."""

    own: bool = False
    stations: Annotated[list[OwnStation], Field(max_length=1000)] = []


class PlanRequest(Document):
    """The parts of a kit with their ops; one op of one of them, ``also`` others, on one or several faces, held by stops and edge clamps.

    ``quantity`` counts kits; a job of one part has a kit of one. Several ops of one part stand in balance, so that complete parts
    come off; ops of several parts in the numbers of the kit. A request of version 1 is read and brought up to date.

    ``elsewhere``: ops that are not laid out here, in the stations they are held in: known for what they leave behind on the part.
    """

    format: Literal["wedgecraft plan request"] = "wedgecraft plan request"
    version: Literal[2] = 2
    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)]
    parts: Annotated[list[Part], Field(min_length=1, max_length=20)]
    planned: Planned = Planned()
    also: Annotated[list[Planned], Field(max_length=5)] = []
    elsewhere: Annotated[list[Planned], Field(max_length=40)] = []
    block: Block = Block()
    accuracy: Accuracy = Accuracy()
    plate: Plate
    datum: Datum = Datum()
    machine: Machine
    station: StopAndEdgeClamp
    rules: HouseRules = HouseRules()
    arrangement: Arrangement = Arrangement()

    @model_validator(mode="before")
    @classmethod
    def _up_to_date(cls, given: Any) -> Any:
        return upgraded(given)

    @model_validator(mode="after")
    def _planned_is_there(self) -> PlanRequest:
        named = [(f"{name}.{k}", item) for name in ("also", "elsewhere") for k, item in enumerate(getattr(self, name))]
        for name, item in [("planned", self.planned), *named]:
            if item.part >= len(self.parts):
                raise ValueError(f"{name}.part is {item.part}, but there are {len(self.parts)} parts, counted from 0")
            if item.op >= len(self.parts[item.part].ops):
                raise ValueError(f"{name}.op is {item.op}, but this part has {len(self.parts[item.part].ops)} ops, counted from 0")
        if len({(item.part, item.op) for item in [self.planned, *self.also]}) <= len(self.also):
            raise ValueError("the same op is planned twice")
        return self

    @property
    def views(self) -> list[PlanRequest]:
        """The request as each of its planned ops alone sees it, the first one first; the others are elsewhere."""
        ops = [item.model_copy(update={"station": item.station or self.station}) for item in [self.planned, *self.also]]
        return [
            self.model_copy(
                update={
                    "planned": item,
                    "also": [],
                    "elsewhere": [*(other for other in ops if other is not mine), *self.elsewhere],
                    "station": mine.station,
                }
            )
            for item, mine in zip([self.planned, *self.also], ops, strict=True)
        ]

    def station_path(self, kind: int) -> str:
        """Where in this document the station of a planned op stands; ``kind`` counts from 0."""
        own = [self.planned, *self.also][kind].station
        if own is None:
            return "station"
        return "planned.station" if kind == 0 else f"also.{kind - 1}.station"

    @property
    def several_parts(self) -> bool:
        return len({item.part for item in [self.planned, *self.also]}) > 1

    @property
    def per_set(self) -> list[int]:
        """How many of each planned op make a complete part, or a kit."""
        return [self.parts[item.part].per_kit if self.several_parts else 1 for item in [self.planned, *self.also]]

    @property
    def face_names(self) -> list[str]:
        """Faces by the angle that the block is indexed to; one plate by its own name."""
        count = self.block.faces
        letter = "B" if self.block.axis == "upright" else "A"
        return [f"{letter}{360 * k / count:g}°" for k in range(count)] if count > 1 else [self.plate.name]

    @property
    def part(self) -> Part:
        """The part the plate is laid out for."""
        return self.parts[self.planned.part]

    @property
    def op(self) -> Op:
        """The op the plate is laid out for."""
        return self.part.ops[self.planned.op]

    @property
    def wanted(self) -> int:
        """How many of what a cycle is counted in are wanted in all: of the part, or kits."""
        return self.quantity if self.several_parts else self.quantity * self.part.per_kit

    @property
    def judged(self) -> list[Feature]:
        """Features that this op cuts."""
        return [self.part.features[index] for index in judged_in(self.part.features, self.op.number)]


Rings = list[list[tuple[float, float]]]


class StationDrawing(Document):
    """The station in its own frame, for drawing: rings in mm, the datum corner at (0, 0); heights over the plate.

    ``part`` is its first part, ``parts`` are all that share its clamp; nothing where there is but one. ``bodies``: everything that
    stands, with its heights.
    """

    height_mm: float
    stop_height_mm: float
    clamp_height_mm: float
    part: Rings
    parts: list[Rings] = []
    stops: Rings
    clamps: Rings
    screws: list[tuple[float, float]]
    screw_diameter_mm: float
    wrench_diameter_mm: float
    sweep: Rings
    features: list[tuple[float, float]]
    bodies: list[Layer] = []


class PlacedStation(Document):
    """A station on the plate: its datum corner, its turn, and the verdict on the feature that uses most of its tolerance.

    ``face`` and ``kind`` count from 0. ``hold_factor``: as it is turned here, so with its weight in the direction it has here;
    ``reach_share``: of the travel that its cuts use. ``feature`` is empty, and the share nothing, when no feature of this op is
    measured from the fixture's datum. ``faults``: what is wrong with where a person put it; ``nearest_mm``: the nearest place that works.
    """

    number: int
    face: int = 0
    kind: int = 0
    x_mm: float
    y_mm: float
    turn: Turn
    hold_factor: float = 0
    reach_share: float = 0
    feature: str
    feature_x_mm: float
    feature_y_mm: float
    tolerance_share: float
    probable_mm: float
    worst_case_mm: float
    contributions: list[Contribution]
    locked: bool = False
    faults: list[str] = []
    nearest_mm: Point | None = None


class DirectionFactor(Document):
    """The lowest factor of all cases that push in this direction, in the station's frame."""

    angle_deg: float
    factor: float


class TurnFactor(Document):
    """The factor of a station at this turn: on an upright face its weight hangs another way at each."""

    turn: Turn
    factor: float


class TorquePoint(Document):
    """At this screw torque: the factor of the cases that are worst, and the pressure over the softer side's yield."""

    torque_nm: float
    factor: float
    pressure_share: float


class Remedy(Document):
    """One change that would make the part hold, or hold better: found by solving again, not by guessing. ``factor``: what it gives."""

    what: str
    field: str
    value: float
    factor: float
    holds: bool


class Give(Figure):
    """Something that gives, and how far. ``counted``: it is a part of the tolerance budget."""

    counted: bool


class Way(Document):
    """One way of clamping the stations of one kind, planned by itself: what it takes, what it gives, and why it would not do.

    ``torque_nm``: the torque it would be set to, in its window; nothing for a vacuum. ``rank`` 1 is the planner's choice.
    """

    kind: int = 0
    name: Text
    element: Element
    sharing: Sharing
    clamps: int
    torque_nm: float | None
    factor: float
    count: int
    bound: int
    screws: int
    loading_seconds: float
    part_seconds: float
    rank: int
    refused: str = ""
    figures: list[Figure] = []


class HoldVerdict(Document):
    """Factor, how it would fail, by direction and by the station's turn, and the window of torque in which it holds.

    ``share``: how the forces share themselves out between the contacts. ``marks_from_nm`` and ``sinks_from_nm``: torque from which the
    softer side yields under some contact, and gives way in full; nothing where the screw's rating does not get there. ``row``: how
    the parts of a row share the jaws' force, low end; ``remedies``: what would make it hold; ``curve``: up to the screw's rating, of
    the cases that are worst at the torque set: for reading off, while the factor there is of all cases. ``gives``: what gives how far;
    ``indexing``: the least times its weight that a part is held while a bar turns it about, nothing where none does; ``release``: how
    the part comes out; ``cautions``: what its clamps ask of people. ``torque``: whether a screw is what presses.
    """

    result: HoldResult
    needed: float
    preload_low_n: float
    preload_high_n: float
    seating_n: float
    contacts: list[Contact]
    by_direction: list[DirectionFactor]
    by_turn: list[TurnFactor] = []
    least_torque_nm: float | None
    share: ShareResult | None = None
    marks_from_nm: float | None = None
    sinks_from_nm: float | None = None
    row: RowResult | None = None
    remedies: list[Remedy] = []
    curve: list[TorquePoint] = []
    gives: list[Give] = []
    indexing: float | None = None
    release: list[str] = []
    cautions: list[str] = []
    torque: bool = True


class PlannedKind(Document):
    """One of the planned ops as it stands on the faces.

    ``tolerance_region``: where on a plate its tightest feature stays in tolerance; nothing when all of it does.
    """

    planned: Planned
    name: str
    op_number: int
    per_set: int
    stations: int
    drawing: StationDrawing
    tolerance_region: Rings | None


class DatumStrategy(Document):
    """One way of picking zeros up: complete parts a cycle with all stations in tolerance, work offsets, and seconds to pick them up.

    ``rank`` 1 has the most parts for the least; ``says``: what it would buy over the cheapest that will do; ``refused``: why it will not.
    """

    strategy: Strategy
    says: str = ""
    count: int
    offsets: int
    seconds: float
    refused: str
    rank: int


class LeftOut(Document):
    """A station that has room on a face and is not placed: there its ``feature`` would use more than its tolerance."""

    face: int
    kind: int
    x_mm: float
    y_mm: float
    turn: Turn
    feature: str
    share: float
    uses_mm: float
    tolerance_mm: float


class Design(Document):
    """One complete answer: ``count`` of ``counted`` a cycle, from the stations of all kinds on all faces.

    ``name``: what it is best at; ``more_room_mm``: gap between stations beyond the one asked for; ``turns``, ``rows`` (of one height
    on one face) and ``offsets`` (work offsets used): how easy it is to program and load.
    """

    name: str = "most parts"
    more_room_mm: float = 0
    form: Text = "fixture plate, stops, edge clamp"
    counted: Literal["parts", "complete parts", "kits"] = "parts"
    faces: list[str] = []
    kinds: list[PlannedKind]
    count: int
    bound: int
    proven: bool
    statement: str
    by_hand: int
    method: str
    cycles: int
    cut_seconds: float
    cycle: Cycle
    turns: list[Turn] = []
    rows: int = 0
    offsets: int = 1
    datum: Strategy = "one for all"
    stations: list[PlacedStation]
    left_out: list[LeftOut] = []
    limits: list[Limit]
    figures: list[Figure]


class Reason(Document):
    """Why there is no design: which field or limit, why, and the nearest thing that works."""

    field: Text
    what: str
    why: str
    nearest: str


class CutLoad(Document):
    """The load of one cut of the op."""

    name: str
    load: CuttingLoad
    seconds: float


class OpAnswer(Document):
    """Load and hold of one more op that is planned with the first."""

    planned: Planned
    loads: list[CutLoad]
    hold: HoldVerdict | None
    figures: list[Figure]


class PlanResult(Document):
    """Designs, best first; or none, with the reasons. ``figures`` of load and hold are common to all; each design has its own besides.

    ``loads``, ``hold`` and ``figures`` are those of the first planned op, ``others`` those of the rest. ``ways``: where the planner
    picks the clamps, what it tried, its choice first. ``strategies``: what other datums would cost and let on.
    """

    format: Literal["wedgecraft plan result"] = "wedgecraft plan result"
    version: Literal[2] = 2
    feasible: bool
    designs: list[Design]
    reasons: list[Reason]
    figures: list[Figure]
    loads: list[CutLoad]
    hold: HoldVerdict | None
    others: list[OpAnswer] = []
    ways: list[Way] = []
    strategies: list[DatumStrategy] = []
    cautions: list[str]


class PlanDocument(Document):
    """What is exported and read again: the request and, where it was planned, its result."""

    format: Literal["wedgecraft plan"] = "wedgecraft plan"
    version: Literal[1, 2] = 2
    request: PlanRequest
    result: PlanResult | None = None


def with_way(request: PlanRequest, way: Way) -> PlanRequest:
    """The request with the stations of one of its kinds clamped that way; an op planned with the first gets a station of its own."""
    kind = request.views[way.kind].station
    clamp = kind.clamp if way.torque_nm is None else at_torque(kind.clamp, way.torque_nm)
    station = kind.model_copy(update={"element": way.element, "sharing": way.sharing, "clamps": way.clamps, "clamp": clamp})
    if way.kind == 0:
        planned = request.planned.model_copy(update={"station": None})
        return request.model_copy(update={"station": station, "planned": planned})
    also = list(request.also)
    also[way.kind - 1] = also[way.kind - 1].model_copy(update={"station": station})
    return request.model_copy(update={"also": also})


def chosen(request: PlanRequest, tried: Sequence[Way]) -> PlanRequest:
    """The request with the first choice of every kind."""
    for way in tried:
        if way.rank == 1:
            request = with_way(request, way)
    return request


def with_datum(request: PlanRequest, strategy: Strategy) -> PlanRequest:
    """The request with zeros picked up that way."""
    return request.model_copy(update={"rules": request.rules.model_copy(update={"datum": strategy})})


def settled(request: PlanRequest, result: PlanResult | None) -> PlanRequest:
    """The request with the datum that its result was planned with, where the planner picks it."""
    if request.rules.datum != "cheapest in tolerance":
        return request
    designs = result.designs if result is not None else []
    return with_datum(request, designs[0].datum if designs else "one for all")
