"""Planned demo jobs, once a process."""

from __future__ import annotations

from functools import lru_cache

from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.demo.shop import demo_documents


@lru_cache
def planned(name: str) -> JobDocument:
    """As it stands in the demo, without alternatives."""
    document = next(item for item, _ in demo_documents() if item.job.name == name)
    return plan_route(document, alternatives=False)
