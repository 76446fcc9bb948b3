"""Limits and fits by ISO 286: pins, holes and pockets of the classes a fixture uses, 0 to 500 mm.

Standard tolerances (ISO 286-1, table 1) and fundamental deviations of shafts (table 2) are the
standard's, from memory; those of holes follow by its rule: mirrored, and for K, M, N up to IT8 and
P up to IT7 raised by the step between grades.
"""

from __future__ import annotations

from bisect import bisect_left
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length

#: Upper ends of the ranges of nominal sizes, mm.
_UP_TO = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
#: Standard tolerances of each grade over those ranges, micrometres.
_GRADES = {
    4: (3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20),
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
}
#: Fundamental deviations of shafts: the upper limit below the nominal size, micrometres.
_BELOW = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
#: The lower limit above it.
_ABOVE = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
SHAFTS = (
    "d9",
    "e8",
    "f6",
    "f7",
    "g5",
    "g6",
    "h5",
    "h6",
    "h7",
    "h8",
    "h9",
    "h11",
    "js5",
    "js6",
    "k5",
    "k6",
    "m5",
    "m6",
    "n5",
    "n6",
    "p6",
)
HOLES = (
    "E8",
    "F7",
    "F8",
    "G6",
    "G7",
    "H6",
    "H7",
    "H8",
    "H9",
    "H10",
    "H11",
    "JS6",
    "JS7",
    "K6",
    "K7",
    "M6",
    "M7",
    "N6",
    "N7",
    "P6",
    "P7",
)

Nominal = Annotated[Length, Field(gt=0, le=500)]


class FitRequest(Document):
    """Input of ``compute fit``: a nominal size, the class of the hole and that of the pin, as
    ``H7`` and ``g6``.
    """

    nominal_mm: Nominal
    hole: str
    pin: str


class FitResult(Document):
    """Limits of hole and pin, and the clearance between them, negative where they press; all mm."""

    hole_low_mm: float
    hole_high_mm: float
    pin_low_mm: float
    pin_high_mm: float
    least_clearance_mm: float
    most_clearance_mm: float
    kind: Literal["clearance", "transition", "interference"]


def fit(request: FitRequest) -> FitResult:
    """Judge a fit. Raises OutOfRange for a class that is not offered.

    >>> found = fit(FitRequest(nominal_mm=8, hole="H7", pin="g6"))
    >>> found.hole_high_mm, found.pin_low_mm, round(found.most_clearance_mm, 3), found.kind
    (8.015, 7.986, 0.029, 'clearance')
    """
    if not request.hole[:1].isupper() or not request.pin[:1].islower():
        raise OutOfRange(
            "hole" if not request.hole[:1].isupper() else "pin",
            f"{request.hole}/{request.pin}",
            "as H7 and g6",
        )
    hole, pin = (
        limits_mm(request.nominal_mm, request.hole),
        limits_mm(request.nominal_mm, request.pin),
    )
    least, most = hole[0] - pin[1], hole[1] - pin[0]
    size = request.nominal_mm
    return FitResult(
        hole_low_mm=size + hole[0],
        hole_high_mm=size + hole[1],
        pin_low_mm=size + pin[0],
        pin_high_mm=size + pin[1],
        least_clearance_mm=least,
        most_clearance_mm=most,
        kind="clearance" if least >= 0 else "interference" if most <= 0 else "transition",
    )


def limits_mm(nominal_mm: float, name: str) -> tuple[float, float]:
    """Lower and upper deviation of a class from the nominal size, mm. Raises OutOfRange."""
    if name not in SHAFTS + HOLES:
        raise OutOfRange(
            "class", name, f"one of {', '.join(HOLES)} for a hole, {', '.join(SHAFTS)} for a pin"
        )
    if not 0 < nominal_mm <= _UP_TO[-1]:
        raise OutOfRange("nominal_mm", nominal_mm, f"more than 0 and at most {_UP_TO[-1]} mm")
    letter, grade = (
        name.rstrip("0123456789"),
        int(name.lstrip("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz")),
    )
    index = bisect_left(_UP_TO, nominal_mm)
    width, small = _GRADES[grade][index], letter.lower()
    if small == "js":
        low, high = -width / 2, width / 2
    elif letter in _BELOW:
        low, high = -_BELOW[letter][index] - width, -_BELOW[letter][index]
    elif letter in _ABOVE:
        low, high = _ABOVE[letter][index], _ABOVE[letter][index] + width
    elif small in _BELOW:
        low, high = _BELOW[small][index], _BELOW[small][index] + width
    else:
        # The step between grades; up to 3 mm there is none.
        step = width - _GRADES[grade - 1][index] if index else 0
        high = -_ABOVE[small][index] + step
        if (small, grade, _UP_TO[index]) == ("m", 6, 315):
            high = -9.0  # the standard's own exception
        low = high - width
    return low / 1000, high / 1000
