"""Sessions end where they should, guessing is slow, nothing odd gets in, and every line and problem
can be traced to its request.
"""

from __future__ import annotations

import io
import logging
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import text, update

from tests.api.service import Browser, new_job, send
from wedgecraft import logs
from wedgecraft.api.app import create_app
from wedgecraft.jobs.queue import Queue
from wedgecraft.logs import OneLine
from wedgecraft.store import guessing
from wedgecraft.store.models import Attempt, now


def _signed_in(app, name, password="long enough password") -> Browser:
    browser = Browser(app)
    assert browser.sign_in(name, password) == 200
    return browser


def _cookie(browser) -> str:
    return browser._client.get_cookie("wedgecraft").value


def test_a_session_is_over_where_it_was_ended_though_its_cookie_is_kept(app, planner):
    kept = _cookie(planner)
    other = _signed_in(app, "planner")
    assert planner.call("DELETE", "/api/session")[0] == 200
    planner._client.set_cookie("wedgecraft", kept)
    assert planner.call("GET", "/api/jobs")[0] == 401
    assert other.call("GET", "/api/jobs")[0] == 200
    # One's own password: everywhere else one is signed out by it.
    third = _signed_in(app, "planner")
    wrong = third.call(
        "PUT",
        "/api/session/password",
        {"present": "not it at all", "fresh": "another long password"},
    )
    assert (wrong[0], wrong[1]["errors"][0]["field"]) == (422, "present")
    assert (
        third.call(
            "PUT", "/api/session/password", {"present": "long enough password", "fresh": "short"}
        )[0]
        == 422
    )
    assert (
        third.call(
            "PUT",
            "/api/session/password",
            {"present": "long enough password", "fresh": "another long password"},
        )[0]
        == 200
    )
    assert third.call("GET", "/api/jobs")[0] == 200
    assert other.call("GET", "/api/jobs")[0] == 401
    assert Browser(app).sign_in("planner") == 401
    # Whom an administrator locks is out at once.
    admin = _signed_in(app, "admin")
    person = next(
        item
        for item in admin.call("GET", "/api/people")[1]["people"]
        if item["sign_in"] == "planner"
    )
    admin.call("PATCH", f"/api/people/{person['id']}", {"active": False})
    assert third.call("GET", "/api/jobs")[0] == 401


def _guess(app, name, address="10.0.0.9", password="wrong"):
    browser = Browser(app)
    browser.call("GET", "/api/session")
    answer = browser._client.post(
        "/api/session",
        json={"sign_in": name, "password": password},
        headers={"X-CSRFToken": browser._token},
        environ_base={"REMOTE_ADDR": address},
    )
    return answer.status_code, answer.headers.get("Retry-After")


def test_guesses_are_counted_by_account_and_address_at_once_and_over_a_restart(app, database):
    with ThreadPoolExecutor(12) as pool:
        at_once = list(pool.map(lambda _: _guess(app, "planner")[0], range(24)))
    assert at_once.count(401) == guessing.HERE
    assert at_once.count(429) == 24 - guessing.HERE
    again = create_app(database, Queue(database), "another process after a restart")
    status, wait = _guess(again, "planner", password="long enough password")
    assert status == 429
    assert 200 < int(wait) <= 300
    with ThreadPoolExecutor(12) as pool:  # right ones are never too many
        assert set(
            pool.map(lambda _: _guess(app, "viewer", password="long enough password")[0], range(16))
        ) == {200}
    # The office behind the same address works on, and so does the planner from elsewhere.
    assert _guess(app, "admin", password="long enough password")[0] == 200
    assert _guess(app, "planner", "10.0.0.10", "long enough password")[0] == 200
    with database.session() as session:  # five minutes later
        session.execute(update(Attempt).values(since=now() - guessing.HERE_WINDOW))
    assert _guess(app, "planner", password="long enough password")[0] == 200
    # From many addresses an account is guarded too, but its person is not locked out of where they
    # work.
    for number in range(guessing.ALL):
        with database.session() as session:
            assert guessing.wait_for(session, "operator", f"10.1.{number}.1") == 0
            guessing.was_wrong(session, "operator", f"10.1.{number}.1")
    with database.session() as session:
        assert guessing.wait_for(session, "operator", "10.1.99.1") > 3000
    assert _guess(app, "operator", "10.2.0.1", "long enough password")[0] == 429
    for number in range(guessing.ALL):
        with database.session() as session:
            guessing.was_wrong(session, "planner", f"10.1.{number}.1")
    assert _guess(app, "planner", "10.0.0.10", "long enough password")[0] == 200


@pytest.mark.parametrize("odd", ["a\x00b", "\ud800", "\udfff x"])
def test_what_no_text_may_hold_is_refused_wherever_it_comes_in(planner, odd):
    job = new_job(planner)
    path = f"/api/jobs/{job['id']}"
    assert planner.call("POST", "/api/jobs", {"name": odd, "quantity": 5})[0] == 422
    assert (
        planner.call("PATCH", f"{path}/fields", {"version": 1, "path": "job.name", "value": odd})[0]
        == 422
    )
    assert (
        planner.call(
            "PATCH", f"{path}/fields", {"version": 1, "path": f"job.parts.{odd}", "value": 1}
        )[0]
        == 422
    )
    assert (
        planner.call(
            "PATCH", f"{path}/fields", {"version": 1, "path": "job.rules", "value": {odd: odd}}
        )[0]
        == 422
    )
    assert (
        planner.call("POST", "/api/shop/entries", {"kind": "vise", "name": odd, "data": {odd: 1}})[
            0
        ]
        == 422
    )
    assert planner.call("POST", "/api/session", {"sign_in": odd, "password": odd})[0] == 422
    name = odd.encode("utf-8", "surrogatepass").decode("latin-1")
    assert send(planner, "/api/drawings", b"0\nEOF\n", name=f"{name}.dxf")[0] == 422
    if "\x00" in odd:
        for address in (
            "/api/jobs/a%00b",
            "/api/shop/entries/%00",
            "/api/runs/%00",
            "/api/solids/%00/mesh",
            "/api/shop/export?kind=%00",
        ):
            assert planner.call("GET", address)[0] in (400, 404, 422), address
    assert planner.call("GET", path)[1]["version"] == 1


