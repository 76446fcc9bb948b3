"""A job with the result it has: the one of now, else of as it was planned last."""

from __future__ import annotations

from sqlalchemy.orm import Session

from wedgecraft.api.jobs_api import found_job
from wedgecraft.core.records.job import JobDocument
from wedgecraft.store import jobs, programs


def planned_document(session: Session, job_id: str) -> tuple[JobDocument, bool]:
    """As it was planned, and whether it still is so. How it is run is always as it is now."""
    job = found_job(session, job_id)
    document = jobs.document(session, job)
    current = document.result is not None
    before = None if current else jobs.newest_done(session, job_id)
    if before is not None:
        old = JobDocument.model_validate(before.document)
        kept = {"result": jobs.result_of(before), "running": document.running}
        document = old.model_copy(update=kept)
    return document, current


def programmed_s(session: Session, job_id: str, setups: int) -> list[float | None]:
    """What each setup's program takes, where it was tried as it is now and accepted."""
    latest = jobs.newest_done(session, job_id)
    if latest is None:
        return [None] * setups
    tried = programs.tried(session, job_id, latest.id)
    return [
        tried[n].seconds if n in tried and tried[n].step.get("state") == "within" else None
        for n in range(1, setups + 1)
    ]
