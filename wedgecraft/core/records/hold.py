"""Whether a part is held: what is asked of the hold check, and the verdict."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.records.contact import Contact, LoadCase, Vector
from wedgecraft.core.records.layout import Turn
from wedgecraft.core.records.row import RowResult
from wedgecraft.core.records.share import ShareResult

Mode = Literal["slides", "lifts", "tips", "turns", "does not move"]


class HoldRequest(Document):
    """Input of ``compute hold``: contacts, the part's weight as a force at its centre of gravity,
    and load cases.
    """

    contacts: Annotated[list[Contact], Field(min_length=1, max_length=200)]
    weight_n: Vector = (0, 0, 0)
    centre_of_gravity_mm: Vector = (0, 0, 0)
    loads: Annotated[list[LoadCase], Field(min_length=1, max_length=20_000)]


class CaseResult(Document):
    """Factor of one load case: the cutting force may grow by ``factor`` before no equilibrium
    exists. Capped at 1000.
    """

    name: Text
    factor: float


class HoldResult(Document):
    """``factor`` is the lowest of all cases, reached in ``load``; ``mode`` says how the part would
    start to move in that case.

    ``motion``: velocity of the centre of gravity and rotation (per mm), scaled so that the worst
    cutting force does unit work.
    """

    factor: float
    load: LoadCase
    mode: Mode
    motion: tuple[float, float, float, float, float, float]
    sentence: str
    cases: list[CaseResult]


class DirectionFactor(Document):
    """The lowest factor of all cases that push in this direction, in the station's frame."""

    angle_deg: float
    factor: float


class TurnFactor(Document):
    """The factor of a station at this turn: on an upright face its weight hangs another way at
    each.
    """

    turn: Turn
    factor: float


class TorquePoint(Document):
    """At this screw torque: the factor of the cases that are worst, and the pressure over the
    softer side's yield.
    """

    torque_nm: float
    factor: float
    pressure_share: float


class Remedy(Document):
    """One change that would make the part hold, or hold better: found by solving again, not by
    guessing. ``factor``: what it gives.
    """

    what: str
    field: str
    value: float
    factor: float
    holds: bool


class Give(Figure):
    """Something that gives, and how far. ``counted``: it is a part of the tolerance budget."""

    counted: bool


class BoreSqueezed(Document):
    """A bore cut while the part is squeezed: by how much a diameter springs when the clamps let
    go. ``limit_mm``: half the tolerance of the feature there; nothing where the drawing asks none.
    """

    feature: str
    diameter_mm: float
    x_mm: float
    y_mm: float
    changes_mm: float
    limit_mm: float | None
    force_n: float


class HoldVerdict(Document):
    """Factor, how it would fail, by direction and by the station's turn, and the window of torque
    in which it holds.

    ``share``: how the forces share themselves out between the contacts. ``marks_from_nm`` and
    ``sinks_from_nm``: torque from which the softer side yields under some contact, and gives way in
    full; nothing where the screw's rating does not get there. ``row``: how the parts of a row share
    the jaws' force, low end; ``remedies``: what would make it hold; ``curve``: up to the screw's
    rating, of the cases that are worst at the torque set: for reading off, while the factor there
    is of all cases. ``gives``: what gives how far; ``indexing``: the least times its weight that a
    part is held while a bar turns it about, nothing where none does; ``release``: how the part
    comes out; ``squeezed``: bores that its clamps squeeze; ``cautions``: what its clamps ask of
    people. ``torque``: whether a screw is what presses.
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
    squeezed: list[BoreSqueezed] = []
    indexing: float | None = None
    release: list[str] = []
    cautions: list[str] = []
    torque: bool = True
