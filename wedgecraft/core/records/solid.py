"""What is read from a solid: its faces and holes, and for every way up what is seen from above."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import SolidFace, SolidHole
from wedgecraft.core.records.solid_ref import SolidRef

Vector = tuple[float, float, float]


class WayUp(Document):
    """The solid with one of its sides up. ``area_mm2``: planar area that then faces up, which is
    how likely a side it is.

    ``wrong`` says why there is no outline.
    """

    up: Vector
    name: str
    area_mm2: float
    width_mm: float
    depth_mm: float
    height_mm: float
    outline: Outline | None
    holes: Annotated[list[SolidHole], Field(max_length=500)] = []
    wrong: str | None = None


class SolidReading(Document):
    """A STEP file read: ``ways`` are ordered, the likeliest first."""

    name: str
    solids: int
    volume_mm3: float
    surface_mm2: float
    size_mm: Vector
    faces: Annotated[list[SolidFace], Field(max_length=500)]
    ways: list[WayUp]
    mesh: SolidRef | None = None
    triangles: int
    notes: list[str] = []
