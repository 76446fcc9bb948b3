"""Grip depth: closed forms of the vise, a scan over all depths, and what no depth can hold."""

from __future__ import annotations

import math

import pytest
from shapely.geometry import Polygon, box

from wedgecraft.core.clamping.pressure import hertz_line
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.grip_depth import factor_at, grip
from wedgecraft.core.hold.in_vise import _between_jaws, _gripped
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.material import HOLDER_YOUNGS_MPA
from wedgecraft.core.records.vise import GripRequest
from wedgecraft.core.workpiece.body import cylinder, prism, united
from wedgecraft.core.workpiece.sitting import Sitting


def _request(*forces, at=(30.0, 20.0, 30.0), **more) -> GripRequest:
    loads = [
        LoadCase(name=f"load {k}", point_mm=at, force_n=force) for k, force in enumerate(forces)
    ]
    usual = {
        "width_mm": 60,
        "along_mm": 40,
        "height_mm": 30,
        "jaw_mm": 25,
        "force_low_n": 10_000,
        "force_high_n": 15_000,
        "friction": 0.2,
        "bed_friction": 0.0,
        "yield_mpa": 275,
        "loads": loads,
    }
    return GripRequest.model_validate(usual | more)


@pytest.mark.parametrize("depth", [2.0, 10.0, 25.0])
def test_pulled_straight_out_it_holds_twice_friction_times_force_at_any_depth(depth):
    """Closed form of the vise: both jaws rub, 2 mu F, and the weight helps."""
    assert factor_at(_request((0, 0, 2000), at=(30, 20, 15), weight_n=100), depth) == pytest.approx(
        (2 * 0.2 * 10_000 + 100) / 2000
    )


def test_pushed_along_the_jaws_in_the_middle_of_the_patch_it_slides_at_twice_friction_times_force():
    # Inscribed cones of eight sides lose nothing along an edge of the cone, and at most 8 %
    # between.
    factor = factor_at(_request((0, 1000, 0), at=(30, 20, 5)), 10.0)
    assert 0.92 * 4.0 <= factor <= 4.0 + 1e-6


def test_the_least_depth_is_where_a_scan_over_all_depths_finds_it():
    request = _request(
        (0, 900, 250),
        (1500, 0, 250),
        (-1500, 0, 250),
        needed=2.0,
        force_high_n=10_001,
        yield_mpa=2000,
    )
    found = grip(request)
    scan = [step * 0.05 for step in range(1, 501) if factor_at(request, step * 0.05) >= 2.0]
    assert found.feasible
    assert found.limited_by == "hold"
    assert found.least_mm == pytest.approx(scan[0])
    assert len(scan) == 501 - round(scan[0] / 0.05)  # deeper always holds: bisection misses nothing
    factors = [point.factor for point in found.curve]
    assert factors == sorted(factors)


def test_a_light_cut_in_a_soft_part_is_limited_by_pressure_in_closed_form():
    found = grip(_request((0, 100, 10), yield_mpa=60, lowest_cut_mm=5))
    assert found.limited_by == "pressure"
    assert found.least_mm == pytest.approx(math.ceil(15_000 / (40 * 60) / 0.05) * 0.05)
    assert found.feasible is False  # 6.25 mm of grip, and the cutter comes to 5 mm
    assert found.clears is False
    assert "into the jaws" in found.sentence


def test_what_no_depth_holds_is_said_and_jaws_above_the_part_are_refused():
    heavy = grip(_request((0, 9000, 500)))
    assert (heavy.feasible, heavy.least_mm, heavy.limited_by) == (
        False,
        None,
        "not held at any depth",
    )
    soft = grip(_request((0, 10, 1), yield_mpa=5))
    assert soft.limited_by == "crushed at any depth"
    assert "less force" in soft.sentence
    with pytest.raises(OutOfRange, match="jaws stand above the part"):
        grip(_request((0, 10, 1), jaw_mm=31))
    with pytest.raises(OutOfRange, match="at most force_high_n"):
        grip(_request((0, 10, 1), force_low_n=20_000))


def test_less_than_the_house_counts_is_no_grip_and_jaws_lower_than_that_hold_nothing():
    assert (grip(_request((0, 100, 10))).least_mm or 9) < 3
    found = grip(_request((0, 100, 10), least_mm=3))
    assert (found.least_mm, found.limited_by) == (3, "house rule")
    low = grip(_request((0, 100, 10), least_mm=3, jaw_mm=2))
    assert (low.feasible, low.least_mm) == (False, None)
    assert "higher jaws" in low.sentence


def test_a_part_longer_than_its_jaws_lies_amid_them_and_its_weight_where_it_is():
    """Turned over about the jaws' middle it is held alike; a weight out of the middle is not what
    one amid them is.
    """
    amid = [
        _request((0, 900, 250), at=(30, y, 30), centre_mm=20, weight_n=400) for y in (-30.0, 70.0)
    ]
    amid[1] = amid[1].model_copy(
        update={"loads": [LoadCase(name="mirrored", point_mm=(30, 70, 30), force_n=(0, -900, 250))]}
    )
    assert factor_at(amid[0], 6.0) == pytest.approx(factor_at(amid[1], 6.0), rel=1e-4)
    aside = [amid[0].model_copy(update={"centre_mm": centre}) for centre in (20.0, 60.0)]
    assert factor_at(aside[0], 6.0) != pytest.approx(factor_at(aside[1], 6.0), rel=1e-3)


