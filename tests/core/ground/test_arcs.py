"""Chords of curves: true boxes, no material left out, never farther off than stated. Against plane
geometry and fine polygons.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, arc, corners, curve, on_the_outside
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.station.touch import touch


def _fine(radius: float, start: float, sweep: float) -> np.ndarray:
    angles = start + sweep * np.linspace(0, 1, 20_001)
    return radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.5, 900), st.floats(-7, 7), st.floats(0.3, 5.5), st.booleans())
def test_a_bulging_arc_stands_outside_and_a_hollow_one_on_its_curve(radius, start, sweep, hollow):
    """A segment of a disc, or a disc's frame with the segment cut out of it."""
    drawn, true = arc(0.0, 0.0, radius, start, sweep), _fine(radius, start, sweep)
    if hollow:
        far = 3 * radius
        frame = [(-far, -far), (far, -far), (far, far), (-far, far)]
        ring = on_the_outside(drawn[::-1])
        chords, material = Polygon(frame, [ring]), Polygon(frame, [true])
        assert np.linalg.norm(ring, axis=1) == pytest.approx(radius)
    else:
        chords, material = Polygon(on_the_outside(drawn)), Polygon(true)
        assert chords.bounds == pytest.approx(material.bounds, abs=1e-6 * radius)
    assert chords.is_valid
    assert shapely.difference(material, chords).area < 1e-7 * radius * radius * (
        1 if hollow else 0.01
    )
    assert shapely.hausdorff_distance(chords.exterior, material.exterior) <= 1.01 * CHORD_ERROR_MM
    assert chords.area - material.area <= CHORD_ERROR_MM * sweep * radius


@pytest.mark.parametrize("along", [40.0, 6.0])
def test_an_ellipse_stands_outside_too(along):
    angles = np.linspace(0, 2 * math.pi, 401)
    drawn = curve(np.stack([along * np.cos(angles), 12 * np.sin(angles)], axis=1))
    chords = Polygon(on_the_outside(drawn[:-1]))
    fine = np.linspace(0, 2 * math.pi, 40_001)
    true = Polygon(np.stack([along * np.cos(fine), 12 * np.sin(fine)], axis=1))
    assert shapely.difference(true, chords).area < 1e-5
    assert shapely.hausdorff_distance(chords.exterior, true.exterior) <= 1.5 * CHORD_ERROR_MM


def test_lines_stay_lines_and_corners_corners():
    ring = corners(np.array([(0.0, 0), (30, 0), (30.0, 20), (15, 20.5), (0, 20)]))
    assert on_the_outside(ring) == pytest.approx(ring[:, :2])


def test_typed_shapes_have_their_sizes_and_leave_nothing_out():
    round_ = Outline.model_validate({"shape": {"kind": "round", "diameter_mm": 110}})
    ring = Outline.model_validate({"shape": {"kind": "ring", "outer_mm": 110, "inner_mm": 37}})
    slot = Outline.model_validate({"shape": {"kind": "slot", "length_mm": 61.7, "width_mm": 17.3}})
    plate = Outline.model_validate(
        {"shape": {"kind": "rectangle", "width_mm": 80, "depth_mm": 50, "corner_radius_mm": 7.7}}
    )
    for outline, width, depth, area in (
        (round_, 110, 110, math.pi * 55**2),
        (slot, 61.7, 17.3, math.pi * 8.65**2 + 17.3 * 44.4),
        (plate, 80, 50, 4000 - (4 - math.pi) * 7.7**2),
    ):
        polygon = Polygon(outline.outer)
        assert polygon.bounds == pytest.approx((0, 0, width, depth), abs=1e-6)
        assert 0 <= polygon.area - area <= CHORD_ERROR_MM * polygon.length
        assert outline.chord_error_mm == CHORD_ERROR_MM
    hole = np.array(ring.holes[0])
    assert np.hypot(*(hole - 55).T) == pytest.approx(18.5, abs=1e-6)
    assert np.ptp(hole, axis=0) == pytest.approx(37, abs=1e-6)


@pytest.mark.parametrize("start", [0.0, 0.7, 2.9])
def test_a_round_touches_a_flat_at_a_point_however_its_chords_lie_and_a_flat_over_its_length(start):
    """A chord of 0.6 mm is no flat: the pressure on it would be eighty times that of Hertz."""
    ring = on_the_outside(arc(24.0, 24.0, 24.0, start, 2 * math.pi)[:-1])
    for side in ("left", "front", "right"):
        assert touch(Polygon(ring), side) == [pytest.approx((24, 24), abs=0.05)]
    flat = Polygon(
        np.vstack([[(0, 10.0), (0, 0), (30, 0)], ring[(ring[:, 0] > 24) & (ring[:, 1] > 24)]])
    )
    assert touch(flat, "left") == [pytest.approx((0, 10))]
