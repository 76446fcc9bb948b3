"""Jobs: list, make, change field by field, load an outline, plan, export and read again."""

from __future__ import annotations

import json
import re
from typing import Any, Literal

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import ValidationError
from sqlalchemy import select

from wedgecraft.api.access import may, me
from wedgecraft.api.documents import DueChange, FieldChange, JobList, JobState, JobSummary, NewJob, RunState, RunSummary
from wedgecraft.api.edit import with_field
from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.catalogue import starting_request
from wedgecraft.core.model import FieldError
from wedgecraft.core.plan import PlanDocument, PlanRequest
from wedgecraft.store import jobs
from wedgecraft.store.models import ACTIVE, Job, Person, Run

blueprint = APIBlueprint("jobs", __name__, url_prefix="/api/jobs", tag="Jobs")
runs = APIBlueprint("runs", __name__, url_prefix="/api/runs", tag="Runs")


_UNITS: dict[str, Literal["mm", "inch"]] = {"mm": "mm", "inch": "inch"}


def _session() -> Any:
    return current_app.extensions["database"].session()


def _found(session: Any, job_id: str) -> Job:
    job: Job | None = session.get(Job, job_id)
    if job is None:
        raise ProblemRaised(404, "No such job", "This job does not exist, or was deleted.")
    return job


def _run_state(run: Run, job: Job) -> RunState:
    result = jobs.result_of(run)
    readable = run.result is None or result is not None
    summary = RunSummary(
        id=run.id,
        status=run.status,
        step=run.step,
        share=run.share,
        error=run.error,
        current=readable and run.digest == jobs.digest(job.request),
        created_at=run.created_at,
        finished_at=run.finished_at,
    )
    return RunState(run=summary, result=result)


def _state(session: Any, job: Job, notes: list[str] | None = None) -> JobState:
    latest = jobs.latest_run(session, job.id)
    person = session.get(Person, job.updated_by) if job.updated_by else None
    return JobState(
        id=job.id, name=job.name, quantity=job.quantity, due=job.due, version=job.version,
        request=PlanRequest.model_validate(job.request), updated_at=job.updated_at, updated_by=person.name if person else None,
        latest=_run_state(latest, job) if latest else None, notes=notes or [],
    )  # fmt: skip


@blueprint.get("")
@blueprint.output(JobList)
def listing() -> JobList:
    """All jobs."""
    with _session() as session:
        found = list(session.scalars(select(Job).order_by(Job.updated_at.desc())))
        done = jobs.runs_of(session, [job.id for job in found])
        lines = [
            JobSummary(
                id=job.id, name=job.name, quantity=job.quantity, due=job.due, machine=job.request["machine"]["name"],
                parts_per_cycle=done[job.id].count if job.id in done else None,
                current=job.id in done and done[job.id].digest == jobs.digest(job.request), demo=job.demo, updated_at=job.updated_at,
            )
            for job in found
        ]  # fmt: skip
    return JobList(jobs=lines)


@blueprint.post("")
@may("plan")
@blueprint.input(NewJob, arg_name="given")
@blueprint.output(JobState, status_code=201)
def make(given: NewJob) -> JobState:
    """Make a job from starting values."""
    with _session() as session:
        job = jobs.add_job(session, starting_request(given.name, given.quantity), me().id, due=given.due)
        return _state(session, job)


@blueprint.post("/documents")
@may("plan")
@blueprint.output(JobState, status_code=201)
def read_again() -> JobState:
    """Make a job from an exported plan document, or from a bare plan request."""
    given = request.get_json(force=True)
    try:
        if isinstance(given, dict) and given.get("format") == "wedgecraft plan request":
            asked = PlanRequest.model_validate(given)
        else:
            asked = PlanDocument.model_validate(given).request
    except ValidationError as error:
        raise invalid(error) from None
    with _session() as session:
        return _state(session, jobs.add_job(session, asked, me().id))


@blueprint.get("/<job_id>")
@blueprint.output(JobState)
def read(job_id: str) -> JobState:
    """A job with its latest run."""
    with _session() as session:
        return _state(session, _found(session, job_id))


@blueprint.patch("/<job_id>/fields")
@may("plan")
@blueprint.input(FieldChange, arg_name="given")
@blueprint.output(JobState)
def change(job_id: str, given: FieldChange) -> JobState:
    """Change one field. A value that is not possible is refused and nothing is changed."""
    return _changed(job_id, given.version, given.path, given.value)


