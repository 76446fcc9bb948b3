"""Studs screwed into the part's underside, drawn down onto seats."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

import shapely
from pydantic import Field
from shapely.geometry import Point

from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Force, Length
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.element import (
    ELEMENTS,
    Element,
    Grip,
    InShop,
    Press,
    Size,
    Stood,
    lifts,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks


@ELEMENTS.register
class PullStud(Element):
    """Studs screwed into the part's underside, drawn down onto a seat ``seat_mm`` across.
    ``ratio``: pull per screw force.

    What pulls it down is borne by the plate, whose friction counts; the seat's rim only keeps it
    from going sideways.
    """

    kind: Literal["pull stud"] = "pull stud"
    ratio: Annotated[float, Field(gt=0, le=5, title="Pull per screw force")] = 1.2
    seat_mm: Annotated[Size, Field(title="Seat, diameter")] = 20
    capacity_n: Annotated[Force, Field(gt=0, le=1e6, title="Seat carries sideways")] = 10_000
    receiver_mm: Annotated[Length, Field(ge=0, le=200, title="Receiver, bore; 0 unknown")] = 0
    receiver_deep_mm: Annotated[Length, Field(ge=0, le=200, title="Receiver, depth; 0 through")] = 0

    acts: ClassVar[str] = "pulls down"
    formula: ClassVar[str] = "pull = screw force x ratio"
    said: ClassVar[str] = "pull stud"
    listed: ClassVar[int] = 8
    most: ClassVar[int] = 3
    locates: ClassVar[str] = "on pull studs"
    caution: ClassVar[str] = (
        "Studs wear: replace them by their maker's count, and look at the threads in the part."
    )

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(capacity_n=item.rated_force_n or 10_000)

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        return Preload(low * self.ratio, high * self.ratio, low * self.ratio)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        what = "pull stud's receiver"
        if not self.receiver_mm:
            return (Fixing(what, unknown="its bore and its screws"),)
        deep = self.receiver_deep_mm or None
        return (Fixing(what, diameter_mm=self.receiver_mm, fit="H7", depth_mm=deep),)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        """Evenly along the longer side of the part, each seat wholly under it."""
        outline = stood.floor
        room = outline.buffer(-self.seat_mm / 2)
        if room.is_empty:
            raise OutOfRange("station.element.seat_mm", self.seat_mm, "a seat that the part covers")
        x0, y0, x1, y1 = outline.bounds
        middle, along = outline.centroid, 0 if x1 - x0 >= y1 - y0 else 1
        reach = (x1 - x0, y1 - y0)[along]
        presses, seats = [], []
        area = math.pi * self.seat_mm**2 / 4
        taken: list[Point] = []
        for k in range(count):
            shift = reach * ((2 * k + 1) / (2 * count) - 0.5)
            wanted = Point(
                middle.x + (shift if along == 0 else 0), middle.y + (shift if along == 1 else 0)
            )
            at = wanted
            if not room.covers(wanted):
                at = shapely.get_point(shapely.shortest_line(room, wanted), 0)
            if any(at.distance(other) < self.seat_mm for other in taken):
                raise OutOfRange(
                    "station.clamps",
                    count,
                    f"fewer pull studs: seats of {self.seat_mm:g} mm would overlap",
                )
            taken.append(at)
            presses.append(
                Press(at.x, at.y, 1.0, 0.0, (0.0, 0.0, -1.0), f"stud {k + 1}", 0.0, area)
            )
            seats += self._rim(k, at)
        return Grip(tuple(presses), (), (), (), 0.0, tuple(seats))

    def _rim(self, number: int, at: Point) -> list[Contact]:
        """What keeps it from going sideways, from four sides."""
        found = []
        for turn in range(4):
            way = (math.cos(turn * math.pi / 2), math.sin(turn * math.pi / 2), 0.0)
            point = (at.x - self.seat_mm / 2 * way[0], at.y - self.seat_mm / 2 * way[1], 0.0)
            found.append(
                Contact(
                    name=f"seat {number + 1}, side {turn + 1}",
                    kind="locator",
                    point_mm=point,
                    normal=way,
                    friction=0.0,
                    capacity_n=self.capacity_n,
                    area_mm2=self.seat_mm * 2,
                )
            )
        return found

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        return [
            f"The studs are let go; the part lifts off with them in it. {lifts(stood.height_mm)}"
        ]
