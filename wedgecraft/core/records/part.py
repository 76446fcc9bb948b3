"""The part: outline in plan, height, material, stock, features, ops."""

from __future__ import annotations

from collections import Counter
from typing import Annotated

from pydantic import Field, model_validator

from wedgecraft.core.ground.documents import Document, Ring, Text
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.feature import Feature, circular
from wedgecraft.core.records.material import MaterialRef
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.recess import Recess
from wedgecraft.core.records.solid_ref import SolidRef
from wedgecraft.core.records.stock import Stock


class SolidFace(Document):
    """A planar face of a solid: outward normal and area."""

    normal: tuple[float, float, float]
    area_mm2: float


class SolidHole(Document):
    """A round hole of a solid, in the frame of the part as it sits: where its axis passes, its
    direction, whether it goes through.
    """

    diameter_mm: float
    x_mm: float
    y_mm: float
    z_mm: float
    axis: tuple[float, float, float]
    depth_mm: float
    through: bool


class Solid(Document):
    """What was read from a solid, as it sits with ``up`` (in the file's axes) up; ``section_mm`` is
    the height of the section kept.
    """

    upload: Annotated[str, Field(max_length=40)] = ""
    name: str = Field(default="", max_length=200)
    up: tuple[float, float, float]
    volume_mm3: Annotated[float, Field(gt=0)]
    section_mm: float | None = None
    section: Annotated[list[Ring], Field(max_length=5000)] = []
    faces: Annotated[list[SolidFace], Field(max_length=5000)] = []
    holes: Annotated[list[SolidHole], Field(max_length=5000)] = []
    mesh: SolidRef | None = None


class Part(Document):
    """A part as op 10 sees it: outline from above, height over what it stands on. ``per_kit``: how
    many one kit takes. ``recesses``: what the outline does not say; a solid says it itself.
    """

    name: Text
    outline: Outline
    height_mm: Annotated[Length, Field(gt=0, le=1000)]
    material: MaterialRef
    per_kit: Annotated[int, Field(ge=1, le=1000)] = 1
    stock: Stock = Stock()
    features: Annotated[list[Feature], Field(max_length=60)] = []
    ops: Annotated[list[Op], Field(min_length=1, max_length=20)] = [Op()]
    solid: Solid | None = None
    recesses: Annotated[list[Recess], Field(max_length=500)] = []

    @model_validator(mode="after")
    def _fits_together(self) -> Part:
        twice = [
            name
            for name, count in Counter(item.name for item in self.features).items()
            if count > 1
        ]
        if twice:
            raise ValueError(f"two features are called “{twice[0]}”; each needs its own name")
        round_trip = circular(self.features)
        if round_trip:
            raise ValueError(
                "features are measured from one another in a circle: " + " from ".join(round_trip)
            )
        numbers = [op.number for op in self.ops]
        if len(set(numbers)) < len(numbers) or sorted(numbers) != numbers:
            raise ValueError("op numbers must rise from op to op, such as 10, 20, 30")
        return self
