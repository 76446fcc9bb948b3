"""What happened at the machine, entry by entry, and what it says."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length, Torque
from wedgecraft.core.records.job import JobDocument

Said = Annotated[str, Field(max_length=300)]
Station = Annotated[int, Field(ge=1, le=2000)]
Seconds = Annotated[float, Field(gt=0, le=1e6)]
#: How it came in.
By = Literal["tablet", "typed", "file", "control", "wrench", "probe", "gauge"]


class Entry(Document):
    """One thing that happened. ``id``: 32 hexadecimal digits, given where it was written down, so
    that it counts once however often it is sent; ``at``: by the clock of whoever wrote it.
    """

    id: Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
    at: AwareDatetime
    setup: Annotated[int, Field(ge=1, le=20)] = 1
    by: By = "typed"
    note: Said = ""


class CycleDone(Entry):
    """A cycle ended: its seconds, parts that were good, and those that were not, by station."""

    kind: Literal["cycle"] = "cycle"
    seconds: Seconds
    good: Annotated[int, Field(ge=0, le=5000)]
    scrapped: Annotated[list[Station], Field(max_length=2000)] = []


class Loaded(Entry):
    """A fixture was unloaded and loaded: seconds, parts."""

    kind: Literal["load"] = "load"
    seconds: Seconds
    parts: Annotated[int, Field(ge=1, le=5000)]


class Tightened(Entry):
    """A screw was tightened: as the wrench says it, N·m."""

    kind: Literal["torque"] = "torque"
    station: Station
    torque_nm: Annotated[Torque, Field(ge=0, le=5000)]


class PartMeasured(Entry):
    """A part was measured: how far ``feature`` is off, mm, in X, Y, or by itself."""

    kind: Literal["measure"] = "measure"
    station: Station
    feature: Annotated[str, Field(min_length=1, max_length=120)]
    axis: Literal["X", "Y", ""] = ""
    off_mm: Annotated[Length, Field(ge=-100, le=100)]


class NewEdge(Entry):
    """A tool got a new edge after so many minutes of cut; ``worn``: else it was changed before."""

    kind: Literal["edge"] = "edge"
    tool: Annotated[str, Field(min_length=1, max_length=120)]
    minutes: Annotated[float, Field(gt=0, le=1e6)]
    worn: bool = True


class Stop(Entry):
    """The machine stood: seconds, and why."""

    kind: Literal["stop"] = "stop"
    seconds: Seconds
    reason: Annotated[str, Field(min_length=1, max_length=120)]


class Trouble(Entry):
    """A part slipped, or something was hit."""

    kind: Literal["slip", "crash"]
    station: Station | None = None


class Noted(Entry):
    """A line of text."""

    kind: Literal["note"] = "note"


AnyEntry = Annotated[
    CycleDone | Loaded | Tightened | PartMeasured | NewEdge | Stop | Trouble | Noted,
    Field(discriminator="kind"),
]


class Outlier(Document):
    """A case that was left out, and why; ``id`` of its entry."""

    id: str
    at: datetime
    value: float
    why: str


class Learned(Document):
    """One value in use, and what the log says of it.

    ``field``: where it stands in a job; nothing where nothing reads it. ``low`` and ``high``: 90 %
    of it; ``cases`` that counted. ``contradicts``: what is in use lies outside. ``value`` in
    ``unit``.
    """

    id: str
    label: str
    field: str | None
    unit: str
    digits: int
    in_use: float
    value: float
    low: float
    high: float
    cases: int
    left_out: list[Outlier]
    contradicts: bool
    says: str
    source: str


class Against(Document):
    """Planned and real of one number."""

    what: str
    unit: str
    planned: float
    real: float
    cases: int
    setup: int


class StationShare(Document):
    """Parts of one station; ``low`` and ``high``: 90 % of its true share scrapped. ``stands_out``:
    that far from the others it comes by chance in less than one case of a hundred.
    """

    setup: int
    station: int
    made: int
    scrapped: int
    share: float
    low: float
    high: float
    stands_out: bool


class Chart(Document):
    """Individual values in order, limits from the moving range. ``signals``: index and why."""

    what: str
    setup: int
    station: int | None
    unit: str
    values: list[float]
    at: list[datetime]
    centre: float
    low: float
    high: float
    sigma: float
    signals: list[tuple[int, str]]
    tolerance_mm: float | None = None
    cpk: float | None = None
    cpk_low: float | None = None
    cpk_high: float | None = None


class TorqueSeen(Document):
    """Torques of a setup against what was asked; ``off``: station and N·m of those outside."""

    setup: int
    asked_nm: float
    least_nm: float
    most_nm: float
    within: int
    off: list[tuple[int, float]]


class LogSaid(Document):
    """What the log says, against what was planned. ``good`` and ``scrapped`` count parts that came
    off a setup; ``complete``: kits, or parts through all setups.
    """

    entries: int
    complete: int
    good: int
    scrapped: int
    quantity: int
    says: list[str]
    against: list[Against]
    stations: list[StationShare]
    charts: list[Chart]
    torques: list[TorqueSeen]
    stops: list[tuple[str, int, float]]
    learned: list[Learned]

    @property
    def feasible(self) -> bool:
        """Whether there is anything in it."""
        return self.entries > 0


class LearnedValues(Document):
    """What can be learned from a log."""

    learned: list[Learned]


class LogRequest(Document):
    """A job, planned or not, and what happened."""

    document: JobDocument
    programmed_s: Annotated[list[float | None], Field(max_length=20)] = []
    entries: Annotated[list[AnyEntry], Field(max_length=200_000)]
