"""What flats touch from the side, against bodies whose faces, rounds and slopes are known."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from wedgecraft.core.clamping.pressure import hertz_line
from wedgecraft.core.records.material import HOLDER_YOUNGS_MPA
from wedgecraft.core.station.patch import EVERYWHERE, touched
from wedgecraft.core.workpiece.body import Body, bevelled, cylinder, prism, united

_BLOCK = prism(box(0, 0, 40, 30), 0, 20)
#: Upright, of radius 20; the same lying along Y.
_ROUND = cylinder((20, 20, 0), 30, 20)
_LYING = _ROUND.turned(np.array([[0, 1, 0], [0, 0, 1], [1, 0, 0]]))
_STEEL = 210_000


def test_a_face_is_touched_as_far_as_the_flat_reaches():
    found = touched(_BLOCK, "left", 0, EVERYWHERE, (1, 8))
    assert found.corners == ((0, 1), (0, 8), (30, 1), (30, 8))
    assert (found.area_mm2, found.pushed("left")) == (pytest.approx(30 * 7), (1, 0, 0))
    toe = touched(_BLOCK, "right", 40, (22, 34), (4, 6))
    assert (toe.along, toe.heights, toe.area_mm2) == ((22, 30), (4, 6), pytest.approx(16))
    assert touched(_BLOCK, "right", 41, EVERYWHERE, (4, 6)) is None
    assert touched(_BLOCK, "front", 0, (50, 60), (4, 6)) is None


def test_of_a_fork_both_arms_are_touched_and_the_gap_is_not():
    fork = _BLOCK - prism(box(10, 10, 41, 18), -1, 21)
    found = touched(fork, "right", 40, EVERYWHERE, (0, 5))
    assert found.along == (0, 30)
    assert found.area_mm2 == pytest.approx(5 * (10 + 12))


@pytest.mark.parametrize("turn_deg", [0.0, 1.7, 4.1])
def test_a_round_is_touched_in_a_line_as_wide_as_hertz_has_it(turn_deg):
    """Upright and lying, however its chords lie to the flat."""
    c, s = math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))
    upright = _ROUND.turned(np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]))
    line = touched(upright, "left", upright.box[0], EVERYWHERE, (1, 9))
    assert line.heights == (1, 9)
    assert len(line.ends) == 1
    half, _ = hertz_line(5000, 8, 20, _STEEL, HOLDER_YOUNGS_MPA)
    assert line.pressed_mm2(5000, _STEEL) == pytest.approx(2 * half * 8, rel=2e-3)
    lying = _LYING.turned(np.array([[c, 0, -s], [0, 1, 0], [s, 0, c]]))
    x0, _, z0, _, _, z1 = lying.box
    line = touched(lying, "left", x0, (5, 17), (z0, z1))
    assert line.along == (5, 17)
    assert line.heights == pytest.approx(((z0 + z1) / 2,) * 2, abs=0.7)
    half, _ = hertz_line(5000, 12, 20, _STEEL, HOLDER_YOUNGS_MPA)
    assert line.pressed_mm2(5000, _STEEL) == pytest.approx(2 * half * 12, rel=2e-3)
    assert line.lean == 0


def test_a_slope_is_met_by_an_edge_and_pushes_square_to_itself():
    """Drafted walls, 1 in 20: leaning in as they rise, and out."""
    slope = math.atan(1 / 20)
    forging, mould = bevelled(box(0, 0, 40, 30), 0, 20, -1), bevelled(box(0, 0, 40, 30), 0, 20, 1)
    foot = touched(forging, "left", 0, EVERYWHERE, (0, 8))
    assert (foot.heights, foot.lean) == ((0, 0), 0)  # the part's own edge, on the stop's face
    toe = touched(forging, "right", 39.8, (10, 20), (4, 6))
    assert (toe.heights, toe.lean) == ((4, 4), pytest.approx(slope, rel=1e-3))
    assert toe.pushed("right") == pytest.approx((-math.cos(slope), 0, -math.sin(slope)))  # down
    stop = touched(mould, "left", -0.4, EVERYWHERE, (1, 8))
    assert stop.heights == (8, 8)
    assert stop.pushed("left") == pytest.approx((math.cos(slope), 0, math.sin(slope)))  # lifts
    # A lying round below and above its middle: along its radius.
    for low, z, rise in ((4, 6, -14), (30, 30, 10)):
        out = math.sqrt(20**2 - rise**2)
        found = touched(_LYING, "right", 20 + out, (3, 9), (low, low + 2))
        assert found.heights == pytest.approx((z, z), abs=0.01)
        assert found.lean == pytest.approx(math.asin(rise / 20), abs=0.02)


def test_a_flange_takes_a_toe_as_far_as_it_goes_and_a_narrow_fin_as_wide_as_it_is():
    flanged = united([prism(box(0, 0, 40, 30), 0, 5), prism(box(8, 0, 32, 30), 5, 20)])
    assert touched(flanged, "right", 40, EVERYWHERE, (4, 8)).heights == (4, 5)
    assert touched(flanged, "left", 8, EVERYWHERE, (1, 8)).heights == (5, 8)
    fin = united([_BLOCK, prism(box(40, 12, 44, 12.3), 0, 20)])
    found = touched(fin, "right", 44, EVERYWHERE, (4, 8))
    assert found.pressed_mm2(1, _STEEL) >= 0.3 * 4


@settings(max_examples=30, deadline=None)
@given(st.floats(0.5, 25), st.floats(1, 14), st.floats(-5, 35), st.floats(2, 20))
def test_a_patch_is_what_geometry_leaves_of_the_flat(low, high, start, wide):
    """Of a plate with a window in its side: the flat less what is not there."""
    window = prism(box(36, 12, 41, 20), 6, 12)
    body: Body = _BLOCK - window
    side = box(0, 0, 30, 20).difference(box(12, 6, 20, 12))
    flat = box(start, low, start + wide, low + high)
    found = touched(body, "right", 40, (start, start + wide), (low, low + high))
    expected = side.intersection(flat)
    if expected.area > 0.5 and expected.bounds[2] - expected.bounds[0] > 0.5:
        assert found.area_mm2 == pytest.approx(expected.area, abs=1e-4)
        assert (*found.along, *found.heights) == pytest.approx(
            tuple(expected.bounds[k] for k in (0, 2, 1, 3)), abs=1e-5
        )
