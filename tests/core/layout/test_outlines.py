"""Outlines of many corners: on the stated side of the true one, as near as stated, and no number
false because of them.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from shapely import affinity
from shapely.geometry import Polygon

from tests.core.independent import faults
from wedgecraft.bench.layouts import curved, shape_request
from wedgecraft.core.layout.nofit import Geometry, Variant, minkowski
from wedgecraft.core.layout.outlines import OUTLINE_MM, convex_pieces, inside, outside
from wedgecraft.core.layout.solve import hindrance, layout


def _wheel(teeth: int, corners: int, radius: float = 30.0, tooth: float = 3.0) -> Polygon:
    angles = 2 * math.pi * np.arange(corners) / corners
    radii = radius + tooth * np.tanh(3 * np.sin(teeth * angles))
    return Polygon(np.stack([radii * np.cos(angles), radii * np.sin(angles)], axis=1))


SHAPES = {
    "wheel of 24 teeth": _wheel(24, 480),
    "wheel of 9 teeth": _wheel(9, 200),
    **{f"curved {k}": Polygon(curved(k, n)) for k, n in enumerate((100, 300, 900, 2000))},
    "saw-toothed": Polygon([(0, 0), (120, 0), *((120 - k, 40 + (k % 2)) for k in range(121))]),
    "thin web": Polygon(
        [(30 * math.cos(a), 30 * math.sin(a)) for a in np.linspace(0.1, 6.1, 90)]
        + [(29.99 * math.cos(a), 29.99 * math.sin(a)) for a in np.linspace(6.1, 0.1, 90)]
    ),
}


def _corners(polygon: Polygon) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in polygon.exterior.coords[:-1]]


def _box(wide: float, deep: float, x: float = 0.0, y: float = 0.0) -> list[tuple[float, float]]:
    return [(x, y), (x + wide, y), (x + wide, y + deep), (x, y + deep)]


@pytest.mark.parametrize("name", SHAPES)
def test_simplified_outlines_keep_to_their_side_and_within_the_stated_hair(name):
    true = SHAPES[name]
    outer, inner = outside(true), inside(true)
    assert outer.covers(true)
    assert outer.difference(true.buffer(OUTLINE_MM)).area < 1e-6
    assert outer.bounds == pytest.approx(true.bounds, abs=1e-9)  # what fits by its box fits
    assert all(true.covers(part) for part in inner)
    lost = true.difference(shapely.union_all(inner)).buffer(
        -0.51 * OUTLINE_MM
    )  # no more than a hair along the edge
    assert name == "thin web" or lost.area < 1e-6
    assert len(outer.exterior.coords) <= len(true.exterior.coords)


def test_convex_pieces_cover_exactly_and_their_sums_are_the_hulls_of_all_sums():
    rng = np.random.default_rng(9)
    for true in [
        *SHAPES.values(),
        *(_wheel(int(rng.integers(3, 12)), int(rng.integers(30, 90))) for _ in range(10)),
    ]:
        polygon = outside(true)
        pieces = convex_pieces(polygon)
        areas = [Polygon(piece).area for piece in pieces]
        assert sum(areas) == pytest.approx(polygon.area, rel=1e-9)
        assert [Polygon(piece).convex_hull.area for piece in pieces] == pytest.approx(
            areas, rel=1e-9, abs=1e-9
        )
        turns = sum(Polygon([a, b, c]).exterior.is_ccw is False for a, b, c in _threes(polygon))
        assert (
            len(pieces) <= 2 * turns + 1
        )  # one for each corner that turns inwards would do, two never are more than twice as many
        for a, b in zip(pieces[:4], pieces[::-1][:4], strict=True):
            sums = (a[:, None, :] - b[None, :, :]).reshape(-1, 2)
            assert (
                minkowski([a], [-b]).symmetric_difference(shapely.MultiPoint(sums).convex_hull).area
                < 1e-6
            )
    total = minkowski([np.array(_box(3, 2))], [np.array(_box(5, 7))], gap=1.0)
    assert total.bounds == pytest.approx((-1, -1, 9, 10))
    assert total.area == pytest.approx(10 * 11)


def _threes(polygon: Polygon):
    corners = shapely.get_coordinates(shapely.orient_polygons(polygon).exterior)[:-1]
    return zip(np.roll(corners, 1, axis=0), corners, np.roll(corners, -1, axis=0), strict=True)


@pytest.mark.parametrize("name", SHAPES)
def test_what_keeps_two_apart_is_the_true_one_to_a_hair_on_either_side(name):
    """Against the distance of the true outlines, at random offsets and close to touching."""
    true = SHAPES[name]
    geometry = Geometry(shape_request(_corners(true), _box(900, 900), [0, 90]).kinds)
    larger, smaller = (
        geometry.nofit(Variant(0, 0), Variant(0, 90)),
        geometry.least.nofit(Variant(0, 0), Variant(0, 90)),
    )
    turned = affinity.rotate(true, 90, origin=(0, 0))
    rng = np.random.default_rng(1)
    edge = [
        point.coords[0]
        for point in larger.boundary.interpolate(rng.uniform(0, 1, 60), normalized=True)
    ]
    for x, y in [*(np.array(edge) + rng.normal(0, 0.05, (60, 2))), *rng.uniform(-60, 60, (60, 2))]:
        other = affinity.translate(turned, x, y)
        point = shapely.Point(x, y)
        if true.intersection(other).area > 0.02:
            assert larger.covers(point)
        if true.distance(other) > 2 * OUTLINE_MM + 1e-3:
            assert not larger.covers(point)
        if smaller.contains(point):
            assert true.intersects(other)


def test_a_wheel_that_fits_is_placed_the_hand_grid_is_of_true_boxes_and_bounds_hold():
    wheel = _wheel(24, 240)
    left, low, right, high = wheel.bounds
    wide, deep = right - left, high - low
    alone = shape_request(_corners(wheel), _box(wide, deep), [0])
    assert hindrance(alone) is None
    assert (layout(alone).count, layout(alone).by_hand) == (1, 1)
    grid = shape_request(_corners(wheel), _box(4 * wide, 3 * deep), [0])
    found = layout(grid)
    assert found.by_hand == 12 <= found.count <= found.bound
    assert faults(grid, found) == []


def test_rounds_drawn_with_hundreds_of_corners_stand_as_close_as_circles_do():
    """Rows of circles by hand: in a strip of just their height and length stand exactly so many,
    and one more is proven impossible.
    """
    circle = [
        (12 * math.cos(2 * math.pi * k / 360), 12 * math.sin(2 * math.pi * k / 360))
        for k in range(360)
    ]
    found = layout(shape_request(circle, _box(24 * 8, 24.0), [0]))
    assert (found.count, found.by_hand) == (8, 8)
    assert found.proven
    # Three staggered rows: 128 of 8.5 mm stand in hexagons where 127 was called the most.
    depth = 8.5 * (1 + 2 * math.sqrt(3) / 2)
    small = [
        (4.25 * math.cos(2 * math.pi * k / 200), 4.25 * math.sin(2 * math.pi * k / 200))
        for k in range(200)
    ]
    hexagons = layout(shape_request(small, _box(8.5 * 43, depth + 0.05), [0]))
    assert hexagons.bound >= 43 + 42 + 43
