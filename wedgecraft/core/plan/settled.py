"""A request with what the planner left open filled in: clamps and datum."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.records.clamp_choice import Way
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import Strategy
from wedgecraft.core.records.screw import at_torque
from wedgecraft.core.records.view import views_of


def with_way(request: PlanRequest, way: Way) -> PlanRequest:
    """The request with the stations of one of its kinds clamped that way; an op planned with the
    first gets a station of its own.
    """
    kind = views_of(request)[way.kind].station
    clamp = kind.clamp if way.torque_nm is None else at_torque(kind.clamp, way.torque_nm)
    station = kind.model_copy(
        update={
            "element": way.element,
            "sharing": way.sharing,
            "clamps": way.clamps,
            "clamp": clamp,
        }
    )
    if way.kind == 0:
        planned = request.planned.model_copy(update={"station": None})
        return request.model_copy(update={"station": station, "planned": planned})
    also = list(request.also)
    also[way.kind - 1] = also[way.kind - 1].model_copy(update={"station": station})
    return request.model_copy(update={"also": also})


def chosen(request: PlanRequest, tried: Sequence[Way]) -> PlanRequest:
    """The request with the first choice of every kind."""
    for way in tried:
        if way.rank == 1:
            request = with_way(request, way)
    return request


def with_datum(request: PlanRequest, strategy: Strategy) -> PlanRequest:
    """The request with zeros picked up that way."""
    return request.model_copy(
        update={"rules": request.rules.model_copy(update={"datum": strategy})}
    )


def settled(request: PlanRequest, result: PlanResult | None) -> PlanRequest:
    """The request with the datum that its result was planned with, where the planner picks it."""
    if request.rules.datum != "cheapest in tolerance":
        return request
    designs = result.designs if result is not None else []
    return with_datum(request, designs[0].datum if designs else "one for all")
