"""Jobs and their runs."""

from __future__ import annotations

import hashlib
import json
import re
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import (
    ColumnElement,
    String,
    Text,
    bindparam,
    cast,
    func,
    literal_column,
    select,
    text,
    true,
    update,
)
from sqlalchemy import delete as delete_rows
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import Session, defer, load_only

from wedgecraft.core.records.job import JobDocument, JobResult
from wedgecraft.core.records.request import Arrangement
from wedgecraft.store.models import (
    ACTIVE,
    ACTIVE_ONLY,
    Job,
    OpProgram,
    Person,
    ProgramTried,
    Run,
    now,
)

#: The step of a run that judged stations as a person placed them.
AS_PLACED = "as placed"
#: Why a job is planned that nobody asked for.
OUTGROWN = (
    "Planned again: its design was made by an earlier version, in a form that is not read any more."
)


_NO_ARRANGEMENT = Arrangement().model_dump(mode="json")


class VersionConflict(RuntimeError):
    """Someone else changed the job since it was read."""

    def __init__(self, job: Job) -> None:
        super().__init__(f"the job is at version {job.version}")
        self.version, self.updated_by = job.version, job.updated_by


def as_json(document: JobDocument) -> dict[str, Any]:
    """What is stored of a job: its document, without a result."""
    return document.model_dump(mode="json", exclude={"result"})


def document_of(job: Job) -> JobDocument:
    """The job's document, brought up to date where an earlier version stored it."""
    return JobDocument.model_validate(job.document)


def digest(document: dict[str, Any]) -> str:
    """Tells whether a result still answers a document. An arrangement that says nothing is the same
    as none, and what is marked as proposed makes no difference.
    """
    route = document["route"] or {"setups": []}
    setups = [
        {
            key: value
            for key, value in setup.items()
            if key != "arrangement" or value != _NO_ARRANGEMENT
        }
        for setup in route["setups"]
    ]
    asked = {"job": document["job"], "setups": setups}
    # PostgreSQL knows one zero
    said = re.sub(r"-0\.0(?=[,\]}])", "0.0", json.dumps(asked, sort_keys=True))
    return hashlib.sha256(said.encode()).hexdigest()


def read_off(document: dict[str, Any]) -> dict[str, Any]:
    """What is kept beside a document, so that a list of many need not open it."""
    setups = document["route"]["setups"] if document["route"] else []
    machines = dict.fromkeys(setup["machine"]["name"] for setup in setups)
    return {
        "digest": digest(document),
        "machine": ", ".join(machines)[:300],
        "per_set": _per_set(document["job"]["parts"], setups),
    }


def _per_set(parts: list[dict[str, Any]], setups: list[dict[str, Any]]) -> int:
    """How many of what a cycle is counted in one kit takes: kits where a setup, or the whole route,
    makes them; else of the part that is held first.
    """
    held = [[(item["part"], item["op"]) for item in setup["holds"]] for setup in setups]
    every = sum(len(part["ops"]) for part in parts)
    whole = len(parts) > 1 and sum(map(len, held)) == every
    if not held or whole or len({part for part, _ in held[0]}) > 1:
        return 1
    return int(parts[held[0][0][0]]["per_kit"])


def add_job(
    session: Session,
    document: JobDocument,
    person: str | None,
    due: date | None = None,
    demo: bool = False,
) -> Job:
    stored = as_json(document)
    job = Job(
        name=document.job.name,
        quantity=document.job.quantity,
        due=due,
        document=stored,
        demo=demo,
        updated_by=person,
        **read_off(stored),
    )
    session.add(job)
    session.flush()
    return job


def found(session: Session, job_id: str) -> Job | None:
    """The job as it was last committed, unless it is deleted."""
    return session.scalar(select(Job).where(Job.id == job_id, Job.deleted_at.is_(None)))


def locked(session: Session, job_id: str) -> Job | None:
    """The job as it stands, nobody else's to change until the transaction ends."""
    # Read anew: a row the session has seen before it was locked would stay as it was then, and
    # others' changes be lost.
    query = select(Job).where(Job.id == job_id, Job.deleted_at.is_(None)).with_for_update()
    return session.scalar(query, execution_options={"populate_existing": True})


def store(session: Session, job: Job, document: JobDocument, person: str | None) -> None:
    """Put a changed document into a locked job."""
    stored = as_json(document)
    job.document, job.name, job.quantity = stored, document.job.name, document.job.quantity
    for name, value in read_off(stored).items():
        setattr(job, name, value)
    touched(job, person)
    session.flush()


def touched(job: Job, person: str | None) -> None:
    """A locked job has changed: its version rises."""
    job.version += 1
    job.updated_at = now()
    job.updated_by = person or job.updated_by


