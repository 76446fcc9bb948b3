"""Jobs: list, make, change field by field, take back, plan, put aside and bring back, export and
read again.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import Any, Literal

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import ValidationError
from sqlalchemy import func, select

from wedgecraft.api import job_line, job_state, lanes, once
from wedgecraft.api.access import may, me
from wedgecraft.api.documents import (
    CopyAsked,
    DraftPart,
    DueChange,
    FieldChange,
    JobList,
    JobsAsked,
    JobState,
    NewDraft,
    NewJob,
    PastedText,
    Removal,
    RunState,
    Step,
    StepAsked,
    Steps,
)
from wedgecraft.api.edit import value_at, with_field
from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.cutting.table import cuts_from_text
from wedgecraft.core.draft.assumed import without_touched
from wedgecraft.core.draft.bare import bare
from wedgecraft.core.draft.shape import part_of_outline, part_of_solid
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.removal import without_op, without_part
from wedgecraft.core.plan.route_edits import started
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.solid import SolidReading
from wedgecraft.core.shop.picks import starting_job
from wedgecraft.formats.names import file_name
from wedgecraft.store import changes, jobs, meshes, programs, shop, uploads
from wedgecraft.store.models import ACTIVE, Change, Job, Person, Run

blueprint = APIBlueprint("jobs", __name__, url_prefix="/api/jobs", tag="Jobs")
runs = APIBlueprint("runs", __name__, url_prefix="/api/runs", tag="Runs")


def _session() -> Any:
    return current_app.extensions["database"].session()


def missing_job() -> ProblemRaised:
    return ProblemRaised(404, "No such job", "This job does not exist, or was deleted.")


def found_job(session: Any, job_id: str) -> Job:
    """The job, or a 404 in words."""
    job = jobs.found(session, job_id)
    if job is None:
        raise missing_job()
    return job


def of_setup(document: JobDocument, number: int) -> tuple[PlanRequest, PlanResult | None]:
    """What is asked of a setup, counted from 1, and its result where there is one. Raises
    ProblemRaised for one that is not there, or whose form cannot be planned yet.
    """
    setups = document.route.setups if document.route is not None else []
    if number > len(setups):
        raise ProblemRaised(404, "No such setup", f"This job has {len(setups)} setups.")
    asked = setup_request(document, number)
    if asked is None:
        raise ProblemRaised(
            409, "Not possible yet", f"{setups[number - 1].form.said} cannot be planned yet."
        )
    found = document.result.setups if document.result is not None else []
    return asked, next((item.result for item in found if item.number == number), None)


def _locked(session: Any, job_id: str) -> Job:
    job = jobs.locked(session, job_id)
    if job is None:
        raise missing_job()
    return job


def _queue(run_id: str | None) -> None:
    """Hand a run to the workers; of two people the one with less under way goes first."""
    if run_id is None:
        return
    with _session() as session:
        before_it = jobs.active_of(session, me().id) - 1
    current_app.extensions["queue"].add(run_id, max(0, before_it))


@blueprint.get("")
@blueprint.input(JobsAsked, location="query", arg_name="asked")
@blueprint.output(JobList)
def listing(asked: JobsAsked) -> JobList:
    """A page of the jobs that a search finds, each with how its steps stand and what it waits
    for.
    """
    with _session() as session:
        lines, total = jobs.lines(
            session, asked.limit, asked.offset, asked.deleted, asked.search, asked.order
        )
        listed = [job_line.summary(session, line) for line in lines]
        resting = (
            total
            if asked.deleted
            else session.scalar(
                select(func.count()).select_from(Job).where(Job.deleted_at.is_not(None))
            )
        )
    return JobList(jobs=listed, total=total, deleted=resting or 0)


def _made(make: Callable[[Any], tuple[Job, str | None]]) -> Response:
    """A new job, once however often it is sent; ``make`` gives it, and the run that it starts
    with.
    """
    with _session() as session:
        made = once.before(session)
        if made is not None:
            return job_state.answer(session, found_job(session, made.subject), status=201)
        job, waiting = make(session)
        once.note(session, job.id, job.id)
        state = job_state.answer(session, job, status=201)
    _queue(waiting)
    return state


@blueprint.post("")
@may("plan")
@blueprint.input(NewJob, arg_name="given")
@blueprint.output(JobState, status_code=201)
def make(given: NewJob) -> Response:
    """Make a job from starting values."""

    def starting(session: Any) -> tuple[Job, None]:
        machine, plate = (preferred(session, kind) for kind in ("machine", "plate"))
        asked = starting_job(given.name, given.quantity, machine, plate, shop.rules(session))
        return jobs.add_job(session, asked, me().id, due=given.due), None

    return _made(starting)


@blueprint.post("/drafts")
@may("plan")
@blueprint.input(NewDraft, arg_name="given")
@blueprint.output(JobState, status_code=201)
def draft(given: NewDraft) -> Response:
    """Make a job from a part alone; everything else is proposed by the planner, which begins."""

    def begun(session: Any) -> tuple[Job, str | None]:
        parts = [
            _part_of(session, item, f"more.{k - 1}." if k else "")
            for k, item in enumerate([given, *given.more])
        ]
        document = JobDocument.model_validate(
            {
                "job": {
                    "name": given.name,
                    "quantity": given.quantity,
                    "parts": parts,
                    "rules": shop.rules(session),
                }
            }
        )
        job = jobs.add_job(session, document, me().id)
        run, added = jobs.start_run(session, job, me().id)
        return job, run.id if added else None

    return _made(begun)


@blueprint.post("/<job_id>/draft")
@may("plan")
@blueprint.output(JobState)
def draft_again(job_id: str) -> Response:
    """Propose everything anew round what a person set; what was there can be taken back."""
    with _session() as session:
        job = _locked(session, job_id)
        known = job_state.asked_of(job)
        state, _ = _stored(session, job, bare(known.document), "", known.stored)
        run, added = jobs.start_run(session, job, me().id)
        state = job_state.answer(session, job)
        waiting = run.id if added else None
    _queue(waiting)
    return state


@blueprint.post("/<job_id>/route")
@may("plan")
@blueprint.output(JobState)
def by_hand(job_id: str) -> Response:
    """Give a job without a route the shop's usual machine and plate, to go on by hand."""
    with _session() as session:
        job = _locked(session, job_id)
        asked = job_state.asked_of(job).document
        if asked.route is None:
            usual = starting_job("", 1, preferred(session, "machine"), preferred(session, "plate"))
            jobs.store(session, job, started(asked, usual), me().id)
        return job_state.answer(session, job)


