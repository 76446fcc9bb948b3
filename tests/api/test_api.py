"""The service over a real database: closed by default, roles, errors in words, planning by a real
worker, recovery.
"""

from __future__ import annotations

import io
import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import ezdxf
import pytest

from tests.api.service import Browser, change_field, new_job, parts_of, send, setup_of
from wedgecraft.store import jobs
from wedgecraft.store.models import Job

CUT = "job.parts.0.ops.0.cuts.0"


def test_every_address_is_closed_but_health_and_sign_in(app):
    stranger = Browser(app)
    stranger.call("GET", "/api/session")
    opened = set()
    for rule in app.url_map.iter_rules():
        path = re.sub(r"<int:\w+>", "0", re.sub(r"<\w+_id>", "x", rule.rule))
        for method in rule.methods - {"HEAD", "OPTIONS"}:
            status, problem = stranger.call(method, path, {} if method != "GET" else None)
            if status != 401 or problem["title"] != "Please sign in":
                opened.add((method, rule.rule))
    assert opened == {
        ("GET", "/api/health"),
        ("GET", "/api/ready"),
        ("GET", "/api/session"),
        ("POST", "/api/session"),
    }


def test_changes_need_the_token_and_roles_hold(app):
    planner = Browser(app)
    planner.sign_in("planner")
    assert planner.call("POST", "/api/jobs", {"name": "X", "quantity": 1}, token=False)[0] == 400
    job = new_job(planner)
    change = {"version": 1, "path": "job.quantity", "value": 7}
    for role in ("operator", "viewer"):
        reader = Browser(app)
        reader.sign_in(role)
        assert reader.call("GET", f"/api/jobs/{job['id']}")[0] == 200
        for method, path, body in [
            ("POST", "/api/jobs", {"name": "X"}),
            ("PATCH", f"/api/jobs/{job['id']}/fields", change),
            ("POST", f"/api/jobs/{job['id']}/runs", None),
            ("DELETE", f"/api/jobs/{job['id']}", None),
            ("GET", "/api/people", None),
        ]:
            status, problem = reader.call(method, path, body)
            assert (status, problem["title"]) == (403, "Not allowed")
    assert planner.call("GET", "/api/people")[0] == 403
    admin = Browser(app)
    admin.sign_in("admin")
    status, listed = admin.call("GET", "/api/people")
    assert status == 200
    me = next(person for person in listed["people"] if person["role"] == "admin")
    assert admin.call("PATCH", f"/api/people/{me['id']}", {"role": "viewer"})[0] == 422


def test_guessing_is_slowed_down_and_does_not_lock_the_right_person_elsewhere(app):
    guesser = Browser(app)
    tries = [guesser.sign_in("planner", "wrong") for _ in range(8)]
    assert tries == [401] * 6 + [429] * 2
    assert guesser.sign_in("admin") == 200


def test_a_changed_password_ends_sessions_elsewhere(app):
    planner, admin = Browser(app), Browser(app)
    planner.sign_in("planner")
    admin.sign_in("admin")
    person = next(
        p for p in admin.call("GET", "/api/people")[1]["people"] if p["role"] == "planner"
    )
    assert (
        admin.call("PATCH", f"/api/people/{person['id']}", {"password": "another long password"})[0]
        == 200
    )
    assert planner.call("GET", "/api/jobs")[0] == 401


