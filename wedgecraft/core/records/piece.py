"""What must be made or bought for a setup: pieces with their holes, lists, hours, money."""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.ground.documents import Document, Ring, Rings
from wedgecraft.core.records.material import Material

# fmt: off
Side = Literal[
    "top", "bottom", "left", "right", "front", "back",
    "face 1", "face 2", "face 3", "face 4", "face 5", "face 6", "face 7", "face 8",
]
# fmt: on


class HolePlace(Document):
    """Where a hole is, from the piece's corner; on a side face along it and up from the bottom.
    ``station``: which one it is for, nothing for the piece's own.
    """

    x_mm: float
    y_mm: float
    what: str
    station: int | None = None


class Holes(Document):
    """Holes made alike, one row of a hole table: ``diameter_mm`` of the drill, or the nominal size
    of a ``fit`` with its limits; ``depth_mm`` of the full diameter, nothing for through;
    ``sink_mm``: counterbore; ``through_mm``: a smaller hole on through, to press a dowel out;
    ``in_pocket``: it is part of a pocket's outline; ``begins_mm``: so far below its side, where a
    piece comes in several bodies and it begins at an inner face.
    """

    letter: str
    says: str
    side: Side = "top"
    diameter_mm: float
    depth_mm: float | None
    thread: str = ""
    thread_depth_mm: float | None = None
    insert: bool = False
    fit: str = ""
    low_mm: float | None = None
    high_mm: float | None = None
    sink_mm: float | None = None
    sink_depth_mm: float | None = None
    through_mm: float | None = None
    in_pocket: bool = False
    begins_mm: float = 0
    places: list[HolePlace]

    @property
    def widest_mm(self) -> float:
        return max(self.diameter_mm, self.sink_mm or 0.0)


class Pocket(Document):
    """What is milled into a piece: its outline, how deep, the radius of its inner corners; from
    below where ``floor_mm`` is nothing.
    """

    what: str
    outline: Rings
    depth_mm: float
    corner_mm: float
    floor_mm: float


class Bought(Document):
    """Something to buy, or to take from the shelf."""

    says: str
    count: int
    why: str


class MakeStep(Document):
    """A step of making a piece: how many of it, and the minutes for all."""

    what: str
    count: float
    minutes: float


class MakeDoubt(Document):
    """What cannot be made as it is (``wrong``), or what nobody has said: what, by how much, and the
    nearest that works. ``places``: where on the piece.
    """

    what: str
    says: str
    remedy: str
    wrong: bool = True
    places: list[tuple[float, float]] = []


class Mark(Document):
    """A line of marking on a piece, from its lower left end; ``high_mm``: of capitals."""

    text: str
    x_mm: float
    y_mm: float
    high_mm: float


class Rests(Document):
    """How one size of a part lies in its jaws: ``gap_mm`` all round before they close, negative
    where it does not go in; in how many places and over how much of each jaw's wall it touches; the
    highest pressure; within how much it comes to lie, wherever it was put down, but for its turn
    where it ``turns_freely``. ``quills``: where
    it touches (x, y), the way it presses, and how hard, as a share of the highest.
    """

    size: Literal["smallest", "nominal", "largest"]
    gap_mm: float
    places_fixed: int
    places_moving: int
    fixed_mm: float
    moving_mm: float
    pressure_mpa: float
    within_mm: float
    turns_freely: bool = False
    quills: list[tuple[float, float, float, float, float]] = []


class AngleTried(Document):
    """A part between soft jaws, put in at an angle: how it holds, of how much is needed; how much
    of each jaw's wall grips; its size across the jaws and along them; or why it cannot.
    """

    turn_deg: float
    why: str
    needed: float
    factor: float = 0
    fixed_mm: float = 0
    moving_mm: float = 0
    across_mm: float = 0
    along_mm: float = 0
    refused: str = ""

    @property
    def grip_mm(self) -> float:
        """Of the jaw that grips less."""
        return min(self.fixed_mm, self.moving_mm)


class Touching(Document):
    """How soft jaws meet their part: clearance all round, the cutter for the pocket and corners it
    relieves, of each jaw's gripping wall what is left of how much (mm), the floor under the pocket,
    how deep it is, the gap between the jaws. ``varies_mm``: half of how much parts differ across
    the jaws, and ``varies_says`` where that comes from; ``behind_mm``: what stays behind the pocket
    of the fixed and of the moving jaw, and ``bends_mm`` how far its top gives at ``force_n``,
    nothing where nobody knows that; ``rests``: how the smallest, the nominal
    and the largest lie.
    """

    clearance_mm: float
    cutter_mm: float
    reliefs: int
    fixed_mm: float
    fixed_of_mm: float
    moving_mm: float
    moving_of_mm: float
    floor_mm: float
    depth_mm: float
    gap_mm: float
    varies_mm: float = 0
    varies_says: str = ""
    force_n: float | None = None
    behind_mm: list[float] = []
    bends_mm: list[float] = []
    rests: list[Rests] = []


class Piece(Document):
    """One piece, ``alike`` of them; its corner at (0, 0), the wedge at its datum. ``bodies``: where
    it comes in several, their outlines; ``section``: its outline where it is no rectangle, the side
    in front first; ``drawn_part``: the part as it stands in it. ``bridged``:
    the pockets as they go on over the gap between bodies, for a cam system.
    """

    name: str
    kind: str
    alike: int
    serials: list[str] = []
    ops: list[int]
    material: Material
    width_mm: float
    depth_mm: float
    thickness_mm: float
    datum_mm: tuple[float, float]
    datum_says: str
    bodies: list[Ring] = []
    section: Ring | None = None
    drawn_part: Rings = []
    bridged: list[Pocket] = []
    touching: Touching | None = None
    holes: list[Holes] = []
    pockets: list[Pocket] = []
    marks: list[Mark] = []
    notes: list[str] = []
    doubts: list[MakeDoubt] = []
    bought: list[Bought] = []
    steps: list[MakeStep] = []
    minutes: float = 0
    money: float | None = None
    mass_kg: float = 0
    centre_mm: tuple[float, float, float] = (0, 0, 0)

    @property
    def follows_part(self) -> bool:
        """A pair of jaws with a part's profile."""
        return self.touching is not None

    @property
    def is_block(self) -> bool:
        """What plates stand round."""
        return self.kind == "block"

    @property
    def is_plate(self) -> bool:
        """What stations stand on."""
        return not self.bodies and not self.is_block


class Making(Document):
    """What a setup's pieces come to, in short: how many are made, minutes and money for all, what
    cannot be made as it is (``wrong``) and what nobody has said (``open``).
    """

    pieces: int
    minutes: float
    money: float | None
    wrong: list[str] = []
    open: list[str] = []


class Made(Document):
    """All that one setup needs; ``number`` counts from 1. Minutes and money are for all copies;
    money is nothing where a rate is not known.
    """

    number: int
    pieces: list[Piece]
    bought: list[Bought]
    minutes: float
    money: float | None
    currency: str
    reasons: list[str] = []

    @property
    def short(self) -> Making:
        """In short."""
        doubts = [
            (doubt.wrong, f"{piece.name}: {doubt.what}: {doubt.says}")
            for piece in self.pieces
            for doubt in piece.doubts
        ]
        return Making(
            pieces=sum(piece.alike for piece in self.pieces),
            minutes=self.minutes,
            money=self.money,
            wrong=[says for wrong, says in doubts if wrong],
            open=[says for wrong, says in doubts if not wrong],
        )


class JobMade(Document):
    """The pieces of all setups of a job; feasible where each has a layout."""

    feasible: bool
    setups: list[Made]
