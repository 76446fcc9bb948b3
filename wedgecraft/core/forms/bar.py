"""Plates round a bar that lies on a rotary."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.forms.tombstone import Round
from wedgecraft.core.records.form import FORMS, Carrier, Reach
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.request import Block


@FORMS.register
class Bar(Round):
    """A bar on a rotary along the plates' width, cut from above, so that parts hang every way while
    it indexes. ``tail``: a tail support.
    """

    kind: Literal["bar"] = "bar"
    tail: Annotated[bool, Field(title="Tail support")] = False

    said: ClassVar[str] = "a bar"
    listed: ClassVar[int] = 30
    reach: ClassVar[Reach] = "up and two sides"
    reaches: ClassVar[str] = "the bar indexes: up and the two sides across the axis"

    def carrier(self, machine: Machine) -> Carrier:
        own = self.model_dump(exclude={"kind", "plate"})
        return Carrier(self.plate, Block(axis="lying", **own))
