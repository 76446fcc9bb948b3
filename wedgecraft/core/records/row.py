"""A row of parts between one pair of jaws: what is asked, and what each part gets."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Force, Length, Place


class RowRequest(Document):
    """Parts at ``places_mm`` along the jaw, all of one stiffness, with blanks that vary; the screw
    at ``screw_mm`` pushes with ``force_n``.

    ``spread_mm``: standard deviation of a blank, or half the range when ``uniform``. ``needed_n``:
    what every part must get.
    """

    places_mm: Annotated[list[Place], Field(min_length=1, max_length=40)]
    force_n: Annotated[Force, Field(gt=0, le=1e7)]
    screw_mm: Place
    stiffness_n_mm: Annotated[float, Field(gt=0, le=1e9)] = 2e5
    tilt_stiffness_nmm: Annotated[float, Field(ge=0, le=1e15)] = 0
    spread_mm: Annotated[Length, Field(ge=0, le=50)]
    distribution: Literal["uniform", "normal"] = "uniform"
    needed_n: Annotated[float, Field(ge=0, le=1e7)] = 0
    clampings: Annotated[int, Field(ge=100, le=1_000_000)] = 10_000

    @model_validator(mode="after")
    def _between(self) -> RowRequest:
        if not min(self.places_mm) <= self.screw_mm <= max(self.places_mm):
            raise ValueError(
                "the screw must push between the outermost parts, or the jaw swings away from"
                " one end"
            )
        return self


class PartShare(Document):
    """One part's force over all clampings: the mean, and what it gets in one clamping of a hundred
    at least and at most, N.
    """

    place_mm: float
    mean_n: float
    low_n: float
    high_n: float


class RowResult(Document):
    """``least_n``: what the least-held part of a row gets in all but one clamping of a hundred;
    chances are shares of clampings.
    """

    parts: list[PartShare]
    least_n: float
    chance_loose: float
    chance_short: float
