"""The standard blank that holds a part and what has to come off it.

Sizes of the order that stockists keep, from memory; a shop's own come first.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.stock import AXES, Axis, Stock, StockDimension, StockKind
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.pose import turn_of

#: Thicknesses and widths of flat bar, thicknesses of plate, widths across the flats of hexagon
#: bar, mm; inch sizes in inches.
FLAT_MM = (
    10, 12, 15, 16, 18, 20, 22, 25, 28, 30, 32, 35, 40, 45, 50, 55, 60, 65, 70, 75, 80, 90, 100,
    110, 120, 130, 140, 150, 160, 180, 200,
)  # fmt: skip
PLATE_MM = (
    6,
    8,
    10,
    12,
    15,
    18,
    20,
    22,
    25,
    30,
    35,
    40,
    45,
    50,
    55,
    60,
    65,
    70,
    80,
    90,
    100,
    120,
    150,
)
HEXAGON_MM = (8, 10, 11, 12, 13, 14, 17, 19, 22, 24, 27, 30, 32, 36, 41, 46, 50, 55, 60)
FLAT_IN = tuple(k / 8 for k in (*range(3, 17), *range(18, 33, 2), *range(36, 65, 4)))
PLATE_IN = tuple(
    k / 8 for k in (2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 48)
)
HEXAGON_IN = tuple(k / 16 for k in (*range(5, 17), *range(18, 33, 2)))
#: What comes off a side that is cut, and what stands between a jaw and the lowest cut, mm.
SIDE_MM, TOP_MM, CLEAR_MM = 1.5, 1.0, 1.5
#: Parts at most so thick come from plate.
_PLATE_TO_MM = 30.0
#: A hexagon's silhouette has its own area within this share.
_LIKE = 0.004


@dataclass(frozen=True)
class Blank:
    """The stock of a part, and why. ``skin``: the sides that are finished as they come."""

    stock: Stock
    why: str
    finished_walls: bool


def blank_of(body: Body, up: Direction, grip_mm: float, unit: Literal["mm", "in"] = "mm") -> Blank:
    """For a part whose first op has ``up`` up, held by ``grip_mm`` under it. Raises OutOfRange for
    a part larger than any stock.
    """
    axis: Axis = up[1].lower()  # type: ignore[assignment]
    hexagon = _hexagon(body, up, unit)
    if hexagon is not None:
        return hexagon
    size = dict(zip(AXES, np.subtract(body.box[3:], body.box[:3]).tolist(), strict=True))
    below = grip_mm + CLEAR_MM
    beside = sorted((other for other in AXES if other != axis), key=lambda other: -size[other])
    along, across = beside
    scale = 25.4 if unit == "in" else 1.0
    high = size[axis] + TOP_MM + below
    plate = size[axis] <= _PLATE_TO_MM and size[across] > 2 * size[axis]
    thick = (
        _next(PLATE_IN if unit == "in" else PLATE_MM, high / scale)
        if plate
        else _next(FLAT_IN if unit == "in" else FLAT_MM, high / scale)
    )
    wide = _next(FLAT_IN if unit == "in" else FLAT_MM, (size[across] + 2 * SIDE_MM) / scale)
    if thick is None or (wide is None and not plate):
        raise OutOfRange(
            "stock",
            f"{size['x']:.0f} x {size['y']:.0f} x {size['z']:.0f} mm",
            "a casting or a blank of its own: no standard bar or plate is that large",
        )
    dims = {along: StockDimension(allowance_mm=SIDE_MM)}
    if plate or wide is None:
        dims[across] = StockDimension(allowance_mm=SIDE_MM)
    else:
        dims[across] = StockDimension(allowance_mm=_half(wide * scale - size[across]))
    low = round(thick * scale - size[axis] - TOP_MM, 4)
    first, second = (low, TOP_MM) if up[0] == "+" else (TOP_MM, low)
    dims[axis] = StockDimension(allowance_mm=second, low_mm=first)
    kind: StockKind = "saw-cut plate" if plate else "saw-cut bar"
    stock = Stock(kind=kind, along=along, gripped=across, **dims)
    said = (
        f"{_said(thick, unit)} plate"
        if plate
        else f"{_said(wide or 0, unit)} x {_said(thick, unit)} bar"
    )
    why = (
        f"{said}, the next size; sawn along {along.upper()}, the side that is not gripped;"
        f" {below:g} mm under the part are held and cut off last"
    )
    return Blank(stock, why, finished_walls=False)


def _hexagon(body: Body, up: Direction, unit: str) -> Blank | None:
    """Bar across its flats, where the part is a hexagon seen along it."""
    stood = body.turned(turn_of(up))
    seen = shapely.convex_hull(stood.seen())
    x0, y0, x1, y1 = seen.bounds
    flats = min(x1 - x0, y1 - y0)
    if abs(seen.area / (np.sqrt(3) / 2 * flats**2) - 1) > _LIKE:
        return None
    if abs(max(x1 - x0, y1 - y0) - 2 * flats / np.sqrt(3)) > 0.02:
        return None
    sizes: Sequence[float] = HEXAGON_MM if unit == "mm" else [25.4 * s for s in HEXAGON_IN]
    if min(abs(size - flats) for size in sizes) > 0.02:
        return None
    axis: Axis = up[1].lower()  # type: ignore[assignment]
    dims = {other: StockDimension() for other in AXES if other != axis}
    dims[axis] = StockDimension(allowance_mm=TOP_MM)
    beside = [other for other in AXES if other != axis]
    across = min(beside, key=lambda o: body.box[3 + AXES.index(o)] - body.box[AXES.index(o)])
    stock = Stock(kind="hexagon bar", along=axis, gripped=across, **dims)
    why = f"hexagon bar of {flats:g} mm across its flats, which stay as they come"
    return Blank(stock, why, finished_walls=True)


def _next(sizes: Sequence[float], least: float) -> float | None:
    return next((float(size) for size in sizes if size >= least - 1e-9), None)


def _half(value: float) -> float:
    return round(value / 2, 4)


def _said(value: float, unit: str) -> str:
    return f"{value:g} {unit}"
