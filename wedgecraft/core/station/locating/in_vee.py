"""A round in an upright V that opens towards the clamp."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field
from shapely.geometry import Polygon

from wedgecraft.core.records.locating import LOCATING, LocatingScheme
from wedgecraft.core.station.vee import Vee, in_vee, middle_shift_mm


@LOCATING.register
class InVee(LocatingScheme):
    """A round in an upright V that opens towards the clamp; ``angle_deg`` between its flanks."""

    kind: Literal["V"] = "V"
    angle_deg: Annotated[float, Field(ge=45, le=150, title="Angle between the flanks, °")] = 90

    label: ClassVar[str] = "A V, for rounds"
    listed: ClassVar[int] = 40
    said: ClassVar[str] = "in a V"
    on_faces: ClassVar[bool] = False

    def vee(self, outline: Polygon, length_mm: float, behind_mm: float) -> Vee:
        return in_vee(outline, self.angle_deg, length_mm, behind_mm)

    def shift_mm(self, size_mm: float) -> float:
        return middle_shift_mm(size_mm, self.angle_deg)
