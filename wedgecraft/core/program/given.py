"""The words of one block, as a control takes them up."""

from __future__ import annotations

import math
from collections.abc import Container

from wedgecraft.core.program.words import Block, ProgramRefused

INCH_MM = 25.4
#: The ends of an arc may lie on circles that differ by this, mm.
_ARC_MM = 0.02
_NOTHING = 1e-9
#: Codes that act in their own block alone.
_OWN = frozenset({4, 10, 28, 30, 52, 53})


class Given:
    """The words of one block, each looked up once."""

    def __init__(self, block: Block, inch: bool) -> None:
        self.block, self.line = block, block.line
        self.g: list[float] = []
        self.m: list[int] = []
        self.values: dict[str, float] = {}
        for word in block.words:
            if word.letter == "G":
                self.g.append(word.value)
            elif word.letter == "M":
                self.m.append(int(word.value))
            else:
                self.values.setdefault(word.letter, word.value)
        self.own = {int(code) for code in self.g if code in _OWN}
        self.inch = inch
        if 20 in self.g or 21 in self.g:
            self.inch = 20 in self.g
        self.spent: set[str] = set()

    @property
    def said(self) -> str:
        """The line, as far as a message has room for it."""
        return self.block.text[:40]

    def number(self, letter: str) -> float | None:
        return None if letter in self.spent else self.values.get(letter)

    def mm(self, value: float) -> float:
        return value * INCH_MM if self.inch else value

    def length(self, letter: str) -> float | None:
        value = self.number(letter)
        return None if value is None else self.mm(value)

    def has(self, letters: str) -> bool:
        return any(letter in self.values for letter in letters)

    def g_of(self, codes: Container[float]) -> bool:
        return any(code in codes for code in self.g)

    def need(self, letter: str, code: str) -> float:
        value = self.number(letter)
        if value is None:
            raise ProgramRefused(self.line, self.said, f"{letter} with {code}")
        return value

    def text_of(self, letter: str, value: float) -> str:
        return next(w.text for w in self.block.words if w.letter == letter and w.value == value)


def middle_by_radius(
    given: Given, start: tuple[float, float], end: tuple[float, float], radius: float, left: bool
) -> tuple[float, float]:
    """Of both circles the one with the shorter arc, or with R below nothing the longer."""
    chord = math.dist(start, end)
    if chord < _NOTHING:
        raise ProgramRefused(given.line, given.said, "I, J, K for a whole circle")
    if chord / 2 > abs(radius) + _ARC_MM:
        raise ProgramRefused(
            given.line, given.said, f"R of at least {chord / 2:.3f} mm: the ends are so far"
        )
    off = math.sqrt(max(0.0, radius**2 - (chord / 2) ** 2))
    side = (1 if left else -1) * (1 if radius > 0 else -1)
    (x0, y0), (x1, y1) = start, end
    return (
        (x0 + x1) / 2 - side * off * (y1 - y0) / chord,
        (y0 + y1) / 2 + side * off * (x1 - x0) / chord,
    )
