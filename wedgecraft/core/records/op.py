"""One clamping of a part."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.feature import Direction, OpNumber


class Op(Document):
    """One clamping of the part. ``up`` is the part's side that faces the spindle when the op
    starts; ``turn_deg``: how far it is turned about that, counter-clockwise seen from the spindle.
    """

    number: OpNumber = 10
    does: Annotated[str, Field(max_length=300)] = ""
    up: Direction = "+Z"
    turn_deg: Annotated[float, Field(gt=-360, lt=360)] = 0
    reached: list[Direction] = ["+Z"]
    clamp_on: Annotated[list[Direction], Field(max_length=6)] = []
    locate_on: Annotated[list[Direction], Field(max_length=6)] = []
    grip_stock: bool = False
    cuts: Annotated[list[Cut], Field(max_length=60)] = []
