"""How forces share themselves out between contacts: what is asked and answered."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.contact import Contact, LoadCase, Vector
from wedgecraft.core.records.material import HOLDER_YIELD_MPA, HOLDER_YOUNGS_MPA


class ShareRequest(Document):
    """Contacts at the low end of their preload (``high`` times as much at the high end), the
    weight, and load cases.

    ``youngs_mpa`` and ``yield_mpa`` are the part's; those of stops, jaws and clamp toes beside
    them, hardened steel when not given.
    """

    contacts: Annotated[list[Contact], Field(min_length=1, max_length=200)]
    weight_n: Vector = (0, 0, 0)
    centre_of_gravity_mm: Vector = (0, 0, 0)
    loads: Annotated[list[LoadCase], Field(max_length=20_000)] = []
    high: Annotated[float, Field(ge=1, le=20)] = 1.0
    youngs_mpa: Annotated[float, Field(gt=0, le=1e6)]
    yield_mpa: Annotated[float, Field(gt=0, le=1e4)]
    holder_youngs_mpa: Annotated[float, Field(gt=0, le=1e6)] = HOLDER_YOUNGS_MPA
    holder_yield_mpa: Annotated[float, Field(gt=0, le=1e4)] = HOLDER_YIELD_MPA


class ContactShare(Document):
    """One contact. Forces in N: clamped at the low end and before any cutting; the most at the high
    end, under any cut.

    ``pressure_share``: average pressure over the yield of the softer side; from 1 on it ``marks``,
    from 2.8 on it ``sinks in``. ``slip_share``: friction used, of what the normal force allows, at
    most, at the low end; at 1 it slides. ``opens``: it loses touch under some cut.
    """

    name: str
    clamped_n: float
    most_n: float
    pressure_mpa: float
    pressure_share: float
    pressed: Literal["fine", "marks", "sinks in"]
    slip_share: float
    opens: bool


class ShareResult(Document):
    """``moves_mm``: how far the part gives at the cutter, at most, beyond where it was clamped.

    ``settled``: every case came to rest; if not, friction is used up somewhere and the part slides.
    """

    contacts: list[ContactShare]
    slips_first: str
    presses_most: str
    moves_mm: float
    moves_under: str
    settled: bool