def _part_of(session: Any, given: DraftPart, at: str) -> Part:
    """Raises ProblemRaised; its fields stand ``at``."""
    return _drawn(session, given, at).model_copy(update={"per_kit": given.per_kit})


def _drawn(session: Any, given: DraftPart, at: str) -> Part:
    if given.upload is not None:
        upload = uploads.without_files(session, given.upload)
        if upload is None or upload.result is None:
            raise ProblemRaised(409, "File not read", "Load the file again.")
        reading = SolidReading.model_validate(upload.result)
        try:
            return part_of_solid(reading, reading.mesh, given.material, given.name, upload.id)
        except OutOfRange as error:
            raise ProblemRaised(
                422, "File not used", f"What would do is {error.allowed}."
            ) from None
    if given.outline is None or given.thickness_mm is None:
        missing = "outline" if given.outline is None else "thickness_mm"
        said = "a file that was read" if given.outline is None else "how thick the part is"
        fields = [FieldError(field=f"{at}{missing}", value="", message=said)]
        raise ProblemRaised(422, "Not possible", f"Give {said}.", fields)
    return part_of_outline(given.outline, given.thickness_mm, given.material, given.name)


@blueprint.post("/<job_id>/copy")
@may("plan")
@blueprint.input(CopyAsked, arg_name="given")
@blueprint.output(JobState, status_code=201)
def copy(job_id: str, given: CopyAsked) -> Response:
    """Make a second job like this one: to try something, or to keep what could not be stored
    because someone else was first.
    """

    def copied(session: Any) -> tuple[Job, str | None]:
        job = found_job(session, job_id)
        known = job_state.asked_of(job)
        asked = (
            with_field(known.stored, given.path, given.value)
            if given.path is not None
            else known.document
        )
        named = asked.job.model_copy(update={"name": f"{asked.job.name[:110]}, copy"})
        asked = asked.model_copy(update={"job": named})
        made = jobs.add_job(session, asked, me().id, due=job.due)
        session.flush()
        programs.copy(session, job.id, made.id)
        setups = asked.route.setups if asked.route else []
        if not any(setup.arrangement.own for setup in setups):
            return made, None
        run, added = jobs.start_run(session, made, me().id)
        return made, run.id if added else None

    return _made(copied)


