"""What is milled into a plate, as rows of its table: pockets alike, with the middle of each."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.make.holes import letter
from wedgecraft.core.records.piece import Piece

#: A rectangle is one where what its round corners leave is its outline's area, to so much of it.
_CLOSE = 0.01


class MilledAt(NamedTuple):
    """One pocket: its middle, which way its longer sides go, what for."""

    x_mm: float
    y_mm: float
    turn_deg: float
    what: str


class Milled(NamedTuple):
    """Pockets alike, by letter."""

    letter: str
    says: str
    side: str
    places: list[MilledAt]


def milled_rows(piece: Piece) -> list[Milled]:
    """Of a plate or a block, whose pockets stand for themselves; jaws' follow their part."""
    if piece.bodies:
        return []
    found: dict[tuple[str, str], list[MilledAt]] = {}
    for pocket in piece.pockets:
        area = Polygon(pocket.outline[0], pocket.outline[1:])
        corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(area).exterior)[:4]
        sides = corners[1] - corners[0], corners[2] - corners[1]
        first, second = (float(np.hypot(*side)) for side in sides)
        longer = sides[0] if first >= second else sides[1]
        turn = math.degrees(math.atan2(longer[1], longer[0])) % 180
        left = first * second - (4 - math.pi) * pocket.corner_mm**2
        whole = abs(area.area - left) <= _CLOSE * left
        size = f"{min(first, second):.4g} x {max(first, second):.4g}"
        deep = f"{pocket.depth_mm:.4g} deep"
        says = (
            f"Milled {size}, {deep}, corners R{pocket.corner_mm:.3g}"
            if whole
            else f"Milled to its outline (DXF), within {size}, {deep}, R{pocket.corner_mm:.3g}"
        )
        side = "bottom" if pocket.floor_mm <= 0 else "top"
        middle = corners.mean(axis=0)
        at = MilledAt(float(middle[0]), float(middle[1]), round(turn, 2) % 180, pocket.what)
        found.setdefault((says, side), []).append(at)
    start = len(piece.holes)
    return [
        Milled(letter(start + k), says, side, places)
        for k, ((says, side), places) in enumerate(found.items())
    ]
