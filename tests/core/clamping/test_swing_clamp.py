"""A swing clamp: its force by statics, how a part slides under it, and where its arm goes."""

from __future__ import annotations

import math

import pytest
from shapely import affinity
from shapely.geometry import Polygon

from tests.core.clamping.test_elements import CONTOUR, _asked, _held
from tests.core.independent import as_result, faults
from wedgecraft.core.clamping.elements.swing_clamp import SwingClamp
from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.view import views_of

pytestmark = pytest.mark.usefixtures("as_drawn")


def test_the_post_in_its_guide_takes_what_statics_says():
    """Forces and moments on arm and post by themselves: nothing may be left over."""
    clamp, element = EdgeClamp(screw="M10", torque_nm=30), SwingClamp(guide_friction=0.15)
    low, high = screw_forces_n(clamp)
    nose = element.preload(clamp).low_n
    sideways = nose * element.arm_mm / element.guide_mm  # at either end of the guide
    assert low - nose - 2 * 0.15 * sideways == pytest.approx(0, abs=1e-9)
    assert element.preload(clamp).high_n == pytest.approx(high)
    # A long guide loses nothing; where the arm stands far out of a short one little is left.
    assert SwingClamp(guide_mm=500, guide_friction=0.02).preload(clamp).low_n > 0.99 * low
    assert SwingClamp(guide_mm=5, guide_friction=0.5).preload(clamp).low_n < 0.3 * low


def test_a_part_under_it_slides_at_twice_the_friction_of_its_force():
    element = SwingClamp(friction=0.2)
    request = _asked(element, floor_friction=0.2)
    pull = LoadCase(name="away from both stops", point_mm=(56, 20, 10), force_n=(100.0, 0.0, 0.0))
    slides = 2 * 0.2 * element.preload(request.station.clamp).low_n / 100
    assert slides <= _held(request, [pull]) <= slides * math.sqrt(1 + 0.2**2)


def test_it_is_planned_with_room_for_its_arm_and_refused_where_the_cutter_goes():
    request = _asked(SwingClamp(), torque=14)
    result = plan(request)
    assert result.feasible, result.reasons
    assert result.hold.cautions == [SwingClamp.caution]
    problem = layout_request(request, [ready(views_of(request)[0])])
    placed = [
        Placement(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
        for s in result.designs[0].stations
    ]
    assert faults(problem, as_result(placed)) == []
    station = ready(views_of(request)[0]).station
    (arm,) = [body for body in station.clamp_bodies if body.low_mm > 0]
    (aside,) = [layer for layer in station.layers if layer.name == "clamp, open"]
    # All along its quarter turn the arm is in the room kept free, and ends clear of the part.
    room, post = Polygon(aside.outer).buffer(1e-6), station.screws[0]
    for angle in range(0, 91, 3):
        turned = affinity.rotate(arm.polygon, -angle, origin=post)
        assert room.covers(turned), angle
    assert turned.distance(station.part) > 0
    # A cutter that goes round the part would run into it.
    round_it = _asked(SwingClamp(), cuts=[CONTOUR | {"axial_depth_mm": 5}])
    reason = plan(round_it).reasons[0]
    assert (reason.field, reason.what) == ("station.element.kind", "swing clamp is not possible")
    assert "the swing clamp stands 34 mm high" in reason.why
