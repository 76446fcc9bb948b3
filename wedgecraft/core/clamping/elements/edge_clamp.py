"""The edge clamp's own toe, smooth or with teeth."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, Self

import shapely
from pydantic import Field
from shapely.geometry import Point, box

from wedgecraft.core.clamping.screw import edge_clamp_preload
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.element import (
    ELEMENTS,
    Body,
    Element,
    Friction,
    Grip,
    InShop,
    Milled,
    Press,
    Stood,
    lifts,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.material import TOOTHED_FRICTION
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

#: What a part needs beside its own variation to be lifted out by hand without catching; common
#: practice, from memory.
PLAY_MM = 0.2
#: A pocket is so much larger all round than what stands in it; a fast cutter for it, and how many
#: diameters deep it goes; house usage, from memory.
_ROOM_MM, _CUTTER_MM, _DEEP = 0.2, 8.0, 4.0


def beside(
    width: float, clamp: EdgeClamp, places: tuple[float, ...]
) -> tuple[tuple[Body, ...], tuple[tuple[float, float], ...]]:
    """Bodies and screws of edge clamps that stand beside a part so wide, at ``places`` along it."""
    screw = max(clamp.length_mm / 2, clamp.wrench_diameter_mm / 2)
    half = clamp.width_mm / 2
    bodies = tuple(
        Body(box(width, y - half, width + clamp.length_mm, y + half), 0, clamp.height_mm)
        for y in places
    )
    return bodies, tuple((width + screw, y) for y in places)


class Toe(Element):
    """What smooth and toothed toes have in common."""

    formula: ClassVar[str] = "toe force = screw force x transmission"
    is_toe: ClassVar[bool] = True
    let_in_mm: Annotated[Length, Field(ge=0, le=100, title="Let in, depth of its pocket")] = 0
    stands_beside: ClassVar[bool] = True

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        return edge_clamp_preload(clamp)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        """Its screw, on the floor of its pocket where it is let in."""
        deep = self.let_in_mm
        clamped = over_mm + deep
        return (Fixing(self.said, thread=clamp.screw, clamped_mm=clamped, begins_mm=deep),)

    def let_in(self, bodies: Sequence[Body]) -> tuple[Milled, ...]:
        """A little wider all round than each body, its corners cleared by round ones."""
        if not self.let_in_mm:
            return ()
        corner = max(_CUTTER_MM / 2, self.let_in_mm / _DEEP / 2)
        found = []
        for body in bodies:
            area = body.polygon.buffer(_ROOM_MM, join_style="mitre")
            x0, y0, x1, y1 = area.bounds
            inward = corner / math.sqrt(2)
            clear = [
                Point(x + sx * inward, y + sy * inward).buffer(corner, quad_segs=16)
                for x, sx in ((x0, 1), (x1, -1))
                for y, sy in ((y0, 1), (y1, -1))
            ]
            whole = shapely.union_all([area, *clear])
            found.append(Milled(f"pocket for an {self.said}", whole, self.let_in_mm, corner))
        return tuple(found)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        width = float(stood.between(*clamp.toe_mm).bounds[2])
        bodies, screws = beside(width, clamp, places)
        presses = tuple(Press(width, y, 1.0) for y in places)
        return Grip(presses, bodies, bodies, screws, clamp.height_mm)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        needed = 2 * blanks.spread_mm + PLAY_MM
        if clamp.opens_mm < needed:
            raise OutOfRange(
                "station.clamp.opens_mm",
                clamp.opens_mm,
                f"at least {needed:.2f} mm: blanks differ by {2 * blanks.spread_mm:.2f} mm over the"
                f" clamp ({blanks.source or 'as entered'}) and need {PLAY_MM:g} mm to come out; a"
                " clamp with more stroke, or blanks cut closer",
            )
        return [
            f"The clamp opens {clamp.opens_mm:g} mm; {needed:.2f} mm are needed for the largest"
            " blank.",
            lifts(stood.height_mm),
        ]


@ELEMENTS.register
class EdgeToe(Toe):
    """The toe of the edge clamp itself, pushing from the side and slightly down."""

    kind: Literal["edge clamp"] = "edge clamp"

    acts: ClassVar[str] = "pushes sideways and slightly down"
    said: ClassVar[str] = "edge clamp"
    listed: ClassVar[int] = 1
    most: ClassVar[int] = 3


@ELEMENTS.register
class ToothedToe(Toe):
    """An edge clamp's toe with teeth that bite ``bite_mm`` into raw or soft faces: holds better,
    and always leaves marks.
    """

    kind: Literal["toothed insert"] = "toothed insert"
    friction: Annotated[Friction, Field(title="Friction of the teeth")] = TOOTHED_FRICTION
    bite_mm: Annotated[Length, Field(gt=0, le=3, title="Teeth bite")] = 0.3

    acts: ClassVar[str] = "bites sideways and slightly down"
    said: ClassVar[str] = "toothed toe"
    listed: ClassVar[int] = 2
    most: ClassVar[int] = 2
    bites: ClassVar[bool] = True
    caution: ClassVar[str] = "Teeth mark the part: only on faces that are cut off later."

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(friction=min(item.friction, 1.0))
