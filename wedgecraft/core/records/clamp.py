"""One clamp by itself: what is asked of its force, and the answer; and any of the elements, told
apart by their kind.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Force, Torque
from wedgecraft.core.records.element import ELEMENTS, Element
from wedgecraft.core.records.screw import ScrewSize

if TYPE_CHECKING:
    AnyElement = Element
else:
    AnyElement = ELEMENTS.any_of_them


class ViseForce(Document):
    """A vise: the force its maker rates it for, at the handle torque he names; in between it
    follows the torque.
    """

    kind: Literal["vise"] = "vise"
    rated_force_n: Annotated[Force, Field(gt=0, le=1e6)] = 25_000
    rated_torque_nm: Annotated[Torque, Field(gt=0, le=2000)] = 60
    torque_nm: Annotated[Torque, Field(gt=0, le=2000)] = 40
    scatter: Annotated[float, Field(ge=0, le=0.8)] = 0.15


class ScrewDriven(Document):
    """The screw of an element, as it is tightened."""

    kind: Literal["screw"] = "screw"
    screw: ScrewSize = "M8"
    torque_nm: Annotated[Torque, Field(gt=0, le=200)] = 14
    torque_scatter: Annotated[float, Field(ge=0, le=0.6)] = 0.1
    friction_low: Annotated[float, Field(ge=0.05, le=0.5)] = 0.10
    friction_high: Annotated[float, Field(ge=0.05, le=0.5)] = 0.16
    element: AnyElement = ELEMENTS["edge clamp"]()
    transmission: Annotated[float, Field(gt=0, le=3)] = 0.7
    down_angle_deg: Annotated[float, Field(ge=0, le=45)] = 8
    area_mm2: Annotated[float, Field(gt=0, le=1e8)] | None = None


class ClampRequest(Document):
    """Input of ``compute clamp``: a screw with its element, or a vise. A vacuum also needs the
    ``area_mm2`` it seals.
    """

    clamp: Annotated[ScrewDriven | ViseForce, Field(discriminator="kind")]


class ClampForces(Document):
    """``low_n`` to ``high_n`` is what each contact of the element gets; ``way`` how it acts on the
    part.

    ``screw_low_n`` and ``screw_high_n``: the screw's own force, long form; ``short_form_n``: ``T /
    (K d)`` with K = 0.2, beside it.
    """

    low_n: float
    high_n: float
    seating_n: float
    way: str
    formula: str
    screw_low_n: float | None = None
    screw_high_n: float | None = None
    short_form_n: float | None = None
