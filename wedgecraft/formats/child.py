"""Processes in which files are read: warm, limited in time and memory, and replaced when a file
brings one down.
"""

from __future__ import annotations

import importlib
import multiprocessing
import os
import queue
import resource
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from wedgecraft.formats.errors import FileRefused, unreadable

_LOOK_SECONDS, _LEAST_SECONDS = 0.05, 5.0
_PAGE = os.sysconf("SC_PAGE_SIZE")


@dataclass(frozen=True)
class Limits:
    """What a file may take: seconds by the clock, bytes of memory; ``libraries`` are loaded when
    the process starts.

    ``in_all``: seconds until there is an answer, waiting for a process and its start included, but
    never less than a few to read.
    """

    seconds: float
    memory: int
    libraries: tuple[str, ...]
    in_all: float = 28.0
    starting_seconds: float = 120.0


class Readers:
    """Up to ``many`` processes alike, each started when it is first needed; a call waits for one
    that is free.
    """

    def __init__(self, limits: Limits, many: int = 1) -> None:
        self._limits = limits
        self._free: queue.LifoQueue[_Child] = queue.LifoQueue()
        self._children = [_Child(limits) for _ in range(many)]
        for child in reversed(self._children):
            self._free.put(child)

    def call(self, function: Callable[..., Any], *arguments: Any) -> Any:
        """What the function answers there. Raises FileRefused, whatever the file does to the
        process.
        """
        until = time.monotonic() + self._limits.in_all
        child = self._free.get()
        try:
            return child.call(until, function, *arguments)
        finally:
            if child.pids:
                self._free.put(child)
            else:  # brought down: the next file is not to wait for its start
                threading.Thread(target=self._revive, args=(child,), daemon=True).start()

    def _revive(self, child: _Child) -> None:
        with suppress(FileRefused):
            child.start()
        self._free.put(child)

    def warm(self) -> None:
        """Start the first process and load its libraries."""
        self.call(_ready)

    @property
    def pids(self) -> list[int]:
        """The processes there are just now."""
        return [pid for child in self._children for pid in child.pids]

    def close(self) -> None:
        """End the processes; the next file starts new ones."""
        for child in self._children:
            child.close()


class _Child:
    """One process."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._pool: ProcessPoolExecutor | None = None

    def call(self, until: float, function: Callable[..., Any], *arguments: Any) -> Any:
        """What the function answers, by ``until`` on the clock. Raises FileRefused."""
        future = self.start().submit(function, *arguments)
        return self._answer(
            future, min(self._limits.seconds, max(_LEAST_SECONDS, until - time.monotonic()))
        )

    def start(self) -> ProcessPoolExecutor:
        """The process, with its libraries loaded."""
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            given = (os.getpid(), self._limits.memory, self._limits.libraries)
            self._pool = ProcessPoolExecutor(
                1, mp_context=context, initializer=_prepare, initargs=given
            )
            self._answer(self._pool.submit(_ready), self._limits.starting_seconds)
        return self._pool

    def _answer(self, future: Future[Any], seconds: float) -> Any:
        until = time.monotonic() + seconds
        while True:
            try:
                return future.result(timeout=_LOOK_SECONDS)
            except FileRefused:
                raise
            except BrokenProcessPool:
                self.close()
                raise FileRefused(
                    "the reader broke down over this file",
                    "mend it, or export it again from another program",
                ) from None
            except TooLong:
                if time.monotonic() > until:
                    self.close()
                    raise FileRefused(
                        f"it was not read in {seconds:.2g} s",
                        "leave out what is not the part's own shape, and simplify it",
                    ) from None
                if self._resident() > self._limits.memory:
                    self.close()
                    raise self._too_big() from None
            except MemoryError:
                self.close()
                raise self._too_big() from None
            except Exception as error:
                raise unreadable(
                    "the reader could not use this file", "export it again", error
                ) from None

    @property
    def pids(self) -> list[int]:
        return list(getattr(self._pool, "_processes", None) or {})

    def _too_big(self) -> FileRefused:
        return FileRefused(
            f"reading it would take more than {self._limits.memory / 1e9:g} GB of memory",
            "export the part alone, and simplify it",
        )

    def _resident(self) -> int:
        """Bytes the process has in memory."""
        sizes = [0]
        for pid in self.pids:
            with suppress(OSError, ValueError, IndexError):
                sizes.append(int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * _PAGE)
        return max(sizes)

    def close(self) -> None:
        pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((getattr(pool, "_processes", None) or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)


def _prepare(parent: int, memory: int, libraries: tuple[str, ...]) -> None:
    """First thing in the process: an end when its owner is gone, the libraries, and a limit to what
    it may take on top of them.
    """

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
    for name in libraries:
        importlib.import_module(name)
    os.nice(5)  # pages come first
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # a kernel may talk to itself
    # Data, not address space: what libraries only reserve is nobody's burden. The owner looks at
    # what is resident besides.
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _ready() -> bool:
    return True
