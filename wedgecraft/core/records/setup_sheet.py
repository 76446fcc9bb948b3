"""What a setter works by: one setup on a page or two."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Rings, Text
from wedgecraft.core.records.program import ProgramRequest, Zero


class SheetStation(Document):
    """Where a part goes, on its plate: outlines of part, stops, clamps; ``at_mm``: its number."""

    number: int
    op: int
    turn: int
    at_mm: tuple[float, float]
    parts: list[Rings]
    corners_mm: list[tuple[float, float]]
    stops: list[list[tuple[float, float]]]
    clamps: list[list[tuple[float, float]]]
    screws_mm: list[tuple[float, float]]


class SheetFace(Document):
    """A plate as one looks at it."""

    name: str
    width_mm: float
    depth_mm: float
    stations: list[SheetStation]


class Tightened(Document):
    """What is tightened at a station of these ops: with what, to which torque, in which order.
    ``window_nm``: between what a wrench that was set to it should say.
    """

    ops: list[int]
    what: str
    key: str
    torque_nm: float | None
    window_nm: tuple[float, float] | None = None
    each_part: int
    steps: list[str]


class SheetTool(Document):
    """A tool of the program; ``length_mm`` from the spindle's face, nothing where nobody has said;
    ``there``: it stands in the machine's table.
    """

    number: int
    cutter: str
    holder: str
    length_mm: float | None
    reach_mm: float | None
    there: bool


class Measure(Document):
    """What to measure of a first article, and what to expect of it at its worst station."""

    op: int
    feature: str
    tolerance_mm: float | None
    expected_mm: float
    station: int
    with_what: str


class Heavy(Document):
    """What is lifted, its weight, and the recommended limit with its multipliers; ``by_hand``:
    whether it is within that.
    """

    what: str
    kg: float
    limit_kg: float
    multipliers: dict[str, float]
    by_hand: bool


class SetupSheet(Document):
    """One setup. ``version``: a short mark of the design it was made from; ``current``: whether the
    job is still as it was planned; ``accepted``: nothing where there is no program; ``wrong``: so
    many things the stand-in found; without any, not everything was looked at. ``exceeded``: limits
    of the design that do not hold.
    """

    job: Text
    setup: int
    setups: int
    version: str
    current: bool
    machine: str
    form: str
    parts_a_cycle: int
    quantity: int
    copies: int
    faces: list[SheetFace]
    loading: list[str]
    tightened: list[Tightened]
    zeros: list[Zero]
    zero_notes: list[str]
    tools: list[SheetTool]
    remove: list[str]
    program: str
    lines: int
    seconds: float | None
    accepted: bool | None
    wrong: int = 0
    exceeded: list[str] = []
    first_article: list[Measure]
    heavy: list[Heavy]
    checks: list[str]
    cautions: list[str]

    @property
    def feasible(self) -> bool:
        """Whether it is of the job as it stands."""
        return self.current


class SheetRequest(ProgramRequest):
    """A job, planned or not, the programs of its ops, and which setup, counted from 1."""

    setup: Annotated[int, Field(ge=1, le=20)] = 1
