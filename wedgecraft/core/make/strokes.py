"""Text as open strokes, one line of the cutter each: for marking pieces."""

from __future__ import annotations

import unicodedata
from functools import lru_cache

from HersheyFonts import HersheyFonts

Line = list[tuple[float, float]]
#: The font's plain sans-serif; of its height, where capitals stand and how high they are.
_FONT, _BASE, _CAPITALS = "futural", 0.25, 0.75


@lru_cache(1)
def _font() -> HersheyFonts:
    font = HersheyFonts()
    font.load_default_font(_FONT)
    font.normalize_rendering(1.0)
    return font


def plain(text: str) -> str:
    """In the letters that the font has: accents left off, anything else a question mark."""
    parts = unicodedata.normalize("NFKD", text.replace("ß", "ss").replace("ø", "o"))
    kept = [letter for letter in parts if not unicodedata.combining(letter)]
    return "".join(letter if " " <= letter <= "~" else "?" for letter in kept)


def strokes(text: str, x_mm: float, y_mm: float, high_mm: float) -> list[Line]:
    """Open lines, mm, from the lower left end of the text; capitals ``high_mm`` high."""
    size = high_mm / _CAPITALS
    return [
        [(x_mm + size * float(x), y_mm + size * (float(y) - _BASE)) for x, y in line]
        for line in _font().strokes_for_text(plain(text))
        if line
    ]


def text_width_mm(text: str, high_mm: float) -> float:
    """How far it goes to the right."""
    return max((x for line in strokes(text, 0.0, 0.0, high_mm) for x, _ in line), default=0.0)
