"""Hold over the service: the planner's choice is written into the job, and the grip in a vise is
answered beside the plan.
"""

from __future__ import annotations

from tests.api.service import change_field, new_job, result_of, run_once, station_of
from wedgecraft.core.shop.picks import named


def test_the_clamps_the_planner_chose_are_those_of_the_job_and_the_result_answers_it(
    planner, database
):
    job = new_job(planner)
    change_field(planner, job, "route.setups.0.holds.0.station.offered", ["double wedge", "strap"])
    before = change_field(planner, job, "route.setups.0.holds.0.station.by_planner", True)[1]
    assert run_once(database, job).status == "done"
    state = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    station, ways = (station_of(state), result_of(state)["ways"])
    assert state["latest"]["run"]["current"]
    assert state["version"] == before["version"] + 1
    assert ways[0]["rank"] == 1
    assert station["sharing"]["how"] == ways[0]["sharing"]["how"] == "double wedge between two"
    assert station["clamp"]["torque_nm"] == ways[0]["torque_nm"]
    assert {way["rank"] for way in ways[1:]} == {0}
    # Planned once more it chooses the same, and the job stays as it is.
    assert run_once(database, job).status == "done"
    assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"] == state["version"]
    # A station a person moves is judged by the clamps that were chosen.
    stations = [
        {"x_mm": s["x_mm"], "y_mm": s["y_mm"], "turn": s["turn"]}
        for s in result_of(state)["designs"][0]["stations"]
    ]
    moved = change_field(
        planner, job, "route.setups.0.arrangement", {"own": True, "stations": stations}
    )[1]
    assert result_of(moved)["designs"][0]["count"] == result_of(state)["designs"][0]["count"]


def test_a_person_who_changes_the_job_meanwhile_is_not_written_over(planner, database):
    job = new_job(planner)
    change_field(planner, job, "route.setups.0.holds.0.station.offered", ["double wedge"])
    change_field(planner, job, "route.setups.0.holds.0.station.by_planner", True)
    changed = []
    run_once(
        database,
        job,
        lambda: changed.append(
            change_field(planner, job, "route.setups.0.holds.0.station.clearance_mm", 9)[1]
        ),
    )
    state = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    assert state["version"] == changed[0]["version"]
    assert station_of(state)["clearance_mm"] == 9
    assert station_of(state)["sharing"]["how"] == "a clamp each"
    assert not state["latest"]["run"]["current"]


def test_the_grip_in_a_vise_is_answered_and_refusals_name_their_field(planner):
    job = new_job(planner)
    vise = named("vise", "Vise, 125 mm jaws").model_dump(mode="json")
    status, found = planner.call(
        "POST", f"/api/jobs/{job['id']}/vise", {"vise": vise, "torque_nm": 40}
    )
    assert status == 200
    assert 0 < found["grip"]["least_mm"] < found["jaw_mm"]
    toothed = planner.call(
        "POST", f"/api/jobs/{job['id']}/vise", {"vise": vise, "torque_nm": 40, "toothed": True}
    )[1]
    assert toothed["grip"]["curve"][-1]["factor"] > found["grip"]["curve"][-1]["factor"]
    status, problem = planner.call(
        "POST", f"/api/jobs/{job['id']}/vise", {"vise": vise, "torque_nm": 400}
    )
    assert (status, problem["errors"][0]["field"]) == (422, "clamp.torque_nm")
    assert "rating" in problem["detail"]
    assert (
        planner.call("POST", f"/api/jobs/{job['id']}/vise", {"vise": vise, "torque_nm": "fast"})[0]
        == 422
    )
