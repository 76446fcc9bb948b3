"""From what must be fixed to rows of a hole table, with the screws and dowels that go in."""

from __future__ import annotations

import math
import string
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.fits import limits_mm
from wedgecraft.core.make.fasteners import SUNK_MM, THREADS, Thread, engagement_mm, screw_for
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.piece import Bought, HolePlace, Holes, MakeDoubt, Side

#: A hole that leaves less of a floor than this goes through, mm.
_FLOOR_MM = 2.0
#: Under a blind dowel a hole of this share of it goes on through, to press it out.
_PRESS_OUT = 0.6
#: Letters that are not taken for figures.
_LETTERS = [letter for letter in string.ascii_uppercase if letter not in "IOQ"]


@dataclass(frozen=True)
class Placed:
    """A fixing at its place on a piece, and the station it is for."""

    fixing: Fixing
    x: float
    y: float
    station: int | None = None
    side: Side = "top"


@dataclass
class HoleTable:
    """Rows of holes, what goes into them, and what is wrong with them."""

    rows: list[Holes] = field(default_factory=list)
    bought: Counter[tuple[str, str]] = field(default_factory=Counter)
    doubts: list[MakeDoubt] = field(default_factory=list)

    def listed(self) -> list[Bought]:
        return [
            Bought(says=says, count=count, why=why) for (says, why), count in self.bought.items()
        ]


def table_of(
    placed: Sequence[Placed], thickness_mm: float, material: Material, inserts: bool
) -> HoleTable:
    """All holes of a piece so thick, those made alike in one row: fits first, then threads, then
    clearance holes, the largest first. ``inserts``: threads are wire inserts, not direct.
    """
    table = HoleTable()
    found: dict[str, tuple[Holes, list[HolePlace]]] = {}
    for item in placed:
        if item.fixing.unknown:
            continue
        row = _row(item, thickness_mm, material, inserts, table)
        if row is None:
            continue
        key = row.model_dump_json()
        place = HolePlace(x_mm=item.x, y_mm=item.y, what=item.fixing.what, station=item.station)
        found.setdefault(key, (row, []))[1].append(place)
    ordered = sorted(
        found.values(),
        key=lambda it: (it[0].side != "top", not it[0].fit, not it[0].thread, -it[0].diameter_mm),
    )
    for number, (row, places) in enumerate(ordered):
        table.rows.append(row.model_copy(update={"letter": letter(number), "places": places}))
    table.doubts += _unknown(placed)
    return table


def letter(number: int) -> str:
    """A to Z without I, O and Q, then AA: 0 is A."""
    first, second = divmod(number, len(_LETTERS))
    return (_LETTERS[first - 1] if first else "") + _LETTERS[second]


def _row(
    item: Placed, thickness_mm: float, material: Material, inserts: bool, table: HoleTable
) -> Holes | None:
    fixing = item.fixing
    if fixing.thread:
        return _threaded(item, thickness_mm, material, inserts, table)
    return _fitted(fixing, thickness_mm, item.side, table)


def _threaded(
    item: Placed, thickness_mm: float, material: Material, inserts: bool, table: HoleTable
) -> Holes | None:
    fixing, thread = item.fixing, THREADS[item.fixing.thread]
    least = engagement_mm(thread, material, inserts)
    thickness_mm -= fixing.begins_mm
    if least > thickness_mm - fixing.starts_mm and item.side == "top":
        table.doubts.append(
            MakeDoubt(
                what=fixing.what,
                says=f"an {thread.name} thread wants {least:g} mm of {material.name}; there are"
                f" {thickness_mm:g} mm",
                remedy=f"a piece at least {math.ceil(least)} mm thick, or a nut or a bush below",
                places=[(item.x, item.y)],
            )
        )
        return None
    try:
        pick = screw_for(thread, fixing.clamped_mm, material, inserts)
    except OutOfRange as error:
        table.doubts.append(
            MakeDoubt(
                what=fixing.what,
                says=f"{fixing.clamped_mm:g} mm are under the head",
                remedy=str(error.allowed),
                places=[(item.x, item.y)],
            )
        )
        return None
    threaded, drilled = (
        depth + fixing.starts_mm for depth in (pick.thread_depth_mm, pick.drill_depth_mm)
    )
    through = item.side == "top" and drilled > thickness_mm - _FLOOR_MM
    over = pick.engaged_mm + fixing.starts_mm - thickness_mm
    if not fixing.stud and through and over > 0:
        table.doubts.append(
            MakeDoubt(
                what=fixing.what,
                says=f"an {thread.name} x {pick.length_mm:g} screw comes out {over:.1f} mm below"
                " and would lift the piece off what it stands on",
                remedy=f"a washer of {over:.1f} mm more under the head, or a piece"
                f" {math.ceil(pick.engaged_mm)} mm thick",
                places=[(item.x, item.y)],
            )
        )
    _take(table, fixing, thread, pick.length_mm, inserts)
    drill = thread.insert_mm if inserts else thread.drill_mm
    deep = "through" if through else f"{_mm(threaded)} deep"
    more = "" if through else f", {_mm(drilled)} deep"
    kind = f"{thread.name} insert" if inserts else thread.name
    return Holes(
        letter="",
        says=f"{kind}, {deep}; drill Ø{drill:g}{more}"
        + (" from the groove's floor" if fixing.begins_mm else ""),
        side=item.side,
        diameter_mm=drill,
        depth_mm=None if through else round(drilled, 1),
        thread=thread.name,
        thread_depth_mm=None if through else round(threaded, 1),
        insert=inserts,
        begins_mm=fixing.begins_mm,
        places=[],
    )


