"""The run and its log over the service: nothing lost, nothing double, and a value learned, taken
over and taken back.
"""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

from tests.api.service import Browser, change_field, new_job, send, solve

START = datetime(2026, 3, 2, 7, 0, tzinfo=UTC)


def entry(k, kind="load", **given):
    at = (START + timedelta(minutes=10 * k)).isoformat()
    return {"id": uuid.uuid5(uuid.NAMESPACE_OID, f"{kind} {k}").hex, "at": at, "kind": kind} | given


def test_a_job_is_run_and_who_is_there_changes_its_day_not_its_design(planner, app, database):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/running"
    assert planner.call("GET", here)[0] == 409
    assert planner.call("GET", f"{here}/worth")[0] == 409
    solve(database, job)
    found = planner.call("GET", here)[1]
    (stage,) = found["stages"]
    assert 0 < found["a_day"]["low"] <= found["a_day"]["mean"] <= found["a_day"]["high"]
    assert sum(item["share"] for item in stage["doing"]) < 1.001
    assert found["money"]["missing"] == [
        "job.rules.person_rate_an_hour",
        "route.setups.0.machine.rate_an_hour",
    ]
    rows = planner.call("GET", f"{here}/worth")[1]["rows"]
    assert rows == sorted(rows, key=lambda row: -row["gains"])
    assert all(row["why"] or row["gains"] > 0 for row in rows)
    status, state = change_field(planner, job, "running.elsewhere", 0.5)
    assert (status, state["latest"]["run"]["current"]) == (200, True)
    away = planner.call("GET", here)[1]
    assert away["a_day"]["mean"] < found["a_day"]["mean"]
    assert change_field(planner, job, "running.people", 0)[0] == 422
    catalogue = planner.call("GET", "/api/catalogue")[1]["running"]
    assert {"people", "alone", "edge_minutes"} <= {field["name"] for field in catalogue}
    # with rates, both courses in money
    change_field(planner, job, "job.rules.person_rate_an_hour", 50)
    change_field(planner, job, "route.setups.0.machine.rate_an_hour", 70)
    solve(database, planner.call("GET", f"/api/jobs/{job['id']}")[1])
    money = planner.call("GET", here)[1]["money"]
    now, tooled = money["courses"]
    assert tooled["made"] > now["made"] == 0
    assert tooled["total"] == tooled["made"] + tooled["each_order"] + 50 * tooled["a_piece"]
    assert money["says"]


def test_entries_come_in_once_however_often_and_late_they_are_sent(planner, app, database):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/log"
    setter, visitor = Browser(app), Browser(app)
    assert (setter.sign_in("operator"), visitor.sign_in("viewer")) == (200, 200)
    first = [entry(k, seconds=600 + k, parts=9) for k in range(30)]
    assert visitor.call("POST", here, {"entries": first})[0] == 403
    assert setter.call("POST", here, {"entries": first})[1]["stored"] == 30
    # sent again with more; one says something else now: what came first stands
    more = [*first, entry(40, "note", note="chips in the way")]
    more[3] = more[3] | {"seconds": 9}
    kept = setter.call("POST", here, {"entries": [*more, more[-1]]})[1]
    assert (kept["stored"], kept["known"], kept["other"]) == (1, 31, [more[3]["id"]])
    # a tablet whose clock is two hours slow: its times are put right
    slow = datetime.now(UTC) - timedelta(hours=2)
    late = entry(50, "stop", seconds=60, reason="coolant") | {"at": slow.isoformat()}
    kept = setter.call("POST", here, {"sent_at": slow.isoformat(), "entries": [late]})[1]
    assert 7190 < kept["clock_off_s"] < 7260
    page = visitor.call("GET", f"{here}?most=10")[1]
    assert (page["total"], len(page["entries"])) == (32, 10)
    stopped = datetime.fromisoformat(page["entries"][0]["at"])
    assert abs(stopped - datetime.now(UTC)) < timedelta(minutes=2)
    seen, mark = page["entries"], page["more"]
    while mark:
        page = visitor.call("GET", here, query_string={"most": 10, "before": mark})[1]
        seen, mark = seen + page["entries"], page["more"]
    assert len({item["id"] for item in seen}) == len(seen) == 32
    assert next(item for item in seen if item["id"] == more[3]["id"])["seconds"] == 603
    for wrong in (
        {"entries": [entry(1, "load", seconds=-1, parts=2)]},
        {"entries": [entry(1, "spell")]},
        {"entries": [entry(1, "stop", seconds=5, reason="x") | {"at": "2026-03-02T07:00:00"}]},
        {"entries": [entry(1) | {"id": "me"}]},
    ):
        assert setter.call("POST", here, wrong)[0] == 422
    assert setter.call("GET", f"{here}?before=nonsense")[0] == 422
    assert planner.call("GET", "/api/jobs/nobody/log")[0] == 404


