"""What only the service speaks: sessions, summaries, changes of one field. Everything about the
work itself is in core.
"""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from wedgecraft.core.draft.assumed import Assumed
from wedgecraft.core.explain.shown import SetupShown
from wedgecraft.core.explain.steps import StepState
from wedgecraft.core.ground.documents import Document, FieldError, Text
from wedgecraft.core.ground.units import Length
from wedgecraft.core.plan.schemes import SetupScheme
from wedgecraft.core.records.job import JobDocument, JobResult
from wedgecraft.core.records.material import MaterialRef
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.picture import Picture
from wedgecraft.core.records.solid import SolidReading
from wedgecraft.core.shop.document import KindInfo, KindName
from wedgecraft.core.shop.table import RowFault
from wedgecraft.core.workpiece.facts import PartFacts

Role = Literal["admin", "planner", "operator", "viewer"]
Units = Literal["metric", "inch"]
Theme = Literal["light", "dark"]
Status = Literal["queued", "running", "done", "failed", "cancelled"]


#: Counted from 1.
SetupNumber = Annotated[int, Field(ge=1, le=50)]


class OneSetup(Document):
    """Of which setup, counted from 1."""

    setup: SetupNumber = 1


class Problem(Document):
    """An error, as RFC 9457 has it, with the fields it concerns."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
    request_id: str | None = None


class SignIn(Document):
    """Name and password of a local account."""

    sign_in: Annotated[str, Field(min_length=1, max_length=60)]
    password: Annotated[str, Field(min_length=1, max_length=200)]


class Me(Document):
    """The person signed in."""

    id: str
    sign_in: str
    name: str
    role: Role
    units: Units
    theme: Theme


class DemoAccount(Document):
    """A made-up account of the demo shop."""

    sign_in: str
    name: str
    role: Role
    password: str


class SessionState(Document):
    """Who is signed in, the token every change must carry, and in the demo the accounts to try."""

    person: Me | None
    csrf_token: str
    demo_accounts: list[DemoAccount]
    needs_admin: bool


class Preferences(Document):
    """Kept per person."""

    units: Units | None = None
    theme: Theme | None = None


class NewPassword(Document):
    """One's own password, the present one first."""

    present: Annotated[str, Field(min_length=1, max_length=200)]
    fresh: Annotated[str, Field(min_length=10, max_length=200)]


class RunSummary(Document):
    """How far a run is. ``current`` says whether it answers the job as it now stands; ``so_far``
    that what is shown does, while it is still looked for more; ``note`` why it was planned where
    nobody asked.
    """

    id: str
    status: Status
    step: str
    share: float
    error: str | None
    note: str | None
    current: bool
    so_far: bool = False
    created_at: datetime
    finished_at: datetime | None


class RunState(Document):
    """A run with its result, and what that says of each step of the work, setup by setup, in their
    order. ``programmed_s``: seconds at work by the program of each setup, nothing where it was not
    tried or has none.
    """

    run: RunSummary
    result: JobResult | None
    steps: list[list[StepState]]
    programmed_s: list[float | None] = []


class JobSummary(Document):
    """One line of the list of jobs. ``states``: each step, as it stands in the worst of the setups;
    ``waits_for``: empty for a job that can be run.
    """

    id: str
    name: str
    quantity: int
    due: date | None
    machine: str
    parts_per_cycle: int | None
    cycles: int | None
    current: bool
    demo: bool
    updated_at: datetime
    deleted_at: datetime | None = None
    picture: Picture | None = None
    states: list[StepState]
    waits_for: str
    planning: bool


class Page(Document):
    """Which part of a list: ``limit`` lines after the first ``offset``."""

    limit: Annotated[int, Field(ge=1, le=200)] = 50
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class ShopAsked(Document):
    """A page of the shop's entries, of one kind where it is said."""

    kind: KindName | None = None
    limit: Annotated[int, Field(ge=1, le=500)] = 200
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class JobsAsked(Page):
    """Which jobs: those that stand, or those deleted that can still be brought back."""

    deleted: bool = False
    search: Annotated[str, Field(max_length=200)] = ""
    order: Literal["changed", "name", "due", "quantity"] = "changed"


class JobList(Document):
    """A page of the jobs, newest change first; of ``total`` in all. ``deleted``: how many rest
    before they are gone.
    """

    jobs: list[JobSummary]
    total: int
    deleted: int


class Step(Document):
    """A change a person made to a job: what it set, and when."""

    id: str
    path: str
    at: datetime


class Steps(Document):
    """What this person can take back next, and what they can do again."""

    undo: Step | None
    redo: Step | None


class StepAsked(Document):
    """Take back, or do again. ``step``: only if it is this one that comes next; otherwise nothing
    is done.
    """

    step: Annotated[str, Field(max_length=32)] | None = None


