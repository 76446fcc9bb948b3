"""Outlines of shapes that are typed in. The datum corner of each shape's box is at (0, 0)."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from wedgecraft.core.ground.arcs import Array, arc, on_the_outside
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length

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
    """``across_flats_mm``: twice the distance of a side from the centre, as a hexagon is
    measured.
    """

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


Shape = Annotated[
    Rectangle | Round | RegularPolygon | Slot | RingShape | LShape | TShape,
    Field(discriminator="kind"),
]
Points = list[tuple[float, float]]


def shape_rings(shape: Shape) -> tuple[Points, list[Points]]:
    """Outer ring and holes, mm. Raises ValueError, in words, for sizes that do not make the
    shape.
    """
    outer, holes = _rings(shape)
    corner = outer.min(axis=0)
    return _points(outer - corner), [_points(hole - corner) for hole in holes]


def _points(ring: Array) -> Points:
    return [(x, y) for x, y in (np.round(ring, 6) + 0.0).tolist()]


def _circle(radius: float) -> Array:
    return arc(0.0, 0.0, radius, 0.0, 2 * math.pi)[:-1]


def _rounded(width: float, depth: float, radius: float) -> Array:
    """A box about the origin with round corners; where nothing is left between two of them, they
    make one curve.
    """
    x, y, quarter = width / 2 - radius, depth / 2 - radius, math.pi / 2
    turns = [(x, y, 0.0), (-x, y, quarter), (-x, -y, 2 * quarter), (x, -y, 3 * quarter)]
    ring = np.concatenate([arc(cx, cy, radius, start, quarter) for cx, cy, start in turns])
    alone = np.abs(ring[:, :2] - np.roll(ring[:, :2], 1, axis=0)).max(axis=1) > 1e-9
    return on_the_outside(ring[alone])


def _less(what: str, value: float, than: str, limit: float) -> None:
    if value >= limit:
        raise ValueError(f"{what}, {value:g} mm, must be less than {than}, {limit:g} mm")


def _rings(shape: Shape) -> tuple[Array, list[Array]]:
    if isinstance(shape, Rectangle):
        w, d, radius = shape.width_mm, shape.depth_mm, shape.corner_radius_mm
        if 2 * radius > min(w, d):
            raise ValueError(
                f"the corner radius, {radius:g} mm, must be at most half the shorter side"
            )
        return (
            _rounded(w, d, radius)
            if radius > 0
            else np.array([(0, 0), (w, 0), (w, d), (0, d)], dtype=float)
        ), []
    if isinstance(shape, Round):
        return on_the_outside(_circle(shape.diameter_mm / 2)), []
    if isinstance(shape, RegularPolygon):
        radius = shape.across_flats_mm / 2 / math.cos(math.pi / shape.sides)
        turns = (
            -math.pi / 2
            + math.pi / shape.sides
            + 2 * math.pi * np.arange(shape.sides) / shape.sides
        )
        return radius * np.stack([np.cos(turns), np.sin(turns)], axis=1), []
    if isinstance(shape, Slot):
        _less("the slot's width", shape.width_mm, "its length", shape.length_mm)
        return _rounded(shape.length_mm, shape.width_mm, shape.width_mm / 2), []
    if isinstance(shape, RingShape):
        _less("the inner diameter", shape.inner_mm, "the outer", shape.outer_mm)
        return on_the_outside(_circle(shape.outer_mm / 2)), [_circle(shape.inner_mm / 2)[::-1, :2]]
    _less(
        "the leg" if isinstance(shape, LShape) else "the stem",
        shape.leg_y_mm if isinstance(shape, LShape) else shape.stem_mm,
        "the width",
        shape.width_mm,
    )
    w, d = shape.width_mm, shape.depth_mm
    if isinstance(shape, LShape):
        _less("the leg", shape.leg_x_mm, "the depth", d)
        ring = [
            (0, 0),
            (w, 0),
            (w, shape.leg_x_mm),
            (shape.leg_y_mm, shape.leg_x_mm),
            (shape.leg_y_mm, d),
            (0, d),
        ]
    else:
        _less("the bar", shape.bar_mm, "the depth", d)
        low, high, under = (w - shape.stem_mm) / 2, (w + shape.stem_mm) / 2, d - shape.bar_mm
        ring = [
            (low, 0),
            (high, 0),
            (high, under),
            (w, under),
            (w, d),
            (0, d),
            (0, under),
            (low, under),
        ]
    return np.array(ring, dtype=float), []
