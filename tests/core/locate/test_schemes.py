"""Every way of locating a part of a station: freedoms, closed forms of the textbooks, what holds
it, what is refused.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point

from tests.core.plan.test_job import _with
from tests.core.plan.test_ops import DRILL, FACE
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.fits import limits_mm
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.report import verdicts
from wedgecraft.core.locate.sources import rigid_stack
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.verdicts import VerdictsRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts
from wedgecraft.core.station.locating.pins import PinAndDiamondPin
from wedgecraft.core.station.pins import pinned
from wedgecraft.core.station.stood import stood
from wedgecraft.core.station.vee import middle_shift_mm

pytestmark = pytest.mark.usefixtures("as_drawn")

HOLES = ((10, 10), (50, 30))
MIDDLE = DRILL | {"at": [(30, 20)]}


def _ring(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    return [
        (float(a), float(b))
        for a, b in np.array(Point(x, y).buffer(radius, quad_segs=16).exterior.coords)[:-1]
    ]


def _plate(**changes) -> PlanRequest:
    """A plate with two 8 mm holes, drilled in its middle, straps on it."""
    outline = {
        "outer": [(0, 0), (60, 0), (60, 40), (0, 40)],
        "holes": [_ring(*at, 4) for at in HOLES],
    }
    base = starting_request("Cover", 100)
    features = [base.part.features[0].model_dump() | {"tolerance_mm": 0.4}]
    return _with(
        base,
        parts__0__outline=outline,
        parts__0__ops__0__cuts=[MIDDLE],
        parts__0__features=features,
        station__element={"kind": "strap"},
        **changes,
    )


def _round(**changes) -> PlanRequest:
    base = starting_request("Hub", 100)
    features = [{"name": "Bore", "x_mm": 20, "y_mm": 20, "tolerance_mm": 0.9}]
    cut = DRILL | {"at": [(20, 20)]}
    return _with(
        base,
        parts__0__outline={"shape": {"kind": "round", "diameter_mm": 40}},
        parts__0__features=features,
        parts__0__ops__0__cuts=[cut],
        station__stops__length_mm=40,
        station__clamp__toe_hollow_mm=20.5,
        **changes,
    )


def _of(request: PlanRequest, member: int = 0):
    item = ready(views_of(request)[0])
    return item, item.locating.located[member]


def test_the_sides_of_a_block_are_3_2_1_and_what_the_long_stop_is_off_swings_it_by_its_length():
    item, found = _of(starting_request("Block", 10))
    assert (found.free, found.extra, len(found.locators)) == ([], 0, 6)
    far = next(
        source
        for source in found.sources
        if "far end" in source.why and source.name == "locators' place"
    )
    apart = 40.0 if item.view.station.stops.length_mm > 40 else item.view.station.stops.length_mm
    assert far.turn[2] == pytest.approx(-0.003 / apart)


def test_a_round_in_a_v_moves_out_by_half_its_change_over_the_sine_of_half_the_angle():
    """Change / (2 sin(angle / 2)): any text on fixtures; 0.707 of the change at 90 degrees."""
    assert middle_shift_mm(0.1, 90) == pytest.approx(0.0707, abs=1e-4)
    for angle in (60, 90, 120):
        item, found = _of(_round(station__locating={"kind": "V", "angle_deg": angle}))
        assert found.free == ["turn about Z"]
        assert "does not matter to a round part" in found.sentence
        # Geometry done again: a round of another size that touches both flanks.
        vee, half = item.station.vee, math.radians(angle / 2)
        for normal, touch in zip(vee.normals, vee.touches, strict=True):
            assert math.dist(touch, vee.middle) == pytest.approx(20, rel=1e-2)
            assert np.dot(np.array(vee.middle) - touch, normal) == pytest.approx(20, rel=1e-2)
        apex = vee.middle[0] - vee.radius_mm / math.sin(half)
        grown = apex + (vee.radius_mm + 0.05) / math.sin(half)
        assert grown - vee.middle[0] == pytest.approx(middle_shift_mm(0.1, angle))
        assert not item.station.vee.block.buffer(-0.05).intersects(item.station.part)
    assert plan(_round(station__locating={"kind": "V"})).feasible
    with pytest.raises(OutOfRange, match="round"):
        ready(views_of(_plate(station__locating={"kind": "V"}))[0])
    with pytest.raises(OutOfRange, match="tip to tip"):
        ready(
            views_of(_with(_round(station__locating={"kind": "V"}), station__stops__length_mm=20))[
                0
            ]
        )


def test_pins_give_the_play_of_their_fit_and_the_tilt_of_the_textbook():
    """Largest tilt: arctan of the sum of both largest clearances over twice their distance; any
    text on locating with two pins.
    """
    request = _plate(station__locating={"kind": "pin and diamond pin"})
    item, found = _of(request)
    assert (found.free, found.extra) == ([], 0)
    clearance = limits_mm(8, "H7")[1] - limits_mm(8, "g6")[0]
    apart = math.dist(*HOLES)
    pins = pinned(item.station.part, PinAndDiamondPin())
    assert pins.tilt_rad == pytest.approx(math.atan(2 * clearance / (2 * apart)), rel=1e-4)
    turns = [abs(source.turn[2]) for source in found.sources if source.name == "play on the pins"]
    across = np.array(HOLES[1], dtype=float) - HOLES[0]
    # Both ends opposite: the round pin's play across the line and the diamond's, each over the
    # distance, make the textbook's tilt.
    ends = (turns[0] * abs(across[1]) / apart + turns[1] * abs(across[0]) / apart) / (
        (across**2).sum() / apart**2
    ) + turns[2]
    assert ends == pytest.approx(pins.tilt_rad, rel=0.02)
    held = plan(request)
    assert held.feasible, held.reasons
    contacts = station_contacts(item.station, item.sitting, request.station, 1000)
    assert all(contact.friction == 0 for contact in contacts if "pin" in contact.name)
    assert not any("stop" in contact.name for contact in contacts)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"kind": "two round pins", "apart_mm": 0.03}, "some parts do not go on"),
        ({"kind": "pin and diamond pin", "pin": "p6"}, "would not come off"),
        ({"kind": "pin and diamond pin", "pin": "q9"}, "one of"),
        ({"kind": "pin and diamond pin", "least_mm": 9}, "two round holes"),
        ({"kind": "pin and diamond pin", "least_mm": 9, "most_mm": 4}, "at least 9"),
    ],
)
def test_pins_that_would_not_do_are_refused_with_the_reason(change, said):
    with pytest.raises(OutOfRange, match=said):
        ready(views_of(_plate(station__locating=change))[0])


def test_two_round_pins_near_enough_together_are_one_too_many_and_say_so():
    _, found = _of(_plate(station__locating={"kind": "two round pins", "apart_mm": 0.004}))
    assert found.extra == 1
    assert "a diamond pin is sure" in found.warnings[0]


def test_a_nest_has_its_clearance_for_play_until_the_part_is_pushed_into_a_corner():
    loose = _with(
        starting_request("Block", 10),
        station__locating={"kind": "profile nest", "clearance_mm": 0.05, "pushed": False},
    )
    item, found = _of(loose)
    play = [source for source in found.sources if source.name == "play in the nest"]
    middle = np.array([30, 20, 0.0])
    moves = rigid_stack(play, middle, [np.eye(3)]).moves[0]
    assert [tuple(move.round(6)) for move in moves] == [(0.025, 0, 0), (0, 0.025, 0), (0, 0, 0)]
    assert play[2].turn[2] == pytest.approx(0.05 / 60)
    pushed = _with(
        loose, station__locating={"kind": "profile nest", "clearance_mm": 0.05, "pushed": True}
    )
    assert not [source for source in _of(pushed)[1].sources if source.name == "play in the nest"]
    assert item.station.long_stop.bounds[3] == 40  # its walls go all along


def test_errors_add_up_along_a_row_of_neighbours():
    stock = {
        "kind": "ground plate",
        "x": {"allowance_mm": 0, "variation": {"kind": "range", "value_mm": 0.004}},
        "y": {"allowance_mm": 0, "variation": {"kind": "range", "value_mm": 0.02}},
        "z": {"allowance_mm": 0},
    }
    request = _with(
        starting_request("Block", 100),
        parts__0__stock=stock,
        parts__0__ops__0__cuts=[MIDDLE],
        parts__0__features=[{"name": "Bore", "x_mm": 30, "y_mm": 20, "tolerance_mm": 1.0}],
        station__sharing={"how": "row between jaws", "row": 4, "against_neighbour": True},
    )
    item = ready(views_of(request)[0])
    assert [member.y_mm for member in item.station.members] == [0, 40, 80, 120]
    assert len(item.station.stops) == 2  # the fixed jaw, and one end stop for all
    sums = []
    for number, found in enumerate(item.locating.located):
        stack = [source for source in found.sources if source.name == "neighbours in the row"]
        assert len(stack) == number
        sums.append(sum(source.shift[1] for source in stack))
    assert sums == pytest.approx([0, 0.02, 0.04, 0.06])
    shares = [
        item.locating.shares(check, np.array([[50.0, 50.0]]), [0], member)[0]
        for member in range(4)
        for check in item.locating.checks[:1]
    ]
    assert shares == sorted(shares)
    assert shares[0] < shares[3]
    each = _with(request, station__sharing={"how": "row between jaws", "row": 4})
    assert len({id(found) for found in ready(views_of(each)[0]).locating.located}) == 1


def test_a_bore_on_its_pin_is_centred_and_a_part_that_can_turn_says_so():
    outline = {"outer": [(0, 0), (60, 0), (60, 40), (0, 40)], "holes": [_ring(30, 20, 9)]}
    request = _with(
        _plate(),
        parts__0__outline=outline,
        parts__0__ops__0__cuts=[DRILL | {"at": [(8, 8)]}],
        station__element={"kind": "expanding pin", "least_mm": 17, "most_mm": 19},
    )
    _, found = _of(request)
    assert (found.scheme, found.free) == ("bore on a mandrel", ["turn about Z"])
    assert "friction" in found.warnings[0]
    assert any(source.name == "centring" for source in found.sources)
    with pytest.raises(OutOfRange, match="locates the parts by itself"):
        ready(views_of(_with(request, station__locating={"kind": "profile nest"}))[0])


def test_a_long_stop_that_touches_over_too_little_is_warned_of():
    outer = [(0, 18), (0, 21), (6, 40), (60, 40), (60, 0), (6, 0)]
    _, found = _of(_with(_plate(), parts__0__outline={"outer": outer, "holes": [_ring(30, 20, 4)]}))
    assert "swings the far end" in found.warnings[0]


def test_a_round_end_at_the_long_stop_leaves_the_turn_to_the_flat_at_the_end_stop():
    slot = _with(
        starting_request("Link", 10),
        parts__0__outline={"shape": {"kind": "slot", "length_mm": 60, "width_mm": 20}},
        parts__0__features=[{"name": "Hole", "x_mm": 10, "y_mm": 10, "tolerance_mm": 0.9}],
        station__stops__length_mm=30,
        station__clamp__toe_hollow_mm=10.2,
        station__stops__hollow_mm=10.2,
    )
    _, found = _of(slot)
    assert (found.free, len(found.locators)) == ([], 6)
    assert [locator.name for locator in found.locators[3:]] == [
        "long stop",
        "end stop, near end",
        "end stop, far end",
    ]


def test_what_follows_a_turn_that_nothing_keeps_is_not_judged_and_the_middle_is():
    outline = {"outer": [(0, 0), (60, 0), (60, 40), (0, 40)], "holes": [_ring(30, 20, 9)]}
    features = [
        {"name": name, "x_mm": x, "y_mm": 20, "tolerance_mm": 0.4}
        for name, x in (("Bore", 30), ("Far", 50))
    ]
    inner = {
        "name": "Near Far",
        "x_mm": 50,
        "y_mm": 12,
        "tolerance_mm": 0.4,
        "measured_from": "feature",
        "from_feature": "Far",
    }
    request = _with(
        _plate(),
        parts__0__outline=outline,
        parts__0__ops__0__cuts=[DRILL | {"at": [(8, 8)]}],
        parts__0__features=[*features, inner],
        station__element={"kind": "expanding pin", "least_mm": 17, "most_mm": 19},
    )
    checks = {check.feature.name: check for check in ready(views_of(request)[0]).locating.checks}
    assert checks["Bore"].problem == ""
    assert "20.0 mm from where it turns" in checks["Far"].problem
    assert checks["Near Far"].problem == ""  # one clamping cuts both: they turn together


def test_holes_that_nobody_recorded_break_the_chain_and_the_feature_to_record_is_named():
    base = _plate(station__locating=PinAndDiamondPin())
    ops = [{"number": 10, "cuts": [DRILL | {"at": [(30, 12)]}]}, {"number": 20, "cuts": [MIDDLE]}]
    port = {"name": "Port", "x_mm": 30, "y_mm": 12, "tolerance_mm": 0.5, "op": 10}
    hole = port | {
        "name": "Middle",
        "y_mm": 20,
        "op": 20,
        "measured_from": "feature",
        "from_feature": "Port",
    }
    late = _with(base, parts__0__ops=ops, parts__0__features=[port, hole], planned__op=1)
    check = next(
        item for item in ready(views_of(late)[0]).locating.checks if item.feature.name == "Middle"
    )
    assert "record the holes it is pinned in" in check.problem
    pinned_in = [
        {"name": f"Pin hole {k}", "x_mm": x, "y_mm": y, "tolerance_mm": 0.5, "op": 10}
        for k, (x, y) in enumerate(HOLES)
    ]
    known = _with(late, parts__0__features=[port, hole, *pinned_in])
    check = next(
        item for item in ready(views_of(known)[0]).locating.checks if item.feature.name == "Middle"
    )
    assert not check.problem
    # Both holes came with the port in one clamping: its positioning lies between, nothing else.
    assert {source.name for source in check.chain if source.shift[:2].any()} == {
        "op 10: machine positioning"
    }


def test_an_op_before_that_these_pins_cannot_hold_counts_with_locators_as_true_as_these():
    """Op 10 has the part on its side, where no pin finds a hole: it stood on faces, each locator as
    far off as any here.
    """
    base = _plate(station__locating=PinAndDiamondPin())
    ops = [
        {"number": 5, "cuts": [DRILL | {"at": list(HOLES)}]},
        {"number": 10, "up": "+X", "cuts": [FACE]},
        {"number": 20, "cuts": [MIDDLE]},
    ]
    holes = [
        {"name": f"Pin hole {k}", "x_mm": x, "y_mm": y, "tolerance_mm": 0.5, "op": 5}
        for k, (x, y) in enumerate(HOLES)
    ]
    middle = {
        "name": "Middle",
        "x_mm": 30,
        "y_mm": 20,
        "tolerance_mm": 0.9,
        "op": 20,
        "measured_from": "feature",
        "from_feature": "Side",
    }
    side = {"name": "Side", "x_mm": 60, "y_mm": 20, "tolerance_mm": 0.5, "op": 10, "takes": ["+X"]}
    stops = _plate().station.model_dump()
    request = _with(
        base,
        parts__0__ops=ops,
        parts__0__features=[*holes, side, middle],
        planned__op=2,
        elsewhere=[{"part": 0, "op": 0, "station": stops}],
    )
    locating = ready(views_of(request)[0]).locating
    check = next(item for item in locating.checks if item.feature.name == "Middle")
    assert not check.problem
    # Said, not left to be found out: which op, what was meant to hold it, and why it cannot.
    known = {op.number: op for op in locating.before}
    assert (known[5].own, known[10].own) == (True, False)
    assert "the strap stands 37 mm high" in known[5].trouble  # it stands where the drill comes down
    assert "hole" in known[10].trouble
    told = verdicts(VerdictsRequest(request=request, samples=1000)).schemes[0].before
    assert [(op.number, op.trouble) for op in told] == [
        (5, known[5].trouble),
        (10, known[10].trouble),
    ]
    assert [op.said for op in told] == [
        "Op 5 counts as standing on plain faces: a station of its own cannot hold it",
        "Op 10 counts as standing on plain faces: a station like this one's cannot hold it",
    ]
    assert "cannot hold it" in known[10].held
    for axis, own in ((0, "height of plate and rests"), (1, "station place")):
        carried = {
            source.name: float(source.shift[axis]) for source in check.chain if source.shift[axis]
        }
        assert carried["op 10: locators' place"] == pytest.approx(request.accuracy.locator_mm)
        assert {"op 5: station place", f"op 10: {own}"} <= set(carried)


@settings(max_examples=8, deadline=None)
@given(
    st.sampled_from([60, 90, 120]),
    st.floats(0.05, 0.4),
    st.floats(0.05, 0.4),
    st.floats(500, 10_000),
)
def test_a_round_in_a_v_is_pulled_out_by_what_rubs_on_flanks_and_clamp(angle, flanks, toe, clamp_n):
    """Pushed in by P, each flank bears N = P / (2 sin a), a half the angle: straight up mu N at
    least. What rubs along a flank wedges the round in deeper, so that at best it is mu N / sqrt(1 -
    mu² cot² a): statics, the maximum found by setting the derivative to nought.
    """
    request = _with(
        _round(station__locating={"kind": "V", "angle_deg": angle}),
        station__stops__friction=flanks,
        station__clamp__toe_friction=toe,
        station__stops__length_mm=50,
        station__stops__height_mm=20,
        station__clamp__height_mm=20,
        station__clamp__toe_height_mm=10,
    )
    sitting = stood(views_of(request)[0])
    station = build_station(sitting, request.station)
    contacts = station_contacts(station, sitting, request.station, clamp_n)
    borne = clamp_n / (2 * math.sin(math.radians(angle / 2)))
    wedged = math.sqrt(1 - (flanks / math.tan(math.radians(angle / 2))) ** 2)
    least, most = (toe * clamp_n + 2 * flanks * borne / by for by in (1.0, wedged))
    middle = (*station.vee.middle, 10.5)  # between the heights at which flanks and toe touch
    up = LoadCase(name="up", point_mm=middle, force_n=(0, 0, 100.0))
    found = hold(HoldRequest(contacts=contacts, loads=[up])).factor
    # Cones of eight sides lie inside the true ones.
    assert least / 100 * math.cos(math.pi / 8) - 1e-9 <= found <= most / 100 * (1 + 1e-6)


def test_pins_hold_against_a_push_as_far_as_they_are_rated_and_never_by_rubbing():
    """One strap of friction mu and preload F gives 2 mu F sideways; the pins the rest, up to what
    they bear.
    """
    request = _plate(
        station__locating={"kind": "pin and diamond pin"}, station__stops__capacity_n=1500
    )
    item = ready(views_of(request)[0])
    contacts = station_contacts(item.station, item.sitting, request.station, 1000)
    weak = [
        contact.model_copy(update={"capacity_n": 1e-6}) if "pin" in contact.name else contact
        for contact in contacts
    ]
    push = LoadCase(
        name="push", point_mm=(30, 20, 4), force_n=(100.0, 0, 0)
    )  # as high as the pins, so that nothing tips
    with_pins, without = (
        hold(HoldRequest(contacts=some, loads=[push])).factor for some in (contacts, weak)
    )
    rubs = (
        next(contact.friction for contact in contacts if contact.kind == "clamp")
        + request.station.floor_friction
    )
    assert without == pytest.approx(rubs * 1000 / 100, rel=0.1)
    assert (
        with_pins > without + 0.9 * 1500 / 100
    )  # one side of the round pin, and what the diamond adds
    nose = item.station.members[0].presses[0]
    lift = LoadCase(name="lift", point_mm=(nose.x, nose.y, 25), force_n=(0, 0, 100.0))
    assert hold(HoldRequest(contacts=contacts, loads=[lift])).factor == pytest.approx(
        hold(HoldRequest(contacts=weak, loads=[lift])).factor, rel=1e-3
    )
