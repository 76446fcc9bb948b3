"""Standard sizes of bar and plate, of the order that stockists keep, from memory."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

_FLAT_MM = (
    10, 12, 15, 16, 18, 20, 22, 25, 28, 30, 32, 35, 40, 45, 50, 55, 60, 65, 70, 75, 80, 90, 100,
    110, 120, 130, 140, 150, 160, 180, 200,
)  # fmt: skip
_PLATE_MM = (
    6, 8, 10, 12, 15, 18, 20, 22, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 120, 150,
)  # fmt: skip
_ROUND_MM = (
    *range(8, 23), 24, 25, 26, 28, 30, 32, 35, 36, 38, 40, 42, 45, 48, 50, 55, 60, 65, 70, 75, 80,
    85, 90, 95, 100, 110, 120, 130, 140, 150, 160, 180, 200, 220, 250,
)  # fmt: skip
_HEXAGON_MM = (8, 10, 11, 12, 13, 14, 17, 19, 22, 24, 27, 30, 32, 36, 41, 46, 50, 55, 60)
#: In eighths, rounds and hexagons in sixteenths of an inch.
_FLAT_IN = (*range(3, 17), *range(18, 33, 2), *range(36, 65, 4))
_PLATE_IN = (2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 48)
_ROUND_IN = (*range(5, 33), *range(34, 65, 2), *range(68, 129, 4), 144, 160)
_HEXAGON_IN = (*range(5, 17), *range(18, 33, 2))


def stock() -> list[tuple[str, dict[str, Any]]]:
    """Each table by its name, with its fields."""
    metric = {
        "flat bar": _FLAT_MM,
        "plate": _PLATE_MM,
        "round bar": _ROUND_MM,
        "hexagon bar": _HEXAGON_MM,
    }
    inch = {
        "flat bar": (_FLAT_IN, 8),
        "plate": (_PLATE_IN, 8),
        "round bar": (_ROUND_IN, 16),
        "hexagon bar": (_HEXAGON_IN, 16),
    }
    found: list[tuple[str, dict[str, Any]]] = []
    for form, sizes in metric.items():
        data = {"form": form, "sizes": [f"{size} mm" for size in sizes]}
        found.append((f"{form.capitalize()}, mm", data))
    for form, (parts, of) in inch.items():
        data = {"form": form, "sizes": [_inches(k, of) for k in parts]}
        found.append((f"{form.capitalize()}, inch", data))
    return found


def _inches(parts: int, of: int) -> str:
    """As a drawing writes it: 1 3/8 in."""
    whole, rest = divmod(Fraction(parts, of), 1)
    said = " ".join([*([str(whole)] if whole else []), *([str(rest)] if rest else [])])
    return f"{said} in"
