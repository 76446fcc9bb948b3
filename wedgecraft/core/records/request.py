"""What is asked of a plan: parts with their ops, what carries them, how they are held, the
rules.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Length, Mass, Place
from wedgecraft.core.records.layout import Turn
from wedgecraft.core.records.locating import Accuracy
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS, MaterialRef
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.plate import Datum, Plate
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.upgrades import upgraded, without_forms


class There(Document):
    """Where an op is held that is not held here: its machine and plate, and what is off there."""

    machine: Machine
    plate: Plate
    accuracy: Accuracy


class Planned(Document):
    """Which part of the kit, and which of its ops, the plate is laid out for; both count from 0.

    ``station``: its own, where it is held in another way than the first; ``there``: where it is
    held, if that is not here.
    """

    part: Annotated[int, Field(ge=0)] = 0
    op: Annotated[int, Field(ge=0)] = 0
    station: StopAndEdgeClamp | None = None
    there: There | None = None


class Block(Document):
    """What carries the plates: one lies on the table; several, alike, stand round a block that
    indexes about its axis.

    ``axis`` upright: a tombstone, cut from the side, its foot at the plates' lower edge. Lying: a
    bar on a rotary along the plates' width, cut from above, so that parts hang every way while it
    indexes. ``across_mm`` of its square section and ``wall_mm`` (0: solid), for what it gives;
    ``joint_nm_per_mrad``: stiffness of base joint or rotary, 0 for a stiff one. ``tail``: a tail
    support.
    """

    faces: Annotated[int, Field(ge=1, le=8)] = 1
    body_kg: Annotated[Mass, Field(ge=0, le=10_000)] = 0
    axis: Literal["upright", "lying"] = "upright"
    across_mm: Annotated[Length, Field(ge=0, le=3000)] = 0
    wall_mm: Annotated[Length, Field(ge=0, le=1000)] = 0
    material: MaterialRef = MATERIALS["cast-iron-250"]
    joint_nm_per_mrad: Annotated[float, Field(ge=0, le=1e6)] = 0
    tail: bool = False


class Measured(Document):
    """Where a station of the real fixture was found: its datum corner on the plate, its rests'
    height off the drawing, how well known.
    """

    x_mm: Place
    y_mm: Place
    z_mm: Place | None = None
    within_mm: Annotated[Length, Field(ge=0, le=1)] = 0.003


class OwnStation(Document):
    """A station where a person put it: its datum corner and its turn. ``locked``: planning leaves
    it there.

    ``face`` and ``kind`` count from 0: which face it stands on, which of the planned ops it is for.
    ``measured``: on the real fixture.
    """

    face: Annotated[int, Field(ge=0, le=7)] = 0
    kind: Annotated[int, Field(ge=0, le=5)] = 0

    x_mm: Length
    y_mm: Length
    turn: Turn = 0
    locked: bool = False
    measured: Measured | None = None


class Arrangement(Document):
    """Stations a person placed. ``own``: the layout is these and no others; otherwise the locked
    ones stay and planning adds the rest.
    """

    own: bool = False
    stations: Annotated[list[OwnStation], Field(max_length=1000)] = []


class PlanRequest(Document):
    """The parts of a kit with their ops; one op of one of them, ``also`` others, on one or several
    faces, held by stops and edge clamps.

    ``quantity`` counts kits; a job of one part has a kit of one. Several ops of one part stand in
    balance, so that complete parts come off; ops of several parts in the numbers of the kit. A
    request of version 1 is read and brought up to date.

    ``elsewhere``: ops that are not laid out here, in the stations they are held in: known for what
    they leave behind on the part.
    """

    format: Literal["wedgecraft plan request"] = "wedgecraft plan request"
    version: Literal[2] = 2
    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)]
    parts: Annotated[list[Part], Field(min_length=1, max_length=20)]
    planned: Planned = Planned()
    also: Annotated[list[Planned], Field(max_length=5)] = []
    elsewhere: Annotated[list[Planned], Field(max_length=40)] = []
    block: Block = Block()
    accuracy: Accuracy = Accuracy()
    plate: Plate
    datum: Datum = Datum()
    machine: Machine
    station: StopAndEdgeClamp
    rules: HouseRules = HouseRules()
    arrangement: Arrangement = Arrangement()

    @model_validator(mode="before")
    @classmethod
    def _up_to_date(cls, given: Any) -> Any:
        return without_forms(upgraded(given))

    @model_validator(mode="after")
    def _planned_is_there(self) -> PlanRequest:
        named = [
            (f"{name}.{k}", item)
            for name in ("also", "elsewhere")
            for k, item in enumerate(getattr(self, name))
        ]
        for name, item in [("planned", self.planned), *named]:
            if item.part >= len(self.parts):
                raise ValueError(
                    f"{name}.part is {item.part}, but there are {len(self.parts)} parts, counted"
                    " from 0"
                )
            if item.op >= len(self.parts[item.part].ops):
                raise ValueError(
                    f"{name}.op is {item.op}, but this part has {len(self.parts[item.part].ops)}"
                    " ops, counted from 0"
                )
        if len({(item.part, item.op) for item in [self.planned, *self.also]}) <= len(self.also):
            raise ValueError("the same op is planned twice")
        return self

    @property
    def alone(self) -> list[PlanRequest]:
        """The request as if each of its planned ops were the only one on the faces, the first one
        first; the others are elsewhere.
        """
        ops = [
            item.model_copy(update={"station": item.station or self.station})
            for item in [self.planned, *self.also]
        ]
        return [
            self.model_copy(
                update={
                    "planned": item,
                    "also": [],
                    "elsewhere": [*(other for other in ops if other is not mine), *self.elsewhere],
                    "station": mine.station,
                }
            )
            for item, mine in zip([self.planned, *self.also], ops, strict=True)
        ]

    def station_path(self, kind: int) -> str:
        """Where in this document the station of a planned op stands; ``kind`` counts from 0."""
        own = [self.planned, *self.also][kind].station
        if own is None:
            return "station"
        return "planned.station" if kind == 0 else f"also.{kind - 1}.station"

    @property
    def several_parts(self) -> bool:
        return len({item.part for item in [self.planned, *self.also]}) > 1

    @property
    def per_set(self) -> list[int]:
        """How many of each planned op make a complete part, or a kit."""
        return [
            self.parts[item.part].per_kit if self.several_parts else 1
            for item in [self.planned, *self.also]
        ]

    @property
    def face_names(self) -> list[str]:
        """Faces by the angle that the block is indexed to; one plate by its own name."""
        count = self.block.faces
        letter = "B" if self.block.axis == "upright" else "A"
        return (
            [f"{letter}{360 * k / count:g}°" for k in range(count)]
            if count > 1
            else [self.plate.name]
        )

    @property
    def part(self) -> Part:
        """The part the plate is laid out for."""
        return self.parts[self.planned.part]

    @property
    def wanted(self) -> int:
        """How many of what a cycle is counted in are wanted in all: of the part, or kits."""
        return self.quantity if self.several_parts else self.quantity * self.part.per_kit
