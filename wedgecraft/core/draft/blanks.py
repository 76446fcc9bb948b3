"""The standard blank that holds a part and what has to come off it.

Sizes are those of the Shop's stock tables.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import shapely

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.stock import AXES, Axis, Stock, StockDimension, StockKind, StockSizes
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.pose import turn_of

#: What comes off a side that is cut, and what stands between a jaw and the lowest cut, mm.
SIDE_MM, TOP_MM, CLEAR_MM = 1.5, 1.0, 1.5
#: Parts at most so thick come from plate.
_PLATE_TO_MM = 30.0
#: Sizes this near are one, mm.
_SAME_MM = 0.02
#: A part is turned out of round bar where a circle round it is at most so much of its box.
_ROUNDISH = 0.88
#: A hexagon's silhouette has its own area within this share.
_LIKE = 0.004


#: What is kept of each form: as it is written, by its length in mm.
Kept = dict[str, dict[float, str]]


@dataclass(frozen=True)
class Blank:
    """The stock of a part, and why. ``finished_walls``: its sides are finished as they come."""

    stock: Stock
    why: str
    finished_walls: bool


def kept_in(tables: Sequence[StockSizes], unit: Literal["mm", "in"]) -> Kept:
    """The sizes of a unit; all of them where the shop has no table in it."""
    own = [table for table in tables if table.inch == (unit == "in")] or list(tables)
    found: Kept = {}
    for table in own:
        found.setdefault(table.form, {}).update(table.by_mm)
    return found


def blank_of(body: Body, up: Direction, grip_mm: float, kept: Kept) -> Blank:
    """For a part whose first op has ``up`` up, held by ``grip_mm`` under it. Raises OutOfRange for
    a part larger than any stock.
    """
    hexagon = _hexagon(body, up, kept.get("hexagon bar", {}))
    if hexagon is not None:
        return hexagon
    axis: Axis = up[1].lower()  # type: ignore[assignment]
    size = dict(zip(AXES, np.subtract(body.box[3:], body.box[:3]).tolist(), strict=True))
    below = grip_mm + CLEAR_MM
    along, across = sorted((a for a in AXES if a != axis), key=lambda a: -size[a])
    flat, plates = kept.get("flat bar", {}), kept.get("plate", {})
    high, wide_mm = size[axis] + TOP_MM + below, size[across] + 2 * SIDE_MM
    bar = _next(flat, high), _next(flat, wide_mm)
    sheet = _next(plates, high)
    flatter = size[axis] <= _PLATE_TO_MM and size[across] > 2 * size[axis]
    rod = None if flatter else _round(body, up, below, kept.get("round bar", {}))
    if rod is not None:
        return rod
    if sheet is not None and (flatter or None in bar):
        kind: StockKind = "saw-cut plate"
        thick, beside, said = sheet, SIDE_MM, f"{plates[sheet]} plate"
    elif bar[0] is not None and bar[1] is not None:
        kind, thick, beside = "saw-cut bar", bar[0], (bar[1] - size[across]) / 2
        said = f"{flat[bar[1]]} x {flat[bar[0]]} bar"
    else:
        raise OutOfRange(
            "stock",
            f"{size['x']:.0f} x {size['y']:.0f} x {size['z']:.0f} mm",
            "a casting or a blank of its own, or a larger size in the Shop's stock tables: no"
            " standard bar or plate is that large",
        )
    dims: dict[str, Any] = {
        along: StockDimension(allowance_mm=SIDE_MM),
        across: StockDimension(allowance_mm=round(beside, 2)),
        axis: _upright(up, thick - size[axis] - TOP_MM),
    }
    why = (
        f"{said}, the next size; sawn along {along.upper()}, the side that is not gripped;"
        f" {below:g} mm under the part are held and cut off last"
    )
    return Blank(Stock(kind=kind, along=along, gripped=across, **dims), why, finished_walls=False)


def _upright(up: Direction, under_mm: float) -> StockDimension:
    """So much under the part, and what is faced off over it."""
    low, high = (under_mm, TOP_MM) if up[0] == "+" else (TOP_MM, under_mm)
    return StockDimension(allowance_mm=round(high, 4), low_mm=round(low, 4))


def _round(body: Body, up: Direction, under_mm: float, sizes: dict[float, str]) -> Blank | None:
    """Bar round a part that is round seen along it, sawn square to that."""
    hull = shapely.convex_hull(body.turned(turn_of(up)).seen())
    circle = shapely.minimum_bounding_radius(hull)
    x0, y0, x1, y1 = hull.bounds
    if math.pi * circle**2 > _ROUNDISH * (x1 - x0) * (y1 - y0):
        return None
    diameter = _next(sizes, 2 * (circle + SIDE_MM))
    if diameter is None:
        return None
    axis: Axis = up[1].lower()  # type: ignore[assignment]
    dims: dict[str, Any] = {axis: _upright(up, under_mm)}
    for side in AXES:
        if side != axis:
            k = AXES.index(side)
            over = (diameter - (body.box[3 + k] - body.box[k])) / 2
            dims[side] = StockDimension(allowance_mm=round(over, 4))
    across = min((side for side in AXES if side != axis), key=lambda side: dims[side].allowance_mm)
    why = (
        f"{sizes[diameter]} round bar, the next size; sawn along {axis.upper()}; {under_mm:g} mm"
        " under the part are held and cut off last"
    )
    stock = Stock(kind="round bar", along=axis, gripped=across, **dims)
    return Blank(stock, why, finished_walls=False)


def _hexagon(body: Body, up: Direction, sizes: dict[float, str]) -> Blank | None:
    """Bar across its flats, where the part is a hexagon seen along it."""
    seen = shapely.convex_hull(body.turned(turn_of(up)).seen())
    x0, y0, x1, y1 = seen.bounds
    flats, corners = sorted((x1 - x0, y1 - y0))
    if abs(seen.area / (np.sqrt(3) / 2 * flats**2) - 1) > _LIKE:
        return None
    fitting = [size for size in sizes if abs(size - flats) <= _SAME_MM]
    if abs(corners - 2 * flats / np.sqrt(3)) > _SAME_MM or not fitting:
        return None
    axis: Axis = up[1].lower()  # type: ignore[assignment]
    beside = [other for other in AXES if other != axis]
    across = min(beside, key=lambda o: body.box[3 + AXES.index(o)] - body.box[AXES.index(o)])
    dims: dict[str, Any] = {axis: StockDimension(allowance_mm=TOP_MM)}
    stock = Stock(kind="hexagon bar", along=axis, gripped=across, **dims)
    why = f"hexagon bar, {sizes[fitting[0]]} across its flats, which stay as they come"
    return Blank(stock, why, finished_walls=True)


def _next(sizes: dict[float, str], least: float) -> float | None:
    return min((size for size in sizes if size >= least - 1e-9), default=None)
