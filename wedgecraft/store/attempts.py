"""Taking up what waits, a run or a solid: the attempt counts until it is given back or finished, so
that what brings workers down ends.
"""

from __future__ import annotations

from typing import TypeVar

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from wedgecraft.store.models import ACTIVE, Run, Upload

Waiting = TypeVar("Waiting", Run, Upload)


def begin(session: Session, kind: type[Waiting], its_id: str) -> Waiting | None:
    """What is still wanted, read anew and locked, its attempt counted."""
    query = select(kind).where(kind.id == its_id, kind.status.in_(ACTIVE)).with_for_update()
    found = session.scalar(query, execution_options={"populate_existing": True})
    if found is not None:
        found.attempts += 1
        session.flush()
    return found


def give_back(session: Session, kind: type[Run] | type[Upload], its_id: str) -> None:
    """A worker that stops in order, or that a short fault kept from going on, leaves it as if it
    had never taken it up.
    """
    waits = {
        "status": "queued",
        "attempts": func.greatest(kind.attempts - 1, 0),
        "step": "waiting for a worker",
        "share": 0.0,
    }
    session.execute(update(kind).where(kind.id == its_id, kind.status.in_(ACTIVE)).values(**waits))
