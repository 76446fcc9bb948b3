"""What tests of the core share."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from wedgecraft.core.workpiece import states


@pytest.fixture
def as_drawn(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Blanks as the parts are drawn, holes and all: for tests of clamping and locating, whose parts
    are near net castings; what blanks are otherwise is tested with the workpiece.
    """

    def forget() -> None:
        states._RECENT.clear()
        states._cached.cache_clear()
        states._after.cache_clear()

    forget()
    monkeypatch.setattr(states, "blank_body", lambda stock, finished, *_: finished)
    yield
    forget()
