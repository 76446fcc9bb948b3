"""Costly calls have lanes: a few at once, a few waiting, few of them one person's. Who finds a lane
full is told to come again.
"""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any

from wedgecraft.api.access import me
from wedgecraft.api.problems import ProblemRaised


class Lane:
    """``at_once`` calls run, ``waiting`` more wait for them; ``each``: how many of both are one
    person's.

    All lanes together hold fewer threads than a web process has, so that some are always left for
    what is quick.
    """

    def __init__(self, at_once: int, waiting: int, each: int) -> None:
        self._running = threading.Semaphore(at_once)
        self._most, self._each = at_once + waiting, each
        self._inside: Counter[str] = Counter()
        self._lock = threading.Lock()

    @contextmanager
    def place(self, person: str) -> Iterator[None]:
        """A place in the lane for as long as it is held. Raises ProblemRaised (503) when there is
        none.
        """
        with self._lock:
            if self._inside.total() >= self._most or self._inside[person] >= self._each:
                raise ProblemRaised(
                    503,
                    "Busy",
                    "Others are being answered just now. Nothing is lost; this goes on by itself in"
                    " a moment.",
                    headers=_SOON,
                )
            self._inside[person] += 1
        try:
            with self._running:
                yield
        finally:
            with self._lock:
                self._inside[person] -= 1
                self._inside += Counter()  # without those who left

    def __call__(self, view: Callable[..., Any]) -> Callable[..., Any]:
        """The view, answered in this lane."""

        @wraps(view)
        def placed(*args: Any, **kwargs: Any) -> Any:
            with self.place(me().id):
                return view(*args, **kwargs)

        return placed


_SOON = {"Retry-After": "1"}
#: What the engine computes while somebody waits, and reading files: of a web process's threads at
#: most 5 and 5.
engine, files = Lane(at_once=2, waiting=3, each=4), Lane(at_once=2, waiting=3, each=2)
#: Changes of a job, which may place stations: quick ones, mostly.
edits = Lane(at_once=2, waiting=3, each=4)
