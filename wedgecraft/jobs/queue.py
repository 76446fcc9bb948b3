"""The task queue: planning a run. A run's outcome is stored once, whoever finishes it and however often it was tried."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import threading
from datetime import UTC, datetime

import procrastinate
from procrastinate import exceptions
from sqlalchemy.exc import SQLAlchemyError

from wedgecraft.core.plan import PlanRequest
from wedgecraft.store import jobs
from wedgecraft.store.database import Database
from wedgecraft.store.models import Run

log = logging.getLogger(__name__)

#: A worker silent for this long is taken for dead and its tasks are given to another.
SILENT_SECONDS = 20
_SWEEP_SECONDS = 10


class _TakenAway(Exception):
    """The run was cancelled, or finished by someone else."""


class Queue:
    """Tasks over one database."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._lock = threading.Lock()
        self._open = False
        self.app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=database.url, timeout=5))
        self._plan = self.app.task(self._plan_run, name="plan", queue="plans", pass_context=False)

    def ensure_schema(self) -> None:
        """Create the queue's own tables once."""
        with self._database.engine.connect() as connection:
            known = connection.exec_driver_sql("SELECT to_regclass('procrastinate_jobs')").scalar()
        if known is None:
            with self.app.open():
                self.app.schema_manager.apply_schema()

    def add(self, run_id: str) -> None:
        """Queue a run; a run already waiting is not queued twice."""
        with self._lock:
            if not self._open:
                self.app.open()
                self._open = True
        with contextlib.suppress(exceptions.AlreadyEnqueued):
            self._plan.configure(queueing_lock=run_id, lock=run_id).defer(run_id=run_id)

    def close(self) -> None:
        if self._open:
            self.app.close()
            self._open = False

    def work(self) -> None:
        """Serve tasks until told to stop by SIGINT or SIGTERM."""
        asyncio.run(self._work())

    async def _work(self) -> None:
        async with self.app.open_async():
            sweeper = asyncio.create_task(self._sweep())
            try:
                await self.app.run_worker_async(
                    concurrency=1, shutdown_graceful_timeout=10, fetch_job_polling_interval=2, update_heartbeat_interval=5,
                    stalled_worker_timeout=SILENT_SECONDS, delete_jobs="successful",
                )  # fmt: skip
            finally:
                sweeper.cancel()
                with contextlib.suppress(asyncio.CancelledError):
                    await sweeper

    async def _sweep(self) -> None:
        """Pick up what a dead worker left, and runs that never reached the queue."""
        while True:
            try:
                for job in await self.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=SILENT_SECONDS):
                    log.warning("task %s was left by a dead worker: taken up again", job.id)
                    await self.app.job_manager.retry_job(job, retry_at=datetime.now(UTC))
                for run_id in await asyncio.to_thread(self._waiting):
                    known = await self.app.job_manager.list_jobs_async(lock=run_id)
                    if not any(job.status in ("todo", "doing") for job in known):
                        log.warning("run %s was waiting outside the queue: queued", run_id)
                        with contextlib.suppress(exceptions.AlreadyEnqueued):
                            await self._plan.configure(queueing_lock=run_id, lock=run_id).defer_async(run_id=run_id)
            except (exceptions.ConnectorException, SQLAlchemyError) as error:
                log.warning("looking for left work failed: %s", error)
            await asyncio.sleep(_SWEEP_SECONDS)

    def _waiting(self) -> list[str]:
        with self._database.session() as session:
            return [run.id for run in jobs.waiting(session)]

    def _plan_run(self, run_id: str) -> None:
        from wedgecraft.core.design import plan  # the engine's libraries load with the first task

        with self._database.session() as session:
            run = session.get(Run, run_id)
            if run is None or run.status not in ("queued", "running"):
                return
            request = PlanRequest.model_validate(run.request)

        def progress(step: str, share: float) -> None:
            with self._database.session() as session:
                if not jobs.report(session, run_id, step, share):
                    raise _TakenAway

        try:
            progress("starting", 0.01)
            result = plan(request, progress)
        except _TakenAway:
            log.info("run %s was cancelled", run_id)
            return
        except Exception as error:
            log.exception("run %s failed", run_id)
            with self._database.session() as session:
                jobs.finish(session, run_id, status="failed", error=f"{type(error).__name__}: {error}"[:500])
            return
        count = result.designs[0].count if result.designs else 0
        with self._database.session() as session:
            jobs.finish(session, run_id, status="done", result=result.model_dump(mode="json"), count=count, share=1.0, step="done")
