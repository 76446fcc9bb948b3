"""The queue: runs that fail, are cancelled, were never queued, or were left by a dead worker."""

from __future__ import annotations

import asyncio
import contextlib
import threading
import time

import pytest
from sqlalchemy.exc import IntegrityError, OperationalError

from tests.api.service import Browser, send
from tests.formats.fuzz import step_seed
from wedgecraft.core.plan import route as design
from wedgecraft.core.shop.picks import starting_job
from wedgecraft.jobs import queue as queue_module
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import attempts, jobs
from wedgecraft.store.models import Job, Run


@pytest.fixture
def queue(database):
    made = Queue(database)
    made.ensure_schema()
    made.ensure_schema()  # the second time does nothing
    yield made
    made.close()


def _run(database) -> str:
    with database.session() as session:
        job = jobs.add_job(session, starting_job("Block", 20), None)
        return jobs.start_run(session, session.get_one(Job, job.id))[0].id


def _state(database, run_id) -> Run:
    with database.session() as session:
        return session.get_one(Run, run_id)


async def _work(queue, seconds: float = 30, until=lambda: True, lane: str = "all") -> None:
    """A worker in this process until the condition holds."""
    worker = asyncio.create_task(queue._work(lane))
    for _ in range(int(seconds * 10)):
        await asyncio.sleep(0.1)
        if until():
            break
    worker.cancel()
    with contextlib.suppress(asyncio.CancelledError):
        await worker


def test_a_run_that_breaks_is_stored_as_failed_with_its_reason(database, queue, monkeypatch):
    def broken(request, progress, *rest, **more):
        raise ZeroDivisionError("a fault of ours")

    monkeypatch.setattr(design, "plan", broken)
    run_id = _run(database)
    queue._plan_run(run_id)
    state = _state(database, run_id)
    assert state.status == "failed"
    # What the program says to itself is for the log; a person is told whose fault it is and what to
    # do.
    assert "ZeroDivision" not in state.error
    assert "not of yours" in state.error
    assert "try again" in state.error


def test_a_run_cancelled_meanwhile_stores_nothing(database, queue, monkeypatch):
    run_id = _run(database)

    def cancelled_on_the_way(request, progress, *rest, **more):
        with database.session() as session:
            jobs.finish(session, run_id, status="cancelled")
        progress("layout", 0.5)
        raise AssertionError("went on after it was cancelled")

    monkeypatch.setattr(design, "plan", cancelled_on_the_way)
    queue._plan_run(run_id)
    assert _state(database, run_id).status == "cancelled"
    assert _state(database, run_id).result is None
    queue._plan_run(run_id)  # a task delivered twice finds nothing to do
    assert _state(database, run_id).status == "cancelled"


def test_the_best_so_far_is_there_while_a_run_goes_on_and_gone_when_it_breaks(
    database, queue, monkeypatch
):
    run_id = _run(database)
    seen = []

    def watched(request, progress, preview, *rest):
        def told(found):
            preview(found)
            state = _state(database, run_id)
            seen.append((state.status, state.count, state.step))
            (shown,) = state.result["setups"]
            count = shown["result"]["designs"][0]["count"]
            assert count == found.designs[0].count == state.count
            # what is not finished is not exported as the job's answer
            with database.session() as session:
                assert jobs.document(session, session.get_one(Job, state.job_id)).result is None

        _real(request, progress, told)
        raise ZeroDivisionError("after all that")

    monkeypatch.setattr(design, "plan", watched)
    queue._plan_run(run_id)
    assert seen
    assert {status for status, _, _ in seen} == {"running"}
    assert [count for _, count, _ in seen] == sorted(count for _, count, _ in seen)
    assert all(step.startswith("layout") and str(count) in step for _, count, step in seen)
    assert _state(database, run_id).status == "failed"
    assert _state(database, run_id).result is None