def test_preferences_are_kept_per_person(app, planner):
    assert (
        planner.call("PATCH", "/api/session/preferences", {"units": "inch", "theme": "dark"})[0]
        == 200
    )
    again = Browser(app)
    again.sign_in("planner")
    person = again.call("GET", "/api/session")[1]["person"]
    assert (person["units"], person["theme"]) == ("inch", "dark")
    assert planner.call("PATCH", "/api/session/preferences", {"theme": "pink"})[0] == 422


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        (f"{CUT}.axial_depth_mm", "-3 mm", "greater than 0"),
        (f"{CUT}.axial_depth_mm", "five", "not a length"),
        (f"{CUT}.axial_depth_mm", "5 kg", "not a unit of length"),
        ("job.quantity", 0, "greater than or equal to 1"),
        ("job.quantity", 1e12, "less than or equal"),
        ("job.parts.0.height_mm", float("1e9"), "less than or equal"),
        ("route.setups.0.form.plate.width_mm", None, "a length is a number"),
        ("route.setups.0.holds.0.station.turns", [45], "0, 90, 180 or 270"),
        ("job.parts.0.outline", {"outer": [[0, 0], [9, 9], [9, 0], [0, 9]]}, "crosses"),
        ("route.setups.0.form.plate.colour", "blue", "no such field"),
        (f"{CUT}.tool.teeth.9", 1, "no such field"),
    ],
)
def test_a_wrong_value_is_named_and_changes_nothing(planner, path, value, said):
    job = new_job(planner)
    status, problem = planner.call(
        "PATCH", f"/api/jobs/{job['id']}/fields", {"version": 1, "path": path, "value": value}
    )
    assert status == 422
    assert problem["errors"][0]["field"].startswith(path.split(".")[0])
    assert said in problem["errors"][0]["message"]
    assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["document"] == job["document"]


def test_fields_take_units_and_an_old_version_is_refused(planner):
    job = new_job(planner)
    change = {"version": 1, "path": "route.setups.0.form.plate.width_mm", "value": '15 3/4"'}
    status, changed = planner.call("PATCH", f"/api/jobs/{job['id']}/fields", change)
    assert (status, setup_of(changed)["form"]["plate"]["width_mm"], changed["version"]) == (
        200,
        400.05,
        2,
    )
    status, problem = planner.call("PATCH", f"/api/jobs/{job['id']}/fields", change)
    assert status == 409
    assert "Planner changed this job" in problem["detail"]


def _dxf(units=4):
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    document.modelspace().add_lwpolyline([(0, 0), (44, 0), (44, 30), (0, 30)], close=True)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_drawings_are_read_or_refused_in_words_and_nothing_is_stored_by_looking(planner):
    job = new_job(planner)
    for data, said in [
        (None, "No file was sent"),
        (b"", "empty"),
        (b"junk", "DXF"),
        (b"\0" * 30_000_000, "25 MB"),
        (b"%PDF-1.4", "a PDF"),
    ]:
        status, problem = send(planner, "/api/drawings", data)
        assert status == 422
        assert said in problem["detail"]
    status, problem = send(planner, "/api/drawings", _dxf(units=0))
    assert (status, problem["type"]) == (422, "units-missing")
    for form, said in [
        ({"units": "furlong"}, "not a unit"),
        ({"join": "far"}, "not a length"),
        ({"layers": "{"}, "list of names"),
    ]:
        status, problem = send(planner, "/api/drawings", _dxf(), **form)
        assert (status, said in problem["detail"]) == (422, True)
    status, found = send(
        planner, "/api/drawings", _dxf(units=0), units="inch", join="0.001 in", layers='["0"]'
    )
    assert status == 200
    assert found["outlines"][0]["width_mm"] == pytest.approx(44 * 25.4)
    assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"] == 1
    change = {"version": 1, "path": "job.parts.0.outline", "value": found["outlines"][0]["outline"]}
    changed = planner.call("PATCH", f"/api/jobs/{job['id']}/fields", change)[1]
    assert parts_of(changed)[0]["outline"]["origin"] == "DXF part.dxf"
    assert changed["facts"][0]["width_mm"] == pytest.approx(44 * 25.4)


def _worker(database):
    environment = os.environ | {"WEDGECRAFT_DATABASE": database.url}
    return subprocess.Popen(
        [sys.executable, "-m", "wedgecraft.cli", "worker"],
        env=environment,
        stderr=subprocess.DEVNULL,
    )


def _finished(browser, job_id, seconds=60):
    for _ in range(seconds * 5):
        state = browser.call("GET", f"/api/jobs/{job_id}")[1]["latest"]
        if state and state["run"]["status"] not in ("queued", "running"):
            return state
        time.sleep(0.2)
    raise AssertionError(f"still {state}")


