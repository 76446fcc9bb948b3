"""The log of a job: what happened comes in once, is set against what was planned, and teaches."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import AwareDatetime, Field

from wedgecraft.api import lanes, once
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import JobState
from wedgecraft.api.edit import value_at
from wedgecraft.api.job_state import Kept
from wedgecraft.api.jobs_api import changed_job, found_job
from wedgecraft.api.planned import planned_document, programmed_s
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.api.program_api import try_programs
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.log import AnyEntry, Learned, LogRequest, LogSaid
from wedgecraft.core.shop.table import RowFault
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.logs.table import MOST_BYTES, as_csv, read_log
from wedgecraft.formats.names import file_name
from wedgecraft.store import jobs, log

blueprint = APIBlueprint("log", __name__, url_prefix="/api/jobs", tag="Log")
_heard: Kept[str, LogSaid] = Kept(8)
#: Open jobs whose day is worked out anew to show what a value changes.
_MOST_JOBS = 12


class LogSent(Document):
    """Entries as they wait on a tablet; ``sent_at``: by its clock, so that one that is off is put
    right.
    """

    sent_at: AwareDatetime | None = None
    entries: Annotated[list[AnyEntry], Field(max_length=1000)]


class LogKept(Document):
    """So many were new, so many known already; ``other``: ids that said something else the first
    time, which stands. ``faults``: rows of a file that could not be read, of ``wrong`` in all.
    """

    stored: int
    known: int
    other: list[str] = []
    clock_off_s: float = 0.0
    faults: list[RowFault] = []
    wrong: int = 0


class LogPageAsked(Document):
    """So many entries, the latest first; ``before``: the mark of the page before."""

    most: Annotated[int, Field(ge=1, le=10_000)] = 200
    before: Annotated[str, Field(max_length=80)] = ""


class LogPage(Document):
    """A page of ``total``; ``more``: the mark for the next, empty at the end."""

    entries: list[AnyEntry]
    total: int
    more: str


class AdoptedValue(Document):
    """A value that was taken over from the log."""

    id: str
    field: str
    before: float
    after: float
    cases: int
    undone: bool
    at: datetime
    person: str


class JobLog(Document):
    """What a job's log says, and what was taken over from it."""

    said: LogSaid
    adopted: list[AdoptedValue]


class WhichLearned(Document):
    """Which of what was learned."""

    learned: Annotated[str, Field(max_length=60)]


class Adoption(WhichLearned):
    """``version`` of the job that was read."""

    version: int


class TakenBack(Document):
    """Which was taken over, and the version of the job that was read."""

    id: Annotated[str, Field(max_length=32)]
    version: int


class Effect(Document):
    """What a value would change in an open job: a day before and after."""

    job_id: str
    name: str
    before: float
    after: float


class Effects(Document):
    """Of the jobs that have a design and are not done."""

    jobs: list[Effect]


@blueprint.post("/<job_id>/log")
@may("log")
@blueprint.input(LogSent, arg_name="given")
@blueprint.output(LogKept)
def add(job_id: str, given: LogSent) -> LogKept:
    """Keep entries; sent again they are known, and nothing is counted twice."""
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
        kept = log.keep(session, job_id, given.entries, me().id, given.sent_at)
    return LogKept(**vars(kept))


@blueprint.post("/<job_id>/log/file")
@may("log")
@lanes.files
@blueprint.output(LogKept)
def add_file(job_id: str) -> LogKept:
    """Entries of a table (field ``file``): every row that can be read is kept, the others are
    said.
    """
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise ProblemRaised(422, "Nothing was read", "No file was sent: choose a CSV file.")
    try:
        read = read_log(sent.stream.read(MOST_BYTES + 1), job_id)
    except FileRefused as refused:
        said = f"{refused.what[:1].upper()}{refused.what[1:]}: {refused.remedy}."
        raise ProblemRaised(422, "Nothing was read", said) from None
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
        kept = log.keep(session, job_id, read.entries, me().id)
    return LogKept(**vars(kept), faults=read.faults, wrong=read.wrong)


@blueprint.get("/<job_id>/log")
@lanes.engine
@blueprint.input(LogPageAsked, location="query", arg_name="asked")
@blueprint.output(LogPage)
def shown(job_id: str, asked: LogPageAsked) -> LogPage:
    """What happened, the latest first."""
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
        rows = log.page(session, job_id, asked.most, _mark(asked.before))
        total = log.count(session, job_id)
        entries = [log.as_entry(row.at, row.data) for row in rows]
        last = rows[-1] if len(rows) == asked.most else None
        more = f"{last.at.isoformat()} {last.id}" if last is not None else ""
    return LogPage.model_construct(entries=entries, total=total, more=more)


def _mark(text: str) -> tuple[datetime, str] | None:
    if not text:
        return None
    try:
        at, ident = text.replace(" 00:00 ", "+00:00 ").rsplit(" ", 1)
        return datetime.fromisoformat(at), ident
    except ValueError:
        why = "Take the mark that the page before gave."
        raise ProblemRaised(422, "No such page", why) from None


