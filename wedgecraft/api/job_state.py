"""A job as the service shows it. Put together from pieces that are each made once and kept ready:
its document read and written out, its result looked at and written out, the facts of its parts; and
the whole, for as long as neither job nor run changes.
"""

from __future__ import annotations

import gzip
import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from flask import Response, request
from sqlalchemy.orm import Session

from wedgecraft import __version__
from wedgecraft.api.documents import RunSummary
from wedgecraft.core.draft.assumed import assumed_shown
from wedgecraft.core.explain.shown import setups_shown
from wedgecraft.core.explain.steps import changed, step_states
from wedgecraft.core.records.job import JobDocument, JobResult
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.part import Part
from wedgecraft.core.workpiece.facts import part_facts
from wedgecraft.store import jobs, programs
from wedgecraft.store.models import ACTIVE, Job, Person, Run

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Kept(Generic[K, V]):
    """The values that were last asked for, ``most`` of them; for several threads."""

    def __init__(self, most: int) -> None:
        self._most, self._known, self._lock = most, OrderedDict[K, V](), threading.Lock()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """What is kept under the key, or made now."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        made = make()
        self.put(key, made)
        return made

    def known(self, key: K) -> V | None:
        """What is kept under the key."""
        with self._lock:
            return self._known.get(key)

    def put(self, key: K, made: V) -> None:
        """Keep what somebody else made."""
        with self._lock:
            self._known[key] = made
            self._known.move_to_end(key)
            while len(self._known) > self._most:
                self._known.popitem(last=False)


@dataclass(frozen=True)
class Asked:
    """A stored document as it reads today: what was stored before a field was there has the field's
    starting value. Not to be changed. ``stored``: without a result; ``written``: document and
    setups as JSON.
    """

    document: JobDocument
    stored: dict[str, Any]
    written: str


@dataclass(frozen=True)
class Body:
    """What is sent, plain and packed."""

    plain: bytes
    packed: bytes
    tag: str


@dataclass(frozen=True)
class Known:
    """A run's result as JSON, whether it could be read (also where there is none), and the states
    of the steps of each setup while it is current.
    """

    result: str | None
    readable: bool
    steps: str
    outdated: str


@dataclass(frozen=True)
class Planned:
    """What a finished run was asked, and its result as far as it can be read. Not to be changed."""

    document: JobDocument
    result: JobResult | None


_documents: Kept[tuple[str, str], Asked] = Kept(30)
_planned: Kept[tuple[str, str], Planned] = Kept(6)
_results: Kept[tuple[str, str], Known] = Kept(60)
_facts: Kept[tuple[str, int, str], str] = Kept(500)
_bodies: Kept[tuple[str, str], Body] = Kept(60)


def asked_of(job: Job) -> Asked:
    """The job's document, read once for as long as it stays as it is."""

    def read() -> Asked:
        document = jobs.document_of(job)
        stored = jobs.as_json(document)
        setups = [setup.model_dump(mode="json") for setup in setups_shown(document)]
        taken = [item.model_dump(mode="json") for item in assumed_shown(document)]
        parts = {"document": stored, "setups": setups, "assumed": taken}
        written = ",".join(f'"{name}":{json.dumps(part)}' for name, part in parts.items())
        return Asked(document, stored, written)

    # Alike jobs share one: many begin as copies. The digest leaves out what no plan depends on.
    rest = [job.document.get(name) for name in ("running", "proposals")]
    return _documents.get((job.digest, json.dumps(rest)), read)


def written_facts(part: Part, quantity: int, machines: list[Machine | None]) -> str:
    """Facts of a part, as JSON; of every op the machine it is held on."""
    on = " ".join(machine.model_dump_json() if machine else "" for machine in machines)
    return _facts.get(
        (part.model_dump_json(), quantity, on),
        lambda: part_facts(part, quantity, machines).model_dump_json(),
    )


def _steps(result: JobResult | None, outdated: bool = False) -> str:
    """Of each setup, in their order; of a job that never was planned, of the first."""
    if result is None or not result.setups:
        states = [step_states(None)]
    else:
        states = [
            changed()
            if outdated
            else step_states(item.result, result.reasons, result.doubts, item.making)
            for item in result.setups
        ]
    return json.dumps([[state.model_dump() for state in steps] for steps in states])


def _result(session: Session, mark: jobs.RunMark) -> Known:
    def read() -> Known:
        if mark.status in ACTIVE:  # a worker writes it every moment: sent on as it is
            text, setups = jobs.as_it_stands(session, mark.id)
            states = [state.model_dump() for state in changed()]
            return Known(text, True, _steps(None), json.dumps([states] * max(1, setups)))
        result, readable = _result_read(session, mark)
        written = result.model_dump_json() if result is not None else None
        return Known(written, readable, _steps(result), _steps(result, outdated=True))

    return _results.get((mark.id, mark.mark), read)


def _result_read(session: Session, mark: jobs.RunMark) -> tuple[JobResult | None, bool]:
    known = _planned.known((mark.id, mark.mark))
    if known is not None and known.result is not None:
        return known.result, True
    run = session.get_one(Run, mark.id)
    result = jobs.result_of(run)
    return result, run.result is None or result is not None


