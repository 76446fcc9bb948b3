"""Every figure of a plan worked out again by hand from the request, and the ledger's verdicts from
the figures.
"""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedgecraft.core.explain.cautions import LIFT_LIMIT_KG
from wedgecraft.core.ground.documents import field_errors
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import CLOSE_SHARE, Figure, limit
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.whole import with_results
from wedgecraft.core.records.job import JobDocument, SetupResult
from wedgecraft.core.records.material import MATERIALS, material
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import catalogue, starting_request

pytestmark = pytest.mark.usefixtures("as_drawn")


@pytest.fixture(scope="module")
def request_() -> PlanRequest:
    given = starting_request("Block", 137).model_dump(mode="json")
    exact = {"variation": {"kind": "range", "value_mm": 0}}
    given["parts"][0]["stock"] |= dict.fromkeys("xyz", exact)
    return PlanRequest.model_validate(given)


@pytest.fixture(scope="module")
def result(request_) -> PlanResult:
    return plan(request_)


@pytest.fixture(scope="module")
def figures(result) -> dict[str, Figure]:
    return {figure.id: figure for figure in [*result.figures, *result.designs[0].figures]}


def test_time_cycles_feed_and_path(request_, result, figures):
    cut, design = views_of(request_)[0].op.cuts[0], result.designs[0]
    feed = cut.feed_per_tooth_mm * cut.tool.teeth * cut.spindle_rpm
    assert result.loads[0].load.feed_rate_mm_min == pytest.approx(feed)
    path = (
        2 * (60 + 40) + math.pi * cut.tool.diameter_mm
    )  # round a 60 x 40 block, the axis half a cutter outside
    assert figures["cut_seconds"].value == pytest.approx(60 * path / feed, rel=1e-3)
    assert figures["cycles"].value == math.ceil(137 / design.count) == design.cycles


def test_masses_and_travel(request_, result, figures):
    design, station = result.designs[0], request_.station
    plate = 400 * 350 * 25 * 2700e-9
    stops = 2 * 8 * 40 * 12 * 7850e-9
    clamp = station.clamp.width_mm * station.clamp.length_mm * station.clamp.height_mm * 7850e-9
    part = 60 * 40 * 25 * 2700e-9
    assert figures["load"].value == pytest.approx(
        plate + design.count * (part + stops + clamp), rel=1e-6
    )
    farthest = 0.0
    for placed in design.stations:
        turn = math.radians(placed.turn)
        for x, y in [
            (-5 - 1, -5 - 1),
            (60 + 6, 40 + 6),
        ]:  # half a cutter and its clearance outside the part's corners
            farthest = max(
                farthest,
                abs(placed.x_mm + x * math.cos(turn) - y * math.sin(turn) - 200),
                abs(placed.y_mm + x * math.sin(turn) + y * math.cos(turn) - 175),
            )
    axis = figures["travel"].label[-1]
    assert figures["travel"].value <= 2 * farthest + 1e-3
    assert axis in "XY"


def test_least_torque_lies_below_the_set_one_and_the_window_below_the_rating(
    request_, result, figures
):
    assert 0 < figures["least_torque"].value <= request_.station.clamp.torque_nm
    assert figures["preload"].value < figures["preload_high"].value
    # Preload grows with torque in proportion.
    double = plan(
        request_.model_copy(
            update={
                "station": request_.station.model_copy(
                    update={"clamp": request_.station.clamp.model_copy(update={"torque_nm": 7.0})}
                )
            }
        )
    )
    assert result.hold.preload_low_n == pytest.approx(2 * double.hold.preload_low_n)


def test_the_worst_station_is_the_tolerance_figure(request_, result, figures):
    design = result.designs[0]
    worst = max(design.stations, key=lambda placed: placed.tolerance_share)
    assert figures["tolerance"].label == f"Bore, station {worst.number}"
    assert figures["tolerance"].value == pytest.approx(
        worst.tolerance_share * views_of(request_)[0].judged[0].tolerance_mm
    )
    for placed in design.stations:
        turn = math.radians(placed.turn)
        x = placed.x_mm + 30 * math.cos(turn) - 20 * math.sin(turn)
        y = placed.y_mm + 30 * math.sin(turn) + 20 * math.cos(turn)
        assert (placed.feature_x_mm, placed.feature_y_mm) == pytest.approx((x, y), abs=1e-6)


def test_the_ledger_judges_each_figure_by_its_limit_and_says_what_binds(result, figures):
    limits = result.designs[0].limits
    assert not any(item.binds for item in limits), "room that is left keeps nothing out by itself"
    assert [item.share for item in limits] == sorted((item.share for item in limits), reverse=True)
    for item in limits:
        assert item.used == figures[item.figure].value
        share = item.allowed / item.used if item.sense == "at least" else item.used / item.allowed
        assert item.share == pytest.approx(share)
        assert item.source