def test_a_plan_is_worked_out_exported_and_read_again_and_a_killed_worker_loses_nothing(
    app, planner, database, monkeypatch
):
    job = new_job(planner)
    change_field(
        planner, job, "route.setups.0.form.plate.width_mm", 220
    )  # what is planned does not matter here, and small is quick
    first = planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"]
    assert planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"] == first
    worker = _worker(database)
    for _ in range(150):
        if planner.call("GET", f"/api/runs/{first}")[1]["run"]["status"] == "running":
            break
        time.sleep(0.1)
    worker.send_signal(signal.SIGKILL)
    worker.wait()
    worker = _worker(database)
    try:
        state = _finished(planner, job["id"])
        assert state["run"]["id"] == first
        assert state["run"]["status"] == "done"
        assert state["result"]["complete_a_cycle"] > 0
        # The same question again, and the export read back as a new job, give the same answer.
        document = planner.call("GET", f"/api/jobs/{job['id']}/document")[1]
        assert document["result"] == state["result"]
        status, copy = planner.call("POST", "/api/jobs/documents", document)
        assert status == 201
        assert copy["document"] == {
            key: value for key, value in document.items() if key != "result"
        }
        planner.call("POST", f"/api/jobs/{copy['id']}/runs")
        assert _finished(planner, copy["id"])["result"] == state["result"]
        change_field(planner, job, "route.setups.0.holds.0.station.clamp.torque_nm", 2)
        assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]["run"]["current"] is False
        run = planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"]
        assert planner.call("DELETE", f"/api/runs/{run}")[1]["run"]["status"] == "cancelled"
    finally:
        worker.terminate()
        assert worker.wait(20) == 0


def test_a_result_stored_by_an_earlier_version_asks_to_be_planned_again(planner, database):
    job = new_job(planner)
    with database.session() as session:
        run, _ = jobs.start_run(session, session.get_one(Job, job["id"]))
        jobs.finish(
            session,
            run.id,
            status="done",
            result={"feasible": True, "shape": "of long ago"},
            count=5,
        )
    status, state = planner.call("GET", f"/api/jobs/{job['id']}")
    assert (status, state["latest"]["result"], state["latest"]["run"]["current"]) == (
        200,
        None,
        False,
    )
    assert planner.call("GET", f"/api/jobs/{job['id']}/document")[1]["result"] is None


def test_a_wrong_plan_document_is_named_field_by_field(planner):
    job = new_job(planner)
    document = job["document"] | {"job": job["document"]["job"] | {"quantity": "many"}}
    status, problem = planner.call("POST", "/api/jobs/documents", document)
    assert status == 422
    assert problem["errors"][0]["field"] == "job.quantity"
    for nonsense in ([], 5, {"format": "something else"}):
        assert planner.call("POST", "/api/jobs/documents", nonsense)[0] == 422


def test_a_database_that_is_away_is_said_and_comes_back_by_itself(app, planner, cluster, database):
    job = new_job(planner)
    cluster.kill()
    try:
        assert planner.call("GET", "/api/health")[0] == 200
        assert planner.call("GET", "/api/ready")[0] == 503
        status, problem = planner.call("GET", f"/api/jobs/{job['id']}")
        assert (status, problem["title"]) == (503, "The database is away")
    finally:
        cluster.start()
    assert planner.call("GET", "/api/ready")[0] == 200
    assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["document"] == job["document"]


def test_reading_is_said_to_be_private_and_pages_may_not_be_framed(planner):
    answer = planner._client.get("/api/jobs")
    assert answer.headers["Cache-Control"] == "no-store"
    assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"]
    assert json.loads(answer.data) == {"jobs": [], "total": 0, "deleted": 0}


