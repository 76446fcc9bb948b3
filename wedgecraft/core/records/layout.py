"""The layout document: any packing problem of stations on faces, and its answer."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator
from shapely.geometry import Polygon

from wedgecraft.core.ground.documents import Document, Number, Point, Ring, Text
from wedgecraft.core.ground.units import Length

Turn = Literal[0, 90, 180, 270]
Role = Literal["body", "sweep", "access"]


def _simple(ring: list[Point]) -> list[Point]:
    polygon = Polygon(ring)
    if not polygon.is_valid or polygon.area == 0:
        raise ValueError("the ring crosses itself or has no area")
    return ring


class Layer(Document):
    """A polygon between two heights over the plate.

    ``body`` stands there always, ``sweep`` is where cutter and holder go, ``access`` must be free
    of bodies while clamping.
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
    """A point of the station must lie inside this ring on the face: the mask of a tolerance, or a
    travel.
    """

    name: Text
    point_mm: Point
    outer: Ring

    _is_simple = field_validator("outer")(_simple)


class StationKind(Document):
    """What is placed: layers in the station's own frame, the turns allowed, the least gap between
    bodies.

    ``holds``: parts in one station, more where several share a clamp; ``per_set``: how many of its
    parts a complete set has (parts of a kit, ops in balance); ``faces``: where it may stand, by
    number; nothing for everywhere.
    """

    name: Text
    layers: Annotated[list[Layer], Field(min_length=1, max_length=800)]
    turns: Annotated[list[Turn], Field(min_length=1, max_length=4)] = [0, 90, 180, 270]
    clearance_mm: Annotated[Length, Field(ge=0, le=200)] = 0
    regions: Annotated[list[Region], Field(max_length=100)] = []
    per_set: Annotated[int, Field(ge=1, le=1000)] = 1
    holds: Annotated[int, Field(ge=1, le=100)] = 1
    faces: Annotated[list[Annotated[int, Field(ge=0)]], Field(max_length=12)] | None = None

    def sets(self, stations: int) -> int:
        """Complete sets that so many stations serve."""
        return stations * self.holds // self.per_set

    def stations(self, sets: int) -> int:
        """Stations that so many sets need."""
        return -(-sets * self.per_set // self.holds)

    @field_validator("layers")
    @classmethod
    def _has_body(cls, layers: list[Layer]) -> list[Layer]:
        if not any(layer.role == "body" for layer in layers):
            raise ValueError("a station needs at least one body layer")
        return layers


class Placement(Document):
    """A station: its frame's origin at (x, y) on the face, turned counter-clockwise about it.
    ``fixed``: it stood there before.
    """

    face: Annotated[int, Field(ge=0)]
    kind: Annotated[int, Field(ge=0)]
    x_mm: Number
    y_mm: Number
    turn: Turn
    fixed: bool = False


class Joint(Document):
    """Two stations in one body, back to back: the ``second`` kind stands half turned, its origin at
    (x, y) in the frame of kind 0, ``up_mm`` higher.
    """

    second: Annotated[int, Field(ge=0, le=1)] = 0
    x_mm: Number
    y_mm: Number
    up_mm: Number = 0


class LayoutRequest(Document):
    """Input of ``compute layout``. ``effort`` scales the deterministic limit of the search, not a
    time.

    ``most``: complete sets wanted at most. ``joint``: every station stands in one body with
    another. ``fixed``: stations that stand already and stay; the
    others go where these leave room.
    """

    faces: Annotated[list[Face], Field(min_length=1, max_length=12)]
    kinds: Annotated[list[StationKind], Field(min_length=1, max_length=6)]
    effort: Annotated[float, Field(ge=0, le=20)] = 1.0
    most: Annotated[int, Field(ge=1, le=5000)] = 1000
    joint: Joint | None = None
    fixed: Annotated[list[Placement], Field(max_length=5000)] = []

    @model_validator(mode="after")
    def _fixed_are_known(self) -> LayoutRequest:
        for number, item in enumerate(self.fixed):
            if item.face >= len(self.faces) or item.kind >= len(self.kinds):
                raise ValueError(f"fixed.{number} names a face or a kind that is not there")
            if item.turn not in self.kinds[item.kind].turns:
                raise ValueError(
                    f"fixed.{number} is turned {item.turn}°, which its kind does not allow"
                )
        return self


class LayoutResult(Document):
    """``sets``: complete sets, which for one kind alone are its parts; ``count``: all stations.

    ``bound``: no layout can hold more sets. ``by_hand``: sets that spacing bounding boxes on a grid
    gives. ``usable_mm2``: face that bodies and half their gaps can reach; ``used_mm2``: what they
    take of it.
    """

    placements: list[Placement]
    count: int
    sets: int
    bound: int
    proven: bool
    by_hand: int
    method: str
    statement: str
    usable_mm2: float
    used_mm2: float
    hindrance: str | None = None
