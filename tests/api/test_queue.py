"""The queue: runs that fail, are cancelled, were never queued, or were left by a dead worker."""

from __future__ import annotations

import asyncio
import contextlib
import threading
import time

import pytest

from wedgecraft.core import design
from wedgecraft.core.catalogue import starting_request
from wedgecraft.jobs import queue as queue_module
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import jobs
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
        job = jobs.add_job(session, starting_request("Block", 20), None)
        return jobs.start_run(session, session.get_one(Job, job.id))[0].id


def _state(database, run_id) -> Run:
    with database.session() as session:
        return session.get_one(Run, run_id)


async def _work(queue, seconds: float = 30, until=lambda: True) -> None:
    """A worker in this process until the condition holds."""
    worker = asyncio.create_task(queue._work())
    for _ in range(int(seconds * 10)):
        await asyncio.sleep(0.1)
        if until():
            break
    worker.cancel()
    with contextlib.suppress(asyncio.CancelledError):
        await worker


def test_a_run_that_breaks_is_stored_as_failed_with_its_reason(database, queue, monkeypatch):
    def broken(request, progress):
        raise ZeroDivisionError("a fault of ours")

    monkeypatch.setattr(design, "plan", broken)
    run_id = _run(database)
    queue._plan_run(run_id)
    assert (_state(database, run_id).status, _state(database, run_id).error) == ("failed", "ZeroDivisionError: a fault of ours")


def test_a_run_cancelled_meanwhile_stores_nothing(database, queue, monkeypatch):
    run_id = _run(database)

    def cancelled_on_the_way(request, progress):
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
    monkeypatch.setattr(design, "plan", lambda request, progress: ran.set() or _real(request))
    asyncio.run(_work(queue, until=lambda: _state(database, run_id).status == "done"))
    assert ran.is_set()
    assert _state(database, run_id).status == "done"


_real = design.plan


def test_queueing_twice_runs_once(database, queue, monkeypatch):
    calls = []

    def counted(request, progress):
        calls.append(time.monotonic())
        return _real(request)

    monkeypatch.setattr(design, "plan", counted)
    run_id = _run(database)
    queue.add(run_id)
    queue.add(run_id)
    asyncio.run(_work(queue, until=lambda: _state(database, run_id).status == "done"))
    assert len(calls) == 1
