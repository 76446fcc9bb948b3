"""The process that reads STEP files: started with the first file, kept warm, replaced when a file brings it down."""

from __future__ import annotations

import multiprocessing
import os
import threading
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from wedgecraft.core.reading import SolidReading
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.outlines import MOST_BYTES

#: A file that takes longer than this is given up.
SECONDS = 60


class StepReader:
    """One kernel process; calls from several threads wait for one another."""

    def __init__(self, seconds: float = SECONDS) -> None:
        self._seconds = seconds
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()

    def warm(self) -> None:
        """Start the process and load the kernel."""
        from wedgecraft.formats.step import kernel

        with self._lock:
            self._answer(self._started().submit(kernel.ready))

    def read(self, data: bytes, name: str) -> tuple[SolidReading, bytes, bytes, bytes]:
        """The reading, and its mesh (see ``kernel.read_step``). Raises FileRefused whatever the file does to the kernel."""
        from wedgecraft.formats.step import kernel

        check_step(data)
        with self._lock:
            found: tuple[SolidReading, bytes, bytes, bytes] = self._answer(self._started().submit(kernel.read_step, data, name))
        return found

    def _started(self) -> ProcessPoolExecutor:
        from wedgecraft.formats.step import kernel

        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, mp_context=context, initializer=kernel.prepare, initargs=(os.getpid(),))
        return self._pool

    def _answer(self, future: Future[Any]) -> Any:
        try:
            return future.result(timeout=self._seconds)
        except FileRefused:
            raise
        except BrokenProcessPool:
            self.close()
            raise FileRefused(
                "the CAD kernel broke down over this file", "mend the solid, or export it again from another program"
            ) from None
        except TooLong:
            self.close()
            raise FileRefused(
                f"the CAD kernel had not finished after {self._seconds:g} s",
                "simplify the solid: leave out threads, knurls and engraving",
            ) from None
        except Exception as error:
            raise FileRefused(
                f"the CAD kernel could not use this file ({str(error)[:120] or type(error).__name__})", "export it again"
            ) from None

    def close(self) -> None:
        """End the process; the next file starts a new one."""
        pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((getattr(pool, "_processes", None) or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)


def check_step(data: bytes) -> None:
    """What can be told without the kernel. Raises FileRefused."""
    if not data:
        raise FileRefused("the file is empty", "export the solid again as STEP")
    if len(data) > MOST_BYTES:
        raise FileRefused(
            f"the file has {len(data) / 1e6:.1f} MB", f"at most {MOST_BYTES / 1e6:.0f} MB are read; export one part only"
        )
    if not data[:200].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21"):
        raise FileRefused("the file does not begin as a STEP file does", "export the solid as STEP (AP203, AP214 or AP242)")
    if b"END-ISO-10303-21" not in data[-4000:]:
        raise FileRefused("the STEP file is cut short: its end is missing", "copy or export it again")
