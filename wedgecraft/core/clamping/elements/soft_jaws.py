"""Soft jaws of a vise: the part's own profile is cut into both."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.clamping.elements.jaws import Jaws
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.element import ELEMENTS, Grip, Nest, Stood
from wedgecraft.core.records.screw import EdgeClamp


@ELEMENTS.register
class SoftJaws(Jaws):
    """As of a vise, the profile of what stands between them cut into both; ``gap_mm`` between them
    when they are cut: an eighth of an inch is usual (common practice, no source).
    """

    kind: Literal["soft jaws"] = "soft jaws"  # type: ignore[assignment]
    gap_mm: Annotated[Length, Field(gt=0, le=20, title="Gap between the jaws when cut")] = 3.2
    posts: Annotated[bool, Field(title="Posts in the part's openings")] = False

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

    def stands_on(self, floor: Polygon, through: BaseGeometry) -> BaseGeometry:
        """The floor of the pocket, but for the gap; a drill may go into it. A foot no wider than
        the gap stands on a parallel in it.
        """
        x0, y0, x1, y1 = floor.bounds
        split, half = self.nest.split_mm(floor), self.gap_mm / 2
        sides = box(x0, y0, split - half, y1).union(box(split + half, y0, x1, y1))
        return sides if sides.intersection(floor).area > 0 else box(x0, y0, x1, y1)

    @property
    def nest(self) -> Nest:
        return Nest(self.width_mm, self.gap_mm, posts=self.posts)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        """As of hard jaws, before their pockets are cut."""
        held, wall = stood.between(0.0, clamp.height_mm), self.nest.wall_mm
        along = float(held.bounds[3] - held.bounds[1])
        if along + 2 * wall > self.width_mm:
            raise OutOfRange(
                "station.element.width_mm",
                self.width_mm,
                f"jaws at least {along + 2 * wall:.0f} mm wide: the part is {along:.6g} mm along"
                f" them, and {wall:g} mm stay beside its pocket",
            )
        return super().grip(stood, clamp, count, places)