def _take(
    table: HoleTable, fixing: Fixing, thread: Thread, length_mm: float, inserts: bool
) -> None:
    if inserts:
        size = 1.5 * thread.nominal_mm
        table.bought[f"Wire insert {thread.name} x {size:g}", "in every thread"] += 1
    if not fixing.clamped_mm:  # a thread that nothing stays in
        return
    if fixing.stud:
        long = length_mm + 2 * thread.nominal_mm
        table.bought[f"Stud {thread.name}, {long:g} long at least, nut, washer", fixing.what] += 1
    else:
        table.bought[thread.screw(length_mm), fixing.what] += 1


def _fitted(fixing: Fixing, thickness_mm: float, side: Side, table: HoleTable) -> Holes:
    depth = fixing.depth_mm
    if not fixing.fit:
        return _plain(fixing, thickness_mm, side)
    low, high = limits_mm(fixing.diameter_mm, fixing.fit)
    if depth is not None and side == "top" and depth > thickness_mm - _FLOOR_MM:
        depth = None
    deep = "through" if depth is None else f"{_mm(depth)} deep"
    through = None
    if fixing.dowel_mm:
        table.bought[
            f"Dowel ISO 8734 {fixing.diameter_mm:g} m6 x {fixing.dowel_mm:g}", fixing.what
        ] += 1
        if depth is not None:
            through = round(_PRESS_OUT * fixing.diameter_mm, 1)
            deep += f", Ø{through:g} on through"
    return Holes(
        letter="",
        says=f"Ø{fixing.diameter_mm:g} {fixing.fit} ({low:+.3f} {high:+.3f}), {deep}",
        through_mm=through,
        side=side,
        diameter_mm=fixing.diameter_mm,
        depth_mm=depth,
        fit=fixing.fit,
        low_mm=fixing.diameter_mm + low,
        high_mm=fixing.diameter_mm + high,
        places=[],
    )


def _plain(fixing: Fixing, thickness_mm: float, side: Side) -> Holes:
    deep = fixing.depth_mm
    if deep is not None and deep > thickness_mm - _FLOOR_MM:
        deep = None
    said = "through" if deep is None else f"{_mm(deep)} deep, flat"
    return Holes(
        letter="",
        says=f"Ø{fixing.diameter_mm:g}, {said}, {fixing.what}",
        side=side,
        diameter_mm=fixing.diameter_mm,
        depth_mm=deep,
        places=[],
    )


def sunk(thread: Thread, side: Side, places: Iterable[HolePlace]) -> Holes:
    """Clearance holes right through, sunk for the socket head."""
    deep = thread.head_high_mm + SUNK_MM
    return Holes(
        letter="",
        says=f"Ø{thread.clear_mm:g} through, sunk Ø{thread.sink_mm:g}, {_mm(deep)} deep"
        f" ({thread.name} {thread.standard})",
        side=side,
        diameter_mm=thread.clear_mm,
        depth_mm=None,
        sink_mm=thread.sink_mm,
        sink_depth_mm=deep,
        places=list(places),
    )


def _unknown(placed: Iterable[Placed]) -> list[MakeDoubt]:
    """What only a maker knows, said once for each."""
    said: dict[str, str] = {}
    for item in placed:
        if item.fixing.unknown:
            said.setdefault(item.fixing.what, item.fixing.unknown)
    return [
        MakeDoubt(
            what=what,
            says=f"not drawn: {why}",
            remedy="take it from its maker's sheet and add it by hand",
            wrong=False,
        )
        for what, why in said.items()
    ]


def _mm(value: float) -> str:
    return f"{round(value, 1):g}"
