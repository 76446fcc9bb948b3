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
