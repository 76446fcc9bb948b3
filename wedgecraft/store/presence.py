"""Who has a job open: a line for every open page, renewed while it is open, forgotten soon
after.
"""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from wedgecraft.store.models import Person, Presence, now

#: A page says that it is there every few seconds; silent for so long, it is closed.
GONE_AFTER = timedelta(seconds=25)


def here(session: Session, job_id: str, page: str, person_id: str) -> list[str]:
    """Note that this page of this person is open; the names of the others who have the job open,
    each once.
    """
    at = now()
    line = insert(Presence).values(id=page, job_id=job_id, person_id=person_id, seen_at=at)
    session.execute(
        line.on_conflict_do_update(
            index_elements=[Presence.id],
            set_={"job_id": job_id, "person_id": person_id, "seen_at": at},
        )
    )
    session.execute(delete(Presence).where(Presence.seen_at < at - GONE_AFTER))
    names = select(Person.name).join(Presence, Presence.person_id == Person.id)
    return sorted(
        set(
            session.scalars(names.where(Presence.job_id == job_id, Presence.person_id != person_id))
        )
    )


def gone(session: Session, page: str) -> None:
    """The page was closed."""
    session.execute(delete(Presence).where(Presence.id == page))
