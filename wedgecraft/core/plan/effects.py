"""What another value would change in a job: complete parts or kits a day, before and after."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.plan.running import stages_of
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.run import Stage
from wedgecraft.core.run.model import Floor
from wedgecraft.core.run.repeats import a_day_of_all, days_run, repeated

#: A day is known well enough from so few; both ends see the same draws.
_REPEATS = 3


def a_day_with(
    document: JobDocument, field: str, value: float, programmed_s: Sequence[float | None] = ()
) -> tuple[float, float]:
    """A planned job's day as it is, and with ``value`` in ``field``, without planning it anew.
    Raises OutOfRange where it has no design.
    """
    before = stages_of(document, programmed_s)
    after, running = list(before), document.running
    if field == "job.rules.handling_seconds":
        times = value / max(document.job.rules.handling_seconds, 1e-9)
        after = [s.model_copy(update={"load_s": s.load_s * times}) for s in before]
    elif field.startswith("running."):
        running = running.model_copy(update={field.removeprefix("running."): value})
        after = stages_of(document.model_copy(update={"running": running}), programmed_s)
    hours = document.job.rules.hours_a_day
    return (_day(before, Floor(document.running, hours)), _day(after, Floor(running, hours)))


def _day(stages: Sequence[Stage], floor: Floor) -> float:
    seen = repeated(stages, floor, _REPEATS, min(14.0, days_run(stages, floor)))
    means = {number: sum(found.a_day) / len(found.a_day) for number, found in seen.items()}
    return a_day_of_all(stages, means) if all(means.values()) else 0.0
