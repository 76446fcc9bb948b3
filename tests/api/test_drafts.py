"""A job drafted over the service: begun from a part alone, written by the worker, touched by
hand.
"""

from __future__ import annotations

from tests.api.service import change_field, run_once
from wedgecraft.core.records.material import MATERIALS

_PLATE = {"shape": {"kind": "rectangle", "width_mm": 60, "depth_mm": 40}}


def _begun(planner, **more):
    material = MATERIALS["aluminium-6061"].model_dump(mode="json")
    asked = {"name": "Plate", "quantity": 40, "material": material, "outline": _PLATE, **more}
    return planner.call("POST", "/api/jobs/drafts", asked)


def test_a_part_alone_becomes_a_job_that_a_person_argues_with(planner, database):
    status, job = _begun(planner, thickness_mm="1/2 in")
    assert status == 201
    assert job["document"]["route"] is None
    assert job["latest"]["run"]["status"] == "queued"
    assert run_once(database, job).status == "done"
    job = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    assert [op["up"] for op in job["document"]["job"]["parts"][0]["ops"]] == ["+Z", "-Z"]
    assert job["latest"]["result"]["feasible"]
    assumed = {item["field"]: item for item in job["assumed"]}
    assert 3 <= len(assumed) <= 10
    assert assumed["job.parts.0.stock"]["step"] == "part"
    # what is changed by hand is no longer assumed, and stays when it is drafted again
    status, job = change_field(planner, job, "job.parts.0.stock.z.low_mm", "9")
    assert status == 200
    assert {item["field"] for item in job["assumed"]} == set(assumed) - {"job.parts.0.stock"}
    status, job = planner.call("POST", f"/api/jobs/{job['id']}/draft")
    assert (status, job["document"]["route"]) == (200, None)
    assert run_once(database, job).status == "done"
    job = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    assert job["document"]["job"]["parts"][0]["stock"]["z"]["low_mm"] == 9
    assert job["document"]["route"] is not None


def test_a_job_that_cannot_be_drafted_says_why_and_goes_on_by_hand(planner, database):
    large = {"shape": {"kind": "rectangle", "width_mm": 900, "depth_mm": 800}}
    status, job = _begun(planner, outline=large, thickness_mm=300)
    assert status == 201
    run = run_once(database, job)
    assert (run.status, "no standard bar or plate is that large" in run.error) == ("failed", True)
    status, job = planner.call("POST", f"/api/jobs/{job['id']}/route")
    assert status == 200
    assert len(job["document"]["route"]["setups"]) == 1
    again = planner.call("POST", f"/api/jobs/{job['id']}/route")[1]
    assert again["version"] == job["version"]  # once is enough


def test_what_is_missing_or_wrong_of_a_draft_is_named(planner):
    status, said = _begun(planner)
    assert (status, said["errors"][0]["field"]) == (422, "thickness_mm")
    status, said = _begun(planner, thickness_mm="thick")
    assert (status, said["errors"][0]["field"]) == (422, "thickness_mm")
    status, said = _begun(planner, thickness_mm=10, upload="0" * 32)
    assert (status, said["title"]) == (409, "File not read")


def test_parts_of_a_kit_are_drafted_together(planner, database):
    other = {"shape": {"kind": "rectangle", "width_mm": 30, "depth_mm": 20}}
    material = MATERIALS["steel-c45"].model_dump(mode="json")
    second = {"name": "Foot", "material": material, "outline": other, "per_kit": 2}
    status, said = _begun(planner, thickness_mm=12, more=[second])
    assert (status, said["errors"][0]["field"]) == (422, "more.0.thickness_mm")
    status, job = _begun(planner, thickness_mm=12, more=[{**second, "thickness_mm": 10}])
    assert status == 201
    assert run_once(database, job).status == "done"
    job = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    parts = job["document"]["job"]["parts"]
    assert [(part["name"], part["per_kit"]) for part in parts] == [("Plate", 1), ("Foot", 2)]
    assert all(op["cuts"] for part in parts for op in part["ops"])
    result = job["latest"]["result"]
    assert (result["feasible"], result["counted"]) == (True, "kits")
    assert result["complete_a_cycle"] >= 1


def test_a_draft_is_taken_back_and_what_holds_an_op_is_one_press(planner, database):
    job = _begun(planner, thickness_mm=12)[1]
    run_once(database, job)
    here = f"/api/jobs/{job['id']}"
    drafted = planner.call("GET", here)[1]
    version = drafted["version"]
    # drafted again, which empties it, and taken back
    job = planner.call("POST", f"{here}/draft")[1]
    run_once(database, job)
    step = planner.call("GET", f"{here}/steps")[1]["undo"]["id"]
    job = planner.call("POST", f"{here}/undo", {"step": step})[1]
    assert job["document"] == drafted["document"]
    assert job["version"] > version
    # an op that no setup holds is proposed a setup
    taken = {"version": job["version"], "part": 0, "op": 1, "setup": None}
    job = planner.call("POST", f"{here}/held", taken)[1]
    assert len(job["document"]["route"]["setups"]) == 1
    status, job = planner.call("POST", f"{here}/rest", {"version": job["version"]})
    assert (status, len(job["document"]["route"]["setups"])) == (200, 2)
    assert any(item["field"].startswith("route.setups.1") for item in job["assumed"])
    status, said = planner.call("POST", f"{here}/rest", {"version": job["version"]})
    assert (status, said["title"]) == (422, "Nothing of the shop holds it as it is")
    # too weak: what holds it is offered, and taken
    job = change_field(planner, job, "route.setups.0.form.torque_nm", 0.5)[1]
    assert planner.call("GET", f"{here}/mends?setup=7")[0] == 404
    offered = planner.call("GET", f"{here}/mends?setup=1")[1]["mends"]
    assert offered
    press = {"version": job["version"], "setup": 1, "what": "something else"}
    assert planner.call("POST", f"{here}/mends", press)[0] == 409
    status, job = planner.call("POST", f"{here}/mends", {**press, "what": offered[0]})
    assert status == 200
    planner.call("POST", f"{here}/runs")
    assert run_once(database, job).status == "done"
    assert planner.call("GET", here)[1]["latest"]["result"]["feasible"]
