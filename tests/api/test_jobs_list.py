"""The list of jobs: found, sorted, each with a picture of its design, how its steps stand, and what
it waits for; and pieces of a placing, looked at after its count.
"""

from __future__ import annotations

from types import SimpleNamespace

import pytest
from shapely.geometry import Polygon, box
from sqlalchemy import update

from tests.api.service import change_field, new_job, result_of, run_once
from wedgecraft.api import job_line
from wedgecraft.core.explain.steps import STEPS, step_states
from wedgecraft.core.explain.waiting import waits_for, worst_of
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.records.job import JobDocument
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import jobs
from wedgecraft.store.models import Job, Run


def _listed(planner, **asked):
    query = "&".join(f"{key}={value}" for key, value in asked.items())
    status, found = planner.call("GET", f"/api/jobs?{query}")
    assert status == 200, found
    return found


def _called(planner, name, quantity, due=None):
    given = {"name": name, "quantity": quantity} | ({"due": due} if due else {})
    return planner.call("POST", "/api/jobs", given)[1]


def test_jobs_are_found_by_words_of_name_or_machine_and_sorted(planner):
    _called(planner, "Weir cap 100%", 30, "2027-03-01")
    _called(planner, "weir_foot", 900)
    _called(planner, "Anchor", 2, "2027-01-05")
    names = [job["name"] for job in _listed(planner, order="name")["jobs"]]
    assert names == ["Anchor", "Weir cap 100%", "weir_foot"]
    by_due = [job["name"] for job in _listed(planner, order="due")["jobs"]]
    assert by_due == ["Anchor", "Weir cap 100%", "weir_foot"]  # without a day at the end
    assert _listed(planner, order="quantity")["jobs"][0]["name"] == "weir_foot"
    assert {job["name"] for job in _listed(planner, search="weir")["jobs"]} == {
        "Weir cap 100%",
        "weir_foot",
    }
    # All words, in any order, of the name or the machine; signs of the database are only letters.
    machine = _listed(planner)["jobs"][0]["machine"].split()[0]
    assert _listed(planner, search=f"{machine}%20cap")["total"] == 1
    assert _listed(planner, search="%25")["jobs"][0]["name"] == "Weir cap 100%"
    assert _listed(planner, search="_")["total"] == 1
    assert _listed(planner, search="nothing%20so")["jobs"] == []
    assert planner.call("GET", "/api/jobs?order=size")[0] == 422


def test_a_job_says_how_its_steps_stand_and_what_it_waits_for(planner, database):
    job = new_job(planner)
    (line,) = _listed(planner)["jobs"]
    assert (line["picture"], line["waits_for"]) == (None, "its first plan")
    assert {state["state"] for state in line["states"]} == {"not checked"}
    planner.call("POST", f"/api/jobs/{job['id']}/runs")
    assert _listed(planner)["jobs"][0]["planning"]
    assert _listed(planner)["jobs"][0]["waits_for"] == ""
    run_once(database, job)
    state = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    (line,) = _listed(planner)["jobs"]
    assert not line["planning"]
    assert [item["step"] for item in line["states"]] == list(STEPS)
    assert line["states"] == state["latest"]["steps"][0]
    assert line["waits_for"] == waits_for(worst_of([_states(state)]), line["parts_per_cycle"])
    _as_placed(line["picture"], result_of(state)["designs"][0], state)
    # A result from before there were cards gets one when it is first listed, and keeps it.
    with database.session() as session:
        session.execute(update(Run).values(card=None))
    assert _listed(planner)["jobs"][0] == line
    with database.session() as session:
        assert session.query(Run.card).filter(Run.status == "done").first()[0] is not None
    change_field(planner, job, "job.quantity", 51)
    (line,) = _listed(planner)["jobs"]
    assert {item["state"] for item in line["states"]} == {"changed"}
    assert line["waits_for"] == "a new plan: it changed"
    assert line["picture"] is not None  # as it was, said to be out of date


def _states(state):
    document = {**state["document"], "result": state["latest"]["result"]}
    found = JobDocument.model_validate(document).result
    setup = found.setups[0]
    return step_states(setup.result, found.reasons, found.doubts, setup.making)


