"""Locating on two pins: which holes, how much play, how far the part can turn, and whether it goes
on at all.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.fits import FitRequest, FitResult, fit
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.workpiece.holes import RoundHole, round_holes

#: Directions in which a round pin is looked at.
_SIDES = 8


class Pins(Protocol):
    """Which holes pins are for, and of what classes both are (ISO 286)."""

    @property
    def kind(self) -> str: ...
    @property
    def least_mm(self) -> float: ...
    @property
    def most_mm(self) -> float: ...
    @property
    def hole(self) -> str: ...
    @property
    def pin(self) -> str: ...
    @property
    def apart_mm(self) -> float: ...


@dataclass(frozen=True)
class Pinned:
    """The holes that the round pin and the second pin are in, their fits, and the way across the
    line between them. ``both_round``: the second is no diamond.
    """

    round: RoundHole
    second: RoundHole
    fits: tuple[FitResult, FitResult]
    across: tuple[float, float]
    apart_mm: float
    both_round: bool = False

    @property
    def tilt_rad(self) -> float:
        """How far the part can turn from the middle, each way: half the play at both ends, opposite
        ways, over their distance.
        """
        return (self.fits[0].most_clearance_mm + self.fits[1].most_clearance_mm) / (
            2 * self.apart_mm
        )


def pinned(outline: Polygon, pins: Pins, both_round: bool = False) -> Pinned:
    """The two round holes farthest apart that pins of this range fit, the larger one for the round
    pin.

    Two round pins go on only while half the least play of both makes up for the error of their
    distance. Raises OutOfRange.
    """
    if pins.most_mm < pins.least_mm:
        raise OutOfRange("station.locating.most_mm", pins.most_mm, f"at least {pins.least_mm:g} mm")
    holes = [
        item for item in round_holes(outline) if pins.least_mm <= item.diameter_mm <= pins.most_mm
    ]
    if len(holes) < 2:
        there = (
            ", ".join(
                f"{size:g}"
                for size in sorted({round(item.diameter_mm, 2) for item in round_holes(outline)})
            )
            or "none"
        )
        raise OutOfRange(
            "station.locating.kind",
            pins.kind,
            f"a part with two round holes between {pins.least_mm:g} and {pins.most_mm:g} mm; it has"
            f" {there}: stops, or another range",
        )
    pairs = [(a, b) for k, a in enumerate(holes) for b in holes[k + 1 :]]
    a, b = max(pairs, key=lambda pair: (round(_apart(*pair), 6), -pair[0].x_mm, -pair[0].y_mm))
    first, second = (
        (a, b) if (a.diameter_mm, -a.x_mm, -a.y_mm) >= (b.diameter_mm, -b.x_mm, -b.y_mm) else (b, a)
    )
    apart = _apart(first, second)
    try:
        fits = tuple(
            fit(FitRequest(nominal_mm=item.diameter_mm, hole=pins.hole, pin=pins.pin))
            for item in (first, second)
        )
    except OutOfRange as error:
        raise OutOfRange("station.locating.pin", error.value, error.allowed) from None
    for found in fits:
        if found.least_clearance_mm < 0:
            raise OutOfRange(
                "station.locating.pin",
                pins.pin,
                f"a pin with clearance in {pins.hole}, such as g6 or f7: {pins.pin} can press by "
                f"{-found.least_clearance_mm:.3f} mm, and the part would not come off",
            )
    play = (fits[0].least_clearance_mm + fits[1].least_clearance_mm) / 2
    if both_round and play < pins.apart_mm:
        raise OutOfRange(
            "station.locating.kind",
            pins.kind,
            f"a diamond pin: holes {apart:.2f} mm apart may be off by {pins.apart_mm:.3f} mm and"
            f" the play of two round pins makes up for {play:.3f} mm, so some parts do not go on;"
            f" or looser pins, or a distance within {play:.3f} mm",
        )
    way = ((second.x_mm - first.x_mm) / apart, (second.y_mm - first.y_mm) / apart)
    return Pinned(first, second, (fits[0], fits[1]), (-way[1], way[0]), apart, both_round)


def _apart(a: RoundHole, b: RoundHole) -> float:
    return math.hypot(b.x_mm - a.x_mm, b.y_mm - a.y_mm)


def pin_contacts(found: Pinned, height_mm: float, capacity_n: float) -> tuple[Contact, ...]:
    """What the pins push back with: the round one every way, the diamond across; without friction,
    as they have play.
    """
    contacts = []
    for hole, name in ((found.round, "round pin"), (found.second, "second pin")):
        ways = [(math.cos(a), math.sin(a)) for a in 2 * math.pi * np.arange(_SIDES) / _SIDES]
        if hole is found.second and not found.both_round:
            ways = [found.across, (-found.across[0], -found.across[1])]
        radius, high = hole.diameter_mm / 2, min(height_mm, hole.diameter_mm) / 2
        for k, (x, y) in enumerate(ways):
            contacts.append(
                Contact(
                    name=f"{name}, side {k + 1}",
                    kind="locator",
                    point_mm=(hole.x_mm + radius * x, hole.y_mm + radius * y, high),
                    normal=(x, y, 0.0),
                    friction=0.0,
                    capacity_n=capacity_n,
                    area_mm2=hole.diameter_mm * high,
                )
            )
    return tuple(contacts)
