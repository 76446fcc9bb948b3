"""What a cycle is made of, in seconds."""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.ground.documents import Document


class Segment(Document):
    """A stretch of the cycle, of so many moves; ``face`` counts from 0, nothing where no face is
    meant.
    """

    what: Literal["cut", "rapids", "tool change", "index", "pallet change", "door open"]
    label: str
    seconds: float
    face: int | None = None
    times: int = 1


class Cycle(Document):
    """The time line and its sums. ``tool_changes_other``: what the other program order would
    need.
    """

    segments: list[Segment]
    seconds: float
    order: Literal["by tool", "by station"]
    tool_changes: int
    tool_changes_other: int
    index_moves: int
    loading_seconds: float
    hidden: bool
    pallets: int
    unattended_seconds: float
