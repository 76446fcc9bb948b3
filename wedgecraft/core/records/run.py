"""How a job goes: setups as they are run, and what came out of it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.records.job import JobDocument

#: What a machine does, or waits for, while it could cut.
Doing = Literal[
    "cuts",
    "changes tools, indexes, moves",
    "is loaded",
    "changes pallets",
    "has its fixtures swapped",
    "waits for a person",
    "waits for a loaded fixture",
    "waits for a new edge",
    "stands, something went wrong",
    "would run alone",
    "stands, nobody there",
]


class Tooled(Document):
    """A cutter of a setup and how long it cuts in a cycle."""

    name: str
    seconds: float


class Stage(Document):
    """A setup as it is run. Seconds of a cycle: ``cut_s`` at feed, ``move_s`` for tool changes,
    index and rapids; ``change_s`` to bring the next fixture under the spindle, which takes a person
    where ``by_hand``. ``load_s``: unloading and loading one fixture. ``fixtures``: as many go
    round; a single one is loaded where it stands. ``sets``: kits or complete parts that a cycle
    makes its share of; ``pieces``: parts that are handled. ``source`` of the seconds.
    """

    number: int
    name: str
    machine: str
    cut_s: float
    move_s: float
    change_s: float
    by_hand: bool
    load_s: float
    fixtures: int
    sets: float
    pieces: int
    setup_s: float
    tools: list[Tooled]
    source: Literal["program", "cuts and moves"] = "cuts and moves"

    @property
    def run_s(self) -> float:
        """From the start of a cycle to its end."""
        return self.cut_s + self.move_s


class Interval(Document):
    """A mean over repeats, and between what 90 % of them fell."""

    mean: float
    low: float
    high: float


class Share(Document):
    """What a machine did, as a share of the hours it could have worked."""

    what: Doing
    share: float


class StageRun(Document):
    """How a setup ran. ``spindle``: share of the hours that people are there in which it cuts;
    ``needs_s``: seconds a complete part or kit takes of its machine; ``alone_hours``: how long it
    cuts after people leave, on a usual evening; ``stops_first``: what ends that, with how often.
    """

    number: int
    name: str
    machine: str
    cycle_s: float
    load_s: float
    fixtures: int
    source: str
    a_day: Interval
    spindle: Interval
    doing: list[Share]
    alone_hours: Interval
    stops_first: list[tuple[str, float]]
    over_the_weekend: float


class Worth(Document):
    """What a change buys: parts or kits a working day more; ``why`` where it is nothing."""

    what: str
    gains: float
    why: str


class Cost(Document):
    """A line of what an order costs."""

    what: str
    each_time: float
    a_piece: float
    why: str


class Course(Document):
    """One way to run this order: what it costs, once and a piece; ``total`` for the order,
    ``low`` and ``high``: between what 90 % of draws fell; ``all_orders``: with the chance of a
    repeat; ``days``: until the order is done.
    """

    name: str
    made: float
    each_order: float
    a_piece: float
    total: float
    low: float
    high: float
    all_orders: float
    seconds_a_piece: float


class Uncertain(Document):
    """How far one input moves the gain of tooling first, from its low to its high."""

    what: str
    low: float
    high: float


class Money(Document):
    """``missing``: rates that nobody has said; then hours stand for money. ``even_at``: from so
    many pieces on the fixture pays, nothing where it never does; ``payback_months`` with its
    interval where orders a year are known.
    """

    currency: str
    missing: list[str]
    lines: list[Cost]
    a_piece: float | None
    courses: list[Course]
    even_at: int | None
    payback_months: Interval | None
    uncertain: list[Uncertain]
    says: list[str]


class RunResult(Document):
    """How the job runs, in so many ``repeats`` of ``days`` each. ``a_day``: complete parts or kits
    a working day once all goes round; ``done_days``: calendar days from the start until the order
    is done; ``limits``: the setup that has the fewest, from 1.
    """

    feasible: bool
    reasons: list[str]
    counted: str
    quantity: int
    repeats: int
    days: float
    stages: list[StageRun]
    a_day: Interval | None
    done_days: Interval | None
    limits: int | None
    says: list[str]
    figures: list[Figure]
    money: Money | None
    cautions: list[str]


class WorthTable(Document):
    """What a minute is worth, most first."""

    counted: str
    a_day: float
    rows: list[Worth]


class RunRequest(Document):
    """A job, planned or not, and what its setups' programs take where those were accepted: seconds,
    in their order; nothing where there is none.
    """

    document: JobDocument
    programmed_s: Annotated[list[float | None], Field(max_length=20)] = []
    repeats: Annotated[int, Field(ge=2, le=1000)] = 100