def test_an_op_is_taken_out_with_what_names_it_and_put_back_whole(planner):
    job = new_job(planner)
    address = f"/api/jobs/{job['id']}"
    first = parts_of(job)[0]["ops"][0]
    three = [first | {"number": number} for number in (10, 20, 30)]
    change_field(planner, job, "job.parts.0.ops", three)
    held = {"version": 2, "part": 0, "op": 2, "setup": 2}
    before = planner.call("POST", f"{address}/held", held)[1]
    assert [
        [item["op"] for item in setup["holds"]] for setup in before["document"]["route"]["setups"]
    ] == [[0], [2]]
    status, after = planner.call(
        "POST", f"{address}/removals", {"version": before["version"], "part": 0, "op": 1}
    )
    assert status == 200
    assert [
        [item["op"] for item in setup["holds"]] for setup in after["document"]["route"]["setups"]
    ] == [[0], [1]]
    assert parts_of(after)[0]["ops"][1]["number"] == 30
    assert (
        planner.call(
            "POST", f"{address}/removals", {"version": before["version"], "part": 0, "op": 0}
        )[0]
        == 409
    )
    status, problem = planner.call(
        "POST", f"{address}/removals", {"version": after["version"], "part": 0}
    )
    assert (status, problem["detail"]) == (422, "part 0: the last one stays.")
    copy = planner.call("POST", f"{address}/copy", {"path": "", "value": before["document"]})[1]
    assert parts_of(copy) == parts_of(before)
    assert planner.call("POST", f"{address}/copy", {})[1]["document"]["job"]["parts"] == parts_of(
        after
    )
    status, back = change_field(planner, job, "", before["document"])
    assert (status, back["document"]) == (200, before["document"])
    assert change_field(planner, job, "", {"name": "nothing else"})[0] == 422


def test_pasted_cuts_go_in_together_or_not_at_all(planner):
    job = new_job(planner)
    table = {
        "version": 1,
        "part": 0,
        "op": 0,
        "text": "name\tkind\tdia\tdepth\tfz\trpm\tat\nT2\tdrill\t5\t12\t0.05\t6000\t10, 10",
    }
    status, problem = planner.call(
        "POST",
        f"/api/jobs/{job['id']}/cuts",
        table | {"text": table["text"] + "\nT3\tdrill\tbig\t3"},
    )
    assert status == 422
    assert problem["errors"][0]["field"] == "line 3, diameter"
    status, changed = planner.call("POST", f"/api/jobs/{job['id']}/cuts", table)
    assert (status, changed["version"]) == (200, 2)
    cuts = parts_of(changed)[0]["ops"][0]["cuts"]
    assert [cut["name"] for cut in cuts] == ["T1 contour", "T2"]
    answers = changed["facts"][0]["ops"][0]["cuts"]
    assert answers[1]["load"]["twist_nm"] > 0
    assert changed["facts"][0]["ops"][0]["seconds"] == pytest.approx(
        sum(answer["seconds"] for answer in answers)
    )
    assert (
        planner.call("POST", f"/api/jobs/{job['id']}/cuts", table | {"version": 2, "op": 7})[0]
        == 404
    )


def test_setups_are_offered_and_what_is_picked_can_be_stored(planner):
    job = new_job(planner)
    schemes = planner.call("GET", f"/api/jobs/{job['id']}/parts/0/setups")[1]["schemes"]
    assert {scheme["form"] for scheme in schemes} >= {"vises", "tombstone", "tiers"}
    taken = {"version": 1, "form": schemes[0]["form"]}
    status, changed = planner.call("POST", f"/api/jobs/{job['id']}/parts/0/scheme", taken)
    assert (status, parts_of(changed)[0]["ops"]) == (200, schemes[0]["picked"])
    assert [
        (setup["form"]["kind"], [held["op"] for held in setup["holds"]])
        for setup in changed["document"]["route"]["setups"]
    ] == [(schemes[0]["form"], [op]) for op in range(len(schemes[0]["picked"]))]
    undone = planner.call("POST", f"/api/jobs/{job['id']}/undo", {})[1]
    assert undone["document"] == job["document"]
    assert planner.call("GET", f"/api/jobs/{job['id']}/parts/5/setups")[0] == 404


def test_a_job_stored_by_the_first_version_opens_and_is_changed(planner, database):
    old = json.loads((Path(__file__).parents[1] / "core/plan_request_v1.json").read_text())
    job = new_job(planner)
    with database.session() as session:
        session.get_one(Job, job["id"]).request = old
    assert planner.call("GET", "/api/jobs")[0] == 200
    status, state = planner.call("GET", f"/api/jobs/{job['id']}")
    assert (status, state["document"]["version"]) == (200, 3)
    change = {"version": 1, "path": "job.parts.0.height_mm", "value": "1 in"}
    status, changed = planner.call("PATCH", f"/api/jobs/{job['id']}/fields", change)
    assert (status, parts_of(changed)[0]["height_mm"]) == (200, 25.4)
