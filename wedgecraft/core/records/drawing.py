"""What was found in a drawing, before anything is stored: outlines to choose from, layers, gaps,
units.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.outline import Outline

DrawingUnits = Literal["mm", "inch", "px"]


class FoundLayer(Document):
    """A layer of the drawing, how many curves it has, and whether they were used."""

    name: str
    curves: int
    used: bool


class FoundGap(Document):
    """Two ends and how far they are apart."""

    x_mm: float
    y_mm: float
    gap_mm: float


class FoundOutline(Document):
    """One outline to choose, largest first."""

    outline: Outline
    width_mm: float
    depth_mm: float
    area_mm2: float


class OutlinesFound(Document):
    """``healed``: gaps joined over; ``open``: chains that do not close and were left out; ``units``
    as the file or the caller said.
    """

    outlines: Annotated[list[FoundOutline], Field(max_length=200)]
    layers: list[FoundLayer] = []
    healed: list[FoundGap] = []
    open: list[FoundGap] = []
    join_mm: float
    units: str
    notes: list[str] = []
