"""The outline of a part in plan: rings of points in mm, checked when they come in."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
import shapely
from pydantic import Field, PrivateAttr, model_validator
from shapely.geometry import Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.documents import Document, Ring
from wedgecraft.core.records.shape import Shape, shape_rings


class Outline(Document):
    """Outer ring, holes, and islands standing in holes, in mm. Curves arrive as chords;
    ``chord_error_mm`` says how far they stray.

    A ``shape`` makes the rings itself: what is given for them is not looked at.
    """

    outer: Ring
    holes: Annotated[list[Ring], Field(max_length=5000)] = []
    islands: Annotated[list[Ring], Field(max_length=5000)] = []
    chord_error_mm: Annotated[float, Field(ge=0, le=1)] = 0.0
    origin: str = Field(default="typed in", max_length=200)
    shape: Shape | None = None
    _checked: bool = PrivateAttr(default=False)

    @model_validator(mode="before")
    @classmethod
    def _from_shape(cls, given: Any) -> Any:
        if not isinstance(given, dict) or not given.get("shape"):
            return given
        shape = _ShapeOnly.model_validate({"shape": given["shape"]}).shape
        outer, holes = shape_rings(shape)
        return {
            "outer": outer,
            "holes": holes,
            "shape": shape,
            "chord_error_mm": CHORD_ERROR_MM,
            "origin": f"typed in, {shape.kind}",
        }

    @model_validator(mode="after")
    def _has_size(self) -> Outline:
        # an outline that goes into another document is looked at again otherwise
        if not self._checked:
            check_outline(polygon_of(self.outer, self.holes))
            object.__setattr__(self, "_checked", True)
        return self


class _ShapeOnly(Document):
    shape: Shape


#: Nothing smaller can be clamped here, nothing larger is a part for a plate.
SMALLEST_MM, LARGEST_MM = 1.0, 5000.0


def polygon_of(outer: list[Any], holes: list[Any]) -> Polygon:
    """A polygon from rings whose last point is not repeated; rings in bulk, because a drawing can
    have thousands.
    """
    rings = [outer, *holes]
    which = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    closed = shapely.linearrings(
        np.array([point for ring in rings for point in ring], dtype=float), indices=which
    )
    polygon: Polygon = shapely.polygons(closed[0], list(closed[1:]) or None)
    return polygon


def check_outline(polygon: Polygon) -> None:
    """Raise ValueError, in words, for an outline that crosses itself, has no size or an absurd
    one.
    """
    if polygon.is_empty or polygon.convex_hull.area == 0:
        raise ValueError("the outline has no area")
    if not polygon.is_valid:
        raise ValueError(
            f"the outline crosses or touches itself: {shapely.is_valid_reason(polygon)}; draw it as"
            " one simple loop"
        )
    left, low, right, high = polygon.bounds
    small, large = min(right - left, high - low), max(right - left, high - low)
    if small < SMALLEST_MM:
        raise ValueError(
            f"the outline is only {small:.3g} mm across; at least {SMALLEST_MM:g} mm is needed; are"
            " the units right?"
        )
    if large > LARGEST_MM:
        raise ValueError(
            f"the outline is {large:.4g} mm long; at most {LARGEST_MM:g} mm is allowed; are the"
            " units right?"
        )


def outline_polygon(outline: Outline) -> Polygon:
    """The outline moved so that its bounding box starts at (0, 0): the datum corner of its
    station.
    """
    polygon = polygon_of(outline.outer, outline.holes)
    left, low, _, _ = polygon.bounds
    return shapely.transform(polygon, lambda xy: xy - [left, low])
