"""What gives under a force: beams and plates, asked and answered."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Force, Length

Modulus = Annotated[float, Field(gt=0, le=1e6)]


class BeamRequest(Document):
    """A tombstone or a bar: ``length_mm`` from where it is held, the force across it at ``at_mm``
    from there.

    ``wall_mm`` 0 is solid. ``joint_nmm_per_rad``: stiffness in tilt of the base joint or rotary, 0
    for a stiff one. ``tail``: the far end rests on a tail support, which lets it turn. ``shear``:
    whether the give of shearing counts.
    """

    length_mm: Annotated[Length, Field(gt=0, le=5000)]
    across_mm: Annotated[Length, Field(gt=0, le=3000)]
    wall_mm: Annotated[Length, Field(ge=0, le=1000)] = 0
    youngs_mpa: Modulus
    force_n: Annotated[Force, Field(ge=0, le=1e6)]
    at_mm: Annotated[Length, Field(ge=0, le=5000)]
    tail: bool = False
    joint_nmm_per_rad: Annotated[float, Field(ge=0, le=1e15)] = 0
    shear: bool = True


class PlateRequest(Document):
    """A plate held only by its screws, pulled at ``at_mm`` by ``force_n``: nothing under it helps.

    ``screw_n_per_mm``: stiffness of one screw with what it clamps.
    """

    width_mm: Annotated[Length, Field(gt=0, le=5000)]
    depth_mm: Annotated[Length, Field(gt=0, le=5000)]
    thickness_mm: Annotated[Length, Field(gt=0, le=500)]
    youngs_mpa: Modulus
    screws_mm: Annotated[list[tuple[float, float]], Field(min_length=3, max_length=200)]
    at_mm: tuple[float, float]
    force_n: Annotated[Force, Field(ge=0, le=1e6)]
    screw_n_per_mm: Annotated[float, Field(gt=0, le=1e12)] = 5e5


class BeamGive(BeamRequest):
    kind: Literal["beam"] = "beam"


class PlateGive(PlateRequest):
    kind: Literal["plate"] = "plate"


class GiveRequest(Document):
    """Input of ``compute give``."""

    give: Annotated[BeamGive | PlateGive, Field(discriminator="kind")]


class GiveResult(Document):
    """How far it gives where the force acts, in its direction."""

    gives_mm: float
