"""Shapes, stock, features, setups and sittings against closed forms, arithmetic and parts solved by
hand.
"""

from __future__ import annotations

import itertools
import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.feature import DIRECTIONS, Feature
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.stock import Stock
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.workpiece.blank import spread, stock_facts
from wedgecraft.core.workpiece.facts import feature_problems, part_facts
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.sitting import Sitting, sits

HEX = math.sqrt(3) / 2


@pytest.mark.parametrize(
    ("shape", "area", "size"),
    [
        (
            {"kind": "rectangle", "width_mm": 60, "depth_mm": "2 in", "corner_radius_mm": 8},
            60 * 50.8 - (4 - math.pi) * 64,
            (60, 50.8),
        ),
        (
            {"kind": "rectangle", "width_mm": 20, "depth_mm": 20, "corner_radius_mm": 10},
            math.pi * 100,
            (20, 20),
        ),
        ({"kind": "round", "diameter_mm": 48}, math.pi * 24**2, (48, 48)),
        ({"kind": "polygon", "sides": 6, "across_flats_mm": 36}, 36**2 * HEX, (36 / HEX, 36)),
        ({"kind": "polygon", "sides": 4, "across_flats_mm": 30}, 900, (30, 30)),
        ({"kind": "slot", "length_mm": 60, "width_mm": 24}, 36 * 24 + math.pi * 144, (60, 24)),
        ({"kind": "ring", "outer_mm": 60, "inner_mm": 36}, math.pi * (900 - 324), (60, 60)),
        (
            {"kind": "L", "width_mm": 60, "depth_mm": 50, "leg_x_mm": 18, "leg_y_mm": 12},
            60 * 18 + 32 * 12,
            (60, 50),
        ),
        (
            {"kind": "T", "width_mm": 60, "depth_mm": 50, "bar_mm": 18, "stem_mm": 20},
            60 * 18 + 32 * 20,
            (60, 50),
        ),
    ],
)
def test_typed_shapes_have_the_area_and_size_of_the_textbook(shape, area, size):
    outline = Outline.model_validate({"shape": shape})
    polygon = Polygon(outline.outer, outline.holes)
    assert polygon.area == pytest.approx(area, rel=2e-3)
    assert polygon.bounds == pytest.approx((0, 0, *size), abs=0.02)
    assert Outline.model_validate_json(outline.model_dump_json()) == outline


@pytest.mark.parametrize(
    ("shape", "said"),
    [
        ({"kind": "ring", "outer_mm": 30, "inner_mm": 30}, "inner diameter"),
        ({"kind": "slot", "length_mm": 10, "width_mm": 12}, "slot's width"),
        (
            {"kind": "rectangle", "width_mm": 10, "depth_mm": 4, "corner_radius_mm": 3},
            "half the shorter side",
        ),
        (
            {"kind": "L", "width_mm": 10, "depth_mm": 10, "leg_x_mm": 12, "leg_y_mm": 2},
            "less than the depth",
        ),
        ({"kind": "polygon", "sides": 2, "across_flats_mm": 3}, "greater than or equal to 3"),
        ({"kind": "star"}, "rectangle"),
        ({"kind": "round", "diameter_mm": "nan"}, "not a length"),
    ],
)
def test_sizes_that_make_no_shape_are_refused_in_words(shape, said):
    with pytest.raises(ValueError, match=said):
        Outline.model_validate({"shape": shape})


def _part(**more) -> Part:
    return Part.model_validate(starting_request("Block", 10).parts[0].model_dump() | more)


def test_round_holes_islands_and_masses():
    angles = [2 * math.pi * k / 48 for k in range(48)]
    hole = [(20 + 6 * math.cos(a), 15 + 6 * math.sin(a)) for a in angles]
    boss = [(20 + 2 * math.cos(a), 15 + 2 * math.sin(a)) for a in angles]
    square = [(40, 10), (50, 10), (50, 20), (40, 20)]
    outline = {
        "outer": [(0, 0), (60, 0), (60, 40), (0, 40)],
        "holes": [hole, square],
        "islands": [boss],
    }
    part = _part(outline=outline)
    facts = part_facts(part, 10, [starting_request("x", 1).machine] * len(part.ops))
    assert [(h.x_mm, h.y_mm, h.diameter_mm) for h in facts.round_holes] == [
        pytest.approx((20, 15, 12))
    ]
    chord = math.sin(2 * math.pi / 48) * 24  # area of a 48-gon over r²
    assert finished_body(part).volume_mm3 == pytest.approx(
        (2400 - chord * 36 - 100 + chord * 4) * 25
    )
    assert facts.mass_kg == pytest.approx(finished_body(part).volume_mm3 * 2700e-9)


