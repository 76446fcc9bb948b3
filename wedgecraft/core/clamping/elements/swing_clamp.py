"""An arm on a post beside the part: it swings over the part's edge and is drawn down."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field
from shapely.geometry import Point, box

from wedgecraft.core.clamping.elements.strap import edge_under, nose_on
from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.element import (
    ELEMENTS,
    Body,
    Element,
    Friction,
    Grip,
    InShop,
    Size,
    Stood,
    lifts,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

#: Between the part and the post.
_BESIDE_MM = 1.0


@ELEMENTS.register
class SwingClamp(Element):
    """An arm on a post beside the part: it swings over the part's edge and is drawn down.

    ``nose_mm``: how far it lies on the part. The post slides in a guide ``guide_mm`` long, and the
    arm stands out from it, so that the guide's ends are pressed sideways and rub: with ``a`` from
    the post's axis to the middle of the nose, ``R a = N guide`` and ``F = R + 2 mu N`` give the
    nose ``R = F / (1 + 2 mu a / guide)`` (statics of a sleeve loaded off its axis, any handbook of
    mechanics). Low with that friction, high without. Let go, the arm turns a quarter, along the
    part's side; all it passes over is kept free.
    """

    kind: Literal["swing clamp"] = "swing clamp"
    post_mm: Annotated[Size, Field(title="Post, diameter")] = 25
    guide_mm: Annotated[Size, Field(title="Guide of the post, length")] = 40
    guide_friction: Annotated[Friction, Field(title="Friction of the guide")] = 0.15
    nose_mm: Annotated[Length, Field(gt=0, le=200, title="Nose lies on the part")] = 8
    width_mm: Annotated[Size, Field(title="Arm width")] = 16
    thickness_mm: Annotated[Length, Field(gt=0, le=200, title="Arm thickness")] = 14
    friction: Annotated[Friction, Field(title="Friction at the nose")] = 0.2

    acts: ClassVar[str] = "presses down at its nose"
    formula: ClassVar[str] = "nose force = screw force / (1 + 2 mu arm / guide)"
    said: ClassVar[str] = "swing clamp"
    listed: ClassVar[int] = 4
    most: ClassVar[int] = 3
    caution: ClassVar[str] = (
        "A swing clamp stands over the part and turns as it closes: check every rapid against it"
        " in single block, and keep fingers from under its arm."
    )

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        return cls(post_mm=item.width_mm, guide_mm=item.length_mm, friction=min(item.friction, 1.0))

    @property
    def arm_mm(self) -> float:
        """From the post's axis to the middle of the nose."""
        return _BESIDE_MM + self.post_mm / 2 + self.nose_mm / 2

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        low, high = screw_forces_n(clamp)
        least = low / (1 + 2 * self.guide_friction * self.arm_mm / self.guide_mm)
        return Preload(least, high, least)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        return (
            Fixing("swing clamp's post", diameter_mm=self.post_mm, fit="H7"),
            Fixing(
                "swing clamp",
                unknown=f"how its guide, {self.guide_mm:g} mm long, is fixed, and where its screw"
                " pulls",
            ),
        )

    def along_side_mm(self, clamp: EdgeClamp) -> float | None:
        return max(self.width_mm, self.post_mm)

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        width, height_mm = edge_under(stood, self.nose_mm)
        over = height_mm + self.thickness_mm
        nose, post = width - self.nose_mm, width + _BESIDE_MM + self.post_mm / 2
        half = self.width_mm / 2
        reach = post - nose
        presses, bodies, opened = [], [], []
        for k, y in enumerate(places):
            area = box(nose, y - half, width, y + half)
            name = f"swing clamp {k + 1}"
            presses.append(nose_on(stood, area, self.friction, name))
            round_post = Point(post, y).buffer(self.post_mm / 2, quad_segs=8)
            bodies.append(Body(round_post, 0, over))
            bodies.append(Body(box(nose, y - half, post, y + half), height_mm, over))
            # All it passes over in a quarter turn towards the far end, risen meanwhile.
            radius = math.hypot(reach, half) / math.cos(math.pi / 32)  # chords outside the arc
            turned = Point(post, y).buffer(radius, quad_segs=8)
            room = turned.intersection(box(post - radius, y - half, post + half, y + radius))
            opened.append(Body(room, height_mm, over + clamp.opens_mm))
        screws = tuple((post, y) for y in places)
        return Grip(tuple(presses), tuple(bodies), tuple(opened), screws, over)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        return [
            f"The arm rises {clamp.opens_mm:g} mm and turns a quarter, along the part's side; that"
            " room is kept free.",
            lifts(stood.height_mm),
        ]
