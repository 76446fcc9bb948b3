"""How a job runs, against closed forms, queueing and renewal theory, and figures of the trade
(common practice, no source).
"""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from wedgecraft.core.records.run import Stage, Tooled
from wedgecraft.core.records.running import Running
from wedgecraft.core.run.hours import DAY, WEEK, Hours, working
from wedgecraft.core.run.model import Floor, went
from wedgecraft.core.run.money import Orders, Way, even_at, money_of, payback_months
from wedgecraft.core.run.repeats import THROUGH, days_to_do, repeated, stage_run

CALM = Running(
    break_minutes=0,
    spread=0,
    stop_every_hours=1e5,
    inspect_every=0,
    days_a_week=7,
    edge_minutes=1e5,
)
NEVER_CLOSED = Floor(CALM, 24)


def stage(number=1, **given):
    known = {
        "name": "op 10",
        "machine": f"M{number}",
        "cut_s": 1450,
        "move_s": 0,
        "change_s": 120,
        "by_hand": True,
        "load_s": 1200,
        "fixtures": 1,
        "sets": 30,
        "pieces": 30,
        "setup_s": 0,
        "tools": [],
    }
    return Stage(number=number, **(known | given))


def seen(one, floor=NEVER_CLOSED, repeats=1):
    return repeated([one], floor, repeats)[one.number]


@given(
    st.lists(st.tuples(st.integers(0, 167), st.integers(1, 30)), min_size=1, max_size=5),
    st.integers(0, 500),
    st.integers(0, 400),
)
def test_hours_are_as_counted_one_by_one(stretches, at, work):
    hours = Hours([(a * 3600, (a + n) * 3600) for a, n in stretches if a + n <= 168 + 30])
    open_in = {(a + k) % 168 for a, n in stretches for k in range(n)}
    counted = sum(h % 168 in open_in for h in range(at))
    assert hours.counted(at * 3600) == pytest.approx(counted * 3600)
    assert hours.open(at * 3600) == (at % 168 in open_in)
    end, left = at, work
    while left > 0:
        left -= end % 168 in open_in
        end += 1
    assert hours.after(at * 3600, work * 3600) == pytest.approx((end if work else at) * 3600)
    first = next(h for h in range(at, at + 169) if h % 168 in open_in)
    assert hours.next_open(at * 3600) == pytest.approx(first * 3600)


def test_a_break_is_no_work_but_nobody_leaves():
    there, work = working(Running(starts=7, break_minutes=30, days_a_week=5), 8)
    assert there.week == 5 * 8.5 * 3600
    assert work.week == 5 * 8 * 3600
    assert there.open(11.25 * 3600)
    assert not work.open(11.25 * 3600)
    assert not there.open(5 * DAY + 12 * 3600)
    assert working(Running(), 24)[0].closes(0.0) < WEEK  # five days of it, then they leave


def test_one_fixture_cuts_half_the_time_and_a_pair_over_nine_tenths():
    """20 min to change 30 parts, 24 min 10 s to cut; two fixtures, 2 min door open."""
    assert seen(stage()).spindle[0] == pytest.approx(1450 / 2650, abs=0.005)
    assert 0.90 < seen(stage(fixtures=2)).spindle[0] < 0.93


def test_eleven_minutes_against_six_where_the_change_hides():
    """7 min cut and 4 min change on one table; 6 min cut on two pallets with the change hidden."""
    table = seen(stage(cut_s=420, load_s=240, sets=1))
    pallets = seen(stage(cut_s=360, load_s=240, sets=1, fixtures=2, by_hand=False, change_s=0))
    assert 1440 / table.a_day[0] == pytest.approx(11, rel=0.005)
    assert 1440 / pallets.a_day[0] == pytest.approx(6, rel=0.005)