# ---- stock


@settings(max_examples=60, deadline=None)
@given(
    st.floats(5, 400),
    st.floats(0, 5),
    st.floats(0, 4),
    st.floats(0, 30),
    st.floats(0, 200),
    st.integers(1, 5000),
)
def test_blanks_per_bar_against_sawing_them_one_by_one(
    size, allowance, kerf, trim, remnant, wanted
):
    stock = Stock.model_validate(
        {
            "along": "x",
            "x": {"allowance_mm": allowance},
            "bar_length_mm": 3000,
            "kerf_mm": kerf,
            "trim_mm": trim,
            "remnant_mm": remnant,
            "spare_percent": 0,
        }
    )
    facts = stock_facts(stock, (size, 40, 20), 7850, wanted)
    left, sawn, blank = 3000 - trim - remnant, 0, size + 2 * allowance
    while left >= blank - 1e-9:
        left -= blank + kerf
        sawn += 1
    assert facts.per_bar == sawn
    assert facts.bars == math.ceil(wanted / sawn)


def test_a_bar_too_short_says_how_long_it_must_be():
    facts = stock_facts(Stock(bar_length_mm=100), (60, 40, 20), 7850, 5)
    assert (facts.bars, facts.per_bar) == (None, 0)
    assert "at least 125 mm" in facts.wrong


def test_variation_from_ranges_measurements_and_what_is_usual():
    def deviation(**variation) -> float:
        return spread(Stock.model_validate({"x": {"variation": variation}}), "x")[0]

    rng = np.random.default_rng(2)
    assert deviation(kind="range", value_mm=0.05) == pytest.approx(
        rng.uniform(-0.05, 0.05, 400_000).std(), rel=0.01
    )
    assert deviation(kind="standard deviation", value_mm=0.02) == 0.02
    column = [63.5, 63.9, 63.2, 64.1]
    assert deviation(kind="measured", measured_mm=column) == pytest.approx(np.std(column, ddof=1))
    pasted = Stock.model_validate(
        {"x": {"variation": {"kind": "measured", "measured_mm": "2.500\n2.516\n2.488 in"}}}
    )
    assert pasted.x.variation.measured_mm == pytest.approx([63.5, 63.9064, 63.1952])
    # Common practice, no source: saw-cut ends vary more than the bar's own faces.
    assert (
        spread(Stock(kind="saw-cut bar", along="x"), "x")[0]
        > spread(Stock(kind="saw-cut bar", along="x"), "y")[0]
    )


def test_gripping_what_varies_most_is_warned_of_with_both_ways_out():
    warned = stock_facts(Stock(kind="saw-cut bar", along="x", gripped="x"), (60, 40, 20), 2700, 10)
    assert warned.most_varying == "x"
    assert "varies the most" in warned.warning
    assert "other way round" in warned.remedies[0]
    assert "one length first" in warned.remedies[1]
    assert (
        stock_facts(
            Stock(kind="saw-cut bar", along="x", gripped="y"), (60, 40, 20), 2700, 10
        ).warning
        is None
    )
    assert (
        stock_facts(Stock(kind="forged", gripped="x"), (60, 40, 20), 2700, 10).warning is None
    )  # all vary alike


def test_a_round_bar_weighs_what_a_cylinder_does():
    stock = Stock.model_validate(
        {
            "kind": "round bar",
            "along": "z",
            "x": {"allowance_mm": 1},
            "y": {"allowance_mm": 1},
            "z": {"allowance_mm": 0},
        }
    )
    assert stock_facts(stock, (48, 48, 22), 2700, 1).mass_kg == pytest.approx(
        math.pi * 25**2 * 22 * 2700e-9
    )


