"""What is asked and answered about a part from blank to finished."""

from __future__ import annotations

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.feature import Direction, OpNumber
from wedgecraft.core.records.part import Part

Vector = tuple[float, float, float]


class WorkpieceRequest(Document):
    """A part with its stock, ops and cuts."""

    part: Part


class BodyFacts(Document):
    """A body: ``inertia_kg_mm2`` about its centre, rows of a 3 x 3 matrix; ``low_mm`` and
    ``high_mm``: its box.
    """

    volume_mm3: float
    surface_mm2: float
    mass_kg: float
    centre_mm: Vector
    inertia_kg_mm2: tuple[Vector, Vector, Vector]
    low_mm: Vector
    high_mm: Vector
    chord_error_mm: float


class FaceFound(Document):
    """A plane face: outward normal, area, a point in it; ``side``: where that is one of the six."""

    normal: Vector
    area_mm2: float
    place_mm: Vector
    side: Direction | None


class HoleFound(Document):
    """A round hole: its axis from end to end; ``open_to``: directions from which a tool can come
    along it; ``sides``: those of the six.
    """

    diameter_mm: float
    start_mm: Vector
    end_mm: Vector
    depth_mm: float
    through: bool
    open_to: list[Vector]
    sides: list[Direction]


class GougeFound(Document):
    """Where a cut takes what should stay: how much, how thick, and a place in the op's frame."""

    volume_mm3: float
    depth_mm: float
    place_mm: Vector


class CutTaken(Document):
    """What one cut does. ``least_seconds``: no faster can it be, by volume over removal rate;
    ``buried_mm``: how much stands above where it begins; ``loose_mm3``: pieces it frees; ``wrong``:
    why nothing is known of it.
    """

    name: str
    volume_mm3: float
    least_seconds: float | None
    gouges: list[GougeFound] = []
    buried_mm: float = 0.0
    loose_mm3: list[float] = []
    wrong: str | None = None


class StateFacts(Document):
    """The workpiece in one op, in the op's frame: as it comes, as it leaves, and each cut."""

    op: OpNumber
    up: Direction
    turn_deg: float
    before: BodyFacts
    after: BodyFacts
    cuts: list[CutTaken]


class LeftOverFound(Document):
    """What no cut took, in the part's frame; ``from_side``: the nearest side a tool could come
    from, nothing where none is; ``corner_mm``: the largest cutter that would take it out of its
    corner, 0 for a sharp one, nothing where it stands in none.
    """

    volume_mm3: float
    low_mm: Vector
    high_mm: Vector
    from_side: Direction | None
    corner_mm: float | None


class BurrFound(Document):
    """Two crossing holes: the second leaves a burr in the first. ``cut_away_by``: a cut after both
    that takes it off; ``before``: the cut that would if the second came before it.
    """

    first: str
    second: str
    cut_away_by: str | None
    before: str | None


class Doubt(Document):
    """Something to look at: where in the part's document, in words, and whether it is wrong or only
    to be known. ``by_hand``: a burr of each part that is taken off by hand.
    """

    field: str
    says: str
    wrong: bool = True
    by_hand: bool = False


class WorkpieceResult(Document):
    """A part from blank to finished, in the part's frame where nothing else is said."""

    finished: BodyFacts
    blank: BodyFacts
    faces: list[FaceFound] = Field(default=[])
    holes: list[HoleFound] = Field(default=[])
    states: list[StateFacts]
    left_over: list[LeftOverFound] = Field(default=[])
    burrs: list[BurrFound] = Field(default=[])
    doubts: list[Doubt] = Field(default=[])
