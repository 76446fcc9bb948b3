"""The plan document: what is asked, and the designs that answer it."""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.records.clamp_choice import Way
from wedgecraft.core.records.cut import CuttingLoad
from wedgecraft.core.records.design import DatumStrategy, Design
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.request import Planned


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


class OpAnswer(Document):
    """Load and hold of one more op that is planned with the first."""

    planned: Planned
    loads: list[CutLoad]
    hold: HoldVerdict | None
    figures: list[Figure]


class PlanResult(Document):
    """Designs, best first; or none, with the reasons. ``figures`` of load and hold are common to
    all; each design has its own besides.

    ``loads``, ``hold`` and ``figures`` are those of the first planned op, ``others`` those of the
    rest. ``ways``: where the planner picks the clamps, what it tried, its choice first.
    ``strategies``: what other datums would cost and let on.
    """

    format: Literal["wedgecraft plan result"] = "wedgecraft plan result"
    version: Literal[2] = 2
    feasible: bool
    designs: list[Design]
    reasons: list[Reason]
    figures: list[Figure]
    loads: list[CutLoad]
    hold: HoldVerdict | None
    others: list[OpAnswer] = []
    ways: list[Way] = []
    strategies: list[DatumStrategy] = []
    cautions: list[str]
