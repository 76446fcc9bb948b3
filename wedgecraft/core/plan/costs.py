"""The money of a planned job: with what stands on the table, and with tooling made first."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.run import Cost, Money, Stage, StageRun, Tooled
from wedgecraft.core.run.model import Floor
from wedgecraft.core.run.money import Orders, Way, money_of
from wedgecraft.core.run.repeats import days_run, repeated, stage_run

#: Of the way that nobody plans; its days differ little.
_REPEATS = 6


def money_asked(document: JobDocument, stages: Sequence[Stage], runs: Sequence[StageRun]) -> Money:
    """Both courses in money; where a rate is not known, what is missing."""
    rules, route = document.job.rules, document.route
    setups = route.setups if route is not None else []
    missing = [] if rules.person_rate_an_hour else ["job.rules.person_rate_an_hour"]
    missing += [
        f"route.setups.{k}.machine.rate_an_hour"
        for k, setup in enumerate(setups)
        if not setup.machine.rate_an_hour
    ]
    if missing:
        return Money(
            currency=rules.currency,
            missing=missing,
            lines=[],
            a_piece=None,
            courses=[],
            even_at=None,
            payback_months=None,
            uncertain=[],
            says=[],
        )
    job, floor = document.job, Floor(document.running, rules.hours_a_day)
    singly = _one_at_a_time(document, stages)
    seen = repeated(singly, floor, _REPEATS, days_run(singly, floor))
    alone = [stage_run(stage, seen[stage.number]) for stage in singly]
    now = _way(document, singly, alone, "One at a time, with what stands on the table", 0.0)
    made = _made(document, stages)
    tooled = _way(document, stages, runs, "This design, tooling made first", made)
    orders = Orders(job.quantity, job.orders_a_year, job.repeat_chance)
    return money_of(now, tooled, orders, _lines(tooled, job.quantity), rules.currency)


def _rates(document: JobDocument) -> list[float]:
    """Of each setup's machine, a second."""
    setups = document.route.setups if document.route is not None else []
    return [setup.machine.rate_an_hour / 3600 for setup in setups]


def _setting(document: JobDocument, stages: Sequence[Stage]) -> float:
    person = document.job.rules.person_rate_an_hour / 3600
    pairs = zip(stages, _rates(document), strict=True)
    return sum(stage.setup_s * (rate + person) for stage, rate in pairs)


def _way(
    document: JobDocument, stages: Sequence[Stage], runs: Sequence[StageRun], name: str, made: float
) -> Way:
    """A machine costs its hours a set, waiting too; a person the time of their hands."""
    rules, running = document.job.rules, document.running
    person = rules.person_rate_an_hour / 3600
    cutting = handling = seconds = 0.0
    for stage, run, rate in zip(stages, runs, _rates(document), strict=True):
        a_day = rules.hours_a_day * 3600 + 3600 * run.alone_hours.mean
        a_set = a_day / run.a_day.mean
        cut = stage.run_s / stage.sets
        cutting += rate * min(cut, a_set)
        hands = stage.load_s / stage.sets
        if running.inspect_every:
            measured = stage.pieces / stage.sets / running.inspect_every
            hands += measured * running.inspect_minutes * 60
        handling += rate * max(0.0, a_set - cut) + person * hands
        seconds += a_set
    return Way(
        name=name,
        made=made,
        each_order=_setting(document, stages),
        cutting=cutting,
        handling=handling,
        rest=running.blank_price,
        scrap=running.scrap,
        seconds=seconds,
    )


def _made(document: JobDocument, stages: Sequence[Stage]) -> float:
    """All pieces, for as many fixtures as go round."""
    total = 0.0
    results = document.result.setups if document.result is not None else []
    setups = document.route.setups if document.route is not None else []
    for stage, item, setup in zip(stages, results, setups, strict=False):
        if item.making is not None and item.making.money is not None:
            total += item.making.money * stage.fixtures / setup.copies
    return total


def _one_at_a_time(document: JobDocument, stages: Sequence[Stage]) -> list[Stage]:
    """The same in a vise that stands there: nothing is made, every part waits for its own tool
    changes and its loading.
    """
    found = []
    for stage in stages:
        n = stage.pieces
        alone: dict[str, object] = {
            "cut_s": stage.cut_s / n,
            "move_s": _change_s(document, stage.number) * len(stage.tools),
            "load_s": document.job.rules.handling_seconds,
            "fixtures": 1,
            "by_hand": True,
            "sets": stage.sets / n,
            "pieces": 1,
            "tools": [Tooled(name=t.name, seconds=t.seconds / n) for t in stage.tools],
        }
        found.append(stage.model_copy(update=alone))
    return found


def _change_s(document: JobDocument, number: int) -> float:
    setups = document.route.setups if document.route is not None else []
    return setups[number - 1].machine.tool_change_s


def _lines(way: Way, quantity: int) -> list[Cost]:
    scrap = way.a_piece - (way.cutting + way.handling + way.rest)
    rows = [
        ("Making the fixtures", way.made, way.made / quantity, "pieces of every setup, from Make"),
        ("Setting up, each order", way.each_order, way.each_order / quantity, "house rule"),
        ("Machine while it cuts and moves", 0.0, way.cutting, "rate x seconds"),
        ("Machine while it waits, and hands", 0.0, way.handling, "from the run"),
        ("Blanks", 0.0, way.rest, "price of a blank"),
        ("Scrap", 0.0, scrap, "share scrapped, all that went into it"),
    ]
    return [Cost(what=w, each_time=e, a_piece=p, why=y) for w, e, p, y in rows if e or p]
