"""How often a wrong password may be tried. Tries of one account go one after the other, and wrong
ones are counted in the database: many at once, on several processes or over a restart do not slip
through, and right ones cost nothing, however many come at once.

Of one account from one address: six wrong ones in five minutes. Of one account from everywhere:
sixty in an hour, but not for an address at which its person is signed in: nobody locks somebody
else out of where they work. Other people at the same address, an office behind one proxy, are not
touched by it.
"""

from __future__ import annotations

import math
from datetime import timedelta

from sqlalchemy import case, delete, exists, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from wedgecraft.store.models import Attempt, Person, SignedIn, now

HERE, HERE_WINDOW = 6, timedelta(minutes=5)
ALL, ALL_WINDOW = 60, timedelta(hours=1)


def _keys(account: str, address: str) -> tuple[str, str]:
    name = account.strip().lower()[:60]
    return f"{name}|{address[:60]}", f"{name}|*"


def wait_for(session: Session, account: str, address: str) -> int:
    """How many seconds to wait before a try is looked at: 0 when it may be now, and then no other
    of this account is until the end of the transaction.
    """
    here, everywhere = _keys(account, address)
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(everywhere, 0))))
    seconds = _left(session, here, HERE, HERE_WINDOW)
    person = (
        Person.id == SignedIn.person_id,
        Person.sign_in == account.strip().lower(),
        SignedIn.address == address[:60],
    )
    if seconds == 0 and not session.scalar(select(exists().where(*person))):
        seconds = _left(session, everywhere, ALL, ALL_WINDOW)
    return seconds


def was_wrong(session: Session, account: str, address: str) -> None:
    """Count a wrong password, here and everywhere."""
    for key, window in zip(_keys(account, address), (HERE_WINDOW, ALL_WINDOW), strict=True):
        at = now()
        old = Attempt.since < at - window
        line = insert(Attempt).values(key=key, count=1, since=at)
        session.execute(
            line.on_conflict_do_update(
                index_elements=[Attempt.key],
                set_={
                    "count": case((old, 1), else_=Attempt.count + 1),
                    "since": case((old, at), else_=Attempt.since),
                },
            )
        )


def was_right(session: Session, account: str, address: str) -> None:
    """A right password: the wrong ones from here are forgotten."""
    session.execute(delete(Attempt).where(Attempt.key == _keys(account, address)[0]))


def _left(session: Session, key: str, most: int, window: timedelta) -> int:
    found = session.execute(select(Attempt.count, Attempt.since).where(Attempt.key == key)).first()
    if found is None or found[0] < most or found[1] < now() - window:
        return 0
    return max(1, math.ceil((found[1] + window - now()).total_seconds()))
