"""Two fixtures that run the same program with the same offsets: how nearly they must match."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.locate.scaling import largest_factor
from wedgecraft.core.locate.verdicts import Judged
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.verdicts import MustMatch

#: Searched up to this many times today's value.
_MOST = 30.0


def must_match(request: PlanRequest, found: Sequence[Judged]) -> list[MustMatch]:
    """Each by itself, with all other contributors as they are, over all features and stations;
    solved, not guessed.
    """
    accuracy, rule = request.accuracy, request.rules.tolerance_rule
    asked = [
        (
            "Stations to one another, X and Y",
            "station place",
            accuracy.station_place_mm,
            "the program's pattern serves both fixtures",
        ),
        (
            "Rests' height over the base",
            "height of plate and rests",
            accuracy.height_mm,
            "one Z zero serves both",
        ),
        (
            "Zero on its dowels, X, Y and Z",
            "datum pick-up",
            accuracy.datum_pickup_mm,
            (
                "picked up on one fixture, used for the other; one dowel offset, so that neither"
                " can go in the wrong way round"
            ),
        ),
        (
            "Stops and pins at every station",
            "locators' place",
            accuracy.locator_mm,
            "made in one go, with one cutter",
        ),
    ]
    lines = []
    for what, group, now, why in asked:
        if now <= 0:
            continue
        factor = largest_factor(found, (group,), rule, _MOST)
        lines.append(
            MustMatch(
                what=what, within_mm=None if factor >= _MOST else now * factor, now_mm=now, why=why
            )
        )
    return lines
