"""The whole plan: each knob changes the answer the way it should, refusals name what would work,
and every layout is sound.
"""

from __future__ import annotations

import pytest

from tests.core.independent import as_result, faults
from tests.core.solids import factors, overlaps, untouched
from wedgecraft.core.clamping.screw import edge_clamp_preload
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts
from wedgecraft.core.station.stood import stood
from wedgecraft.demo.by_hand import demo_requests


def _with(request: PlanRequest, **changes) -> PlanRequest:
    document = request.model_dump()
    for path, value in changes.items():
        *keys, last = path.split("__")
        node = document
        for key in keys:
            node = node[int(key) if key.isdigit() else key]
        node[last] = value
    return PlanRequest.model_validate(document)


@pytest.fixture(scope="module")
def base() -> PlanRequest:
    return _with(
        starting_request("Block", 400),
        plate__width_mm=260,
        plate__depth_mm=220,
        plate__keepouts=[{"x_mm": 20, "y_mm": 20, "width_mm": 18}],
    )


@pytest.fixture(scope="module")
def answer(base):
    return plan(base)


def _sound(request: PlanRequest, design) -> None:
    asked = layout_request(request, [ready(view) for view in views_of(request)])
    placements = [
        Placement(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
        for s in design.stations
    ]
    assert faults(asked, as_result(placements)) == []


@pytest.mark.parametrize("index", range(7))
def test_every_demo_job_has_a_sound_design_that_beats_the_hand_grid(index):
    request, _ = demo_requests()[index]
    result = plan(request)
    assert result.feasible, result.reasons
    design = result.designs[0]
    _sound(request, design)
    assert overlaps(request, design) == []
    assert untouched(request) == []
    for own, rebuilt in factors(request):
        assert own == pytest.approx(rebuilt, rel=0.01)
    assert design.by_hand < design.count <= design.bound
    assert all(limit.state != "over" for limit in design.limits)
    assert all(station.tolerance_share <= 1 + 1e-6 for station in design.stations)
    assert {limit.figure for limit in design.limits} <= {
        figure.id for figure in [*result.figures, *design.figures]
    }
    for figure in [*result.figures, *design.figures]:
        assert figure.formula
        assert figure.source
        assert all(item.source for item in figure.inputs)


def test_same_request_same_result(base, answer):
    assert plan(base) == answer


def test_less_torque_does_not_hold_and_the_least_torque_named_does(base, answer):
    needed = answer.hold.least_torque_nm
    assert needed < base.station.clamp.torque_nm
    loose = plan(_with(base, station__clamp__torque_nm=needed - 1))
    assert not loose.feasible
    assert loose.reasons[0].field == "station.clamp.torque_nm"
    assert f"holds from {needed:g} N·m" in loose.reasons[0].nearest
    assert plan(_with(base, station__clamp__torque_nm=needed)).feasible
    assert answer.hold.result.factor == pytest.approx(
        min(item.factor for item in answer.hold.by_direction)
    )


def test_a_tighter_zone_leaves_out_far_stations_and_an_impossible_one_says_so(base, answer):
    full = answer.designs[0]
    probable = sorted(station.probable_mm for station in full.stations)
    zone = (probable[len(probable) // 3] + probable[len(probable) // 3 + 1]) / 2
    fewer = plan(_with(base, parts__0__features__0__tolerance_mm=zone)).designs[0]
    assert 0 < fewer.count < full.count
    assert max(station.probable_mm for station in fewer.stations) <= zone + 1e-6
    assert fewer.kinds[0].tolerance_region is not None
    none = plan(_with(base, parts__0__features__0__tolerance_mm=0.01))
    assert none.reasons[0].field == "parts.0.features.0.tolerance_mm"
    assert "at least" in none.reasons[0].nearest


def test_more_clearance_less_load_and_less_quantity_each_hold_fewer(base, answer):
    full = answer.designs[0]
    assert plan(_with(base, station__clearance_mm=25)).designs[0].count < full.count
    light = plan(_with(base, machine__table_load_kg=4.5)).designs[0]
    assert light.count < full.count
    assert light.proven
    assert next(limit for limit in light.limits if limit.binds).id == "load"
    assert plan(_with(base, quantity=3)).designs[0].count == 3


def test_a_narrow_travel_keeps_stations_where_the_cutter_reaches(base, answer):
    narrow = plan(_with(base, machine__travel_x_mm=170)).designs[0]
    assert narrow.count < answer.designs[0].count
    travel = next(limit for limit in narrow.limits if limit.id == "travel")
    assert travel.used <= travel.allowed + 1e-3


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"plate__width_mm": 60, "plate__depth_mm": 40, "plate__keepouts": []}, "plate", "mm too"),
        ({"machine__table_load_kg": 1}, "machine.table_load_kg", "carries 1 kg"),
        ({"station__clamp__torque_nm": 40}, "station.clamp.torque_nm", "rated for 23"),
        ({"station__stops__height_mm": 20}, "station.stops.height_mm", "at most 16 mm high"),
        (
            {"parts__0__ops__0__cuts__0__radial_width_mm": 12},
            "parts.0.ops.0.cuts.0.radial_width_mm",
            "at most the cutter's 10 mm",
        ),
        (
            {"machine__spindle_power_kw": 0.1, "machine__torque_curve": []},
            "parts.0.ops.0.cuts.0",
            "spindle has 0.1 kW",
        ),
        ({"parts__0__ops__0__cuts": []}, "parts.0.ops.0.cuts", "no cuts yet"),
        ({"machine__spindle_rpm": 8000}, "parts.0.ops.0.cuts.0.spindle_rpm", "at most 8000"),
        (
            {"station__clamps": 3, "station__clamp__width_mm": 28},
            "station.clamps",
            "3 clamps need 56.0 mm",
        ),
        ({"plate__margin_mm": 200}, "plate.margin_mm", "less than half"),
    ],
)
def test_refusals_name_the_field_and_what_would_work(base, change, field, said):
    result = plan(_with(base, **change))
    assert not result.feasible
    assert result.designs == []
    reason = result.reasons[0]
    assert reason.field == field
    assert said in f"{reason.what} {reason.why} {reason.nearest}"


