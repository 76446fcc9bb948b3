"""How long a piece takes to make, from what is counted on it, by the shop's coefficients."""

from __future__ import annotations

from collections.abc import Iterable

from wedgecraft.core.records.piece import Holes, MakeStep, Piece
from wedgecraft.core.records.rules import HouseRules


def steps(piece: Piece, rules: HouseRules) -> list[MakeStep]:
    """Every step of making ``alike`` pieces; the program is written once."""
    many, rows = piece.alike, piece.holes
    sides = {row.side for row in rows} | {"top"}
    face_cm2 = 2 * piece.width_mm * piece.depth_mm / 100
    # what is hollow from below was never full: it is welded round
    milled = [pocket for pocket in piece.pockets if pocket.floor_mm > 0]
    taken_cm3 = sum(_area(pocket.outline) * pocket.depth_mm for pocket in milled) / 1000
    counted = [
        ("program", 1.0, rules.make_program_minutes),
        ("clamp, square, pick up a side", len(sides) * many, rules.make_setup_minutes),
        ("both faces, cm²", face_cm2 * many, 1 / rules.make_face_cm2_a_minute),
        ("drilled", _count(rows) * many, rules.make_hole_seconds / 60),
        ("tapped", _count(r for r in rows if r.thread) * many, rules.make_tap_seconds / 60),
        ("reamed and gauged", _count(r for r in rows if r.fit) * many, rules.make_fit_seconds / 60),
        ("sunk", _count(r for r in rows if r.sink_mm) * many, rules.make_sink_seconds / 60),
        ("milled out, cm³", taken_cm3 * many, 1 / rules.make_cm3_a_minute),
        (
            "inserts and dowels, on the bench",
            _count(r for r in rows if r.insert or r.fit) * many,
            rules.make_bench_seconds / 60,
        ),
    ]
    return [
        MakeStep(what=what, count=round(count, 1), minutes=count * each)
        for what, count, each in counted
        if count
    ]


def money(minutes: float, machine_rate: float, rules: HouseRules) -> float | None:
    """Machine and person for so long, without material; nothing where a rate is not known."""
    if not machine_rate or not rules.person_rate_an_hour:
        return None
    return minutes / 60 * (machine_rate + rules.person_rate_an_hour)


def _count(rows: Iterable[Holes]) -> int:
    return sum(len(row.places) for row in rows)


def _area(rings: list[list[tuple[float, float]]]) -> float:
    from shapely.geometry import Polygon

    outer, *inner = rings
    return float(Polygon(outer, inner).area)
