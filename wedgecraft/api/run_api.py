"""How a job runs: parts a day, what the spindle waits for, what a minute is worth, money."""

from __future__ import annotations

from functools import lru_cache

from apiflask import APIBlueprint
from flask import current_app

from wedgecraft.api import lanes
from wedgecraft.api.planned import planned_document, programmed_s
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.api.program_api import try_programs
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.run import RunRequest, RunResult, WorthTable

blueprint = APIBlueprint("run", __name__, url_prefix="/api/jobs", tag="Run")


@blueprint.get("/<job_id>/running")
@lanes.engine
@blueprint.output(RunResult)
def run(job_id: str) -> RunResult:
    """Weeks of it, again and again: a day, until when, what each machine does, and the money."""
    return _ran(*_asked(job_id))


@blueprint.get("/<job_id>/running/worth")
@lanes.engine
@blueprint.output(WorthTable)
def worth(job_id: str) -> WorthTable:
    """What a minute off, one more fixture, person or sister tool is worth, most first."""
    try:
        return _worth(*_asked(job_id))
    except OutOfRange as error:
        why = f"It follows from a layout: {error.field}, {error.allowed}."
        raise ProblemRaised(409, "Nothing runs yet", why) from None


def _asked(job_id: str) -> tuple[str, tuple[float | None, ...]]:
    try_programs(job_id)
    with current_app.extensions["database"].session() as session:
        document, _ = planned_document(session, job_id)
        setups = len(document.route.setups) if document.route is not None else 0
        seconds = tuple(programmed_s(session, job_id, setups))
    if document.result is None:
        raise ProblemRaised(
            409, "Nothing runs yet", "It follows from a layout: plan the job first."
        )
    return document.model_dump_json(), seconds


@lru_cache(maxsize=16)
def _ran(document: str, seconds: tuple[float | None, ...]) -> RunResult:
    from wedgecraft.core.plan.running import run_of

    read = JobDocument.model_validate_json(document)
    return run_of(RunRequest(document=read, programmed_s=list(seconds)))


@lru_cache(maxsize=16)
def _worth(document: str, seconds: tuple[float | None, ...]) -> WorthTable:
    from wedgecraft.core.plan.running import worth_of

    read = JobDocument.model_validate_json(document)
    return worth_of(RunRequest(document=read, programmed_s=list(seconds)))
