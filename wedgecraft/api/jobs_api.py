"""Jobs: list, make, change field by field, load an outline, plan, export and read again."""

from __future__ import annotations

import json
import math
import re
from contextlib import suppress
from functools import lru_cache
from typing import Any, Literal

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import ValidationError
from sqlalchemy import select

from wedgecraft.api.access import may, me
from wedgecraft.api.documents import (
    CopyAsked,
    DueChange,
    FieldChange,
    JobList,
    JobState,
    JobSummary,
    NewJob,
    PastedText,
    Removal,
    RunState,
    RunSummary,
    Setups,
)
from wedgecraft.api.edit import with_field
from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.arranging import rearranged
from wedgecraft.core.catalogue import starting_request
from wedgecraft.core.cutting.table import cuts_from_text
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.machine import Machine
from wedgecraft.core.model import FieldError
from wedgecraft.core.part import Part
from wedgecraft.core.part_facts import PartFacts, part_facts
from wedgecraft.core.plan import PlanDocument, PlanRequest
from wedgecraft.core.removing import without_op, without_part
from wedgecraft.core.setups import setups
from wedgecraft.store import jobs, shop
from wedgecraft.store.models import ACTIVE, Job, Person, Run

blueprint = APIBlueprint("jobs", __name__, url_prefix="/api/jobs", tag="Jobs")
runs = APIBlueprint("runs", __name__, url_prefix="/api/runs", tag="Runs")


def _session() -> Any:
    return current_app.extensions["database"].session()


def found_job(session: Any, job_id: str) -> Job:
    """The job, or a 404 in words."""
    job: Job | None = session.get(Job, job_id)
    if job is None:
        raise ProblemRaised(404, "No such job", "This job does not exist, or was deleted.")
    return job


def _run_state(run: Run, job: Job, before: Run | None = None) -> RunState:
    """How far a run is; while it is under way with the best so far, or with what was known ``before`` it."""
    result = jobs.result_of(run)
    readable = run.result is None or result is not None
    if run.status in ACTIVE and result is None and before is not None:
        result = jobs.result_of(before)
    summary = RunSummary(
        id=run.id,
        status=run.status,
        step=run.step,
        share=run.share,
        error=run.error,
        current=readable and run.status not in ACTIVE and run.digest == jobs.digest(job.request),
        created_at=run.created_at,
        finished_at=run.finished_at,
    )
    return RunState(run=summary, result=result)


@lru_cache(maxsize=512)
def _facts(part: str, quantity: int, machine: str) -> PartFacts:
    """Facts of a part, worked out once for as long as it stays as it is."""
    return part_facts(Part.model_validate_json(part), quantity, Machine.model_validate_json(machine))


def _state(session: Any, job: Job, notes: list[str] | None = None) -> JobState:
    latest = jobs.latest_run(session, job)
    person = session.get(Person, job.updated_by) if job.updated_by else None
    asked = jobs.request_of(job)
    return JobState(
        id=job.id, name=job.name, quantity=job.quantity, due=job.due, version=job.version,
        request=asked, updated_at=job.updated_at, updated_by=person.name if person else None,
        latest=_run_state(latest, job, jobs.newest_done(session, job.id)) if latest else None, notes=notes or [],
        facts=[_facts(part.model_dump_json(), asked.quantity, asked.machine.model_dump_json()) for part in asked.parts],
    )  # fmt: skip


def _cycles(job: Job, count: int | None) -> int | None:
    """Read off the stored document: a list of many jobs has no time to validate each."""
    if not count:
        return None
    parts = job.request.get("parts", [])
    planned = job.request.get("planned", {}).get("part", 0)
    per_kit = parts[planned].get("per_kit", 1) if planned < len(parts) else 1
    return math.ceil(job.quantity * per_kit / count)