@blueprint.get("/<job_id>/log.csv")
@lanes.engine
@blueprint.doc(responses=files("text/csv"))
def table(job_id: str) -> Response:
    """All of it as a table, that is read again as it is."""
    with current_app.extensions["database"].session() as session:
        job = found_job(session, job_id)
        name, text = job.name, as_csv(log.every(session, job_id))
    headers = {"Content-Disposition": f'attachment; filename="{file_name(name)} log.csv"'}
    return Response(text, mimetype="text/csv", headers=headers)


@blueprint.get("/<job_id>/log/said")
@lanes.engine
@blueprint.output(JobLog)
def said(job_id: str) -> JobLog:
    """The log against what was planned: stations, charts, torques, and what can be learned."""
    try_programs(job_id)
    with current_app.extensions["database"].session() as session:
        found = said_of(session, job_id)
        rows = [
            AdoptedValue(
                id=row.id, field=row.field, before=row.before, after=row.after,
                cases=row.cases, undone=row.undone, at=row.at, person=row.person,
            )
            for row in log.adopted(session, job_id)
        ]  # fmt: skip
    return JobLog(said=found, adopted=rows)


def said_of(session: Any, job_id: str) -> LogSaid:
    """What a job's log says, worked out once for as long as neither changes."""
    document, _ = planned_document(session, job_id)
    # what is assumed is what the job says now, also where it was not planned with it yet
    now = jobs.document(session, found_job(session, job_id))
    document = document.model_copy(update={"running": now.running})
    setups = len(document.route.setups) if document.route is not None else 0
    seconds = tuple(programmed_s(session, job_id, setups))
    written = document.model_dump_json()
    key = f"{job_id} {log.mark(session, job_id)} {seconds} {written}"

    def work() -> LogSaid:
        from wedgecraft.core.plan.logged import log_of

        entries = log.every(session, job_id)
        asked = LogRequest.model_construct(
            document=document, programmed_s=list(seconds), entries=entries
        )
        return log_of(asked)

    return _heard.get(key, work)


def _learned(session: Any, job_id: str, ident: str) -> Learned:
    found = next((item for item in said_of(session, job_id).learned if item.id == ident), None)
    if found is None or found.field is None:
        raise ProblemRaised(404, "Nothing to take over", "The log does not show this value.")
    return found


@blueprint.get("/<job_id>/log/effects")
@lanes.engine
@blueprint.input(WhichLearned, location="query", arg_name="asked")
@blueprint.output(Effects)
def effects(job_id: str, asked: WhichLearned) -> Effects:
    """What taking a value over would change in the jobs that have a design."""
    from wedgecraft.core.plan.effects import a_day_with

    found = []
    with current_app.extensions["database"].session() as session:
        item = _learned(session, job_id, asked.learned)
        open_jobs = jobs.open_ids(session, _MOST_JOBS, first=job_id)
        for ident, name in open_jobs:
            document, _ = planned_document(session, ident)
            if document.result is None or document.route is None:
                continue
            seconds = programmed_s(session, ident, len(document.route.setups))
            try:
                before, after = a_day_with(document, item.field or "", item.value, seconds)
            except OutOfRange:
                continue
            found.append(Effect(job_id=ident, name=name, before=before, after=after))
    return Effects(jobs=found)


@blueprint.post("/<job_id>/log/adopted")
@may("plan")
@blueprint.input(Adoption, arg_name="given")
@blueprint.output(JobState)
def take_over(job_id: str, given: Adoption) -> Response:
    """Take a learned value over into the job; it can be taken back."""
    with current_app.extensions["database"].session() as session:
        item = _learned(session, job_id, given.learned)
        stored = jobs.as_json(jobs.document(session, found_job(session, job_id)))
        before = value_at(stored, item.field or "")
    value = round(item.value, item.digits)
    answer = changed_job(job_id, given.version, item.field or "", lambda _: value)
    with current_app.extensions["database"].session() as session:
        log.adopt(
            session, job_id, once.key(), field=item.field or "", before=before, after=value,
            cases=item.cases, person=me().name,
        )  # fmt: skip
    return answer


@blueprint.delete("/<job_id>/log/adopted")
@may("plan")
@blueprint.input(TakenBack, location="query", arg_name="given")
@blueprint.output(JobState)
def take_back(job_id: str, given: TakenBack) -> Response:
    """Put back what stood there before a value was taken over."""
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
        row = next((r for r in log.adopted(session, job_id) if r.id == given.id), None)
        if row is None or row.undone:
            raise ProblemRaised(404, "Nothing to take back", "It was taken back already.")
        field, before = row.field, row.before
    answer = changed_job(job_id, given.version, field, lambda _: before)
    with current_app.extensions["database"].session() as session:
        log.take_back(session, given.id)
    return answer
