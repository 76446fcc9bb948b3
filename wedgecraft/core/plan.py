"""The plan document: what is asked, and the designs that answer it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.contacts import Contact, HoldResult
from wedgecraft.core.cutting import CuttingLoad, MillingCut
from wedgecraft.core.layout.document import Turn
from wedgecraft.core.limits import Figure, Limit
from wedgecraft.core.machine import Datum, Machine, Plate
from wedgecraft.core.model import Document, Text
from wedgecraft.core.part import Part
from wedgecraft.core.station import StopAndEdgeClamp
from wedgecraft.core.tolerance import Accuracy, Contribution, PositionTolerance


class HouseRules(Document):
    """What this shop asks for beyond the physics."""

    safety_factor: Annotated[float, Field(ge=1, le=10)] = 2.0
    safety_factor_interrupted: Annotated[float, Field(ge=1, le=10)] = 2.5


class PlanRequest(Document):
    """One part on one plate on one machine, held by stops and edge clamps, under one cut and one tolerance."""

    format: Literal["wedgecraft plan request"] = "wedgecraft plan request"
    version: Literal[1] = 1
    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)]
    part: Part
    cut: MillingCut
    tolerance: PositionTolerance
    accuracy: Accuracy = Accuracy()
    plate: Plate
    datum: Datum = Datum()
    machine: Machine
    station: StopAndEdgeClamp
    rules: HouseRules = HouseRules()


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
    feature: tuple[float, float]


class PlacedStation(Document):
    """A station on the plate: its datum corner, its turn, and its tolerance verdict."""

    number: int
    x_mm: float
    y_mm: float
    turn: Turn
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


class PlanResult(Document):
    """Designs, best first; or none, with the reasons. ``figures`` of load and hold are common to all; each design has its own besides."""

    format: Literal["wedgecraft plan result"] = "wedgecraft plan result"
    version: Literal[1] = 1
    feasible: bool
    designs: list[Design]
    reasons: list[Reason]
    figures: list[Figure]
    load: CuttingLoad | None
    hold: HoldVerdict | None
    cautions: list[str]


class PlanDocument(Document):
    """What is exported and read again: the request and, where it was planned, its result."""

    format: Literal["wedgecraft plan"] = "wedgecraft plan"
    version: Literal[1] = 1
    request: PlanRequest
    result: PlanResult | None = None
