"""Volume and mass of a part."""

from __future__ import annotations

from shapely.geometry import Polygon

from wedgecraft.core.records.outline import outline_polygon
from wedgecraft.core.records.part import Part


def part_volume_mm3(part: Part) -> float:
    """The solid's own where one was read; else a prism of outline less holes plus islands."""
    if part.solid is not None:
        return part.solid.volume_mm3
    islands = sum(Polygon(ring).area for ring in part.outline.islands)
    return float(outline_polygon(part.outline).area + islands) * part.height_mm


def part_mass_kg(part: Part) -> float:
    return part_volume_mm3(part) * part.material.density_kg_m3 * 1e-9
