"""The plate that stations stand on: size, margin, keep-outs, where its zero is."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Length, Place
from wedgecraft.core.records.material import MATERIALS, MaterialRef


class KeepOut(Document):
    """Where nothing may stand: a hold-down screw (``round``) or a bar (``box``), ``height_mm``
    above the plate.
    """

    shape: Literal["round", "box"] = "round"
    x_mm: Annotated[Length, Field(ge=-5000, le=5000)]
    y_mm: Annotated[Length, Field(ge=-5000, le=5000)]
    width_mm: Annotated[Length, Field(gt=0, le=5000)]
    depth_mm: Annotated[Length, Field(gt=0, le=5000)] | None = None
    height_mm: Annotated[Length, Field(ge=0, le=1000)] = 10


class Plate(Document):
    """A rectangular fixture plate, its corner at (0, 0); stations stand ``margin_mm`` inside its
    edge.
    """

    name: Text = "Plate"
    width_mm: Annotated[Length, Field(gt=0, le=5000, title="Width")]
    depth_mm: Annotated[Length, Field(gt=0, le=5000, title="Depth")]
    thickness_mm: Annotated[Length, Field(gt=0, le=500, title="Thickness")] = 25
    material: MaterialRef = MATERIALS["aluminium-6061"]
    margin_mm: Annotated[Length, Field(ge=0, le=500, title="Margin at the edge")] = 5
    keepouts: Annotated[list[KeepOut], Field(max_length=500, title="Keep-outs")] = []
    shop_id: Annotated[str, Field(max_length=40)] | None = None


PickUp = Literal["as it lies", "corner", "bore", "midway between faces", "axis"]


#: The bore a zero is picked up in, and what must stay of the plate round it, mm; from memory.
BORE_MM, ROUND_BORE_MM = 10.0, 2.0


class Datum(Document):
    """Where the plate's zero is picked up, in plate coordinates, and from what: as it lies, from
    the corner where it is there, else from a bore.
    """

    x_mm: Place = 0.0
    y_mm: Place = 0.0
    picked_up: PickUp = "as it lies"

    @property
    def at_corner(self) -> bool:
        return (self.x_mm, self.y_mm) == (0, 0)

    @property
    def from_what(self) -> PickUp:
        if self.picked_up != "as it lies":
            return self.picked_up
        return "corner" if self.at_corner else "bore"
