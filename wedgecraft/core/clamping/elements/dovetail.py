"""Flanks that lean over a dovetail cut under the part."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from wedgecraft.core.clamping.elements.edge_clamp import PLAY_MM, beside
from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.contact import Vector
from wedgecraft.core.records.element import (
    ELEMENTS,
    Element,
    Friction,
    Grip,
    InShop,
    Leaning,
    Press,
    Stood,
    lifts,
)
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks


@ELEMENTS.register
class Dovetail(Element):
    """Flanks that lean over a dovetail cut under the part: the moving one is pushed sideways and so
    presses in and down.

    ``flank_deg``: between flank and plate. ``depth_mm``: how high the dovetail is. The long stop is
    the fixed flank. Its force: the pushed flank lies against the leaning side, friction on it
    hinders at the low end (statics of the wedge, any handbook of mechanics).
    """

    kind: Literal["dovetail"] = "dovetail"
    flank_deg: Annotated[float, Field(ge=30, le=85, title="Flank to plate, °")] = 60
    depth_mm: Annotated[Length, Field(gt=0, le=100, title="Dovetail, height")] = 4
    friction: Annotated[Friction, Field(title="Friction at the flanks")] = 0.2

    acts: ClassVar[str] = "presses in and down on the flank"
    formula: ClassVar[str] = "flank force = screw force x transmission / (sin flank + mu cos flank)"
    said: ClassVar[str] = "dovetail jaw"
    listed: ClassVar[int] = 7
    most: ClassVar[int] = 2
    stands_beside: ClassVar[bool] = True

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(friction=min(item.friction, 1.0))

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        flank = math.radians(self.flank_deg)
        least = low * clamp.transmission / (math.sin(flank) + self.friction * math.cos(flank))
        return Preload(least, high * clamp.transmission / math.sin(flank), least * math.cos(flank))

    def _pushes(self, side: float) -> Vector:
        """Which way a flank pushes on the part: inward and down."""
        flank = math.radians(self.flank_deg)
        return (side * math.sin(flank), 0.0, -math.cos(flank))

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        if self.depth_mm >= stood.height_mm:
            raise OutOfRange(
                "station.element.depth_mm",
                self.depth_mm,
                f"less than the part's height, {stood.height_mm:g} mm",
            )
        width, middle = float(stood.floor.bounds[2]), self.depth_mm / 2
        bodies, screws = beside(width, clamp, places)
        normal, patch = self._pushes(-1.0), clamp.width_mm * self.depth_mm
        presses = tuple(
            Press(width, y, 1.0, middle, normal, f"flank {k + 1}", self.friction, patch)
            for k, y in enumerate(places)
        )
        return Grip(presses, bodies, bodies, screws, clamp.height_mm)

    def leaning(self) -> Leaning | None:
        return Leaning(self._pushes(1.0), 0.25 * self.depth_mm, 0.75 * self.depth_mm)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        undercut = self.depth_mm / math.tan(math.radians(self.flank_deg))
        if clamp.opens_mm < undercut + PLAY_MM:
            return [
                f"The flank opens {clamp.opens_mm:g} mm, less than the {undercut + PLAY_MM:.1f} mm"
                " to lift the part out: it slides out along the flanks, away from the end stop;"
                " keep that way free."
            ]
        return [
            f"The flank opens {clamp.opens_mm:g} mm, {undercut:.1f} mm are undercut.",
            lifts(stood.height_mm),
        ]
