"""The made-up shop: its jobs as they stand, loaded once and never over a person's own."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

from sqlalchemy.orm import Session

from wedgecraft.core.records.job import JobDocument, Route
from wedgecraft.demo.by_hand import by_hand
from wedgecraft.demo.days import logged
from wedgecraft.demo.drafts import collar, cover, first_draft, with_the_rest
from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.demo.tooling import op_programs, with_tools
from wedgecraft.store import changes, jobs, log, meshes, people, programs
from wedgecraft.store.models import Setting, now

#: Orders a year and the chance of another.
_ORDERS = {
    "Manifold block, 8-port": (4.0, 0.9),
    "Manifold block, by the pallet": (6.0, 0.9),
    "Anchor lug": (1.0, 0.2),
}


def load(session: Session) -> list[str]:
    """Load accounts and jobs unless this database has any accounts or was loaded before. Each job
    was drafted first; what the planner of the demo then set can be taken back.

    Gives the runs to queue, one a job, so that every job has its design a few seconds later.
    """
    if session.get(Setting, "demo") is not None or people.anyone(session):
        return []
    accounts = [
        people.add_person(session, entry.sign_in, entry.name, entry.role, entry.password, demo=True)
        for entry in DEMO_PEOPLE
    ]
    planner = accounts[0].id
    started = now()
    loaded = []
    for place, (document, days) in enumerate(demo_documents()):
        before = meshes.taken_out(session, first_draft(document.job.name))
        job = jobs.add_job(session, before, None, due=_due(days), demo=True)
        change = changes.note(session, None, "demo", job.id, planner, job.id)
        drafted = job.document
        jobs.store(session, job, meshes.taken_out(session, document), None)
        for part, op, name, text in op_programs(document):
            programs.keep(session, job.id, part, op, name=name, text=text, person=planner)
        changes.note_edit(session, change, "", drafted, job.document)
        log.keep(session, job.id, logged(document.job.name, started), planner)
        job.updated_at = started - timedelta(minutes=place)
        loaded.append(jobs.start_run(session, job)[0].id)
    session.add(Setting(key="demo", value={"loaded": started.isoformat()}))
    return loaded


def _due(days: int) -> date:
    return (datetime.now(UTC) + timedelta(days=days)).date()


def demo_documents() -> list[tuple[JobDocument, int]]:
    """The jobs with their routes, what a person set of them and what was proposed; with rates and
    what stands in the magazines.
    """
    own = [(with_the_rest(document), days) for document, days in by_hand()]
    return [(_costed(document), days) for document, days in [*own, (cover(), 38), (collar(), 66)]]


def _costed(document: JobDocument) -> JobDocument:
    """With what an hour costs here and how often it is ordered; all of it invented."""
    a_year, again = _ORDERS.get(document.job.name, (2.0, 0.5))
    rules = document.job.rules.model_copy(update={"person_rate_an_hour": 46.0})
    job = document.job.model_copy(
        update={"rules": rules, "orders_a_year": a_year, "repeat_chance": again}
    )
    setups = []
    for setup in document.route.setups if document.route is not None else []:
        rate = 95.0 if setup.machine.pallets else 58.0
        machine = setup.machine.model_copy(update={"rate_an_hour": rate})
        setups.append(setup.model_copy(update={"machine": machine}))
    costed = document.model_copy(update={"job": job, "route": Route(setups=setups)})
    return with_tools(costed)
