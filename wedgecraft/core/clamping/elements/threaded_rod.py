"""A threaded rod with nut and washer through a round hole of the part."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field
from shapely.geometry import Point

from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.element import (
    ELEMENTS,
    Body,
    Bored,
    Element,
    Friction,
    Grip,
    InShop,
    Press,
    Size,
    Stood,
    lifts,
    one_of,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks
from wedgecraft.core.workpiece.holes import fitting_hole, holes_said

_EDGE_PARTS = 6


@ELEMENTS.register
class Rod(Element):
    """A threaded rod with nut and washer through a round hole of the part, ``washer_mm`` across and
    ``nut_mm`` high with it.
    """

    kind: Literal["threaded rod"] = "threaded rod"
    washer_mm: Annotated[Size, Field(title="Washer, diameter")] = 24
    nut_mm: Annotated[Size, Field(title="Nut and washer, height")] = 14
    friction: Annotated[Friction, Field(title="Friction at the washer")] = 0.15

    acts: ClassVar[str] = "presses down round the hole"
    formula: ClassVar[str] = "washer force = screw force"
    said: ClassVar[str] = "rod through the hole"
    listed: ClassVar[int] = 6
    alone: ClassVar[bool] = True
    caution: ClassVar[str] = (
        "Nut and rod stand over the part: check every rapid against them in single block."
    )

    @classmethod
    def fitted(cls, hole: Bored | None, height_mm: float) -> Self:
        return cls(washer_mm=round(hole.diameter_mm + 12, 1) if hole else 24)

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(washer_mm=item.width_mm)

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        return Preload(low, high, low)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        return (Fixing(self.said, thread=clamp.screw, clamped_mm=over_mm, stud=True),)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        one_of(count, self.kind)
        outline = stood.outline
        hole = fitting_hole(outline, 0.0, self.washer_mm - 2)
        if hole is None:
            raise OutOfRange(
                "station.element.washer_mm",
                self.washer_mm,
                "a washer at least 2 mm wider than a round hole of the part, which the rod goes"
                f" through: {holes_said(outline)}",
            )
        washer = Point(hole.x_mm, hole.y_mm).buffer(self.washer_mm / 2, quad_segs=8)
        height_mm, lies = stood.top_under(washer)
        patch = float(lies.area) / _EDGE_PARTS
        radius = (hole.diameter_mm + self.washer_mm) / 4
        presses = tuple(
            Press(
                hole.x_mm + radius * math.cos(angle),
                hole.y_mm + radius * math.sin(angle),
                1 / _EDGE_PARTS,
                height_mm,
                (0.0, 0.0, -1.0),
                f"washer {k + 1}",
                self.friction,
                patch,
            )
            for k, angle in enumerate(2 * math.pi * np.arange(_EDGE_PARTS) / _EDGE_PARTS)
        )
        over = height_mm + self.nut_mm
        screw = ((hole.x_mm, hole.y_mm),)
        return Grip(presses, (Body(washer, height_mm, over),), (), screw, over)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        return [
            "Nut and washer come off the rod; the part lifts over its whole length.",
            lifts(stood.height_mm),
        ]
