"""Odd problems: faces nothing fits on, slivers, thousands of points, square metres of small parts,
hundreds of keep-outs.

Each is answered soundly within the engine's own limits, or refused in words that say by how much
and which turn came nearest.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from pydantic import ValidationError
from shapely.geometry import Point, Polygon

from tests.core.independent import faults
from tests.core.layout.test_layout import _ring
from wedgecraft.bench.layouts import shape_request
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout.solve import hindrance, layout
from wedgecraft.core.records.layout import LayoutRequest, Placement

TURNS = [0, 90, 180, 270]


def _request(outer, face, turns=TURNS, keepouts=(), effort=0.0, **kind) -> LayoutRequest:
    document = shape_request(outer, face, turns).model_dump()
    document["faces"][0]["keepouts"] = list(keepouts)
    document["kinds"][0] |= kind
    return LayoutRequest.model_validate(document | {"effort": effort})


@pytest.mark.parametrize(
    ("outer", "face", "turns", "said"),
    [
        (_ring(50, 30), _ring(40, 20), [0], "10.0 mm too wide, 10.0 mm too deep"),
        # The nearest turn is the one that is told.
        (_ring(90, 20), _ring(25, 80), TURNS, "20.0 x 90.0 mm at 90°"),
        # As wide and as deep as there is room, and yet no place: a bar across a triangle.
        (_ring(60, 60), [(0, 0), (100, 0), (0, 100)], TURNS, "no turn fits the face's shape"),
    ],
)
def test_what_fits_nowhere_is_told_by_how_much_and_at_which_turn(outer, face, turns, said):
    request = _request(outer, face, turns)
    result = layout(request)
    assert result.count == result.sets == 0
    assert said in (result.hindrance or "")
    assert hindrance(request) == result.hindrance


def test_keepouts_and_masks_that_leave_no_place_are_named():
    blocked = [{"outer": _ring(4, 100, x, 0)} for x in range(10, 100, 12)]
    result = layout(_request(_ring(15, 15), _ring(100, 100), keepouts=blocked))
    assert "it would fit, but keep-outs" in (result.hindrance or "")
    region = {"name": "tolerance", "point_mm": (0, 0), "outer": _ring(5, 5, 300, 300)}
    result = layout(_request(_ring(15, 15), _ring(100, 100), regions=[region]))
    assert "tolerance leave no place" in (result.hindrance or "")


def test_five_hundred_keepouts_are_kept_off():
    rng = np.random.default_rng(0)
    corners = rng.uniform(0, 590, (500, 2))
    keepouts = [{"outer": _ring(3, 3, *map(float, corner)), "height_mm": 50} for corner in corners]
    request = _request(
        _ring(44, 32), _ring(600, 600), turns=[0, 90], keepouts=keepouts, clearance_mm=1
    )
    result = layout(request)
    assert 40 < result.count <= result.bound
    sizes = [(44, 32) if item.turn == 0 else (-32, 44) for item in result.placements]
    bodies = [
        Polygon(_ring(w, d, p.x_mm, p.y_mm))
        for p, (w, d) in zip(result.placements, sizes, strict=True)
    ]
    stands = shapely.union_all([shapely.box(x, y, x + 3, y + 3) for x, y in corners])
    assert (
        shapely.intersection(shapely.union_all(bodies), stands).area < 0.6
    )  # touching within a hair, five hundred times
    assert shapely.union_all(bodies).area == pytest.approx(44 * 32 * result.count, rel=1e-5)


def test_an_outline_of_two_thousand_points_and_one_that_is_mostly_notches():
    angles = 2 * math.pi * np.arange(2000) / 2000
    radii = 24 + 3 * np.sin(7 * angles) + 0.4 * np.sin(90 * angles)
    wavy = [
        (float(r * math.cos(a)), float(r * math.sin(a))) for r, a in zip(radii, angles, strict=True)
    ]
    comb = (
        [(0.0, 0.0)]
        + [
            (x + dx, y)
            for x in range(0, 60, 6)
            for dx, y in ((0.0, 30.0), (3.0, 30.0), (3.0, 4.0), (6.0, 4.0))
        ]
        + [(60.0, 0.0)]
    )
    for outer in (wavy, comb):
        request = _request(outer, _ring(230, 170), turns=[0, 180])
        result = layout(request)
        assert faults(request, result) == []
        assert result.count >= result.by_hand > 5


def test_slivers_stand_side_by_side_and_faces_may_be_slivers():
    request = _request(_ring(80, 0.4), _ring(81, 20), turns=[0])
    result = layout(request)
    assert faults(request, result) == []
    assert result.count == 50
    thin = layout(_request(_ring(10, 5), _ring(100, 5), turns=[0]))
    assert (thin.count, thin.proven) == (10, True)


def test_square_metres_of_millimetre_parts_end_at_the_number_wanted():
    request = _request(_ring(4, 3), _ring(1500, 1200), turns=[0]).model_copy(update={"most": 900})
    result = layout(request)
    assert (result.count, result.bound, result.proven) == (900, 900, True)
    assert faults(request, result.model_copy(update={"placements": result.placements[:200]})) == []


def test_faces_with_bays_and_a_round_face():
    bay = [(0, 0), (200, 0), (200, 150), (120, 150), (120, 60), (80, 60), (80, 150), (0, 150)]
    ring = [
        (float(x), float(y))
        for x, y in list(Point(100, 100).buffer(90, quad_segs=32).exterior.coords)[:-1]
    ]
    for face in (bay, ring):
        request = _request(_ring(26, 18), face, clearance_mm=2)
        result = layout(request)
        assert faults(request, result) == []
        assert result.count >= 0.5 * Polygon(face).area / (28 * 20)


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("outer", [(0, 0), (1, 1)]),
        ("outer", [(0, 0), (10, 10), (10, 0), (0, 10)]),
        ("outer", [(0, 0), (math.nan, 1), (1, 0)]),
        ("outer", [(0, 0), (math.inf, 1), (1, 0)]),
        ("outer", [(5, 5), (5, 5), (5, 5)]),
        ("outer", "a square"),
    ],
)
def test_rings_that_are_none_are_refused_field_by_field(field, value):
    document = shape_request(_ring(10, 10), _ring(100, 100), [0]).model_dump()
    for holder in (document["faces"][0], document["kinds"][0]["layers"][0]):
        kept, holder[field] = holder[field], value
        with pytest.raises(ValidationError) as refused:
            LayoutRequest.model_validate(document)
        assert field in str(refused.value.errors()[0]["loc"])
        holder[field] = kept


def test_fixed_stations_that_stand_wrong_are_refused_with_the_reason():
    request = _request(_ring(20, 20), _ring(100, 100))

    def fixed(*places: tuple[float, float]) -> LayoutRequest:
        stations = [Placement(face=0, kind=0, x_mm=x, y_mm=y, turn=0) for x, y in places]
        return request.model_copy(update={"fixed": stations})

    with pytest.raises(OutOfRange, match="over the edge"):
        layout(fixed((90, 10)))
    with pytest.raises(OutOfRange, match="too near another"):
        layout(fixed((10, 10), (25, 12)))
    result = layout(fixed((40, 40)))
    assert faults(request, result) == []
    assert sum(item.fixed for item in result.placements) == 1
    assert result.count == 25  # it stands where a grid of twenties has one


def test_nothing_is_placed_where_a_kind_has_no_face():
    request = _request(_ring(20, 20), _ring(100, 100))
    kinds = [request.kinds[0].model_copy(update={"faces": [5]})]
    assert layout(request.model_copy(update={"kinds": kinds})).count == 0