# ---- features


def _feature(name: str, *directions: str, **more) -> Feature:
    return Feature.model_validate(
        {"name": name, "tolerance_mm": 0.1, "directions": directions or ["+Z"], **more}
    )


def test_features_that_do_not_fit_together_are_said_and_circles_refused():
    chain = [
        _feature("A"),
        _feature("B", measured_from="feature", from_feature="A"),
        _feature("C", measured_from="feature", from_feature="gone"),
        _feature("D", measured_from="face"),
        _feature("E", op=30),
        _feature("F", measured_from="feature", from_feature="E"),
    ]
    said = feature_problems(chain, list(_part().ops))
    assert [text.split(":")[0] for text in said] == ["C", "D", "E", "F"]
    around = [
        _feature("A", measured_from="feature", from_feature="C"),
        _feature("B", measured_from="feature", from_feature="A"),
        _feature("C", measured_from="feature", from_feature="B"),
    ]
    with pytest.raises(ValueError, match="circle: A from C from B from A"):
        _part(features=[item.model_dump() for item in around])
    with pytest.raises(ValueError, match="two features are called"):
        _part(features=[_feature("A").model_dump()] * 2)
    with pytest.raises(ValueError, match="op numbers must rise"):
        _part(ops=[{"number": 20}, {"number": 10}])


# ---- sittings


def _sits(part: Part, up: str) -> Sitting:
    return sits(part.model_copy(update={"ops": [Op(up=up)]}), Op(up=up), 12.0)


@pytest.mark.parametrize("up", DIRECTIONS)
def test_a_part_turned_keeps_its_box_and_its_places_inside(up, as_drawn):
    part = _part(
        outline={
            "shape": {"kind": "L", "width_mm": 60, "depth_mm": 50, "leg_x_mm": 18, "leg_y_mm": 12}
        }
    )
    found = _sits(part, up)
    _, _, x, y = found.outline.bounds
    assert sorted((x, y, found.height_mm)) == pytest.approx([25, 50, 60])
    ends = [found.place(*corner) for corner in itertools.product((0, 60), (0, 50), (0, 25))]
    assert np.min(ends, axis=0) == pytest.approx([0, 0, 0], abs=1e-9)
    assert np.max(ends, axis=0) == pytest.approx([x, y, found.height_mm])
    # What is up is up, and nothing is mirrored: the corner and its three neighbours keep their
    # hand.
    axis, sign = "XYZ".index(up[1]), 1 if up[0] == "+" else -1
    middle = [30.0, 25.0, 12.5]
    top = list(middle)
    top[axis] += sign * 5
    assert found.place(*top)[2] - found.place(*middle)[2] == pytest.approx(5)
    steps = [
        np.subtract(found.place(*(np.eye(3)[k] * 5 + middle)), found.place(*middle))
        for k in range(3)
    ]
    assert np.linalg.det(np.array(steps)) == pytest.approx(125)


def test_upside_down_the_outline_is_mirrored(as_drawn):
    part = _part(
        outline={
            "shape": {"kind": "L", "width_mm": 60, "depth_mm": 50, "leg_x_mm": 18, "leg_y_mm": 12}
        }
    )
    turned = _sits(part, "-Z").outline
    assert turned.contains(
        Polygon([(50, 40), (59, 40), (59, 49)])
    )  # the upright leg is on the right now
    assert turned.area == pytest.approx(_sits(part, "+Z").outline.area)


# ---- requests of the first version


def test_a_request_of_version_one_is_brought_up_to_date_and_planned():
    old = json.loads((Path(__file__).parents[1] / "plan_request_v1.json").read_text())
    request = PlanRequest.model_validate(old)
    assert request.version == 2
    assert (request.part.name, views_of(request)[0].op.cuts[0].kind) == (
        old["part"]["name"],
        "contour",
    )
    assert views_of(request)[0].judged[0].tolerance_mm == old["tolerance"]["zone_mm"]
    assert plan(request).feasible
    with pytest.raises(ValueError, match="axial_depth_mm"):
        PlanRequest.model_validate({**old, "cut": {**old["cut"], "axial_depth_mm": -1}})
