"""No change that was acknowledged is ever lost, none is made twice, and each can be taken back:
real threads, the real service and database.
"""

from __future__ import annotations

import random
import threading
import time
import uuid
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from sqlalchemy import event, func, select, update

from tests.api.service import Browser, change_field, new_job, run_once, solve
from tests.formats.fuzz import step_seed
from wedgecraft.core.shop.picks import starting_job
from wedgecraft.store import jobs, upkeep
from wedgecraft.store.models import Change, Job, Run, Upload, now

#: What each writer changes: a field of its own, so that the last value it was told was stored must
#: stand in the end.
_OWN = [
    "job.quantity",
    "route.setups.0.form.plate.margin_mm",
    "job.parts.0.height_mm",
    "route.setups.0.zeros.x_mm",
    "job.rules.setup_minutes",
]


def _signed_in(app, name) -> Browser:
    browser = Browser(app)
    assert browser.sign_in(name) == 200
    return browser


def _keyed(browser, method, path, body, key=None):
    key = key or uuid.uuid4().hex
    answer = browser._client.open(
        path,
        method=method,
        json=body,
        headers={"X-CSRFToken": browser._token, "Idempotency-Key": key},
    )
    return answer.status_code, answer.get_json(silent=True)


def test_of_many_writers_no_acknowledged_change_is_lost(app, planner):
    path = f"/api/jobs/{new_job(planner)['id']}"
    acknowledged, lost = Counter(), []

    def write(number: int) -> None:
        browser, chance = _signed_in(app, ("planner", "admin")[number % 2]), random.Random(number)
        stored = None
        version = browser.call("GET", path)[1]["version"]
        while acknowledged[number] < 6:
            value = chance.randint(30, 60)
            status, answer = browser.call(
                "PATCH",
                f"{path}/fields",
                {"version": version, "path": _OWN[number], "value": value},
            )
            if status == 200:
                acknowledged[number] += 1
                stored = value
            else:
                assert status == 409, answer
                time.sleep(chance.random() / 20)
                answer = browser.call("GET", path)[1]
            version = answer["version"]
            node = answer["document"]
            for key in _OWN[number].split("."):
                node = node[int(key)] if key.isdigit() else node[key]
            if stored is not None and node != stored:
                lost.append((number, stored, node))

    with ThreadPoolExecutor(5) as pool:
        list(pool.map(write, range(5)))
    assert lost == []
    assert planner.call("GET", path)[1]["version"] == 1 + acknowledged.total() == 1 + 5 * 6


def test_a_change_whose_answer_was_lost_is_sent_again_and_made_once(app, planner, database):
    key, job_key = uuid.uuid4().hex, uuid.uuid4().hex
    made = [
        _keyed(planner, "POST", "/api/jobs", {"name": "Once", "quantity": 5}, job_key)
        for _ in range(2)
    ]
    assert [status for status, _ in made] == [201, 201]
    assert made[0][1]["id"] == made[1][1]["id"]
    path = f"/api/jobs/{made[0][1]['id']}"
    browsers = [_signed_in(app, "planner") for _ in range(4)]
    edit = {"version": 1, "path": "job.quantity", "value": 7}
    with ThreadPoolExecutor(4) as pool:  # also when the second comes before the first is done
        answers = list(
            pool.map(
                lambda browser: _keyed(browser, "PATCH", f"{path}/fields", edit, key), browsers
            )
        )
    assert {(status, answer["version"], answer["quantity"]) for status, answer in answers} == {
        (200, 2, 7)
    }
    due = {"version": 2, "due": "2031-05-06"}
    key = uuid.uuid4().hex
    assert [_keyed(planner, "PUT", f"{path}/due", due, key)[1]["version"] for _ in range(2)] == [
        3,
        3,
    ]
    assert (
        _keyed(planner, "PUT", f"{path}/due", {"version": 2, "due": None})[0] == 409
    )  # another's older view of the date
    key = uuid.uuid4().hex
    copies = {_keyed(planner, "POST", f"{path}/copy", {}, key)[1]["id"] for _ in range(2)}
    assert len(copies) == 1
    assert planner.call("GET", "/api/jobs")[1]["total"] == 2
    entry = {
        "kind": "cutter",
        "name": "A cutter of one's own",
        "data": planner.call("GET", "/api/shop?kind=cutter")[1]["entries"][0]["data"],
    }
    key = uuid.uuid4().hex
    added = [_keyed(planner, "POST", "/api/shop/entries", entry, key) for _ in range(2)]
    assert [status for status, _ in added] == [201, 201], added
    key, change = uuid.uuid4().hex, {"version": 1, "name": "Renamed"}
    assert [
        _keyed(planner, "PATCH", f"/api/shop/entries/{added[0][1]['id']}", change, key)[1][
            "version"
        ]
        for _ in range(2)
    ] == [2, 2]
    admin, key = _signed_in(app, "admin"), uuid.uuid4().hex
    person = {
        "sign_in": "fresh",
        "name": "Fresh",
        "role": "viewer",
        "password": "long enough password",
    }
    assert [_keyed(admin, "POST", "/api/people", person, key)[0] for _ in range(2)] == [201, 201]
    # A key stands for one change of one person.
    assert _keyed(admin, "PATCH", f"{path}/fields", edit, job_key)[0] == 422
    assert _keyed(planner, "PATCH", f"{path}/fields", edit, job_key)[0] == 422
    assert _keyed(planner, "PATCH", f"{path}/fields", edit, "short")[0] == 422


