"""Tolerance of a plate alone: what is asked and answered."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Number, Text
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.locating import Accuracy
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS, MaterialRef
from wedgecraft.core.records.plate import Datum
from wedgecraft.core.records.rules import Rule


class PositionTolerance(Document):
    """A position tolerance: diameter of the zone in which the feature's axis must lie, from the
    plate's datum.
    """

    feature: Text = "Bore to plate datum"
    zone_mm: Annotated[Length, Field(gt=0, le=10)]
    rule: Rule = "probable"


class ToleranceRequest(Document):
    """Input of ``compute tolerance``: feature places in plate coordinates. ``gives_mm``: how far
    all gives under the finishing cut.
    """

    tolerance: PositionTolerance
    accuracy: Accuracy = Accuracy()
    machine: Machine
    plate_material: MaterialRef = MATERIALS["aluminium-6061"]
    datum: Datum = Datum()
    gives_mm: Annotated[Length, Field(ge=0, le=100)] = 0
    places: Annotated[list[tuple[Number, Number]], Field(min_length=1, max_length=100_000)]


class Contribution(Document):
    """One contributor at one place: plus-or-minus along each axis."""

    name: Text
    x_mm: float
    y_mm: float


class StationTolerance(Document):
    """Verdict at one place: zone diameter used probably and at worst, the share by the house rule,
    contributors ranked.
    """

    probable_mm: float
    worst_case_mm: float
    share: float
    contributions: list[Contribution]


class ToleranceResult(Document):
    """One entry a place, in order."""

    places: list[StationTolerance]
