"""Sections between clamp and stop: bars, walls and rings by hand, bores in parts worked out."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from tests.core.station.test_stood import _view
from tests.core.workpiece.test_states import _cut, _part, _stock
from wedgecraft.core.hold.clamped_section import SHARE, section_gives, too_squeezed
from wedgecraft.core.hold.squeeze import Push, mesh_of, squeezed
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.material import POISSON
from wedgecraft.core.records.op import Op
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.stood import stood

E = 69_000.0


def _ring(radius: float, wall: float) -> Polygon:
    outer = Point(0, 0).buffer(radius + wall / 2, quad_segs=40)
    return outer.difference(Point(0, 0).buffer(radius - wall / 2, quad_segs=40))


@pytest.mark.parametrize(("radius", "wall"), [(20, 0.8), (20, 2), (55, 3)])
def test_a_thin_ring_pressed_across_goes_oval_as_the_formula_says(radius, wall):
    """``(pi / 4 - 2 / pi) F R^3 / (E I)`` along the force, ``(2 / pi - 1 / 2)`` across it.

    Source: Timoshenko, "Strength of Materials" part II, 1941, thin rings; from memory.
    """
    rim = radius + wall / 2
    pushes = [Push((rim, 0), (-1, 0), 100), Push((-rim, 0), (1, 0), 100)]
    found = squeezed(_ring(radius, wall), pushes, 10, E)
    along = (math.pi / 4 - 2 / math.pi) * 100 * radius**3 / (E * 10 * wall**3 / 12)
    (bore,) = found.bores
    assert bore.changes_mm == pytest.approx(along, rel=0.02)
    assert sum(found.gives_mm) == pytest.approx(along, rel=0.02)


def test_a_thick_ring_gives_a_little_more_as_curved_bars_do():
    """Three tenths of its radius thick. Source: Roark, "Formulas for Stress and Strain", rings,
    case 1 with the factors of thick ones; from memory. Of the mean circle, so within 6 %.
    """
    radius, wall, high = 20.0, 6.0, 10.0
    outer = radius + wall / 2
    off = radius - wall / math.log(outer / (radius - wall / 2))
    hoop, shear = off / radius, 1.2 * 2 * (1 + POISSON) * off / radius
    k1, k2 = 1 - hoop + shear, 1 - hoop
    thin = 100 * radius**3 / (E * high * wall**3 / 12)
    pushes = [Push((outer, 0), (-1, 0), 100, 1), Push((-outer, 0), (1, 0), 100, 1)]
    (bore,) = squeezed(_ring(radius, wall), pushes, high, E).bores
    assert bore.changes_mm == pytest.approx(
        thin * (k1 * math.pi / 4 - 2 * k2**2 / math.pi), rel=0.06
    )
    assert bore.changes_mm > 1.05 * thin * (math.pi / 4 - 2 / math.pi)


def test_bars_and_walls_give_as_beams_by_hand():
    bar = squeezed(
        box(0, 0, 90, 20),
        [Push((90, 10), (-1, 0), 6900, 20), Push((0, 10), (1, 0), 6900, 20)],
        5,
        E,
    )
    assert sum(bar.gives_mm) == pytest.approx(6900 * 90 / (E * 20 * 5), rel=0.01)
    # A wall of 2 over a void 60 long, held at both ends: F l^3 / (192 E I).
    frame = box(0, 0, 120, 160).difference(box(68, 50, 118, 110))
    pushes = [
        Push((120, 80), (-1, 0), 100, 1.0),
        Push((0, 40), (1, 0), 50, 80),
        Push((0, 120), (1, 0), 50, 80),
    ]
    found = squeezed(frame, pushes, 10, E)
    gives = found.gives_mm[0] + np.mean(found.gives_mm[1:])
    by_hand = 100 * 60**3 / (192 * E * 10 * 2**3 / 12)
    assert by_hand < gives == pytest.approx(by_hand, rel=0.15)  # its ends turn a little


@settings(max_examples=15, deadline=None)
@given(st.floats(0.4, 20), st.floats(5, 60), st.floats(0, 1))
def test_any_plate_with_a_bore_is_meshed_without_losing_any_of_it(wall, radius, aside):
    width = 2 * radius + 2 * wall + 10 * aside
    hole = Point(wall + radius, width / 2).buffer(radius, quad_segs=24)
    plate = box(0, 0, width, width).difference(hole)
    points, triangles = mesh_of(plate)
    a, b, c = (points[triangles[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    assert (twice > 0).all()
    assert twice.sum() / 2 == pytest.approx(plate.area, rel=5e-3)
    assert len(points) < 6000


def test_a_bore_cut_between_clamps_is_judged_against_half_its_tolerance():
    drill = _cut("drill", "T6 bore", 24, 21, cutter="drill", at=[(22, 15)], tool={"point_deg": 180})
    feature = Feature(name="seat", x_mm=22, y_mm=15, tolerance_mm=0.03)
    part = _part([Op(number=10, cuts=[drill])], width=36, stock=_stock(0, 0, 0), features=[feature])
    view = _view(part)
    sitting = stood(view)
    station = build_station(sitting, view.station)
    gives, bores = section_gives(view, sitting, station, 4000.0)
    (bore,) = bores
    assert (bore.feature, bore.limit_mm) == ("seat", SHARE * 0.03)
    assert bore.diameter_mm == pytest.approx(24, abs=0.03)
    assert bore.force_n == pytest.approx(4000)
    twice = section_gives(view, sitting, station, 8000.0)[1][0].changes_mm
    assert twice == pytest.approx(2 * bore.changes_mm, rel=1e-6)  # linear
    # Between thin rings of its thinnest wall and of its thickest.
    thin, thick = (
        0.149 * 4000 * (12 + wall / 2) ** 3 / (69_000 * 20 * wall**3 / 12) for wall in (2, 10)
    )
    assert thick < bore.changes_mm < thin
    assert gives[0].value > 0
    (said,) = too_squeezed(bores, 20.0)
    assert f"at most {20 * 0.015 / bore.changes_mm:.1f} N·m" in said
    small = drill.model_copy(
        update={"at": [(3, 3)], "tool": drill.tool.model_copy(update={"diameter_mm": 2})}
    )
    done = part.model_copy(update={"ops": [part.ops[0], Op(number=20, cuts=[small])]})
    over = _view(done, op=1)
    sitting = stood(over)
    bores = section_gives(over, sitting, build_station(sitting, over.station), 4000.0)[1]
    assert [round(item.diameter_mm) for item in bores] == [2]  # the seat springs back as it was
