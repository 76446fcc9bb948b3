"""Where a round cutter gets to, seen from above: what it clears, what it must leave in corners."""

from __future__ import annotations

import math

import shapely
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

#: Quarter circles of grown outlines: chords stray a ten-thousandth of the radius.
_SEGMENTS = 48
#: Narrower than this, what a cutter leaves is rounding.
_FILM_MM = 0.004
_AROUND_MM = 0.1


def cleared(wanted: BaseGeometry, keep: BaseGeometry, radius_mm: float) -> BaseGeometry:
    """What a cutter of this radius clears of ``wanted`` when it may go anywhere but into
    ``keep``.
    """
    # whether a point is cleared depends on what lies within a diameter of it
    more = 2 * radius_mm + _AROUND_MM
    if not (keep.is_empty or wanted.is_empty):
        x0, y0, x1, y1 = wanted.bounds
        keep = keep.intersection(box(x0 - more, y0 - more, x1 + more, y1 + more))
    if keep.is_empty or wanted.is_empty:
        return wanted
    closed = keep.buffer(radius_mm, quad_segs=_SEGMENTS).buffer(-radius_mm, quad_segs=_SEGMENTS)
    return wanted.difference(shapely.union(closed, keep))


def left_in_corners(
    wanted: BaseGeometry, keep: BaseGeometry, radius_mm: float, film_mm: float = _FILM_MM
) -> MultiPolygon:
    """What it must leave of ``wanted`` because it is round; nothing narrower than ``film_mm``."""
    rest = wanted.difference(keep).difference(cleared(wanted, keep, radius_mm))
    parts = [
        part
        for part in shapely.get_parts(rest)
        if isinstance(part, Polygon) and not part.buffer(-film_mm / 2).is_empty
    ]
    return MultiPolygon(parts)


def largest_cutter_mm(
    wanted: BaseGeometry, keep: BaseGeometry, most_mm: float, film_mm: float = _FILM_MM
) -> float:
    """The largest diameter that leaves nothing in a corner, to a tenth, rounded down; 0 where a
    corner is sharp.
    """
    low, high = 0, math.floor(most_mm * 10)
    while low < high:
        middle = (low + high + 1) // 2
        fits = not left_in_corners(wanted, keep, middle / 20, film_mm).geoms
        low, high = (middle, high) if fits else (low, middle - 1)
    return low / 10


def filled(area: MultiPolygon | Polygon) -> BaseGeometry:
    """An area without its holes."""
    return shapely.union_all([Polygon(part.exterior) for part in shapely.get_parts(area)])
