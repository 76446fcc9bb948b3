"""A sleeve that a cone spreads in a round hole of the part."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field
from shapely.geometry import Point

from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact
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

SEGMENTS = 6
#: So deep is its foot let in; from memory.
_FOOT_MM = 5.0
#: An expanding sleeve must be this much smaller than the hole when it is let go.
_SLEEVE_MM = 0.05


@ELEMENTS.register
class ExpandingPin(Element):
    """A sleeve that a cone spreads in a round hole of the part, ``least_mm`` to ``most_mm`` across,
    ``grip_mm`` of it high.

    ``cone_angle_deg``: of the cone's flank against its axis. It locates the part too, so that there
    are no stops. Its force: a cone of half angle a with friction rho, shared by its segments
    (statics of the wedge, any handbook of mechanics).
    """

    kind: Literal["expanding pin"] = "expanding pin"
    least_mm: Annotated[Size, Field(title="Smallest, let go")] = 11.7
    most_mm: Annotated[Size, Field(title="Largest, spread")] = 12.6
    grip_mm: Annotated[Size, Field(title="Grips in the hole, height")] = 10
    cone_angle_deg: Annotated[float, Field(ge=3, le=45, title="Cone angle, °")] = 10
    cone_friction_low: Annotated[Friction, Field(title="Friction of the cone, low")] = 0.08
    cone_friction_high: Annotated[Friction, Field(title="Friction of the cone, high")] = 0.14
    friction: Annotated[Friction, Field(title="Friction in the hole")] = 0.15

    acts: ClassVar[str] = "spreads in a hole, each of six segments"
    formula: ClassVar[str] = "force of a segment = screw force / (6 tan(angle + rho))"
    said: ClassVar[str] = "expanding pin in the hole"
    listed: ClassVar[int] = 5
    alone: ClassVar[bool] = True
    locates: ClassVar[str] = "bore on a mandrel"
    caution: ClassVar[str] = (
        "Spread only in the part: a sleeve spread in the open can be overstretched."
    )

    @classmethod
    def fitted(cls, hole: Bored | None, height_mm: float) -> Self:
        if hole is None:
            return cls()
        return cls(
            least_mm=round(hole.diameter_mm - 0.3, 2),
            most_mm=round(hole.diameter_mm + 0.3, 2),
            grip_mm=min(15.0, round(0.6 * height_mm, 1)),
        )

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(
            least_mm=item.width_mm - item.stroke_mm,
            most_mm=item.width_mm + item.stroke_mm,
            grip_mm=item.toe_height_mm or 10,
            friction=min(item.friction, 1.0),
        )

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        if self.cone_friction_low > self.cone_friction_high:
            raise OutOfRange(
                "station.element.cone_friction_low",
                self.cone_friction_low,
                "at most cone_friction_high",
            )
        angle = math.radians(self.cone_angle_deg)
        return Preload(
            low / (SEGMENTS * math.tan(angle + math.atan(self.cone_friction_high))),
            high / (SEGMENTS * math.tan(angle + math.atan(self.cone_friction_low))),
            0.0,
        )

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        """Its foot is let into a bore, and its screw goes into a thread below that."""
        return (
            Fixing("pin's foot", diameter_mm=round(self.least_mm), fit="H7", depth_mm=_FOOT_MM),
            Fixing(
                "pin's screw", thread=clamp.screw, clamped_mm=over_mm + _FOOT_MM, starts_mm=_FOOT_MM
            ),
        )

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        """Segments of the sleeve, at two heights each. All press alike, which is what friction
        holds by.

        Behind each stands the cone, which can push back as much again as it presses (a capacity
        that goes with the preload): there without friction, because segments that only brace each
        other would otherwise hold any force, and that is no clamping.
        """
        one_of(count, self.kind)
        height_mm = stood.height_mm
        outline = stood.at(height_mm / 2)
        hole = fitting_hole(outline, self.least_mm, self.most_mm)
        if hole is None:
            raise OutOfRange(
                "station.element.least_mm",
                f"{self.least_mm:g} to {self.most_mm:g}",
                f"a pin for a round hole of the part: {holes_said(outline)}",
            )
        if self.grip_mm > height_mm:
            raise OutOfRange(
                "station.element.grip_mm",
                self.grip_mm,
                f"at most the part's height, {height_mm:g} mm",
            )
        radius, presses, seats = hole.diameter_mm / 2, [], []
        patch = math.pi * hole.diameter_mm / SEGMENTS * self.grip_mm / 2
        heights = (height_mm - self.grip_mm) / 2, (height_mm + self.grip_mm) / 2
        for k in range(SEGMENTS):
            angle = 2 * math.pi * k / SEGMENTS
            way = (math.cos(angle), math.sin(angle), 0.0)
            at = (hole.x_mm + radius * way[0], hole.y_mm + radius * way[1])
            for z in heights:
                name = f"segment {k + 1}, {'top' if 2 * z > height_mm else 'foot'}"
                presses.append(Press(*at, 0.5, z, way, name, self.friction, patch))
                seats.append(
                    Contact(
                        name=f"cone behind {name}",
                        kind="locator",
                        point_mm=(*at, z),
                        normal=way,
                        friction=0.0,
                        area_mm2=patch,
                    )
                )
        middle = (hole.x_mm, hole.y_mm)
        body = Body(Point(middle).buffer(radius * 0.95, quad_segs=8), 0, heights[1])
        return Grip(tuple(presses), (body,), (body,), (middle,), height_mm, tuple(seats))

    def seated(self, seats: tuple[Contact, ...], preload_n: float) -> list[Contact]:
        return [seat.model_copy(update={"capacity_n": preload_n / 2}) for seat in seats]

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        hole = fitting_hole(stood.at(stood.height_mm / 2), self.least_mm, self.most_mm)
        play = hole.diameter_mm - self.least_mm if hole else 0.0
        if play < _SLEEVE_MM:
            raise OutOfRange(
                "station.element.least_mm",
                self.least_mm,
                f"a sleeve at least {_SLEEVE_MM:g} mm smaller than the hole when let go, or the"
                " part cannot be drawn off",
            )
        relaxed = f"The sleeve relaxes {play:.2f} mm below the hole's diameter."
        return [relaxed, lifts(stood.height_mm)]
