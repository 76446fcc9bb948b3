"""Fixtures that exist."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.request import Arrangement
from wedgecraft.core.records.setup_sheet import SheetFace

FixtureState = Literal["in use", "to mend", "crashed", "scrapped"]


class Happened(Document):
    """A line of a fixture's history."""

    at: datetime
    person: str
    what: Annotated[str, Field(max_length=300)]


class FixtureMade(Document):
    """What a fixture was made from: a design, its picture, how it is set, and where its stations
    were measured.
    """

    version: str
    machine: str
    form: str
    faces: list[SheetFace]
    torque_nm: float | None
    zeros: list[str]
    pick_up: list[str]
    parts_a_cycle: int
    measured: Arrangement | None = None


class FixtureShown(Document):
    """One that exists. ``parts`` went over it; ``changed``: its job has another design by now."""

    id: str
    number: str
    name: str
    job_id: str | None
    setup: int
    place: str
    state: FixtureState
    parts: int
    changed: bool
    made: FixtureMade
    history: list[Happened]
    created_at: datetime


class TodayLine(Document):
    """One thing to do or to know: for whom, how urgent, where it leads."""

    kind: Literal["load", "late", "plan", "outdated", "log", "shelf"]
    title: str
    says: str
    job_id: str
    step: str
    urgent: bool = False


class Today(Document):
    """The first page, by role; the most pressing first."""

    role: str
    lines: list[TodayLine]
