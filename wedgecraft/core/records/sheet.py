"""A drawing as a document: views, dimensions, tables, title block; formats write it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document

Layer = Literal[
    "OUTLINE",
    "HIDDEN",
    "CENTRE",
    "PART",
    "DIMENSIONS",
    "TEXT",
    "MARKING",
    "FRAME",
    "HATCH",
    "PRESSURE",
]
DrawnUnits = Literal["mm", "inch"]
#: Paper, mm, as wide as high (ISO 216); frames as ISO 5457 has them.
Paper = Literal["A4", "A3", "A2"]
PAPERS: dict[str, tuple[float, float]] = {"A4": (210, 297), "A3": (420, 297), "A2": (594, 420)}


class Stroke(Document):
    """A line through points, ``closed`` to a ring; ``filled`` for arrows and wedges."""

    kind: Literal["stroke"] = "stroke"
    layer: Layer
    points: list[tuple[float, float]]
    closed: bool = False
    filled: bool = False


class Round(Document):
    """A circle."""

    kind: Literal["round"] = "round"
    layer: Layer
    x: float
    y: float
    radius: float


class Label(Document):
    """Text from its anchor; ``high`` of capitals in mm on paper, ``figures`` in the mono face."""

    kind: Literal["label"] = "label"
    layer: Layer = "TEXT"
    text: str
    x: float
    y: float
    high: float = 2.5
    anchor: Literal["start", "middle", "end"] = "start"
    turn_deg: float = 0
    figures: bool = False


class Ordinate(Document):
    """A distance from the datum along one axis, its leader bent to where its text has room: from
    the feature to ``bend`` to ``end``. ``value`` in mm from the datum.
    """

    kind: Literal["ordinate"] = "ordinate"
    layer: Layer = "DIMENSIONS"
    axis: Literal["x", "y"]
    feature: tuple[float, float]
    bend: tuple[float, float]
    end: tuple[float, float]
    value: float
    text: str


class Linear(Document):
    """A distance between two points, along x or y, its line at ``line`` across that."""

    kind: Literal["linear"] = "linear"
    layer: Layer = "DIMENSIONS"
    axis: Literal["x", "y"]
    first: tuple[float, float]
    second: tuple[float, float]
    line: float
    text: str


Item = Annotated[Stroke | Round | Label | Ordinate | Linear, Field(discriminator="kind")]


class SheetView(Document):
    """A view of a piece: items in its own mm, their origin at ``at_mm`` on the paper."""

    name: str
    at_mm: tuple[float, float]
    items: list[Item]


class Sheet(Document):
    """One sheet: what stands on it in ``views`` to ``scale`` (0.5 is 1:2), and in paper mm in
    ``items``: frame, tables, title block. ``datum``: of the first view.
    """

    name: str
    paper: Paper
    width_mm: float
    height_mm: float
    scale: float
    units: DrawnUnits
    datum_mm: tuple[float, float]
    views: list[SheetView]
    items: list[Item]
