"""Raw stock: how big the blank is and how much blanks vary."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, field_validator

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.ground.units import Length, parse
from wedgecraft.core.records.solid_ref import SolidRef

StockKind = Literal[
    "saw-cut bar",
    "saw-cut plate",
    "round bar",
    "hexagon bar",
    "ground plate",
    "flame-cut plate",
    "forged",
]
Axis = Literal["x", "y", "z"]
AXES: tuple[Axis, ...] = ("x", "y", "z")
NAMES: dict[Axis, str] = {"x": "width (X)", "y": "depth (Y)", "z": "height (Z)"}


def _column(given: object) -> object:
    """A column pasted from a spreadsheet: one blank a line, or separated by spaces or
    semicolons.
    """
    if not isinstance(given, str):
        return given
    unit = re.search(r"([a-zA-Zµ\"]+)\s*$", given)
    cells = [cell for cell in re.split(r"[;\n\t]|(?<=\d)\s+(?=[\d.])", given) if cell.strip()]
    return [
        cell if unit is None or re.search(r"[a-zA-Zµ\"]", cell) else f"{cell} {unit[1]}"
        for cell in cells
    ]


class Variation(Document):
    """How much one dimension differs from blank to blank.

    ``usual``: what this kind of stock usually does; ``range``: plus or minus ``value_mm``, evenly
    spread; ``standard deviation``: ``value_mm``; ``measured``: estimated from ``measured_mm``, one
    entry a blank.
    """

    kind: Literal["usual", "range", "standard deviation", "measured"] = "usual"
    value_mm: Annotated[Length, Field(ge=0, le=50)] = 0
    measured_mm: Annotated[
        list[Annotated[Length, Field(gt=0, le=20_000)]],
        BeforeValidator(_column, json_schema_input_type=list[float] | str),
        Field(max_length=2000, json_schema_extra={"also_text": True}),
    ] = []


class StockDimension(Document):
    """Allowance per side over the finished part, and how the dimension varies. ``low_mm``: of the
    low side, where that has another: grip stock under a part.
    """

    allowance_mm: Annotated[Length, Field(ge=0, le=500)] = 0
    low_mm: Annotated[Length, Field(ge=0, le=500)] | None = None
    variation: Variation = Variation()

    @property
    def sides_mm(self) -> tuple[float, float]:
        """Allowance on the low and on the high side."""
        return self.allowance_mm if self.low_mm is None else self.low_mm, self.allowance_mm


class Stock(Document):
    """The blank a part is made from. ``along``: which way the bar or sawn length runs; ``gripped``:
    which dimension is clamped over; ``solid``: the blank's own shape, of a casting or a weldment,
    in the axes of the part's file, or in the part's frame where it has none.
    """

    kind: StockKind = "saw-cut bar"
    along: Axis = "x"
    gripped: Axis = "x"
    x: StockDimension = StockDimension()
    y: StockDimension = StockDimension()
    z: StockDimension = StockDimension()
    bar_length_mm: Annotated[Length, Field(gt=0, le=20_000)] | None = 3000
    kerf_mm: Annotated[Length, Field(ge=0, le=50)] = 2
    trim_mm: Annotated[Length, Field(ge=0, le=1000)] = 5
    remnant_mm: Annotated[Length, Field(ge=0, le=2000)] = 60
    solid: SolidRef | None = None
    spare_percent: Annotated[float, Field(ge=0, le=100)] = 2


class StockSizes(Document):
    """Sizes of one form that a stockist keeps: thicknesses and widths of flat bar, thicknesses of
    plate, diameters of round bar, widths across the flats of hexagon bar; each a length in its own
    unit.
    """

    name: Text
    form: Annotated[
        Literal["flat bar", "plate", "round bar", "hexagon bar"], Field(title="Form")
    ] = "flat bar"
    sizes: Annotated[list[str], Field(min_length=1, max_length=300, title="Sizes")]

    @field_validator("sizes")
    @classmethod
    def _lengths(cls, sizes: list[str]) -> list[str]:
        for size in sizes:
            if not parse("length", size) > 0:
                raise ValueError(f"“{size[:40]}” is no size: a length above nothing")
        return sizes

    @property
    def by_mm(self) -> dict[float, str]:
        """Each as it is written, by its length in mm."""
        return {parse("length", size): size for size in self.sizes}

    @property
    def inch(self) -> bool:
        """Whether its sizes are inches."""
        return any(size.rstrip().endswith(("in", '"')) for size in self.sizes)


class DimensionFacts(Document):
    """One dimension of the blank."""

    axis: Axis
    name: str
    nominal_mm: float
    spread_mm: float
    mean_mm: float | None
    samples: int
    source: str


class StockFacts(Document):
    """Everything worked out about the blank. ``warning`` and ``remedies`` when the most varying
    dimension is the one gripped.
    """

    dimensions: list[DimensionFacts]
    mass_kg: float
    most_varying: Axis | None
    warning: str | None
    remedies: list[str]
    figures: list[Figure]
    bars: int | None
    per_bar: int | None
    wrong: str | None