class JobState(Document):
    """A job, its document without the result, what a screen needs of its setups, and its latest
    run.
    """

    id: str
    name: str
    quantity: int
    due: date | None
    version: int
    document: JobDocument
    setups: list[SetupShown]
    updated_at: datetime
    updated_by: str | None
    latest: RunState | None
    facts: list[PartFacts]
    notes: list[str] = []
    assumed: list[Assumed] = []


class CopyAsked(Document):
    """A copy of a job, with one field as given where ``path`` names one; an empty path is all of
    it.
    """

    path: Annotated[str, Field(max_length=200)] | None = None
    value: Any = None


class NewJob(Document):
    """A job from starting values."""

    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)] = 100
    due: date | None = None


class DraftPart(Document):
    """A part to be drafted: a solid that was loaded, or an outline and how thick it is, what it is
    made of and how many a kit has.
    """

    name: Text
    material: MaterialRef
    per_kit: Annotated[int, Field(ge=1, le=100)] = 1
    upload: Annotated[str, Field(max_length=40)] | None = None
    outline: Outline | None = None
    thickness_mm: Annotated[Length, Field(gt=0, le=1000)] | None = None


class NewDraft(DraftPart):
    """A job to be drafted: a part, or with ``more`` a kit, and how many."""

    quantity: Annotated[int, Field(ge=1, le=10_000_000)] = 100
    more: Annotated[list[DraftPart], Field(max_length=19)] = []


class FieldChange(Document):
    """Set one field of the document, at the version that was read. ``path`` is dotted:
    ``job.parts.0.height_mm``; empty: all of it.
    """

    version: int
    path: Annotated[str, Field(max_length=200)]
    value: Any = None


class Removal(Document):
    """Take out a part, or an op of a part; what names others by their place goes on naming the same
    ones.
    """

    version: int
    part: int
    op: int | None = None


class DueChange(Document):
    """The due date, outside the document, at the version that was read."""

    version: int
    due: date | None


class Person(Document):
    """An account as administrators see it."""

    id: str
    sign_in: str
    name: str
    role: Role
    active: bool


class PersonList(Document):
    """A page of the accounts, of ``total`` in all."""

    people: list[Person]
    total: int


class NewPerson(Document):
    """A new account."""

    sign_in: Annotated[str, Field(min_length=2, max_length=60, pattern=r"^[A-Za-z0-9._-]+$")]
    name: Text
    role: Role
    password: Annotated[str, Field(min_length=10, max_length=200)]


class PersonChange(Document):
    """What an administrator may change."""

    role: Role | None = None
    active: bool | None = None
    password: Annotated[str, Field(min_length=10, max_length=200)] | None = None


class Health(Document):
    """The service's state in one word, and its version."""

    state: Literal["ok", "database away", "disk full"]
    version: str


class PastedText(Document):
    """Cuts as pasted from a spreadsheet, into an op of a part; ``inch``: bare lengths are
    inches.
    """

    version: int
    part: int
    op: int
    text: Annotated[str, Field(min_length=1, max_length=200_000)]
    inch: bool = False
    replace: bool = False


class Setups(Document):
    """Ways to make a part, the quickest first."""

    schemes: list[SetupScheme]


class UploadState(Document):
    """A solid on its way in: how far it is, and what was read."""

    id: str
    name: str
    status: Status
    step: str
    share: float
    error: str | None
    result: SolidReading | None


class SectionCut(Document):
    """The solid cut at a height, as rings, outer rings counter-clockwise; empty where there is
    nothing.
    """

    height_mm: float
    area_mm2: float
    rings: list[list[tuple[float, float]]]


class ShopItem(Document):
    """An entry of the shop, as it stands. ``used_by``: jobs that hold it."""

    id: str
    kind: KindName
    name: str
    data: dict[str, Any]
    source: str
    sources: dict[str, str]
    ships: bool
    retired: bool
    version: int
    updated_at: datetime
    updated_by: str | None
    used_by: list[str] = []


class ShopList(Document):
    """Kinds with their fields, and a page of the entries, of ``total`` in all."""

    kinds: list[KindInfo]
    entries: list[ShopItem]
    total: int


class NewShopItem(Document):
    """A new entry. Values may be written with units."""

    kind: KindName
    name: Text
    data: dict[str, Any] = {}
    source: Annotated[str, Field(max_length=200)] = ""


class ShopChange(Document):
    """What to change at the version that was read. ``data``: only the fields that change;
    ``sources``: where values come from.
    """

    version: int
    name: Text | None = None
    data: dict[str, Any] | None = None
    sources: dict[str, Annotated[str, Field(max_length=200)]] | None = None
    retired: bool | None = None


class ShopChanged(Document):
    """One line of an entry's history; ``fields``: before and after."""

    at: datetime
    person: str
    what: str
    fields: dict[str, Any]


class ShopHistory(Document):
    """A page, newest first, of ``total`` in all."""

    changes: list[ShopChanged]
    total: int


class ImportPreview(Document):
    """What an import would do, or did when ``stored``; with faults nothing is stored."""

    added: list[str]
    changed: list[str]
    unchanged: int
    faults: list[RowFault]
    stored: bool