def _at(document: dict, field: str):
    """The place a dotted field stands in, and its key there."""
    *way, key = field.split(".")
    for step in way:
        document = document[int(step) if isinstance(document, list) else step]
    return document, key


def test_what_a_limit_is_set_by_is_there_shows_what_it_says_and_moves_it(request_, result):
    """Each is changed as a person would, planned anew, and read off the same line."""
    lines = {item.id: item for item in result.designs[0].limits}
    own = {name: item.set_by for name, item in lines.items() if item.set_by}
    assert set(own) == {"face_room", "hold_factor", "offsets", "screw", "tolerance"}
    for name, to in [("screw", 15.0), ("hold_factor", 2.1), ("tolerance", 0.06)]:
        asked = request_.model_dump(mode="json")
        place, key = _at(asked, own[name].field)
        shown = lines[name].used if own[name].shows == "used" else lines[name].allowed
        assert place[key] == pytest.approx(shown)
        place[key] = to
        again = {
            item.id: item for item in plan(PlanRequest.model_validate(asked)).designs[0].limits
        }
        now = again[name].used if own[name].shows == "used" else again[name].allowed
        assert now == pytest.approx(to)
        assert again[name].share != pytest.approx(lines[name].share)
    place, key = _at(request_.model_dump(mode="json"), own["face_room"].field)
    assert (own["face_room"].shows, place[key]) == ("beside", request_.station.clearance_mm)
    place, key = _at(request_.model_dump(mode="json"), own["offsets"].field)
    assert place[key] in own["offsets"].options


@given(st.floats(0.01, 100), st.floats(0.01, 100), st.booleans())
def test_within_close_and_over(value, allowed, at_least):
    figure = Figure(id="x", label="x", value=value, formula="x", source="x")
    judged = limit(figure, allowed, "drawing", at_least=at_least)
    good = value >= allowed if at_least else value <= allowed
    if abs(value - allowed) > 1e-6 * allowed:
        assert (judged.state != "over") == good
    if judged.share < CLOSE_SHARE:
        assert judged.state == "within"


def test_numbered_and_named_once_and_everything_survives_as_json(request_, result):
    design = result.designs[0]
    assert [placed.number for placed in design.stations] == list(range(1, design.count + 1))
    assert len({figure.id for figure in [*result.figures, *design.figures]}) == len(
        result.figures
    ) + len(design.figures)
    document = JobDocument.model_validate(request_.model_dump())
    whole = with_results(document, [SetupResult(number=1, result=result)])
    assert JobDocument.model_validate_json(whole.model_dump_json()) == whole


def test_cautions_name_the_lift_limit_and_burning_chips_where_they_apply(request_, result):
    assert any("single block" in caution for caution in result.cautions)
    assert not any(f"{LIFT_LIMIT_KG:g} kg" in caution for caution in result.cautions)
    document = request_.model_dump() | {"quantity": 400}
    document["plate"] |= {"thickness_mm": 120}
    document["parts"][0]["material"] = "titanium-6al4v"
    document["parts"][0]["ops"][0]["cuts"][0] |= {"axial_depth_mm": 3, "radial_width_mm": 0.5}
    heavy = plan(PlanRequest.model_validate(document))
    assert any("23 kg (51 lb)" in caution for caution in heavy.cautions)
    assert any("can burn" in caution for caution in heavy.cautions)
    assert not any("safe" in caution.lower() for caution in heavy.cautions)


def test_catalogue_entries_are_complete_and_generic():
    entries = catalogue()
    for machine in entries.machines:
        assert machine.travel_x_mm >= machine.travel_y_mm > 0
    for plate in entries.plates:
        assert all(
            0 < item.x_mm < plate.width_mm and 0 < item.y_mm < plate.depth_mm
            for item in plate.keepouts
        )
    assert {item.id for item in entries.materials} == set(MATERIALS)
    with pytest.raises(OutOfRange, match="known materials are"):
        material("unobtainium")


def test_field_errors_name_path_value_and_reason():
    document = starting_request("x", 1).model_dump()
    document["parts"][0]["ops"][0]["cuts"][0]["tool"]["teeth"] = 0
    document["machine"]["travel_x_mm"] = "wide"
    del document["parts"][0]["height_mm"]
    try:
        PlanRequest.model_validate(document)
    except ValueError as error:
        found = {item.field: item for item in field_errors(error)}
    assert set(found) == {
        "parts.0.ops.0.cuts.0.tool.teeth",
        "machine.travel_x_mm",
        "parts.0.height_mm",
    }
    assert found["parts.0.height_mm"].value == "nothing"
    assert "greater than or equal to 1" in found["parts.0.ops.0.cuts.0.tool.teeth"].message
