"""The planner's choice of clamps against trying each by hand; weight on a bar that indexes; blocks
that give; a part in a vise.
"""

from __future__ import annotations

import math

import pytest

from tests.core.clamping.test_elements import _asked
from tests.core.clamping.test_sharing import _of
from tests.core.station.test_station import _request
from wedgecraft.core.clamping.elements.edge_clamp import EdgeToe
from wedgecraft.core.clamping.forces import vise_force_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.deflection import beam_give_mm
from wedgecraft.core.hold.in_vise import in_vise
from wedgecraft.core.plan.clamp_choice import ways
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.settled import chosen, with_way
from wedgecraft.core.records.clamp import ViseForce
from wedgecraft.core.records.deflection import BeamRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.screw import EdgeClamp, at_torque
from wedgecraft.core.records.vise import InVise
from wedgecraft.core.shop.picks import named
from wedgecraft.demo.by_hand import demo_requests


def _offering(request: PlanRequest, *offered: str, **rules) -> PlanRequest:
    station = request.station.model_copy(update={"offered": list(offered), "by_planner": True})
    return PlanRequest.model_validate(
        request.model_dump()
        | {
            "station": station.model_dump(),
            "rules": request.rules.model_dump() | rules,
            "quantity": 1000,
        }
    )


def test_the_choice_is_the_best_of_what_each_way_gives_when_it_is_planned_by_itself():
    request = _offering(
        _asked(EdgeToe(), torque=20), "edge clamp", "strap", "expanding pin", "pull stud"
    )
    tried = ways(request)
    good = [way for way in tried if way.rank]
    assert [way.rank for way in good] == list(range(1, len(good) + 1))
    assert [(-way.count, way.part_seconds) for way in good] == sorted(
        (-way.count, way.part_seconds) for way in good
    )
    for way in good:
        alone = with_way(request, way)
        alone = alone.model_copy(
            update={"station": alone.station.model_copy(update={"by_planner": False})}
        )
        result = plan(alone)
        assert result.feasible, (way.name, result.reasons)
        assert (
            result.designs[0].count >= way.count
        )  # a short search never promises more than the long one gives
        assert result.hold is not None
        assert result.hold.result.factor == pytest.approx(way.factor)
        # Its torque is the least that holds, to the next whole newton metre.
        least = result.hold.least_torque_nm
        assert least is not None
        assert way.torque_nm is not None
        assert least <= way.torque_nm < least + 1
        assert {figure.id for figure in way.figures} == {"way_count", "way_loading", "way_seconds"}
    chosen = plan(request)
    assert chosen.ways[0].name == good[0].name
    assert chosen.designs[0].count >= good[0].count


def test_every_part_of_a_kit_gets_the_clamps_that_suit_it():
    kit = next(request for request, _ in demo_requests() if request.several_parts)
    station = kit.station.model_copy(
        update={"by_planner": True, "offered": ["edge clamp", "double wedge"]}
    )
    request = kit.model_copy(update={"station": station})
    result = plan(request)
    assert result.feasible, result.reasons
    best = [way for way in result.ways if way.rank == 1]
    assert [way.kind for way in best] == list(range(1 + len(kit.also)))
    taken = chosen(request, result.ways)
    held = [taken.station, *(item.station for item in taken.also)]
    assert [(item.element.kind, item.sharing.how, item.clamp.torque_nm) for item in held] == [
        (way.element.kind, way.sharing.how, way.torque_nm) for way in best
    ]
    assert (
        len({(way.element.kind, way.sharing.how, way.torque_nm) for way in best}) > 1
    )  # not all of them alike
    by_hand = plan(
        taken.model_copy(update={"station": taken.station.model_copy(update={"by_planner": False})})
    )
    assert by_hand.designs[0].count == result.designs[0].count
    # A part with clamps of its own that do not hold says so where they stand.
    weak = taken.also[0].station.model_copy(
        update={"clamp": at_torque(taken.also[0].station.clamp, 0.2)}
    )
    also = [taken.also[0].model_copy(update={"station": weak}), *taken.also[1:]]
    refused = plan(
        taken.model_copy(
            update={"station": taken.station.model_copy(update={"by_planner": False}), "also": also}
        )
    )
    assert [reason.field for reason in refused.reasons] == ["also.0.station.clamp.torque_nm"]


