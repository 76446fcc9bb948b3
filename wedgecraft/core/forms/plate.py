"""One plate on the table."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.ground.units import Mass
from wedgecraft.core.records.form import FORMS, Carrier, Form
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.piece import Piece
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block

if TYPE_CHECKING:
    from wedgecraft.core.make.asked import Asked


@FORMS.register
class OnPlate(Form):
    """A fixture plate that lies on the table. ``base_kg``: what it stands on besides."""

    kind: Literal["plate"] = "plate"
    plate: Plate
    base_kg: Annotated[Mass, Field(ge=0, le=10_000, title="What it stands on, besides")] = 0

    said: ClassVar[str] = "a plate"
    listed: ClassVar[int] = 10
    reaches: ClassVar[str] = "one side up at a time, many parts"
    fields: ClassVar[dict[str, str]] = {"plate": "plate", "block.body_kg": "base_kg"}

    def carrier(self, machine: Machine) -> Carrier:
        return Carrier(self.plate, Block(body_kg=self.base_kg))

    def pieces(self, asked: Asked) -> list[Piece]:
        # the engine: not before someone asks
        from wedgecraft.core.make.plates import plate_pieces

        return plate_pieces(asked)
