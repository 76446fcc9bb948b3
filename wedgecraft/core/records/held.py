"""How a workpiece is held in one op, for a picture: its section where clamps press, and what is
touched.
"""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.ground.documents import Document, Rings
from wedgecraft.core.records.contact import Vector
from wedgecraft.core.records.feature import OpNumber


class Touched(Document):
    """What one stop, toe or rest touches: corners in the station's frame and in the part's,
    ``normal`` pointing into the part. ``made_in``: the op that cut the surface; nothing while it is
    raw.
    """

    name: str
    kind: Literal["locator", "clamp"]
    made_in: OpNumber | None
    area_mm2: float
    at_mm: list[Vector]
    on_part_mm: list[Vector]
    normal: Vector


class HeldSection(Document):
    """The workpiece of an op as it is put in, cut level ``height_mm`` over what it stands on, the
    finished part inside it; the station's frame.
    """

    op: OpNumber
    height_mm: float
    before: list[Rings]
    finished: list[Rings]
    touched: list[Touched]
