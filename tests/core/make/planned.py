"""Planned demo jobs, once a process."""

from __future__ import annotations

from functools import lru_cache

from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.demo.by_hand import by_hand
from wedgecraft.demo.drafts import with_the_rest


@lru_cache
def planned(name: str) -> JobDocument:
    """As it stands in the demo, without alternatives."""
    document = next(item for item, _ in by_hand() if item.job.name == name)
    return plan_route(with_the_rest(document), alternatives=False)
