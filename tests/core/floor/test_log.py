"""Control charts against published tables, and what is learned against hidden true values, closed
forms and a general statistics package.
"""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from scipy import stats

from tests.core.make.planned import planned
from wedgecraft.core.floor.charts import (
    capability,
    constants,
    individuals,
    runs,
    share_between,
    stands_out,
)
from wedgecraft.core.floor.learning import edge_life, far_out, place, ratio, weibull_shape
from wedgecraft.core.plan.logged import log_of
from wedgecraft.core.plan.running import stages_of
from wedgecraft.core.records.log import (
    CycleDone,
    Loaded,
    LogRequest,
    NewEdge,
    PartMeasured,
    Stop,
    Tightened,
)

#: ASTM MNL 7, Manual on Presentation of Data, table of factors: n, d2, d3, A2, D3, D4; from memory.
TABLE = [
    (2, 1.128, 0.853, 1.880, 0, 3.267),
    (3, 1.693, 0.888, 1.023, 0, 2.575),
    (4, 2.059, 0.880, 0.729, 0, 2.282),
    (5, 2.326, 0.864, 0.577, 0, 2.114),
    (6, 2.534, 0.848, 0.483, 0, 2.004),
    (7, 2.704, 0.833, 0.419, 0.076, 1.924),
    (8, 2.847, 0.820, 0.373, 0.136, 1.864),
    (9, 2.970, 0.808, 0.337, 0.184, 1.816),
    (10, 3.078, 0.797, 0.308, 0.223, 1.777),
]


@pytest.mark.parametrize("row", TABLE)
def test_chart_constants_are_those_of_the_published_table(row):
    found = constants(row[0])
    assert (found.d2, found.d3, found.a2, found.low, found.high) == pytest.approx(
        row[1:], abs=0.0012
    )


def test_run_rules_false_alarms_and_a_shift():
    """Shewhart alone: 1 in 370 (any text); all four together about 1 in 92 (Champ and Woodall 1987,
    from memory). A shift of two sigma shows soon.
    """
    rng = np.random.default_rng(3)
    x = rng.normal(size=40_000)
    found = runs(x.tolist(), 0, 1)
    assert sum(why.startswith("beyond") for _, why in found) / 4e4 == pytest.approx(
        1 / 370, rel=0.25
    )
    first = []
    for seed in range(300):
        own = np.random.default_rng(seed).normal(size=700)
        first.append(next((k + 1 for k, _ in runs(own.tolist(), 0, 1)), 700))
    assert np.mean(first) == pytest.approx(92, rel=0.2)
    moved = individuals([*rng.normal(size=30).tolist(), *(rng.normal(size=8) + 4).tolist()])
    assert any(k >= 30 for k, _ in moved.signals)


def test_intervals_cover_what_they_say():
    rng = np.random.default_rng(5)
    inside = 0
    for _ in range(600):
        x = rng.normal(0.01, 0.02, 30)
        _, low, high = capability(x.tolist(), -0.1, 0.1)
        inside += low <= (0.1 - 0.01) / 0.06 <= high
    assert 0.86 < inside / 600 < 0.94
    for p in (0.01, 0.1, 0.5):
        hits = [share_between(int(b), 60) for b in rng.binomial(60, p, 400)]
        assert np.mean([low <= p <= high for low, high in hits]) >= 0.89
    # of 40 stations alike one seldom stands out; a bad one does
    alarms = 0
    for _ in range(60):
        bad = rng.binomial(50, 0.02, 40)
        alarms += any(stands_out(b, 50, bad.sum() - b, 39 * 50, 40) for b in bad)
    assert alarms <= 3
    assert stands_out(9, 50, 12, 39 * 50, 40)