def test_every_plan_on_one_connection_is_started(database):
    """The eleventh was refused: by then the server had prepared the statement, and parameters no
    longer matched the index.
    """
    with database.session() as session:
        job = jobs.add_job(session, starting_job("Block", 20), None)
        for _ in range(30):
            run, added = jobs.start_run(session, job)
            assert added
            jobs.finish(session, run.id, status="cancelled")


def test_a_plan_asked_for_after_an_edit_answers_the_job_as_it_is_now(planner, database):
    job = new_job(planner)
    first = planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"]
    assert (
        planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"] == first
    )  # nothing changed: the same
    assert change_field(planner, job, "job.quantity", 77)[0] == 200
    second = planner.call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"]
    with database.session() as session:
        old, new = session.get_one(Run, first), session.get_one(Run, second)
        assert (old.status, new.status) == ("cancelled", "queued")
        assert new.document["job"]["quantity"] == 77

    def edit_and_plan() -> None:  # while a worker has it
        assert change_field(planner, job, "job.quantity", 78)[0] == 200
        planner.call("POST", f"/api/jobs/{job['id']}/runs")

    assert run_once(database, job, edit_and_plan).status == "cancelled"


def test_undo_takes_back_exactly_the_last_change_of_ones_own_also_after_a_reload(app, planner):
    job = new_job(planner)
    path = f"/api/jobs/{job['id']}"
    for value in (11, 12, 13):
        change_field(planner, job, "job.quantity", value)
    again = _signed_in(app, "planner")  # another page, another day
    assert [again.call("POST", f"{path}/undo", {})[1]["quantity"] for _ in range(2)] == [12, 11]
    assert again.call("POST", f"{path}/redo", {})[1]["quantity"] == 12
    # Pressed before the change before it was answered: it names that change. Refused, there is
    # nothing of it to take back.
    version, key = again.call("GET", path)[1]["version"], uuid.uuid4().hex
    assert (
        _keyed(
            again,
            "PATCH",
            f"{path}/fields",
            {"version": version, "path": "job.quantity", "value": -1},
            key,
        )[0]
        == 422
    )
    assert again.call("POST", f"{path}/undo", {"step": key})[1]["quantity"] == 12
    assert (
        _keyed(
            again,
            "PATCH",
            f"{path}/fields",
            {"version": version, "path": "job.quantity", "value": 50},
            key,
        )[0]
        == 200
    )
    assert (
        again.call("GET", f"{path}/steps")[1]["redo"] is None
    )  # what was taken back is over with a new change
    undo = uuid.uuid4().hex
    assert {
        _keyed(again, "POST", f"{path}/undo", {"step": key}, undo)[1]["quantity"] for _ in range(2)
    } == {12}  # sent twice, once
    # Nobody takes back what somebody else put there since.
    other = _signed_in(app, "admin")
    assert other.call("GET", f"{path}/steps")[1]["undo"] is None
    change_field(other, job, "job.quantity", 99)
    assert again.call("POST", f"{path}/undo", {})[0] == 409
    change_field(other, job, "job.rules.setup_minutes", 33)
    assert (
        other.call("POST", f"{path}/undo", {})[1]["document"]["job"]["rules"]["setup_minutes"]
        == job["document"]["job"]["rules"]["setup_minutes"]
    )
    assert again.call("GET", path)[1]["quantity"] == 99


