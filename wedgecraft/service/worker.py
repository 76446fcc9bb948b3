"""A worker process: serves queued tasks of one lane or of all."""

from __future__ import annotations

import contextlib
import logging
import os
import threading
import time
from pathlib import Path

from wedgecraft.service.state import database_url

log = logging.getLogger(__name__)


def end_with_parent() -> None:
    """Stop when the supervisor is gone, even if it was killed: nothing keeps running behind
    anyone's back.
    """
    import signal

    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os.kill(os.getpid(), signal.SIGTERM)
        time.sleep(15)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def step_back(by: int) -> None:
    """Let others on this machine come first. Where Linux shares the processor among sessions before
    it looks at processes, the session steps back too.
    """
    os.nice(by)
    with contextlib.suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(by))


def work(lane: str) -> None:
    """Serve tasks; when the database goes away, wait for it and go on."""
    from procrastinate.exceptions import ProcrastinateException
    from psycopg import Error
    from sqlalchemy.exc import SQLAlchemyError

    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.database import Database

    while True:
        database = Database(database_url())
        try:
            Queue(database).work(lane)
        except (ProcrastinateException, Error, SQLAlchemyError, OSError) as error:
            log.warning(
                "worker: %s; trying again in 2 s",
                str(error).splitlines()[0] if str(error) else type(error).__name__,
            )
            time.sleep(2)
        else:
            logging.shutdown()
            os._exit(
                0
            )  # a plan that is still computed was given back to the queue: nobody waits for its end
        finally:
            database.close()
