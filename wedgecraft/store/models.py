"""The tables. Documents are kept whole in JSONB beside the columns that are searched, joined or
constrained.
"""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    Identity,
    Index,
    LargeBinary,
    String,
    Text,
    UniqueConstraint,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

ROLES = ("admin", "planner", "operator", "viewer")
UNITS = ("metric", "inch")
THEMES = ("light", "dark")
ACTIVE = ("queued", "running")
#: The predicate of the index that keeps a job to one active run.
ACTIVE_ONLY = "status IN ('queued', 'running')"
STATUSES = (*ACTIVE, "done", "failed", "cancelled")


def new_id() -> str:
    return uuid.uuid4().hex


def now() -> datetime:
    return datetime.now(UTC)


def _one_of(column: str, values: tuple[str, ...]) -> CheckConstraint:
    listed = ", ".join(f"'{value}'" for value in values)
    return CheckConstraint(f"{column} IN ({listed})", name=f"{column}_known")


class Base(DeclarativeBase):
    type_annotation_map = {dict[str, Any]: JSONB, datetime: TIMESTAMP(timezone=True)}


class Person(Base):
    """A local account."""

    __tablename__ = "person"
    __table_args__ = (_one_of("role", ROLES), _one_of("units", UNITS), _one_of("theme", THEMES))

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    sign_in: Mapped[str] = mapped_column(String(60), unique=True)
    name: Mapped[str] = mapped_column(String(120))
    role: Mapped[str] = mapped_column(String(12))
    password_hash: Mapped[str] = mapped_column(String(200))
    units: Mapped[str] = mapped_column(String(8), default="metric")
    theme: Mapped[str] = mapped_column(String(8), default="light")
    active: Mapped[bool] = mapped_column(default=True)
    demo: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(default=now)


class SignedIn(Base):
    """One sign-in of one person: its cookie is worth nothing once this row is gone."""

    __tablename__ = "signed_in"
    __table_args__ = (Index("signed_in_by_person", "person_id"),)

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    person: Mapped[Person] = relationship(lazy="joined", innerjoin=True)
    address: Mapped[str] = mapped_column(String(60))
    at: Mapped[datetime] = mapped_column(default=now)
    seen_at: Mapped[datetime] = mapped_column(default=now)


class Attempt(Base):
    """Sign-ins that were tried and not (yet) found right, by account and address, or by account
    alone, since a time.
    """

    __tablename__ = "sign_in_attempt"

    key: Mapped[str] = mapped_column(String(200), primary_key=True)
    count: Mapped[int]
    since: Mapped[datetime]


