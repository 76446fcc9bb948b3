"""Tolerance of one position at many places of a plate, from plate, machine and shop alone: what a station may count on before
its locators and the part's own faces come in.

All contributors are plus-or-minus ranges along X and Y. A positional tolerance is a diameter, so what is used is twice the radial
deviation (ISO 1101, ASME Y14.5).
"""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import Field

from wedgecraft.core.house_rules import Rule
from wedgecraft.core.locate.document import Accuracy
from wedgecraft.core.locate.judge import ranges, used
from wedgecraft.core.locate.sources import Surroundings
from wedgecraft.core.machine import Datum, Machine
from wedgecraft.core.materials import MATERIALS, MaterialRef
from wedgecraft.core.model import Document, Number, Text
from wedgecraft.core.units import Length


class PositionTolerance(Document):
    """A position tolerance: diameter of the zone in which the feature's axis must lie, from the plate's datum."""

    feature: Text = "Bore to plate datum"
    zone_mm: Annotated[Length, Field(gt=0, le=10)]
    rule: Rule = "probable"


class ToleranceRequest(Document):
    """Input of ``compute tolerance``: feature places in plate coordinates. ``gives_mm``: how far all gives under the finishing cut."""

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
    """Verdict at one place: zone diameter used probably and at worst, the share by the house rule, contributors ranked."""

    probable_mm: float
    worst_case_mm: float
    share: float
    contributions: list[Contribution]


class ToleranceResult(Document):
    """One entry a place, in order."""

    places: list[StationTolerance]


def tolerance(request: ToleranceRequest) -> ToleranceResult:
    """Judge every place."""
    around = Surroundings(
        accuracy=request.accuracy, machine=request.machine, plate=request.plate_material, datum=(request.datum.x_mm, request.datum.y_mm)
    )  # fmt: skip
    places = np.array(request.places, dtype=float)
    stack = around.stack(np.column_stack([places, np.zeros(len(places))]), places, request.gives_mm)
    found = {name: pair for name, pair in ranges(stack, None).items() if pair.any()}
    worst, probable = used(stack, None)
    chosen = (worst if request.tolerance.rule == "worst case" else probable) / request.tolerance.zone_mm
    result = []
    for index in range(len(places)):
        told = [Contribution(name=name, x_mm=float(pair[index, 0]), y_mm=float(pair[index, 1])) for name, pair in found.items()]
        result.append(
            StationTolerance(
                probable_mm=float(probable[index]), worst_case_mm=float(worst[index]), share=float(chosen[index]),
                contributions=sorted(told, key=lambda item: -math.hypot(item.x_mm, item.y_mm)),
            )
        )  # fmt: skip
    return ToleranceResult(places=result)
