"""Fixtures that exist: numbered as they are made, never numbered again."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import Integer, cast, func, select
from sqlalchemy.orm import Session

from wedgecraft.store.models import Fixture, LogEntry, now


def make(
    session: Session,
    *,
    job_id: str,
    setup: int,
    name: str,
    data: dict[str, Any],
    person: str,
    what: str,
) -> Fixture:
    """The next number."""
    session.execute(select(func.pg_advisory_xact_lock(8113)))
    last = session.scalar(select(func.max(cast(func.substr(Fixture.number, 3), Integer)))) or 0
    row = Fixture(number=f"F-{last + 1:03d}", job_id=job_id, setup=setup, name=name, data=data)
    row.history = [_line(person, what)]
    session.add(row)
    session.flush()
    return row


def every(session: Session) -> list[Fixture]:
    """By their numbers."""
    return list(session.scalars(select(Fixture).order_by(Fixture.number)))


def found(session: Session, ident: str) -> Fixture | None:
    """By its id, or by its number as it stands on the label."""
    by = (Fixture.id == ident) | (Fixture.number == ident.upper())
    return session.scalar(select(Fixture).where(by).with_for_update())


def happened(row: Fixture, person: str, what: str) -> None:
    """Put a line into its history, in the transaction that changes it."""
    row.history = [*row.history, _line(person, what)]


def parts_over(session: Session, job_id: str, setup: int, since: datetime) -> int:
    """Parts that were made in a setup since then, good or not."""
    good = cast(LogEntry.data["good"].astext, Integer)
    bad = func.jsonb_array_length(LogEntry.data["scrapped"])
    query = select(func.sum(good + bad)).where(
        LogEntry.job_id == job_id,
        LogEntry.setup == setup,
        LogEntry.kind == "cycle",
        LogEntry.at >= since,
    )
    return int(session.scalar(query) or 0)


def _line(person: str, what: str) -> dict[str, Any]:
    return {"at": now().isoformat(), "person": person, "what": what}
