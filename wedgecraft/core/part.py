"""The part: outline in plan, height, material."""

from __future__ import annotations

from typing import Annotated

import shapely
from pydantic import Field, model_validator
from shapely.geometry import Polygon

from wedgecraft.core.model import Document, Ring, Text
from wedgecraft.core.units import Length


class Outline(Document):
    """Outer ring and holes in mm. Curves arrive as chords; ``chord_error_mm`` says how far these stray from the curve."""

    outer: Ring
    holes: Annotated[list[Ring], Field(max_length=500)] = []
    chord_error_mm: Annotated[float, Field(ge=0, le=1)] = 0.0
    origin: str = Field(default="typed in", max_length=200)

    @model_validator(mode="after")
    def _has_size(self) -> Outline:
        check_outline(Polygon(self.outer, self.holes))
        return self


class Part(Document):
    """A part as it sits on the plate: outline seen from above, height over the plate."""

    name: Text
    outline: Outline
    height_mm: Annotated[Length, Field(gt=0, le=1000)]
    material: Text


#: Nothing smaller can be clamped here, nothing larger is a part for a plate.
SMALLEST_MM, LARGEST_MM = 1.0, 5000.0


def check_outline(polygon: Polygon) -> None:
    """Raise ValueError, in words, for an outline that crosses itself, has no size or an absurd one."""
    if polygon.is_empty or polygon.convex_hull.area == 0:
        raise ValueError("the outline has no area")
    if not polygon.is_valid:
        raise ValueError(f"the outline crosses or touches itself: {shapely.is_valid_reason(polygon)}; draw it as one simple loop")
    left, low, right, high = polygon.bounds
    small, large = min(right - left, high - low), max(right - left, high - low)
    if small < SMALLEST_MM:
        raise ValueError(f"the outline is only {small:.3g} mm across; at least {SMALLEST_MM:g} mm is needed; are the units right?")
    if large > LARGEST_MM:
        raise ValueError(f"the outline is {large:.4g} mm long; at most {LARGEST_MM:g} mm is allowed; are the units right?")


def outline_polygon(outline: Outline) -> Polygon:
    """The outline moved so that its bounding box starts at (0, 0): the datum corner of its station."""
    polygon = Polygon(outline.outer, outline.holes)
    left, low, _, _ = polygon.bounds
    return shapely.transform(polygon, lambda xy: xy - [left, low])


def part_mass_kg(part: Part, density_kg_m3: float) -> float:
    """Prism of the outline's area."""
    return float(outline_polygon(part.outline).area) * part.height_mm * density_kg_m3 * 1e-9
