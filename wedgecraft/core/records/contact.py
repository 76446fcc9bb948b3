"""Contacts between a part and what holds it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text

Vector = tuple[float, float, float]


class Contact(Document):
    """A point where something touches the part.

    ``point_mm`` in the part's frame (z up from the plate), ``normal`` the direction in which it
    pushes on the part. A ``locator`` only pushes back, up to ``capacity_n``; a ``clamp`` pushes
    with its known ``preload_n``. Friction is Coulomb's.
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
    """One force of the cutter on the part, acting at a point, with a twist (free moment) where the
    cut has one.
    """

    name: Text
    point_mm: Vector
    force_n: Vector
    moment_nmm: Vector = (0, 0, 0)
