"""How often a password may be tried. Counted before it is looked at, in the database: tries at once, on several processes or over a
restart do not slip through.

Of one account from one address: six wrong ones in five minutes. Of one account from everywhere: sixty in an hour, but not for an
address at which its person is signed in: nobody locks somebody else out of where they work. Other people at the same address, an
office behind one proxy, are not touched by it.
"""

from __future__ import annotations

import math
from datetime import timedelta

from sqlalchemy import case, delete, exists, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from wedgecraft.store.models import Attempt, Person, SignedIn, now

HERE, HERE_WINDOW = 6, timedelta(minutes=5)
ALL, ALL_WINDOW = 60, timedelta(hours=1)


def _keys(account: str, address: str) -> tuple[str, str]:
    name = account.strip().lower()[:60]
    return f"{name}|{address[:60]}", f"{name}|*"


def wait_for(session: Session, account: str, address: str) -> int:
    """Count a try; how many seconds to wait before it is looked at: 0 when it may be now."""
    here, everywhere = _keys(account, address)
    seconds = _count(session, here, HERE, HERE_WINDOW)
    person = (Person.id == SignedIn.person_id, Person.sign_in == account.strip().lower(), SignedIn.address == address[:60])
    if seconds == 0 and not session.scalar(select(exists().where(*person))):
        seconds = _count(session, everywhere, ALL, ALL_WINDOW)
    return seconds


def was_right(session: Session, account: str, address: str) -> None:
    """A right password: what was counted here is forgotten."""
    here, everywhere = _keys(account, address)
    session.execute(delete(Attempt).where(Attempt.key == here))
    session.execute(update(Attempt).where(Attempt.key == everywhere, Attempt.count > 0).values(count=Attempt.count - 1))


def _count(session: Session, key: str, most: int, window: timedelta) -> int:
    at = now()
    old = Attempt.since < at - window
    line = insert(Attempt).values(key=key, count=1, since=at)
    counted = line.on_conflict_do_update(
        index_elements=[Attempt.key],
        set_={"count": case((old, 1), else_=Attempt.count + 1), "since": case((old, at), else_=Attempt.since)},
    ).returning(Attempt.count, Attempt.since)
    count, since = session.execute(counted).one()
    return 0 if count <= most else max(1, math.ceil((since + window - at).total_seconds()))
