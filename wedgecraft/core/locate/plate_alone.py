"""Tolerance of one position at many places of a plate, from plate, machine and shop alone: what a
station may count on before its locators and the part's own faces come in.

All contributors are plus-or-minus ranges along X and Y. A positional tolerance is a diameter, so
what is used is twice the radial deviation (ISO 1101, ASME Y14.5).
"""

from __future__ import annotations

import math

import numpy as np

from wedgecraft.core.locate.judge import ranges, used
from wedgecraft.core.locate.sources import Surroundings
from wedgecraft.core.records.tolerance import (
    Contribution,
    StationTolerance,
    ToleranceRequest,
    ToleranceResult,
)


def tolerance(request: ToleranceRequest) -> ToleranceResult:
    """Judge every place.

    Near the datum a zone of 0.06 is half used; across the plate warmth takes more.

    >>> from wedgecraft.core.shop.picks import named
    >>> machine = named("machine", "Vertical, 760 x 460 mm travel")
    >>> asked = ToleranceRequest(tolerance={"zone_mm": 0.06}, machine=machine,
    ...                          places=[(50, 50), (350, 300)])
    >>> [round(place.share, 2) for place in tolerance(asked).places]
    [0.5, 0.72]
    """
    around = Surroundings(
        accuracy=request.accuracy,
        machine=request.machine,
        plate=request.plate_material,
        datum=(request.datum.x_mm, request.datum.y_mm),
    )
    places = np.array(request.places, dtype=float)
    stack = around.stack(np.column_stack([places, np.zeros(len(places))]), places, request.gives_mm)
    found = {name: pair for name, pair in ranges(stack, None).items() if pair.any()}
    worst, probable = used(stack, None)
    chosen = (
        worst if request.tolerance.rule == "worst case" else probable
    ) / request.tolerance.zone_mm
    result = []
    for index in range(len(places)):
        told = [
            Contribution(name=name, x_mm=float(pair[index, 0]), y_mm=float(pair[index, 1]))
            for name, pair in found.items()
        ]
        result.append(
            StationTolerance(
                probable_mm=float(probable[index]),
                worst_case_mm=float(worst[index]),
                share=float(chosen[index]),
                contributions=sorted(told, key=lambda item: -math.hypot(item.x_mm, item.y_mm)),
            )
        )
    return ToleranceResult(places=result)
