"""The bench over the service: a station moved is judged at once, undone at once, planned round,
written out and read back.
"""

from __future__ import annotations

import pytest

from tests.api.service import Browser, change_field, new_job, result_of, setup_of, solve
from wedgecraft.api import job_state
from wedgecraft.store.models import Run


@pytest.fixture
def planned(planner, database):
    job = new_job(planner)
    result = solve(database, job)
    stations = [
        {"x_mm": s.x_mm, "y_mm": s.y_mm, "turn": s.turn, "locked": False}
        for s in result.designs[0].stations
    ]
    return job, stations


def test_a_station_moved_is_judged_at_once_and_undone_at_once(planner, database, planned):
    job, stations = planned
    moved = [stations[0] | {"x_mm": stations[0]["x_mm"] + 8}, *stations[1:]]
    status, state = change_field(
        planner, job, "route.setups.0.arrangement", {"own": True, "stations": moved}
    )
    assert status == 200
    assert state["latest"]["run"]["current"]
    design = result_of(state)["designs"][0]
    assert not result_of(state)["feasible"]
    assert design["count"] < len(stations) == len(design["stations"])
    assert "too near station" in design["stations"][0]["faults"][0]
    assert any(
        reason["field"].startswith("route.setups.0.arrangement.stations.")
        for reason in result_of(state)["reasons"]
    )
    for step in range(3):  # the result of a placing takes the place of the one before
        moved[0] = moved[0] | {"x_mm": stations[0]["x_mm"], "locked": step == 2}
        state = change_field(
            planner, job, "route.setups.0.arrangement", {"own": True, "stations": moved}
        )[1]
    assert result_of(state)["feasible"]
    assert result_of(state)["designs"][0]["stations"][0]["locked"]
    with database.session() as session:
        assert session.query(Run).filter(Run.job_id == job["id"]).count() == 2
    for kept in (job_state._planned, job_state._results, job_state._bodies):
        kept._known.clear()
    read = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    assert read["latest"] == state["latest"]  # what was answered from memory is what is stored
    undone = change_field(
        planner, job, "route.setups.0.arrangement", {"own": False, "stations": []}
    )[1]
    assert undone["latest"]["run"]["current"]  # the solved layout again, without planning it again
    assert len(result_of(undone)["designs"][0]["stations"]) == len(stations)
    listed = planner.call("GET", "/api/jobs")[1]["jobs"][0]
    assert (listed["parts_per_cycle"], listed["current"]) == (len(stations), True)


def test_placing_after_another_change_is_judged_by_a_run_and_bad_placings_are_named(
    planner, database, planned
):
    job, stations = planned
    change_field(planner, job, "route.setups.0.holds.0.station.clamp.torque_nm", 15)
    state = change_field(
        planner, job, "route.setups.0.arrangement", {"own": True, "stations": stations[:3]}
    )[1]
    assert state["latest"]["run"]["status"] == "queued"
    for value, field in [
        (
            {"own": True, "stations": [{"x_mm": "far", "y_mm": 0}]},
            "route.setups.0.arrangement.stations.0.x_mm",
        ),
        (
            {"own": True, "stations": [{"x_mm": 0, "y_mm": 0, "turn": 45}]},
            "route.setups.0.arrangement.stations.0.turn",
        ),
        ({"own": True, "stations": [stations[0]] * 1001}, "route.setups.0.arrangement.stations"),
    ]:
        status, problem = change_field(planner, job, "route.setups.0.arrangement", value)
        assert (status, problem["errors"][0]["field"]) == (422, field)
    inches = change_field(
        planner,
        job,
        "route.setups.0.arrangement",
        {"own": True, "stations": [{"x_mm": "4 in", "y_mm": '2 1/2"'}]},
    )[1]
    assert setup_of(inches)["arrangement"]["stations"][0]["x_mm"] == 101.6


def test_go_regions_rows_and_files(app, planner, planned):
    job, stations = planned
    base = f"/api/jobs/{job['id']}/layout"
    change_field(
        planner, job, "route.setups.0.arrangement", {"own": True, "stations": stations[:4]}
    )
    rings = planner.call("GET", f"{base}/room?station=0&turn={stations[0]['turn']}")[1]["areas"]
    assert rings
    assert len(planner.call("GET", f"{base}/room?turn=0")[1]["areas"][0][0]) >= 4
    row = planner.call("GET", f"{base}/row?station=3&towards=%2BX")[1]
    assert row["pitch_mm"] > 30
    assert all(place["turn"] == stations[3]["turn"] for place in row["stations"])
    for query, status in [
        ("station=9&towards=%2BX", 422),
        ("station=0&towards=up", 422),
        ("station=0&towards=%2BX&pitch_mm=0", 422),
    ]:
        assert planner.call("GET", f"{base}/row?{query}")[0] == status
    assert planner.call("GET", f"{base}/room?turn=45")[0] == 422
    reader = Browser(app)
    reader.sign_in("viewer")
    for form, begins in [
        ("csv", b"station,face,op,x [mm]"),
        ("dxf", b"  0\nSECTION"),
        ("svg", b"<?xml"),
    ]:
        answer = reader._client.get(f"{base}/file?format={form}")
        assert (answer.status_code, answer.data[:40].startswith(begins)) == (200, True)
        assert f'bracket-layout.{form}"' in answer.headers["Content-Disposition"]
    table = reader._client.get(f"{base}/file?format=csv&units=inch").data.decode()
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    given = {"version": version, "text": table.replace("no", "yes", 1), "units": "mm"}
    assert reader.call("POST", f"{base}/table", given)[0] == 403
    status, state = planner.call("POST", f"{base}/table", given)
    assert (status, state["notes"]) == (200, ["4 stations were read"])
    read = setup_of(state)["arrangement"]["stations"]
    assert read[0]["locked"]
    assert [place["x_mm"] for place in read] == pytest.approx(
        [place["x_mm"] for place in stations[:4]], abs=1e-3
    )
    assert planner.call("POST", f"{base}/table", given)[0] == 409
    status, problem = planner.call(
        "POST", f"{base}/table", given | {"version": version + 1, "text": "x,y\n1,far\n"}
    )
    assert (status, "row 1, y" in problem["detail"]) == (422, True)
    change_field(planner, job, "job.quantity", 77)
    assert (
        planner.call("GET", f"{base}/file?format=dxf")[0] == 409
    )  # no layout of the job as it now stands


