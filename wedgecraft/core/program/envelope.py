"""What a cut sweeps, as moves, where its op has no program yet: its axis over its path at each
pass, holes down and up. It is no program to cut with: it says what would be in the way.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPoint
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.cutting.path import cut_path
from wedgecraft.core.cutting.shape import point_mm, rise_of, shape_of
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.program.ops import OpProgram, read_op
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.tool import tool_number
from wedgecraft.core.workpiece.sitting import Sitting

#: Rows are at least so far apart, and a cut goes down from so far above where it begins.
_ROW_MM, _ABOVE_MM = 0.5, 2.0
#: A feed where a cut's own is nothing, mm/min.
_FEED = 100.0
_NAMED = re.compile(r"T(\d+)\b")


def envelope(ready: Ready, machine: Machine) -> OpProgram:
    """Of an op's cuts, tool by tool in their order. Raises OutOfRange for an op without cuts."""
    return read_op(envelope_text(ready, machine))


def envelope_text(ready: Ready, machine: Machine) -> str:
    """The same as lines for a control. Raises OutOfRange for an op without cuts."""
    sitting = ready.sitting
    if not sitting.cuts:
        raise OutOfRange("cuts", 0, "at least one cut: there is nothing to go through")
    lines = ["G90 G21 G17 G54"]
    numbers = tool_numbers(sitting.cuts, machine)
    high = sitting.height_mm - sitting.top_mm + _ABOVE_MM
    for cut, guide, number in zip(sitting.cuts, sitting.guides, numbers, strict=True):
        lines += [f"T{number} M6", f"S{cut.spindle_rpm:.0f} M3"]
        path = cut_path(cut, guide)
        axis = path.axis.exterior if path.encloses else path.axis
        begun = False
        for points in _ways(axis, cut):
            x, y = points[0]
            if not begun:
                lines += [f"G0 X{x:.4f} Y{y:.4f}", f"G43 H{number} Z{high:.4f} M8"]
                begun = True
            lines += _down(points, cut, sitting, high)
        lines += ["M9"]
    return "\n".join([*lines, "M30"])


def tool_numbers(cuts: Sequence[Cut], machine: Machine) -> list[int]:
    """Under which number each cut's tool is: the machine's; else as the cut is named, "T5 ports";
    else the next that is free.
    """
    found: list[int] = []
    taken = {tool.number for tool in machine.tools}
    own: dict[str, int] = {}
    for cut in cuts:
        known = tool_number(machine.tools, cut.tool)
        said = _NAMED.match(cut.name)
        if known is None and said:
            known = int(said[1])
        if known is None:
            key = cut.tool.model_dump_json()
            known = own.get(key) or max([*taken, *found, 0]) + 1
            own[key] = known
        found.append(known)
    return found


def _feed(cut: Cut) -> float:
    per_turn = cut.tool.pitch_mm or cut.feed_per_tooth_mm * cut.tool.teeth
    return per_turn * cut.spindle_rpm or _FEED


def _down(
    points: Sequence[tuple[float, float]], cut: Cut, sitting: Sitting, high: float
) -> Iterator[str]:
    """Along one way at every pass."""
    feed = f"F{_feed(cut):.1f}"
    x, y = points[0]
    yield f"G0 X{x:.4f} Y{y:.4f}"
    lowest = cut.depth_mm
    if cut.of.hole:
        levels = [lowest + point_mm(cut.tool)]
    elif shape_of(cut.tool).bevel:  # its rim reaches the top, its tip goes lower
        levels = [rise_of(cut.tool) * cut.tool.diameter_mm / 2]
    else:
        levels = [cut.from_top_mm + cut.axial_depth_mm * (n + 1) for n in range(cut.passes)]
    for level in levels:
        yield f"G1 Z{-level:.4f} {feed}"
        for x, y in points[1:]:
            yield f"X{x:.4f} Y{y:.4f}"
    yield f"G0 Z{high:.4f}"


def _ways(axis: BaseGeometry, cut: Cut) -> Iterator[list[tuple[float, float]]]:
    """Where the axis goes, as lines; an area by its edge and in rows as wide as is engaged."""
    if isinstance(axis, MultiPoint):
        for point in axis.geoms:
            yield [(point.x, point.y)]
        return
    for part in shapely.get_parts(axis):
        if part.geom_type == "Point":
            yield [(part.x, part.y)]
        elif part.geom_type in ("LineString", "LinearRing"):
            yield list(part.coords)
        else:
            for ring in (part.exterior, *part.interiors):
                yield list(ring.coords)
            yield from _rows(part, max(_ROW_MM, cut.radial_width_mm or cut.tool.diameter_mm / 2))


def _rows(area: BaseGeometry, apart: float) -> Iterator[list[tuple[float, float]]]:
    x0, y0, x1, y1 = area.bounds
    for y in np.arange(y0 + apart, y1, apart).tolist():
        for row in shapely.get_parts(area.intersection(LineString([(x0, y), (x1, y)]))):
            if row.geom_type == "LineString" and row.length > 1e-6:
                yield list(row.coords)