@pytest.mark.parametrize(
    ("machines", "people", "load", "cut"),
    [(2, 1, 300, 600), (4, 1, 100, 500), (4, 2, 400, 500), (6, 1, 200, 900), (6, 2, 300, 450),
     (3, 3, 500, 500), (5, 2, 900, 300), (8, 1, 60, 700), (2, 2, 100, 900), (7, 3, 500, 700)],
)  # fmt: skip
def test_machines_that_wait_for_people_are_a_finite_source_queue(machines, people, load, cut):
    """Exact: M/M/s//N, birth and death (any text on queues; from memory)."""
    weights = [1.0]
    for down in range(machines):
        rate = (machines - down) / cut / (min(down + 1, people) / load)
        weights.append(weights[-1] * rate)
    share = np.array(weights) / sum(weights)
    exact = sum((machines - down) * p for down, p in enumerate(share)) / machines
    floor = Floor(CALM.model_copy(update={"people": people, "spread": 1.0}), 24, cut_spread=1.0)
    own = [stage(n + 1, cut_s=cut, load_s=load) for n in range(machines)]
    found = []
    for seed in range(6):
        days = went(own, floor, 28, seed)
        cutting = sum(b - a for d in days for a, b, what, _ in d.did if what == "cuts")
        found.append(cutting / (machines * 28 * DAY))
        # Little's law: as many stand as come a second, times how long each stands
        cuts = [[(a, b) for a, b, what, _ in d.did if what == "cuts"] for d in days]
        gaps = [c[0] - b[1] for own in cuts for b, c in pairwise(own)]
        stand = sum(b - a for d in days for a, b, what, _ in d.did if what != "cuts")
        rate = len(gaps) / (28 * DAY)
        assert rate * np.mean(gaps) == pytest.approx(stand / (28 * DAY), rel=0.02)
    error = np.std(found, ddof=1) / math.sqrt(len(found))
    assert abs(np.mean(found) - exact) < 5 * error + 0.002


@pytest.mark.parametrize("sisters", [0, 2])
def test_edges_are_changed_as_often_as_renewals_come(sisters):
    """Renewals by time t: t/mean + (spread² - 1)/2; sisters share the visits."""
    running = CALM.model_copy(
        update={"edge_minutes": 50, "edge_spread": 0.4, "sisters": sisters, "edge_seconds": 600}
    )
    one = stage(cut_s=600, load_s=60, tools=[Tooled(name="T1", seconds=600)])
    visits, cut = 0, 0.0
    for seed in range(20):
        (diary,) = went([one], Floor(running, 24), 28, seed)
        visits += sum(what == "waits for a new edge" for _, _, what, _ in diary.did)
        cut += sum(b - a for a, b, what, _ in diary.did if what == "cuts")
        assert all(b == pytest.approx(c) for (_, b, *_), (c, *_) in pairwise(diary.did))
    renewals = cut / 3000 + 20 * (0.4**2 - 1) / 2
    assert visits * (sisters + 1) == pytest.approx(renewals, rel=0.02)


def test_what_runs_on_at_night_and_what_ends_it():
    """60 pockets at 12 min each are 12 h; several pallets: hours; two short ones: a quarter of an
    hour; and a worn edge ends it where nothing else does.
    """
    alone = Running(alone="run on", clean_cycles=0, stop_every_hours=1e5, edge_minutes=1e5)
    block = stage(cut_s=12 * 3600, load_s=3600, sets=60, pieces=60)
    ran = seen(block, Floor(alone, 1.2)).alone_h  # they leave soon after it is loaded
    assert max(ran) == pytest.approx(12, abs=1)
    # people load them all by the time they leave: one is cut, five more follow
    six = stage(cut_s=2400, load_s=600, fixtures=6, by_hand=False, change_s=10, sets=4)
    found = stage_run(six, seen(six, Floor(alone, 8), 5))
    assert 3 < found.alone_hours.mean < 6
    assert found.stops_first[0][0] == "all loaded fixtures are cut"
    two = stage(cut_s=900, load_s=600, fixtures=2, by_hand=False, change_s=10, sets=4)
    assert 0.1 < stage_run(two, seen(two, Floor(alone, 8), 5)).alone_hours.mean < 0.5
    worn = alone.model_copy(update={"edge_minutes": 60})
    tired = six.model_copy(update={"tools": [Tooled(name="T1", seconds=2000)]})
    found = stage_run(tired, seen(tired, Floor(worn, 8), 5))
    assert found.stops_first[0][0] == "an edge was worn: T1"
    assert found.alone_hours.mean < 1.5
    # nothing that would end after they leave is begun where the shop says so
    for rule, most in (("no", 0.0), ("finish the cycle", 2400 / 3600)):
        kept = Floor(alone.model_copy(update={"alone": rule}), 8)
        assert max(seen(six, kept).alone_h) <= most + 0.01
    endless = six.model_copy(update={"fixtures": 200, "load_s": 60})
    assert set(seen(endless, Floor(alone, 8)).ended) == {THROUGH}