def planned_of(session: Session, mark: jobs.RunMark) -> Planned:
    """What a finished run was asked and found, read once for as long as it stays as it is."""

    def read() -> Planned:
        run = session.get_one(Run, mark.id)
        return Planned(JobDocument.model_validate(run.document), jobs.result_of(run))

    return _planned.get((mark.id, mark.mark), read)


def keep(session: Session, run: Run, planned: Planned) -> None:
    """What was just stored as a run is not read again."""
    _planned.put((run.id, jobs.run_mark(session, run.id).mark), planned)


def written(session: Session, job: Job, notes: list[str] | None = None) -> str:
    """The job with its latest run, as JSON (``documents.JobState``)."""
    person = session.get(Person, job.updated_by) if job.updated_by else None
    asked = asked_of(job)
    document = asked.document
    facts = [
        written_facts(
            part, document.job.quantity, [document.machine_of(p, o) for o, _ in enumerate(part.ops)]
        )
        for p, part in enumerate(document.job.parts)
    ]
    latest = jobs.latest_mark(session, job)
    head = {
        "id": job.id,
        "name": job.name,
        "quantity": job.quantity,
        "due": job.due.isoformat() if job.due else None,
        "version": job.version,
        "updated_at": job.updated_at.isoformat(),
        "updated_by": person.name if person else None,
        "notes": notes or [],
    }
    run = "null" if latest is None else _written_run(session, job, latest)
    rest = f'{asked.written},"facts":[{",".join(facts)}],"latest":{run}'
    return f"{json.dumps(head)[:-1]},{rest}}}"


def _written_run(session: Session, job: Job, latest: jobs.RunMark) -> str:
    """How far a run is; while it is under way with the best so far, or with what was known before
    it.
    """
    known = _result(session, latest)
    result = known.result
    if latest.status in ACTIVE and result is None:
        before = jobs.newest_done_mark(session, job.id)
        result = _result(session, before).result if before is not None else None
    current = known.readable and latest.status not in ACTIVE and latest.digest == job.digest
    # What never was judged is not "changed"; what was judged of an older version is.
    steps = known.steps if current or result is None else known.outdated
    so_far = latest.status in ACTIVE and known.result is not None
    summary = RunSummary(
        id=latest.id,
        status=latest.status,
        step=latest.step,
        share=latest.share,
        error=latest.error,
        note=latest.note,
        current=current,
        so_far=so_far and latest.digest == job.digest,
        created_at=latest.created_at,
        finished_at=latest.finished_at,
    )
    steps, seconds = _with_programs(session, job, latest, steps) if current else (steps, [])
    return (
        f'{{"run":{summary.model_dump_json()},"result":{result or "null"},"steps":{steps},'
        f'"programmed_s":{json.dumps(seconds)}}}'
    )


def _with_programs(
    session: Session, job: Job, latest: jobs.RunMark, steps: str
) -> tuple[str, list[float | None]]:
    """The steps, programs as they were last tried; and the seconds those take."""
    tried = programs.tried(session, job.id, latest.id)
    if not tried:
        return steps, []
    setups: list[list[dict[str, Any]]] = json.loads(steps)
    for number, own in enumerate(setups, 1):
        if number in tried:
            known = tried[number].step
            setups[number - 1] = [known if s["step"] == "program" else s for s in own]
    seconds = [tried[n].seconds if n in tried else None for n in range(1, len(setups) + 1)]
    return json.dumps(setups), seconds


def answer(
    session: Session, job: Job, notes: list[str] | None = None, status: int = 200
) -> Response:
    """The job as it now stands, after a change."""
    return Response(written(session, job, notes), status=status, mimetype="application/json")


def ready(session: Session, job_id: str) -> Response | None:
    """The job as it was last put together, if nothing of it changed since: the browser may have it
    already. Nothing: there is no such job.
    """
    mark = jobs.mark_of(session, job_id)
    if mark is None:
        return None
    tag = hashlib.sha256(f"{__version__} {mark}".encode()).hexdigest()[:32]
    if request.if_none_match.contains(tag):
        response = Response(status=304)
    else:
        body = _bodies.get(
            (job_id, tag), lambda: _packed(written(session, session.get_one(Job, job_id)), tag)
        )
        packed = "gzip" in request.accept_encodings
        response = Response(body.packed if packed else body.plain, mimetype="application/json")
        if packed:
            response.headers["Content-Encoding"] = "gzip"
    response.set_etag(tag)
    response.headers["Cache-Control"] = "private, no-cache"
    response.headers["Vary"] = "Accept-Encoding, Cookie"
    return response


def _packed(text: str, tag: str) -> Body:
    plain = text.encode()
    return Body(plain, gzip.compress(plain, 5), tag)


def run_answer(session: Session, run: Run, job: Job, status: int = 200) -> Response:
    """A run with its result (``documents.RunState``)."""
    mark = jobs.run_mark(session, run.id)
    return Response(_written_run(session, job, mark), status=status, mimetype="application/json")