def test_stations_on_several_faces_go_out_and_come_back_as_a_table(planner, database):
    job = new_job(planner)
    change_field(planner, job, "job.quantity", 900)
    plate = setup_of(job)["form"]["plate"]
    block = {"kind": "tombstone", "faces": 3, "body_kg": "20 kg", "plate": plate}
    change_field(planner, job, "route.setups.0.form", block)
    result = solve(database, job)
    assert len({station.face for station in result.designs[0].stations}) == 3
    text = planner._client.get(f"/api/jobs/{job['id']}/layout/file?format=csv").get_data(
        as_text=True
    )
    assert text.splitlines()[0].startswith("station,face,op,x [mm],y [mm]")
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    status, state = planner.call(
        "POST", f"/api/jobs/{job['id']}/layout/table", {"version": version, "text": text}
    )
    assert status == 200
    placed = result_of(state)["designs"][0]["stations"]
    assert [(s["face"], round(s["x_mm"], 3)) for s in placed] == [
        (s.face, round(s.x_mm, 3)) for s in result.designs[0].stations
    ]
    for wrong, said in (("face=3", "face 3"), ("kind=1", "kind 1"), ("face=99", "")):
        status, problem = planner.call("GET", f"/api/jobs/{job['id']}/layout/room?turn=0&{wrong}")
        assert status == 422
        assert said in problem["detail"]


def test_two_on_one_job_are_told_and_neither_loses_anything(planner, app, database):
    job = new_job(planner)
    other = Browser(app)
    assert other.sign_in("admin") == 200
    here = f"/api/jobs/{job['id']}/here"
    assert planner.call("POST", here, {"page": "a" * 32})[1]["others"] == []
    assert other.call("POST", here, {"page": "b" * 32, "on": "Hold"})[1]["others"] != []
    (there,) = planner.call("POST", here, {"page": "a" * 32})[1]["others"]
    name = there["name"]
    assert (there["on"], there["own"]) == ("Hold", False)
    # A second page of one's own is told apart, and forgotten when it closes.
    (twice,) = (
        item
        for item in planner.call("POST", here, {"page": "d" * 32, "on": "Cuts"})[1]["others"]
        if item["own"]
    )
    assert twice["on"] == ""
    planner.call("POST", here, {"page": "d" * 32, "open": False})
    assert planner.call("POST", here, {"page": "a" * 32})[1]["others"] == [there]
    # Both read the same version; the second to store is refused, and keeps theirs in a copy.
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    place = [{"x_mm": 100, "y_mm": 100, "turn": 0}]
    change = {
        "version": version,
        "path": "route.setups.0.arrangement",
        "value": {"own": True, "stations": place},
    }
    assert (
        other.call(
            "PATCH", f"/api/jobs/{job['id']}/fields", change | {"path": "job.quantity", "value": 77}
        )[0]
        == 200
    )
    status, problem = planner.call("PATCH", f"/api/jobs/{job['id']}/fields", change)
    assert status == 409
    assert name in problem["detail"]
    assert planner.call("POST", here, {"page": "a" * 32})[1]["version"] == version + 1
    status, copy = planner.call(
        "POST",
        f"/api/jobs/{job['id']}/copy",
        {"path": "route.setups.0.arrangement", "value": change["value"]},
    )
    assert status == 201
    assert copy["name"].endswith(", copy")
    assert setup_of(copy)["arrangement"]["stations"][0]["x_mm"] == 100
    assert (
        copy["document"]["job"]["quantity"]
        == planner.call("GET", f"/api/jobs/{job['id']}")[1]["document"]["job"]["quantity"]
        == 77
    )
    planner.call("POST", here, {"page": "a" * 32, "open": False})
    assert other.call("POST", here, {"page": "b" * 32})[1]["others"] == []
    assert other.call("POST", here, {"page": "no page"})[0] == 422