def change_job(
    session: Session, job_id: str, version: int, document: JobDocument, person: str
) -> Job | None:
    """Store a changed document if the job is still at ``version``. Raises VersionConflict."""
    job = locked(session, job_id)
    if job is None:
        return None
    if job.version != version:
        raise VersionConflict(job)
    store(session, job, document, person)
    return job


def start_run(
    session: Session, job: Job, person: str | None = None, note: str | None = None
) -> tuple[Run, bool]:
    """The run under way that answers the job as it stands, and whether it was made now. One that
    answers what it was before is ended.

    Asking twice gives the same one.
    """
    active = session.scalar(
        select(Run).where(Run.job_id == job.id, Run.status.in_(ACTIVE)), execution_options=_FRESH
    )
    if active is not None and active.digest == job.digest:
        return active, False
    if active is not None:
        finish(session, active.id, status="cancelled", step="the job was changed and planned anew")
    values = {
        "job_id": job.id,
        "document": job.document,
        "digest": job.digest,
        "asked_by": person,
        "note": note,
    }
    # Word for word the predicate of the index: as parameters, a statement that the server has
    # prepared no longer matches it.
    added = session.scalar(
        insert(Run)
        .values(**values)
        .on_conflict_do_nothing(index_elements=["job_id"], index_where=text(ACTIVE_ONLY))
        .returning(Run.id)
    )
    return (
        (session.get_one(Run, added), True)
        if added is not None
        else start_run(session, job, person, note)
    )


_FRESH = {"populate_existing": True}


def latest_run(session: Session, job: Job) -> Run | None:
    """The run under way; else the newest that answers the job as it stands; else the newest."""
    query = (
        select(Run)
        .where(Run.job_id == job.id, Run.status != "cancelled")
        .order_by(*_latest_first(job.digest))
    )
    return session.scalar(query.limit(1))


def _latest_first(digest: Any) -> tuple[Any, ...]:
    fits, under_way = Run.digest == digest, Run.status.in_(ACTIVE)
    return under_way.desc(), fits.desc(), Run.created_at.desc()


@dataclass(frozen=True)
class RunMark:
    """A run without its documents; ``mark`` changes whenever anything of it does."""

    id: str
    mark: str
    digest: str
    status: str
    step: str
    share: float
    error: str | None
    note: str | None
    created_at: datetime
    finished_at: datetime | None


#: PostgreSQL's own number of the transaction that wrote a row last.
_WRITTEN = cast(literal_column("run.xmin"), String)
_MARK = (
    Run.id,
    _WRITTEN,
    Run.digest,
    Run.status,
    Run.step,
    Run.share,
    Run.error,
    Run.note,
    Run.created_at,
    Run.finished_at,
)


def _first_mark(session: Session, *where: Any, order: tuple[Any, ...]) -> RunMark | None:
    row = session.execute(select(*_MARK).where(*where).order_by(*order).limit(1)).first()
    return RunMark(*tuple(row)) if row is not None else None


def run_mark(session: Session, run_id: str) -> RunMark:
    return RunMark(*tuple(session.execute(select(*_MARK).where(Run.id == run_id)).one()))


def latest_mark(session: Session, job: Job) -> RunMark | None:
    """As ``latest_run``."""
    return _first_mark(
        session, Run.job_id == job.id, Run.status != "cancelled", order=_latest_first(job.digest)
    )


def newest_done_mark(session: Session, job_id: str) -> RunMark | None:
    """As ``newest_done``."""
    return _first_mark(
        session, Run.job_id == job_id, Run.status == "done", order=(Run.created_at.desc(),)
    )


def _mark_query() -> Any:
    latest = (
        select(Run.id, _WRITTEN.label("written"))
        .where(Run.job_id == Job.id, Run.status != "cancelled")
        .order_by(*_latest_first(Job.digest))
        .limit(1)
        .lateral()
    )
    job = (
        Job.id,
        Job.version,
        Job.updated_at,
        cast(literal_column("job.xmin"), String),
        Person.name,
    )
    programs = [
        select(func.max(at)).where(of == Job.id).scalar_subquery()
        for at, of in (
            (OpProgram.loaded_at, OpProgram.job_id),
            (ProgramTried.tried_at, ProgramTried.job_id),
        )
    ]
    loaded = select(func.count()).where(OpProgram.job_id == Job.id).scalar_subquery()
    return (
        select(*job, latest.c.id, latest.c.written, *programs, loaded)
        .select_from(Job)
        .outerjoin(Person, Person.id == Job.updated_by)
        .outerjoin(latest, true())
        .where(Job.id == bindparam("job_id"), Job.deleted_at.is_(None))
    )


