"""A form: what a setup's stations stand on, and how that goes on a machine.

Each kind is one file of ``core/forms``, and says all about itself there. Here is what every kind
answers.
"""

from __future__ import annotations

from typing import Any, ClassVar, Literal, NamedTuple

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.kinds import Kinds
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.piece import Bought, Piece
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block
from wedgecraft.core.records.station import StopAndEdgeClamp

#: Which sides of a part a form lets a tool reach without clamping anew.
Reach = Literal["up", "up and two sides", "up and four sides"]


class Carrier(NamedTuple):
    """Plates, all alike, and the block they stand round."""

    plate: Plate
    block: Block


class Form(Document):
    """What every kind of form answers."""

    kind: str = ""

    #: As a sentence names it: "a tombstone".
    said: ClassVar[str]
    #: Where it stands in a list of kinds.
    listed: ClassVar[int] = 50
    #: What it reaches, from how such fixtures are used (common practice, no source), and in words.
    reach: ClassVar[Reach] = "up"
    reaches: ClassVar[str]
    #: Where a field of plate or block stands in this form's document; others are not its own.
    fields: ClassVar[dict[str, str]] = {}

    def told(self) -> str:
        """How it holds a part, as a proposal says it."""
        return f"on {self.said}"

    def taken_for_granted(self) -> dict[str, str]:
        """What nobody said of it: by field, in half a sentence."""
        return {}

    def carrier(self, machine: Machine) -> Carrier | None:
        """What stations stand on; nothing where this form cannot be planned yet."""
        return None

    def station(self, own: StopAndEdgeClamp, number: int = 0) -> StopAndEdgeClamp:
        """How an op is held in it, from the station of its own; ``number``: which of the ops held
        there. Raises OutOfRange, ``form.`` first, for what cannot be planned.
        """
        return own

    def pieces(self, asked: Any) -> list[Piece]:
        """What must be made for a setup (``make.asked.Asked``) of it."""
        return []

    def bought(self, asked: Any) -> list[Bought]:
        """What a setup of it needs besides its pieces, from the shelf or bought."""
        return []

    def own_of(self, number: int) -> bool:
        """Whether an op held there is held otherwise than the first, by the form's own fields."""
        return False

    def fields_of(self, number: int) -> dict[str, str]:
        """As ``fields``, of one of the ops held there."""
        return self.fields


FORMS: Kinds[Form] = Kinds("wedgecraft.core.forms", "form.kind")
