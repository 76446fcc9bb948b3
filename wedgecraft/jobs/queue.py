"""The task queue: planning a run, reading a solid. An outcome is stored once, whoever finishes it
and however often it was tried.

What comes from outside and passes (the database restarting, a connection cut, a full disk) is tried
again; a task that brings its worker down is given up after a few times, with a reason.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import signal
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any, TypeVar

import procrastinate
from procrastinate import exceptions
from psycopg import errors as postgres
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError, SQLAlchemyError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from wedgecraft.core.records.job import JobDocument
from wedgecraft.logs import about
from wedgecraft.store import attempts, changes, jobs, meshes, shop, upkeep, uploads
from wedgecraft.store.database import Database
from wedgecraft.store.models import Person, Run, Upload

if TYPE_CHECKING:
    from wedgecraft.formats.step.reader import StepReader

log = logging.getLogger(__name__)

#: A worker silent for this long is taken for dead and its tasks are given to another.
SILENT_SECONDS = 20
_SWEEP_SECONDS = 10
#: A task that ended its worker this often is given up.
MOST_ATTEMPTS = 3
#: How long the outcome of a finished computation is kept in hand while it cannot be stored.
_PATIENCE_SECONDS = 120.0
#: How long a worker that is told to stop waits for what it is about to finish.
_PATIENT_END_SECONDS = 3.0

#: What passes by itself: the server restarting or away, a connection cut, no connection free, a
#: full disk.
PASSING = (OperationalError, InterfaceError, PoolTimeout)
#: The lanes a worker may serve, and the queues of each: solids and quick work never wait behind
#: plans.
LANES = {"plans": ["plans"], "quick": ["solids"], "all": ["plans", "solids"]}

T = TypeVar("T")

_WORDS: dict[type[Run] | type[Upload], str] = {Run: "run", Upload: "solid"}


class _TakenAway(Exception):
    """The run was cancelled, or finished by someone else."""


def words(error: Exception) -> str:
    """What a person is told of a fault nobody foresaw: never what the program says to itself, never
    nothing.
    """
    if isinstance(error, MemoryError):
        return (
            "It needed more memory than there is; make the job smaller, or plan fewer parts at"
            " once."
        )
    if isinstance(error, SQLAlchemyError):
        cause = type(error.orig).__name__ if isinstance(error, DBAPIError) else type(error).__name__
        return f"The database would not take what was to be stored ({cause}); the log says more."
    return (
        "It came upon something it was not made for: a fault of the program, not of yours. Nothing"
        " is lost. Take back what was changed last and try again; the log has what whoever looks"
        " after the program needs."
    )


class Queue:
    """Tasks over one database."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._lock = threading.Lock()
        meshes.serve(database)
        self._open = False
        self.app = procrastinate.App(
            connector=procrastinate.PsycopgConnector(conninfo=database.url, timeout=5)
        )
        again = procrastinate.RetryStrategy(wait=2, retry_exceptions=PASSING)
        self._plan = self.app.task(
            self._plan_run, name="plan", queue="plans", pass_context=False, retry=again
        )
        self._read = self.app.task(
            self._read_solid, name="read", queue="solids", pass_context=False, retry=again
        )
        self._pieces = self.app.task(
            self._look_at_pieces, name="pieces", queue="solids", pass_context=False
        )
        self._reader: StepReader | None = None
        self._under_way: set[tuple[type[Run] | type[Upload], str]] = set()
        self._cleaned_at = 0.0

    def ensure_schema(self) -> None:
        """Create the queue's own tables once."""
        with self._database.engine.connect() as connection:
            known = connection.exec_driver_sql("SELECT to_regclass('procrastinate_jobs')").scalar()
        if known is None:
            with self.app.open():
                self.app.schema_manager.apply_schema()

    def add(self, run_id: str, before_it: int = 0) -> None:
        """Queue a run; a run already waiting is not queued twice. ``before_it``: how many more its
        person has under way: others go first.
        """
        self._put(self._plan, -min(before_it, 1000), run_id=run_id)

    def add_solid(self, upload_id: str, before_it: int = 0) -> None:
        """Queue the reading of a solid, once."""
        self._put(self._read, -min(before_it, 1000), upload_id=upload_id)

    def add_pieces(self, job_id: str) -> None:
        """Queue looking at the pieces of a job whose stations a person placed, once."""
        self._put(self._pieces, -1, job_id=job_id)

    def _put(self, task: Any, priority: int, **what: str) -> None:
        key = next(iter(what.values()))
        try:
            with self._lock:
                if not self._open:
                    self.app.open()
                    self._open = True
            with contextlib.suppress(exceptions.AlreadyEnqueued):
                task.configure(queueing_lock=key, lock=key, priority=priority).defer(**what)
        except (
            exceptions.ConnectorException
        ) as error:  # it is stored that it waits: the next look round queues it
            log.warning("%s %s could not be queued just now: %s", task.name, key, error)

    def close(self) -> None:
        if self._open:
            self.app.close()
            self._open = False

    def work(self, lane: str = "all") -> None:
        """Serve tasks of a lane until told to stop by SIGINT or SIGTERM. What takes longer then is
        given back; its thread goes on alone.
        """
        loop = asyncio.new_event_loop()
        stop = asyncio.Event()
        for number in (signal.SIGINT, signal.SIGTERM):
            loop.add_signal_handler(number, stop.set)
        loop.run_until_complete(self._work(lane, stop))

    async def _work(self, lane: str = "all", stop: asyncio.Event | None = None) -> None:
        async with self.app.open_async():
            others = [
                asyncio.create_task(self._sweep()),
                asyncio.create_task(asyncio.to_thread(self._load_early, lane)),
            ]
            worker = asyncio.create_task(
                self.app.run_worker_async(
                    queues=LANES[lane],
                    concurrency=1 if lane == "plans" else 2,
                    fetch_job_polling_interval=2,
                    update_heartbeat_interval=5,
                    stalled_worker_timeout=SILENT_SECONDS,
                    delete_jobs="successful",
                    install_signal_handlers=False,
                )
            )
            asked = asyncio.create_task((stop or asyncio.Event()).wait())
            try:
                await asyncio.wait({worker, asked}, return_when=asyncio.FIRST_COMPLETED)
            finally:
                worker.cancel()
                asked.cancel()
                await asyncio.wait({worker}, timeout=_PATIENT_END_SECONDS)
                for task in others:
                    task.cancel()
                    with contextlib.suppress(asyncio.CancelledError):
                        await task
                await self._give_all_back()
                if self._reader is not None:
                    self._reader.close()
            if worker.done() and not worker.cancelled():
                worker.result()  # what ended it, if anything did

    async def _give_all_back(self) -> None:
        """What is still computed is somebody else's from now on, at once."""
        for table, ident in list(self._under_way):
            log.warning("%s %s is given back: this worker stops", _WORDS[table], ident)
            await asyncio.to_thread(self._give_back, table, ident)
            with contextlib.suppress(exceptions.ProcrastinateException):
                for job in await self.app.job_manager.list_jobs_async(lock=ident, status="doing"):
                    await self.app.job_manager.retry_job(job, retry_at=datetime.now(UTC))

    def _load_early(self, lane: str) -> None:
        """The engine's libraries, before the first task wants them."""
        if lane != "quick":
            from ortools.sat.python import cp_model  # noqa: F401
            from shapely.geometry import box

            from wedgecraft.core.draft.sides import sides_of
            from wedgecraft.core.layout import solve
            from wedgecraft.core.plan import route  # noqa: F401
            from wedgecraft.core.workpiece.body import prism

            sides_of(prism(box(0, 0, 20, 20), 0, 20))
            solve.ready()

    def _give_back(self, table: type[Run] | type[Upload], ident: str) -> None:
        with contextlib.suppress(SQLAlchemyError), self._database.session() as session:
            attempts.give_back(session, table, ident)

    async def _sweep(self) -> None:
        """Pick up what a dead worker left, and runs that never reached the queue; now and then,
        remove what has rested long enough.
        """
        while True:
            try:
                for job in await self.app.job_manager.get_stalled_jobs(
                    seconds_since_heartbeat=SILENT_SECONDS
                ):
                    log.warning("task %s was left by a worker that is gone: taken up again", job.id)
                    await self.app.job_manager.retry_job(job, retry_at=datetime.now(UTC))
                for task, key, ident in await asyncio.to_thread(self._waiting):
                    known = await self.app.job_manager.list_jobs_async(lock=ident)
                    if not any(job.status in ("todo", "doing") for job in known):
                        log.warning("%s %s was waiting outside the queue: queued", task.name, ident)
                        with contextlib.suppress(exceptions.AlreadyEnqueued):
                            await task.configure(queueing_lock=ident, lock=ident).defer_async(
                                **{key: ident}
                            )
                if (
                    time.monotonic() - self._cleaned_at > upkeep.EVERY_SECONDS
                    or not self._cleaned_at
                ):
                    self._cleaned_at = time.monotonic()
                    await asyncio.to_thread(upkeep.clean_up, self._database)
                    await self.app.job_manager.delete_old_jobs(nb_hours=24 * 7, include_failed=True)
            except (exceptions.ProcrastinateException, SQLAlchemyError, postgres.Error) as error:
                log.warning("looking for left work failed: %s", str(error).splitlines()[0])
            await asyncio.sleep(_SWEEP_SECONDS)

    def _waiting(self) -> list[tuple[Any, str, str]]:
        with self._database.session() as session:
            runs = [(self._plan, "run_id", run.id) for run in jobs.waiting(session)]
            return runs + [(self._read, "upload_id", ident) for ident in uploads.waiting(session)]

    @contextlib.contextmanager
    def _working_on(self, table: type[Run] | type[Upload], ident: str) -> Any:
        token = about.set(f"{_WORDS[table]} {ident}")
        self._under_way.add((table, ident))
        try:
            yield
        except PASSING as error:
            log.warning("put back, to be tried again: %s", str(error).splitlines()[0])
            self._give_back(table, ident)
            raise
        finally:
            self._under_way.discard((table, ident))
            about.reset(token)

    def _surely(self, what: Callable[[], T]) -> T:
        """Done, though the database be away for a while: what took minutes to compute is not thrown
        away over a second without it.
        """
        until, wait = time.monotonic() + _PATIENCE_SECONDS, 0.2
        while True:
            try:
                return what()
            except PASSING as error:
                if time.monotonic() > until:
                    raise
                log.warning(
                    "the database did not take it, tried again: %s", str(error).splitlines()[0]
                )
                time.sleep(wait)
                wait = min(2 * wait, 5.0)

    def _plan_run(self, run_id: str) -> None:
        with self._working_on(Run, run_id):
            self._planned(run_id)

    def _planned(self, run_id: str) -> None:
        # the engine's libraries load with the first task
        from wedgecraft.core.draft.bare import is_bare
        from wedgecraft.core.explain.card import card_of
        from wedgecraft.core.ground.errors import OutOfRange
        from wedgecraft.core.plan.route import as_chosen, plan_route

        with self._database.session() as session:
            run = attempts.begin(session, Run, run_id)
            if run is None:
                return
            if run.attempts > MOST_ATTEMPTS:
                why = f"This plan brought down its worker {MOST_ATTEMPTS} times, the last time at “{run.step}”; it was given up. Change the job, or ask who looks after this installation for the log."  # noqa: E501
                jobs.finish(session, run_id, status="failed", error=why, result=None)
                return
            document = JobDocument.model_validate(run.document)

        def progress(step: str, share: float, **values: Any) -> None:
            try:
                with self._database.session() as session:
                    wanted = jobs.report(session, run_id, step=step, share=share, **values)
            except PASSING as error:  # how far it is can be said a moment later
                log.warning("progress was not stored: %s", str(error).splitlines()[0])
                return
            if not wanted:
                raise _TakenAway

        def preview(found: JobDocument) -> None:
            count = jobs.count_of(found.result)
            shown = found.result.model_dump(mode="json") if found.result is not None else None
            progress(f"layout: {count} so far", 0.5, result=shown, count=count)

        try:
            progress("starting", 0.01)
            if is_bare(document):
                document = self._drafted(run_id, document, progress)
            planned = plan_route(document, progress, preview=preview)
        except _TakenAway:
            log.info("it was cancelled")
            return
        except OutOfRange as error:
            said = f"No way was found to make it: {error.value} does not do; what would is"
            why = f"{said} {error.allowed}."[:500]
            self._surely(lambda: self._finish(run_id, status="failed", error=why, result=None))
            return
        except Exception as error:
            log.exception("it failed")
            why = words(error)[:500]
            self._surely(lambda: self._finish(run_id, status="failed", error=why, result=None))
            return
        result = planned.result
        shown = result.model_dump(mode="json") if result is not None else None
        card = card_of(planned, result).model_dump(mode="json") if result is not None else None

        def store() -> None:
            with self._database.session() as session:
                jobs.take_settled(session, run_id, as_chosen(planned))
                jobs.finish(
                    session,
                    run_id,
                    status="done",
                    result=shown,
                    count=jobs.count_of(result),
                    card=card,
                    share=1.0,
                    step="done",
                )

        try:
            self._surely(store)
        except PASSING as error:
            # It did not pass: this attempt counts, so that it is not planned again for ever.
            log.error("its outcome could not be stored: %s", str(error).splitlines()[0])

    def _drafted(
        self, run_id: str, bare: JobDocument, progress: Callable[[str, float], None]
    ) -> JobDocument:
        """Everything proposed for a job that says nothing yet, and written into it."""
        from wedgecraft.core.draft.around import drafted_around
        from wedgecraft.core.draft.shop import Stores

        with self._database.session() as session:
            things = shop.entries(session, retired=False)
            stores = Stores.holding([shop.document(thing) for thing in things])
            run = session.get_one(Run, run_id)
            asker = session.get(Person, run.asked_by) if run.asked_by else None
            inch = asker is not None and asker.units == "inch"
            emptied = changes.emptied(session, run.job_id)
        before = bare if emptied is None else JobDocument.model_validate(emptied)
        found = drafted_around(
            before,
            stores,
            unit="in" if inch else "mm",
            progress=lambda step, share: progress(step[:60], 0.5 * share),
        )

        def store() -> None:
            with self._database.session() as session:
                jobs.take_settled(session, run_id, found)

        self._surely(store)
        return found

    def _finish(self, run_id: str, **values: Any) -> None:
        with self._database.session() as session:
            jobs.finish(session, run_id, **values)

    def _look_at_pieces(self, job_id: str) -> None:
        """What the pieces of a placing come to: its count was told before. Of a job that was
        changed meanwhile nothing is kept.
        """
        from wedgecraft.core.explain.card import card_of
        from wedgecraft.core.plan.pieces import pieces_looked_at

        with self._database.session() as session:
            run = jobs.newest_done(session, job_id)
            known = jobs.result_of(run) if run is not None else None
            if run is None or known is None:
                return
            run_id, document = run.id, JobDocument.model_validate(run.document)
        looked = pieces_looked_at(document.model_copy(update={"result": known}))
        if looked.result is None or looked.result == known:
            return
        card = card_of(looked, looked.result).model_dump(mode="json")
        with self._database.session() as session:
            jobs.keep_result(session, run_id, looked.result, card)

    def _read_solid(self, upload_id: str) -> None:
        with self._working_on(Upload, upload_id):
            self._solid(upload_id)

    def _solid(self, upload_id: str) -> None:
        from wedgecraft.formats.errors import FileRefused
        from wedgecraft.formats.step.reader import StepReader

        def report(**values: Any) -> None:
            with self._database.session() as session:
                if not uploads.report(session, upload_id, **values):
                    raise _TakenAway

        with self._database.session() as session:
            upload = attempts.begin(session, Upload, upload_id)
            if upload is None or upload.file is None:
                return
            file, name, times = upload.file, upload.name, upload.attempts
        if times > MOST_ATTEMPTS:
            self._refuse(
                upload_id,
                f"This solid brought down its worker {MOST_ATTEMPTS} times; it was given up."
                " Simplify it, and load it again.",
            )
            return
        try:
            if self._reader is None:
                report(status="running", step="starting the CAD kernel", share=0.1)
                self._reader = StepReader(many=2)
                self._reader.warm()
            report(status="running", step="reading the solid", share=0.4)
            reading, points, triangles, faces, mesh = self._reader.read(file, name)
            read = {
                "result": reading.model_dump(mode="json"),
                "points": points,
                "triangles": triangles,
                "faces": faces,
            }
            if mesh:
                with self._database.session() as session:
                    meshes.keep(session, mesh)
            self._surely(lambda: report(status="done", step="done", share=1.0, file=None, **read))
        except _TakenAway:
            log.info("it was cancelled")
        except FileRefused as error:
            self._refuse(upload_id, f"{error.what[:1].upper()}{error.what[1:]}; {error.remedy}.")
        except PASSING:
            raise
        except Exception as error:
            log.exception("it failed")
            self._refuse(upload_id, words(error))

    def _refuse(self, upload_id: str, why: str) -> None:
        def store() -> None:
            with self._database.session() as session:
                uploads.report(session, upload_id, status="failed", error=why[:500], file=None)

        self._surely(store)
