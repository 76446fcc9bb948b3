"""Ops of several cuts, turned parts, kits and several features, from the hold of a twist to whole
plans.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from tests.core.plan.test_job import _sound, _with
from wedgecraft.core.clamping.screw import edge_clamp_preload
from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.cut import CuttingRequest
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import catalogue, edge_clamp, named, starting_request, stop
from wedgecraft.core.station.contacts import station_loads
from wedgecraft.core.station.stood import stood

pytestmark = pytest.mark.usefixtures("as_drawn")

DRILL = {
    "name": "T5 hole",
    "kind": "drill",
    "axial_depth_mm": 20,
    "feed_per_tooth_mm": 0.05,
    "spindle_rpm": 6000,
    "at": [(15, 12), (45, 28)],
    "tool": {"kind": "drill", "diameter_mm": 6, "teeth": 2, "flute_length_mm": 40},
}
FACE = {
    "name": "T1 top",
    "kind": "face",
    "axial_depth_mm": 1,
    "radial_width_mm": 14,
    "feed_per_tooth_mm": 0.08,
    "spindle_rpm": 8000,
    "tool": {
        "kind": "face mill",
        "diameter_mm": 20,
        "teeth": 3,
        "helix_deg": 0,
        "entering_deg": 45,
        "flute_length_mm": 5,
    },
}


def _small(**changes) -> PlanRequest:
    base = starting_request("Block", 400)
    # Blanks whose sides stay as they are sawn hold no bore nearer than this.
    base = _with(
        base, parts__0__features=[base.part.features[0].model_dump() | {"tolerance_mm": 0.4}]
    )
    return _with(base, plate__width_mm=260, plate__depth_mm=220, plate__keepouts=[], **changes)


def _op(request: PlanRequest, cuts: list, **op) -> PlanRequest:
    ops = [request.part.ops[0].model_dump() | op | {"cuts": cuts}]
    return _with(request, parts__0__ops=ops)


@settings(max_examples=40, deadline=None)
@given(
    st.floats(10, 80),
    st.floats(10, 80),
    st.floats(0.05, 0.6),
    st.floats(500, 20_000),
    st.floats(1, 60),
)
def test_a_twist_under_one_strap_slips_at_friction_times_preload_times_arm(
    a, b, friction, preload, twist_nm
):
    """Four supports at the corners, a strap in the middle: all supports slide round the middle
    together.
    """
    floor = [
        Contact(
            name=f"floor {x} {y}",
            kind="locator",
            point_mm=(x * a, y * b, 0),
            normal=(0, 0, 1),
            friction=friction,
        )
        for x in (-1, 1)
        for y in (-1, 1)
    ]
    strap = Contact(
        name="strap",
        kind="clamp",
        point_mm=(0, 0, 30),
        normal=(0, 0, -1),
        friction=friction,
        preload_n=preload,
    )
    load = LoadCase(
        name="drill", point_mm=(0, 0, 30), force_n=(0, 0, 0), moment_nmm=(0, 0, -1000 * twist_nm)
    )
    exact = friction * preload * math.hypot(a, b) / (1000 * twist_nm)
    found = hold(HoldRequest(contacts=[*floor, strap], loads=[load])).factor
    # Cones of eight sides lie inside the true ones: never above, at most 1 - cos(22.5°) below.
    assert min(exact, 1000) * math.cos(math.pi / 8) - 1e-6 <= found <= min(exact, 1000) + 1e-6


def test_hole_cuts_load_the_part_at_their_holes_with_thrust_and_twist():
    request = _op(_small(), [DRILL])
    cut = views_of(request)[0].op.cuts[0]
    load = cutting_load(CuttingRequest(material=request.part.material, cut=cut))
    sitting = stood(views_of(request)[0])
    cases = station_loads(sitting, sitting.cuts[0], sitting.guides[0], load)
    assert {case.point_mm[:2] for case in cases} == {(15.0, 12.0), (45.0, 28.0)}
    assert {case.point_mm[2] for case in cases} == {25.0, 5.0}
    assert {case.force_n[:2] for case in cases} == {(0.0, 0.0)}
    assert {case.force_n[2] for case in cases} == {load.pull_peak_n, -load.push_peak_n}
    assert all(case.moment_nmm == (0, 0, -1000 * load.twist_nm) for case in cases)
    only = plan(request)
    assert only.feasible
    assert only.hold.by_direction == []
    _sound(request, only.designs[0])


def test_every_cut_of_an_op_counts_and_none_makes_it_easier():
    contour = views_of(_small())[0].op.cuts[0].model_dump()
    alone = plan(_op(_small(), [contour]))
    every = plan(_op(_small(), [FACE, contour, DRILL]))
    assert every.hold.result.factor <= alone.hold.result.factor + 1e-9
    assert every.hold.result.factor == pytest.approx(
        min(plan(_op(_small(), [cut])).hold.result.factor for cut in (FACE, contour, DRILL)),
        rel=1e-6,
    )
    design = every.designs[0]
    assert design.count <= alone.designs[0].count
    assert design.cut_seconds == pytest.approx(sum(item.seconds for item in every.loads))
    assert [item.name for item in every.loads] == ["T1 top", "T1 contour", "T5 hole"]
    _sound(_op(_small(), [FACE, contour, DRILL]), design)


def test_the_cutter_passes_over_neighbours_that_are_low_and_keeps_off_those_that_are_not():
    """A shallow cut with a large face mill sweeps over the clamps next door; a deep one may not."""
    low = plan(_op(_small(), [FACE])).designs[0]
    deep = _op(
        _small(),
        [FACE | {"axial_depth_mm": 4, "passes": 3, "tool": FACE["tool"] | {"diameter_mm": 20}}],
    )
    assert low.count >= plan(deep).designs[0].count
    refused = plan(_op(_small(), [FACE | {"axial_depth_mm": 5, "passes": 3}]))
    assert refused.reasons[0].field == "station.stops.height_mm"


def test_the_tightest_of_several_features_decides_and_each_station_names_the_one_that_is_worst():
    def planned(*features):
        listed = [
            {"name": name, "x_mm": x, "y_mm": y, "tolerance_mm": tolerance, "measured_from": source}
            | ({"from_feature": "near"} if source == "feature" else {})
            for name, x, y, tolerance, source in features
        ]
        request = _small(parts__0__features=listed)
        return request, plan(request).designs[0]

    near, far = ("near", 10, 10, 0.06, "fixture datum"), ("far", 55, 35, 0.05, "fixture datum")
    both = planned(near, far)[1]
    assert both.count <= min(planned(near)[1].count, planned(far)[1].count)
    assert {station.feature for station in both.stations} == {"far"}
    request, design = planned(near, ("inner", 20, 20, 0.02, "feature"))
    assert [feature.name for feature in views_of(request)[0].judged] == ["near", "inner"]
    assert (
        design.count == planned(near)[1].count
    )  # a place measured from what the same clamping cuts moves with it
    impossible = _small(
        parts__0__features=[{"name": "near", "x_mm": 10, "y_mm": 10, "tolerance_mm": 0.01}]
    )
    assert "less than the machine itself" in plan(impossible).reasons[0].what
    loose = planned()[1]
    assert all(station.feature == "" and station.tolerance_share == 0 for station in loose.stations)
    assert "tolerance" not in {limit.id for limit in loose.limits}


@pytest.mark.parametrize("up", ["-Z", "+X", "-Y"])
def test_a_turned_part_is_laid_out_as_it_sits(up):
    shape = {"shape": {"kind": "L", "width_mm": 60, "depth_mm": 50, "leg_x_mm": 20, "leg_y_mm": 20}}
    request = _with(_small(), parts__0__outline=shape, parts__0__height_mm=40)
    cut = views_of(request)[0].op.cuts[0].model_dump() | {"axial_depth_mm": 4}
    request = _op(request, [cut], up=up)
    result = plan(request)
    assert result.feasible, result.reasons
    design = result.designs[0]
    _sound(request, design)
    sitting = stood(views_of(request)[0])
    drawn = Polygon(design.kinds[0].drawing.part[0], design.kinds[0].drawing.part[1:])
    assert drawn.equals(sitting.outline)
    feature = views_of(request)[0].judged[0]
    assert design.kinds[0].drawing.features[0] == pytest.approx(
        sitting.place(feature.x_mm, feature.y_mm, 20)[:2]
    )


def test_a_kit_needs_its_parts_as_often_as_it_holds_them():
    base = _small()
    jaw = base.parts[0].model_dump() | {"name": "jaw", "per_kit": 3}
    kit = _with(
        base, quantity=2, parts=[base.parts[0].model_dump(), jaw], planned={"part": 1, "op": 0}
    )
    assert (kit.part.name, kit.wanted) == ("jaw", 6)
    assert plan(kit).designs[0].count == 6
    assert plan(_with(kit, planned={"part": 0, "op": 0})).designs[0].count == 2
    for wrong in ({"part": 2, "op": 0}, {"part": 0, "op": 1}):
        with pytest.raises(ValueError, match="counted from 0"):
            _with(kit, planned=wrong)


def test_clamps_and_stops_of_the_shop_come_onto_a_station_with_their_figures():
    picks = catalogue()
    sizes = ("M6", "M8", "M12", "#10-32", "1/4-20", "5/16-18", "3/8-16", "1/2-13")
    assert {pick.name for pick in picks.edge_clamps} == {f"Edge clamp {size}" for size in sizes}
    element = named("clamp", "Edge clamp M8")
    clamp = edge_clamp(element, "id")
    assert (clamp.screw, clamp.torque_nm, clamp.toe_friction, clamp.shop_id) == (
        "M8",
        element.torque_nm,
        element.friction,
        "id",
    )
    assert edge_clamp_preload(clamp).low_n > 0
    assert stop(named("locator", "Stop, 20 x 10 mm")).length_mm == 20
    forces = [
        edge_clamp_preload(pick.clamp).low_n
        for pick in sorted(picks.edge_clamps, key=lambda pick: pick.clamp.width_mm)
    ]
    assert np.all(np.diff(forces) > 0)  # a larger screw presses harder
    for pick in picks.edge_clamps:
        assert (
            plan(_small(station__clamp=pick.clamp.model_dump(), parts__0__height_mm=40)).hold
            is not None
        )