def test_a_run_cancelled_between_two_designs_ends_there(database, queue, monkeypatch):
    run_id = _run(database)
    told = []

    def watched(request, progress, preview, *rest):
        def first(found):
            told.append(found)
            with database.session() as session:
                jobs.finish(session, run_id, status="cancelled")
            preview(found)

        _real(request, progress, first)
        raise AssertionError("went on after it was cancelled")

    monkeypatch.setattr(design, "plan", watched)
    queue._plan_run(run_id)
    assert len(told) == 1
    assert _state(database, run_id).status == "cancelled"


def test_a_run_stored_twice_keeps_its_first_outcome(database, queue):
    run_id = _run(database)
    queue._plan_run(run_id)
    first = _state(database, run_id)
    assert first.status == "done"
    assert first.count > 0
    queue._plan_run(run_id)
    assert _state(database, run_id).finished_at == first.finished_at


def test_the_sweep_queues_what_never_reached_the_queue_once(database, queue, monkeypatch):
    monkeypatch.setattr(queue_module, "_SWEEP_SECONDS", 0.3)
    run_id = _run(database)
    ran = threading.Event()
    monkeypatch.setattr(design, "plan", lambda request, *rest, **more: ran.set() or _real(request))
    asyncio.run(_work(queue, until=lambda: _state(database, run_id).status == "done"))
    assert ran.is_set()
    assert _state(database, run_id).status == "done"


_real = design.plan


def test_queueing_twice_runs_once(database, queue, monkeypatch):
    calls = []

    def counted(request, *rest, **more):
        calls.append(time.monotonic())
        return _real(request)

    monkeypatch.setattr(design, "plan", counted)
    run_id = _run(database)
    queue.add(run_id)
    queue.add(run_id)
    asyncio.run(_work(queue, until=lambda: _state(database, run_id).status == "done"))
    assert len(calls) == 1


def test_a_solid_is_read_by_the_worker_refused_in_words_or_given_up(database, queue):
    from wedgecraft.store import uploads
    from wedgecraft.store.models import Upload

    good = step_seed()
    with database.session() as session:
        ids = [
            uploads.add(session, "part.step", data, None).id
            for data in (good, good[:-3000] + good[-200:], good)
        ]
        uploads.report(session, ids[2], status="cancelled")
    for upload_id in ids[:2]:
        queue.add_solid(upload_id)

    def states() -> list[str]:
        with database.session() as session:
            return [session.get_one(Upload, upload_id).status for upload_id in ids]

    asyncio.run(_work(queue, 60, lambda: not {"queued", "running"} & set(states())))
    assert states()[0] == "done"
    assert states()[2] == "cancelled"
    with database.session() as session:
        read = session.get_one(Upload, ids[0])
        assert read.file is None  # the mesh is kept, the file is not
        assert read.result["volume_mm3"] == pytest.approx(
            40 * 30 * 20 - 3.141592653589793 * 36 / 4 * 20, rel=1e-6
        )
        assert uploads.mesh_of(session, ids[0]).triangles.shape[1] == 3
        assert uploads.mesh_of(session, ids[2]) is None
        if states()[1] == "failed":
            assert session.get_one(Upload, ids[1]).error.endswith(".")


def _away(times: int, then):
    """Fails as a server that restarts does, so many times, then does what it should."""
    left = [times]

    def call(*args, **kwargs):
        if left[0]:
            left[0] -= 1
            raise OperationalError(
                "UPDATE run SET result = …",
                {},
                Exception("server closed the connection unexpectedly"),
            )
        return then(*args, **kwargs)

    return call


def test_a_short_fault_of_the_database_is_tried_again_and_never_fails_a_run(
    database, queue, monkeypatch
):
    monkeypatch.setattr(
        design,
        "plan",
        lambda request, progress, *rest, **more: (progress("layout", 0.5), _real(request))[1],
    )
    monkeypatch.setattr(queue_module.jobs, "report", _away(2, jobs.report))  # how far it is
    monkeypatch.setattr(queue_module.jobs, "finish", _away(3, jobs.finish))  # the outcome
    run_id = _run(database)
    queue._plan_run(run_id)
    assert (_state(database, run_id).status, _state(database, run_id).attempts) == ("done", 1)
    # Away when it is taken up: back in the queue, and done by the worker in the end.
    monkeypatch.setattr(queue_module.attempts, "begin", _away(1, attempts.begin))
    second = _run(database)
    queue.add(second)
    asyncio.run(_work(queue, until=lambda: _state(database, second).status == "done"))
    assert _state(database, second).status == "done"


