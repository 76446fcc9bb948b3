"""What is asked about stations a person places, and answered: room for one more, and rows of
them.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from wedgecraft.core.ground.documents import Document, Point, Rings
from wedgecraft.core.records.layout import Turn
from wedgecraft.core.records.request import OwnStation


class RoomAsked(Document):
    """Where may the datum corner of a station be? ``station``: its index, to leave it out of its
    own way; nothing for a new one.

    On which ``face``, for which ``kind`` of the planned ops; both count from 0.
    """

    station: Annotated[int, Field(ge=0)] | None = None
    turn: Annotated[
        Turn, BeforeValidator(lambda given: int(given) if str(given).isdigit() else given)
    ] = 0
    face: Annotated[int, Field(ge=0, le=7)] = 0
    kind: Annotated[int, Field(ge=0, le=5)] = 0


class Room(Document):
    """Polygons (each its outer ring, then holes) in which the datum corner keeps the station clear
    of everything.

    ``first``: the place in them lowest on the plate, then farthest left; nothing where there is
    none. ``stations``: what would stand there: two where they stand in one body.
    """

    areas: list[Rings]
    first: Point | None
    stations: list[OwnStation] = []


class RowAsked(Document):
    """Stations beside one that stands, along a direction: as near as they go, or at a pitch."""

    station: Annotated[int, Field(ge=0)]
    towards: Literal["+X", "-X", "+Y", "-Y"]
    pitch_mm: Annotated[float, Field(gt=0, le=5000)] | None = None
    most: Annotated[int, Field(ge=1, le=200)] = 200


class Row(Document):
    """The stations that would be added, and the pitch between them."""

    stations: list[OwnStation]
    pitch_mm: float
