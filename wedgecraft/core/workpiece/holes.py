"""Round holes of an outline, found again among its chords."""

from __future__ import annotations

import math

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.ground.documents import Document

#: A ring whose points all lie this near to one circle, over at least eight points, is a round hole.
_ROUND_MM = 0.02


class RoundHole(Document):
    """A round hole of the outline, from the datum corner."""

    x_mm: float
    y_mm: float
    diameter_mm: float


def round_holes(outline: Polygon) -> list[RoundHole]:
    """Those of its inner rings that are round."""
    rings = (np.asarray(ring.coords)[:-1] for ring in outline.interiors)
    return [hole for hole in map(round_hole, rings) if hole is not None]


def round_hole(ring: np.ndarray) -> RoundHole | None:
    """The circle a ring of chords lies on, or nothing. The diameter is the circle's, through the
    points.
    """
    if len(ring) < 8:
        return None
    middle = ring.mean(axis=0)
    around = ring - middle
    # The circle nearest to all points (least squares), however unevenly they lie on it.
    fitted = np.linalg.lstsq(
        np.column_stack([2 * around, np.ones(len(ring))]), (around**2).sum(axis=1), rcond=None
    )[0]
    centre = middle + fitted[:2]
    radii = np.linalg.norm(ring - centre, axis=1)
    radius = float(radii.mean())
    chord = float(np.linalg.norm(np.diff(np.vstack([ring, ring[:1]]), axis=0), axis=1).max())
    if (
        np.ptp(radii) > 2 * _ROUND_MM
        or chord > radius
        or radius == 0
        or Polygon(ring).area < 0.8 * math.pi * radius**2
    ):
        return None
    return RoundHole(x_mm=float(centre[0]), y_mm=float(centre[1]), diameter_mm=2 * radius)


def fitting_hole(outline: Polygon, least_mm: float, most_mm: float) -> RoundHole | None:
    """The round hole between two diameters nearest the middle of the part."""
    middle = outline.centroid

    def off(hole: RoundHole) -> tuple[float, float]:
        away = math.hypot(hole.x_mm - middle.x, hole.y_mm - middle.y)
        return round(away, 6), hole.x_mm

    fits = [hole for hole in round_holes(outline) if least_mm <= hole.diameter_mm <= most_mm]
    return min(fits, key=off, default=None)


def holes_said(outline: Polygon) -> str:
    found = sorted({round(hole.diameter_mm, 2) for hole in round_holes(outline)})
    return "it has " + ", ".join(f"{size:g}" for size in found) + " mm" if found else "it has none"
