"""Clamp elements: forces against statics and published figures, grips on parts against closed
forms, and what is refused.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from tests.core.independent import faults
from tests.core.station.test_station import _request
from wedgecraft.core.clamping.elements.dovetail import Dovetail
from wedgecraft.core.clamping.elements.edge_clamp import ToothedToe
from wedgecraft.core.clamping.elements.expanding_pin import SEGMENTS, ExpandingPin
from wedgecraft.core.clamping.elements.pull_stud import PullStud
from wedgecraft.core.clamping.elements.strap import Strap
from wedgecraft.core.clamping.elements.threaded_rod import Rod
from wedgecraft.core.clamping.elements.vacuum import Vacuum
from wedgecraft.core.clamping.forces import clamp_forces
from wedgecraft.core.clamping.screw import screw_forces_n, short_form_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.clamp import ClampRequest, ScrewDriven, ViseForce
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.element import ELEMENTS, picked_names
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.screw import SCREWS, EdgeClamp
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import catalogue
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.station.stood import stood

pytestmark = pytest.mark.usefixtures("as_drawn")

DRILL = {
    "name": "T5 drill",
    "kind": "drill",
    "at": [[12, 10]],
    "tool": {"name": "Drill 5", "kind": "drill", "diameter_mm": 5, "teeth": 2},
    "axial_depth_mm": 5,
    "radial_width_mm": 5,
    "feed_per_tooth_mm": 0.05,
    "spindle_rpm": 4000,
}


def _asked(element, *, cuts=(DRILL,), hole=12.0, clamps=1, torque=10.0, **more) -> PlanRequest:
    """A ring-like block 60 x 40 x 20 with a round hole in its middle, drilled beside it."""
    given = _request().model_dump(mode="json")
    circle = shapely.Point(30, 20).buffer(hole / 2, quad_segs=16).exterior
    outline = {
        "outer": [[0, 0], [60, 0], [60, 40], [0, 40]],
        "holes": [[list(point) for point in circle.coords[:-1]]],
    }
    given["quantity"] = 1000
    given["plate"] |= {"width_mm": 240, "depth_mm": 200}
    given["parts"][0] |= {"outline": outline, "height_mm": 20, "features": []}
    given["parts"][0]["ops"][0]["cuts"] = list(cuts)
    given["station"] |= {"element": element.model_dump(), "clamps": clamps} | more
    given["station"]["clamp"]["torque_nm"] = torque
    return PlanRequest.model_validate(given)


def _held(request: PlanRequest, loads: list[LoadCase], without: str = "nothing") -> float:
    item = ready(views_of(request)[0])
    preload = preload_of(views_of(request)[0], item.sitting, item.station).low_n
    contacts = [
        one
        for one in station_contacts(item.station, item.sitting, request.station, preload)
        if not one.name.startswith(without)
    ]
    return hold(
        HoldRequest(contacts=contacts, loads=loads, centre_of_gravity_mm=(30, 20, 10))
    ).factor


def test_every_element_turns_the_screws_force_as_statics_has_it():
    clamp = EdgeClamp(screw="M10", torque_nm=30, torque_scatter=0.2)
    low, high = screw_forces_n(clamp)
    strap = Strap(to_heel_mm=30, to_nose_mm=45).preload(clamp)
    assert (strap.low_n, strap.high_n) == pytest.approx(
        (low * 0.4, high * 0.4)
    )  # moments about the heel
    cone = {"cone_angle_deg": 10, "cone_friction_low": 0.1, "cone_friction_high": 0.1}
    pin = ExpandingPin(**cone).preload(clamp)
    # A cone of half angle a, friction rho: axial force over radial is tan(a + rho), as for a wedge.
    assert SEGMENTS * pin.low_n * math.tan(math.radians(10) + math.atan(0.1)) == pytest.approx(low)
    flank = Dovetail(flank_deg=60, friction=0.2)
    tail = flank.preload(clamp)
    # What pushes sideways is balanced by the flank's normal force and the friction on it.
    assert tail.low_n * (math.sin(math.pi / 3) + 0.2 * math.cos(math.pi / 3)) == pytest.approx(
        low * clamp.transmission
    )
    assert PullStud(ratio=1.5).preload(clamp).high_n == pytest.approx(1.5 * high)
    assert Rod().preload(clamp).low_n == pytest.approx(low)
    # 85 kPa on a tenth of a square metre carries 8.5 kN, less what is not sealed.
    vacuum = Vacuum(low_kpa=60, high_kpa=85, sealed_share=0.9)
    assert vacuum.preload(clamp, 1e5).high_n == pytest.approx(0.9 * 8500)
    assert ToothedToe().preload(clamp).low_n < ToothedToe().preload(clamp).high_n


def test_short_form_and_vise_agree_with_their_definitions_the_long_form_lies_near():
    """K = 0.2 for dry steel (handbooks): the long form at friction 0.15 to 0.16 gives nearly the
    same for every size.
    """
    assert short_form_n(20, 10) == pytest.approx(10_000)
    for size, screw in SCREWS.items():
        half = screw.rated_torque_nm / 2
        low, high = screw_forces_n(
            EdgeClamp(
                screw=size,
                torque_nm=half,
                torque_scatter=0,
                screw_friction_low=0.14,
                screw_friction_high=0.16,
            )
        )
        assert 0.9 * low < short_form_n(half, screw.nominal_mm) < 1.1 * high
    answer = clamp_forces(
        ClampRequest(
            clamp=ViseForce(rated_force_n=30_000, rated_torque_nm=60, torque_nm=30, scatter=0.1)
        )
    )
    assert (answer.low_n, answer.high_n) == pytest.approx((13_500, 16_500))


@pytest.mark.parametrize("kind", ELEMENTS.names)
def test_every_kind_can_be_asked_for_its_forces_low_below_high(kind):
    asked = ClampRequest.model_validate(
        {"clamp": {"kind": "screw", "element": {"kind": kind}, "area_mm2": 10_000}}
    )
    assert isinstance(asked.clamp, ScrewDriven)
    answer = clamp_forces(asked)
    assert 0 < answer.low_n < answer.high_n
    assert answer.way
    assert answer.formula


@pytest.mark.parametrize(
    ("clamp", "field"),
    [
        ({"torque_nm": 60}, "clamp.torque_nm"),
        ({"friction_low": 0.3, "friction_high": 0.1}, "clamp.friction_low"),
        ({"element": {"kind": "vacuum", "low_kpa": 90}, "area_mm2": 1e4}, "clamp.element.low_kpa"),
    ],
)
def test_a_clamp_by_itself_is_refused_by_a_field_of_its_own_document(clamp, field):
    asked = ClampRequest.model_validate({"clamp": {"kind": "screw"} | clamp})
    with pytest.raises(OutOfRange) as refused:
        clamp_forces(asked)
    assert refused.value.field == field
    node = asked.model_dump()
    for key in field.split("."):
        node = node[key]  # it is there


def test_a_part_under_one_strap_slides_at_twice_the_friction_of_its_force():
    """The closed form of the trade: nose and plate each rub with mu F. The stops, far side, push
    back only.
    """
    strap = Strap(friction=0.2)
    request = _asked(strap, floor_friction=0.2)
    pull = LoadCase(name="away from both stops", point_mm=(56, 20, 10), force_n=(100.0, 0.0, 0.0))
    force = strap.preload(request.station.clamp).low_n
    # At the limit the part also rubs along the front stop: both pull a little aside onto it, which
    # gives sqrt(1 + mu^2) at the very most.
    slides = 2 * 0.2 * force / 100
    assert slides <= _held(request, [pull]) <= slides * math.sqrt(1 + 0.2**2)


def test_an_expanding_pin_slips_round_at_its_friction_times_radius_and_cannot_brace_itself():
    pin = ExpandingPin(friction=0.15)
    request = _asked(pin)
    force = pin.preload(request.station.clamp).low_n
    twist = LoadCase(
        name="twist", point_mm=(30, 20, 10), force_n=(0.0, 0.0, 1e-6), moment_nmm=(0.0, 0.0, 1000.0)
    )
    most = 0.15 * SEGMENTS * force * 6 / 1000
    found = _held(request, [twist], without="plate")
    assert 0.9 * most < found <= most * (1 + 1e-6)
    lift = LoadCase(name="lift", point_mm=(30, 20, 10), force_n=(0.0, 0.0, 100.0))
    assert (
        0.9 * 0.15 * SEGMENTS * force / 100
        < _held(request, [lift])
        <= 0.15 * SEGMENTS * force / 100 * (1 + 1e-6)
    )
    twice = _asked(pin, torque=5)
    assert _held(twice, [twist], without="plate") == pytest.approx(found / 2, rel=1e-6)


@pytest.mark.parametrize(
    ("element", "pull"), [(PullStud(ratio=1.0), 1.0), (Rod(), 1.0), (Vacuum(), None)]
)
def test_what_pulls_down_is_lifted_by_just_its_force(element, pull):
    request = _asked(element)
    item = ready(views_of(request)[0])
    force = preload_of(views_of(request)[0], item.sitting, item.station).low_n
    if pull is not None:
        assert force == pytest.approx(screw_forces_n(request.station.clamp)[0] * pull)
    presses = item.station.members[0].presses
    middle = [sum(press.share * press[axis] for press in presses) for axis in (0, 1)]
    lift = LoadCase(name="lift", point_mm=(*middle, 20), force_n=(0.0, 0.0, 1000.0))
    # Stops rub a little where there are any; nothing else holds against lifting.
    assert _held(request, [lift]) == pytest.approx(force / 1000, rel=0.02)


@pytest.mark.parametrize(
    "element", [Strap(), ExpandingPin(), Rod(), PullStud(), Dovetail(), ToothedToe(), Vacuum()]
)
def test_a_face_of_each_kind_is_planned_and_stands_an_independent_check(element):
    light = DRILL | {
        "tool": DRILL["tool"] | {"diameter_mm": 0.8},
        "radial_width_mm": 0.8,
        "feed_per_tooth_mm": 0.01,
    }
    request = _asked(element, torque=14, cuts=[light if isinstance(element, Vacuum) else DRILL])
    problem = layout_request(request, [ready(views_of(request)[0])])
    found = layout(problem.model_copy(update={"effort": 0.2}))
    assert faults(problem, found) == []
    assert found.bound >= found.sets > 0
    result = plan(request)
    assert result.hold is not None
    assert result.feasible, result.reasons
    design = result.designs[0]
    assert design.count >= found.sets
    assert design.kinds[0].drawing.bodies
    assert result.hold.release
    assert bool(result.hold.cautions) == (element.kind != "dovetail")
    assert any("give_" in figure.id for figure in result.figures)
    if isinstance(element, PullStud | ExpandingPin):
        assert not design.kinds[0].drawing.stops
    if isinstance(element, Vacuum):
        assert result.hold.least_torque_nm is None
        assert not result.hold.torque


def test_an_opened_strap_needs_its_room_behind_and_nothing_stands_over_the_part_then():
    request = _asked(Strap(nose_mm=9))
    station = build_station(stood(views_of(request)[0]), request.station)
    shut = [layer for layer in station.layers if layer.role == "body" and layer.name == "clamp"]
    opened = next(layer for layer in station.layers if layer.name == "clamp, open")
    right = max(x for layer in shut for x, _ in layer.outer)
    assert min(x for layer in shut for x, _ in layer.outer) == 60 - 9
    assert min(x for x, _ in opened.outer) > 60
    assert max(x for x, _ in opened.outer) == pytest.approx(right + 10)


CONTOUR = {
    "name": "T1 outside",
    "tool": {"name": "End mill 10", "diameter_mm": 10, "teeth": 3},
    "axial_depth_mm": 8,
    "radial_width_mm": 1,
    "feed_per_tooth_mm": 0.05,
    "spindle_rpm": 9000,
}
FACE = CONTOUR | {"name": "T2 face", "kind": "face", "axial_depth_mm": 1, "radial_width_mm": 6}


@pytest.mark.parametrize(
    ("element", "more", "field"),
    [
        (
            Strap(),
            {"cuts": [CONTOUR | {"axial_depth_mm": 5}]},
            "station.element.kind",
        ),  # the cutter would run into the strap
        (Rod(), {"cuts": [FACE]}, "station.element.kind"),
        (ExpandingPin(), {"hole": 14.0}, "station.element.least_mm"),
        (ExpandingPin(), {"clamps": 2}, "station.clamps"),
        (ExpandingPin(least_mm=11.98), {}, "station.element.least_mm"),  # could not be drawn off
        (ExpandingPin(grip_mm=25), {}, "station.element.grip_mm"),
        (Rod(washer_mm=13), {}, "station.element.washer_mm"),
        (PullStud(seat_mm=45), {}, "station.element.seat_mm"),
        (Dovetail(depth_mm=20), {}, "station.element.depth_mm"),
        (Vacuum(border_mm=25), {}, "station.element.border_mm"),
        (Vacuum(low_kpa=90), {}, "station.element.low_kpa"),
        (Strap(), {"sharing": {"how": "one clamp for two"}}, "station.sharing.how"),
        (ToothedToe(), {"torque": 60}, "station.clamp.torque_nm"),
    ],
)
def test_what_does_not_go_together_is_refused_with_its_field(element, more, field):
    result = plan(_asked(element, **more))
    assert not result.feasible
    assert result.reasons[0].field == field, result.reasons[0]


def test_a_pin_stands_inside_a_contour_and_gives_more_parts_than_a_clamp_beside_the_part():
    cuts = [CONTOUR | {"axial_depth_mm": 5}]
    aside, inside = (
        plan(_asked(ToothedToe(), cuts=cuts, torque=14)),
        plan(_asked(ExpandingPin(), cuts=cuts, torque=20)),
    )
    assert aside.feasible, aside.reasons
    assert inside.feasible, inside.reasons
    assert inside.designs[0].count > aside.designs[0].count


def test_every_clamp_of_the_shop_can_be_put_on_a_station():
    picks = catalogue()
    kinds = {pick.element.kind for pick in picks.elements}
    assert kinds == set(picked_names()) - {"edge clamp"}
    for pick in picks.elements:
        request = _asked(pick.element)
        station = request.station.model_copy(update={"clamp": pick.clamp})
        assert (
            plan(request.model_copy(update={"station": station})).hold is not None
            or pick.element.kind == "expanding pin"
        )
    assert np.all([pick.clamp.opens_mm > 0 for pick in picks.elements])