def test_one_clamp_that_holds_is_enough_and_more_are_tried_only_where_one_is_not():
    enough = ways(_offering(_asked(EdgeToe()), "edge clamp"))
    assert [way.clamps for way in enough] == [1]
    request = _request(clamp={"torque_nm": 5, "screw": "M5", "transmission": 0.5}, clamps=1)
    heavy = request.model_dump()
    heavy["parts"][0]["ops"][0]["cuts"][0] |= {"feed_per_tooth_mm": 0.06, "radial_width_mm": 1.5}
    more = ways(_offering(PlanRequest.model_validate(heavy), "edge clamp"))
    assert [way.clamps for way in more if way.rank] == [2]
    assert next(way for way in more if way.clamps == 1).refused.startswith(
        "not even at the screw's rated 5.5 N·m"
    )


def test_rows_grow_until_the_blanks_make_one_loose_and_the_strict_school_stops_at_two():
    clamp = EdgeClamp(screw="M12", torque_nm=70, opens_mm=4)
    for spread, rule, longest, why in (
        (0.003, "computed", 5, "not even at the screw's rated"),
        (0.2, "computed", 2, "of 100 clampings one part is loose"),
        (0.003, "strict", 2, "the house rule is strict"),
    ):
        request = _offering(
            _of("row between jaws", spread=spread, clamp=clamp),
            "row between jaws",
            two_part_vise=rule,
            grip="toothed",
        )
        found = ways(request)
        assert [way.sharing.row for way in found if way.rank] == [longest]
        assert [way.sharing.row for way in found if not way.rank] == [longest + 1]
        assert why in found[-1].refused


def test_where_nothing_offered_works_every_reason_is_given_and_nothing_is_planned():
    request = _request()  # its contour leaves no place for a strap
    result = plan(_offering(request, "strap", "expanding pin", "toothed insert"))
    assert not result.feasible
    assert {reason.field for reason in result.reasons} == {"station.offered"}
    assert len(result.ways) >= 3
    assert not any(way.rank for way in result.ways)
    assert any("teeth leave marks" in way.refused for way in result.ways)


def _bar(**block) -> PlanRequest:
    request = _request().model_dump()
    request["block"] = {"faces": 4, "axis": "lying", "across_mm": 90, "body_kg": 20} | block
    request["machine"]["table_load_kg"] = 900
    return PlanRequest.model_validate(request)


def test_on_a_bar_parts_hang_every_way_while_it_indexes():
    """Held by friction of clamp and stops alone when it hangs down: the closed form of the vise, 2
    mu F, beside what the plate adds.
    """
    steel = _bar().model_dump()
    steel["parts"][0] |= {"material": "steel-c45", "height_mm": 60}
    steel["station"]["clamp"]["torque_nm"] = 23
    steel["parts"][0]["ops"][0]["cuts"][0] |= {"feed_per_tooth_mm": 0.005, "radial_width_mm": 0.2}
    result = plan(PlanRequest.model_validate(steel))
    assert result.feasible, result.reasons
    hold = result.hold
    assert hold is not None
    weight = 60 * 40 * 60 * 7.85e-6 * 9.80665
    friction = 0.2 * hold.preload_low_n * 2
    assert hold.indexing is not None
    assert (
        0.5 * friction / weight < hold.indexing <= friction / weight
    )  # it hangs off its centre, which takes some
    assert result.designs[0].faces == ["A0°", "A90°", "A180°", "A270°"]
    assert plan(_bar(axis="upright")).hold.indexing is None
    # A part so heavy that it drops when it hangs is refused, though its cut is held.
    heavy = _bar().model_dump()
    heavy["parts"][0] |= {"height_mm": 300, "material": "steel-c45"}
    heavy["station"]["clamp"] |= {"torque_nm": 0.5, "screw": "M5"}
    heavy["parts"][0]["ops"][0]["cuts"][0] |= {
        "feed_per_tooth_mm": 0.001,
        "radial_width_mm": 0.05,
        "axial_depth_mm": 1,
    }
    refused = plan(PlanRequest.model_validate(heavy))
    assert not refused.feasible
    assert refused.hold is not None
    if refused.hold.result.factor >= refused.hold.needed:
        assert "while the bar indexes" in refused.reasons[0].what