def _as_placed(picture, design, state):
    """As many outlines as parts, each where its station stands, inside the faces, none on another;
    as large as the parts are but for what is too small to be seen.
    """
    parts = [Polygon(ring) for ring in picture["parts"]]
    assert len(parts) == len(design["stations"])
    (x, y, wide, high) = picture["faces"][0]
    face = box(x, y, x + wide, y + high)
    size = state["facts"][0]["area_mm2"]
    for part, station in zip(parts, design["stations"], strict=True):
        assert face.covers(part)
        assert part.area == pytest.approx(size, rel=0.1)
        assert abs(part.centroid.x - station["x_mm"]) < 200
    for k, part in enumerate(parts):
        assert all(part.intersection(other).area < 1 for other in parts[k + 1 :])


def test_a_program_is_marked_only_when_that_of_every_setup_was_tried(
    planner, database, monkeypatch
):
    """Two setups: one accepted is not both; one that is wrong is said whatever the other is."""
    job = new_job(planner)
    run_once(database, job)
    _listed(planner)  # the card is there
    with database.session() as session:
        run = jobs.newest_done(session, job["id"])
        session.execute(update(Run).where(Run.id == run.id).values(card={**run.card, "setups": 2}))

    def marked(*states):
        steps = {
            number: SimpleNamespace(step={"step": "program", "state": state, "why": "as tried"})
            for number, state in enumerate(states, 1)
        }
        monkeypatch.setattr(job_line.programs, "tried", lambda *_: steps)
        (line,) = _listed(planner)["jobs"]
        return next(s["state"] for s in line["states"] if s["step"] == "program")

    assert marked("within") == "not checked"
    assert marked("within", "within") == "within"
    assert marked("over") == "over"
    assert marked("within", "over") == "over"


def test_the_worst_setup_marks_a_step_and_the_first_thing_in_the_way_is_said():
    fine = [item.model_copy(update={"state": "within"}) for item in step_states(None)]
    over = [
        item.model_copy(update={"state": "over", "why": "too far"})
        if item.step == "locate"
        else item
        for item in fine
    ]
    close = [item.model_copy(update={"state": "close"}) for item in fine]
    assert [item.state for item in worst_of([fine, close])] == ["close"] * len(STEPS)
    worst = {item.step: item.state for item in worst_of([close, over, fine])}
    assert (worst["locate"], worst["hold"]) == ("over", "close")
    assert waits_for(worst_of([over, fine]), 5) == "locate: too far"
    assert waits_for(fine, 5) == ""
    assert waits_for(fine, None) == "its first plan"
    untried = [
        item.model_copy(update={"state": "not checked"}) if item.step == "program" else item
        for item in fine
    ]
    assert waits_for(untried, 5) == "its program to be tried"


def test_an_edit_answers_with_its_count_and_a_worker_looks_at_the_pieces(planner, database):
    job = new_job(planner)
    planner.call("POST", f"/api/jobs/{job['id']}/runs")
    run_once(database, job)
    state = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    before = state["latest"]["result"]["setups"][0]["making"]
    assert before is not None
    design = result_of(state)["designs"][0]
    stations = [
        {"x_mm": item["x_mm"], "y_mm": item["y_mm"], "turn": item["turn"]}
        for item in design["stations"][1:]
    ]
    field = "route.setups.0.arrangement"
    placed = change_field(planner, job, field, {"own": True, "stations": stations})[1]
    assert result_of(placed)["designs"][0]["count"] == design["count"] - 1
    assert placed["latest"]["run"]["current"]
    assert placed["latest"]["result"]["setups"][0]["making"] is None
    make = next(item for item in placed["latest"]["steps"][0] if item["step"] == "make")
    assert make["state"] == "not checked"  # never green where nobody looked
    assert planner.call("POST", f"/api/jobs/{job['id']}/pieces")[0] == 202
    queue = Queue(database)
    queue._look_at_pieces(job["id"])
    looked = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    making = looked["latest"]["result"]["setups"][0]["making"]
    document = JobDocument.model_validate(
        {**looked["document"], "result": looked["latest"]["result"]}
    )
    assert making == pieces_of(document, 1).short.model_dump(mode="json")
    assert making != before  # a station fewer has fewer holes
    # Of a job that has gone, or was never planned, there is nothing to look at.
    queue._look_at_pieces("0" * 32)
    other = new_job(planner)
    queue._look_at_pieces(other["id"])
    with database.session() as session:
        assert jobs.newest_done(session, session.get_one(Job, other["id"]).id) is None
    queue.close()
