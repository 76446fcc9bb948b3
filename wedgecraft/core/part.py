"""The part: outline in plan, height, material, stock, features, ops."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any

import numpy as np
import shapely
from pydantic import Field, PrivateAttr, model_validator
from shapely.geometry import Polygon

from wedgecraft.core.features import Feature, Op, circular
from wedgecraft.core.materials import MaterialRef
from wedgecraft.core.model import Document, Ring, Text
from wedgecraft.core.shapes import Shape, shape_rings
from wedgecraft.core.stock import Stock
from wedgecraft.core.units import Length
from wedgecraft.core.workpiece.arcs import CHORD_ERROR_MM


class Outline(Document):
    """Outer ring, holes, and islands standing in holes, in mm. Curves arrive as chords; ``chord_error_mm`` says how far they stray.

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
            "outer": outer, "holes": holes, "shape": shape, "chord_error_mm": CHORD_ERROR_MM, "origin": f"typed in, {shape.kind}",
        }  # fmt: skip

    @model_validator(mode="after")
    def _has_size(self) -> Outline:
        if not self._checked:  # an outline that goes into another document is looked at again otherwise
            check_outline(polygon_of(self.outer, self.holes))
            object.__setattr__(self, "_checked", True)
        return self


class _ShapeOnly(Document):
    shape: Shape


class SolidFace(Document):
    """A planar face of a solid: outward normal and area."""

    normal: tuple[float, float, float]
    area_mm2: float


class SolidHole(Document):
    """A round hole of a solid, in the frame of the part as it sits: where its axis passes, its direction, whether it goes through."""

    diameter_mm: float
    x_mm: float
    y_mm: float
    z_mm: float
    axis: tuple[float, float, float]
    depth_mm: float
    through: bool


class Solid(Document):
    """What was read from a solid, as it sits with ``up`` (in the file's axes) up; ``section_mm`` is the height of the section kept."""

    upload: Annotated[str, Field(max_length=40)]
    name: str = Field(default="", max_length=200)
    up: tuple[float, float, float]
    volume_mm3: Annotated[float, Field(gt=0)]
    section_mm: float | None = None
    section: Annotated[list[Ring], Field(max_length=5000)] = []
    faces: Annotated[list[SolidFace], Field(max_length=5000)] = []
    holes: Annotated[list[SolidHole], Field(max_length=5000)] = []


class Part(Document):
    """A part as op 10 sees it: outline from above, height over what it stands on. ``per_kit``: how many one kit takes."""

    name: Text
    outline: Outline
    height_mm: Annotated[Length, Field(gt=0, le=1000)]
    material: MaterialRef
    per_kit: Annotated[int, Field(ge=1, le=1000)] = 1
    stock: Stock = Stock()
    features: Annotated[list[Feature], Field(max_length=60)] = []
    ops: Annotated[list[Op], Field(min_length=1, max_length=20)] = [Op()]
    solid: Solid | None = None

    @model_validator(mode="after")
    def _fits_together(self) -> Part:
        twice = [name for name, count in Counter(item.name for item in self.features).items() if count > 1]
        if twice:
            raise ValueError(f"two features are called “{twice[0]}”; each needs its own name")
        round_trip = circular(self.features)
        if round_trip:
            raise ValueError("features are measured from one another in a circle: " + " from ".join(round_trip))
        numbers = [op.number for op in self.ops]
        if len(set(numbers)) < len(numbers) or sorted(numbers) != numbers:
            raise ValueError("op numbers must rise from op to op, such as 10, 20, 30")
        return self


#: Nothing smaller can be clamped here, nothing larger is a part for a plate.
SMALLEST_MM, LARGEST_MM = 1.0, 5000.0


def polygon_of(outer: list[Any], holes: list[Any]) -> Polygon:
    """A polygon from rings whose last point is not repeated; rings in bulk, because a drawing can have thousands."""
    rings = [outer, *holes]
    which = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    closed = shapely.linearrings(np.array([point for ring in rings for point in ring], dtype=float), indices=which)
    polygon: Polygon = shapely.polygons(closed[0], list(closed[1:]) or None)
    return polygon


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
    polygon = polygon_of(outline.outer, outline.holes)
    left, low, _, _ = polygon.bounds
    return shapely.transform(polygon, lambda xy: xy - [left, low])


def part_volume_mm3(part: Part) -> float:
    """The solid's own where one was read; else a prism of outline less holes plus islands."""
    if part.solid is not None:
        return part.solid.volume_mm3
    islands = sum(Polygon(ring).area for ring in part.outline.islands)
    return float(outline_polygon(part.outline).area + islands) * part.height_mm


def part_mass_kg(part: Part) -> float:
    return part_volume_mm3(part) * part.material.density_kg_m3 * 1e-9
