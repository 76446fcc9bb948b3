"""Jobs and their runs."""

from __future__ import annotations

import hashlib
import json
from datetime import date
from typing import Any

from pydantic import ValidationError
from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, load_only

from wedgecraft.core.plan import Arrangement, PlanDocument, PlanRequest, PlanResult, chosen
from wedgecraft.store.models import ACTIVE, Job, Run, now

#: The step of a run that judged stations as a person placed them.
AS_PLACED = "as placed"


_NO_ARRANGEMENT = Arrangement().model_dump(mode="json")


class VersionConflict(RuntimeError):
    """Someone else changed the job since it was read."""

    def __init__(self, job: Job) -> None:
        super().__init__(f"the job is at version {job.version}")
        self.version, self.updated_by = job.version, job.updated_by


def as_json(request: PlanRequest) -> dict[str, Any]:
    return request.model_dump(mode="json")


def request_of(job: Job) -> PlanRequest:
    """The job's request, brought up to date where an earlier version stored it."""
    return PlanRequest.model_validate(job.request)


def digest(request: dict[str, Any]) -> str:
    """Tells whether a result still answers a request. An arrangement that says nothing is the same as none."""
    request = {key: value for key, value in request.items() if key != "arrangement" or value != _NO_ARRANGEMENT}
    return hashlib.sha256(json.dumps(request, sort_keys=True).encode()).hexdigest()


def add_job(session: Session, request: PlanRequest, person: str | None, due: date | None = None, demo: bool = False) -> Job:
    job = Job(name=request.name, quantity=request.quantity, due=due, request=as_json(request), demo=demo, updated_by=person)
    session.add(job)
    session.flush()
    return job


def change_job(session: Session, job_id: str, version: int, request: PlanRequest, person: str) -> Job | None:
    """Store a changed request if the job is still at ``version``. Raises VersionConflict."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None:
        return None
    if job.version != version:
        raise VersionConflict(job)
    job.request = as_json(request)
    job.name, job.quantity = request.name, request.quantity
    job.version += 1
    job.updated_at, job.updated_by = now(), person
    session.flush()
    return job


def start_run(session: Session, job: Job) -> tuple[Run, bool]:
    """The job's active run, and whether it was made now. Asking twice while one is active gives the same one."""
    values = {"job_id": job.id, "request": job.request, "digest": digest(job.request)}
    where = Run.__table__.c.status.in_(ACTIVE)
    added = session.scalar(
        insert(Run).values(**values).on_conflict_do_nothing(index_elements=["job_id"], index_where=where).returning(Run.id)
    )
    if added is not None:
        return session.get_one(Run, added), True
    active = session.scalar(select(Run).where(Run.job_id == job.id, Run.status.in_(ACTIVE)))
    return (active, False) if active else start_run(session, job)


def latest_run(session: Session, job: Job) -> Run | None:
    """The run under way; else the newest that answers the job as it stands; else the newest."""
    fits, under_way = Run.digest == digest(job.request), Run.status.in_(ACTIVE)
    order = (under_way.desc(), fits.desc(), Run.created_at.desc())
    return session.scalar(select(Run).where(Run.job_id == job.id, Run.status != "cancelled").order_by(*order).limit(1))


def store_placed(session: Session, job: Job, result: PlanResult) -> Run:
    """The result for stations as a person placed them, in the place of the one before."""
    session.execute(delete(Run).where(Run.job_id == job.id, Run.step == AS_PLACED))
    run = Run(
        job_id=job.id, request=job.request, digest=digest(job.request), status="done", step=AS_PLACED, share=1.0, finished_at=now(),
        result=result.model_dump(mode="json"), count=result.designs[0].count if result.designs else 0,
    )  # fmt: skip
    session.add(run)
    session.flush()
    return run


def newest_done(session: Session, job_id: str) -> Run | None:
    """The newest run with a result."""
    return session.scalar(select(Run).where(Run.job_id == job_id, Run.status == "done").order_by(Run.created_at.desc()).limit(1))


def document(session: Session, job: Job) -> PlanDocument:
    """What is exported: the request, and the result where it answers the request as it stands."""
    latest = latest_run(session, job)
    fits = latest is not None and latest.status not in ACTIVE and latest.digest == digest(job.request)
    return PlanDocument(request=request_of(job), result=result_of(latest) if latest and fits else None)


def result_of(run: Run) -> PlanResult | None:
    """The stored result; nothing when it was stored by an earlier version in a shape this one does not read."""
    try:
        return PlanResult.model_validate(run.result) if run.result is not None else None
    except ValidationError:
        return None


def runs_of(session: Session, jobs: list[Job]) -> dict[str, Run]:
    """The newest finished run of each job that answers it as it stands, else the newest; without its documents."""
    wanted = {job.id: digest(job.request) for job in jobs}
    found = session.scalars(
        select(Run)
        .options(load_only(Run.id, Run.job_id, Run.digest, Run.status, Run.count, Run.created_at))
        .where(Run.job_id.in_(wanted), Run.status == "done")
        .order_by(Run.created_at)
    )
    return {run.job_id: run for run in sorted(found, key=lambda run: run.digest == wanted[run.job_id])}


def report(session: Session, run_id: str, **values: Any) -> bool:
    """Write down how far a run is, and its result so far; false when it was cancelled or taken away meanwhile."""
    changed = session.execute(update(Run).where(Run.id == run_id, Run.status.in_(ACTIVE)).values(status="running", **values))
    return bool(changed.rowcount)  # type: ignore[attr-defined]


def finish(session: Session, run_id: str, **values: Any) -> bool:
    """Store the outcome once: a run that is no longer active keeps what it has."""
    changed = session.execute(update(Run).where(Run.id == run_id, Run.status.in_(ACTIVE)).values(finished_at=now(), **values))
    return bool(changed.rowcount)  # type: ignore[attr-defined]


def take_clamps(session: Session, run_id: str, result: PlanResult) -> None:
    """Write the clamps that the planner chose into the job its run answers, unless someone changed the job meanwhile."""
    run = session.get(Run, run_id)
    if run is None or run.status not in ACTIVE or not any(way.rank for way in result.ways):
        return
    taken = as_json(chosen(PlanRequest.model_validate(run.request), result.ways))
    job = session.get(Job, run.job_id, with_for_update=True)
    if job is None or digest(job.request) != run.digest or digest(taken) == run.digest:
        return
    job.request, job.version, job.updated_at = taken, job.version + 1, now()
    run.request, run.digest = taken, digest(taken)
    session.flush()


def waiting(session: Session) -> list[Run]:
    return list(session.scalars(select(Run).options(load_only(Run.id)).where(Run.status.in_(ACTIVE))))
