"""Changes under the keys their senders gave them: what is sent again is known, and what a person
changed can be taken back.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from wedgecraft.store.models import Change, new_id


class KeyReused(RuntimeError):
    """The key stands for another change, or for somebody else's."""


def known(session: Session, key: str | None, what: str, person: str) -> Change | None:
    """The change that was made under this key; nothing when it is new, and then the key is held
    until the transaction ends.

    Raises KeyReused.
    """
    if key is None:
        return None
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(key, 0))))
    made = session.get(Change, key)
    if made is not None and (made.person_id != person or made.what != what):
        raise KeyReused(key)
    return made


def note(
    session: Session, key: str | None, what: str, subject: str, person: str, job: str | None = None
) -> Change:
    """Write down that a change was made, in the transaction that makes it."""
    change = Change(id=key or new_id(), what=what, subject=subject, person_id=person, job_id=job)
    session.add(change)
    return change


def note_edit(session: Session, change: Change, path: str, before: Any, after: Any) -> None:
    """Say what a change did to a job's document. What its person had taken back before cannot be
    done again after it.
    """
    mine = (Change.job_id == change.job_id, Change.person_id == change.person_id)
    session.execute(
        update(Change).where(*mine, Change.undone).values(path=None, before=None, after=None)
    )
    change.path, change.before, change.after = path, before, after


def last(session: Session, job_id: str, person: str) -> Change | None:
    """What this person would take back next."""
    query = _history(job_id, person).where(~Change.undone).order_by(Change.number.desc())
    return session.scalar(query.limit(1))


def emptied(session: Session, job_id: str) -> Any:
    """The document of a job before it was emptied to be drafted again; nothing where the last
    change of it was another.
    """
    query = select(Change).where(Change.job_id == job_id, Change.path.is_not(None), ~Change.undone)
    change = session.scalar(query.order_by(Change.number.desc()).limit(1))
    return change.before if change is not None and change.path == "" else None


def next_again(session: Session, job_id: str, person: str) -> Change | None:
    """What this person took back, and would do again next."""
    return session.scalar(
        _history(job_id, person).where(Change.undone).order_by(Change.number).limit(1)
    )


def others_since(session: Session, change: Change) -> bool:
    """Whether anyone else changed the job since."""
    where = (
        Change.job_id == change.job_id,
        Change.person_id != change.person_id,
        Change.number > change.number,
    )
    return session.scalar(select(Change.id).where(*where).limit(1)) is not None


def _history(job_id: str, person: str) -> Any:
    return select(Change).where(
        Change.job_id == job_id, Change.person_id == person, Change.path.is_not(None)
    )