def test_posteriors_are_the_conjugate_closed_forms():
    y = [1.2, 1.35, 1.1, 1.28, 1.31]
    found = ratio(y)
    # by summing likelihood times prior over mean and spread
    mu = np.linspace(0.6, 1.9, 651)[:, None]
    v = np.exp(np.linspace(np.log(1e-4), np.log(5), 1500))[None, :]
    weigh = stats.invgamma(0.05, scale=0.0045).logpdf(v) + np.log(v)
    weigh = weigh + stats.norm.logpdf(mu, 1, np.sqrt(v / 0.1))
    for each in y:
        weigh = weigh + stats.norm.logpdf(each, mu, np.sqrt(v))
    of_mean = np.exp(weigh - weigh.max()).sum(axis=1)
    of_mean /= of_mean.sum()
    assert found.mean == pytest.approx(float(of_mean @ mu[:, 0]), abs=2e-3)
    between = (mu[:, 0] >= found.low) & (mu[:, 0] <= found.high)
    assert of_mean[between].sum() == pytest.approx(0.9, abs=0.01)
    assert ratio([]).mean == 1
    # a place: either normal, summed over places
    for off in ([0.05, 0.07], [0.004, -0.002, 0.006], []):
        at = place(off, 0.0196, 0.01)
        x = np.linspace(-0.8, 0.8, 160_001)
        prior = 0.95 * stats.norm.pdf(x, 0, 0.01) + 0.05 * stats.norm.pdf(x, 0, 0.2)
        like = prior * np.prod([stats.norm.pdf(o, x, 0.01) for o in off], axis=0)
        like /= like.sum()
        assert at.mean == pytest.approx(float(like @ x), abs=1e-5)
        assert like[(x >= at.low) & (x <= at.high)].sum() == pytest.approx(0.9, abs=2e-3)
    # of a Weibull law, the spread of its published moments
    assert stats.weibull_min(weibull_shape(0.25)).std() / stats.weibull_min(
        weibull_shape(0.25)
    ).mean() == pytest.approx(0.25)
    # with many cases the likelihood's own estimate: scale**k = sum t**k / worn (any text)
    lives = stats.weibull_min(4.0, scale=70).rvs(4000, random_state=2)
    seen = np.minimum(lives, 75.0)
    spread = float(stats.weibull_min(4.0).std() / stats.weibull_min(4.0).mean())
    worn, before = seen[lives < 75].tolist(), seen[lives >= 75].tolist()
    life = edge_life(worn, before, 60, spread)
    scale = (np.sum(seen**4) / len(worn)) ** 0.25
    assert life.mean == pytest.approx(scale * stats.weibull_min(4.0).mean(), rel=2e-3)
    # and a general package's fit of lives of which some were cut short
    data = stats.CensoredData(uncensored=worn, right=before)
    _, _, fitted = stats.weibull_min.fit(data, fc=4.0, floc=0)
    assert life.mean == pytest.approx(fitted * stats.weibull_min(4.0).mean(), rel=2e-3)
    assert far_out([5.0, 5.1, 4.9, 5.2, 5.0, 4.8, 60.0, 5.1]) == [6]


def entry(kind, k, **given):
    at = datetime(2026, 3, 2, 7, tzinfo=UTC) + timedelta(minutes=11 * k)
    return kind(id=uuid.uuid5(uuid.NAMESPACE_OID, f"{kind.__name__} {k}").hex, at=at, **given)


@pytest.fixture(scope="module")
def yoke():
    return planned("Vane yoke")


@pytest.mark.parametrize("what", ["loading", "cutting", "edge", "place"])
def test_a_hidden_true_value_lies_in_the_interval_about_nine_times_in_ten(yoke, what):
    stage = stages_of(yoke)[0]
    assumed = yoke.job.rules.handling_seconds
    covered = 0
    for seed in range(100):
        rng = np.random.default_rng(seed)
        if what == "loading":
            truth = assumed * rng.uniform(0.75, 1.5)
            seconds = stage.load_s * truth / assumed * rng.gamma(1 / 0.15**2, 0.15**2, 24)
            log = [
                entry(Loaded, k, seconds=float(s), parts=stage.pieces)
                for k, s in enumerate(seconds)
            ]
        elif what == "cutting":
            truth = rng.uniform(0.9, 1.4)
            seconds = stage.run_s * truth * rng.normal(1, 0.04, 30)
            log = [entry(CycleDone, k, seconds=float(s), good=1) for k, s in enumerate(seconds)]
        elif what == "edge":
            truth = rng.uniform(40, 90)
            k = weibull_shape(0.25)
            lives = stats.weibull_min(k).rvs(20, random_state=rng) * truth
            lives /= stats.weibull_min(k).mean()
            log = [
                entry(NewEdge, n, tool="T2", minutes=float(min(t, 80.0)), worn=bool(t < 80))
                for n, t in enumerate(lives)
            ]
        else:
            truth = 0.06 if seed % 2 else -0.06
            off = rng.normal(-truth, 0.012, 12)
            log = [
                entry(PartMeasured, n, station=3, feature="Pivot holes", axis="X", off_mm=float(v))
                for n, v in enumerate(off)
            ]
            other = rng.normal(0, 0.012, 12)
            log += [
                entry(
                    PartMeasured,
                    50 + n,
                    station=4,
                    feature="Pivot holes",
                    axis="X",
                    off_mm=float(v),
                )
                for n, v in enumerate(other)
            ]
        found = log_of(LogRequest(document=yoke, entries=log)).learned
        mine = [i for i in found if i.id.startswith("place 1 3" if what == "place" else what)]
        covered += bool(mine) and mine[0].low <= truth <= mine[0].high
    assert 80 <= covered <= 97, covered


