"""A layout as small as a list shows it."""

from __future__ import annotations

from wedgecraft.core.ground.documents import Document


class Picture(Document):
    """``width_mm`` by ``height_mm``, Y up: the faces (x, y, width, height), and on them the parts,
    each with its op's place among the kinds.
    """

    width_mm: float
    height_mm: float
    faces: list[tuple[float, float, float, float]]
    parts: list[list[tuple[float, float]]]
    kinds: list[int]
