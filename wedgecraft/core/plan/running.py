"""How a planned job runs, what a minute of it is worth, and what it costs."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.plan.costs import money_asked
from wedgecraft.core.plan.pieces import pieces_looked_at
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.whole import sets_a_cycle
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.job import JobDocument, Setup
from wedgecraft.core.records.run import (
    Interval,
    RunRequest,
    RunResult,
    Stage,
    StageRun,
    Tooled,
    Worth,
    WorthTable,
)
from wedgecraft.core.records.running import Running
from wedgecraft.core.run.model import Floor
from wedgecraft.core.run.repeats import (
    Seen,
    a_day_of_all,
    days_run,
    days_to_do,
    interval,
    repeated,
    stage_run,
)

#: Less than this share of a day's parts is called nothing.
_NOTHING = 0.004
#: Repeats and days for what a minute is worth: both ends see the same draws.
_WORTH_REPEATS, _WORTH_DAYS = 8, 14.0
_MINUTE = 60.0


def run_of(request: RunRequest) -> RunResult:
    """A job without a result is planned first. Without a design everywhere the reasons say so."""
    document = pieces_looked_at(_planned(request.document))
    try:
        stages = stages_of(document, request.programmed_s)
    except OutOfRange as error:
        return _nothing(document, request, f"{error.field}: {error.allowed}")
    rules, running = document.job.rules, document.running
    floor = Floor(running, rules.hours_a_day)
    days_each = days_run(stages, floor)
    seen = repeated(stages, floor, request.repeats, days_each)
    rates = [
        {number: found.a_day[k] for number, found in seen.items()} for k in range(request.repeats)
    ]
    runs = [stage_run(stage, seen[stage.number]) for stage in stages]
    if any(run.a_day.mean <= 0 for run in runs):
        stuck = next(run for run in runs if run.a_day.mean <= 0)
        return _nothing(document, request, f"{stuck.name} never finishes a cycle as it is manned")
    a_day = interval([a_day_of_all(stages, each) for each in rates])
    days = [days_to_do(stages, each, document.job.quantity, rules.hours_a_day) for each in rates]
    slowest = min(runs, key=lambda run: run.a_day.mean)
    return RunResult(
        feasible=True,
        reasons=[],
        counted=document.result.counted if document.result else "parts",
        quantity=document.job.quantity,
        repeats=request.repeats,
        days=days_each,
        stages=runs,
        a_day=a_day,
        done_days=interval([_calendar(each, floor) for each in days]),
        limits=slowest.number if len(runs) > 1 else None,
        says=_says(slowest, running, stages),
        figures=[_day_figure(document, runs, a_day)],
        money=money_asked(document, stages, runs),
        cautions=_cautions(document, running),
    )


def worth_of(request: RunRequest) -> WorthTable:
    """Parts or kits a working day that each change would buy, most first. Raises OutOfRange where
    there is no design.
    """
    document = _planned(request.document)
    stages = stages_of(document, request.programmed_s)
    running, hours = document.running, document.job.rules.hours_a_day

    def gone(these: Sequence[Stage], with_it: Running) -> dict[int, Seen]:
        return repeated(these, Floor(with_it, hours), _WORTH_REPEATS, _WORTH_DAYS)

    def a_day(these: Sequence[Stage], seen: dict[int, Seen]) -> float:
        means = {n: sum(found.a_day) / len(found.a_day) for n, found in seen.items()}
        return a_day_of_all(these, means) if all(means.values()) else 0.0

    seen = gone(stages, running)
    now = a_day(stages, seen)
    runs = {stage.number: stage_run(stage, seen[stage.number]) for stage in stages}
    rows = []
    for change in _changes(document, stages):
        changed = change.stages(stages)
        gains = a_day(changed, gone(changed, change.running(running))) - now
        why = ""
        if gains < _NOTHING * now:
            gains, why = max(0.0, gains) if gains > 0 else 0.0, _why(runs, change.number)
        rows.append(Worth(what=change.what, gains=gains, why=why))
    rows.sort(key=lambda row: -row.gains)
    counted = document.result.counted if document.result else "parts"
    return WorthTable(counted=counted, a_day=now, rows=rows)


def stages_of(document: JobDocument, programmed_s: Sequence[float | None] = ()) -> list[Stage]:
    """The setups as they are run. Raises OutOfRange where one has no design."""
    route, result = document.route, document.result
    if route is None or result is None or len(result.setups) < len(route.setups):
        raise OutOfRange("route", "none", "it follows from a layout: plan the job first")
    found = []
    for k, (setup, item) in enumerate(zip(route.setups, result.setups, strict=False)):
        if not item.result.feasible or not item.result.designs:
            raise OutOfRange(f"setup {k + 1}", "none", "it follows from a layout, and has none yet")
        known = programmed_s[k] if k < len(programmed_s) else None
        found.append(_stage(document, setup, item.number, item.result.designs[0], known))
    return found


def _stage(
    document: JobDocument, setup: Setup, number: int, design: Design, programmed_s: float | None
) -> Stage:
    machine, rules = setup.machine, document.job.rules
    segments = design.cycle.segments
    cut = sum(s.seconds for s in segments if s.what == "cut")
    moves = sum(s.seconds for s in segments if s.what in ("rapids", "tool change", "index"))
    if programmed_s is not None:
        cut, moves = min(cut, programmed_s), max(0.0, programmed_s - cut)
    factor = document.running.cutting_factor
    cut, moves = cut * factor, moves * factor
    pallets = machine.pallets if machine.pallets >= 2 else 0
    fixtures = setup.copies if setup.copies > 1 else max(1, pallets)
    if rules.loading == "inside" and not pallets:
        fixtures = 1
    pieces = sum(len(design.kinds[s.kind].drawing.places) for s in design.stations)
    ops = " and ".join(str(n) for n in sorted({kind.op_number for kind in design.kinds}))
    return Stage(
        number=number,
        name=setup.name or f"op {ops}",
        machine=machine.name,
        cut_s=cut,
        move_s=moves,
        change_s=machine.pallet_change_s if pallets else document.running.swap_seconds,
        by_hand=not pallets,
        load_s=design.cycle.loading_seconds,
        fixtures=fixtures,
        sets=sets_a_cycle(document, setup, design),
        pieces=pieces,
        setup_s=rules.setup_minutes * 60 * len({kind.op_number for kind in design.kinds}),
        tools=_tools(design, factor),
        source="program" if programmed_s is not None else "cuts and moves",
    )


def _tools(design: Design, factor: float) -> list[Tooled]:
    """By the names of what cuts; by station all of it is one."""
    seconds: dict[str, float] = {}
    for item in design.cycle.segments:
        if item.what == "cut":
            seconds[item.label] = seconds.get(item.label, 0.0) + item.seconds
    return [Tooled(name=name, seconds=total * factor) for name, total in seconds.items()]


@dataclass(frozen=True)
class _Change:
    """``number``: of the setup it is made to; nothing for all."""

    what: str
    number: int | None
    stages: Callable[[Sequence[Stage]], list[Stage]]
    running: Callable[[Running], Running]


def _changes(document: JobDocument, stages: Sequence[Stage]) -> Iterator[_Change]:
    several = len(stages) > 1

    def at(number: int, **new: object) -> Callable[[Sequence[Stage]], list[Stage]]:
        return lambda old: [s.model_copy(update=new) if s.number == number else s for s in old]

    def same(old: Sequence[Stage]) -> list[Stage]:
        return list(old)

    def stay(old: Running) -> Running:
        return old

    for stage in stages:
        where = f", {stage.name}" if several else ""
        n = stage.number
        less = min(_MINUTE, stage.cut_s / 2)
        said = "A minute" if less == _MINUTE else f"{less:.0f} s"
        yield _Change(f"{said} off cutting{where}", n, at(n, cut_s=stage.cut_s - less), stay)
        less = min(_MINUTE, stage.load_s / 2)
        said = "A minute" if less == _MINUTE else f"{less:.0f} s"
        yield _Change(f"{said} off loading{where}", n, at(n, load_s=stage.load_s - less), stay)
        more = "One more pallet and fixture" if not stage.by_hand else "One more fixture"
        yield _Change(f"{more}{where}", n, at(n, fixtures=stage.fixtures + 1), stay)
    running = document.running
    yield _Change(
        "One more person", None, same, lambda r: r.model_copy(update={"people": r.people + 1})
    )
    yield _Change(
        "One more sister of every tool",
        None,
        same,
        lambda r: r.model_copy(update={"sisters": r.sisters + 1}),
    )
    if running.alone != "run on":
        yield _Change(
            "Running on when people leave",
            None,
            same,
            lambda r: r.model_copy(update={"alone": "run on"}),
        )


def _why(runs: dict[int, StageRun], number: int | None) -> str:
    """What is waited for meanwhile, where a change buys nothing."""
    run = runs[number] if number is not None else min(runs.values(), key=lambda r: r.a_day.mean)
    slowest = min(runs.values(), key=lambda r: r.a_day.mean)
    if run.number != slowest.number and run.machine != slowest.machine:
        return f"{slowest.name} has fewer a day"
    waits = [item for item in run.doing if item.what not in ("cuts",)]
    if not waits:
        return "the spindle cuts all the time"
    top = waits[0]
    return f"{100 * top.share:.0f} % of the day it {top.what}"


def _day_figure(document: JobDocument, runs: Sequence[StageRun], a_day: Interval) -> Figure:
    rules, running = document.job.rules, document.running
    inputs = [
        given("hours a day", rules.hours_a_day, "h", "house rule"),
        given("people", running.people, "", "this job's run"),
    ]
    for run in runs:
        inputs += [
            given(f"{run.name}, cycle", run.cycle_s, "s", run.source),
            given(f"{run.name}, loading a fixture", run.load_s, "s", "house rule, from the layout"),
            given(f"{run.name}, fixtures that go round", run.fixtures, "", "setup"),
            given(f"{run.name}, by itself a day", run.a_day.mean, "", "run for weeks"),
        ]
    return Figure(
        id="a_day",
        label="Complete a working day",
        value=a_day.mean,
        digits=1,
        formula="setups on one machine in turn: 1 / sum of 1 / a day; the machine with the fewest",
        inputs=inputs,
        source="event by event for weeks on end, repeated with other draws; starting values from"
        " memory",
    )


def _calendar(work_days: float, floor: Floor) -> float:
    """Days by the calendar from a Monday morning, for so many working days."""
    there, _ = floor.hours
    start = there.next_open(0.0)
    a_day = there.week / floor.running.days_a_week
    return (there.after(start, work_days * a_day) - start) / 86_400


def outside_from(swap_s: float, a_part_s: float) -> int:
    """From so many parts a fixture on, swapping it is quicker for the machine than loading it where
    it stands: common practice has it, four a plate inside, twenty outside.

    >>> outside_from(120, 40), outside_from(120, 15)
    (4, 9)
    """
    return math.floor(swap_s / a_part_s) + 1


def _loading_says(stage: Stage, running: Running) -> str:
    """Inside or outside, where a person could do either."""
    if not stage.by_hand or stage.load_s <= 0:
        return ""
    a_part = stage.load_s / stage.pieces
    from_n = outside_from(running.swap_seconds, a_part)
    now = "inside" if stage.fixtures == 1 else "outside"
    better = "outside" if stage.pieces >= from_n else "inside"
    return (
        f"{stage.name}: loading outside, on a second fixture, is quicker for the machine from"
        f" {from_n} parts on; this one has {stage.pieces}"
        + (f", loaded {now}." if now == better else f", and is loaded {now}.")
    )


def _says(run: StageRun, running: Running, stages: Sequence[Stage]) -> list[str]:
    """The sentences that count, of the setup that has the fewest."""
    said = [f"The spindle cuts {100 * run.spindle.mean:.0f} % of the hours people are there."]
    waits = [item for item in run.doing if item.what not in ("cuts",) and item.share > 0.03]
    if waits:
        first = waits[0]
        said.append(f"Most of the rest it {first.what}: {100 * first.share:.0f} %.")
    person = sum(
        item.share
        for item in run.doing
        if item.what in ("is loaded", "waits for a person", "waits for a loaded fixture")
    )
    if person > 0.25:
        said.append(
            "Tuning the program buys little while it waits for hands: load quicker, outside, or"
            " with one more person."
        )
    hours = run.alone_hours.mean
    if run.stops_first and running.alone == "run on":
        why, often = run.stops_first[0]
        said.append(
            f"Alone it runs {hours:.1f} h on a usual evening; what ends it most often"
            f" ({100 * often:.0f} %): {why}."
        )
    return [*said, *filter(None, (_loading_says(stage, running) for stage in stages))]


def _cautions(document: JobDocument, running: Running) -> list[str]:
    if running.alone == "no":
        return []
    said = [
        "Nothing runs alone before the first article is right and it has run clean; the machine"
        " builder's manual and the shop's rules decide what may run unattended at all."
    ]
    burns = {part.material.name for part in document.job.parts if part.material.chips_burn}
    if burns and running.alone == "run on":
        said.append(f"Chips of {', '.join(sorted(burns))} can burn: do not run it alone.")
    return said


def _planned(document: JobDocument) -> JobDocument:
    return document if document.result is not None else plan_route(document, alternatives=False)


def _nothing(document: JobDocument, request: RunRequest, why: str) -> RunResult:
    return RunResult(
        feasible=False,
        reasons=[why],
        counted="parts",
        quantity=document.job.quantity,
        repeats=request.repeats,
        days=0,
        stages=[],
        a_day=None,
        done_days=None,
        limits=None,
        says=[],
        figures=[],
        money=None,
        cautions=[],
    )
