"""Where the cutter's axis goes, and how long the cut takes. Everything in the part's frame, mm."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import shapely
from shapely.geometry import LineString, MultiPoint, Polygon, box

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import HOLE_KINDS, Cut, CuttingLoad

#: The cutter keeps this far from what it must not touch; it also starts and ends this far outside.
CUTTER_CLEARANCE_MM = 1.0
#: A hole cut starts this far above the hole.
_APPROACH_MM = 2.0


@dataclass(frozen=True)
class CutPath:
    """``axis``: where the spindle's axis goes, seen from above; ``length_mm``: how far it travels
    at feed, all passes.
    """

    axis: Any
    length_mm: float


def cut_path(cut: Cut, outline: Polygon) -> CutPath:
    """Work out where the cut goes on a part of this outline (datum corner at the origin). Raises
    OutOfRange.
    """
    solid = Polygon(outline.exterior)
    radius = cut.tool.diameter_mm / 2
    if cut.kind in HOLE_KINDS:
        holes = cut.at or [(solid.centroid.x, solid.centroid.y)]
        off = next(
            (point for point in holes if not solid.buffer(radius).covers(shapely.Point(point))),
            None,
        )
        if off is not None:
            raise OutOfRange(
                "cut.at",
                f"{off[0]:g}, {off[1]:g}",
                "on the part: places are measured from its datum corner",
            )
        depth = cut.passes * cut.axial_depth_mm + _APPROACH_MM
        way_back = depth if cut.kind in ("tap", "ream") else 0.0
        return CutPath(MultiPoint(holes), len(holes) * (depth + way_back))
    if cut.kind == "contour":
        axis = Polygon(solid.buffer(radius, quad_segs=16).exterior)
        return CutPath(axis, cut.passes * float(axis.exterior.length))
    if cut.kind in ("slot", "saw"):
        if len(cut.at) != 2 or cut.at[0] == cut.at[1]:
            raise OutOfRange(
                "cut.at",
                len(cut.at),
                f"two different points: from where to where the {cut.kind} goes",
            )
        line = LineString(cut.at)
        return CutPath(line, cut.passes * (float(line.length) + 2 * radius))
    area = _face_area(cut, solid)
    x0, y0, x1, y1 = area.bounds
    long, short = max(x1 - x0, y1 - y0), min(x1 - x0, y1 - y0)
    rows = math.ceil(short / max(cut.radial_width_mm, 1e-6) - 1e-9)
    if rows > 100_000:
        raise OutOfRange(
            "cut.radial_width_mm",
            cut.radial_width_mm,
            f"enough to face {short:g} mm in a reasonable number of passes",
        )
    return CutPath(area, cut.passes * rows * (long + cut.tool.diameter_mm))


def _face_area(cut: Cut, solid: Polygon) -> Polygon:
    if not cut.at:
        return solid
    if len(cut.at) != 2 or cut.at[0][0] == cut.at[1][0] or cut.at[0][1] == cut.at[1][1]:
        raise OutOfRange(
            "cut.at",
            len(cut.at),
            "two opposite corners of the box to face, or nothing for the whole top",
        )
    (x0, y0), (x1, y1) = cut.at
    return box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))


def swept(cut: Cut, outline: Polygon) -> list[Polygon]:
    """What cutter and clearance sweep, seen from above, where that reaches beyond the part; one
    polygon a connected piece.
    """
    found = cut_path(cut, outline).axis.buffer(
        cut.tool.diameter_mm / 2 + CUTTER_CLEARANCE_MM, quad_segs=8
    )
    pieces = list(getattr(found, "geoms", [found]))
    solid = Polygon(outline.exterior)
    return [piece for piece in pieces if cut.kind not in HOLE_KINDS or not solid.covers(piece)]


def run_over(cut: Cut, outline: Polygon) -> Any:
    """What cutter and clearance run over, also on the part itself; round the outline only its edge,
    not what that encloses.
    """
    axis = cut_path(cut, outline).axis
    if cut.kind == "contour":
        axis = axis.exterior
    return axis.buffer(cut.tool.diameter_mm / 2 + CUTTER_CLEARANCE_MM, quad_segs=8)


def cut_seconds(cut: Cut, outline: Polygon, load: CuttingLoad) -> float:
    """Time at feed: as typed, else the typed path, else the path worked out, over the feed rate.
    Raises OutOfRange.
    """
    if cut.seconds is not None:
        return cut.seconds
    length = cut.path_mm if cut.path_mm else cut_path(cut, outline).length_mm
    return 60 * length / load.feed_rate_mm_min