def test_a_job_that_was_read_is_kept_ready_and_never_out_of_date(app, planner, database):
    job = new_job(planner)
    path = f"/api/jobs/{job['id']}"
    first = planner._client.get(path)
    assert (
        planner._client.get(path, headers={"If-None-Match": first.headers["ETag"]}).status_code
        == 304
    )
    packed = planner._client.get(path, headers={"Accept-Encoding": "gzip"})
    assert packed.headers["Content-Encoding"] == "gzip"
    assert len(packed.data) < len(first.data) / 3

    def changed() -> bool:
        nonlocal first
        before, first = (
            first,
            planner._client.get(path, headers={"If-None-Match": first.headers["ETag"]}),
        )
        return first.status_code == 200 and first.data != before.data

    asked = []

    @event.listens_for(database.engine, "before_cursor_execute")
    def _count(*call) -> None:
        asked.append(call[2])

    planner._client.get(path)
    assert len(asked) <= 3  # the session, and what tells whether anything changed
    change_field(planner, job, "job.quantity", 8)
    assert changed()
    planner.call("POST", f"{path}/runs")
    assert changed()
    with database.session() as session:
        run = session.scalar(select(Run).where(Run.job_id == job["id"]))
        jobs.report(session, run.id, step="half way", share=0.5)
    assert changed()
    solve(database, job)
    assert changed()


def test_what_is_deleted_rests_and_can_be_brought_back_and_lists_come_in_pages(
    app, planner, database
):
    ids = [new_job(planner)["id"] for _ in range(5)]
    planner.call("POST", f"/api/jobs/{ids[0]}/runs")
    assert [planner.call("DELETE", f"/api/jobs/{ids[0]}")[0] for _ in range(2)] == [204, 204]
    for method, path in [
        ("GET", ""),
        ("GET", "/document"),
        ("POST", "/runs"),
        ("POST", "/undo"),
        ("GET", "/locate"),
    ]:
        assert (
            planner.call(method, f"/api/jobs/{ids[0]}{path}", {} if method == "POST" else None)[0]
            == 404
        ), path
    pages = [planner.call("GET", f"/api/jobs?limit=3&offset={offset}")[1] for offset in (0, 3)]
    assert [len(page["jobs"]) for page in pages] == [3, 1]
    assert {job["id"] for page in pages for job in page["jobs"]} == set(ids[1:])
    assert {(page["total"], page["deleted"]) for page in pages} == {(4, 1)}
    (resting,) = planner.call("GET", "/api/jobs?deleted=true")[1]["jobs"]
    assert resting["id"] == ids[0]
    viewer = _signed_in(app, "viewer")
    assert viewer.call("POST", f"/api/jobs/{ids[0]}/bring-back")[0] == 403
    assert (
        planner.call("POST", f"/api/jobs/{ids[0]}/bring-back")[1]["latest"] is None
    )  # its run was ended
    planner.call("DELETE", f"/api/jobs/{ids[0]}")
    planner.call("DELETE", f"/api/jobs/{ids[1]}")
    with database.session() as session:
        session.execute(
            update(Job).where(Job.id == ids[0]).values(deleted_at=now() - timedelta(days=31))
        )
    assert upkeep.clean_up(database)["jobs"] == 1
    assert planner.call("POST", f"/api/jobs/{ids[0]}/bring-back")[0] == 404
    assert planner.call("POST", f"/api/jobs/{ids[1]}/bring-back")[0] == 200
    assert (
        planner.call("GET", "/api/shop?limit=2&offset=1")[1]["entries"][0]
        == planner.call("GET", "/api/shop")[1]["entries"][1]
    )
    admin = _signed_in(app, "admin")
    listed = admin.call("GET", "/api/people?limit=1&offset=1")[1]
    assert ([person["sign_in"] for person in listed["people"]], listed["total"]) == (
        ["operator"],
        4,
    )


