"""Tolerance: how far a station's feature may stray from where the drawing wants it (engine: locate and tolerance, first part).

All stations share one datum on the plate. Contributors are plus-or-minus ranges along X and Y at the same confidence:
station place, datum pick-up, machine positioning, thermal growth over the distance from the datum, and what gives under the cut.
A positional tolerance is a diameter, so the deviation used is twice the radial one (ISO 1101, ASME Y14.5). Worst case adds the
ranges; probable is their root of the sum of squares, the usual rule for independent contributors.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from shapely.geometry import Polygon

from wedgecraft.core.machine import Datum, Machine
from wedgecraft.core.materials import MATERIALS, Material, MaterialRef
from wedgecraft.core.model import Document, Number, Text
from wedgecraft.core.units import Length, TemperatureDifference

Array = NDArray[np.float64]
Rule = Literal["probable", "worst case"]


class PositionTolerance(Document):
    """A position tolerance: diameter of the zone in which the feature's axis must lie, from the plate's datum."""

    feature: Text = "Bore to plate datum"
    zone_mm: Annotated[Length, Field(gt=0, le=10)]
    rule: Rule = "probable"


class Accuracy(Document):
    """What this fixture and this shop add, each as plus-or-minus."""

    station_place_mm: Annotated[Length, Field(ge=0, le=1)] = 0.008
    datum_pickup_mm: Annotated[Length, Field(ge=0, le=1)] = 0.005
    temperature_k: Annotated[TemperatureDifference, Field(ge=0, le=40)] = 2.0


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
    budget = Budget(request)
    places = np.array(request.places, dtype=float)
    ranges = budget.ranges(places)
    probable, worst = budget.used(places)
    shares = budget.share(places)
    result = []
    for index in range(len(places)):
        contributions = [
            Contribution(name=name, x_mm=float(pair[index, 0]), y_mm=float(pair[index, 1])) for name, pair in ranges.items()
        ]
        contributions.sort(key=lambda item: -math.hypot(item.x_mm, item.y_mm))
        result.append(
            StationTolerance(
                probable_mm=float(probable[index]),
                worst_case_mm=float(worst[index]),
                share=float(shares[index]),
                contributions=contributions,
            )
        )
    return ToleranceResult(places=result)


def growth_per_mm(plate: Material, machine: Machine, accuracy: Accuracy) -> float:
    """How much a millimetre of plate grows away from the machine's scales, plus or minus."""
    return abs(plate.expansion_per_k - machine.scale_expansion_per_k) * accuracy.temperature_k


class Budget:
    """The contributors as functions of place; arrays of places have shape (n, 2), in plate coordinates, mm."""

    def __init__(self, request: ToleranceRequest) -> None:
        self._request = request
        self._datum = np.array([request.datum.x_mm, request.datum.y_mm])
        self.growth_per_mm = growth_per_mm(request.plate_material, request.machine, request.accuracy)

    def ranges(self, places: Array) -> dict[str, Array]:
        """Plus-or-minus range of each contributor along each axis, shape (n, 2)."""
        request, accuracy, machine = self._request, self._request.accuracy, self._request.machine
        distance = np.abs(places - self._datum)
        found = {
            "station place": np.full_like(distance, accuracy.station_place_mm),
            "datum pick-up": np.full_like(distance, accuracy.datum_pickup_mm),
            "machine positioning": machine.positioning_mm + machine.positioning_per_m_mm * distance / 1000,
            f"temperature, ±{request.accuracy.temperature_k:g} K": self.growth_per_mm * distance,
        }
        if request.gives_mm:
            found["give under the cut"] = np.full_like(distance, request.gives_mm)
        return found

    def used(self, places: Array) -> tuple[Array, Array]:
        """Zone diameters used, (probable, worst case), shape (n,) each."""
        stack = np.stack(list(self.ranges(places).values()))
        probable = 2 * np.linalg.norm(np.sqrt((stack**2).sum(axis=0)), axis=1)
        worst = 2 * np.linalg.norm(stack.sum(axis=0), axis=1)
        return probable, worst

    def share(self, places: Array) -> Array:
        """Share of the tolerance used by the house rule."""
        probable, worst = self.used(places)
        chosen: Array = worst if self._request.tolerance.rule == "worst case" else probable
        return chosen / self._request.tolerance.zone_mm

    def allowed_region(self, reach_mm: float) -> Polygon:
        """Where a feature stays in tolerance, within ``reach_mm`` of the datum: a convex polygon inscribed in the true region.

        Empty when not even the datum itself is in tolerance. The deviation grows along every ray from the datum and is convex,
        so chords between points on the border stay inside.
        """
        if self.share(self._datum[None, :])[0] > 1:
            return Polygon()
        angles = np.linspace(0, 2 * math.pi, 96, endpoint=False)
        rays = np.stack([np.cos(angles), np.sin(angles)], axis=1)
        low, high = np.zeros(len(angles)), np.full(len(angles), reach_mm)
        for _ in range(60):
            middle = (low + high) / 2
            inside = self.share(self._datum + rays * middle[:, None]) <= 1
            low, high = np.where(inside, middle, low), np.where(inside, high, middle)
        return Polygon(self._datum + rays * low[:, None])
