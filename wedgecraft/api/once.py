"""A change that is sent again, because its answer was lost, is made once: senders give it a key in
the header ``Idempotency-Key``.
"""

from __future__ import annotations

import re
from typing import Any

from flask import request

from wedgecraft.api.access import me
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.store import changes
from wedgecraft.store.models import Change

_HEADER = "Idempotency-Key"
_KEY = re.compile(r"[0-9a-f]{32}")


def key() -> str | None:
    """The key its sender gave this request. Raises ProblemRaised."""
    given = request.headers.get(_HEADER)
    if given is not None and not _KEY.fullmatch(given):
        error = FieldError(field=_HEADER, value=given[:40], message="32 hexadecimal digits")
        raise ProblemRaised(
            422,
            "Not possible",
            f"{_HEADER} is 32 hexadecimal digits, new for every change.",
            [error],
        )
    return given


def _what() -> str:
    return f"{request.method} {request.path}"[:120]


def before(session: Any) -> Change | None:
    """The change as it was made when this request came before; nothing for a new one. Raises
    ProblemRaised for another change's key.
    """
    try:
        return changes.known(session, key(), _what(), me().id)
    except changes.KeyReused:
        raise ProblemRaised(
            422, "Not possible", f"This {_HEADER} stands for another change; give each its own."
        ) from None


def note(session: Any, subject: str, job: str | None = None) -> Change:
    """Write down, in the transaction that makes it, that this request's change was made."""
    return changes.note(session, key(), _what(), subject, me().id, job)