def test_a_table_is_read_row_by_row_torn_or_sent_twice(planner, app, database):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/log"
    text = (
        "at;kind;setup;seconds;parts;torque_nm;station;note\n"
        "2026-03-02T07:00:00Z;load;1;612;9;;;\n"
        "2026-03-02T07:00:00Z;load;1;612;9;;;\n"
        "2026-03-02T07:05:00Z;torque;1;;;142 in·lb;3;\n"
        "2026-03-02T07:06:00Z;load;1;quick;9;;;\n"
        "2026-03-02T07:07:00Z;note;1;;;;;chips über all\n"
        "2026-03-02T07:09:00Z;load;1;61"
    )
    status, kept = send(planner, f"{here}/file", text.encode(), "log.csv")
    assert (status, kept["stored"], kept["wrong"]) == (200, 4, 2)
    assert [(f["row"], f["column"]) for f in kept["faults"]] == [(4, "seconds"), (6, "")]
    assert "torn" in kept["faults"][1]["message"]
    again = send(planner, f"{here}/file", text.encode(), "log.csv")[1]
    assert (again["stored"], again["known"]) == (0, 4)
    out = planner._client.get(f"{here}.csv").data
    assert b"16.04" in out  # 142 in·lb
    assert send(planner, f"{here}/file", out, "log.csv")[1]["stored"] == 0
    for wrong in (b"", b"\x00\x01\x02", b"a,b\n1,2\n", b"at,kind"):
        status, said = send(planner, f"{here}/file", wrong, "log.csv")
        assert status == 422 or said["stored"] == 0
    many = ["at,kind,seconds,parts"] + [
        f"{(START + timedelta(seconds=5 * k)).isoformat()},load,{600 + k % 7},9"
        for k in range(4_000)
    ]
    kept = send(planner, f"{here}/file", "\n".join(many).encode(), "many.csv")[1]
    assert kept["stored"] == 4_000
    page = planner.call("GET", f"{here}?most=10000")[1]
    assert (len(page["entries"]), page["total"]) == (4_004, 4_004)


def test_what_the_log_shows_is_taken_over_shown_in_open_jobs_and_taken_back(planner, app, database):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/log"
    result = solve(database, job)
    design = result.designs[0]
    parts = sum(len(design.kinds[s.kind].drawing.places) for s in design.stations)
    loading = design.cycle.loading_seconds
    bad = design.stations[2].number
    log = []
    for k in range(36):
        scrapped = [bad] if k % 3 == 0 else []
        log.append(entry(k, seconds=loading * (1.4 + 0.02 * (k % 5)), parts=parts))
        log.append(entry(k, "cycle", seconds=900, good=parts - len(scrapped), scrapped=scrapped))
    assert planner.call("POST", here, {"entries": log})[1]["stored"] == 72
    found = planner.call("GET", f"{here}/said")[1]["said"]
    assert [s["station"] for s in found["stations"] if s["stands_out"]] == [bad]
    item = next(i for i in found["learned"] if i["id"] == "loading")
    assert item["contradicts"]
    assert 1.4 * 40 < item["low"] < item["value"] < item["high"] < 1.5 * 40
    effects = planner.call("GET", f"{here}/effects?learned=loading")[1]["jobs"]
    assert [e["job_id"] for e in effects] == [job["id"]]
    assert effects[0]["after"] < effects[0]["before"]
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    setter = Browser(app)
    assert setter.sign_in("operator") == 200
    given = {"learned": "loading", "version": version}
    assert setter.call("POST", f"{here}/adopted", given)[0] == 403
    key = {"headers": {"X-CSRFToken": planner._token, "Idempotency-Key": "a" * 32}}
    for _ in range(2):  # its answer was lost, and it is sent again
        answer = planner._client.post(f"{here}/adopted", json=given, **key)
        assert answer.status_code == 200
    state = answer.get_json()
    assert state["document"]["job"]["rules"]["handling_seconds"] == round(item["value"], 1)
    (row,) = planner.call("GET", f"{here}/said")[1]["adopted"]
    assert (row["before"], row["cases"], row["undone"]) == (40, 36, False)
    assert planner.call("POST", f"{here}/adopted", given)[0] == 409  # of another version
    back = {"id": row["id"], "version": state["version"]}
    status, state = planner.call("DELETE", f"{here}/adopted", query_string=back)
    assert (status, state["document"]["job"]["rules"]["handling_seconds"]) == (200, 40)
    assert planner.call("GET", f"{here}/said")[1]["adopted"][0]["undone"]
    assert planner.call("DELETE", f"{here}/adopted", query_string=back)[0] == 404
    assert planner.call("GET", f"{here}/effects?learned=luck")[0] == 404
