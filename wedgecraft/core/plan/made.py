"""The pieces of a whole job."""

from __future__ import annotations

from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.piece import JobMade


def made_of(document: JobDocument) -> JobMade:
    """The pieces of every setup; a job that was not planned is planned first."""
    planned = document if document.result is not None else plan_route(document, alternatives=False)
    setups = planned.route.setups if planned.route is not None else []
    made = [pieces_of(planned, number) for number in range(1, len(setups) + 1)]
    return JobMade(feasible=bool(made) and not any(item.reasons for item in made), setups=made)
