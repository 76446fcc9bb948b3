"""What is kept how long. Nothing a person made goes without having rested; what only helped goes
when nothing needs it any more.

- A deleted job rests ``RESTS`` and can be brought back until then.
- Of a job's finished runs those that answer it as it stands, and the ``RUNS_KEPT`` newest; failed
  and cancelled ones a week.
- A solid that no job holds, ``RESTS`` after it was loaded; one that was refused or given up, a
  week.
- What was changed, and can be taken back: ``RESTS``, and of each job the newest ``CHANGES_KEPT``.
- A sign-in that was not used for ``RESTS``.
"""

from __future__ import annotations

import logging
from datetime import timedelta
from typing import Any

from sqlalchemy import String, and_, cast, delete, exists, func, or_, select
from sqlalchemy.orm import Session, aliased

from wedgecraft.store import jobs
from wedgecraft.store.database import Database
from wedgecraft.store.models import ACTIVE, Attempt, Change, Job, Run, SignedIn, Upload, now

log = logging.getLogger(__name__)
EVERY_SECONDS = 6 * 3600.0
RESTS = timedelta(days=30)
_WEEK, _DAY = timedelta(days=7), timedelta(days=1)
RUNS_KEPT, CHANGES_KEPT = 5, 200


def clean_up(database: Database) -> dict[str, int]:
    """Remove what has rested long enough; how many of each. Designs that an update left unreadable
    are planned again.

    Of several workers who try at once one does it.
    """
    with database.session() as session:
        if not session.scalar(
            select(func.pg_try_advisory_xact_lock(func.hashtext("wedgecraft upkeep")))
        ):
            return {}
        again = jobs.plan_outgrown(session)
        gone = {
            "jobs": _delete(session, Job, Job.deleted_at < now() - RESTS),
            "runs": _delete(session, Run, _runs()),
            "solids": _delete(session, Upload, _solids()),
            "changes": _delete(session, Change, _changes()),
            "sign-ins": _delete(session, SignedIn, SignedIn.seen_at < now() - RESTS),
            "attempts": _delete(session, Attempt, Attempt.since < now() - _DAY),
        }
    if again:
        log.info("%d jobs are planned again: their designs were of an earlier version", len(again))
    if any(gone.values()):
        log.info(
            "rested long enough, and removed: %s",
            ", ".join(f"{count} {what}" for what, count in gone.items() if count),
        )
    return gone


def _delete(session: Session, table: Any, where: Any) -> int:
    return session.execute(
        delete(table).where(where).execution_options(synchronize_session=False)
    ).rowcount  # type: ignore[attr-defined]


def _runs() -> Any:
    ranked = select(
        Run.id,
        func.row_number()
        .over(partition_by=Run.job_id, order_by=Run.created_at.desc())
        .label("place"),
    ).where(Run.status == "done")
    old = ranked.subquery()
    answers = exists().where(Job.id == Run.job_id, Job.digest == Run.digest)
    done = and_(
        Run.status == "done",
        Run.created_at < now() - _DAY,
        ~answers,
        Run.id.in_(select(old.c.id).where(old.c.place > RUNS_KEPT)),
    )
    return or_(done, and_(Run.status.not_in((*ACTIVE, "done")), Run.created_at < now() - _WEEK))


def _solids() -> Any:
    held = exists().where(cast(Job.document, String).contains(Upload.id))
    return or_(
        and_(Upload.status == "done", Upload.created_at < now() - RESTS, ~held),
        and_(Upload.status.in_(("failed", "cancelled")), Upload.created_at < now() - _WEEK),
    )


def _changes() -> Any:
    other = aliased(Change)
    newer = (
        select(func.count())
        .where(other.job_id == Change.job_id, other.number > Change.number)
        .scalar_subquery()
    )
    many = select(Change.job_id).group_by(Change.job_id).having(func.count() > CHANGES_KEPT)
    return or_(
        Change.at < now() - RESTS,
        and_(Change.at < now() - _DAY, Change.job_id.in_(many), newer >= CHANGES_KEPT),
    )