def test_what_the_block_gives_is_in_the_tolerance_and_a_tail_support_takes_most_of_it():
    slim = {"across_mm": 90, "wall_mm": 0}
    stiff, free, tail = (
        plan(_bar(**more)) for more in ({"across_mm": 200}, slim, slim | {"tail": True})
    )

    def used(result):
        station = result.designs[0].stations[0]
        return next(
            (item.x_mm for item in station.contributions if item.name == "give under the cut"), 0.0
        )

    assert max(used(stiff), used(tail)) < used(free)
    bending = next(item for item in free.hold.gives if "hardest cut" in item.label)
    force = next(item.value for item in bending.inputs if item.name == "F")
    length = next(item.value for item in bending.inputs if item.name == "length")
    beam = BeamRequest(
        length_mm=length,
        across_mm=90,
        youngs_mpa=_bar().block.material.youngs_mpa,
        force_n=force,
        at_mm=length,
    )
    assert bending.value == pytest.approx(beam_give_mm(beam))
    assert any(item.counted for item in free.hold.gives)


def test_a_blank_that_varies_more_than_the_clamp_opens_cannot_come_out():
    request = _asked(EdgeToe())
    clamp = request.station.clamp.model_copy(update={"opens_mm": 0.1})
    refused = plan(
        request.model_copy(update={"station": request.station.model_copy(update={"clamp": clamp})})
    )
    assert refused.reasons[0].field == "station.clamp.opens_mm"


def test_in_a_vise_light_cuts_are_limited_by_pressure_in_closed_form_and_ratings_are_kept():
    request, vise = _asked(EdgeToe()), named("vise", "Vise, 125 mm jaws")
    found = in_vise(InVise(request=request, vise=vise, torque_nm=40))
    low, high = vise_force_n(
        ViseForce(
            rated_force_n=vise.rated_force_n,
            rated_torque_nm=vise.rated_torque_nm,
            torque_nm=40,
            scatter=vise.force_scatter,
        )
    )
    assert (found.force_low_n, found.force_high_n) == pytest.approx((low, high))
    softer = min(request.part.material.yield_mpa, 600)
    crushed = math.ceil(high / (40 * softer) / 0.05) * 0.05
    assert crushed < 3
    assert (found.grip.limited_by, found.grip.least_mm) == ("house rule", 3.0)
    assert (found.verdict, found.deeper_mm) == ("held", 0)
    bold = request.model_copy(
        update={"rules": request.rules.model_copy(update={"least_grip_mm": 0})}
    )
    assert in_vise(InVise(request=bold, vise=vise, torque_nm=40)).grip.least_mm == pytest.approx(
        crushed
    )
    assert {figure.id for figure in found.figures} == {"vise_low", "vise_high", "grip"}
    for change, field in (
        ({"torque_nm": 2000}, "clamp.torque_nm"),
        ({"vise": vise.model_copy(update={"opening_mm": 50})}, "vise.opening_mm"),
    ):
        with pytest.raises(OutOfRange) as caught:
            in_vise(
                InVise.model_validate({"request": request, "vise": vise, "torque_nm": 40} | change)
            )
        assert caught.value.field == field
