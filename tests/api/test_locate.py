"""Locate over the service: verdicts of the layout on screen, measured fixtures typed and read, the
first article's table.
"""

from __future__ import annotations

import csv
import io
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.api.service import Browser, change_field, new_job, result_of, run_once, setup_of, solve
from wedgecraft.core.records.request import OwnStation
from wedgecraft.formats.measured import from_csv


@pytest.fixture
def planned(planner, database):
    """A small job with its layout, and the address of its locating."""
    job = new_job(planner)
    change_field(planner, job, "job.quantity", 6)
    return job, solve(database, job), f"/api/jobs/{job['id']}"


def _csv(stations, off=(0.01, -0.004), unit="mm", scale=1.0, skip=()) -> str:
    lines = [f"station,x [{unit}],y [{unit}]"]
    for number, station in enumerate(stations, 1):
        if number not in skip:
            x, y = (station.x_mm + off[0]) / scale, (station.y_mm + off[1]) / scale
            lines.append(f"{number},{x:.5f},{y:.5f}")
    return "\n".join(lines) + "\n"


def test_the_table_is_of_the_stations_on_screen_and_one_of_them_can_be_asked_for_everything(
    planner, planned
):
    job, result, base = planned
    stations = result.designs[0].stations
    status, table = planner.call("GET", f"{base}/locate")
    assert status == 200
    assert [verdict["station"] for verdict in table["columns"][0]["verdicts"]] == list(
        range(len(stations))
    )
    for verdict, station in zip(table["columns"][0]["verdicts"], stations, strict=True):
        assert verdict["share"] == pytest.approx(station.tolerance_share)
    assert (table["detail"], table["pretend"], table["parts"]) == (None, False, len(stations))
    assert 0 < table["good_parts"] <= len(stations)
    detail = planner.call("GET", f"{base}/locate?station=2&feature=Bore")[1]["detail"]
    assert detail["probable_mm"] == pytest.approx(table["columns"][0]["verdicts"][1]["probable_mm"])
    assert {figure["id"] for figure in detail["figures"]} == {
        "locate_probable",
        "locate_worst",
        "locate_out",
        "locate_cpk",
    }
    assert all(
        figure["formula"] and figure["source"] and figure["inputs"] for figure in detail["figures"]
    )
    assert planner.call("GET", f"{base}/locate?station=99&feature=Bore")[0] == 422
    change_field(planner, job, "job.quantity", 7)
    assert planner.call("GET", f"{base}/locate")[0] == 409  # not planned as it now stands


def test_without_a_layout_the_datum_stands_for_one_and_says_what_would_bring_it_in(
    planner, database
):
    job = new_job(planner)
    change_field(planner, job, "job.parts.0.features.0.tolerance_mm", 0.03)
    change_field(planner, job, "route.setups.0.accuracy.station_place_mm", 0.03)
    assert run_once(database, job).status == "done"
    assert (
        planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]["result"]["setups"][0]["result"][
            "designs"
        ]
        == []
    )
    status, table = planner.call("GET", f"/api/jobs/{job['id']}/locate?station=1&feature=Bore")
    assert (status, table["pretend"]) == (200, True)
    best = table["detail"]["remedies"][0]
    assert best["brings_in"]
    change_field(planner, job, best["field"], best["value"])
    assert solve(database, job).feasible


