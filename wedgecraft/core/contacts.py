"""Contacts between a part and what holds it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.model import Document, Text

Vector = tuple[float, float, float]
Mode = Literal["slides", "lifts", "tips", "turns", "does not move"]


class Contact(Document):
    """A point where something touches the part.

    ``point_mm`` in the part's frame (z up from the plate), ``normal`` the direction in which it pushes on the part. A
    ``locator`` only pushes back, up to ``capacity_n``; a ``clamp`` pushes with its known ``preload_n``. Friction is Coulomb's.
    """

    name: Text
    kind: Literal["locator", "clamp"]
    point_mm: Vector
    normal: Vector
    friction: Annotated[float, Field(ge=0, le=2)]
    preload_n: Annotated[float, Field(ge=0, le=1e6)] = 0
    capacity_n: Annotated[float, Field(gt=0, le=1e7)] | None = None
    area_mm2: Annotated[float, Field(gt=0, le=1e7)] = 50


class LoadCase(Document):
    """One force of the cutter on the part, acting at a point, with a twist (free moment) where the cut has one."""

    name: Text
    point_mm: Vector
    force_n: Vector
    moment_nmm: Vector = (0, 0, 0)


class HoldRequest(Document):
    """Input of ``compute hold``: contacts, the part's weight as a force at its centre of gravity, and load cases."""

    contacts: Annotated[list[Contact], Field(min_length=1, max_length=200)]
    weight_n: Vector = (0, 0, 0)
    centre_of_gravity_mm: Vector = (0, 0, 0)
    loads: Annotated[list[LoadCase], Field(min_length=1, max_length=20_000)]


class CaseResult(Document):
    """Factor of one load case: the cutting force may grow by ``factor`` before no equilibrium exists. Capped at 1000."""

    name: Text
    factor: float


class HoldResult(Document):
    """``factor`` is the lowest of all cases, reached in ``load``; ``mode`` says how the part would start to move in that case.

    ``motion``: velocity of the centre of gravity and rotation (per mm), scaled so that the worst cutting force does unit work.
    """

    factor: float
    load: LoadCase
    mode: Mode
    motion: tuple[float, float, float, float, float, float]
    sentence: str
    cases: list[CaseResult]
