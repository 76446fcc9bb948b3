"""One way of clamping the stations of one kind, tried."""

from __future__ import annotations

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.records.clamp import AnyElement
from wedgecraft.core.records.sharing import Sharing


class Way(Document):
    """One way of clamping the stations of one kind, planned by itself: what it takes, what it
    gives, and why it would not do.

    ``torque_nm``: the torque it would be set to, in its window; nothing for a vacuum. ``rank`` 1 is
    the planner's choice.
    """

    kind: int = 0
    name: Text
    element: AnyElement
    sharing: Sharing
    clamps: int
    torque_nm: float | None
    factor: float
    count: int
    bound: int
    screws: int
    loading_seconds: float
    part_seconds: float
    rank: int
    refused: str = ""
    figures: list[Figure] = []
