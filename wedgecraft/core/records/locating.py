"""What locates a part in its station besides the plate it stands on, and what is off about it."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length, TemperatureDifference

Spread = Literal["fixed", "uniform", "normal"]
#: Three standard deviations over the range.
SIGMAS: dict[str, float] = {"normal": 1.0, "uniform": math.sqrt(3), "fixed": 0.0}


class AgainstStops(Document):
    """Two points at the long stop, one at the end stop; three under it (3-2-1)."""

    kind: Literal["stops"] = "stops"


class OnPins(Document):
    """A round pin in one hole of the part, and in the hole farthest from it a pin that is relieved
    along the line between them, or a second round one. Holes between ``least_mm`` and ``most_mm``,
    of class ``hole``; pins of class ``pin`` (ISO 286).

    ``apart_mm``: plus or minus of the distance between the holes, that between the pins included.
    """

    kind: Literal["pin and diamond pin", "two round pins"] = "pin and diamond pin"
    least_mm: Annotated[Length, Field(gt=0, le=200)] = 3
    most_mm: Annotated[Length, Field(gt=0, le=200)] = 20
    hole: Annotated[str, Field(max_length=5)] = "H7"
    pin: Annotated[str, Field(max_length=5)] = "g6"
    apart_mm: Annotated[Length, Field(ge=0, le=5)] = 0.02


class InVee(Document):
    """A round in an upright V that opens towards the clamp; ``angle_deg`` between its flanks."""

    kind: Literal["V"] = "V"
    angle_deg: Annotated[float, Field(ge=45, le=150)] = 90


class InNest(Document):
    """A pocket that follows the outline, as cut into soft jaws. ``clearance_mm`` in all, from wall
    to wall, less the part.

    ``pushed``: into one corner before tightening, so that the clearance does not count.
    """

    kind: Literal["profile nest"] = "profile nest"
    clearance_mm: Annotated[Length, Field(ge=0, le=5)] = 0.05
    pushed: bool = True


Locating = Annotated[AgainstStops | OnPins | InVee | InNest, Field(discriminator="kind")]


class Accuracy(Document):
    """What this fixture and this shop add, each as plus-or-minus at three standard deviations
    unless said otherwise.

    ``measured_are``: whether the program runs at the places of stations that were measured, or
    still at those drawn.
    """

    station_place_mm: Annotated[Length, Field(ge=0, le=1)] = 0.008
    height_mm: Annotated[Length, Field(ge=0, le=1)] = 0.01
    locator_mm: Annotated[Length, Field(ge=0, le=1)] = 0.003
    wear_mm: Annotated[Length, Field(ge=0, le=1)] = 0.002
    datum_pickup_mm: Annotated[Length, Field(ge=0, le=1)] = 0.005
    face_place_mm: Annotated[Length, Field(ge=0, le=1)] = 0.01
    rebolted_mm: Annotated[Length, Field(ge=0, le=1)] = 0
    temperature_k: Annotated[TemperatureDifference, Field(ge=0, le=40)] = 2.0
    measured_are: Literal["in the program", "only known"] = "in the program"