_MARK_QUERY = _mark_query()  # every reading of a job asks it: put together once


def mark_of(session: Session, job_id: str) -> tuple[Any, ...] | None:
    """What changes whenever a job, its latest run, or the name of who changed it does; nothing when
    there is no such job.
    """
    row = session.execute(_MARK_QUERY, {"job_id": job_id}).first()
    return tuple(row) if row is not None else None


def version_of(session: Session, job_id: str) -> int | None:
    return session.scalar(select(Job.version).where(Job.id == job_id, Job.deleted_at.is_(None)))


def count_of(result: JobResult | None) -> int:
    """How many come off a cycle: complete ones where every op is held, else the fewest of any
    setup; 0 while a setup has no design.
    """
    if result is None or not result.setups:
        return 0
    if result.complete_a_cycle is not None:
        return result.complete_a_cycle
    return min(item.result.designs[0].count if item.result.designs else 0 for item in result.setups)


def store_placed(session: Session, job: Job, result: JobResult, card: dict[str, Any]) -> Run:
    """The result for stations as a person placed them, in the place of the one before."""
    session.execute(delete_rows(Run).where(Run.job_id == job.id, Run.step == AS_PLACED))
    run = Run(
        job_id=job.id,
        document=job.document,
        digest=job.digest,
        status="done",
        step=AS_PLACED,
        share=1.0,
        finished_at=now(),
        result=result.model_dump(mode="json"),
        count=count_of(result),
        card=card,
    )
    session.add(run)
    session.flush()
    return run


def as_it_stands(session: Session, run_id: str) -> tuple[str | None, int]:
    """What a run has found so far, as JSON text that nobody read, and for how many setups."""
    setups = func.jsonb_array_length(Run.result["setups"])
    query = select(cast(Run.result, Text), setups).where(Run.id == run_id)
    row = session.execute(query).one()
    return row[0], row[1] or 0


def newest_done(session: Session, job_id: str) -> Run | None:
    """The newest run with a result."""
    return session.scalar(
        select(Run)
        .where(Run.job_id == job_id, Run.status == "done")
        .order_by(Run.created_at.desc())
        .limit(1)
    )


def open_ids(session: Session, most: int, first: str) -> list[tuple[str, str]]:
    """Jobs that are there, with their names: one first, then as they were last changed."""
    query = select(Job.id, Job.name).where(Job.deleted_at.is_(None))
    rows = session.execute(query.order_by(Job.id != first, Job.updated_at.desc()).limit(most))
    return [(ident, name) for ident, name in rows]


def document(session: Session, job: Job) -> JobDocument:
    """What is exported: the job, with its result where that answers the job as it stands."""
    latest = latest_run(session, job)
    fits = latest is not None and latest.status not in ACTIVE and latest.digest == job.digest
    result = result_of(latest) if latest and fits else None
    return document_of(job).model_copy(update={"result": result})


def result_of(run: Run) -> JobResult | None:
    """The stored result; nothing when it was stored by an earlier version in a shape this one does
    not read.
    """
    try:
        return JobResult.model_validate(run.result) if run.result is not None else None
    except ValidationError:
        return None


@dataclass(frozen=True)
class Line:
    """A job as a list shows it: its row without the document; of the newest result that answers it,
    else of the newest, the run, the count and the card (nothing where it was stored before there
    were cards). ``planning``: it is under way.
    """

    job: Job
    run: str | None
    count: int | None
    card: dict[str, Any] | None
    current: bool
    planning: bool


_ORDERS = {
    "changed": Job.updated_at.desc(),
    "name": func.lower(Job.name),
    "due": Job.due.asc().nulls_last(),
    "quantity": Job.quantity.desc(),
}


def lines(
    session: Session,
    limit: int,
    offset: int = 0,
    deleted: bool = False,
    search: str = "",
    order: str = "changed",
) -> tuple[list[Line], int]:
    """A page of the jobs that stand, or of those that were deleted, whose name or machine holds all
    words of ``search``; and how many there are.
    """
    where: list[ColumnElement[bool]] = [
        Job.deleted_at.is_not(None) if deleted else Job.deleted_at.is_(None)
    ]
    for word in search.split():
        where.append(
            Job.name.icontains(word, autoescape=True) | Job.machine.icontains(word, autoescape=True)
        )
    first = Job.deleted_at.desc() if deleted else _ORDERS[order]
    page = (
        select(Job)
        .options(defer(Job.document))
        .where(*where)
        .order_by(first, Job.updated_at.desc(), Job.id)
        .limit(limit)
        .offset(offset)
    )
    listed = list(session.scalars(page))
    total = session.scalar(select(func.count()).select_from(Job).where(*where)) or 0
    idents = [job.id for job in listed]
    active = select(Run.job_id).where(Run.job_id.in_(idents), Run.status.in_(ACTIVE))
    planning = set(session.scalars(active))
    fits = Run.digest == Job.digest
    best = (
        select(Run.job_id, Run.id, Run.count, Run.card, fits)
        .ext(distinct_on(Run.job_id))
        .join(Job, Job.id == Run.job_id)
        .where(Run.job_id.in_(idents), Run.status == "done")
        .order_by(Run.job_id, fits.desc(), Run.created_at.desc())
    )
    done = {ident: tuple(found) for ident, *found in session.execute(best)}
    found = []
    for job in listed:
        run, count, card, current = done.get(job.id, (None, None, None, False))
        found.append(Line(job, run, count, card, current, job.id in planning))
    return found, total


