"""Outlines of shapes that are typed in. The datum corner of each shape's box is at (0, 0)."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import shapely
from pydantic import Field
from shapely.geometry import LineString, MultiPoint, Point, Polygon

from wedgecraft.core.model import Document
from wedgecraft.core.units import Length

#: Chords of typed curves stay this close to them.
CHORD_ERROR_MM = 0.01
Size = Annotated[Length, Field(gt=0, le=5000)]
_NONE = Annotated[Length, Field(ge=0, le=5000)]


class Rectangle(Document):
    kind: Literal["rectangle"] = "rectangle"
    width_mm: Size
    depth_mm: Size
    corner_radius_mm: _NONE = 0


class Round(Document):
    kind: Literal["round"] = "round"
    diameter_mm: Size


class RegularPolygon(Document):
    """``across_flats_mm``: twice the distance of a side from the centre, as a hexagon is measured."""

    kind: Literal["polygon"] = "polygon"
    sides: Annotated[int, Field(ge=3, le=64)]
    across_flats_mm: Size


class Slot(Document):
    """Round ends; the length is measured over them."""

    kind: Literal["slot"] = "slot"
    length_mm: Size
    width_mm: Size


class RingShape(Document):
    kind: Literal["ring"] = "ring"
    outer_mm: Size
    inner_mm: Size


class LShape(Document):
    """Two legs from the datum corner: one along X, one along Y."""

    kind: Literal["L"] = "L"
    width_mm: Size
    depth_mm: Size
    leg_x_mm: Size
    leg_y_mm: Size


class TShape(Document):
    """A bar across the far side on a stem in the middle."""

    kind: Literal["T"] = "T"
    width_mm: Size
    depth_mm: Size
    bar_mm: Size
    stem_mm: Size


Shape = Annotated[Rectangle | Round | RegularPolygon | Slot | RingShape | LShape | TShape, Field(discriminator="kind")]
Points = list[tuple[float, float]]


def shape_rings(shape: Shape) -> tuple[Points, list[Points]]:
    """Outer ring and holes, mm. Raises ValueError, in words, for sizes that do not make the shape."""
    polygon = _polygon(shape)
    left, low, _, _ = polygon.bounds
    placed = shapely.transform(polygon, lambda xy: xy - [left, low])
    return _ring(placed.exterior), [_ring(hole) for hole in placed.interiors]


def _ring(ring: object) -> Points:
    return [(round(float(x), 6), round(float(y), 6)) for x, y in shapely.get_coordinates(ring)[:-1]]


def _quarter(radius: float) -> int:
    """Chords in a quarter turn that keep within the chord error."""
    if radius <= CHORD_ERROR_MM:
        return 1
    return max(4, math.ceil(math.pi / 4 / math.acos(1 - CHORD_ERROR_MM / radius)))


def _less(what: str, value: float, than: str, limit: float) -> None:
    if value >= limit:
        raise ValueError(f"{what}, {value:g} mm, must be less than {than}, {limit:g} mm")


def _polygon(shape: Shape) -> Polygon:
    if isinstance(shape, Rectangle):
        radius = shape.corner_radius_mm
        if 2 * radius > min(shape.width_mm, shape.depth_mm):
            raise ValueError(f"the corner radius, {radius:g} mm, must be at most half the shorter side")
        if radius == 0:
            return Polygon([(0, 0), (shape.width_mm, 0), (shape.width_mm, shape.depth_mm), (0, shape.depth_mm)])
        # The middle may be a box, a line or a point: a rounded box in every case.
        corners = [(x, y) for x in (radius, shape.width_mm - radius) for y in (radius, shape.depth_mm - radius)]
        return MultiPoint(corners).convex_hull.buffer(radius, quad_segs=_quarter(radius))
    if isinstance(shape, Round):
        radius = shape.diameter_mm / 2
        return Point(radius, radius).buffer(radius, quad_segs=_quarter(radius))
    if isinstance(shape, RegularPolygon):
        radius = shape.across_flats_mm / 2 / math.cos(math.pi / shape.sides)
        turns = [-math.pi / 2 + math.pi / shape.sides + 2 * math.pi * k / shape.sides for k in range(shape.sides)]
        return Polygon([(radius * math.cos(a), radius * math.sin(a)) for a in turns])
    if isinstance(shape, Slot):
        _less("the slot's width", shape.width_mm, "its length", shape.length_mm)
        radius = shape.width_mm / 2
        return LineString([(radius, radius), (shape.length_mm - radius, radius)]).buffer(radius, quad_segs=_quarter(radius))
    if isinstance(shape, RingShape):
        _less("the inner diameter", shape.inner_mm, "the outer", shape.outer_mm)
        centre = Point(shape.outer_mm / 2, shape.outer_mm / 2)
        outer = centre.buffer(shape.outer_mm / 2, quad_segs=_quarter(shape.outer_mm / 2))
        return outer.difference(centre.buffer(shape.inner_mm / 2, quad_segs=_quarter(shape.inner_mm / 2)))
    _less("the leg" if isinstance(shape, LShape) else "the stem", shape.leg_y_mm if isinstance(shape, LShape) else shape.stem_mm,
          "the width", shape.width_mm)  # fmt: skip
    w, d = shape.width_mm, shape.depth_mm
    if isinstance(shape, LShape):
        _less("the leg", shape.leg_x_mm, "the depth", d)
        return Polygon([(0, 0), (w, 0), (w, shape.leg_x_mm), (shape.leg_y_mm, shape.leg_x_mm), (shape.leg_y_mm, d), (0, d)])
    _less("the bar", shape.bar_mm, "the depth", d)
    low, high, under = (w - shape.stem_mm) / 2, (w + shape.stem_mm) / 2, d - shape.bar_mm
    return Polygon([(low, 0), (high, 0), (high, under), (w, under), (w, d), (0, d), (0, under), (low, under)])
