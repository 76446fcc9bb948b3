"""Vises on the table: planned like any form, judged by their solids, refused in words."""

from __future__ import annotations

import math

import pytest
from shapely.affinity import rotate, translate
from shapely.geometry import Point, Polygon

from tests.core.independent import as_result, faults
from tests.core.solids import overlaps, untouched
from tests.core.workpiece.test_states import _FACE, _ROUND, _cut, _drill, _part, _stock
from wedgecraft.core.explain.shown import setups_shown
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.bench import Bench
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.route_edits import with_form
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.arranging import RoomAsked
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.core.station.held import held_section
from wedgecraft.core.station.preload import preload_of, row_places
from wedgecraft.core.station.stood import stood

_UPPER = _ROUND.model_copy(update={"axial_depth_mm": 12.0})
_LOWER = _ROUND.model_copy(update={"axial_depth_mm": 10.0})


def _document(**form) -> JobDocument:
    """A block of 40 x 30 x 20 in two setups: its upper half and holes, then over and over."""
    ops = [
        Op(number=10, cuts=[_FACE, _UPPER, _drill(depth=24.0)]),
        Op(number=20, up="-Z", cuts=[_FACE, _LOWER]),
    ]
    feature = Feature(name="bore", x_mm=20, y_mm=15, tolerance_mm=0.2)
    part = _part(ops, stock=_stock(1, 1, 1, vary=0.1), features=[feature])
    asked = starting_request("Block", 40).model_dump(mode="json")
    document = JobDocument.model_validate({**asked, "parts": [part.model_dump(mode="json")]})
    given = document.model_dump(mode="json")
    setup = given["route"]["setups"][0]
    setup["form"] = {"kind": "vises", "depth_mm": 6, **form}
    second = {**setup, "holds": [{**setup["holds"][0], "op": 1}]}
    given["route"]["setups"] = [setup, second]
    return JobDocument.model_validate(given)