#: What a new job starts on, where the shop still has it; else the first of its kind.
_USUAL = {"machine": "Vertical, 760 x 460 mm travel", "plate": "Plate 400 x 350 x 25"}


def preferred(session: Any, kind: Literal["machine", "plate"]) -> Any:
    known = shop.entries(session, kind, retired=False)
    chosen = next(
        (thing for thing in known if thing.name == _USUAL[kind]), known[0] if known else None
    )
    return shop.document(chosen) if chosen else None


@blueprint.post("/documents")
@may("plan")
@blueprint.output(JobState, status_code=201)
def read_again() -> Response:
    """Make a job from an exported job document, or from one of an earlier version; one without a
    route begins on the shop's usual machine and plate.
    """
    given = request.get_json()
    try:
        asked = JobDocument.model_validate(given)
    except ValidationError as error:
        raise invalid(error, given=given) from None

    def read(session: Any) -> tuple[Job, None]:
        try:
            kept = meshes.taken_out(session, asked)
        except ValueError as error:
            raise ProblemRaised(422, "Not possible", f"{error}.") from None
        usual = starting_job("", 1, preferred(session, "machine"), preferred(session, "plate"))
        return jobs.add_job(session, started(kept, usual), me().id), None

    return _made(read)


@blueprint.get("/<job_id>")
@blueprint.output(JobState)
def read(job_id: str) -> Response:
    """A job with its latest run; kept ready, and not sent again to a page that has it (ETag)."""
    with _session() as session:
        response = job_state.ready(session, job_id)
    if response is None:
        raise missing_job()
    return response


@blueprint.patch("/<job_id>/fields")
@may("plan")
@blueprint.input(FieldChange, arg_name="given")
@blueprint.output(JobState)
def change(job_id: str, given: FieldChange) -> Response:
    """Change one field. A value that is not possible is refused and nothing is changed."""
    return changed_job(job_id, given.version, given.path, lambda _: given.value)


@blueprint.post("/<job_id>/removals")
@may("plan")
@blueprint.input(Removal, arg_name="given")
@blueprint.output(JobState)
def remove_one(job_id: str, given: Removal) -> Response:
    """Take out a part or an op. What is laid out goes on being laid out, by whatever place it has
    then.
    """

    def left(asked: JobDocument) -> dict[str, Any]:
        try:
            rest = (
                without_part(asked, given.part)
                if given.op is None
                else without_op(asked, given.part, given.op)
            )
        except OutOfRange as error:
            raise ProblemRaised(
                422, "Nothing was taken out", f"{error.field} {error.value}: {error.allowed}."
            ) from None
        return jobs.as_json(rest)

    return changed_job(job_id, given.version, "", left)


@blueprint.put("/<job_id>/due")
@may("plan")
@blueprint.input(DueChange, arg_name="given")
@blueprint.output(JobState)
def set_due(job_id: str, given: DueChange) -> Response:
    """Set the due date."""
    with _session() as session:
        if once.before(session) is not None:
            return job_state.answer(session, found_job(session, job_id))
        job = _locked(session, job_id)
        _check_version(session, job, given.version)
        job.due = given.due
        jobs.touched(job, me().id)
        once.note(session, job.id, job.id)
        session.flush()
        return job_state.answer(session, job)


@blueprint.get("/<job_id>/steps")
@blueprint.output(Steps)
def steps(job_id: str) -> Steps:
    """What this person can take back, and do again."""
    with _session() as session:
        return Steps(
            undo=_step(changes.last(session, job_id, me().id)),
            redo=_step(changes.next_again(session, job_id, me().id)),
        )


def _step(change: Change | None) -> Step | None:
    return None if change is None else Step(id=change.id, path=change.path or "", at=change.at)


@blueprint.post("/<job_id>/undo")
@may("plan")
@blueprint.input(StepAsked, arg_name="given")
@blueprint.output(JobState)
def undo(job_id: str, given: StepAsked) -> Response:
    """Take back this person's last change, also after a reload. With nothing to take back nothing
    happens.
    """
    return _stepped(job_id, given.step, back=True)


