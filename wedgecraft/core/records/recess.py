"""What an outline in plan does not say: holes that end, pockets, steps, chamfers, from any side."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, field_validator
from shapely.geometry import Polygon, box

from wedgecraft.core.ground.documents import Document, Point
from wedgecraft.core.ground.units import Length, Place, parse_places
from wedgecraft.core.records.feature import Direction

_Deep = Annotated[Length, Field(gt=0, le=1000)]


class Hole(Document):
    """A round hole from a side; ``depth_mm`` to the end of its full diameter, nothing where it goes
    through; ``point_deg``: the angle of the point below, nothing for a flat end.
    """

    kind: Literal["hole"] = "hole"
    side: Direction = "+Z"
    x_mm: Place
    y_mm: Place
    diameter_mm: Annotated[Length, Field(gt=0, le=1000)]
    depth_mm: _Deep | None = None
    point_deg: Annotated[float, Field(ge=60, le=180)] | None = None


class Pocket(Document):
    """A pocket or a step: two corners of a box, or three points and more round it; where it runs
    out over the part's edge it is a step.
    """

    kind: Literal["pocket"] = "pocket"
    side: Direction = "+Z"
    at: Annotated[
        list[Point],
        BeforeValidator(parse_places, json_schema_input_type=list[Point] | str),
        Field(min_length=2, max_length=5000, json_schema_extra={"also_text": True}),
    ]
    depth_mm: _Deep
    corner_radius_mm: Annotated[Length, Field(ge=0, le=500)] = 0

    @field_validator("at")
    @classmethod
    def _has_area(cls, at: list[Point]) -> list[Point]:
        area = box(*at[0], *at[1]) if len(at) == 2 else Polygon(at)
        if not area.is_valid or abs(area.area) < 1e-6:
            raise ValueError("two opposite corners, or three points and more round it")
        return at


class Bevel(Document):
    """A chamfer of 45° round the outer edge of a side."""

    kind: Literal["chamfer"] = "chamfer"
    side: Direction = "+Z"
    width_mm: Annotated[Length, Field(gt=0, le=100)]


#: Places as the part is seen with that side up, from its datum corner there; depths from that side.
Recess = Annotated[Hole | Pocket | Bevel, Field(discriminator="kind")]
