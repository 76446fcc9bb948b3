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
GONE_AFTER = timedelta(seconds=10)


def here(
    session: Session, job_id: str, page: str, person_id: str, on: str = ""
) -> list[tuple[str, str, bool]]:
    """Note that this page of this person is open, and on what; of the other pages that have the job
    open the name, on what, and whether it is the same person's. Who has the same open twice is
    named once.
    """
    at = now()
    line = insert(Presence).values(id=page, job_id=job_id, person_id=person_id, step=on, seen_at=at)
    session.execute(
        line.on_conflict_do_update(
            index_elements=[Presence.id],
            set_={"job_id": job_id, "person_id": person_id, "step": on, "seen_at": at},
        )
    )
    session.execute(delete(Presence).where(Presence.seen_at < at - GONE_AFTER))
    pages = (
        select(Person.name, Presence.step, Presence.person_id == person_id)
        .join(Presence, Presence.person_id == Person.id)
        .where(Presence.job_id == job_id, Presence.id != page)
    )
    return sorted({(name, step, own) for name, step, own in session.execute(pages)})


def gone(session: Session, page: str) -> None:
    """The page was closed."""
    session.execute(delete(Presence).where(Presence.id == page))
