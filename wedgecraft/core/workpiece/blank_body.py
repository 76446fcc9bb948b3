"""The blank as a body: nominal, the smallest and the largest there may be."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon, box

from wedgecraft.core.ground.arcs import disc
from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.stock import AXES, Stock
from wedgecraft.core.workpiece.blank import half_range_mm
from wedgecraft.core.workpiece.body import Body, prism
from wedgecraft.core.workpiece.packed import body_of
from wedgecraft.core.workpiece.pose import Pose, turn_of

Array = NDArray[np.float64]
Which = Literal["nominal", "smallest", "largest"]
_CUT_TO_SHAPE = ("flame-cut plate", "forged")


def blank_body(
    stock: Stock,
    finished: Body,
    first: Pose,
    which: Which = "nominal",
    from_file: Pose | None = None,
) -> Body:
    """The blank round a finished part, in the part's frame; one of its own shape stands in the axes
    of the part's own file, ``from_file``.

    Blanks differ away from the three faces they stand against in the first op, whose pose is
    ``first``: those faces lie where the allowances say. Raises NotABody for a solid that cannot be
    read.
    """
    own = body_of(stock.solid) if stock.solid is not None else None
    if own is not None:
        return own if from_file is None else from_file.put(own)
    low, high = np.array(finished.box[:3]), np.array(finished.box[3:])
    allowed = np.array([getattr(stock, axis).sides_mm for axis in AXES])
    low, high = low - allowed[:, 0], high + allowed[:, 1]
    sign = {"nominal": 0.0, "smallest": -1.0, "largest": 1.0}[which]
    # The sides away from stops and floor: the op's +X, +Y and +Z, as the part's axes.
    away = first.turn.T @ np.ones(3)
    for number, axis in enumerate(AXES):
        more = sign * 2 * half_range_mm(stock, axis)
        if away[number] > 0:
            high[number] += more
        else:
            low[number] -= more
    if stock.kind in ("round bar", "hexagon bar"):
        return _bar(stock, finished, low, high)
    if stock.kind in _CUT_TO_SHAPE:
        grown = _shape(finished, low, high)
        if grown is not None:
            return prism(grown, float(low[2]), float(high[2]), finished.chord_error_mm)
    return prism(box(low[0], low[1], high[0], high[1]), float(low[2]), float(high[2]))


def _bar(stock: Stock, finished: Body, low: Array, high: Array) -> Body:
    """A bar along an axis: as thick as the larger side across, or as what it has to hold asks; a
    hexagon's flats lie across the narrower side.
    """
    side: Direction = "+X" if stock.along == "x" else "+Y" if stock.along == "y" else "+Z"
    turn = turn_of(side)
    ends = turn @ np.stack([low, high], axis=1)
    a, b = ends.min(axis=1), ends.max(axis=1)
    middle = (a[:2] + b[:2]) / 2
    if stock.kind == "hexagon bar":
        return prism(_hexagon(middle, b[:2] - a[:2]), float(a[2]), float(b[2])).turned(turn.T)
    stood = finished.turned(turn)
    corners = stood.mesh[0][:, :2] - middle
    needed = float(np.hypot(corners[:, 0], corners[:, 1]).max())
    radius = max(float((b - a)[:2].max()) / 2, needed)
    rod = prism(Polygon(disc(middle[0], middle[1], radius)), float(a[2]), float(b[2]), 0.002)
    return rod.turned(turn.T)


def _hexagon(middle: Array, size: Array) -> Polygon:
    narrow = int(np.argmin(size))
    angles = np.radians(np.arange(0, 360, 60) + (90.0 if narrow == 0 else 0.0))
    ring = float(size[narrow]) / math.sqrt(3) * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    return Polygon(ring + middle)


def _shape(finished: Body, low: Array, high: Array) -> Polygon | None:
    """The part's own outline, grown until its box is as large as the blank's; nothing where it is
    in pieces.
    """
    whole = finished.seen()
    if len(whole.geoms) != 1:
        return None
    outline = Polygon(whole.geoms[0].exterior)
    x0, y0, x1, y1 = outline.bounds
    grow = float(min(high[0] - low[0] - x1 + x0, high[1] - low[1] - y1 + y0)) / 2
    grown = outline.buffer(grow, quad_segs=16) if abs(grow) > 1e-9 else outline
    left, near, _, _ = grown.bounds
    return Polygon(np.asarray(grown.exterior.coords) - (left, near) + low[:2])