@blueprint.put("/<job_id>/due")
@may("plan")
@blueprint.input(DueChange, arg_name="given")
@blueprint.output(JobState)
def set_due(job_id: str, given: DueChange) -> JobState:
    """Set the due date."""
    with _session() as session:
        job = _found(session, job_id)
        job.due = given.due
        return _state(session, job)


@blueprint.put("/<job_id>/outline")
@may("plan")
@blueprint.output(JobState)
def load_outline(job_id: str) -> JobState:
    """Read the outline from an uploaded DXF file (field ``file``; ``units`` mm or inch where the file has none; ``version``)."""
    from wedgecraft.formats import dxf
    from wedgecraft.formats.errors import FileRefused, UnitsMissing

    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise _refused_file("no file was sent", "choose a DXF file")
    units = request.form.get("units") or None
    if units is not None and units not in _UNITS:
        raise _refused_file(f"“{units}” is not a unit of a drawing", "say mm or inch")
    version = request.form.get("version", "")
    if not version.isdigit():
        raise _refused_file("the job's version is missing", "reload the page")
    data = sent.stream.read(dxf.MOST_BYTES + 1)
    try:
        found = dxf.read_outline(data, _UNITS[units] if units else None, sent.filename)
    except UnitsMissing as error:
        problem = _refused_file(error.what, error.remedy)
        problem.problem = problem.problem.model_copy(update={"type": "units-missing"})
        raise problem from None
    except FileRefused as error:
        raise _refused_file(error.what, error.remedy) from None
    return _changed(job_id, int(version), "part.outline", found.outline.model_dump(mode="json"), found.notes)


def _refused_file(what: str, remedy: str) -> ProblemRaised:
    return ProblemRaised(
        422, "File not used", f"{what[:1].upper()}{what[1:]}; {remedy}.", [FieldError(field="file", value="", message=remedy)]
    )


def _changed(job_id: str, version: int, path: str, value: object, notes: list[str] | None = None) -> JobState:
    with _session() as session:
        job = _found(session, job_id)
        asked = with_field(job.request, path, value)
        try:
            changed = jobs.change_job(session, job_id, version, asked, me().id)
        except jobs.VersionConflict as conflict:
            person = session.get(Person, conflict.updated_by) if conflict.updated_by else None
            who = person.name if person else "someone else"
            raise ProblemRaised(
                409,
                "Changed meanwhile",
                f"{who} changed this job since you read it. Your value was not stored; look at theirs, then set yours again.",
            ) from None
        if changed is None:
            raise ProblemRaised(404, "No such job", "This job was deleted meanwhile.")
        return _state(session, changed, notes)


@blueprint.delete("/<job_id>")
@may("plan")
@blueprint.output({}, status_code=204)
def remove(job_id: str) -> tuple[str, int]:
    """Delete a job and its runs."""
    with _session() as session:
        session.delete(_found(session, job_id))
    return "", 204


@blueprint.post("/<job_id>/runs")
@may("plan")
@blueprint.output(RunState, status_code=202)
def start(job_id: str) -> RunState:
    """Plan the job as it stands. Asking again while a run is active gives that run."""
    with _session() as session:
        job = _found(session, job_id)
        run, added = jobs.start_run(session, job)
        state = _run_state(run, job)
    if added:
        current_app.extensions["queue"].add(state.run.id)
    return state


@blueprint.get("/<job_id>/document")
def export(job_id: str) -> Response:
    """The plan document: the request, and the result where it answers it."""
    with _session() as session:
        job = _found(session, job_id)
        document = jobs.document(session, job)
        name = re.sub(r"[^A-Za-z0-9]+", "-", job.name).strip("-").lower() or "job"
    body = json.dumps(document.model_dump(mode="json"), indent=1)
    return Response(body, mimetype="application/json", headers={"Content-Disposition": f'attachment; filename="{name}.plan.json"'})


@runs.get("/<run_id>")
@runs.output(RunState)
def read_run(run_id: str) -> RunState:
    """How far a run is, with its result once done."""
    with _session() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise ProblemRaised(404, "No such run", "This run does not exist.")
        return _run_state(run, run.job)


@runs.delete("/<run_id>")
@may("plan")
@runs.output(RunState)
def cancel(run_id: str) -> RunState:
    """Cancel a run; what it would have found is not stored."""
    with _session() as session:
        run = session.get(Run, run_id)
        if run is None:
            raise ProblemRaised(404, "No such run", "This run does not exist.")
        if run.status in ACTIVE:
            jobs.finish(session, run_id, status="cancelled", step="cancelled")
            session.refresh(run)
        return _run_state(run, run.job)
