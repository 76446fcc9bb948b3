"""A piece as meshed solids, for views and printed trials; true ones are written by the kernel."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.make.finish import solid_plan
from wedgecraft.core.records.piece import Holes, Piece, Side
from wedgecraft.core.workpiece.body import Body, cylinder, prism, united

#: A tool goes so far beyond the faces it comes through, mm, and before one inside a piece.
_OVER_MM, _INSIDE_MM = 1.0, 0.01
#: From an upright hole, sunk from Z0 downwards, to one on each side; and where its corner lies.
_TURNS: dict[Side, list[list[float]]] = {
    "top": [[1, 0, 0], [0, 1, 0], [0, 0, 1]],
    "bottom": [[1, 0, 0], [0, -1, 0], [0, 0, -1]],
    "front": [[1, 0, 0], [0, 0, -1], [0, 1, 0]],
    "back": [[-1, 0, 0], [0, 0, 1], [0, 1, 0]],
    "left": [[0, 0, -1], [-1, 0, 0], [0, 1, 0]],
    "right": [[0, 0, 1], [1, 0, 0], [0, 1, 0]],
}


def bodies(piece: Piece) -> list[tuple[str, Body]]:
    """Each block of a piece with everything cut out of it, with its name."""
    tools = [tool for row in piece.holes if not row.in_pocket for tool in _drilled(piece, row)]
    for pocket in piece.pockets:
        high = pocket.floor_mm + pocket.depth_mm
        over = _OVER_MM if high >= piece.thickness_mm - 1e-6 else 0.0
        area = Polygon(pocket.outline[0], pocket.outline[1:])
        tools.append(prism(area, pocket.floor_mm, high + over))
    plans = solid_plan(piece)
    gone = united(tools) if tools else None
    found = []
    for number, plan in enumerate(plans, 1):
        block = prism(plan, 0.0, piece.thickness_mm)
        name = f"{piece.name} {number}" if len(plans) > 1 else piece.name
        found.append((name, block if gone is None else block - gone))
    return found


def _drilled(piece: Piece, row: Holes) -> Iterator[Body]:
    w, d, t = piece.width_mm, piece.depth_mm, piece.thickness_mm
    through = {"front": d, "back": d, "left": w, "right": w}.get(row.side, t) - row.begins_mm
    over = _INSIDE_MM if row.begins_mm else _OVER_MM
    steps = [(row.diameter_mm, through + _OVER_MM if row.depth_mm is None else row.depth_mm)]
    if row.sink_mm is not None and row.sink_depth_mm is not None:
        steps.append((row.sink_mm, row.sink_depth_mm))
    if row.through_mm is not None:
        steps.append((row.through_mm, through + _OVER_MM))
    turn = np.array(_TURNS[row.side], dtype=float)
    for place in row.places:
        x, y = place.x_mm, place.y_mm
        at = {
            "top": (x, y, t),
            "bottom": (x, y, 0.0),
            "front": (x, 0.0, y),
            "back": (x, d, y),
            "left": (0.0, x, y),
            "right": (w, x, y),
        }[row.side]
        for size, deep in steps:
            tool = cylinder((0.0, 0.0, -row.begins_mm - deep), deep + over, size / 2)
            yield tool.turned(turn, at)
