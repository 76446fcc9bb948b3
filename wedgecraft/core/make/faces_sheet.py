"""A block from each of its sides: where its holes are, seen as a person stands before it."""

from __future__ import annotations

from wedgecraft.core.make.sides import width_of
from wedgecraft.core.make.views import side_view
from wedgecraft.core.records.piece import Piece, Side
from wedgecraft.core.records.sheet import PAPERS, DrawnUnits, Paper, SheetView

#: Between two views, for ordinates of the second; of the frame and the names round all of them.
_BETWEEN_MM, _ROUND_MM, _LOW_MM = 34.0, 40.0, 96.0


def sides_of(piece: Piece) -> list[Side]:
    """Those of a block with holes in them."""
    if not piece.is_block:
        return []
    return list(dict.fromkeys(row.side for row in piece.holes if row.side not in ("top", "bottom")))


def face_views(
    piece: Piece, scales: tuple[float, ...], units: DrawnUnits
) -> list[tuple[Paper, float, list[SheetView]]]:
    """Sheets of views, as many beside one another as go on A3."""
    paper: Paper = "A3"
    width, height = PAPERS[paper]
    room = height - _LOW_MM - _ROUND_MM
    found: list[tuple[Paper, float, list[SheetView]]] = []
    left = list(sides_of(piece))
    while left:
        widest = max(width_of(piece, side) for side in left)
        scale = next(
            s
            for s in (*scales, 0.01)
            if piece.thickness_mm * s <= room
            and min(2, len(left)) * (widest * s + _BETWEEN_MM) <= width - _ROUND_MM
        )
        many = max(1, int((width - _ROUND_MM) / (widest * scale + _BETWEEN_MM)))
        views = [
            SheetView(
                name=f"From outside: {side}",
                at_mm=(_ROUND_MM + k * (widest * scale + _BETWEEN_MM), _LOW_MM),
                items=side_view(piece, side, width_of(piece, side), scale, units),
            )
            for k, side in enumerate(left[:many])
        ]
        found.append((paper, scale, views))
        left = left[many:]
    return found
