"""Fixtures that exist, found by their label, and what is pressing today."""

from __future__ import annotations

import io
from datetime import UTC, date, datetime, timedelta

import pypdfium2 as pdfium
import zxingcpp
from pypdf import PdfReader

from tests.api.service import Browser, change_field, new_job, setup_of, solve
from wedgecraft.core.floor.today import JobNow, days_needed, today_lines


def test_a_fixture_is_made_from_a_design_found_by_its_label_and_keeps_what_happened(
    planner, app, database
):
    job = new_job(planner)
    given = {"job_id": job["id"], "setup": 1}
    assert planner.call("POST", "/api/shelf", given)[0] == 409
    result = solve(database, job)
    visitor, setter = Browser(app), Browser(app)
    assert (visitor.sign_in("viewer"), setter.sign_in("operator")) == (200, 200)
    assert visitor.call("POST", "/api/shelf", given)[0] == 403
    status, made = setter.call("POST", "/api/shelf", given)
    assert (status, made["number"], made["state"]) == (201, "F-001", "in use")
    assert planner.call("POST", "/api/shelf", given)[1]["number"] == "F-002"
    drawn = [s["number"] for face in made["made"]["faces"] for s in face["stations"]]
    assert drawn == [station.number for station in result.designs[0].stations]
    assert planner.call("POST", "/api/shelf", given | {"setup": 9})[0] == 404
    # its label leads to it, read back by another library
    body = setter._client.get("/api/shelf/F-001/label.pdf").data
    assert "F-001" in PdfReader(io.BytesIO(body)).pages[0].extract_text()
    picture = pdfium.PdfDocument(body)[0].render(scale=6).to_pil()
    (code,) = zxingcpp.read_barcodes(picture)
    assert code.text.endswith("/shelf/F-001")
    assert visitor.call("GET", "/api/shelf/f-001")[1]["id"] == made["id"]
    assert visitor.call("GET", "/api/shelf/F-999")[0] == 404
    # what happens to it stays; parts of its setup are counted from the day it was made
    here = f"/api/shelf/{made['id']}"
    assert visitor.call("PATCH", here, {"place": "rack"})[0] == 403
    setter.call("PATCH", here, {"place": "rack 3, shelf B"})
    shown = setter.call("PATCH", here, {"state": "crashed", "note": "clamp of station 2 bent"})[1]
    said = [line["what"] for line in shown["history"]]
    assert said[1:] == ["lies at rack 3, shelf B", "crashed; clamp of station 2 bent"]
    assert setter.call("PATCH", here, {"state": "lost"})[0] == 422
    for k, at in enumerate(
        (datetime.now(UTC) + timedelta(hours=1), datetime(2020, 1, 1, tzinfo=UTC))
    ):
        cycle = {"id": f"{k:032x}", "at": at.isoformat(), "kind": "cycle", "seconds": 900}
        entry = cycle | {"good": 7, "scrapped": [2]}
        assert setter.call("POST", f"/api/jobs/{job['id']}/log", {"entries": [entry]})[0] == 200
    shown = setter.call("GET", here)[1]
    assert (shown["parts"], shown["changed"]) == (8, False)
    # measured places are kept with the fixture and used again
    assert planner.call("POST", f"{here}/places")[0] == 409
    station = result.designs[0].stations[0]
    place = {"station": 1, "x_mm": station.x_mm + 0.02, "y_mm": station.y_mm}
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    measured = {"version": version, "setup": 1, "places": [place], "within_mm": 0.003}
    assert planner.call("POST", f"/api/jobs/{job['id']}/measured", measured)[0] == 200
    kept = planner.call("POST", f"{here}/places")[1]
    assert "1 measured stations kept" in kept["history"][-1]["what"]
    state = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    empty = {"own": False, "stations": []}
    state = change_field(planner, job, "route.setups.0.arrangement", empty)[1]
    status, state = planner.call("POST", f"{here}/use", {"version": state["version"]})
    assert status == 200
    used = setup_of(state)["arrangement"]["stations"][0]["measured"]
    assert used["x_mm"] == station.x_mm + 0.02
    # the job may go; the fixture stays
    assert planner.call("DELETE", f"/api/jobs/{job['id']}")[0] in (200, 204)
    assert [f["number"] for f in visitor.call("GET", "/api/shelf")[1]["fixtures"]] == [
        "F-001",
        "F-002",
    ]


def test_today_is_told_by_role(planner, app, database):
    bare, job = new_job(planner), new_job(planner)
    solve(database, job)
    setter = Browser(app)
    assert setter.sign_in("operator") == 200
    lines = planner.call("GET", "/api/today")[1]["lines"]
    assert [(line["job_id"], line["says"]) for line in lines] == [(bare["id"], "not planned yet")]
    (line,) = setter.call("GET", "/api/today")[1]["lines"]
    assert (line["kind"], line["job_id"], line["step"]) == ("load", job["id"], "tablet")


def test_late_is_said_by_hand_figures():
    """100 left at 10 a day are 10 working days, two weeks."""
    now = date(2026, 3, 2)
    job = JobNow("1", "a", 120, date(2026, 3, 14), True, True, True, 10.0, good=20)
    assert days_needed(job) == 14
    (late,) = [line for line in today_lines([job], "admin", now) if line.kind == "late"]
    assert late.urgent
    assert late.says == "100 left at 10 a day take 14 days: 2 days late"
    calm = JobNow("1", "a", 120, date(2026, 4, 14), True, True, True, 10.0, says=["Station 3 …"])
    kinds = {role: [line.kind for line in today_lines([calm], role, now)] for role in
             ("operator", "planner", "viewer", "admin")}  # fmt: skip
    assert kinds == {
        "operator": ["load"], "planner": ["log"], "viewer": [], "admin": ["load", "log"]
    }  # fmt: skip
    done = JobNow("1", "a", 20, date(2026, 3, 3), True, True, True, 10.0, good=20)
    assert today_lines([done], "admin", now) == []