def test_only_what_nothing_needs_any_more_is_pruned(planner, database):
    job, held = new_job(planner), step_seed()
    solve(database, job)
    with database.session() as session:
        row = session.get_one(Job, job["id"])
        for number in range(9):
            session.add(
                Run(
                    job_id=row.id,
                    document={},
                    digest=str(number),
                    status="done",
                    created_at=now() - timedelta(days=2 + number),
                )
            )
        session.add(
            Run(
                job_id=row.id,
                document={},
                digest="f",
                status="failed",
                created_at=now() - timedelta(days=8),
            )
        )
        uploads = [
            Upload(name=name, file=held, status="done", created_at=now() - timedelta(days=31))
            for name in ("held", "loose")
        ]
        session.add_all(uploads)
        session.flush()
        row.document = {**row.document, "solid": uploads[0].id}
    gone = upkeep.clean_up(database)
    assert (gone["runs"], gone["solids"], gone["jobs"]) == (5 + 1, 1, 0)
    with database.session() as session:
        assert session.scalar(select(func.count()).select_from(Run)) == upkeep.RUNS_KEPT
        assert jobs.latest_run(session, session.get_one(Job, job["id"])).result is not None
        assert [upload.name for upload in session.scalars(select(Upload))] == ["held"]
        assert (
            session.scalar(select(func.count()).select_from(Change)) == 1
        )  # the making of the job
    assert sum(upkeep.clean_up(database).values()) == 0


def test_a_design_that_an_update_left_unreadable_is_planned_again_and_says_so(planner, database):
    old, sound = new_job(planner), new_job(planner)
    for job in (old, sound):
        solve(database, job)
    with database.session() as session:
        session.execute(
            update(Run)
            .where(Run.job_id == old["id"])
            .values(result={"feasible": True, "as it was": "once"})
        )
    upkeep.clean_up(database)
    latest = planner.call("GET", f"/api/jobs/{old['id']}")[1]["latest"]["run"]
    assert (latest["status"], latest["note"]) == ("queued", jobs.OUTGROWN)
    assert planner.call("GET", f"/api/jobs/{sound['id']}")[1]["latest"]["run"]["status"] == "done"
    assert run_once(database, old).status == "done"
    assert planner.call("GET", f"/api/jobs/{old['id']}")[1]["latest"]["run"]["current"]


def test_two_administrators_who_give_up_at_once_leave_one(app):
    first = _signed_in(app, "admin")
    people = {
        person["sign_in"]: person["id"] for person in first.call("GET", "/api/people")[1]["people"]
    }
    first.call("PATCH", f"/api/people/{people['planner']}", {"role": "admin"})
    second, ready = _signed_in(app, "planner"), threading.Barrier(2)

    def lock(pair) -> int:
        ready.wait()
        return pair[0].call("PATCH", f"/api/people/{people[pair[1]]}", {"role": "viewer"})[0]

    with ThreadPoolExecutor(2) as pool:
        statuses = list(pool.map(lock, [(first, "admin"), (second, "planner")]))
    assert sorted(statuses) in ([200, 422], [200, 403])


@pytest.mark.parametrize(
    "path",
    [
        "job.parts.²",
        "job.parts.0.outline.outer.٣",
        "job.parts.99999999999999999999",
        "job.parts.-1",
        "job.parts.0.\x00",
    ],
)
def test_an_odd_digit_in_a_path_is_no_such_field(planner, path):
    status, answer = change_field(planner, new_job(planner), path, 1)
    assert (status, answer["status"]) == (422, 422)
