"""Soft jaws of a vise: the part's own profile is cut into both."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import shapely
from pydantic import Field
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.clamping.elements.jaws import HANDLE_MM, Jaws
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.cut import largest
from wedgecraft.core.records.element import ELEMENTS, Body, Grip, Nest, Press, Stood, one_of
from wedgecraft.core.records.screw import EdgeClamp

#: A jaw keeps so much beside its pocket, mm; common practice, from memory.
_WALL_MM = 6.0


@ELEMENTS.register
class SoftJaws(Jaws):
    """As of a vise, the profile of what stands between them cut into both; ``gap_mm`` between them
    when they are cut: an eighth of an inch is usual (common practice, no source).
    """

    kind: Literal["soft jaws"] = "soft jaws"  # type: ignore[assignment]
    gap_mm: Annotated[Length, Field(gt=0, le=20, title="Gap between the jaws when cut")] = 3.2

    acts: ClassVar[str] = "closes round the part's profile"
    said: ClassVar[str] = "soft jaws"
    listed: ClassVar[int] = 41
    stops_said: ClassVar[tuple[str, str]] = ("fixed jaw", "fixed jaw's profile")
    setup_said: ClassVar[str] = "vises on the table, soft jaws"
    caution: ClassVar[str] = (
        "Soft jaws: cut them clamped on something that leaves the gap between them, brush out chips"
        " before each part, and see that the part sits down on the floor of the pocket. Within the"
        " vise maker's rating."
    )

    @property
    def side_mm(self) -> float | None:
        return None

    @property
    def nest(self) -> Nest:
        return Nest(self.width_mm, self.gap_mm)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        one_of(count, "vise")
        reach = clamp.height_mm
        held = stood.between(0.0, reach)
        _, low, width, high = held.bounds
        if width > self.opening_mm:
            raise OutOfRange(
                "station.element.opening_mm",
                self.opening_mm,
                f"at least the part's {width:.6g} mm across the jaws",
            )
        if high - low + 2 * _WALL_MM > self.width_mm:
            raise OutOfRange(
                "station.element.width_mm",
                self.width_mm,
                f"jaws at least {high - low + 2 * _WALL_MM:.0f} mm wide: the part is"
                f" {high - low:.6g} mm along them, and {_WALL_MM:g} mm stay beside its pocket",
            )
        middle, half = (low + high) / 2, self.width_mm / 2
        near, far = middle - half, middle + half
        back = width + self.moving_mm
        whole = box(self.nest.split_mm(held) + self.gap_mm / 2, near, back, far)
        parts = shapely.get_parts(whole.difference(self.nest.pocket(held)))
        jaw = largest(MultiPolygon([part for part in parts if isinstance(part, Polygon)]))
        end = max(self.length_mm - self.fixed_mm, back)
        bodies = [Body(jaw, 0.0, reach)]
        if self.under_mm:
            bodies.append(Body(box(-self.fixed_mm, near, end, far), -self.under_mm, 0.0))
        handle = Body(
            box(end, middle - HANDLE_MM / 2, end + HANDLE_MM, middle + HANDLE_MM / 2),
            -self.under_mm,
            reach,
        )
        return Grip((Press(width, middle, 1.0),), tuple(bodies), (handle,), ((end, middle),), reach)
