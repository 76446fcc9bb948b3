"""Quantities as people write them, turned into the units of the documents.

``parse("length", "1 1/4\"")`` gives 31.75. A bare number is in the document's own unit; a unit that
does not belong to the kind of quantity is refused, never guessed. Factors are exact by definition
(inch 25.4 mm; pound-force 4.4482216152605 N; horsepower 550 foot-pounds a second; NIST SP 811,
appendix B).
"""

from __future__ import annotations

import math
import re
from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field

Kind = Literal[
    "length",
    "torque",
    "force",
    "mass",
    "temperature_difference",
    "pressure",
    "vacuum",
    "power",
    "rate",
]

#: Standard gravity: third General Conference on Weights and Measures, 1901.
GRAVITY_M_S2 = 9.80665
_INCH = 25.4
_POUND_FORCE = 4.4482216152605
_PSI_MPA = _POUND_FORCE / _INCH**2

#: For each kind, factors to the document's unit; the first is that unit.
UNITS: dict[Kind, dict[str, float]] = {
    "length": {
        "mm": 1,
        "um": 1e-3,
        "µm": 1e-3,
        "cm": 10,
        "m": 1000,
        "in": _INCH,
        '"': _INCH,
        "inch": _INCH,
        "thou": _INCH / 1000,
    },
    "torque": {
        "Nm": 1,
        "Nmm": 1e-3,
        "inlb": _POUND_FORCE * _INCH / 1000,
        "inlbf": _POUND_FORCE * _INCH / 1000,
        "ftlb": _POUND_FORCE * _INCH * 12 / 1000,
        "ftlbf": _POUND_FORCE * _INCH * 12 / 1000,
    },
    "force": {"N": 1, "kN": 1000, "lbf": _POUND_FORCE, "lb": _POUND_FORCE},
    "mass": {"kg": 1, "g": 1e-3, "lb": 0.45359237},
    "temperature_difference": {"K": 1, "C": 1, "F": 5 / 9},
    "pressure": {
        "MPa": 1,
        "kPa": 1e-3,
        "GPa": 1000,
        "bar": 0.1,
        "N/mm²": 1,
        "psi": _PSI_MPA,
        "ksi": 1000 * _PSI_MPA,
    },
    "vacuum": {"kPa": 1, "mbar": 0.1, "bar": 100, "psi": 1000 * _PSI_MPA},
    "power": {"kW": 1, "W": 1e-3, "hp": 0.55 * 0.3048 * _POUND_FORCE},
    "rate": {"m/min": 1, "mm/min": 1e-3, "ft/min": 0.3048, "in/min": _INCH / 1000},
}

_NUMBER = re.compile(
    r"""^\s*(?P<sign>[-+]?)\s*(?:
        (?:(?P<whole>\d+)[\s-]+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)
        |(?P<decimal>(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)
    )\s*(?P<unit>[^\d\s][^\d]*)?\s*$""",
    re.VERBOSE,
)


def parse(kind: Kind, text: object) -> float:
    """Give the quantity in the document's unit.

    ``text`` is a number (already in that unit) or a string such as ``"2.5in"``, ``"0,5 mm"``, ``"90
    in·lb"``. Raises ValueError with what would work.
    """
    if isinstance(text, bool) or not isinstance(text, (int, float, str)):
        raise ValueError(
            f"a {kind.replace('_', ' ')} is a number, or text such as {_example(kind)}"
        )
    if not isinstance(text, str):
        return float(text)
    match = _NUMBER.match(text.replace(",", ".", 1) if "." not in text else text)
    if match is None:
        raise ValueError(
            f"“{text}” is not a {kind.replace('_', ' ')}; write for example {_example(kind)}"
        )
    value = _number(match, text)
    unit = re.sub(r"[\s·.\-*°]", "", match["unit"] or "")
    if not unit:
        return value
    for name, factor in UNITS[kind].items():
        if unit == name or unit.lower() == name.lower():
            return float(f"{value * factor:.14g}")  # 15 3/4 in is 400.05 mm, not a hair less
    known = ", ".join(UNITS[kind])
    raise ValueError(f"“{unit}” is not a unit of {kind.replace('_', ' ')}; known are {known}")


def _number(match: re.Match[str], text: str) -> float:
    if match["decimal"] is not None:
        value = float(match["decimal"])
    else:
        if int(match["bottom"]) == 0:
            raise ValueError(f"“{text}” divides by zero")
        value = int(match["whole"] or 0) + int(match["top"]) / int(match["bottom"])
    if not math.isfinite(value):
        raise ValueError(f"“{text}” is too large")
    return -value if match["sign"] == "-" else value


def _example(kind: Kind) -> str:
    return {
        "length": '63.5, 2.5in, 1 1/4" or 20 thou',
        "torque": "14, 14 N·m or 124 in·lb",
        "force": "1200 N or 270 lbf",
        "mass": "12.5 or 28 lb",
        "temperature_difference": "3 K or 5 °F",
        "pressure": "250, 250 MPa or 36 ksi",
        "vacuum": "65, 65 kPa or 9.4 psi",
        "power": "15, 15 kW or 20 hp",
        "rate": "24, 24 m/min or 945 in/min",
    }[kind]


def _before(kind: Kind) -> BeforeValidator:
    return BeforeValidator(lambda value: parse(kind, value), json_schema_input_type=float | str)


def _quantity(kind: Kind, unit: str, **limits: Any) -> Any:
    return Field(allow_inf_nan=False, json_schema_extra={"quantity": kind, "unit": unit}, **limits)


#: Annotated number types for documents; add ``Field(gt=…, le=…)`` limits where they are used.
Length = Annotated[float, _before("length"), _quantity("length", "mm")]
Torque = Annotated[float, _before("torque"), _quantity("torque", "N·m")]
Force = Annotated[float, _before("force"), _quantity("force", "N")]
Mass = Annotated[float, _before("mass"), _quantity("mass", "kg")]
Pressure = Annotated[float, _before("pressure"), _quantity("pressure", "MPa")]
Vacuum = Annotated[float, _before("vacuum"), _quantity("vacuum", "kPa")]
Power = Annotated[float, _before("power"), _quantity("power", "kW")]
Rate = Annotated[float, _before("rate"), _quantity("rate", "m/min")]
TemperatureDifference = Annotated[
    float, _before("temperature_difference"), _quantity("temperature_difference", "K")
]

#: A length that may be negative: a place, not a size.
Place = Annotated[float, _before("length"), _quantity("length", "mm", ge=-1e6, le=1e6)]


def parse_places(given: object) -> object:
    """Places written as text, ``"12, 20; 40, 20"``: one X and one Y each, with a unit behind one,
    all or none of them.

    Anything but text is given back for the validation to look at. Raises ValueError with what would
    work.
    """
    if not isinstance(given, str):
        return given
    text = given.strip()
    if not text:
        return []
    unit = re.search(r"([a-zA-Zµ\"]+)\s*$", text)
    found = []
    for pair in re.split(r"[;\n]", text):
        if not pair.strip():
            continue
        numbers = [part for part in re.split(r"[,\t]|\s+(?=[-+.\d])", pair.strip()) if part.strip()]
        if len(numbers) != 2:
            raise ValueError(
                f"“{pair.strip()[:40]}” is not a place; write X and Y, such as 12, 20; 40, 20"
            )
        behind = f" {unit[1]}" if unit else ""
        found.append(
            tuple(
                parse("length", part if re.search(r"[a-zA-Zµ\"]", part) else part + behind)
                for part in numbers
            )
        )
    return found
