"""Where the cutter's axis goes, and how long the cut takes. Everything in the part's frame, mm."""

from __future__ import annotations

from typing import Any

from shapely.geometry import Polygon

from wedgecraft.core.records.cut import Cut, CutPath, CuttingLoad

#: The cutter keeps this far from what it must not touch; it also starts and ends this far outside.
CUTTER_CLEARANCE_MM = 1.0


def cut_path(cut: Cut, outline: Polygon) -> CutPath:
    """Work out where the cut goes, given what it follows (``CutKind.guide``). Raises OutOfRange."""
    return cut.of.path(cut, outline)


def swept(cut: Cut, guide: Polygon, outline: Polygon) -> list[Polygon]:
    """What cutter and clearance sweep, seen from above, where that reaches beyond a part of this
    outline; one polygon a connected piece. ``guide``: what the cut follows.
    """
    found = cut_path(cut, guide).axis.buffer(
        cut.tool.diameter_mm / 2 + CUTTER_CLEARANCE_MM, quad_segs=8
    )
    pieces = list(getattr(found, "geoms", [found]))
    solid = Polygon(outline.exterior)
    return [piece for piece in pieces if not cut.of.inside or not solid.covers(piece)]


def run_over(cut: Cut, outline: Polygon) -> Any:
    """What cutter and clearance run over, also on the part itself; round the outline only its edge,
    not what that encloses.
    """
    path = cut_path(cut, outline)
    axis = path.axis.exterior if path.encloses else path.axis
    return axis.buffer(cut.tool.diameter_mm / 2 + CUTTER_CLEARANCE_MM, quad_segs=8)


def cut_seconds(cut: Cut, outline: Polygon, load: CuttingLoad) -> float:
    """Time at feed: as typed, else the typed path, else the path worked out, over the feed rate.
    Raises OutOfRange.
    """
    if cut.seconds is not None:
        return cut.seconds
    length = cut.path_mm if cut.path_mm else cut_path(cut, outline).length_mm
    return 60 * length / load.feed_rate_mm_min