@blueprint.post("/<job_id>/redo")
@may("plan")
@blueprint.input(StepAsked, arg_name="given")
@blueprint.output(JobState)
def redo(job_id: str, given: StepAsked) -> Response:
    """Do again what was taken back last."""
    return _stepped(job_id, given.step, back=False)


def _stepped(job_id: str, wanted: str | None, back: bool) -> Response:
    with lanes.edits.place(me().id), _session() as session:
        if once.before(session) is not None:
            return job_state.answer(session, found_job(session, job_id))
        job = _locked(session, job_id)
        step = (changes.last if back else changes.next_again)(session, job_id, me().id)
        if step is None or step.path is None or (wanted is not None and step.id != wanted):
            return job_state.answer(session, job)
        document = job_state.asked_of(job).stored
        expected, value = (step.after, step.before) if back else (step.before, step.after)
        if _stands_at(document, step.path) != expected and changes.others_since(session, step):
            raise ProblemRaised(
                409,
                "Changed meanwhile",
                "Someone else changed the same since; nothing was taken back or done again.",
            )
        asked = with_field(document, step.path, value)
        step.undone = back
        state, waiting = _stored(session, job, asked, step.path)
    _queue(waiting)
    return state


@blueprint.post("/<job_id>/cuts")
@may("plan")
@blueprint.input(PastedText, arg_name="given")
@blueprint.output(JobState)
def paste_cuts(job_id: str, given: PastedText) -> Response:
    """Add cuts pasted from a spreadsheet to an op (or put them in the place of its cuts). With any
    fault nothing is stored.
    """
    cuts, faults = cuts_from_text(given.text, given.inch)
    if faults:
        errors = [
            FieldError(field=f"line {item.line}, {item.column}", value="", message=item.message)
            for item in faults[:20]
        ]
        detail = "; ".join(f"{item.field}: {item.message}" for item in errors[:4])
        raise ProblemRaised(422, "Nothing was pasted", detail, errors)

    def all_cuts(asked: JobDocument) -> list[Any]:
        parts = asked.job.parts
        if not (0 <= given.part < len(parts) and 0 <= given.op < len(parts[given.part].ops)):
            raise ProblemRaised(
                404, "No such op", "This op was removed meanwhile; reload the page."
            )
        known = parts[given.part].ops[given.op].cuts
        return [cut.model_dump(mode="json") for cut in ([] if given.replace else known) + cuts]

    path = f"job.parts.{given.part}.ops.{given.op}.cuts"
    return changed_job(job_id, given.version, path, all_cuts, [f"{len(cuts)} cuts were added"])


def _check_version(session: Any, job: Job, version: int) -> None:
    """Raises ProblemRaised when someone changed the locked job since."""
    if job.version == version:
        return
    person = session.get(Person, job.updated_by) if job.updated_by else None
    who = person.name if person else "someone else"
    raise ProblemRaised(
        409,
        "Changed meanwhile",
        f"{who} changed this job since you read it. Your value was not stored; a page keeps it, to"
        " be set again or put in a copy.",
    )


def changed_job(
    job_id: str,
    version: int,
    path: str,
    value: Callable[[JobDocument], Any],
    notes: list[str] | None = None,
) -> Response:
    """Store one field, judge what a person placed, and give the job as it then stands. ``value`` of
    the field, from the document as it stands.

    Raises ProblemRaised.
    """
    with lanes.edits.place(me().id), _session() as session:
        if once.before(session) is not None:
            return job_state.answer(session, found_job(session, job_id))
        job = _locked(session, job_id)
        _check_version(session, job, version)
        known = job_state.asked_of(job)
        asked = with_field(known.stored, path, value(known.document))
        if path:
            asked = without_touched(asked, path)
        state, waiting = _stored(session, job, asked, path, known.stored, notes)
    _queue(waiting)
    return state


def _stored(
    session: Any,
    job: Job,
    asked: JobDocument,
    path: str,
    before: dict[str, Any] | None = None,
    notes: list[str] | None = None,
) -> tuple[Response, str | None]:
    """Put a changed document into a locked job and note the change, with what was ``before`` where
    it can be taken back; the run it waits for.
    """
    jobs.store(session, job, asked, me().id)
    change = once.note(session, job.id, job.id)
    if before is not None:
        session.flush()
        changes.note_edit(
            session, change, path, value_at(before, path), _stands_at(job.document, path)
        )
    waiting = _judge_placing(session, job, asked, path)
    return job_state.answer(session, job, notes), waiting


