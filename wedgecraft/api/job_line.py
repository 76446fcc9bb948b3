"""One line of the list of jobs."""

from __future__ import annotations

import math
from typing import Any

from sqlalchemy.orm import Session

from wedgecraft.api.documents import JobSummary
from wedgecraft.core.explain.steps import StepState, changed, step_states
from wedgecraft.core.explain.waiting import Card, waits_for
from wedgecraft.core.records.job import JobDocument
from wedgecraft.store import jobs, programs
from wedgecraft.store.models import Run


def summary(session: Session, line: jobs.Line) -> JobSummary:
    """As it was planned last, and how it stands now."""
    job = line.job
    card = _card(session, line)
    states = _states(session, line, card)
    return JobSummary(
        id=job.id,
        name=job.name,
        quantity=job.quantity,
        due=job.due,
        machine=job.machine,
        parts_per_cycle=line.count,
        cycles=math.ceil(job.quantity * job.per_set / line.count) if line.count else None,
        current=line.current,
        demo=job.demo,
        updated_at=job.updated_at,
        deleted_at=job.deleted_at,
        picture=card.picture if card is not None else None,
        states=states,
        waits_for="" if line.planning else waits_for(states, line.count),
        planning=line.planning,
    )


def _states(session: Session, line: jobs.Line, card: Card | None) -> list[StepState]:
    if card is None or line.run is None:
        return step_states(None)
    if not line.current:
        return changed()
    tried = programs.tried(session, line.job.id, line.run)
    states = [StepState.model_validate(item.step) for item in tried.values()]
    if not states or (len(states) < card.setups and all(s.state == "within" for s in states)):
        return card.states  # a setup whose program nobody tried is not answered by the others
    worst = next((item for item in states if item.state != "within"), states[0])
    return [worst if item.step == "program" else item for item in card.states]


def _card(session: Session, line: jobs.Line) -> Card | None:
    """As stored; of a result from before there were cards it is made now, and kept."""
    if line.run is None:
        return None
    stored: dict[str, Any] | None = line.card
    if stored is None:
        # the engine's geometry loads with the first that needs it
        from wedgecraft.core.explain.card import card_of

        run = session.get_one(Run, line.run)
        result = jobs.result_of(run)
        if result is None:
            return None
        found = card_of(JobDocument.model_validate(run.document), result)
        jobs.keep_card(session, line.run, found.model_dump(mode="json"))
        return found
    return Card.model_validate(stored)
