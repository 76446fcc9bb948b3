"""A piece as meshed solids, for views and printed trials; true ones are written by the kernel."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.make.finish import solid_plan
from wedgecraft.core.make.sides import frame
from wedgecraft.core.records.piece import Holes, Piece
from wedgecraft.core.workpiece.body import Body, cylinder, prism, united

#: A tool goes so far beyond the faces it comes through, mm, and before one inside a piece.
_OVER_MM, _INSIDE_MM = 1.0, 0.01


def bodies(piece: Piece) -> list[tuple[str, Body]]:
    """Each block of a piece with everything cut out of it, with its name."""
    tools = [tool for row in piece.holes if not row.in_pocket for tool in _drilled(piece, row)]
    for pocket in piece.pockets:
        high = pocket.floor_mm + pocket.depth_mm
        over = _OVER_MM if high >= piece.thickness_mm - 1e-6 else 0.0
        below = _OVER_MM if pocket.floor_mm <= 0 else 0.0
        area = Polygon(pocket.outline[0], pocket.outline[1:])
        tools.append(prism(area, pocket.floor_mm - below, high + over))
    plans = solid_plan(piece)
    gone = united(tools) if tools else None
    found = []
    for number, plan in enumerate(plans, 1):
        block = prism(plan, 0.0, piece.thickness_mm)
        name = f"{piece.name} {number}" if len(plans) > 1 else piece.name
        found.append((name, block if gone is None else block - gone))
    return found


def _drilled(piece: Piece, row: Holes) -> Iterator[Body]:
    side = frame(piece, row.side)
    through = side.through_mm - row.begins_mm
    over = _INSIDE_MM if row.begins_mm else _OVER_MM
    steps = [(row.diameter_mm, through + _OVER_MM if row.depth_mm is None else row.depth_mm)]
    if row.sink_mm is not None and row.sink_depth_mm is not None:
        steps.append((row.sink_mm, row.sink_depth_mm))
    if row.through_mm is not None:
        steps.append((row.through_mm, through + _OVER_MM))
    # from an upright hole, sunk from Z0 downwards
    turn = np.column_stack([side.along, np.cross(-side.into, side.along), -side.into])
    for place in row.places:
        start = side.at(place.x_mm, place.y_mm)
        at = float(start[0]), float(start[1]), float(start[2])
        for size, deep in steps:
            tool = cylinder((0.0, 0.0, -row.begins_mm - deep), deep + over, size / 2)
            yield tool.turned(turn, at)