def test_a_measured_fixture_replaces_the_drawn_and_keeps_the_layout_as_it_is(planner, planned, app):
    job, result, base = planned
    stations = result.designs[0].stations
    before = planner.call("GET", f"{base}/locate?station=1&feature=Bore")[1]["detail"]
    version = planner.call("GET", base)[1]["version"]
    reader = Browser(app)
    assert reader.sign_in("viewer") == 200
    given = {"version": version, "text": _csv(stations), "within_mm": "0.0001 in"}
    assert reader.call("POST", f"{base}/measured", given)[0] == 403
    status, state = planner.call("POST", f"{base}/measured", given)
    assert (status, state["notes"]) == (200, [f"{len(stations)} measured stations were read"])
    kept = setup_of(state)["arrangement"]
    assert kept["own"]
    assert [item["measured"]["x_mm"] for item in kept["stations"]] == pytest.approx(
        [s.x_mm + 0.01 for s in stations], abs=1e-4
    )
    assert kept["stations"][0]["measured"]["within_mm"] == pytest.approx(0.00254)
    after = planner.call("GET", f"{base}/locate?station=1&feature=Bore")[1]["detail"]
    assert after["probable_mm"] < before["probable_mm"]
    place = next(add for add in after["adds"] if add["name"] == "station place")
    assert place["x_mm"] == pytest.approx(0.00254)
    found = planner.call("GET", f"{base}/locate")[1]["measured"]
    assert [item["station"] for item in found] == list(range(len(stations)))
    assert [item["off_mm"] for item in found] == pytest.approx(
        [math.hypot(0.01, 0.004)] * len(stations), abs=1e-4
    )
    # In step with the design: its stations use less at once.
    design = result_of(state)["designs"][0]
    assert design["stations"][0]["tolerance_share"] == pytest.approx(
        after["probable_mm"] / after["tolerance_mm"]
    )
    # One more is typed, in any unit; the others stay as they were read.
    places = [
        {
            "station": 2,
            "x_mm": f"{(stations[1].x_mm + 0.02) / 25.4:.6f} in",
            "y_mm": stations[1].y_mm,
            "z_mm": "0.2 thou",
        }
    ]
    status, state = planner.call(
        "POST", f"{base}/measured", {"version": state["version"], "places": places}
    )
    read = setup_of(state)["arrangement"]["stations"]
    assert read[1]["measured"]["x_mm"] == pytest.approx(stations[1].x_mm + 0.02, abs=1e-4)
    assert read[1]["measured"]["z_mm"] == pytest.approx(0.00508)
    assert read[0]["measured"]["x_mm"] == pytest.approx(stations[0].x_mm + 0.01, abs=1e-4)
    status, state = planner.call("POST", f"{base}/measured", {"version": state["version"]})
    assert [item["measured"] for item in setup_of(state)["arrangement"]["stations"]] == [
        None
    ] * len(stations)


@pytest.mark.parametrize(
    ("table", "said"),
    [
        (lambda s: _csv(s, skip=(2,)), "not measured: 2"),
        (lambda s: _csv([*s, s[0]]), "is none of the"),
        (lambda s: _csv(s) + "1,5,5\n", "there twice"),
        (lambda s: _csv(s, unit="mm", scale=25.4), "read as inches they fit"),
        (lambda s: _csv(s, off=(40, 0)), "another datum, or another fixture"),
        (lambda s: "station,x\n1,5\n", "this column is needed"),
        (lambda s: "station,x,y\n1,5,\n", "there is no number"),
        (lambda s: "station,x,y\n1,5,far\n", "not a length"),
        (lambda s: "only words", "a row of titles"),
    ],
)
def test_a_measured_table_that_cannot_be_true_changes_nothing(planner, planned, table, said):
    _, result, base = planned
    version = planner.call("GET", base)[1]["version"]
    status, problem = planner.call(
        "POST", f"{base}/measured", {"version": version, "text": table(result.designs[0].stations)}
    )
    assert status == 422
    assert said in problem["detail"] + "".join(item["message"] for item in problem["errors"])
    assert planner.call("GET", base)[1]["version"] == version


def test_rows_without_numbers_count_in_order_and_a_unit_in_a_title_or_a_cell_counts_first():
    stations = [OwnStation(x_mm=25.4, y_mm=50.8), OwnStation(x_mm=101.6, y_mm=50.8)]
    found, faults = from_csv("x [inch];y\n1.0001;50.81 mm\n4;2 in\n", stations, "inch")
    assert faults == []
    assert [(item.measured.x_mm, item.measured.y_mm) for item in found] == [
        (pytest.approx(25.40254), pytest.approx(50.81)),
        (pytest.approx(101.6), pytest.approx(50.8)),
    ]