def test_a_log_is_counted_once_in_any_order_and_names_what_does_not_belong(yoke):
    stage = stages_of(yoke)[0]
    rng = np.random.default_rng(8)
    log = []
    for k in range(40):
        bad = [5] if k % 4 == 0 else []
        log.append(
            entry(CycleDone, k, seconds=stage.run_s, good=stage.pieces - len(bad), scrapped=bad)
        )
        seconds = stage.load_s * 1.4 * rng.normal(1, 0.05) * (6 if k == 17 else 1)
        log.append(entry(Loaded, k, seconds=float(seconds), parts=stage.pieces))
        log.append(entry(Tightened, k, station=1 + k % 13, torque_nm=14 if k != 9 else 20))
    # a cycle that was not full: nobody knows which of its stations had a part
    log.append(entry(CycleDone, 99, seconds=stage.run_s, good=2, scrapped=[9]))
    log.append(entry(Stop, 1, seconds=300, reason="chips"))
    said = log_of(LogRequest(document=yoke, entries=[*log, *log[::-1]]))
    assert said == log_of(LogRequest(document=yoke, entries=log[::-1]))
    assert (said.entries, said.good, said.scrapped) == (122, 40 * stage.pieces - 8, 11)
    assert said.complete == 0  # nothing came through the second setup
    assert [(s.station, s.scrapped) for s in said.stations if s.scrapped] == [(5, 10)]
    assert [s.station for s in said.stations if s.stands_out] == [5]
    loading = next(item for item in said.learned if item.id == "loading")
    assert loading.contradicts
    assert loading.cases == 39
    assert [item.id for item in loading.left_out] == [entry(Loaded, 17, seconds=1, parts=1).id]
    assert loading.value == pytest.approx(40 * 1.4, rel=0.03)
    cutting = next(item for item in said.learned if item.id == "cutting")
    assert not cutting.contradicts
    assert said.torques[0].within == 39
    assert said.torques[0].off == [(10, 20)]
    # ISO 6789, the wider class: 6 % either way; from memory
    assert (said.torques[0].least_nm, said.torques[0].most_nm) == pytest.approx((13.16, 14.84))
    assert "Station 5 of setup 1 stands out: 10 of" in said.says[0]
    assert log_of(LogRequest(document=yoke, entries=[])).feasible is False


def test_all_stations_off_alike_are_the_zeros_fault_and_one_alone_is_its_own(yoke):
    rng = np.random.default_rng(4)
    log, k = [], 0
    for station in range(1, 14):
        for _ in range(6):
            k += 1
            off = rng.normal(-0.03 + (0.06 if station == 5 else 0.0), 0.004)
            given = {"station": station, "feature": "Pivot holes", "axis": "X"}
            log.append(entry(PartMeasured, k, off_mm=float(off), **given))
    said = log_of(LogRequest(document=yoke, entries=log))
    zero = next(item for item in said.learned if item.id == "zero 1 X")
    assert zero.low < 0.03 < zero.high
    assert "pick the zero up again" in zero.says
    assert 5 in {chart.station for chart in said.charts}
    assert len(said.charts) < 6
    far = next(item for item in said.learned if item.id == "place 1 5 X")
    assert far.value == pytest.approx(-0.03, abs=0.006)  # its stop; the others' 0.03 is the zero's
