"""The first page: what is pressing, by role."""

from __future__ import annotations

from datetime import UTC, datetime

from apiflask import APIBlueprint
from flask import current_app

from wedgecraft.api import lanes
from wedgecraft.api.access import me
from wedgecraft.api.log_api import said_of
from wedgecraft.api.planned import planned_document
from wedgecraft.core.floor.today import JobNow, today_lines
from wedgecraft.core.records.shelf import Today
from wedgecraft.store import jobs, log

blueprint = APIBlueprint("today", __name__, url_prefix="/api/today", tag="Today")
#: Jobs that are looked at, as they were last changed.
_MOST = 60


@blueprint.get("")
@lanes.engine
@blueprint.output(Today)
def today() -> Today:
    """For setters what to load next, for planners what lacks something, for who runs the shop what
    is late.
    """
    found = []
    with current_app.extensions["database"].session() as session:
        listed, _ = jobs.lines(session, _MOST)
        for line in listed:
            document, current = planned_document(session, line.job.id)
            result = document.result
            good, says = 0, []
            if log.count(session, line.job.id):
                heard = said_of(session, line.job.id)
                good, says = heard.complete, heard.says
            found.append(
                JobNow(
                    id=line.job.id,
                    name=line.job.name,
                    quantity=line.job.quantity,
                    due=line.job.due,
                    planned=result is not None,
                    current=current,
                    feasible=result is not None and result.feasible,
                    a_day=result.a_day if result is not None else None,
                    good=good,
                    says=tuple(says),
                )
            )
    role = me().role
    return Today(role=role, lines=today_lines(found, role, datetime.now(UTC).date()))
