"""What the figures and the ledger of a design are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.records.cycle import Cycle
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.layout import LayoutResult
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.request import PlanRequest


@dataclass(frozen=True)
class Worked:
    """One of the planned ops with what its cuts ask of the part and how it is held."""

    ready: Ready
    loads: list[CutLoad]
    hold: HoldVerdict


@dataclass(frozen=True)
class Facts:
    """What the figures are made of."""

    request: PlanRequest
    kinds: Sequence[Worked]
    counts: list[int]
    layout: LayoutResult
    stations: list[PlacedStation]
    travel_mm: tuple[float, float]
    growth_per_mm: float
    cycles: int
    cycle: Cycle
    offsets: int
