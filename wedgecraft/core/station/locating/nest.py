"""A pocket that follows the outline, as cut into soft jaws."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.locating import LOCATING, LocatingScheme


@LOCATING.register
class InNest(LocatingScheme):
    """A pocket that follows the outline, as cut into soft jaws. ``clearance_mm`` in all, from wall
    to wall, less the part: 0.025 to 0.13 mm is usual, never undersize (common practice).

    ``pushed``: into one corner before tightening, so that the clearance does not count.
    """

    kind: Literal["profile nest"] = "profile nest"
    clearance_mm: Annotated[Length, Field(ge=0, le=5, title="Clearance in all")] = 0.05
    pushed: Annotated[bool, Field(title="Pushed into one corner")] = True

    label: ClassVar[str] = "A pocket that follows the outline"
    listed: ClassVar[int] = 50
    said: ClassVar[str] = "in a profile nest"
    all_along: ClassVar[bool] = True

    @property
    def play_mm(self) -> float:
        return 0.0 if self.pushed else self.clearance_mm

    @property
    def takes_up_play(self) -> tuple[str, str] | None:
        if self.pushed:
            return None
        return "Push each part into one corner before tightening", "pushed"
