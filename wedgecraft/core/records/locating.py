"""What locates a part in its station besides the plate it stands on, and what is off about it."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field
from shapely.geometry import Polygon

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.kinds import Kinds
from wedgecraft.core.ground.units import Length, TemperatureDifference
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.fixing import Fixing

Spread = Literal["fixed", "uniform", "normal"]
#: Three standard deviations over the range.
SIGMAS: dict[str, float] = {"normal": 1.0, "uniform": math.sqrt(3), "fixed": 0.0}


class LocatingScheme(Document):
    """What locates a part besides the plate it stands on. Each kind is one file of
    ``core/station/locating`` and says all about itself there; here is what every kind answers.
    """

    kind: str = ""

    #: As a list names it, and where it stands there; as a sentence says it.
    label: ClassVar[str]
    listed: ClassVar[int] = 50
    said: ClassVar[str]
    #: Goes with every way of clamping and of sharing a clamp.
    plain: ClassVar[bool] = False
    #: The part stands against stops, or what takes their place; and on faces of its own there.
    stopped: ClassVar[bool] = True
    on_faces: ClassVar[bool] = True
    #: What stops it goes all along the part.
    all_along: ClassVar[bool] = False
    #: What must be recorded of the op that made what it is located by.
    made_by: ClassVar[str] = "the bore it is centred in"
    #: What is said to whoever picks it.
    caution: ClassVar[str] = ""

    def pins(self, outline: Polygon) -> Any:
        """The holes its pins are in (``station.pins.Pinned``), or nothing. Raises OutOfRange."""
        return None

    def seats(self, outline: Polygon, height_mm: float, capacity_n: float) -> tuple[Contact, ...]:
        """What pushes back besides stops. Raises OutOfRange."""
        return ()

    def fixings(self, outline: Polygon) -> tuple[Fixing, ...]:
        """What locates the part besides stops and wants a hole in what it stands on, at its place.
        Raises OutOfRange.
        """
        return ()

    def vee(self, outline: Polygon, length_mm: float, behind_mm: float) -> Any:
        """The V the part is in (``station.vee.Vee``), or nothing. Raises OutOfRange."""
        return None

    def shift_mm(self, size_mm: float) -> float | None:
        """How far the middle of a round so much larger moves; nothing where it stands at stops."""
        return None

    @property
    def play_mm(self) -> float:
        """From wall to wall, less the part, where that is left to chance."""
        return 0.0

    @property
    def takes_up_play(self) -> tuple[str, str] | None:
        """What would take up its play: in words, and the field to set."""
        return None


LOCATING: Kinds[LocatingScheme] = Kinds("wedgecraft.core.station.locating", "station.locating.kind")


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
