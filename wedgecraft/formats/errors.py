"""What a reader raises when a file cannot be used."""

from __future__ import annotations

import logging
from typing import Any

log = logging.getLogger(__name__)


class FileRefused(ValueError):
    """The file cannot be used: ``what`` was found, and what to do about it (``remedy``)."""

    def __init__(self, what: str, remedy: str) -> None:
        super().__init__(f"{what}; {remedy}")
        self.what = what
        self.remedy = remedy

    def __reduce__(self) -> tuple[type[FileRefused], tuple[str, str]]:
        return FileRefused, (self.what, self.remedy)


def unreadable(what: str, remedy: str, error: Exception) -> FileRefused:
    """A refusal for a fault that a library met: a person is told what and where, the log what the
    library says to itself.
    """
    log.info("%s: %s: %s", what, type(error).__name__, str(error)[:300])
    line = getattr(error, "lineno", None) or (getattr(error, "position", None) or [None])[0]
    return FileRefused(f"{what}, from line {line} on" if isinstance(line, int) else what, remedy)


class UnitsMissing(FileRefused):
    """The file does not say its units; ``width`` and ``depth`` are its size in its own numbers."""

    def __init__(self, width: float, depth: float) -> None:
        super().__init__(
            f"the drawing does not say its units; it is {width:.4g} x {depth:.4g} in its own"
            " numbers",
            f"say whether that is mm ({width:.4g} x {depth:.4g} mm) or inch ({width * 25.4:.4g} x"
            f" {depth * 25.4:.4g} mm)",
        )
        self.width, self.depth = width, depth

    def __reduce__(self) -> tuple[type[FileRefused], Any]:
        return UnitsMissing, (self.width, self.depth)