def test_contacts_stand_where_the_outline_touches(base, as_drawn):
    sitting = stood(views_of(base)[0])
    station = build_station(sitting, base.station)
    contacts = station_contacts(
        station, sitting, base.station, edge_clamp_preload(base.station.clamp).low_n
    )
    for contact in contacts:
        x, y, z = contact.point_mm
        if contact.normal == (1, 0, 0):
            assert x == 0
            assert 0 < z <= base.station.stops.height_mm
        if contact.kind == "clamp":
            assert (x, z) == (60, base.station.clamp.toe_height_mm)


def test_op_10_and_op_20_stand_in_balance_round_a_block_and_the_first_design_comes_early():
    request = demo_requests()[1][0]
    assert (request.block.faces, len(request.also)) == (4, 1)
    seen: list[int] = []
    result = plan(request, preview=lambda so_far: seen.append(so_far.designs[0].count))
    design = result.designs[0]
    assert design.counted == "complete parts"
    assert [kind.stations for kind in design.kinds] == [design.count, design.count]
    assert design.faces == ["B0°", "B90°", "B180°", "B270°"]
    assert {station.face for station in design.stations} == {0, 1, 2, 3}
    assert seen == sorted(seen)
    assert 0 < seen[0] <= design.count == seen[-1]
    load = next(limit for limit in design.limits if limit.id == "load").used
    kinds = [ready(view) for view in views_of(request)]
    by_hand = (
        request.block.body_kg
        + 4 * kinds[0].masses.plate_kg
        + sum(design.count * kind.masses.station_kg for kind in kinds)
    )
    assert load == pytest.approx(by_hand)
    # Per part: both ops' cuts. The other op has a verdict of its own.
    assert design.cut_seconds == pytest.approx(
        sum(item.seconds for item in [*result.loads, *result.others[0].loads])
    )
    assert any(limit.label == "Clamping, op 20" for limit in design.limits)
    assert result.others[0].hold is not None