def _between(body, force_n=8000.0, jaw_width=125.0, jaw_height=12.0):
    """What jaws touch of a body that stands between them."""
    part = prism(box(0, 0, 60, 40), 0, 20)  # only where the workpiece comes from
    sitting = Sitting(None, 0, jaw_height)
    for name, value in (("before", body), ("after", body), ("part", part)):
        sitting.__dict__[name] = value
    along = _between_jaws(sitting, jaw_height, jaw_width)
    at = (body.box[3] / 2, sum(along) / 2, 30.0)
    request = _request(
        (0, 0, 2000),
        at=at,
        width_mm=body.box[3],
        force_low_n=force_n,
        force_high_n=force_n,
        jaw_mm=jaw_height,
    )
    return request, _gripped(request, sitting, along, 69_000), along


@pytest.mark.parametrize(
    ("outline", "area"),
    [
        (Polygon([(0, 0), (60, 0), (60, 15), (20, 15), (20, 25), (60, 25), (60, 40), (0, 40)]), 30),
        (Polygon([(0, 0), (60, 0), (60, 200), (0, 200)]), 125),
        (Polygon([(0, 0), (60, 0), (60, 14), (20, 14), (20, 46), (0, 46)]), 14),
    ],
    ids=["fork", "longer than the jaws", "ell"],
)
def test_jaws_press_on_what_there_is_between_them(outline, area):
    """Pulled straight out, twice friction times force whatever the slice; crushed by force over
    what both jaws touch.
    """
    request, held, _ = _between(prism(outline, 0, 20))
    assert held.area_mm2(4.0) == pytest.approx(4 * area)
    soft = grip(request.model_copy(update={"yield_mpa": 60, "needed": 1.0}), held)
    assert soft.limited_by == "pressure"
    assert soft.least_mm == pytest.approx(math.ceil(8000 / (area * 60) / 0.05) * 0.05)
    assert soft.curve[-1].factor == pytest.approx(2 * 0.2 * 8000 / 2000, rel=1e-6)


def test_a_round_between_jaws_is_pressed_in_two_lines_by_hertz():
    request, held, _ = _between(cylinder((24, 24, 0), 30, 24).moved(0.0013, 0.0013, 0))
    half, _ = hertz_line(8000, 6, 24, 69_000, HOLDER_YOUNGS_MPA)
    assert held.area_mm2(6.0) == pytest.approx(2 * half * 6, rel=5e-3)
    assert [item.point_mm[1] for item in held.contacts(6.0)[-2:]] == pytest.approx(
        [24, 24], abs=0.7
    )
    pushed = LoadCase(name="turned", point_mm=(24, 24, 20), force_n=(0, 600, 0))
    assert not grip(request.model_copy(update={"loads": [pushed]}), held).feasible


@pytest.mark.parametrize(
    "body",
    [
        cylinder((24, 24, 0), 30, 24),
        united([prism(box(20, 0, 40, 80), 0, 20), prism(box(0, 39.5, 60, 40.5), 0, 20)]),
        prism(Polygon([(0, 29.5), (30, 0), (60, 29.5), (60, 30.5), (30, 60), (0, 30.5)]), 0, 20),
    ],
    ids=["round", "cross", "rhombus"],
)
@pytest.mark.parametrize("share", [0.75, 0.9, 1.0])
def test_lifted_at_one_end_it_turns_in_the_jaws_about_the_other_end_of_its_foot(body, share):
    """Upper bound of plastic limit analysis, exact for a turn about a known pivot: what rubs at
    both jaws, each point with mu N, times how far it is from the foot's far end, over the lift's
    arm.
    Inscribed cones of eight sides lose at most 8 % of it.
    """
    request, held, _ = _between(body)
    width, length = body.box[3:5]
    lift = LoadCase(name="lift", point_mm=(width / 2, share * length, 20), force_n=(0, 0, 1000))
    found = grip(request.model_copy(update={"loads": [lift], "needed": 1.0}), held)
    bed = [item.point_mm for item in held.contacts(12.0) if item.name.startswith("bed")]
    pivot = min(y for _, y, _ in bed)
    arms = [math.hypot(length / 2 - pivot, z) for z in (0.0, 12.0)]
    turns = 2 * 0.2 * 8000 * sum(arms) / 2 / (share * length - pivot) / 1000
    assert 0.92 * turns <= found.curve[-1].factor <= 1.001 * turns


def test_jaws_stand_amid_what_both_touch_and_not_where_nothing_lies_opposite():
    ell = Polygon([(0, 0), (60, 0), (60, 14), (20, 14), (20, 46), (0, 46)])
    assert _between(prism(ell, 0, 20))[2] == (7 - 62.5, 7 + 62.5)
    apart = Polygon([(0, 0), (60, 30), (60, 46), (30, 46), (0, 15)])
    with pytest.raises(OutOfRange, match="do not lie opposite"):
        _between(prism(apart, 0, 20))
    flanged = united([prism(box(0, 0, 60, 40), 0, 5), prism(box(10, 5, 50, 35), 5, 20)])
    assert _between(flanged)[1].area_mm2(12.0) == pytest.approx(5 * 40)  # the body is not touched
