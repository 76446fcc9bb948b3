"""The cutters that ship: sizes that most cribs hold, metric and inch. None is a maker's product."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

Row = tuple[str, dict[str, Any]]

#: Diameter, teeth, cutting length of the short and of the long one.
_MILLS_MM = (
    (3, 2, 6.6, 15), (4, 3, 8.8, 20), (5, 3, 11, 25), (6, 3, 13.2, 26), (8, 3, 17.6, 34),
    (10, 3, 22, 42), (12, 3, 26.4, 50), (16, 4, 35.2, 62), (20, 4, 44, 76),
)  # fmt: skip
_MILLS_IN = (("1/8", 3), ("3/16", 3), ("1/4", 3), ("3/8", 3), ("1/2", 3), ("3/4", 4))
_FACE_MILLS_MM = ((40, 4), (50, 5), (63, 6), (80, 7))
_CHAMFER_MILLS_MM = ((6, 3), (10, 4), (16, 4))
#: By halves up to 13 mm, by whole ones above; tapping, clearance and reaming sizes besides.
_DRILLS_MM = (
    *(k / 2 for k in range(2, 27)), *range(14, 21),
    3.3, 3.4, 4.2, 5.8, 6.6, 6.8, 7.8, 9.8, 10.2, 11.8, 13.5, 15.8, 17.5,
)  # fmt: skip
_LONG_DRILLS_MM = (3.3, 4.2, 5, 5.5, 6, 6.6, 6.8, 8, 8.5, 9, 10, 10.2, 11, 12)
#: By sixteenths, and those of #10-24, 1/4-20 and 5/16-18 by their own names.
_DRILLS_IN = (
    *((f"{Fraction(k, 16)} in", k / 16) for k in range(2, 13)),
    ("#25", 0.1495), ("#7", 0.201), ("F", 0.257),
)  # fmt: skip
_REAMERS_MM = (6, 8, 10, 12, 16)
_TAPS_MM = (
    (3, 0.5), (4, 0.7), (5, 0.8), (6, 1.0), (8, 1.25), (10, 1.5), (12, 1.75), (16, 2.0),
)  # fmt: skip
_TAPS_IN = (
    ("#10-24", 0.19, 24), ("1/4-20", 0.25, 20), ("5/16-18", 0.3125, 18), ("3/8-16", 0.375, 16),
    ("1/2-13", 0.5, 13),
)  # fmt: skip
_BORING_MM = ((12, 16), (16, 24), (24, 38))
_SAWS_MM = ((63, 1.6, 40), (80, 2, 44), (100, 3, 40))


def cutters() -> list[Row]:
    """Each by its name, with its fields."""
    return [*_milling(), *_drilling(), *_sizing()]


def _milling() -> Iterator[Row]:
    for diameter, teeth, short, long in _MILLS_MM:
        name = f"End mill {diameter} mm, {teeth} teeth"
        yield name, _of("end mill", diameter, teeth, flute_length_mm=short)
        name = f"End mill {diameter} mm, long, {teeth} teeth"
        yield name, _of("end mill", diameter, teeth, flute_length_mm=long)
    for size, teeth in _MILLS_IN:
        across = 25.4 * float(Fraction(size))
        name = f"End mill {size} in, {teeth} teeth"
        yield name, _of("end mill", across, teeth, flute_length_mm=2.2 * across)
    for diameter, teeth in _FACE_MILLS_MM:
        inserts = {"helix_deg": 0, "entering_deg": 45, "flute_length_mm": 6}
        name = f"Face mill {diameter} mm, {teeth} inserts"
        yield name, _of("face mill", diameter, teeth, **inserts)
    fly = {"helix_deg": 0, "entering_deg": 75, "flute_length_mm": 5}
    yield "Fly cutter 80 mm", _of("fly cutter", 80, 1, **fly)
    for diameter, teeth in _CHAMFER_MILLS_MM:
        edge: dict[str, Any] = {"helix_deg": 0, "entering_deg": 45, "point_deg": 90}
        edge["flute_length_mm"] = diameter / 2
        yield f"Chamfer mill {diameter} mm, 90°", _of("chamfer mill", diameter, teeth, **edge)
    for across, width, teeth in _SAWS_MM:
        blade = {"helix_deg": 0, "width_mm": width, "flute_length_mm": width}
        yield f"Slitting saw {across} x {width:g} mm", _of("slitting saw", across, teeth, **blade)


def _drilling() -> Iterator[Row]:
    sizes = [(f"{bore:g} mm", float(bore)) for bore in _DRILLS_MM]
    for size, bore in [*sizes, *((size, 25.4 * inch) for size, inch in _DRILLS_IN)]:
        yield f"Drill {size}", _of("drill", bore, 2, flute_length_mm=max(30.0, 6 * bore))
    for bore in _LONG_DRILLS_MM:
        yield f"Drill {bore:g} mm, long", _of("drill", bore, 2, flute_length_mm=14.0 * bore)


def _sizing() -> Iterator[Row]:
    for diameter in _REAMERS_MM:
        flutes = {"helix_deg": 0, "flute_length_mm": 4 * diameter}
        yield f"Reamer {diameter} mm H7", _of("reamer", diameter, 6, **flutes)
    metric = [(f"M{size}", float(size), pitch) for size, pitch in _TAPS_MM]
    inch = [(size, 25.4 * across, 25.4 / threads) for size, across, threads in _TAPS_IN]
    for size, across, pitch in [*metric, *inch]:
        thread = {"pitch_mm": pitch, "flute_length_mm": 2.5 * across}
        yield f"Tap {size}", _of("tap", across, 3, **thread)
    for low, high in _BORING_MM:
        bar = {"helix_deg": 0, "entering_deg": 90, "flute_length_mm": 3 * low}
        yield f"Boring bar {low} to {high} mm", _of("boring bar", high, 1, **bar)


def _of(kind: str, diameter_mm: float, teeth: int, **more: Any) -> dict[str, Any]:
    return {"kind": kind, "diameter_mm": diameter_mm, "teeth": teeth, **more}
