"""Log lines: each with the request or the run it belongs to, each on one line of its own, in files
that do not grow for ever.
"""

from __future__ import annotations

import logging
import os
import re
import sys
import threading
from contextvars import ContextVar
from logging.handlers import RotatingFileHandler
from pathlib import Path

#: What the present work is for: a request's id, or ``run`` or ``solid`` with theirs.
about: ContextVar[str] = ContextVar("about", default="-")

_FORMAT = "%(asctime)s %(levelname)s %(name)s [%(about)s] %(message)s"
_CONTROL = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029]")
_BYTES, _KEPT = 10_000_000, 5


class OneLine(logging.Formatter):
    """What came from outside cannot begin a line: control characters are written as escapes, and a
    traceback's lines are indented.
    """

    def format(self, record: logging.LogRecord) -> str:
        record.about = about.get()
        first, *trace = (
            super().format(record).split("\n") if record.exc_info else [super().format(record)]
        )
        return "\n    ".join(escaped(line) for line in [first, *trace])


def escaped(text: str) -> str:
    """Text with its control characters as escapes.

    >>> print(escaped("/a\\nb"))
    /a\\nb
    """
    return _CONTROL.sub(lambda found: found.group().encode("unicode_escape").decode(), text)


def to_stderr(level: int = logging.INFO) -> None:
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(OneLine(_FORMAT))
    logging.basicConfig(level=level, handlers=[handler])
    for name in ("alembic", "procrastinate", "waitress.queue"):
        logging.getLogger(name).setLevel(logging.WARNING)


class _Patient(RotatingFileHandler):
    """A full disk costs lines, never the process."""

    def handleError(self, record: logging.LogRecord) -> None:  # noqa: N802
        return


class RotatedFile:
    """A log file that many processes write through one pipe: at 10 MB it is put aside, and five of
    those are kept.
    """

    def __init__(self, file: Path) -> None:
        read, self.write = os.pipe()
        handler = _Patient(
            file, maxBytes=_BYTES, backupCount=_KEPT, encoding="utf-8", errors="replace"
        )
        handler.setFormatter(logging.Formatter("%(message)s"))
        self._thread = threading.Thread(target=_copy, args=(read, handler), daemon=True)
        self._thread.start()

    def close(self) -> None:
        """After the last writer is gone: everything is written down."""
        os.close(self.write)
        self._thread.join(5)


def _copy(read: int, handler: RotatingFileHandler) -> None:
    with os.fdopen(read, encoding="utf-8", errors="replace") as lines:
        for line in lines:
            # A full disk must not stop the reading: who writes into a full pipe stands still.
            handler.handle(
                logging.makeLogRecord({"msg": line.rstrip("\n"), "levelno": logging.INFO})
            )
    handler.close()
