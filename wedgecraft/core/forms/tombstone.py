"""Plates round a block that stands upright and indexes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.ground.units import Length, Mass
from wedgecraft.core.records.form import FORMS, Carrier, Form, Reach
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS, MaterialRef
from wedgecraft.core.records.piece import Piece
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block

if TYPE_CHECKING:
    from wedgecraft.core.make.asked import Asked


class Round(Form):
    """What blocks with faces have in common: plates, all alike, round a body of square section.

    ``across_mm`` of the section and ``wall_mm`` (0: solid), for what it gives;
    ``joint_nm_per_mrad``: stiffness of base joint or rotary, 0 for a stiff one.
    """

    plate: Plate
    faces: Annotated[int, Field(ge=2, le=8, title="Faces")] = 4
    body_kg: Annotated[Mass, Field(ge=0, le=10_000, title="Block without plates")] = 0
    across_mm: Annotated[Length, Field(ge=0, le=3000, title="Block, across; 0 unknown")] = 0
    wall_mm: Annotated[Length, Field(ge=0, le=1000, title="Its wall; 0 solid")] = 0
    material: Annotated[MaterialRef, Field(title="Its material")] = MATERIALS["cast-iron-250"]
    joint_nm_per_mrad: Annotated[
        float, Field(ge=0, le=1e6, title="Joint, N·m per mrad; 0 stiff")
    ] = 0

    fields: ClassVar[dict[str, str]] = {"plate": "plate", "block": ""}

    def pieces(self, asked: Asked) -> list[Piece]:
        # the engine: not before someone asks
        from wedgecraft.core.make.blocks import block_pieces
        from wedgecraft.core.make.plates import plate_pieces

        faces = plate_pieces(asked, "Face")
        return [*faces, *block_pieces(asked, faces)]


@FORMS.register
class Tombstone(Round):
    """A block that stands upright, cut from the side, its foot at the plates' lower edge."""

    kind: Literal["tombstone"] = "tombstone"

    said: ClassVar[str] = "a tombstone"
    listed: ClassVar[int] = 40
    reach: ClassVar[Reach] = "up and two sides"
    reaches: ClassVar[str] = (
        "the table indexes: the face and the two sides next to it, for stations at the edge"
    )

    def carrier(self, machine: Machine) -> Carrier:
        own = self.model_dump(exclude={"kind", "plate"})
        return Carrier(self.plate, Block(axis="upright", **own))