def test_a_kit_comes_in_the_numbers_of_the_kit():
    request = demo_requests()[-1][0]
    design = plan(request).designs[0]
    assert design.counted == "kits"
    assert [kind.stations for kind in design.kinds] == [design.count, 2 * design.count]
    assert design.cycles == -(-request.quantity // design.count)


def test_weight_hangs_along_an_upright_face_and_may_cost_some_of_the_hold(base):
    """A heavy part lightly clamped: on a lying plate its weight presses it down, on an upright face
    it pulls it off.
    """
    heavy = base.parts[0].material.model_copy(update={"density_kg_m3": 23_000})
    parts = [base.parts[0].model_copy(update={"material": heavy, "height_mm": 80.0})]
    lying = plan(base.model_copy(update={"parts": parts}))
    upright = plan(
        base.model_copy(
            update={"parts": parts, "block": base.block.model_copy(update={"faces": 2})}
        )
    )
    assert lying.hold is not None
    assert upright.hold is not None
    assert upright.hold.result.factor < lying.hold.result.factor


def test_alternatives_are_sound_and_are_what_they_say():
    request = demo_requests()[0][0]
    best, *others = plan(request, alternatives=True).designs
    regular = next(design for design in others if design.name == "most regular")
    roomy = next(design for design in others if design.name == "most room")
    for design in others:
        _sound(request, design)
        assert design.count <= best.count
        assert design.bound == best.bound
    assert len({station.turn for station in regular.stations}) == 1
    assert len({station.y_mm for station in regular.stations}) < len(
        {station.y_mm for station in best.stations}
    )
    more = roomy.more_room_mm
    for design in (best, *others):
        assert design.turns == sorted({station.turn for station in design.stations})
        assert design.offsets == len(
            design.turns
        )  # the house rule: one for all, a program turned needs its own
    wide = request.model_copy(
        update={
            "station": request.station.model_copy(
                update={"clearance_mm": request.station.clearance_mm + more}
            )
        }
    )
    _sound(wide, roomy)
    assert roomy.count >= 0.9 * best.count


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"also": [{"part": 0, "op": 0}]}, "planned twice"),
        ({"also": [{"part": 3, "op": 0}]}, "also.0.part is 3"),
        ({"also": [{"part": 0, "op": 7}]}, "also.0.op is 7"),
    ],
)
def test_ops_planned_together_must_be_there_and_differ(base, change, said):
    with pytest.raises(ValueError, match=said):
        PlanRequest.model_validate(base.model_dump() | change)


def test_a_second_op_that_cannot_work_refuses_the_plan_by_its_own_field():
    request = demo_requests()[1][0].model_dump(mode="json")
    request["parts"][0]["ops"][1]["cuts"] = []
    result = plan(PlanRequest.model_validate(request))
    assert not result.feasible
    assert result.reasons[0].field == "parts.0.ops.1.cuts"
    assert result.hold is not None


def test_a_design_of_cuts_that_do_not_make_the_part_says_so():
    """A blank five millimetres larger all round, and a hole too many."""
    given = starting_request("Block", 4).model_dump(mode="json")
    part = given["parts"][0]
    assert not [
        said for said in plan(PlanRequest.model_validate(given)).cautions if "Blank" in said
    ]
    part["stock"] |= {axis: {"allowance_mm": 5} for axis in "xyz"}
    hole = {"kind": "drill", "name": "T9 hole", "at": [(30, 20)], "feed_per_tooth_mm": 0.05}
    tool = {"kind": "drill", "diameter_mm": 6, "teeth": 2, "flute_length_mm": 40}
    part["ops"][0]["cuts"].append(part["ops"][0]["cuts"][0] | hole | {"tool": tool})
    found = plan(PlanRequest.model_validate(given))
    said = " / ".join(found.cautions)
    assert "% more material than the finished part has" in said
    assert "T9 hole cut into the finished Block" in said
