"""The plan document: what is asked, and the designs that answer it."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from wedgecraft.core.contacts import Contact, HoldResult
from wedgecraft.core.cutting.document import CuttingLoad
from wedgecraft.core.features import Feature, Op
from wedgecraft.core.house_rules import HouseRules
from wedgecraft.core.layout.document import Turn
from wedgecraft.core.limits import Figure, Limit
from wedgecraft.core.machine import Datum, Machine, Plate
from wedgecraft.core.model import Document, Text
from wedgecraft.core.part import Part
from wedgecraft.core.plan_upgrade import upgraded
from wedgecraft.core.station import StopAndEdgeClamp
from wedgecraft.core.tolerance import Accuracy, Contribution


class Planned(Document):
    """Which part of the kit, and which of its ops, the plate is laid out for; both count from 0."""

    part: Annotated[int, Field(ge=0)] = 0
    op: Annotated[int, Field(ge=0)] = 0


class PlanRequest(Document):
    """The parts of a kit with their ops; one op of one of them on one plate on one machine, held by stops and edge clamps.

    ``quantity`` counts kits; a job of one part has a kit of one. A request of version 1 is read and brought up to date.
    """

    format: Literal["wedgecraft plan request"] = "wedgecraft plan request"
    version: Literal[2] = 2
    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)]
    parts: Annotated[list[Part], Field(min_length=1, max_length=20)]
    planned: Planned = Planned()
    accuracy: Accuracy = Accuracy()
    plate: Plate
    datum: Datum = Datum()
    machine: Machine
    station: StopAndEdgeClamp
    rules: HouseRules = HouseRules()

    @model_validator(mode="before")
    @classmethod
    def _up_to_date(cls, given: Any) -> Any:
        return upgraded(given)

    @model_validator(mode="after")
    def _planned_is_there(self) -> PlanRequest:
        part, op = self.planned.part, self.planned.op
        if part >= len(self.parts):
            raise ValueError(f"planned.part is {part}, but there are {len(self.parts)} parts, counted from 0")
        if op >= len(self.parts[part].ops):
            raise ValueError(f"planned.op is {op}, but this part has {len(self.parts[part].ops)} ops, counted from 0")
        return self

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
        """How many of the part are wanted in all."""
        return self.quantity * self.part.per_kit

    @property
    def judged(self) -> list[Feature]:
        """Features whose tolerance depends on where the station stands: positions from the fixture's datum, cut in this op."""
        return [
            item
            for item in self.part.features
            if item.kind == "position" and item.measured_from == "fixture datum" and item.op == self.op.number
        ]


Rings = list[list[tuple[float, float]]]


class StationDrawing(Document):
    """The station in its own frame, for drawing: rings in mm, the datum corner at (0, 0)."""

    part: Rings
    stops: Rings
    clamps: Rings
    screws: list[tuple[float, float]]
    screw_diameter_mm: float
    wrench_diameter_mm: float
    sweep: Rings
    features: list[tuple[float, float]]


class PlacedStation(Document):
    """A station on the plate: its datum corner, its turn, and the verdict on the feature that uses most of its tolerance.

    ``feature`` is empty, and the share nothing, when no feature of this op is measured from the fixture's datum.
    """

    number: int
    x_mm: float
    y_mm: float
    turn: Turn
    feature: str
    feature_x_mm: float
    feature_y_mm: float
    tolerance_share: float
    probable_mm: float
    worst_case_mm: float
    contributions: list[Contribution]


class DirectionFactor(Document):
    """The lowest factor of all cases that push in this direction, in the station's frame."""

    angle_deg: float
    factor: float


class HoldVerdict(Document):
    """Factor, how it would fail, by direction, and the torque from which it holds."""

    result: HoldResult
    needed: float
    preload_low_n: float
    preload_high_n: float
    seating_n: float
    contacts: list[Contact]
    by_direction: list[DirectionFactor]
    least_torque_nm: float | None


class Design(Document):
    """One complete answer. ``tolerance_region``: where on the plate a feature stays in tolerance; nothing when all of it does."""

    form: Text = "fixture plate, stops and edge clamps"
    count: int
    bound: int
    proven: bool
    statement: str
    by_hand: int
    method: str
    cycles: int
    cut_seconds: float
    stations: list[PlacedStation]
    drawing: StationDrawing
    tolerance_region: Rings | None
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


class PlanResult(Document):
    """Designs, best first; or none, with the reasons. ``figures`` of load and hold are common to all; each design has its own besides."""

    format: Literal["wedgecraft plan result"] = "wedgecraft plan result"
    version: Literal[2] = 2
    feasible: bool
    designs: list[Design]
    reasons: list[Reason]
    figures: list[Figure]
    loads: list[CutLoad]
    hold: HoldVerdict | None
    cautions: list[str]


class PlanDocument(Document):
    """What is exported and read again: the request and, where it was planned, its result."""

    format: Literal["wedgecraft plan"] = "wedgecraft plan"
    version: Literal[1, 2] = 2
    request: PlanRequest
    result: PlanResult | None = None
