"""Whether a part can be taken out: what opens, how far, and whether that is enough."""

from __future__ import annotations

from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.preload import blanks_of
from wedgecraft.core.workpiece.sitting import Sitting


def release(view: OpView, sitting: Sitting) -> list[str]:
    """What lets go, in the trade's words. Raises OutOfRange where it does not open far enough."""
    kind = view.station
    blanks = blanks_of(view, sitting)
    return kind.element.lets_go(sitting, kind.clamp, blanks)
