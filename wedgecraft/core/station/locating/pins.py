"""Pins in two holes of the part: a round one, and one relieved along the line between them, or a
second round one.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field
from shapely.geometry import Polygon

from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.locating import LOCATING, LocatingScheme
from wedgecraft.core.station.pins import Pinned, pin_contacts, pinned

#: Classes that are offered; any other of ISO 286 that is known may be typed into a document.
HOLES = ["H6", "H7", "H8", "H9", "G7", "F7", "F8"]
PINS = ["h5", "h6", "g5", "g6", "f6", "f7", "e8", "d9"]
#: A pin's foot is in the plate for so many diameters; common practice, from memory.
_FOOT = 1.5


class OnPins(LocatingScheme):
    """Holes between ``least_mm`` and ``most_mm``, of class ``hole``; pins of class ``pin`` (ISO
    286).

    ``apart_mm``: plus or minus of the distance between the holes, that between the pins included.
    """

    least_mm: Annotated[Length, Field(gt=0, le=200, title="Holes from")] = 3
    most_mm: Annotated[Length, Field(gt=0, le=200, title="Holes up to")] = 20
    hole: Annotated[
        str, Field(max_length=5, title="Class of holes", json_schema_extra={"usual": HOLES})
    ] = "H7"
    pin: Annotated[
        str, Field(max_length=5, title="Class of pins", json_schema_extra={"usual": PINS})
    ] = "g6"
    apart_mm: Annotated[Length, Field(ge=0, le=5, title="Distance of the holes, ±")] = 0.02

    stopped: ClassVar[bool] = False
    on_faces: ClassVar[bool] = False
    made_by: ClassVar[str] = "the holes it is pinned in"

    def pins(self, outline: Polygon) -> Pinned:
        return pinned(outline, self)

    def fixings(self, outline: Polygon) -> tuple[Fixing, ...]:
        """Each pin's foot pressed into a bore of its own size."""
        found = self.pins(outline)
        second = "second round pin" if found.both_round else "diamond pin, relieved along the line"
        return tuple(
            Fixing(
                what,
                hole.x_mm,
                hole.y_mm,
                diameter_mm=round(hole.diameter_mm),
                fit="H7",
                depth_mm=_FOOT * hole.diameter_mm,
            )
            for what, hole in (("round pin", found.round), (second, found.second))
        )

    def seats(self, outline: Polygon, height_mm: float, capacity_n: float) -> tuple[Contact, ...]:
        return pin_contacts(self.pins(outline), height_mm, capacity_n)


@LOCATING.register
class PinAndDiamondPin(OnPins):
    """A round pin in one hole of the part, and in the hole farthest from it a pin that is relieved
    along the line between them.
    """

    kind: Literal["pin and diamond pin"] = "pin and diamond pin"

    label: ClassVar[str] = "Round pin and diamond pin"
    listed: ClassVar[int] = 20
    said: ClassVar[str] = "pin and diamond pin"


@LOCATING.register
class TwoRoundPins(OnPins):
    """Two round pins in the two holes farthest apart."""

    kind: Literal["two round pins"] = "two round pins"

    label: ClassVar[str] = "Two round pins"
    listed: ClassVar[int] = 30
    said: ClassVar[str] = "two round pins"
    caution: ClassVar[str] = (
        "Two round pins: one locator too many. Parts go on as long as the holes' distance is kept;"
        " a diamond pin is sure."
    )

    def pins(self, outline: Polygon) -> Pinned:
        return pinned(outline, self, both_round=True)