def _stands_at(document: dict[str, Any], path: str) -> Any:
    """What stands at a path; nothing where there is no such field (any more)."""
    try:
        return value_at(document, path)
    except KeyError:
        return None


_PLACING = re.compile(r"route\.setups\.(\d+)\.arrangement")


def _judge_placing(session: Any, job: Job, asked: JobDocument, path: str) -> str | None:
    """Stations as a person placed them, judged at once where load and hold are known; else by a
    run, whose id this gives. Nothing to do for another change.
    """
    found = _PLACING.match(path)
    if found is None or asked.route is None:
        return None
    index = int(found[1])
    if not asked.route.setups[index].arrangement.own:
        return None
    # the engine's libraries load with who first places a station
    from wedgecraft.core.explain.card import card_of
    from wedgecraft.core.plan.route import placed_again

    mark, placed = jobs.newest_done_mark(session, job.id), None
    if mark is not None and (before := job_state.planned_of(session, mark)).result is not None:
        known = before.document.model_copy(update={"result": before.result})
        placed = placed_again(asked, index + 1, known)
    if placed is None or placed.result is None:
        run, added = jobs.start_run(session, job, me().id)
        return run.id if added else None
    card = card_of(placed, placed.result).model_dump(mode="json")
    run = jobs.store_placed(session, job, placed.result, card)
    job_state.keep(session, run, job_state.Planned(asked, placed.result))
    return None


@blueprint.delete("/<job_id>")
@may("plan")
@blueprint.output({}, status_code=204)
def remove(job_id: str) -> tuple[str, int]:
    """Put a job aside. It rests thirty days, and can be brought back until then."""
    with _session() as session:
        if not jobs.delete(session, job_id):
            raise missing_job()
    return "", 204


@blueprint.post("/<job_id>/bring-back")
@may("plan")
@blueprint.output(JobState)
def bring_back(job_id: str) -> Response:
    """A deleted job stands again, as it was."""
    with _session() as session:
        job = jobs.bring_back(session, job_id)
        if job is None:
            raise ProblemRaised(
                404,
                "No such job",
                "This job does not exist, or was deleted more than thirty days ago.",
            )
        return job_state.answer(session, job)


@blueprint.post("/<job_id>/runs")
@may("plan")
@blueprint.output(RunState, status_code=202)
def start(job_id: str) -> Response:
    """Plan the job as it stands. Asking again while that is under way gives that run; one that
    plans what it was before is ended.
    """
    with _session() as session:
        job = _locked(session, job_id)
        run, added = jobs.start_run(session, job, me().id)
        state, waiting = (
            job_state.run_answer(session, run, job, status=202),
            run.id if added else None,
        )
    _queue(waiting)
    return state


@blueprint.get("/<job_id>/document")
def export(job_id: str) -> Response:
    """The job document, with the result where it answers the job as it stands."""
    with _session() as session:
        job = found_job(session, job_id)
        document = meshes.put_in(session, jobs.document(session, job))
        name = file_name(job.name)
    body = json.dumps(document.model_dump(mode="json"), indent=1)
    return Response(
        body,
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.job.json"'},
    )


def _found_run(session: Any, run_id: str) -> Run:
    run: Run | None = session.get(Run, run_id)
    if run is None or run.job.deleted_at is not None:
        raise ProblemRaised(404, "No such run", "This run does not exist.")
    return run


@runs.get("/<run_id>")
@runs.output(RunState)
def read_run(run_id: str) -> Response:
    """How far a run is, with its result once done."""
    with _session() as session:
        run = _found_run(session, run_id)
        return job_state.run_answer(session, run, run.job)


@runs.delete("/<run_id>")
@may("plan")
@runs.output(RunState)
def cancel(run_id: str) -> Response:
    """Cancel a run; what it would have found is not stored."""
    with _session() as session:
        run = _found_run(session, run_id)
        if run.status in ACTIVE:
            jobs.finish(session, run_id, status="cancelled", step="cancelled")
            session.refresh(run)
        return job_state.run_answer(session, run, run.job)
