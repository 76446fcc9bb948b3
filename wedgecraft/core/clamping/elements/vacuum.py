"""The air's weight on what a seal encloses."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import shapely
from pydantic import Field
from shapely.geometry import Polygon, box

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import FigureInput, given
from wedgecraft.core.ground.units import Length
from wedgecraft.core.ground.units import Vacuum as VacuumDepth
from wedgecraft.core.records.element import ELEMENTS, Element, Grip, Milled, Press, Stood, lifts
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

#: A cord is let in by so much of its thickness; from memory.
_SUNK = 0.75


@ELEMENTS.register
class Vacuum(Element):
    """The air's weight on what a seal encloses: ``border_mm`` inside the outline, over
    ``sealed_share`` of that area.

    ``low_kpa`` is what the gauge must show before cutting, ``high_kpa`` the pump's best. A leak
    lets everything go at once.
    """

    kind: Literal["vacuum"] = "vacuum"
    low_kpa: Annotated[VacuumDepth, Field(gt=0, le=101, title="Vacuum before cutting")] = 65
    high_kpa: Annotated[VacuumDepth, Field(gt=0, le=101, title="Vacuum at best")] = 85
    border_mm: Annotated[Length, Field(ge=0, le=200, title="Seal inside the edge")] = 5
    sealed_share: Annotated[float, Field(gt=0, le=1, title="Share that is sealed")] = 0.85
    cord_mm: Annotated[Length, Field(gt=0, le=20, title="Seal cord, thickness")] = 4
    port_mm: Annotated[Length, Field(gt=0, le=50, title="Port, diameter")] = 8

    acts: ClassVar[str] = "presses down all over"
    formula: ClassVar[str] = "force = area inside the seal x share sealed x vacuum"
    said: ClassVar[str] = "vacuum"
    listed: ClassVar[int] = 9
    alone: ClassVar[bool] = True
    driven: ClassVar[bool] = False
    caution: ClassVar[str] = (
        "Vacuum is stored energy: a leak or a stopped pump lets everything go at once. Interlock"
        " the pump with the machine as its builder says, and read the gauge before every cycle."
    )

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        if self.low_kpa > self.high_kpa:
            raise OutOfRange("station.element.low_kpa", self.low_kpa, "at most high_kpa")
        area = sealed_mm2 * self.sealed_share
        return Preload(area * self.low_kpa / 1000, area * self.high_kpa / 1000, 0.0)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        """None but the port under the part."""
        return ()

    def under(self, floor: Polygon) -> tuple[tuple[Milled, ...], tuple[Fixing, ...]]:
        """A groove for the seal's cord, as wide as it and less deep, so that it stands proud; the
        port inside it.
        """
        inside = floor.buffer(-self.border_mm)
        grooves = tuple(
            Milled(
                "groove for the seal",
                part.exterior.buffer(self.cord_mm / 2, quad_segs=16),
                round(_SUNK * self.cord_mm, 2),
                self.cord_mm / 2,
            )
            for part in shapely.get_parts(inside)
        )
        at = inside.representative_point()
        return grooves, (Fixing("vacuum port", at.x, at.y, diameter_mm=self.port_mm),)

    def sealed_mm2(self, stood: Stood) -> float:
        """Raises OutOfRange when the border leaves none."""
        inside = stood.floor.buffer(-self.border_mm)
        if inside.area < 1:
            raise OutOfRange(
                "station.element.border_mm",
                self.border_mm,
                "a border that leaves something of the part to hold",
            )
        return float(inside.area)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        """Spread over what the seal encloses: the middles of its quarters, which balance where all
        of it does.
        """
        inside = stood.floor.buffer(-self.border_mm)
        area, middle = self.sealed_mm2(stood), inside.centroid
        x0, y0, x1, y1 = inside.bounds
        quarters = [
            inside.intersection(piece)
            for piece in (
                box(x0, y0, middle.x, middle.y),
                box(middle.x, y0, x1, middle.y),
                box(x0, middle.y, middle.x, y1),
                box(middle.x, middle.y, x1, y1),
            )
        ]
        presses = tuple(
            Press(
                float(piece.centroid.x),
                float(piece.centroid.y),
                float(piece.area / area),
                0.0,
                (0.0, 0.0, -1.0),
                f"vacuum {k + 1}",
                0.0,
                float(piece.area),
            )
            for k, piece in enumerate(quarters)
            if piece.area > 0
        )
        return Grip(presses, (), (), (), 0.0)

    def sizes(self, clamp: EdgeClamp) -> list[FigureInput]:
        return [
            given("vacuum before cutting", self.low_kpa, "kPa"),
            given("vacuum at best", self.high_kpa, "kPa"),
            given("share sealed", self.sealed_share),
        ]

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        return [
            "Air must be let in under the part: never pry at a part that still holds.",
            lifts(stood.height_mm),
        ]
