"""A planned setup as its pieces are made from it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.records.design import Design, PlacedStation
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.request import PlanRequest


@dataclass(frozen=True)
class Asked:
    """``number`` of the setup, from 1; what was asked of it, the design taken, how each of its ops
    is held; ``copies``: identical fixtures; ``verdicts``: on how each holds.
    """

    number: int
    request: PlanRequest
    design: Design
    kinds: tuple[Ready, ...]
    copies: int = 1
    verdicts: tuple[HoldVerdict | None, ...] = ()

    def verdict(self, kind: int) -> HoldVerdict | None:
        """How a kind of station holds, where that was planned."""
        return self.verdicts[kind] if kind < len(self.verdicts) else None

    def on_face(self, face: int) -> list[PlacedStation]:
        return [station for station in self.design.stations if station.face == face]

    def many(self, kind: int) -> int:
        """Stations of a kind, in all copies; one at least."""
        there = Counter(station.kind for station in self.design.stations)[kind]
        return max(1, there) * self.copies

    @property
    def ops(self) -> list[int]:
        """Numbers of the ops it holds."""
        return sorted({kind.op_number for kind in self.design.kinds})
