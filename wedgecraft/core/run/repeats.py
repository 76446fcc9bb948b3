"""The same days again and again with other draws, and what came out of them."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from wedgecraft.core.records.run import Doing, Interval, Share, Stage, StageRun
from wedgecraft.core.run.hours import DAY, Hours
from wedgecraft.core.run.model import Diary, Floor, went

#: Four weeks.
MONTH_DAYS = 28.0
#: So many cycles of the quickest are enough for one repeat.
_CYCLES = 1000
_RUNS = ("cuts", "changes tools, indexes, moves", "changes pallets")
#: A night in which nothing stops it.
THROUGH = "nothing: it still runs in the morning"


@dataclass
class Seen:
    """What the repeats showed of one setup: sets a working day, spindle shares, what it did (as
    shares of the attended hours), hours alone of each evening and what ended them.
    """

    a_day: list[float] = field(default_factory=list)
    spindle: list[float] = field(default_factory=list)
    doing: Counter[Doing] = field(default_factory=Counter)
    alone_h: list[float] = field(default_factory=list)
    ended: Counter[str] = field(default_factory=Counter)
    weekends: list[bool] = field(default_factory=list)


def interval(values: Sequence[float]) -> Interval:
    """Mean, and between what nine of ten lie.

    >>> interval([1.0, 2.0, 3.0])
    Interval(mean=2.0, low=1.1, high=2.9)
    """
    ordered = sorted(values)

    def at(share: float) -> float:
        place = share * (len(ordered) - 1)
        k = math.floor(place)
        above = ordered[min(k + 1, len(ordered) - 1)]
        return round(ordered[k] + (place - k) * (above - ordered[k]), 9)

    return Interval(mean=sum(ordered) / len(ordered), low=at(0.05), high=at(0.95))


def phases(stages: Sequence[Stage]) -> list[list[Stage]]:
    """Which setups run at the same time: every machine has its first, then its second; one that has
    no further goes on with its last, as its people do.
    """
    by_machine: dict[str, list[Stage]] = {}
    for stage in stages:
        by_machine.setdefault(stage.machine, []).append(stage)
    most = max(len(own) for own in by_machine.values())
    return [[own[min(k, len(own) - 1)] for own in by_machine.values()] for k in range(most)]


def days_run(stages: Sequence[Stage], floor: Floor) -> float:
    """Four weeks; fewer where cycles are so short that a week shows as much."""
    week = floor.hours[0].week
    most = max(
        week / (stage.run_s + (stage.load_s if stage.fixtures == 1 else 0.0)) for stage in stages
    )
    return min(MONTH_DAYS, 7.0 * max(1, round(_CYCLES / most)))


def repeated(
    stages: Sequence[Stage], floor: Floor, repeats: int, days: float = MONTH_DAYS
) -> dict[int, Seen]:
    """Each setup by its number, run so often for so many days."""
    there, _ = floor.hours
    found = {stage.number: Seen() for stage in stages}
    for together in phases(stages):
        fresh = [stage for stage in together if not found[stage.number].a_day]
        for repeat in range(repeats):
            diaries = went(together, floor, days, repeat)
            for stage, diary in zip(together, diaries, strict=True):
                if stage in fresh:
                    _look(found[stage.number], stage, diary, there, days, floor)
    return found


def _look(seen: Seen, stage: Stage, diary: Diary, there: Hours, days: float, floor: Floor) -> None:
    start, until = diary.start, diary.start + days * DAY
    attended = there.between(start, until)
    work_days = days * floor.running.days_a_week / 7
    seen.a_day.append(diary.cycles * stage.sets / work_days)
    here: Counter[Doing] = Counter()
    for since, to, what, _ in diary.did:
        here[what] += there.between(since, min(to, until))  # type: ignore[assignment]
    for what, seconds in here.items():
        seen.doing[what] += seconds / attended  # type: ignore[assignment]
    seen.spindle.append(here["cuts"] / attended)
    _evenings(seen, diary, there, start, until)


def _evenings(seen: Seen, diary: Diary, there: Hours, start: float, until: float) -> None:
    """How long it goes on after people leave, and what ends that."""
    begins = [entry[0] for entry in diary.did]
    leave = there.closes(there.next_open(start))
    while leave < until:
        comes = there.next_open(leave)
        if comes >= until or not begins:
            return
        k = max(bisect_right(begins, leave) - 1, 0)
        while k < len(begins) and begins[k] < comes and diary.did[k][2] in _RUNS:
            k += 1
        if k < len(begins) and begins[k] < comes:
            ran, why = max(0.0, begins[k] - leave), diary.did[k][3]
        else:  # still at it when they come back
            ran, why = comes - leave, THROUGH
        seen.alone_h.append(ran / 3600)
        seen.ended[why] += 1
        if comes - leave > 1.5 * DAY:
            seen.weekends.append(why == THROUGH)
        leave = there.closes(comes)


def stage_run(stage: Stage, seen: Seen) -> StageRun:
    """What there is to say of a setup."""
    repeats, evenings = len(seen.a_day), max(1, sum(seen.ended.values()))
    return StageRun(
        number=stage.number,
        name=stage.name,
        machine=stage.machine,
        cycle_s=stage.run_s,
        load_s=stage.load_s,
        fixtures=stage.fixtures,
        source=stage.source,
        a_day=interval(seen.a_day),
        spindle=interval(seen.spindle),
        doing=[Share(what=what, share=total / repeats) for what, total in seen.doing.most_common()],
        alone_hours=interval(seen.alone_h or [0.0]),
        stops_first=[(why, times / evenings) for why, times in seen.ended.most_common(6)],
        over_the_weekend=sum(seen.weekends) / max(1, len(seen.weekends)),
    )


def a_day_of_all(stages: Sequence[Stage], rates: dict[int, float]) -> float:
    """Complete parts or kits a working day: the machine that has the fewest, its setups in turn."""
    needs: dict[str, float] = {}
    for stage in stages:
        rate = rates[stage.number]
        needs[stage.machine] = needs.get(stage.machine, 0.0) + (1 / rate if rate > 0 else math.inf)
    return 1 / max(needs.values())


def days_to_do(
    stages: Sequence[Stage], rates: dict[int, float], quantity: int, hours_a_day: float
) -> float:
    """Working days until the order is done: setting up and whole cycles, machine by machine; one
    machine follows another by one cycle.
    """
    needs: dict[str, float] = {}
    for stage in stages:
        rate = rates[stage.number]
        sets = math.ceil(quantity / stage.sets - 1e-9) * stage.sets
        days = stage.setup_s / (hours_a_day * 3600) + (sets / rate if rate > 0 else math.inf)
        needs[stage.machine] = needs.get(stage.machine, 0.0) + days
    last = max(needs.values())
    behind = sum(
        stage.sets / rates[stage.number] for stage in stages if rates[stage.number] > 0
    ) - max((s.sets / rates[s.number] for s in stages if rates[s.number] > 0), default=0.0)
    return last + (behind if len(needs) > 1 else 0.0)
