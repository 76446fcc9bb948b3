"""Arcs found in chords: against the circles they were made from; areas against dense polygons."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LinearRing, Point, Polygon, box

from wedgecraft.core.ground.bends import STRAYS_MM, amid, bends_of, measured


def _flat(bends, deep=10):
    """The ring again, each arc halved over and over: half an arc's bulge is tan(atan(b) / 2)."""
    points = []

    def between(a, b, left):
        points.append(a[:2])
        if left and a[2]:
            half = math.tan(math.atan(a[2]) / 2)
            x, y = amid(a, b)
            points.pop()
            between((*a[:2], half), (x, y, half), left - 1)
            between((x, y, half), b, left - 1)

    for a, b in zip(bends, [*bends[1:], bends[0]], strict=True):
        between(a, b, deep)
    return Polygon(points)


def _ring(shape: Polygon) -> np.ndarray:
    return np.round(shapely.get_coordinates(shapely.orient_polygons(shape).exterior)[:-1], 5)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(4, 30),
    st.floats(12, 60),
    st.floats(12, 60),
    st.floats(0, 360),
    st.sampled_from([0.0, 0.01, 0.025, 0.05, 0.13]),
)
def test_a_rounded_profile_is_its_lines_and_arcs(radius, wide, deep, turn, clearance):
    """As a pocket is: a rounded box and a round on it, grown by a clearance; every corner of the
    chords on the arcs, radii as they were made, areas in closed form as a dense polygon's.
    """
    core = box(-wide / 2, -deep / 2, wide / 2, deep / 2).buffer(radius, quad_segs=64)
    shape = shapely.union(core, Point(wide / 2, 0).buffer(1.3 * radius, quad_segs=64))
    shape = shapely.affinity.rotate(shape.buffer(clearance, quad_segs=32), turn, origin=(3, 5))
    ring = _ring(shape)
    bends = bends_of(ring)
    assert len(bends) < len(ring) / 6
    flat = _flat(bends)
    assert flat.is_valid
    assert flat.exterior.hausdorff_distance(LinearRing(ring)) < STRAYS_MM + 0.008
    area, x, y = measured(bends)
    assert area == pytest.approx(flat.area, rel=1e-6)
    assert (x, y) == pytest.approx(flat.centroid.coords[0], abs=1e-4)
    for a, b in zip(bends, [*bends[1:], bends[0]], strict=True):
        if abs(a[2]) > 0.2:
            chord, half = math.dist(a[:2], b[:2]), 2 * math.atan(abs(a[2]))
            found = chord / (2 * math.sin(half))
            made = [radius + clearance, 1.3 * radius + clearance]
            # Both ends stand, corners may stray: its rise over the chord is known that well, and is
            # the radius less its cosine of half the angle. Half a turn is known to 3 µm.
            rise = STRAYS_MM + 0.001
            assert min(abs(found - item) for item in made) < rise / (1 - math.cos(half))


@pytest.mark.parametrize("sides", [4, 6, 8, 12, 24])
def test_a_polygon_of_real_sides_stays_one(sides):
    """A hexagon is not a circle, nor any whose sides lie farther inside one than chords do."""
    ring = [(math.cos(a) * 20, math.sin(a) * 20) for a in np.arange(sides) * 2 * math.pi / sides]
    assert [bulge for _, _, bulge in bends_of(ring)] == [0.0] * sides


def test_a_circle_is_two_halves_and_a_hollow_turns_the_other_way():
    circle = bends_of(_ring(Point(3, 4).buffer(20, quad_segs=64)))
    assert [round(bulge, 3) for _, _, bulge in circle] == [1.0, 1.0]
    assert measured(circle) == pytest.approx((math.pi * 400, 3, 4), rel=1e-4)
    bitten = box(0, 0, 40, 30).difference(Point(20, 30).buffer(8, quad_segs=64))
    bulges = [bulge for _, _, bulge in bends_of(_ring(bitten)) if bulge]
    assert len(bulges) == 1
    assert bulges[0] == pytest.approx(-1, abs=1e-3)
