"""One complete answer: stations on faces, each judged, with limits and figures."""

from __future__ import annotations

import hashlib
from typing import Literal

from wedgecraft.core.ground.documents import Document, Point, Rings, Text
from wedgecraft.core.ground.limits import Figure, Limit
from wedgecraft.core.records.cycle import Cycle
from wedgecraft.core.records.layout import Layer, Turn
from wedgecraft.core.records.request import Planned
from wedgecraft.core.records.rules import Strategy
from wedgecraft.core.records.tolerance import Contribution


class MemberPlace(Document):
    """Where a part of a station stands: its datum corner, turned half round or not."""

    x_mm: float = 0
    y_mm: float = 0
    half_turn: bool = False


class StationDrawing(Document):
    """The station in its own frame, for drawing: rings in mm, the datum corner at (0, 0); heights
    over the plate.

    ``part`` is its first part, ``parts`` are all that share its clamp; nothing where there is but
    one: the workpiece as it is put in; ``places``: where they stand. ``finished``: the finished
    parts inside them. ``under``: what of
    the clamps lies below what parts stand on. ``bodies``: everything that stands, with its heights.
    """

    height_mm: float
    stop_height_mm: float
    clamp_height_mm: float
    part: Rings
    parts: list[Rings] = []
    finished: list[Rings] = []
    places: list[MemberPlace] = [MemberPlace()]
    under: Rings = []
    stops: Rings
    clamps: Rings
    screws: list[tuple[float, float]]
    screw_diameter_mm: float
    wrench_diameter_mm: float
    sweep: Rings
    features: list[tuple[float, float]]
    bodies: list[Layer] = []


class PlacedStation(Document):
    """A station on the plate: its datum corner, its turn, and the verdict on the feature that uses
    most of its tolerance.

    ``face`` and ``kind`` count from 0. ``hold_factor``: as it is turned here, so with its weight in
    the direction it has here; ``reach_share``: of the travel that its cuts use. ``feature`` is
    empty, and the share nothing, when no feature of this op is measured from the fixture's datum.
    ``faults``: what is wrong with where a person put it; ``nearest_mm``: the nearest place that
    works. ``with_station``: the number of the one that stands in the same body, and goes where it
    goes.
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
    with_station: int | None = None


class PlannedKind(Document):
    """One of the planned ops as it stands on the faces.

    ``tolerance_region``: where on a plate its tightest feature stays in tolerance; nothing when all
    of it does.
    """

    planned: Planned
    name: str
    op_number: int
    per_set: int
    stations: int
    drawing: StationDrawing
    tolerance_region: Rings | None


class DatumStrategy(Document):
    """One way of picking zeros up: complete parts a cycle with all stations in tolerance, work
    offsets, and seconds to pick them up.

    ``rank`` 1 has the most parts for the least; ``says``: what it would buy over the cheapest that
    will do; ``refused``: why it will not.
    """

    strategy: Strategy
    says: str = ""
    count: int
    offsets: int
    seconds: float
    refused: str
    rank: int


class LeftOut(Document):
    """A station that has room on a face and is not placed: there its ``feature`` would use more
    than its tolerance.
    """

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
    """One complete answer: ``count`` of ``counted`` a cycle, from the stations of all kinds on all
    faces.

    ``name``: what it is best at; ``more_room_mm``: gap between stations beyond the one asked for;
    ``turns``, ``rows`` (of one height on one face) and ``offsets`` (work offsets used): how easy it
    is to program and load.
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

    @property
    def mark(self) -> str:
        """A short mark that another design does not have."""
        return hashlib.sha256(self.model_dump_json().encode()).hexdigest()[:8]