def keep_result(session: Session, run_id: str, result: JobResult, card: dict[str, Any]) -> None:
    """Of a run that is done, when more of it was looked at."""
    values = {"result": result.model_dump(mode="json"), "card": card}
    session.execute(update(Run).where(Run.id == run_id).values(**values))


def keep_card(session: Session, run_id: str, card: dict[str, Any]) -> None:
    """Of a run whose result was stored before there were cards."""
    session.execute(update(Run).where(Run.id == run_id).values(card=card))


def report(session: Session, run_id: str, **values: Any) -> bool:
    """Write down how far a run is, and its result so far; false when it was cancelled or taken away
    meanwhile.
    """
    changed = session.execute(
        update(Run)
        .where(Run.id == run_id, Run.status.in_(ACTIVE))
        .values(status="running", **values)
    )
    return bool(changed.rowcount)  # type: ignore[attr-defined]


def finish(session: Session, run_id: str, **values: Any) -> bool:
    """Store the outcome once: a run that is no longer active keeps what it has."""
    changed = session.execute(
        update(Run)
        .where(Run.id == run_id, Run.status.in_(ACTIVE))
        .values(finished_at=now(), **values)
    )
    return bool(changed.rowcount)  # type: ignore[attr-defined]


def take_settled(session: Session, run_id: str, taken: JobDocument) -> None:
    """Write what the planner settled, clamps or a whole draft, into the job its run answers, unless
    someone changed the job meanwhile.
    """
    run = session.get(Run, run_id)
    if run is None or run.status not in ACTIVE:
        return
    stored = as_json(taken)
    if digest(stored) == run.digest:
        return
    job = locked(session, run.job_id)
    if job is None or job.digest != run.digest:
        return
    store(session, job, taken, None)
    run.document, run.digest = stored, job.digest
    session.flush()


def delete(session: Session, job_id: str) -> bool:
    """Put a job aside, its runs ended; it can be brought back until ``clean_up`` takes it. Twice is
    once. False: there is none.
    """
    job = session.get(Job, job_id, with_for_update=True, populate_existing=True)
    if job is None:
        return False
    if job.deleted_at is None:
        job.deleted_at = now()
        ended = {"status": "cancelled", "step": "the job was deleted", "finished_at": now()}
        session.execute(
            update(Run).where(Run.job_id == job_id, Run.status.in_(ACTIVE)).values(**ended)
        )
    return True


def bring_back(session: Session, job_id: str) -> Job | None:
    """A deleted job stands again, as it was. Twice is once."""
    job = session.get(Job, job_id, with_for_update=True, populate_existing=True)
    if job is not None and job.deleted_at is not None:
        job.deleted_at, job.updated_at = None, now()
        session.flush()
    return job


def plan_outgrown(session: Session) -> list[str]:
    """Plan the jobs again whose design an earlier version stored in a shape that this one does not
    read, or worked out as this one would not (an update took its digest away); their ids.
    """
    found = []
    for ident in session.scalars(select(Job.id).where(Job.deleted_at.is_(None))).all():
        job = session.get_one(Job, ident)
        latest = latest_run(session, job)
        if (
            latest is not None
            and latest.status == "done"
            and latest.result is not None
            and (result_of(latest) is None or latest.digest == "")
        ):
            start_run(session, job, note=OUTGROWN)
            found.append(ident)
        session.expunge_all()
    return found


def waiting(session: Session) -> list[Run]:
    return list(
        session.scalars(select(Run).options(load_only(Run.id)).where(Run.status.in_(ACTIVE)))
    )


def active_of(session: Session, person: str | None) -> int:
    """How many runs of this person wait or are under way."""
    where = (Run.asked_by == person, Run.status.in_(ACTIVE))
    return session.scalar(select(func.count()).select_from(Run).where(*where)) or 0