def test_vises_stand_on_the_table_and_nothing_stands_in_anything_else():
    document = _document(most=5)
    whole = plan_route(document, alternatives=False).result
    assert whole.feasible, [item.result.reasons for item in whole.setups]
    assert whole.complete_a_cycle == 5
    for number, item in enumerate(whole.setups, 1):
        (design,) = item.result.designs
        assert design.count == 5
        request = setup_request(document, number)
        asked = layout_request(request, [ready(view) for view in views_of(request)])
        placements = [
            Placement(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
            for s in design.stations
        ]
        assert faults(asked, as_result(placements)) == []
        assert overlaps(request, design) == []
        assert untouched(request) == []
        counted = next(limit for limit in design.limits if limit.id == "vises")
        assert (counted.share, counted.binds) == (1, True)
        travel = next(limit for limit in design.limits if limit.id == "travel")
        assert travel.share <= 1


def test_jaws_press_with_what_their_maker_says_and_the_fixed_one_is_the_datum():
    """25 kN at 80 N·m, 60 on the handle, 15 % either way (proportional; common practice)."""
    document = _document()
    result = plan_route(document, alternatives=False).result.setups[0].result
    assert result.hold.preload_low_n == pytest.approx(25_000 * 60 / 80 * 0.85)
    assert result.hold.preload_high_n == pytest.approx(25_000 * 60 / 80 * 1.15)
    jaws = [contact for contact in result.hold.contacts if contact.name.startswith("moving jaw")]
    assert sum(contact.preload_n for contact in jaws) == pytest.approx(result.hold.preload_low_n)
    assert sum(contact.area_mm2 for contact in jaws) == pytest.approx(32.2 * 6, rel=1e-3)
    first, second = (
        held_section(views_of(setup_request(document, number))[0]) for number in (1, 2)
    )
    surfaces = {item.name: item.made_in for item in first.touched}
    assert surfaces["fixed jaw"] is None
    assert surfaces["moving jaw 1"] is None
    assert {item.made_in for item in second.touched} == {10}
    less = plan_route(_document(torque_nm=1), alternatives=False).result.setups[0].result.reasons[0]
    assert less.field == "route.setups.0.form.torque_nm"
    assert "on the handle" in less.why


@pytest.mark.parametrize(
    ("form", "field", "said"),
    [
        ({"depth_mm": 60}, "form.depth_mm", "at most the jaws' height"),
        ({"depth_mm": 14}, "form.depth_mm", "at most"),
        ({"torque_nm": 90}, "form.torque_nm", "at most the vise's rating"),
    ],
)
def test_what_a_vise_cannot_do_is_refused_where_it_is_set(form, field, said):
    result = plan_route(_document(**form), alternatives=False).result.setups[0].result
    assert not result.feasible
    assert result.reasons[0].field == f"route.setups.0.{field}"
    assert said in f"{result.reasons[0].why} {result.reasons[0].nearest}"
    narrow = _document().model_dump(mode="json")
    narrow["route"]["setups"][0]["form"]["vise"]["opening_mm"] = 30
    refused = plan_route(JobDocument.model_validate(narrow), alternatives=False).result
    assert "42.2 mm across the jaws" in refused.setups[0].result.reasons[0].why


def test_a_row_shares_the_jaws_and_raw_blanks_let_one_of_three_go():
    """Two share a rigid jaw whatever their sizes; of three raw blanks one is loose in too many
    clampings, cut ones of one length are held; no more than the jaws are wide.
    """
    document = _document(row=2)
    pair = plan_route(document, alternatives=False).result
    assert [item.result.designs[0].count for item in pair.setups] == [8, 8]
    assert pair.setups[0].result.hold.preload_low_n == pytest.approx(25_000 * 60 / 80 * 0.85 / 2)
    for number, item in enumerate(pair.setups, 1):
        request = setup_request(document, number)
        assert overlaps(request, item.result.designs[0]) == []
        assert untouched(request) == []
    three = plan_route(_document(row=3), alternatives=False).result
    raw, cut = (item.result for item in three.setups)
    assert raw.reasons[0].field == "route.setups.0.form.row"
    assert "one part is loose" in raw.reasons[0].why
    assert cut.designs[0].count == 12
    assert cut.hold.row is not None
    (wide,) = plan_route(_document(row=4), alternatives=False).result.setups[0].result.reasons
    assert (wide.field, wide.nearest) == ("route.setups.0.form.row", "at most 3")


def test_parts_touched_beside_their_middle_share_by_the_lever():
    """A block of 30 along the jaws, of which the moving one meets only the 10 at its far end: both
    pairs are pressed 10 mm beside where the screw pushes, 25 kN x 60/80 (statics of the lever).
    """
    given = _document(row=2, depth_mm=4).model_dump(mode="json")
    part = given["job"]["parts"][0]
    part["outline"] = {"outer": [[0, 0], [36, 0], [36, 20], [40, 20], [40, 30], [0, 30]]}
    part["ops"][0]["cuts"] = part["ops"][0]["cuts"][:1]
    same = {"variation": {"kind": "range", "value_mm": 0}}
    part["stock"] = {"kind": "flame-cut plate", "x": same, "y": same}
    del part["ops"][1:], given["route"]["setups"][1:]
    document = JobDocument.model_validate(given)
    view = views_of(setup_request(document, 1))[0]
    sitting, station = stood(view), ready(view).station
    places, screw = row_places(sitting, view.station, station)
    pitch = places[1] - places[0]
    assert screw == pytest.approx(15 + pitch / 2, abs=0.01)
    assert places[0] == pytest.approx(25, abs=0.01)
    pressed = preload_of(view, sitting, station)
    whole = 25_000 * 60 / 80
    assert pressed.low_n == pytest.approx(0.85 * whole * (0.5 - 10 / pitch), rel=1e-3)
    assert pressed.high_n == pytest.approx(1.15 * whole * (0.5 + 10 / pitch), rel=1e-3)


@pytest.mark.parametrize(
    "form",
    [
        {"depth_mm": 0.4},
        {"torque_nm": 0.5},
        {"row": 3},
        {"row": 2, "touching": True},
        {"jaws": "stepped", "ledge_mm": 18},
        {"jaws": "soft", "row": 2, "touching": True},
        {"depth_mm": 13, "row": 2},
    ],
)
def test_every_refusal_names_a_field_that_stands_in_the_document(form):
    """Walked from the top of the document, as a page does to show it beside its field."""
    document = _document(**form)
    result = plan_route(document, alternatives=False).result.setups[0].result
    assert not result.feasible
    for reason in result.reasons:
        node = document.model_dump(mode="json")
        for key in reason.field.split("."):
            node = node[int(key)] if isinstance(node, list) else node[key]
        assert reason.what
        assert reason.nearest


@pytest.mark.parametrize("start", [-8, 32])
def test_what_a_jaw_touches_must_still_be_there_when_the_op_is_done(start):
    """A slot into the side that the fixed jaw holds, and the moving one: above it, and into it."""
    slot = _cut("slot", "T4 slot", 10, 6, 0, at=[(start, 15), (start + 16, 15)])
    deep = slot.model_copy(update={"axial_depth_mm": 17.0})
    for cut, held in ((slot, True), (deep, False)):
        given = _document().model_dump(mode="json")
        cuts = given["job"]["parts"][0]["ops"][0]["cuts"]
        given["job"]["parts"][0]["ops"][0]["cuts"] = [*cuts, cut.model_dump(mode="json")]
        result = plan_route(JobDocument.model_validate(given), alternatives=False).result
        first = result.setups[0].result
        assert first.feasible is held, first.reasons
        if not held:
            assert first.reasons[0].field == "route.setups.0.form.depth_mm"


def _double(both: bool, **form) -> dict:
    """In vises whose fixed jaw is in the middle: op 10 at both stations and op 20 likewise, or
    ``both`` ops in each vise.
    """
    vise = next(item for item in shipped() if item.data.get("stations") == 2)
    given = _document(most=3, **form).model_dump(mode="json")
    setups = given["route"]["setups"]
    for setup in setups:
        setup["form"]["vise"] = {"name": vise.name, **vise.data}
    if both:
        setups[0]["holds"] = [setups[0]["holds"][0], {"op": 1}]
        given["route"]["setups"] = setups[:1]
    return given


@pytest.mark.parametrize(
    ("both", "form"),
    [(False, {}), (False, {"row": 2}), (True, {}), (True, {"other_jaws": "soft", "other_mm": 8})],
)
def test_two_stations_of_a_vise_share_the_fixed_jaw_and_its_screw(both, form):
    document = JobDocument.model_validate(_double(both, **form))
    result = plan_route(document, alternatives=False).result
    assert result.feasible, [item.result.reasons for item in result.setups]
    row = form.get("row", 1)
    assert result.complete_a_cycle == (3 if both else 6 * row)
    request, (design,) = setup_request(document, 1), result.setups[0].result.designs
    assert untouched(request) == []
    if not form.get("other_mm"):  # both stand as high
        assert overlaps(request, design) == []
    firsts = [item for item in design.stations if item.with_station > item.number]
    assert len(firsts) == 3
    for first in firsts:
        other = design.stations[first.with_station - 1]
        assert other.with_station == first.number
        assert (other.turn - first.turn) % 360 == 180
        assert (first.kind, other.kind) == ((0, 1) if both else (0, 0))
        one, two = ([_at(box, item) for box in _bodies(design, item)] for item in (first, other))
        jaws = [a.intersection(b).area for a in one for b in two]
        # the fixed jaw, 60 x 125, is one; under it the body; nothing else of one is in the other
        assert min(area for area in jaws if area > 1) == pytest.approx(7500, rel=1e-3)
        assert len([area for area in jaws if area > 1]) <= 4
    counted = next(limit for limit in design.limits if limit.id == "vises")
    assert (counted.used, counted.share, counted.binds) == (3, 1, True)
    cautions = result.setups[0].result.cautions
    assert any("a part in each, or a filler as wide" in said for said in cautions)
    # one handle for two stations: three turned for six parts, where each part alone has its own
    rules = document.job.rules
    loaded = 6 * row * rules.handling_seconds + (3 - 6 * row) * rules.screw_seconds
    assert design.cycle.loading_seconds == pytest.approx(loaded)


def test_a_cutter_that_runs_into_the_other_station_and_a_vise_half_taken_away_are_refused():
    given = _double(True)
    given["job"]["parts"][0]["ops"][0]["cuts"][1]["tool"]["diameter_mm"] = 90
    (reason,) = plan_route(JobDocument.model_validate(given)).result.setups[0].result.reasons
    assert reason.field == "route.setups.0.form.vise.stations"
    assert "op 10 would run into what stands at the other station" in reason.why
    given = _double(True)
    design = plan_route(JobDocument.model_validate(given)).result.setups[0].result.designs[0]
    keys = {"face", "kind", "x_mm", "y_mm", "turn"}
    stations = [item.model_dump(include=keys) for item in design.stations[:4]]
    given["route"]["setups"][0]["arrangement"] = {"own": True, "stations": stations}
    standing = plan_route(JobDocument.model_validate(given)).result
    assert standing.complete_a_cycle == 2
    bench = Bench(setup_request(JobDocument.model_validate(given), 1))
    turn = stations[3]["turn"]
    room = bench.room(RoomAsked(kind=1, turn=turn))
    added = [item.model_dump(include=keys) for item in room.stations]
    assert [item["kind"] for item in added] == [0, 1]
    assert (added[1]["x_mm"], added[1]["y_mm"]) == pytest.approx(room.first)
    given["route"]["setups"][0]["arrangement"]["stations"] = stations + added
    assert plan_route(JobDocument.model_validate(given)).result.complete_a_cycle == 3
    stations[1]["x_mm"] += 1
    given["route"]["setups"][0]["arrangement"]["stations"] = stations
    refused = plan_route(JobDocument.model_validate(given)).result.setups[0].result
    assert not refused.feasible
    alone = [item for item in refused.reasons if "without the other station" in item.what]
    assert [item.field[-1] for item in alone] == ["0", "1"]


def _bodies(design, item) -> list[Polygon]:
    drawn = design.kinds[item.kind].drawing
    return [Polygon(ring) for ring in [drawn.stops[0], *drawn.clamps]]


def _at(shape: Polygon, item) -> Polygon:
    return translate(rotate(shape, item.turn, origin=(0, 0)), item.x_mm, item.y_mm)


def test_parallels_make_way_for_holes_and_a_step_does_not():
    """The hole of the block, 8 wide, comes out below; moved near the fixed jaw it would be over a
    step 6 wide, and parallels go beside it (common practice, no source).
    """
    for jaws, x, stands in (
        ("hard", 20, True),
        ("stepped", 20, True),
        ("hard", 5, True),
        ("stepped", 5, False),
    ):
        given = _document(jaws=jaws).model_dump(mode="json")
        drill = given["job"]["parts"][0]["ops"][0]["cuts"][2]
        drill["at"] = [[x, 15]]
        document = JobDocument.model_validate(given)
        result = plan_route(document, alternatives=False).result.setups[0].result
        assert result.feasible is stands, result.reasons
        if not stands:
            assert result.reasons[0].field == "route.setups.0.form.ledge_mm"
            assert "comes out below over the step" in result.reasons[0].why
            continue
        view = views_of(setup_request(document, 1))[0]
        sitting = stood(view)
        under = ready(view).station.under
        gone = sitting.floor.difference(sitting.floor_after)
        assert gone.area == pytest.approx(math.pi * 4**2, rel=0.03)
        assert under.intersection(gone).area == 0
        left, right = sorted(round(part.bounds[0], 2) for part in under.geoms)
        # the blank's floor is 42.2 wide; the hole is 1.1 farther from its corner
        assert left == (0 if x == 20 else pytest.approx(11, abs=0.01))
        assert right == pytest.approx(42.2 - 6)
        bed = [c for c in result.hold.contacts if c.name.startswith("plate")]
        assert sum(c.area_mm2 for c in bed) == pytest.approx(2 * 6 * 32.2, rel=1e-6)
        reach = under.buffer(1e-6)
        assert all(reach.covers(Point(c.point_mm[:2])) for c in bed)


def test_a_form_taken_for_another_and_back_keeps_what_both_have():
    document = _document(depth_mm=7, torque_nm=55)
    again = with_form(document, 1, "vises", None)
    assert again.route.setups[0].form == document.route.setups[0].form
    on_plate = with_form(document, 1, "plate", starting_request("x", 1).plate)
    assert on_plate.route.setups[0].form.plate == starting_request("x", 1).plate
    back = with_form(on_plate, 1, "vises", None)
    assert back.route.setups[0].form.kind == "vises"
    shown = setups_shown(document)[0].held[0]
    assert (shown.torque_at, shown.drive) == ("route.setups.0.form.torque_nm", "handle")
    assert shown.rated_nm == 80
    assert setups_shown(on_plate)[0].held[0].torque_at.endswith("holds.0.station.clamp.torque_nm")
