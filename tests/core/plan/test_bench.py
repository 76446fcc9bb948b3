"""Stations a person places: judged like the solver's by an independent test, kept when others are
placed round them, repeated in rows.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon

from tests.core import independent
from tests.core.layout.test_layout import _jobs
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout.check import faults
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.plan.bench import Bench, _ground, comparable, ground_of, rearranged
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.arranging import RoomAsked, RowAsked
from wedgecraft.core.records.layout import LayoutRequest, Placement
from wedgecraft.core.records.request import Arrangement, Measured, OwnStation, PlanRequest
from wedgecraft.core.shop.picks import starting_request

FEW = settings(
    max_examples=4,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)


def _quick(request: LayoutRequest) -> LayoutRequest:
    return request.model_copy(update={"effort": 0.0})


@FEW
@given(_jobs(), st.randoms(use_true_random=False))
def test_a_station_moved_anywhere_is_faulted_just_when_the_independent_test_says_so(
    request, random
):
    request = _quick(request)
    found = layout(request).placements
    assume(found)
    assert faults(request, found) == []
    for _ in range(6):
        index = random.randrange(len(found))
        step = random.choice([0.3, 3, 40])
        turn = random.choice(request.kinds[0].turns)
        place = found[index].model_copy(
            update={
                "x_mm": found[index].x_mm + random.uniform(-step, step),
                "y_mm": found[index].y_mm + random.uniform(-step, step),
                "turn": turn,
            }
        )
        moved = [*found[:index], place, *found[index + 1 :]]
        wrong = faults(request, moved)
        if all(fault.by_mm > 0.02 for fault in wrong):  # within a hair either answer will do
            # Curved outlines stand a few hundredths off as the chords round them are on the
            # outside.
            assert bool(wrong) >= bool(independent.faults(request, independent.as_result(moved)))
        if not wrong:
            assert independent.faults(request, independent.as_result(moved)) == []
        for fault in wrong:
            assert fault.by_mm > 0
            if fault.nearest_mm is not None and fault.station == index:
                mended = place.model_copy(
                    update={"x_mm": fault.nearest_mm[0], "y_mm": fault.nearest_mm[1]}
                )
                again = [*found[:index], mended, *found[index + 1 :]]
                assert independent.faults(request, independent.as_result(again)) == []
                assert faults(request, again) == []


@FEW
@given(_jobs(), st.randoms(use_true_random=False))
def test_stations_that_stand_stay_and_the_rest_is_filled_round_them(request, random):
    request = _quick(request)
    whole = layout(request)
    assume(whole.count > 2)
    kept = random.sample(whole.placements, random.randrange(1, whole.count))
    found = layout(request.model_copy(update={"fixed": kept}))
    assert independent.faults(request, found) == []
    stand = [(item.x_mm, item.y_mm, item.turn) for item in found.placements if item.fixed]
    assert sorted(stand) == sorted((item.x_mm, item.y_mm, item.turn) for item in kept)
    assert len(kept) <= found.count <= found.bound
    assert found.used_mm2 <= found.usable_mm2 * (1 + 1e-6)
    full = layout(request.model_copy(update={"fixed": whole.placements}))
    assert full.count >= whole.count
    few = layout(request.model_copy(update={"fixed": kept, "most": len(kept)}))
    assert few.count == len(kept)


def test_one_box_in_the_middle_leaves_what_exhaustive_reasoning_says():
    """On 6 x 2 with boxes 2 x 1, lying: 6 in all; one fixed half a box off leaves 2 beside it, 3 in
    its other row's... counted by hand.
    """
    square = {"faces": [{"name": "f", "outer": [(0, 0), (6, 0), (6, 2), (0, 2)]}]}
    kind = {
        "name": "b",
        "turns": [0],
        "layers": [{"role": "body", "name": "b", "outer": [(0, 0), (2, 0), (2, 1), (0, 1)]}],
    }
    request = LayoutRequest.model_validate(square | {"kinds": [kind]})
    assert layout(request).count == 6
    stands = Placement(face=0, kind=0, x_mm=1, y_mm=0, turn=0)
    found = layout(request.model_copy(update={"fixed": [stands]}))
    assert found.count == 5  # itself, one to its right, three above
    up = Placement(face=0, kind=0, x_mm=2, y_mm=0.5, turn=0)
    assert (
        layout(request.model_copy(update={"fixed": [up]})).count == 5
    )  # itself and two on each side
    with pytest.raises(OutOfRange, match=r"fixed\.1.*too near another"):
        layout(request.model_copy(update={"fixed": [stands, up]}))
    with pytest.raises(OutOfRange, match="over the edge"):
        layout(request.model_copy(update={"fixed": [stands.model_copy(update={"x_mm": 5})]}))
    for bad in ({"turn": 90}, {"kind": 3}, {"face": 2}):
        with pytest.raises(ValueError, match=r"fixed\.0"):
            LayoutRequest.model_validate(
                request.model_dump() | {"fixed": [stands.model_dump() | bad]}
            )


@pytest.fixture(scope="module")
def planned() -> tuple[PlanRequest, object]:
    request = starting_request("Block", 400)
    return request, plan(request)


def _own(request: PlanRequest, stations: list[OwnStation], own: bool = True) -> PlanRequest:
    return request.model_copy(update={"arrangement": Arrangement(own=own, stations=stations)})


def _stations(result) -> list[OwnStation]:
    return [OwnStation(x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn) for s in result.designs[0].stations]


def test_rearranging_gives_what_planning_the_same_stations_gives(planned):
    request, result = planned
    stations = _stations(result)
    as_they_are = rearranged(_own(request, stations), request, result)
    assert as_they_are.feasible
    assert as_they_are.designs[0].count == result.designs[0].count
    assert [s.tolerance_share for s in as_they_are.designs[0].stations] == [
        s.tolerance_share for s in result.designs[0].stations
    ]
    pushed = [
        stations[0].model_copy(update={"x_mm": stations[0].x_mm + 9, "locked": True}),
        *stations[1:],
    ]
    quick, slow = rearranged(_own(request, pushed), request, result), plan(_own(request, pushed))
    assert not quick.feasible
    assert quick.designs[0].stations == slow.designs[0].stations
    assert [r.what for r in quick.reasons] == [r.what for r in slow.reasons]
    assert quick.designs[0].count < result.designs[0].count
    assert quick.designs[0].stations[0].locked
    assert "too near station" in quick.designs[0].stations[0].faults[0]
    assert "mm away" in quick.reasons[0].nearest or "another turn" in quick.reasons[0].nearest
    # What else changed would need the whole plan again.
    other = _own(request, pushed).model_copy(update={"quantity": 7})
    assert not comparable(other, request)
    assert rearranged(other, request, result) is None
    assert rearranged(request, request, result) is None


def test_locked_stations_stay_in_the_plan_or_are_refused_with_the_reason(planned):
    request, result = planned
    middle = OwnStation(x_mm=201.25, y_mm=150.5, turn=90, locked=True)
    loose = OwnStation(x_mm=205, y_mm=150, turn=90)  # not locked: no more than a memory
    found = plan(_own(request, [middle, loose], own=False))
    (kept,) = (s for s in found.designs[0].stations if s.locked)
    assert (kept.x_mm, kept.y_mm, kept.turn) == (201.25, 150.5, 90)
    assert found.designs[0].count > result.designs[0].count * 0.7
    both = plan(_own(request, [middle, loose.model_copy(update={"locked": True})], own=False))
    assert not both.feasible
    assert "too near station 1" in both.reasons[0].what
    # Both are shown where they stand, for whoever must move them.
    assert [(s.x_mm, s.locked, bool(s.faults)) for s in both.designs[0].stations] == [
        (201.25, True, True),
        (205, True, True),
    ]
    assert both.designs[0].count == 0
    outside = plan(_own(request, [middle.model_copy(update={"x_mm": -300.0})], own=False))
    assert "over the edge" in outside.reasons[0].what
    assert "X" in outside.reasons[0].nearest
    bare = request.model_copy(update={"station": request.station.model_copy(update={"turns": [0]})})
    assert "stations may stand at 0°" in plan(_own(bare, [middle])).reasons[0].nearest
    assert "no station is placed" in plan(_own(request, [])).reasons[0].what


def test_more_stations_than_the_table_carries_are_no_design(planned):
    request, result = planned
    heavy = request.model_copy(
        update={"machine": request.machine.model_copy(update={"table_load_kg": 11.0})}
    )
    said = plan(_own(heavy, _stations(result)))
    assert not said.feasible
    assert any(
        "the table carries 11 kg" in reason.why and "at most" in reason.nearest
        for reason in said.reasons
    )


def test_the_go_region_holds_every_clear_place_and_no_other(planned):
    request, result = planned
    stations = _stations(result)[:7]
    bench = Bench(_own(request, stations))
    rng = np.random.default_rng(3)
    for turn in (0, 90):
        areas = [
            Polygon(rings[0], rings[1:])
            for rings in bench.room(RoomAsked(station=3, turn=turn)).areas
        ]
        checked = 0
        for x, y in rng.uniform((0, 0), (400, 350), (50, 2)):
            depth = min((area.boundary.distance(Point(x, y)) for area in areas), default=1.0)
            if depth < 0.1:
                continue
            checked += 1
            placements = [
                item.model_copy(update={"x_mm": x, "y_mm": y, "turn": turn}) if k == 3 else item
                for k, item in enumerate(bench.placements)
            ]
            clear = not independent.faults(bench.problem, independent.as_result(placements))
            assert clear == any(area.contains(Point(x, y)) for area in areas)
        assert checked > 33


@pytest.mark.parametrize("towards", ["+X", "-X", "+Y", "-Y"])
def test_a_row_goes_as_far_as_it_can_and_no_tighter_than_it_may(planned, towards):
    request, _ = planned
    bench = Bench(_own(request, [OwnStation(x_mm=150, y_mm=180, turn=0)]))
    row = bench.row(RowAsked(station=0, towards=towards))
    assert row.stations
    step = {"+X": (1, 0), "-X": (-1, 0), "+Y": (0, 1), "-Y": (0, -1)}[towards]

    def sound(pitch: float, count: int) -> bool:
        placed = [
            Placement(
                face=0,
                kind=0,
                x_mm=150 + k * pitch * step[0],
                y_mm=180 + k * pitch * step[1],
                turn=0,
            )
            for k in range(count)
        ]
        return independent.faults(bench.problem, independent.as_result(placed)) == []

    assert sound(row.pitch_mm, len(row.stations) + 1)
    assert not sound(row.pitch_mm, len(row.stations) + 2)
    assert not sound(row.pitch_mm - 0.15, 2)
    wide = bench.row(RowAsked(station=0, towards=towards, pitch_mm=row.pitch_mm + 10, most=1))
    assert [(s.x_mm, s.y_mm) for s in wide.stations] == [
        pytest.approx((150 + (row.pitch_mm + 10) * step[0], 180 + (row.pitch_mm + 10) * step[1]))
    ]
    assert bench.row(RowAsked(station=0, towards=towards, pitch_mm=5)).stations == []
    with pytest.raises(OutOfRange):
        bench.row(RowAsked(station=4, towards=towards))


def test_two_ops_on_two_faces_are_judged_each_on_its_own_and_counted_in_complete_parts():
    document = starting_request("Block", 900).model_dump(mode="json")
    document["parts"][0]["ops"].append(document["parts"][0]["ops"][0] | {"number": 20, "up": "-Z"})
    request = PlanRequest.model_validate(
        document | {"also": [{"part": 0, "op": 1}], "block": {"faces": 2}}
    )
    result = plan(request)
    whole = [
        OwnStation(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
        for s in result.designs[0].stations
    ]
    placed = rearranged(_own(request, whole), request, result)
    assert placed is not None
    assert placed.feasible
    assert placed.designs[0].count == result.designs[0].count
    assert (placed.designs[0].bound, placed.designs[0].by_hand) == (
        result.designs[0].bound,
        result.designs[0].by_hand,
    )
    # One station of the second op less: one complete part less.
    last = max(index for index, item in enumerate(whole) if item.kind == 1)
    fewer = rearranged(_own(request, whole[:last] + whole[last + 1 :]), request, result)
    assert fewer is not None
    assert fewer.designs[0].count == result.designs[0].count - 1
    # Moved onto the other face it stands in another's way, unless there is room: as the independent
    # test says.
    for index in (0, len(whole) // 2):
        moved = [
            *whole[:index],
            whole[index].model_copy(update={"face": 1 - whole[index].face}),
            *whole[index + 1 :],
        ]
        judged = rearranged(_own(request, moved), request, result)
        bench = Bench(_own(request, moved))
        assert judged is not None
        assert judged.feasible == (
            independent.faults(bench.problem, independent.as_result(bench.placements)) == []
        )
    # Rows keep face and op; a face or an op that is not there is refused by its field.
    bench = Bench(
        _own(request, [whole[last].model_copy(update={"x_mm": 100.0, "y_mm": 120.0, "turn": 0})])
    )
    row = bench.row(RowAsked(station=0, towards="+X"))
    assert {(s.face, s.kind) for s in row.stations} == {(whole[last].face, 1)}
    for field, place in (("face", {"face": 4}), ("kind", {"kind": 3})):
        said = plan(_own(request, [whole[0].model_copy(update=place)]))
        assert said.reasons[0].field == f"arrangement.stations.0.{field}"
    free = bench.room(RoomAsked(turn=0, face=1 - whole[last].face, kind=0))
    assert (
        Polygon(free.areas[0][0]).area
        > Polygon(bench.room(RoomAsked(turn=0, face=whole[last].face, kind=0)).areas[0][0]).area
    )


def test_what_a_bench_stands_on_is_worked_out_once_and_never_for_another_request(planned):
    """Two placings of one request share it; with another clearance, or all stations measured, they
    do not, and each answers as one that was worked out from nothing.
    """
    request, result = planned
    stations = _stations(result)
    one, two = _own(request, stations), _own(request, stations[:-1])
    assert ground_of(one) is ground_of(two)
    wider = request.station.model_copy(update={"clearance_mm": request.station.clearance_mm + 2})
    assert ground_of(one.model_copy(update={"station": wider})) is not ground_of(one)
    found = [
        item.model_copy(update={"measured": Measured(x_mm=item.x_mm, y_mm=item.y_mm)})
        for item in stations
    ]
    measured = _own(request, found)
    assert ground_of(measured) is not ground_of(one)
    for asked in (one, two, measured):
        kept = rearranged(asked, request, result)
        _ground.cache_clear()
        assert rearranged(asked, request, result) == kept
