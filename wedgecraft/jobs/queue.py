"""The task queue: planning a run, reading a solid. An outcome is stored once, whoever finishes it and however often it was tried."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import threading
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

import procrastinate
from procrastinate import exceptions
from sqlalchemy.exc import SQLAlchemyError

from wedgecraft.core.plan import PlanRequest, PlanResult
from wedgecraft.store import jobs, uploads
from wedgecraft.store.database import Database
from wedgecraft.store.models import ACTIVE, Run, Upload

if TYPE_CHECKING:
    from wedgecraft.formats.step.reader import StepReader

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
        self._read = self.app.task(self._read_solid, name="read", queue="solids", pass_context=False)
        self._reader: StepReader | None = None

    def ensure_schema(self) -> None:
        """Create the queue's own tables once."""
        with self._database.engine.connect() as connection:
            known = connection.exec_driver_sql("SELECT to_regclass('procrastinate_jobs')").scalar()
        if known is None:
            with self.app.open():
                self.app.schema_manager.apply_schema()

    def add(self, run_id: str) -> None:
        """Queue a run; a run already waiting is not queued twice."""
        self._put(self._plan, run_id=run_id)

    def add_solid(self, upload_id: str) -> None:
        """Queue the reading of a solid, once."""
        self._put(self._read, upload_id=upload_id)

    def _put(self, task: Any, **what: str) -> None:
        with self._lock:
            if not self._open:
                self.app.open()
                self._open = True
        key = next(iter(what.values()))
        with contextlib.suppress(exceptions.AlreadyEnqueued):
            task.configure(queueing_lock=key, lock=key).defer(**what)

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
                # Two at a time: a solid does not wait for a plan.
                await self.app.run_worker_async(
                    concurrency=2, shutdown_graceful_timeout=10, fetch_job_polling_interval=2, update_heartbeat_interval=5,
                    stalled_worker_timeout=SILENT_SECONDS, delete_jobs="successful",
                )  # fmt: skip
            finally:
                sweeper.cancel()
                with contextlib.suppress(asyncio.CancelledError):
                    await sweeper
                if self._reader is not None:
                    self._reader.close()

    async def _sweep(self) -> None:
        """Pick up what a dead worker left, and runs that never reached the queue."""
        while True:
            try:
                for job in await self.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=SILENT_SECONDS):
                    log.warning("task %s was left by a dead worker: taken up again", job.id)
                    await self.app.job_manager.retry_job(job, retry_at=datetime.now(UTC))
                for task, key, ident in await asyncio.to_thread(self._waiting):
                    known = await self.app.job_manager.list_jobs_async(lock=ident)
                    if not any(job.status in ("todo", "doing") for job in known):
                        log.warning("%s %s was waiting outside the queue: queued", task.name, ident)
                        with contextlib.suppress(exceptions.AlreadyEnqueued):
                            await task.configure(queueing_lock=ident, lock=ident).defer_async(**{key: ident})
            except (exceptions.ConnectorException, SQLAlchemyError) as error:
                log.warning("looking for left work failed: %s", error)
            await asyncio.sleep(_SWEEP_SECONDS)

    def _waiting(self) -> list[tuple[Any, str, str]]:
        with self._database.session() as session:
            runs = [(self._plan, "run_id", run.id) for run in jobs.waiting(session)]
            return runs + [(self._read, "upload_id", ident) for ident in uploads.waiting(session)]

    def _plan_run(self, run_id: str) -> None:
        from wedgecraft.core.design import plan  # the engine's libraries load with the first task

        with self._database.session() as session:
            run = session.get(Run, run_id)
            if run is None or run.status not in ("queued", "running"):
                return
            request = PlanRequest.model_validate(run.request)

        def progress(step: str, share: float, **values: Any) -> None:
            with self._database.session() as session:
                if not jobs.report(session, run_id, step=step, share=share, **values):
                    raise _TakenAway

        def preview(found: PlanResult) -> None:
            count = found.designs[0].count
            progress(f"layout: {count} so far", 0.5, result=found.model_dump(mode="json"), count=count)

        try:
            progress("starting", 0.01)
            result = plan(request, progress, preview, alternatives=True)
        except _TakenAway:
            log.info("run %s was cancelled", run_id)
            return
        except Exception as error:
            log.exception("run %s failed", run_id)
            with self._database.session() as session:
                jobs.finish(session, run_id, status="failed", error=f"{type(error).__name__}: {error}"[:500], result=None)
            return
        count = result.designs[0].count if result.designs else 0
        with self._database.session() as session:
            jobs.take_clamps(session, run_id, result)
            jobs.finish(session, run_id, status="done", result=result.model_dump(mode="json"), count=count, share=1.0, step="done")

    def _read_solid(self, upload_id: str) -> None:
        from wedgecraft.formats.errors import FileRefused
        from wedgecraft.formats.step.reader import StepReader

        def report(**values: Any) -> None:
            with self._database.session() as session:
                if not uploads.report(session, upload_id, **values):
                    raise _TakenAway

        with self._database.session() as session:
            upload = session.get(Upload, upload_id)
            if upload is None or upload.status not in ACTIVE or upload.file is None:
                return
            file, name = upload.file, upload.name
        try:
            if self._reader is None:
                report(status="running", step="starting the CAD kernel", share=0.1)
                self._reader = StepReader()
                self._reader.warm()
            report(status="running", step="reading the solid", share=0.4)
            reading, points, triangles, faces = self._reader.read(file, name)
            report(
                status="done", step="done", share=1.0, result=reading.model_dump(mode="json"), points=points, triangles=triangles,
                faces=faces, file=None,
            )  # fmt: skip
        except _TakenAway:
            log.info("solid %s was cancelled", upload_id)
        except FileRefused as error:
            self._refuse(upload_id, f"{error.what[:1].upper()}{error.what[1:]}; {error.remedy}.")
        except Exception as error:
            log.exception("solid %s failed", upload_id)
            self._refuse(upload_id, f"{type(error).__name__}: {error}")

    def _refuse(self, upload_id: str, why: str) -> None:
        with self._database.session() as session:
            uploads.report(session, upload_id, status="failed", error=why[:500], file=None)
