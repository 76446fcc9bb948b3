"""Tools as a machine knows them: a number, a cutter, and what holds it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Length, Mass
from wedgecraft.core.records.cut import Cutter


class Holder(Document):
    """A tool holder: the room it takes over the cutter."""

    name: Text
    kind: Annotated[
        Literal[
            "collet chuck",
            "shrink holder",
            "side-lock holder",
            "drill chuck",
            "face mill arbor",
            "tapping chuck",
        ],
        Field(title="Kind"),
    ] = "collet chuck"
    nose_diameter_mm: Annotated[Length, Field(gt=0, le=500, title="Nose diameter")]
    body_diameter_mm: Annotated[Length, Field(gt=0, le=500, title="Body diameter")]
    gauge_length_mm: Annotated[
        Length, Field(gt=0, le=1000, title="Gauge length, spindle face to nose")
    ]
    bore_mm: Annotated[Length, Field(ge=0, le=200, title="Largest shank")] = 20
    runout_mm: Annotated[Length, Field(ge=0, le=1, title="Runout")] = 0.01
    mass_kg: Annotated[Mass, Field(ge=0, le=100, title="Mass")] = 0


class Tool(Document):
    """A place of a machine's tool table: T ``number`` is this cutter in this holder; nothing where
    nobody has said which.
    """

    number: Annotated[int, Field(ge=1, le=99_999)]
    cutter: Cutter
    holder: Holder | None = None


def tool_number(tools: list[Tool], cutter: Cutter) -> int | None:
    """Under which number a tool table has a cutter; nothing where it has not. Where several hold
    the same, the lowest.

    >>> drill = Cutter(kind="drill", diameter_mm=5, teeth=2)
    >>> table = [Tool(number=7, cutter=drill), Tool(number=3, cutter=drill)]
    >>> tool_number(table, drill), tool_number(table, Cutter(diameter_mm=10, teeth=3))
    (3, None)
    """
    bare = cutter.model_copy(update={"shop_id": None})
    found = [
        tool.number for tool in tools if tool.cutter.model_copy(update={"shop_id": None}) == bare
    ]
    return min(found, default=None)
