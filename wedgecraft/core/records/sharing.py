"""How several parts share one clamp."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length

How = Literal["a clamp each", "double wedge between two", "one clamp for two", "row between jaws"]

#: As the planner may try them, beside the kinds of element: parts that share edge clamps.
SHARED = ("double wedge", "one clamp for two", "row between jaws")


class Sharing(Document):
    """``how`` parts share the clamp, and what that takes.

    ``row``: parts between the jaws; ``against_neighbour``: each stands against the one before it
    instead of a stop of its own. ``jaw_mm``: thickness of the moving jaw, a loose bar that the
    clamp pushes. ``wedge_angle_deg``: of each flank of the double wedge against the screw.
    ``part_stiffness_n_mm``: how hard a part between the jaws is to squeeze.
    """

    how: How = "a clamp each"
    row: Annotated[int, Field(ge=2, le=12)] = 3
    against_neighbour: bool = False
    jaw_mm: Annotated[Length, Field(gt=0, le=200)] = 12
    wedge_angle_deg: Annotated[float, Field(ge=3, le=60)] = 15
    wedge_friction_low: Annotated[float, Field(ge=0.02, le=0.5)] = 0.10
    wedge_friction_high: Annotated[float, Field(ge=0.02, le=0.5)] = 0.16
    part_stiffness_n_mm: Annotated[float, Field(gt=0, le=1e9)] = 2e5
    tilt_stiffness_nmm: Annotated[float, Field(ge=0, le=1e15)] = 0

    @property
    def parts(self) -> int:
        """How many parts stand in one station."""
        return {"a clamp each": 1, "row between jaws": self.row}.get(self.how, 2)


@dataclass(frozen=True)
class Blanks:
    """How much the parts differ over the jaws, ``spread_mm`` as standard deviation or half range;
    and what the house makes of it.
    """

    spread_mm: float = 0.0
    uniform: bool = True
    rule: Literal["strict", "computed", "off"] = "computed"
    source: str = ""
