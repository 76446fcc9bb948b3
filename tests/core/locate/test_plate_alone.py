"""What plate, machine and shop add up to against sums by hand, against sampling, against a
published stack, and the region it allows.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import norm
from shapely.geometry import Point, box

from tests.core.plan.test_job import _with
from wedgecraft.core.locate.judge import moments, sampled, used, variance_shares
from wedgecraft.core.locate.plate_alone import tolerance
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.sources import Stack
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.tolerance import ToleranceRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import named, starting_request


def _request(
    places=((300.0, 200.0),), zone=0.06, rule="probable", datum=(0.0, 0.0), temperature=2.0
):
    return ToleranceRequest.model_validate(
        {
            "tolerance": {"zone_mm": zone, "rule": rule},
            "accuracy": {
                "station_place_mm": 0.008,
                "datum_pickup_mm": 0.005,
                "temperature_k": temperature,
            },
            "machine": named("machine", "Vertical, 760 x 460 mm travel").model_dump(),
            "datum": {"x_mm": datum[0], "y_mm": datum[1]},
            "places": list(places),
        }
    )


def test_against_sums_done_by_hand():
    """Aluminium grows 23.6 µm/m K (handbook), glass scales 8: 2 K over 300 mm is 9.36 µm."""
    growth = (23.6 - 8.0) * 1e-6 * 2
    ex = [0.008, 0.005, 0.004 + 0.008 * 0.3, growth * 300]
    ey = [0.008, 0.005, 0.004 + 0.008 * 0.2, growth * 200]
    assert ex[3] == pytest.approx(0.00936)
    judged = tolerance(_request()).places[0]
    assert judged.probable_mm == pytest.approx(2 * math.sqrt(sum(v * v for v in ex + ey)))
    assert judged.worst_case_mm == pytest.approx(2 * math.hypot(sum(ex), sum(ey)))
    assert judged.share == pytest.approx(judged.probable_mm / 0.06)
    assert judged.contributions[0].name == "station place"


def test_thermal_growth_is_the_difference_of_plate_and_scales():
    ten = {item.name: item for item in tolerance(_request(temperature=10)).places[0].contributions}[
        "temperature, ±10 K"
    ]
    assert (ten.x_mm, ten.y_mm) == pytest.approx(
        tuple((MATERIALS["aluminium-6061"].expansion_per_k - 8e-6) * 10 * np.array([300, 200]))
    )


def _stack(moves, spreads) -> Stack:
    moves = np.array(moves, dtype=float).reshape(1, len(spreads), 3)
    names = tuple(f"source {k}" for k in range(len(spreads)))
    return Stack(names, tuple(spreads), names, moves)


def test_a_published_stack_adds_up_to_its_worst_case_and_its_root_of_squares():
    """The one-way clutch of the textbooks (Fortini 1967; again in Chase and Parkinson 1991), from
    memory: hub 27.645 ±0.05, roller 11.43 ±0.01 across, ring 50.8 ±0.0125 gives an angle of 7.018
    degrees, sensitivities -0.2079, -0.4142 and 0.2063 rad/mm.
    """
    a, c, e = 27.645 * 2, 11.43 * 2, 50.8 * 2  # as diameters: cos = (a + c) / (e - c)
    assert math.degrees(math.acos((a + c) / (e - c))) == pytest.approx(7.018, abs=1e-3)
    each = [-0.2079 * 0.05, -0.4142 * 0.01, 0.2063 * 0.0125]
    worst, probable = used(
        _stack([(value, 0, 0) for value in each], ["normal"] * 3), np.array([[1.0, 0, 0]])
    )
    assert math.degrees(worst[0]) == pytest.approx(0.981, abs=2e-3)
    assert math.degrees(probable[0]) == pytest.approx(0.658, abs=2e-3)


@settings(max_examples=15, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(-0.02, 0.02), st.sampled_from(["normal", "uniform", "fixed"])),
        min_size=2,
        max_size=8,
    )
)
def test_sampling_has_the_analytic_mean_and_deviation_and_shares_of_variance(given_sources):
    sizes, spreads = zip(*given_sources, strict=True)
    stack, way = _stack([(size, 0, 0) for size in sizes], spreads), np.array([[1.0, 0, 0]])
    worst, probable = used(stack, way)
    mean, deviation = moments(stack, way)
    sigma = {"normal": 1 / 3, "uniform": 1 / math.sqrt(3), "fixed": 0.0}
    assert mean[0] == pytest.approx(
        sum(s for s, kind in given_sources if kind == "fixed"), abs=1e-12
    )
    assert deviation[0] == pytest.approx(
        math.sqrt(sum((s * sigma[kind]) ** 2 for s, kind in given_sources)), abs=1e-12
    )
    assert probable[0] <= worst[0] + 1e-12
    assert sum(shares[0] for shares in variance_shares(stack, way).values()) == pytest.approx(
        1 if deviation[0] > 1e-9 else 0
    )
    if deviation[0] < 1e-6:
        return
    limit = abs(mean[0]) + 2 * deviation[0]
    drawn = sampled([(stack, way, float(limit))], 50_000)[0]
    assert drawn.cpk[0] == pytest.approx((limit - abs(mean[0])) / (3 * deviation[0]))
    if set(spreads) <= {"normal", "fixed"}:
        tails = norm.sf((limit - mean[0]) / deviation[0]) + norm.cdf(
            (-limit - mean[0]) / deviation[0]
        )
        assert drawn.out_share[0] == pytest.approx(tails, abs=5 * math.sqrt(0.05 / 50_000))


def test_a_zone_of_equal_spreads_has_the_tail_of_rayleigh():
    """Two equal normal deviations: a radius is beyond r with the chance exp(-r²/2σ²), in closed
    form.
    """
    sigma = 0.004
    stack = _stack([(3 * sigma, 0, 0), (0, 3 * sigma, 0)], ["normal", "normal"])
    drawn = sampled([(stack, None, 2 * 2.5 * sigma)], 400_000)[0]
    assert drawn.out_share[0] == pytest.approx(math.exp(-(2.5**2) / 2), rel=0.02)
    assert drawn.cpk[0] == pytest.approx(norm.isf(math.exp(-(2.5**2) / 2) / 2) / 3, rel=0.01)
    assert drawn.within_mm[0] == pytest.approx(
        2 * sigma * math.sqrt(-2 * math.log(0.003)), rel=0.04
    )
    none = sampled([(stack, None, 1.0)], 10_000)[0]
    assert (none.out_share[0], bool(none.at_least[0])) == (0.0, True)


@settings(max_examples=12, deadline=None)
@given(
    st.floats(0.035, 0.2),
    st.sampled_from(["probable", "worst case"]),
    st.floats(0, 400),
    st.floats(0, 300),
    st.integers(1, 4),
    st.integers(0, 10_000),
    st.sampled_from(["steel-c45", "aluminium-6061", "acetal"]),
)
def test_the_allowed_region_is_exactly_where_the_zone_is_met(
    zone, rule, x, y, faces, seed, material
):
    base = starting_request("Block", 10)
    features = [base.part.features[0].model_dump() | {"tolerance_mm": zone}]
    request = _with(
        base,
        rules__tolerance_rule=rule,
        datum__x_mm=x,
        datum__y_mm=y,
        block__faces=faces,
        machine__index_arcsec=10,
        parts__0__features=features,
        parts__0__material=MATERIALS[material].model_dump(),
    )
    locating = ready(views_of(request)[0]).locating
    check = locating.checks[0]
    region = locating.allowed_region(check, [0, 90, 180, 270], 3000)
    rng = np.random.default_rng(seed)
    places = np.concatenate([rng.uniform(-800, 1200, (150, 2)), rng.normal((x, y), 40, (150, 2))])
    shares = np.max([locating.shares_at(check, places, turn) for turn in (0, 90, 180, 270)], axis=0)
    if region is None:
        assert (shares <= 1).all()
        return
    if region.is_empty:
        assert (shares > 1).all()
        return
    for place, share in zip(places, shares, strict=True):
        if region.contains(Point(place)):
            assert share <= 1 + 1e-9
        elif share < 1:
            # Left out only within the chord of the inscribed polygon.
            assert region.distance(Point(place)) < 0.02 * math.sqrt(region.area)
    assert region.intersection(box(0, 0, 400, 350)).is_valid
