"""Clamp elements as a person sets them: what turns the force of a screw into force on the part."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Force, Length, Torque
from wedgecraft.core.records.screw import ScrewSize

Size = Annotated[Length, Field(gt=0, le=500)]
Friction = Annotated[float, Field(ge=0.02, le=1)]


class EdgeToe(Document):
    """The toe of the edge clamp itself, pushing from the side and slightly down."""

    kind: Literal["edge clamp"] = "edge clamp"


#: Of teeth that bite into raw stock or a face cut off later; from memory, the middle of what is
#: told (0.35 to 0.6).
TOOTHED_FRICTION = 0.45


class ToothedToe(Document):
    """An edge clamp's toe with teeth that bite ``bite_mm`` into raw or soft faces: holds better,
    and always leaves marks.
    """

    kind: Literal["toothed insert"] = "toothed insert"
    friction: Friction = TOOTHED_FRICTION
    bite_mm: Annotated[Length, Field(gt=0, le=3)] = 0.3


class Strap(Document):
    """A strap over the part's edge: the screw between a heel ``to_heel_mm`` behind it and a nose
    ``to_nose_mm`` before it.

    ``nose_mm``: how far it lies on the part. It opens by sliding back. ``friction``: at the nose.
    """

    kind: Literal["strap"] = "strap"
    to_heel_mm: Size = 22
    to_nose_mm: Size = 22
    nose_mm: Annotated[Length, Field(gt=0, le=200)] = 8
    width_mm: Size = 20
    thickness_mm: Annotated[Length, Field(gt=0, le=200)] = 12
    friction: Friction = 0.2


class ExpandingPin(Document):
    """A sleeve that a cone spreads in a round hole of the part, ``least_mm`` to ``most_mm`` across,
    ``grip_mm`` of it high.

    ``cone_angle_deg``: of the cone's flank against its axis. It locates the part too, so that there
    are no stops.
    """

    kind: Literal["expanding pin"] = "expanding pin"
    least_mm: Size = 11.7
    most_mm: Size = 12.6
    grip_mm: Size = 10
    cone_angle_deg: Annotated[float, Field(ge=3, le=45)] = 10
    cone_friction_low: Friction = 0.08
    cone_friction_high: Friction = 0.14
    friction: Friction = 0.15


class Dovetail(Document):
    """Flanks that lean over a dovetail cut under the part: the moving one is pushed sideways and so
    presses in and down.

    ``flank_deg``: between flank and plate. ``depth_mm``: how high the dovetail is. The long stop is
    the fixed flank.
    """

    kind: Literal["dovetail"] = "dovetail"
    flank_deg: Annotated[float, Field(ge=30, le=85)] = 60
    depth_mm: Annotated[Length, Field(gt=0, le=100)] = 4
    friction: Friction = 0.2


class PullStud(Document):
    """Studs screwed into the part's underside, drawn down onto a seat ``seat_mm`` across.
    ``ratio``: pull per screw force.

    What pulls it down is borne by the plate, whose friction counts; the seat's rim only keeps it
    from going sideways.
    """

    kind: Literal["pull stud"] = "pull stud"
    ratio: Annotated[float, Field(gt=0, le=5)] = 1.2
    seat_mm: Size = 20
    capacity_n: Annotated[Force, Field(gt=0, le=1e6)] = 10_000


class Rod(Document):
    """A threaded rod with nut and washer through a round hole of the part, ``washer_mm`` across and
    ``nut_mm`` high with it.
    """

    kind: Literal["threaded rod"] = "threaded rod"
    washer_mm: Size = 24
    nut_mm: Size = 14
    friction: Friction = 0.15


class Vacuum(Document):
    """The air's weight on what a seal encloses: ``border_mm`` inside the outline, over
    ``sealed_share`` of that area.

    ``low_kpa`` is what the gauge must show before cutting, ``high_kpa`` the pump's best. A leak
    lets everything go at once.
    """

    kind: Literal["vacuum"] = "vacuum"
    low_kpa: Annotated[float, Field(gt=0, le=101)] = 65
    high_kpa: Annotated[float, Field(gt=0, le=101)] = 85
    border_mm: Annotated[Length, Field(ge=0, le=200)] = 5
    sealed_share: Annotated[float, Field(gt=0, le=1)] = 0.85


Element = Annotated[
    EdgeToe | ToothedToe | Strap | ExpandingPin | Dovetail | PullStud | Rod | Vacuum,
    Field(discriminator="kind"),
]
ElementKind = Literal[
    "edge clamp",
    "toothed insert",
    "strap",
    "expanding pin",
    "dovetail",
    "pull stud",
    "threaded rod",
    "vacuum",
]


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
    element: Element = EdgeToe()
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
