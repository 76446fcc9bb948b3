"""How stops are fixed: what dowels, screws and grooves bear, against a linear programme, statics by
hand and published strengths.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from tests.core.make.planned import planned
from wedgecraft.core.make.fasteners import THREADS
from wedgecraft.core.make.set_stops import set_stops
from wedgecraft.core.make.stop_strength import (
    DOWEL_SHEAR_MPA,
    Push,
    bar_bears,
    borne,
    groove_bears,
    stress_area_mm2,
)
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.records.fixing import Fixing


def test_published_strengths():
    """ISO 898-1, stress areas and proof loads of class 8.8, N; ASME B18.8.2, single shear of
    hardened dowels, lbf; both from memory.
    """
    for name, area, proof in (("M5", 14.2, 8230), ("M6", 20.1, 11600), ("M8", 36.6, 21200),
                              ("M10", 58.0, 33700)):  # fmt: skip
        assert stress_area_mm2(THREADS[name]) == pytest.approx(area, rel=3e-3)
        assert stress_area_mm2(THREADS[name]) * 580 == pytest.approx(proof, rel=1e-2)
    for inches, lbf in ((1 / 8, 1600), (1 / 4, 6400), (3 / 8, 14350), (1 / 2, 25500)):
        bears = DOWEL_SHEAR_MPA * math.pi / 4 * (inches * 25.4) ** 2 / 4.44822
        assert bears == pytest.approx(lbf, rel=0.01)


@settings(max_examples=40, deadline=None)
@given(st.floats(2, 30), st.floats(0.5, 40), st.floats(8, 80), st.floats(100, 600))
def test_a_groove_bears_what_the_best_pressures_on_its_walls_could(deep, high, long, yields):
    """The limit theorem by slices: of all pressures up to the yield strength that balance the
    force, those that let it be largest.
    """
    count = 400
    middles = (np.arange(count) + 0.5) * deep / count
    most = yields * long * deep / count
    # the force, then what each slice of both walls presses with; moments about the plate's top
    balance = np.zeros((2, 1 + 2 * count))
    balance[0] = [1.0, *(-np.ones(count)), *np.ones(count)]
    balance[1] = [high, *middles, *(-middles)]
    found = linprog(
        [-1.0] + [0.0] * (2 * count), A_eq=balance, b_eq=[0, 0],
        bounds=[(0, None)] + [(0, most)] * (2 * count),
    )  # fmt: skip
    assert groove_bears(deep, high, long, yields) == pytest.approx(-found.fun, rel=5e-3)


def test_a_bar_on_screws_and_dowels_by_hand():
    """40 x 12, two M6 and two 6 mm dowels 32 apart; 5 kN, 8 mm up, a quarter along."""
    bar = shapely.box(0, 0, 12, 40)
    screws = [Fixing("screw", 6, y, thread="M6", clamped_mm=8) for y in (12, 28)]
    dowels = [Fixing("dowel", 6, y, diameter_mm=6, depth_mm=10, dowel_mm=20) for y in (4, 36)]
    found = borne(bar, [*screws, *dowels], [Push(5000, (12, 12, 8), (-1.0, 0.0))], 275)
    # the nearer dowel takes 24 / 32 of it; the plate round it yields before it shears
    assert found.sideways == pytest.approx(275 * 6 * 10 / (5000 * 24 / 32))
    # it would tilt about the edge 6 mm away, two screws at 70 % of 580 MPa keep it
    assert found.upright == pytest.approx(2 * 0.7 * 580 * 20.12 * 6 / (5000 * 8), rel=1e-3)
    assert borne(bar, screws, [Push(5000, (12, 12, 8), (-1.0, 0.0))], 275) is None
    assert borne(bar, [*screws, *dowels], [], 275) is None
    assert bar_bears(8, 6, 40) == pytest.approx(600 * 40 * 64 / 6 / 6)


@pytest.mark.parametrize("name", ["Manifold block, 8-port", "Anchor lug", "Probe-clamp kit"])
def test_stops_of_a_plan_bear_what_hold_says_pushes_them(name):
    """What pushes a long stop is what hold shares out to it; it stands on dowels where they bear
    that, else in the shallowest groove that does; one mm less would not.
    """
    asked = planned_setup(planned(name), 1)
    plate = asked.request.plate
    for kind, ready in enumerate(asked.kinds):
        verdict = asked.verdict(kind)
        share = {item.name: item.most_n for item in verdict.share.contacts}
        found = set_stops(ready, verdict, plate)
        assert not found.doubts
        assert found.notes
        forces = sorted((stop.force_n for stop in found.stops), reverse=True)
        long = sum(force for item, force in share.items() if item.startswith("long stop"))
        assert forces[0] == pytest.approx(long)
        for stop in found.stops:
            assert stop.bears >= verdict.needed
            if not stop.groove_mm:
                assert any(item.dowel_mm for item in stop.fixings)
                continue
            high = sum(
                share[c.name] * c.point_mm[2] for c in verdict.contacts if "long stop" in c.name
            ) / long  # fmt: skip
            length = max(stop.bar.bounds[2] - stop.bar.bounds[0],
                         stop.bar.bounds[3] - stop.bar.bounds[1])  # fmt: skip
            less = groove_bears(stop.groove_mm - 1, high, length, plate.material.yield_mpa)
            assert less / long < verdict.needed
            assert stop.groove_mm < plate.thickness_mm
    # nobody knows what pushes: not green
    (doubt, *_) = set_stops(ready, None, plate).doubts
    assert not doubt.wrong
    # nor where what is pushed is no bar: a part that stands aside of them
    aside = [
        item.model_copy(update={"point_mm": (item.point_mm[0] - 30, *item.point_mm[1:])})
        for item in verdict.contacts
    ]
    lost = set_stops(ready, verdict.model_copy(update={"contacts": aside}), plate)
    assert any(not item.wrong and "not known" in item.says for item in lost.doubts)
    thin = plate.model_copy(update={"thickness_mm": 6.0})
    assert all(item.wrong for item in set_stops(asked.kinds[0], asked.verdict(0), thin).doubts)
