"""A strap over the part's edge."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field
from shapely.geometry import Polygon, box

from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.element import (
    ELEMENTS,
    Body,
    Element,
    Friction,
    Grip,
    InShop,
    Press,
    Size,
    Stood,
    lifts,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

#: Of a strap behind its heel.
_BEHIND_HEEL_MM = 6.0


def nose_on(stood: Stood, nose: Polygon, friction: float, name: str) -> Press:
    """What a nose presses down on the part with, where it lies on it. Raises OutOfRange where there
    is too little of the part under it.
    """
    height_mm, under = stood.top_under(nose)
    if under.area < 0.25 * nose.area:
        x0, _, x1, _ = nose.bounds
        raise OutOfRange(
            "station.element.nose_mm",
            round(x1 - x0, 6),
            "a nose that lies on the part: there is none under it there",
        )
    at = float(under.centroid.x), float(under.centroid.y)
    return Press(*at, 1.0, height_mm, (0.0, 0.0, -1.0), name, friction, under.area)


def edge_under(stood: Stood, nose_mm: float) -> tuple[float, float]:
    """Where the part's edge across from the long stop is, and how high it stands there."""
    x0, y0, x1, y1 = stood.outline.bounds
    height, _ = stood.top_under(box(x1 - nose_mm, y0, x1, y1))
    return x1, height


@ELEMENTS.register
class Strap(Element):
    """A strap over the part's edge: the screw between a heel ``to_heel_mm`` behind it and a nose
    ``to_nose_mm`` before it.

    ``nose_mm``: how far it lies on the part. It opens by sliding back. ``friction``: at the nose.
    Its force: the lever about its heel (statics, any handbook of mechanics).
    """

    kind: Literal["strap"] = "strap"
    to_heel_mm: Annotated[Size, Field(title="Screw to heel")] = 22
    to_nose_mm: Annotated[Size, Field(title="Screw to nose")] = 22
    nose_mm: Annotated[Length, Field(gt=0, le=200, title="Nose lies on the part")] = 8
    width_mm: Annotated[Size, Field(title="Strap width")] = 20
    thickness_mm: Annotated[Length, Field(gt=0, le=200, title="Strap thickness")] = 12
    friction: Annotated[Friction, Field(title="Friction at the nose")] = 0.2

    acts: ClassVar[str] = "presses down at its nose"
    formula: ClassVar[str] = "nose force = screw force x heel / (heel + nose)"
    said: ClassVar[str] = "strap"
    listed: ClassVar[int] = 3
    most: ClassVar[int] = 3
    caution: ClassVar[str] = (
        "A strap stands over the part: check every rapid against it in single block."
    )

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(
            width_mm=item.width_mm,
            friction=min(item.friction, 1.0),
            to_heel_mm=0.4 * item.length_mm,
            to_nose_mm=0.4 * item.length_mm,
        )

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        lever = self.to_heel_mm / (self.to_heel_mm + self.to_nose_mm)
        return Preload(low * lever, high * lever, low * lever)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        return (Fixing(self.said, thread=clamp.screw, clamped_mm=over_mm, stud=True),)

    def along_side_mm(self, clamp: EdgeClamp) -> float | None:
        return self.width_mm

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        width, height_mm = edge_under(stood, self.nose_mm)
        over = height_mm + self.thickness_mm
        nose = width - self.nose_mm
        screw = width - self.nose_mm / 2 + self.to_nose_mm
        heel = screw + self.to_heel_mm
        end = heel + _BEHIND_HEEL_MM
        presses, bodies, opened = [], [], []
        for k, y in enumerate(places):
            low, high = y - self.width_mm / 2, y + self.width_mm / 2
            area = box(nose, low, width, high)
            name = f"strap {k + 1}"
            presses.append(nose_on(stood, area, self.friction, name))
            bodies.append(Body(box(nose, low, end, high), height_mm, over))
            bodies.append(Body(box(heel - _BEHIND_HEEL_MM, low, end, high), 0, height_mm))
            back = box(width + 1, low, end + self.nose_mm + 1, high)
            opened.append(Body(back, height_mm, over))
        screws = tuple((screw, y) for y in places)
        return Grip(tuple(presses), tuple(bodies), tuple(opened), screws, over)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        return [
            f"The strap slides back {self.nose_mm + 1:g} mm and clears the part; that room is kept"
            " free behind it.",
            lifts(stood.height_mm),
        ]
