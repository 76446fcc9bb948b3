"""Where a round cutter gets to: near a place as from afar, and by small discs."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate, translate
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.cutting.reach import cleared, filled, largest_cutter_mm, left_in_corners


def _from_afar(wanted, keep, radius):
    """The whole of what is kept, however far it is: the slow way."""
    closed = keep.buffer(radius, quad_segs=48).buffer(-radius, quad_segs=48)
    return wanted.difference(shapely.union(closed, keep))


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 100_000), st.floats(0.5, 12))
def test_what_is_cleared_does_not_depend_on_what_is_farther_than_a_diameter(seed, radius):
    random = np.random.default_rng(seed)
    lumps = [
        rotate(
            translate(box(0, 0, *random.uniform(4, 40, 2)), *random.uniform(-80, 80, 2)),
            float(random.uniform(0, 90)),
        )
        for _ in range(12)
    ]
    keep = shapely.union_all(lumps)
    x, y = random.uniform(-60, 60, 2)
    wanted = box(x, y, x + 25, y + 18)
    near, far = cleared(wanted, keep, radius), _from_afar(wanted, keep, radius)
    assert near.symmetric_difference(far).area < 1e-6 * wanted.area + 1e-6
    # never into what is kept, and no disc that is clear of it is left out
    assert near.intersection(keep).area < 1e-6
    for _ in range(20):
        disc = Point(random.uniform(x, x + 25), random.uniform(y, y + 18)).buffer(0.97 * radius)
        if disc.distance(keep) > 0.05 * radius:
            assert wanted.intersection(disc).difference(near).area < 1e-3


@pytest.mark.parametrize("angle", [60.0, 90.0, 120.0])
def test_what_a_round_leaves_in_a_corner_in_closed_form(angle):
    """Between two walls at an angle: the kite of the two tangents less the sector in it."""
    half, radius = math.radians(angle) / 2, 4.0
    reach = 60.0
    wedge = Polygon(
        [(0, 0), (reach * math.cos(half), -reach * math.sin(half)),
         (reach * math.cos(half), reach * math.sin(half))]
    )  # fmt: skip
    wanted = wedge.intersection(Point(0, 0).buffer(30))
    keep = wedge.buffer(20, join_style="mitre").difference(wedge)
    left = left_in_corners(wanted, keep, radius)
    kite = radius**2 / math.tan(half)
    sector = radius**2 * (math.pi / 2 - half)
    assert left.area == pytest.approx(kite - sector, rel=0.01)
    assert largest_cutter_mm(wanted, keep, 12.0) == 0.0  # however small, a sharp corner stays


@pytest.mark.parametrize("radius", [1.5, 3.0, 5.05])
def test_the_largest_cutter_that_clears_a_pocket_has_its_corners_radius(radius):
    pocket = box(0, 0, 40, 25).buffer(-radius).buffer(radius, quad_segs=64)
    keep = box(-20, -20, 60, 45).difference(pocket)
    found = largest_cutter_mm(pocket, keep, 20.0, film_mm=0.02)
    assert found == pytest.approx(2 * radius, abs=0.3)
    assert found <= 2 * radius + 0.15
    assert largest_cutter_mm(pocket, keep, 2.0, film_mm=0.02) == 2.0  # no more than is asked


def test_holes_are_filled_and_nothing_is_cleared_of_nothing():
    ring = box(0, 0, 20, 20).difference(box(5, 5, 15, 15))
    assert filled(ring).area == 400
    empty = Polygon()
    assert cleared(empty, ring, 2.0).is_empty
    assert cleared(ring, empty, 2.0).equals(ring)
