"""The money of a planned job, by hand from what its run and its pieces say."""

from __future__ import annotations

import pytest

from tests.core.make.planned import planned
from wedgecraft.core.plan.running import run_of
from wedgecraft.core.records.run import RunRequest


@pytest.mark.parametrize("name", ["Anchor lug", "Float-arm hub"])
def test_money_of_a_plan_by_hand(name):
    """A machine costs its hours, cutting or not; hands cost theirs; setting up and pieces once."""
    document = planned(name)
    result = run_of(RunRequest(document=document))
    rules, running = document.job.rules, document.running
    person = rules.person_rate_an_hour / 3600
    rates = [setup.machine.rate_an_hour / 3600 for setup in document.route.setups]
    cutting = handling = setting = 0.0
    for stage, run, rate in zip(result.stages, _stages(document), rates, strict=True):
        seconds = rules.hours_a_day * 3600 + 3600 * stage.alone_hours.mean
        each = seconds / stage.a_day.mean
        cut = min((run.cut_s + run.move_s) / run.sets, each)
        cutting += rate * cut
        looked = (
            60 * running.inspect_minutes / running.inspect_every if running.inspect_every else 0
        )
        handling += rate * (each - cut)
        handling += person * (run.load_s + looked * run.pieces) / run.sets
        setting += run.setup_s * (rate + person)
    pieces = sum(item.making.money for item in document.result.setups if item.making)
    lines = {line.what: line for line in result.money.lines}
    assert lines["Machine while it cuts and moves"].a_piece == pytest.approx(cutting, rel=1e-6)
    assert lines["Machine while it waits, and hands"].a_piece == pytest.approx(handling, rel=1e-6)
    assert lines["Setting up, each order"].each_time == pytest.approx(setting)
    assert lines["Making the fixtures"].each_time == pytest.approx(pieces)
    own = cutting + handling + running.blank_price
    a_piece = own / (1 - running.scrap)
    tooled = next(item for item in result.money.courses if "This design" in item.name)
    assert tooled.a_piece == pytest.approx(a_piece, rel=1e-6)
    total = pieces + setting + document.job.quantity * a_piece
    assert tooled.total == pytest.approx(total, rel=1e-6)
    assert tooled.low < tooled.total < tooled.high
    # each further order, as likely as it is, costs no pieces again
    assert tooled.all_orders >= tooled.total
    none = document.model_copy(
        update={"job": document.job.model_copy(
            update={"rules": rules.model_copy(update={"person_rate_an_hour": 0})})}
    )  # fmt: skip
    missing = run_of(RunRequest(document=none)).money
    assert (missing.missing, missing.courses) == (["job.rules.person_rate_an_hour"], [])


def _stages(document):
    from wedgecraft.core.plan.running import stages_of

    return stages_of(document)