class Job(Base):
    """A job: its document as it stands, without a result, and a version that rises with every
    change.

    ``digest``, ``machine`` and ``per_set`` (how many of what a cycle is counted in one kit takes)
    are read off the document whenever it is stored, so that a list need not open it. A deleted job
    rests for a while before it is gone.
    """

    __tablename__ = "job"

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(String(120), index=True)
    quantity: Mapped[int]
    due: Mapped[date | None]
    document: Mapped[dict[str, Any]]
    digest: Mapped[str] = mapped_column(String(64))
    machine: Mapped[str] = mapped_column(String(300))
    per_set: Mapped[int]
    version: Mapped[int] = mapped_column(default=1)
    demo: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    updated_by: Mapped[str | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"))
    deleted_at: Mapped[datetime | None]
    runs: Mapped[list[Run]] = relationship(
        back_populates="job", cascade="all, delete-orphan", passive_deletes=True
    )


class Change(Base):
    """A change that was made, under the key its sender gave it: sent again, it is known and not
    made twice.

    Of a job's document it says what a path held before and after, so that its person can take it
    back.
    """

    __tablename__ = "change"
    __table_args__ = (
        Index("change_by_job", "job_id", "person_id", "number"),
        Index("change_by_age", "at"),
    )

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    number: Mapped[int] = mapped_column(BigInteger, Identity())
    what: Mapped[str] = mapped_column(String(120))
    subject: Mapped[str] = mapped_column(String(32))
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    job_id: Mapped[str | None] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    path: Mapped[str | None] = mapped_column(String(200))
    before: Mapped[Any] = mapped_column(JSONB, nullable=True)
    after: Mapped[Any] = mapped_column(JSONB, nullable=True)
    undone: Mapped[bool] = mapped_column(default=False)
    at: Mapped[datetime] = mapped_column(default=now)


class Run(Base):
    """One planning of a job: the document it answers, how far it is, and its result. One job has at
    most one active run.

    ``attempts``: how often a worker took it up and did not come back. ``note``: why it was planned,
    where nobody asked.
    """

    __tablename__ = "run"
    __table_args__ = (
        _one_of("status", STATUSES),
        Index("run_one_active", "job_id", unique=True, postgresql_where=text(ACTIVE_ONLY)),
        Index("run_by_job", "job_id", "created_at"),
    )

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    job: Mapped[Job] = relationship(back_populates="runs")
    document: Mapped[dict[str, Any]]
    digest: Mapped[str] = mapped_column(String(64))
    status: Mapped[str] = mapped_column(String(12), default="queued")
    step: Mapped[str] = mapped_column(String(60), default="waiting for a worker")
    share: Mapped[float] = mapped_column(default=0.0)
    result: Mapped[dict[str, Any] | None]
    count: Mapped[int | None]
    card: Mapped[dict[str, Any] | None]
    error: Mapped[str | None]
    note: Mapped[str | None] = mapped_column(String(200))
    attempts: Mapped[int] = mapped_column(default=0)
    asked_by: Mapped[str | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"))
    created_at: Mapped[datetime] = mapped_column(default=now)
    finished_at: Mapped[datetime | None]


class Presence(Base):
    """A page that has a job open."""

    __tablename__ = "presence"
    __table_args__ = (Index("presence_by_job", "job_id"),)

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"))
    step: Mapped[str] = mapped_column(String(40), default="", server_default="")
    seen_at: Mapped[datetime]


class Setting(Base):
    """Facts about this installation, such as whether the demo was loaded."""

    __tablename__ = "setting"

    key: Mapped[str] = mapped_column(String(60), primary_key=True)
    value: Mapped[dict[str, Any]]


class Thing(Base):
    """An entry of the shop: a machine, a vise, a cutter and so on. Retired things stay for the jobs
    that use them.
    """

    __tablename__ = "shop_entry"
    __table_args__ = (UniqueConstraint("kind", "name"), Index("shop_entry_by_kind", "kind"))

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    kind: Mapped[str] = mapped_column(String(12))
    name: Mapped[str] = mapped_column(String(120))
    data: Mapped[dict[str, Any]]
    source: Mapped[str] = mapped_column(String(200))
    sources: Mapped[dict[str, Any]] = mapped_column(default=dict)
    ships: Mapped[bool] = mapped_column(default=False)
    retired: Mapped[bool] = mapped_column(default=False)
    version: Mapped[int] = mapped_column(default=1)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    updated_by: Mapped[str | None] = mapped_column(String(120))


class ThingChange(Base):
    """Who changed what on an entry of the shop, and how it was before."""

    __tablename__ = "shop_change"
    __table_args__ = (Index("shop_change_by_entry", "entry_id", "at"),)

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    entry_id: Mapped[str] = mapped_column(ForeignKey("shop_entry.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(default=now)
    person: Mapped[str] = mapped_column(String(120))
    what: Mapped[str] = mapped_column(String(40))
    fields: Mapped[dict[str, Any]] = mapped_column(default=dict)


class StoredMesh(Base):
    """A solid's mesh by the hash of its content: documents name it, whatever file it came from."""

    __tablename__ = "mesh"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    created_at: Mapped[datetime] = mapped_column(default=now)


class OpProgram(Base):
    """The program of one op of a job, by its part's name and its number."""

    __tablename__ = "op_program"

    job_id: Mapped[str] = mapped_column(
        String(32), ForeignKey("job.id", ondelete="CASCADE"), primary_key=True
    )
    part: Mapped[str] = mapped_column(String(120), primary_key=True)
    op: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    text: Mapped[str] = mapped_column(Text)
    loaded_at: Mapped[datetime] = mapped_column(default=now)
    loaded_by: Mapped[str | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"))


class ProgramTried(Base):
    """How a setup's program came out, and the seconds it takes: of the run and the programs that
    ``key`` stands for.
    """

    __tablename__ = "program_tried"

    job_id: Mapped[str] = mapped_column(
        String(32), ForeignKey("job.id", ondelete="CASCADE"), primary_key=True
    )
    setup: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(64))
    step: Mapped[dict[str, Any]]
    seconds: Mapped[float | None]
    tried_at: Mapped[datetime] = mapped_column(default=now)


class Upload(Base):
    """A solid on its way in: its file until it is read, then what was read and its mesh."""

    __tablename__ = "upload"
    __table_args__ = (_one_of("status", STATUSES), Index("upload_by_status", "status"))

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(String(200))
    file: Mapped[bytes | None] = mapped_column(LargeBinary)
    status: Mapped[str] = mapped_column(String(12), default="queued")
    step: Mapped[str] = mapped_column(String(60), default="waiting for a worker")
    share: Mapped[float] = mapped_column(default=0.0)
    error: Mapped[str | None]
    result: Mapped[dict[str, Any] | None]
    points: Mapped[bytes | None] = mapped_column(LargeBinary)
    triangles: Mapped[bytes | None] = mapped_column(LargeBinary)
    faces: Mapped[bytes | None] = mapped_column(LargeBinary)
    attempts: Mapped[int] = mapped_column(default=0)
    created_at: Mapped[datetime] = mapped_column(default=now)
    created_by: Mapped[str | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"))


class LogEntry(Base):
    """One thing that happened at a machine: whole in ``data``; ``at``: by our clock, as far as the
    sender's was off is in ``clock_off_s``.
    """

    __tablename__ = "log_entry"
    __table_args__ = (Index("log_by_time", "job_id", "at", "id"),)

    job_id: Mapped[str] = mapped_column(
        String(32), ForeignKey("job.id", ondelete="CASCADE"), primary_key=True
    )
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    setup: Mapped[int]
    kind: Mapped[str] = mapped_column(String(12))
    at: Mapped[datetime]
    received_at: Mapped[datetime] = mapped_column(default=now)
    clock_off_s: Mapped[float] = mapped_column(default=0.0)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"))
    data: Mapped[dict[str, Any]]


class Adopted(Base):
    """A value of a job that was taken over from its log: of how many cases, by whom, and what was
    there before.
    """

    __tablename__ = "adopted"
    __table_args__ = (Index("adopted_by_job", "job_id", "at"),)

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    job_id: Mapped[str] = mapped_column(String(32), ForeignKey("job.id", ondelete="CASCADE"))
    field: Mapped[str] = mapped_column(String(200))
    before: Mapped[Any] = mapped_column(JSONB, nullable=True)
    after: Mapped[Any] = mapped_column(JSONB, nullable=True)
    cases: Mapped[int]
    undone: Mapped[bool] = mapped_column(default=False)
    at: Mapped[datetime] = mapped_column(default=now)
    person: Mapped[str] = mapped_column(String(120))


class Fixture(Base):
    """A fixture that exists: its number, what it was made for, where it lies, its state, parts made
    on it, and what happened to it.
    """

    __tablename__ = "fixture"
    __table_args__ = (
        UniqueConstraint("number"),
        CheckConstraint(
            "state IN ('in use', 'to mend', 'crashed', 'scrapped')", name="state_known"
        ),
    )

    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    number: Mapped[str] = mapped_column(String(40))
    job_id: Mapped[str | None] = mapped_column(
        String(32), ForeignKey("job.id", ondelete="SET NULL")
    )
    setup: Mapped[int]
    name: Mapped[str] = mapped_column(String(200))
    place: Mapped[str] = mapped_column(String(120), default="")
    state: Mapped[str] = mapped_column(String(12), default="in use")
    parts: Mapped[int] = mapped_column(default=0)
    data: Mapped[dict[str, Any]] = mapped_column(default=dict)
    history: Mapped[Any] = mapped_column(JSONB, default=list)
    created_at: Mapped[datetime] = mapped_column(default=now)