def test_every_problem_and_line_names_its_request_and_no_address_forges_a_line(app, planner):
    written = io.StringIO()
    handler = logging.StreamHandler(written)
    handler.setFormatter(OneLine("%(levelname)s [%(about)s] %(message)s"))
    root = logging.getLogger()
    root.addHandler(handler)
    level = root.level
    root.setLevel(logging.INFO)
    try:
        answer = planner._client.get(
            "/api/jobs/x%0AINFO%20forged%0D%E2%80%A8more", headers={"X-Request-ID": "my-own-id-1"}
        )
        assert answer.headers["X-Request-ID"] == answer.get_json()["request_id"] == "my-own-id-1"
        other = planner._client.get("/api/jobs", headers={"X-Request-ID": "bad id\x0b"})
        assert len(other.headers["X-Request-ID"]) == 32
        app.view_functions["service.health"] = lambda: 1 / 0
        broken = planner._client.get("/api/health")
    finally:
        root.removeHandler(handler)
        root.setLevel(level)
    lines = written.getvalue().splitlines()
    assert [line for line in lines if "my-own-id-1" in line] == [
        line for line in lines if "forged" in line
    ]
    assert not any(line.startswith("INFO forged") for line in lines)
    assert broken.status_code == 500
    traced = [line for line in lines if broken.get_json()["request_id"] in line]
    assert any("failed" in line for line in traced)
    assert "    ZeroDivisionError: division by zero" in lines  # a traceback's lines are indented


def test_what_is_counted_is_for_administrators_and_transport_is_strict_behind_tls(
    app, planner, database
):
    assert planner.call("GET", "/api/metrics")[0] == 403
    new_job(planner)
    said = _signed_in(app, "admin")._client.get("/api/metrics").get_data(as_text=True)
    assert 'wedgecraft_requests_total{endpoint="jobs.make",method="POST",status="201"}' in said
    assert "wedgecraft_signed_in 2" in said
    assert "Strict-Transport-Security" not in planner._client.get("/api/health").headers
    behind = create_app(
        database, Queue(database), "a secret of the tests", https=True
    ).test_client()
    assert "max-age=" in behind.get("/api/health").headers["Strict-Transport-Security"]


def test_a_full_disk_is_called_that_and_what_is_saved_can_be_read(planner, database):
    """PostgreSQL's own word for it (53100), by a trigger: filling a disk needs rights a test has
    not.
    """
    job = new_job(planner)
    with database.session() as session:
        session.execute(
            text(
                "CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS "
                "$$ BEGIN RAISE EXCEPTION 'could not extend file' USING ERRCODE = '53100'; END $$"
            )
        )
        session.execute(
            text("CREATE TRIGGER full_disk BEFORE UPDATE ON job EXECUTE FUNCTION full_disk()")
        )
    status, answer = planner.call(
        "PATCH", f"/api/jobs/{job['id']}/fields", {"version": 1, "path": "job.quantity", "value": 9}
    )
    assert (status, answer["title"]) == (503, "The disk is full")
    assert planner.call("GET", f"/api/jobs/{job['id']}")[1]["quantity"] == job["quantity"]


def test_ready_says_when_there_is_no_room(app, planner, monkeypatch, tmp_path):
    assert planner.call("GET", "/api/ready") == (200, {"state": "ok", "version": app.version})
    app.extensions["state folder"] = tmp_path
    monkeypatch.setattr("wedgecraft.api.service_api.free_bytes", lambda folder: 1_000_000)
    assert planner.call("GET", "/api/ready")[0] == 503
    assert planner.call("GET", "/api/ready")[1]["state"] == "disk full"


def test_the_log_is_put_aside_when_it_is_long_and_all_processes_write_whole_lines(
    monkeypatch, tmp_path
):
    monkeypatch.setattr(logs, "_BYTES", 20_000)
    written = logs.RotatedFile(tmp_path / "service.log")
    code = (
        "import sys\nfor n in range(400): sys.stdout.write(f'{sys.argv[1]} {n} ' + 'x' * 40 +"
        " '\\n'); sys.stdout.flush()"
    )
    children = [
        subprocess.Popen([sys.executable, "-c", code, name], stdout=written.write) for name in "ab"
    ]
    assert [child.wait(30) for child in children] == [0, 0]
    written.close()
    files = sorted(tmp_path.iterdir())
    assert len(files) == 2  # 37 kB: none of it gone, none over the size
    assert max(file.stat().st_size for file in files) <= 20_000
    lines = [line for file in files for line in file.read_text().splitlines()]
    assert len(lines) == 800
    assert all(line.endswith("x" * 40) for line in lines)
