"""The layout document: any packing problem of stations on faces, and its answer."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator
from shapely.geometry import Polygon

from wedgecraft.core.model import Document, Number, Point, Ring, Text
from wedgecraft.core.units import Length

Turn = Literal[0, 90, 180, 270]
Role = Literal["body", "sweep", "access"]


def _simple(ring: list[Point]) -> list[Point]:
    polygon = Polygon(ring)
    if not polygon.is_valid or polygon.area == 0:
        raise ValueError("the ring crosses itself or has no area")
    return ring


class Layer(Document):
    """A polygon between two heights over the plate.

    ``body`` stands there always, ``sweep`` is where cutter and holder go, ``access`` must be free of bodies while clamping.
    """

    role: Role
    name: Text
    outer: Ring
    low_mm: Number = 0
    high_mm: Number = 1

    _is_simple = field_validator("outer")(_simple)


class Obstacle(Document):
    """A keep-out: a polygon up to a height over the plate."""

    outer: Ring
    height_mm: Number = 1000

    _is_simple = field_validator("outer")(_simple)


class Face(Document):
    """A flat face to stand on; bodies stay inside ``outer``."""

    name: Text
    outer: Ring
    keepouts: Annotated[list[Obstacle], Field(max_length=500)] = []

    _is_simple = field_validator("outer")(_simple)


class Region(Document):
    """A point of the station must lie inside this ring on the face: the mask of a tolerance, or a travel."""

    name: Text
    point_mm: Point
    outer: Ring

    _is_simple = field_validator("outer")(_simple)


class StationKind(Document):
    """What is placed: layers in the station's own frame, the turns allowed, the least gap between bodies."""

    name: Text
    layers: Annotated[list[Layer], Field(min_length=1, max_length=60)]
    turns: Annotated[list[Turn], Field(min_length=1, max_length=4)] = [0, 90, 180, 270]
    clearance_mm: Annotated[Length, Field(ge=0, le=200)] = 0
    regions: Annotated[list[Region], Field(max_length=100)] = []

    @field_validator("layers")
    @classmethod
    def _has_body(cls, layers: list[Layer]) -> list[Layer]:
        if not any(layer.role == "body" for layer in layers):
            raise ValueError("a station needs at least one body layer")
        return layers


class LayoutRequest(Document):
    """Input of ``compute layout``. ``effort`` scales the deterministic limit of the search, not a time."""

    faces: Annotated[list[Face], Field(min_length=1, max_length=12)]
    kinds: Annotated[list[StationKind], Field(min_length=1, max_length=6)]
    effort: Annotated[float, Field(ge=0, le=20)] = 1.0
    most: Annotated[int, Field(ge=1, le=5000)] = 1000


class Placement(Document):
    """A station: its frame's origin at (x, y) on the face, turned counter-clockwise about it."""

    face: int
    kind: int
    x_mm: float
    y_mm: float
    turn: Turn


class LayoutResult(Document):
    """``bound``: no layout can hold more. ``by_hand``: what spacing bounding boxes on a grid gives.

    ``usable_mm2``: face that bodies and half their gaps can reach; ``used_mm2``: what they take of it.
    """

    placements: list[Placement]
    count: int
    bound: int
    proven: bool
    by_hand: int
    method: str
    statement: str
    usable_mm2: float
    used_mm2: float
    hindrance: str | None = None
