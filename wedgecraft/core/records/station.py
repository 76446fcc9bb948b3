"""What a station is held by: stops, clamp, element, sharing, turns."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Force, Length
from wedgecraft.core.records.clamp import AnyElement
from wedgecraft.core.records.element import ELEMENTS, picked_names
from wedgecraft.core.records.layout import Turn
from wedgecraft.core.records.locating import LOCATING, LocatingScheme
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.sharing import SHARED, Sharing


class Stops(Document):
    """The two stops: bars of this size, friction and holding capacity; ``hollow_mm``: radius for
    round parts, 0 for flat ones.
    """

    thickness_mm: Annotated[Length, Field(gt=0, le=200)] = 8
    length_mm: Annotated[Length, Field(gt=0, le=1000)] = 40
    height_mm: Annotated[Length, Field(gt=0, le=500)] = 12
    friction: Annotated[float, Field(ge=0.02, le=1)] = 0.2
    capacity_n: Annotated[Force, Field(gt=0, le=1e6)] = 20_000
    hollow_mm: Annotated[Length, Field(ge=0, le=5000)] = 0
    shop_id: Annotated[str, Field(max_length=40)] | None = None


#: What the planner may try: each kind of element, and each way in which parts share edge clamps.
if TYPE_CHECKING:
    Offered = str
else:
    Offered = Literal[(*picked_names(), *SHARED)]


if TYPE_CHECKING:
    AnyLocating = LocatingScheme
else:
    AnyLocating = LOCATING.any_of_them


class StopAndEdgeClamp(Document):
    """A station of two stops and one to three clamps, edge clamps across from the long stop; or of
    several parts sharing one.

    ``clamp`` is the edge clamp, and the screw of whatever other ``element`` takes its place.
    ``clearance_mm`` is the least gap between neighbouring stations, for chips and fingers.
    ``by_planner``: planning picks element, count and torque itself from those ``offered``.
    """

    stops: Stops = Stops()
    clamp: EdgeClamp
    element: AnyElement = ELEMENTS["edge clamp"]()
    locating: AnyLocating = LOCATING["stops"]()
    by_planner: bool = False
    offered: Annotated[list[Offered], Field(min_length=1, max_length=40)] = [
        "edge clamp",
        "double wedge",
        "strap",
    ]
    clamps: Annotated[int, Field(ge=1, le=3)] = 1
    clearance_mm: Annotated[Length, Field(ge=0, le=200)] = 3
    floor_friction: Annotated[float, Field(ge=0.02, le=1)] = 0.2
    turns: Annotated[list[Turn], Field(min_length=1, max_length=4)] = [0, 90, 180, 270]
    sharing: Sharing = Sharing()

    @property
    def stopped(self) -> bool:
        """Whether the part stands against stops; some elements locate it themselves, and pins do
        without.
        """
        return not self.element.locates and self.locating.stopped