def test_the_same_draws_give_the_same_days_and_more_hands_never_fewer_parts():
    own = [stage(n, load_s=900, cut_s=700, fixtures=2) for n in (1, 2, 3)]
    floor = Floor(Running(), 8)
    assert repeated(own, floor, 3)[2].a_day == repeated(own, floor, 3)[2].a_day
    more = Floor(Running(people=2), 8)
    before, after = repeated(own, floor, 10), repeated(own, more, 10)
    assert sum(after[2].a_day) > sum(before[2].a_day)
    away = repeated(own, Floor(Running(elsewhere=0.5), 8), 10)
    assert sum(away[2].a_day) == pytest.approx(sum(before[2].a_day) / 2, rel=0.12)


def test_an_order_takes_its_cycles_and_its_setting_up():
    """Two setups on one machine in turn; by hand."""
    first = stage(1, machine="M", sets=10, setup_s=3600)
    second = stage(2, machine="M", sets=4, setup_s=7200)
    days = days_to_do([first, second], {1: 50.0, 2: 40.0}, 101, 8)
    assert days == pytest.approx(3 / 8 + 110 / 50 + 104 / 40)


WAYS = st.builds(
    Way,
    name=st.just("way"),
    made=st.floats(0, 5000),
    each_order=st.floats(0, 500),
    cutting=st.floats(0.1, 20),
    handling=st.floats(0.1, 20),
    rest=st.just(1.0),
    scrap=st.floats(0, 0.2),
    seconds=st.just(60.0),
)


@given(WAYS, WAYS)
def test_a_fixture_pays_from_the_first_count_at_which_it_costs_less(now, tooled):
    assume(abs(now.a_piece - tooled.a_piece) > 1e-3)
    found = even_at(now, tooled)
    counts = range(1, 4000)
    cheaper = [n for n in counts if tooled.order(n) <= now.order(n) + 1e-6]
    if found is not None and found < 4000:
        assert cheaper[0] in (found, found - 1)
        assert tooled.order(found) <= now.order(found) + 1e-6
    elif cheaper:
        # cheaper only for few: dearer a piece
        assert found is None
        assert tooled.a_piece >= now.a_piece - 1e-6


def test_payback_and_both_courses_by_hand():
    now = Way("now", 0, 100, 3, 4, 0, 0, 200)
    tooled = Way("tooled", 1200, 100, 3, 2, 0, 0, 150)
    orders = Orders(100, a_year=3, repeat=0.5)
    assert even_at(now, tooled) == 600
    assert payback_months(now, tooled, orders) == pytest.approx(1200 / (200 * 3 / 12))
    # this order and half of five more to expect in two years
    assert orders.all_of(tooled) == pytest.approx(1200 + 3.5 * 600)
    assert orders.all_of(now) == pytest.approx(3.5 * 800)
    money = money_of(now, tooled, orders, [], "EUR")
    assert [course.total for course in money.courses] == [800, 1800]
    assert money.courses[1].low < 1800 < money.courses[1].high
    by = {item.what: item for item in money.uncertain}
    assert by["cutting seconds"].low == pytest.approx(
        by["cutting seconds"].high
    )  # the same in both
    spread = math.exp(1.645 * 0.3) - math.exp(-1.645 * 0.3)
    making = by["hours to make it"]
    assert making.low - making.high == pytest.approx(1200 * spread)
    assert money.uncertain[0] == making
    assert "pays from 600 pieces on; this order is 100, and costs 1,000 EUR more" in money.says[0]
    assert payback_months(tooled, now, orders) is None or payback_months(tooled, now, orders) > 0
