"""What happened at the machines of a job: every entry once, however often it is sent."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import func, select, tuple_, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from wedgecraft.core.records.log import AnyEntry
from wedgecraft.store.models import Adopted, LogEntry, new_id, now

_ENTRY: TypeAdapter[AnyEntry] = TypeAdapter(AnyEntry)
#: Clocks that differ by less are called alike.
_ALIKE = timedelta(seconds=60)
_AT_ONCE = 1000


@dataclass(frozen=True)
class Kept:
    """So many were new and stored, so many were known; ids of those that said something else the
    first time, which stands.
    """

    stored: int
    known: int
    other: list[str]
    clock_off_s: float


def keep(
    session: Session,
    job_id: str,
    entries: Sequence[AnyEntry],
    person: str | None,
    sent_at: datetime | None = None,
) -> Kept:
    """``sent_at``: by the sender's clock; where that is off, their times are put right by as
    much.
    """
    received = now()
    off = timedelta(0) if sent_at is None else received - sent_at
    off = off if abs(off) > _ALIKE else timedelta(0)
    once: dict[str, AnyEntry] = {}
    for entry in entries:
        once.setdefault(entry.id, entry)
    other = [entry.id for entry in entries if entry != once[entry.id]]
    stored: set[str] = set()
    rows = [
        {
            "id": entry.id,
            "job_id": job_id,
            "setup": entry.setup,
            "kind": entry.kind,
            "at": entry.at + off,
            "received_at": received,
            "clock_off_s": off.total_seconds(),
            "person_id": person,
            "data": entry.model_dump(mode="json"),
        }
        for entry in once.values()
    ]
    for k in range(0, len(rows), _AT_ONCE):
        query = insert(LogEntry).values(rows[k : k + _AT_ONCE]).on_conflict_do_nothing()
        stored |= set(session.scalars(query.returning(LogEntry.id)))
    again = [ident for ident in once if ident not in stored]
    for k in range(0, len(again), _AT_ONCE):
        query_known = select(LogEntry.id, LogEntry.data).where(
            LogEntry.job_id == job_id, LogEntry.id.in_(again[k : k + _AT_ONCE])
        )
        for ident, data in session.execute(query_known):
            if data != once[ident].model_dump(mode="json"):
                other.append(ident)
    return Kept(len(stored), len(entries) - len(stored), other, off.total_seconds())


def page(
    session: Session, job_id: str, most: int, before: tuple[datetime, str] | None = None
) -> list[LogEntry]:
    """The latest first; those before one, by its time and id."""
    query = select(LogEntry).where(LogEntry.job_id == job_id)
    if before is not None:
        query = query.where(tuple_(LogEntry.at, LogEntry.id) < tuple_(*before))
    return list(session.scalars(query.order_by(LogEntry.at.desc(), LogEntry.id.desc()).limit(most)))


def count(session: Session, job_id: str) -> int:
    """All of them."""
    return session.scalar(select(func.count()).where(LogEntry.job_id == job_id)) or 0


def mark(session: Session, job_id: str) -> str:
    """Changes whenever an entry comes in."""
    row = session.execute(
        select(func.count(), func.max(LogEntry.received_at)).where(LogEntry.job_id == job_id)
    ).one()
    return f"{row[0]} {row[1]}"


def every(session: Session, job_id: str) -> list[AnyEntry]:
    """As core takes them, their times put right."""
    query = select(LogEntry.at, LogEntry.data).where(LogEntry.job_id == job_id)
    return [as_entry(at, data) for at, data in session.execute(query.order_by(LogEntry.at))]


def as_entry(at: datetime, data: dict[str, Any]) -> AnyEntry:
    """An entry as it was sent, at the time that is right."""
    return _ENTRY.validate_python({**data, "at": at})


def adopt(
    session: Session,
    job_id: str,
    key: str | None,
    *,
    field: str,
    before: Any,
    after: Any,
    cases: int,
    person: str,
) -> None:
    """Write down that a value was taken over from the log; under the same key once."""
    given = {"job_id": job_id, "field": field, "before": before, "after": after, "cases": cases}
    ident = key or new_id()
    query = insert(Adopted).values(id=ident, person=person, undone=False, at=now(), **given)
    session.execute(query.on_conflict_do_nothing())


def adopted(session: Session, job_id: str) -> list[Adopted]:
    """What was taken over, the latest first."""
    query = select(Adopted).where(Adopted.job_id == job_id)
    return list(session.scalars(query.order_by(Adopted.at.desc())))


def take_back(session: Session, ident: str) -> None:
    """Mark as taken back."""
    session.execute(update(Adopted).where(Adopted.id == ident).values(undone=True))