def test_what_a_person_reads_of_a_fault_is_never_a_statement(database, queue, monkeypatch):
    def broken(*args, **more):
        raise IntegrityError("INSERT INTO run VALUES (secret)", {}, Exception("INSERT secret"))

    monkeypatch.setattr(design, "plan", broken)
    run_id = _run(database)
    queue._plan_run(run_id)
    assert _state(database, run_id).status == "failed"
    assert "INSERT" not in _state(database, run_id).error
    assert "secret" not in _state(database, run_id).error


def test_what_brings_its_worker_down_is_given_up_and_a_worker_that_stops_gives_back(
    database, queue, monkeypatch
):
    run_id = _run(database)
    with database.session() as session:
        for _ in range(queue_module.MOST_ATTEMPTS):  # taken up, and never heard of again
            attempts.begin(session, Run, run_id)
        jobs.report(session, run_id, step="layout: 12 so far", share=0.5)
    monkeypatch.setattr(design, "plan", lambda *rest, **more: pytest.fail("planned once more"))
    queue._plan_run(run_id)
    given_up = _state(database, run_id)
    assert given_up.status == "failed"
    assert "3 times" in given_up.error
    assert "layout: 12 so far" in given_up.error

    begun, end = threading.Event(), threading.Event()
    monkeypatch.setattr(queue_module, "_PATIENT_END_SECONDS", 0.1)

    def long(request, *rest, **more):
        begun.set()
        end.wait(60)
        raise queue_module._TakenAway

    monkeypatch.setattr(design, "plan", long)
    second = _run(database)
    queue.add(second)
    loop = asyncio.new_event_loop()
    for _ in range(queue_module.MOST_ATTEMPTS + 1):  # however often the worker is stopped meanwhile
        begun.clear()
        loop.run_until_complete(_stopped_once(queue, begun))
        assert (_state(database, second).status, _state(database, second).attempts) == ("queued", 0)
    end.set()


async def _stopped_once(queue, begun) -> None:
    stop = asyncio.Event()
    worker = asyncio.create_task(queue._work("plans", stop))
    while not begun.is_set():
        await asyncio.sleep(0.05)
    stop.set()
    await worker


def test_solids_have_a_lane_of_their_own_and_of_two_people_neither_waits_for_all_of_the_others(
    app, database, monkeypatch
):
    browsers = [Browser(app) for _ in range(2)]
    queue = app.extensions["queue"]
    assert [
        browser.sign_in(name) for browser, name in zip(browsers, ("planner", "admin"), strict=True)
    ] == [200, 200]
    order, wanted = [], []
    monkeypatch.setattr(
        design, "plan", lambda request, *rest, **more: order.append(request.name) or _real(request)
    )
    for browser, name in ((0, "a1"), (0, "a2"), (0, "a3"), (1, "b1")):
        job = browsers[browser].call("POST", "/api/jobs", {"name": name, "quantity": 5})[1]
        wanted.append(browsers[browser].call("POST", f"/api/jobs/{job['id']}/runs")[1]["run"]["id"])
    solid = send(browsers[0], "/api/solids", step_seed(), "part.step")[1]["id"]

    async def both() -> None:
        quick = asyncio.create_task(queue._work("quick"))
        while browsers[0].call("GET", f"/api/solids/{solid}")[1]["status"] in ("queued", "running"):
            await asyncio.sleep(0.2)
        quick.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await quick

    asyncio.run(both())
    assert browsers[0].call("GET", f"/api/solids/{solid}")[1]["status"] == "done"
    assert order == []  # the quick lane takes up no plan
    asyncio.run(
        _work(
            queue,
            60,
            lambda: all(_state(database, run_id).status == "done" for run_id in wanted),
            "plans",
        )
    )
    assert order == ["a1", "b1", "a2", "a3"]
