"""Lifting by hand: the recommended weight limit of the revised equation of NIOSH.

Applications Manual for the Revised NIOSH Lifting Equation, DHHS (NIOSH) Publication 94-110 (1994),
metric; constants and the worked example of the checks from memory. It holds for two hands on level
ground; whoever is responsible for safety at work has the last word.
"""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.ground.errors import OutOfRange

#: What a healthy person lifts at best, kg.
LOAD_CONSTANT_KG = 23.0
#: By lifts a minute, for up to an hour a day, hands under 75 cm or above: low rates alone.
_FREQUENCY = {0.2: 1.0, 0.5: 0.97, 1.0: 0.94, 2.0: 0.91, 3.0: 0.88, 4.0: 0.84, 5.0: 0.80}
_COUPLING = {"good": (1.0, 1.0), "fair": (0.95, 1.0), "poor": (0.90, 0.90)}
_MIDDLE_CM = 75.0


@dataclass(frozen=True)
class Lift:
    """``horizontal_cm`` from between the ankles to the hands, ``vertical_cm`` of the hands over the
    floor, ``travel_cm`` up or down, ``turn_deg`` of the body, lifts a minute, how it is held.
    """

    horizontal_cm: float = 40.0
    vertical_cm: float = 75.0
    travel_cm: float = 25.0
    turn_deg: float = 0.0
    a_minute: float = 0.2
    coupling: str = "fair"


def multipliers(lift: Lift) -> dict[str, float]:
    """Each between 0 and 1, by its usual name. Raises OutOfRange for a rate off the table.

    >>> multipliers(Lift(horizontal_cm=50))["HM"]
    0.5
    """
    rate = next((r for r in _FREQUENCY if lift.a_minute <= r + 1e-9), None)
    if rate is None:
        raise OutOfRange("lift.a_minute", lift.a_minute, f"at most {max(_FREQUENCY):g}")
    low = lift.vertical_cm < _MIDDLE_CM
    return {
        "HM": 0.0 if lift.horizontal_cm > 63 else min(1.0, 25 / max(lift.horizontal_cm, 25)),
        "VM": 0.0 if lift.vertical_cm > 175 else 1 - 0.003 * abs(lift.vertical_cm - _MIDDLE_CM),
        "DM": 0.0 if lift.travel_cm > 175 else min(1.0, 0.82 + 4.5 / max(lift.travel_cm, 25)),
        "AM": 0.0 if lift.turn_deg > 135 else 1 - 0.0032 * lift.turn_deg,
        "FM": _FREQUENCY[rate],
        "CM": _COUPLING[lift.coupling][0 if low else 1],
    }


def weight_limit_kg(lift: Lift) -> float:
    """The recommended weight limit."""
    found = LOAD_CONSTANT_KG
    for value in multipliers(lift).values():
        found *= value
    return found
