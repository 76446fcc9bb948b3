"""What is pressing today, from what is known of each job."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date

from wedgecraft.core.records.shelf import TodayLine

#: A job that ends so many days before it is due is called close.
_CLOSE_DAYS = 3


@dataclass(frozen=True)
class JobNow:
    """``planned``: it has a design; ``current``: of as it stands; ``a_day`` in complete parts;
    ``good`` of ``quantity`` are made; ``says``: what its log contradicts.
    """

    id: str
    name: str
    quantity: int
    due: date | None
    planned: bool
    current: bool
    feasible: bool
    a_day: float | None
    good: int = 0
    says: Sequence[str] = field(default_factory=tuple)

    @property
    def left(self) -> int:
        """Still to make."""
        return max(0, self.quantity - self.good)


def days_needed(job: JobNow, days_a_week: int = 5) -> int | None:
    """By the calendar, to make what is left; nothing where a day's parts are not known.

    >>> from datetime import date
    >>> days_needed(JobNow("1", "a", 100, None, True, True, True, 10.0))
    14
    """
    if not job.a_day:
        return None
    work = math.ceil(job.left / job.a_day - 1e-9)
    return math.ceil(work * 7 / days_a_week)


def today_lines(jobs: Sequence[JobNow], role: str, now: date) -> list[TodayLine]:
    """Setters see what to load next; planners what lacks something and what the log contradicts;
    who runs the shop, what is late. Administrators see all.
    """
    found: list[TodayLine] = []
    if role in ("operator", "admin"):
        found += _to_load(jobs, now)
    if role in ("planner", "admin", "viewer"):
        found += _late(jobs, now)
    if role in ("planner", "admin"):
        found += _lacking(jobs)
        found += [
            TodayLine(kind="log", title=job.name, says=says, job_id=job.id, step="log")
            for job in jobs
            for says in job.says[:2]
        ]
    return sorted(found, key=lambda line: not line.urgent)


def _to_load(jobs: Sequence[JobNow], now: date) -> list[TodayLine]:
    ready = [job for job in jobs if job.feasible and job.current and job.left]
    ready.sort(key=lambda job: (job.due is None, job.due or now, job.name))
    lines = []
    for job in ready[:6]:
        due = f", due {job.due:%d %b}" if job.due else ""
        says = f"{job.left} of {job.quantity} still to make{due}"
        urgent = job.due is not None and (job.due - now).days <= _CLOSE_DAYS
        lines.append(
            TodayLine(
                kind="load", title=job.name, says=says, job_id=job.id, step="tablet", urgent=urgent
            )
        )
    return lines


def _late(jobs: Sequence[JobNow], now: date) -> list[TodayLine]:
    lines = []
    for job in jobs:
        needs = days_needed(job)
        if job.due is None or not job.left or needs is None:
            continue
        room = (job.due - now).days - needs
        if room < _CLOSE_DAYS:
            word = f"{-room} days late" if room < 0 else f"{room} days to spare"
            says = f"{job.left} left at {job.a_day:.0f} a day take {needs} days: {word}"
            lines.append(
                TodayLine(
                    kind="late",
                    title=job.name,
                    says=says,
                    job_id=job.id,
                    step="run",
                    urgent=room < 0,
                )
            )
    return lines


def _lacking(jobs: Sequence[JobNow]) -> list[TodayLine]:
    lines = []
    for job in jobs:
        if not job.planned:
            says, kind = "not planned yet", "plan"
        elif not job.current:
            says, kind = "changed since it was planned", "outdated"
        elif not job.feasible:
            says, kind = "no design: open it to see why", "plan"
        else:
            continue
        given = {"kind": kind, "title": job.name, "says": says, "job_id": job.id, "step": "layout"}
        lines.append(TodayLine.model_validate(given))
    return lines