@blueprint.get("")
@blueprint.output(JobList)
def listing() -> JobList:
    """All jobs."""
    with _session() as session:
        found = list(session.scalars(select(Job).order_by(Job.updated_at.desc())))
        done = jobs.runs_of(session, found)
        lines = [
            JobSummary(
                id=job.id, name=job.name, quantity=job.quantity, due=job.due, machine=job.request["machine"]["name"],
                parts_per_cycle=done[job.id].count if job.id in done else None,
                cycles=_cycles(job, done[job.id].count) if job.id in done else None,
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
        machine, plate = (_preferred(session, kind) for kind in ("machine", "plate"))
        asked = starting_request(given.name, given.quantity, machine, plate, shop.rules(session))
        job = jobs.add_job(session, asked, me().id, due=given.due)
        return _state(session, job)


@blueprint.post("/<job_id>/copy")
@may("plan")
@blueprint.input(CopyAsked, arg_name="given")
@blueprint.output(JobState, status_code=201)
def copy(job_id: str, given: CopyAsked) -> JobState:
    """Make a second job like this one: to try something, or to keep what could not be stored because someone else was first."""
    with _session() as session:
        job = found_job(session, job_id)
        asked = with_field(job.request, given.path, given.value) if given.path is not None else jobs.request_of(job)
        asked = asked.model_copy(update={"name": f"{asked.name[:110]}, copy"})
        made = jobs.add_job(session, asked, me().id, due=job.due)
        waiting = _judge_placing(session, made, asked) if asked.arrangement.own else None
        state = _state(session, made)
    if waiting is not None:
        current_app.extensions["queue"].add(waiting)
    return state


#: What a new job starts on, where the shop still has it; else the first of its kind.
_USUAL = {"machine": "Vertical, 760 x 460 mm travel", "plate": "Plate 400 x 350 x 25"}


def _preferred(session: Any, kind: Literal["machine", "plate"]) -> Any:
    known = shop.entries(session, kind, retired=False)
    chosen = next((thing for thing in known if thing.name == _USUAL[kind]), known[0] if known else None)
    return shop.document(chosen) if chosen else None


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
        return _state(session, found_job(session, job_id))


@blueprint.patch("/<job_id>/fields")
@may("plan")
@blueprint.input(FieldChange, arg_name="given")
@blueprint.output(JobState)
def change(job_id: str, given: FieldChange) -> JobState:
    """Change one field. A value that is not possible is refused and nothing is changed."""
    return changed_job(job_id, given.version, given.path, given.value)


@blueprint.post("/<job_id>/removals")
@may("plan")
@blueprint.input(Removal, arg_name="given")
@blueprint.output(JobState)
def remove_one(job_id: str, given: Removal) -> JobState:
    """Take out a part or an op. What is laid out goes on being laid out, by whatever place it has then."""
    with _session() as session:
        asked = jobs.request_of(found_job(session, job_id))
    try:
        left = without_part(asked, given.part) if given.op is None else without_op(asked, given.part, given.op)
    except OutOfRange as error:
        raise ProblemRaised(422, "Nothing was taken out", f"{error.field} {error.value}: {error.allowed}.") from None
    return changed_job(job_id, given.version, "", left.model_dump(mode="json"))


@blueprint.put("/<job_id>/due")
@may("plan")
@blueprint.input(DueChange, arg_name="given")
@blueprint.output(JobState)
def set_due(job_id: str, given: DueChange) -> JobState:
    """Set the due date."""
    with _session() as session:
        job = found_job(session, job_id)
        job.due = given.due
        return _state(session, job)


@blueprint.get("/<job_id>/parts/<int:part>/setups")
@blueprint.output(Setups)
def setup_schemes(job_id: str, part: int) -> Setups:
    """The fewest ops of this part on every form, with what they cost."""
    with _session() as session:
        asked = jobs.request_of(found_job(session, job_id))
    if part >= len(asked.parts):
        raise ProblemRaised(404, "No such part", f"This job has {len(asked.parts)} parts.")
    chosen = asked.parts[part]
    wanted = asked.quantity * chosen.per_kit
    return Setups(schemes=setups(chosen, wanted, asked.rules.setup_minutes, asked.rules.handling_seconds))


@blueprint.post("/<job_id>/cuts")
@may("plan")
@blueprint.input(PastedText, arg_name="given")
@blueprint.output(JobState)
def paste_cuts(job_id: str, given: PastedText) -> JobState:
    """Add cuts pasted from a spreadsheet to an op (or put them in the place of its cuts). With any fault nothing is stored."""
    cuts, faults = cuts_from_text(given.text, given.inch)
    if faults:
        errors = [FieldError(field=f"line {item.line}, {item.column}", value="", message=item.message) for item in faults[:20]]
        detail = "; ".join(f"{item.field}: {item.message}" for item in errors[:4])
        raise ProblemRaised(422, "Nothing was pasted", detail, errors)
    with _session() as session:
        asked = jobs.request_of(found_job(session, job_id))
    try:
        known = asked.parts[given.part].ops[given.op].cuts
    except IndexError:
        raise ProblemRaised(404, "No such op", "This op was removed meanwhile; reload the page.") from None
    fresh = [cut.model_dump(mode="json") for cut in ([] if given.replace else known) + cuts]
    return changed_job(job_id, given.version, f"parts.{given.part}.ops.{given.op}.cuts", fresh, [f"{len(cuts)} cuts were added"])


def changed_job(job_id: str, version: int, path: str, value: object, notes: list[str] | None = None) -> JobState:
    """Store one field, judge what a person placed, and give the job as it then stands. Raises ProblemRaised."""
    with _session() as session:
        job = found_job(session, job_id)
        asked = with_field(job.request, path, value)
        try:
            changed = jobs.change_job(session, job_id, version, asked, me().id)
        except jobs.VersionConflict as conflict:
            person = session.get(Person, conflict.updated_by) if conflict.updated_by else None
            who = person.name if person else "someone else"
            raise ProblemRaised(
                409,
                "Changed meanwhile",
                f"{who} changed this job since you read it. Your value was not stored; a page keeps it, to be set again or put in a copy.",
            ) from None
        if changed is None:
            raise ProblemRaised(404, "No such job", "This job was deleted meanwhile.")
        waiting = _judge_placing(session, changed, asked) if path.startswith("arrangement") and asked.arrangement.own else None
        state = _state(session, changed, notes)
    if waiting is not None:
        current_app.extensions["queue"].add(waiting)
    return state


def _judge_placing(session: Any, job: Job, asked: PlanRequest) -> str | None:
    """Stations as a person placed them, judged at once where load and hold are known; else by a run, whose id this gives."""
    known, placed = jobs.newest_done(session, job.id), None
    if known is not None and (result := jobs.result_of(known)) is not None:
        with suppress(OutOfRange):  # the run will say it in full
            placed = rearranged(asked, PlanRequest.model_validate(known.request), result)
    if placed is None:
        run, added = jobs.start_run(session, job)
        return run.id if added else None
    jobs.store_placed(session, job, placed)
    return None


@blueprint.delete("/<job_id>")
@may("plan")
@blueprint.output({}, status_code=204)
def remove(job_id: str) -> tuple[str, int]:
    """Delete a job and its runs."""
    with _session() as session:
        session.delete(found_job(session, job_id))
    return "", 204


@blueprint.post("/<job_id>/runs")
@may("plan")
@blueprint.output(RunState, status_code=202)
def start(job_id: str) -> RunState:
    """Plan the job as it stands. Asking again while a run is active gives that run."""
    with _session() as session:
        job = found_job(session, job_id)
        run, added = jobs.start_run(session, job)
        state = _run_state(run, job)
    if added:
        current_app.extensions["queue"].add(state.run.id)
    return state


@blueprint.get("/<job_id>/document")
def export(job_id: str) -> Response:
    """The plan document: the request, and the result where it answers it."""
    with _session() as session:
        job = found_job(session, job_id)
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
