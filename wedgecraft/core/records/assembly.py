"""A setup put together: its pieces, with parts, clamps and stops standing in as prisms."""

from __future__ import annotations

from wedgecraft.core.ground.documents import Document, Rings
from wedgecraft.core.records.piece import Piece

#: Three rows of four: a turn, and where the origin goes, mm.
Pose = tuple[
    tuple[float, float, float, float],
    tuple[float, float, float, float],
    tuple[float, float, float, float],
]


class Slab(Document):
    """Areas between two heights: a stepped shape is several."""

    areas: list[Rings]
    low_mm: float
    high_mm: float


class Solid(Document):
    """A shape by itself: a piece with everything cut out of it, or slabs one on another."""

    name: str
    piece: Piece | None = None
    slabs: list[Slab] = []


class Stands(Document):
    """A shape, by its place in the list from 0, where it stands."""

    name: str
    solid: int
    pose: Pose


class Assembly(Document):
    """All of one setup, ``number`` from 1, in mm from the middle of its table, or of its block's
    foot; a block at its first index.
    """

    number: int
    solids: list[Solid]
    stands: list[Stands]