def test_the_first_article_goes_out_as_a_table_in_measuring_order(planner, planned):
    job, _, base = planned
    features = planner.call("GET", base)[1]["document"]["job"]["parts"][0]["features"]
    more = features[0] | {
        "name": "=Port",
        "x_mm": 12,
        "y_mm": 9,
        "measured_from": "feature",
        "from_feature": "Bore",
        "tolerance_mm": 0.2,
    }
    change_field(planner, job, "job.parts.0.features", [more, *features])
    assert planner._client.get(f"{base}/locate/first-article").status_code == 409
    database = planner._client.application.extensions["database"]
    solve(database, job)
    answer = planner._client.get(f"{base}/locate/first-article")
    rows = list(csv.DictReader(io.StringIO(answer.get_data(as_text=True))))
    assert "first-article.csv" in answer.headers["Content-Disposition"]
    assert [row["feature"] for row in rows] == [
        "Bore",
        "'=Port",
    ]  # what it is measured from comes first; no formula gets out
    assert rows[1]["nominal [mm]"] == "X -18.0000 Y -11.0000"
    assert float(rows[0]["expect within [mm]"]) < float(rows[0]["tolerance [mm]"])
    inches = planner._client.get(f"{base}/locate/first-article?units=inch").get_data(as_text=True)
    row = list(csv.DictReader(io.StringIO(inches)))[1]
    assert row["nominal [inch]"] == "X -0.70866 Y -0.43307"
    assert float(row["tolerance [inch]"]) == pytest.approx(0.2 / 25.4, abs=1e-5)


@settings(max_examples=150, deadline=None)
@given(
    st.one_of(
        st.text(max_size=200),
        st.lists(
            st.lists(
                st.one_of(st.floats(), st.integers(-5, 99), st.text(max_size=6), st.none()),
                max_size=5,
            ),
            max_size=8,
        ).map(
            lambda rows: (
                "station;x;y;z\n"
                + "\n".join(
                    ";".join("" if cell is None else str(cell) for cell in row) for row in rows
                )
            )
        ),
    )
)
def test_no_table_breaks_the_reader_and_what_it_reads_is_where_it_says(text):
    stations = [OwnStation(x_mm=10, y_mm=20), OwnStation(x_mm=80, y_mm=20)]
    found, faults = from_csv(text, stations)
    assert bool(found) != bool(faults)
    for station, drawn in zip(found, stations, strict=bool(found)):
        assert abs(station.measured.x_mm - drawn.x_mm) <= 3
        assert abs(station.measured.y_mm - drawn.y_mm) <= 3


def test_the_datum_the_planner_picked_goes_on_when_stations_are_moved(planner, database):
    job = new_job(planner)
    change_field(planner, job, "job.quantity", 4)
    change_field(planner, job, "job.parts.0.features.0.tolerance_mm", 0.036)
    change_field(planner, job, "job.rules.datum", "cheapest in tolerance")
    assert run_once(database, job).status == "done"
    base = f"/api/jobs/{job['id']}"
    result = result_of(planner.call("GET", base)[1])
    design = result["designs"][0]
    picked = next(item for item in result["strategies"] if item["rank"] == 1)
    assert design["datum"] == picked["strategy"]
    assert design["count"] == picked["count"] == max(item["count"] for item in result["strategies"])
    before = planner.call("GET", f"{base}/locate")[1]["columns"][0]["verdicts"]
    stations = [
        {key: item[key] for key in ("face", "kind", "x_mm", "y_mm", "turn")}
        for item in design["stations"]
    ]
    own = {"own": True, "stations": stations}
    moved = result_of(change_field(planner, job, "route.setups.0.arrangement", own)[1])
    assert moved["designs"][0]["datum"] == picked["strategy"]
    assert moved["feasible"]
    after = planner.call("GET", f"{base}/locate")[1]["columns"][0]["verdicts"]
    assert [item["share"] for item in after] == pytest.approx([item["share"] for item in before])
    assert planner.call("GET", f"{base}/layout/room?turn=0")[0] == 200
