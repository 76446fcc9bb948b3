"""What is asked and answered about the verdicts on features; nothing computed, so that pages can be
served before the engine is loaded.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure, State
from wedgecraft.core.records.locating import Spread
from wedgecraft.core.records.request import PlanRequest

Vector = tuple[float, float, float]


class MustMatch(Document):
    """What both fixtures must have alike: within plus or minus ``within_mm`` of the drawing, where
    today's is ``now_mm``.

    ``within_mm`` is nothing when it does not matter here; less than today's means that one fixture
    alone is out already.
    """

    what: Text
    within_mm: float | None
    now_mm: float
    why: str


class BringsIn(Document):
    """One change: to which ``value`` of which ``field``, the share it leaves, whether that is in;
    ``change``: how much of today's stays.

    An empty ``field``: nothing that this job can set by itself.
    """

    what: Text
    field: str
    value: float | str | None
    share: float
    brings_in: bool
    change: float


class VerdictsRequest(Document):
    """Input of ``compute verdicts``: a plan request whose arrangement holds the stations to judge.

    ``station`` (index) and ``feature`` (name): of one, everything that adds up; nothing for the
    whole table. ``left_out``: so many of the last stations are not placed; they are judged and
    count for nothing else.
    """

    request: PlanRequest
    left_out: Annotated[int, Field(ge=0)] = 0
    samples: Annotated[int, Field(ge=1000, le=1_000_000)] = 100_000
    station: Annotated[int, Field(ge=0)] | None = None
    feature: Text | None = None


class FeatureVerdict(Document):
    """One feature at one station, in the units of its tolerance: a diameter, plus or minus, or a
    width.

    ``state`` by the house rule's way of adding up, ``worst_state`` were every error at its worst.
    ``out_share``: of the sampled parts; ``cpk_at_least``: too few were out to say more.
    ``within_mm``: 997 in 1,000 stay inside.
    """

    station: int
    share: float
    state: State
    worst_state: State
    probable_mm: float
    worst_mm: float
    within_mm: float
    out_share: float
    cpk: float
    cpk_at_least: bool


class FeatureColumn(Document):
    """A feature of one planned op at all its stations; ``problem``: why it cannot be judged, and
    what would mend that.
    """

    kind: int
    feature: Text
    said: str
    tolerance_mm: float
    what: str
    problem: str
    verdicts: list[FeatureVerdict]


class LocatorDrawn(Document):
    """A locator in the frame of the part as it sits, and what being off by 1 mm does: a shift of
    the datum corner, and a turn in radians.
    """

    name: Text
    point_mm: Vector
    normal: Vector
    shift: Vector
    turn: Vector


class BeforeSaid(Document):
    """An op before, and in words how it counts; ``trouble``: the station meant for it cannot hold
    it, and why.
    """

    number: int
    said: str
    trouble: str


class Scheme(Document):
    """How the parts of one planned op are located, and how the ops before count whose errors it
    carries on.
    """

    kind: int
    name: Text
    sentence: str
    free: list[str]
    extra: int
    warnings: list[str]
    locators: list[LocatorDrawn]
    datums: list[str]
    before: list[BeforeSaid]


class Nominal(Document):
    """A size of the drawing; ``axis`` of the part, or nothing for a distance."""

    axis: str
    value_mm: float


class FirstArticle(Document):
    """A line of what to measure at the first article, in order: at which station, from what, and
    the spread to expect there.
    """

    order: int
    kind: int
    feature: Text
    station: int
    nominal: list[Nominal]
    said: str
    tolerance_mm: float
    expect_mm: float
    worst_mm: float
    act_mm: float


class Adds(Document):
    """A group of contributors: plus-or-minus along X and Y of the plate, or along the one way; its
    share of the variance, and why.
    """

    name: Text
    x_mm: float
    y_mm: float | None
    spread: Spread | str
    variance_share: float
    why: list[str]


class Detail(Document):
    """One feature at one station: what adds up, how sampled parts come out, and what would bring it
    in.
    """

    station: int
    kind: int
    feature: Text
    said: str
    tolerance_mm: float
    what: str
    state: State
    probable_mm: float
    worst_mm: float
    place_mm: Vector
    adds: list[Adds]
    edges_mm: list[float]
    counts: list[int]
    limit_mm: float
    figures: list[Figure]
    remedies: list[BringsIn]


class FoundAt(Document):
    """Where a station of the real fixture was found, its rests' height off the drawing, and how far
    along X and Y it is off.
    """

    station: int
    x_mm: float
    y_mm: float
    z_mm: float | None
    off_mm: float


class VerdictsResult(Document):
    """The table by feature and station.

    ``good_share``: by station, parts with every feature in, were features independent;
    ``good_parts``: of ``parts`` in a cycle. ``placed``: stations but for those left out.
    ``pretend``: there is no layout, and what is judged is as if one station of every op stood at
    the datum.
    """

    schemes: list[Scheme]
    columns: list[FeatureColumn]
    good_share: list[float]
    placed: int
    parts: int
    good_parts: float
    first_article: list[FirstArticle]
    pair: list[MustMatch]
    measured: list[FoundAt] = []
    figures: list[Figure] = []
    pretend: bool = False
    detail: Detail | None = None
