"""Identical boxes with quarter turns on a bare rectangle: packings of whole units, and a bound that
a finished search proves.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from wedgecraft.core.layout import recursive
from wedgecraft.core.layout.boxed import UNIT, Boxed, boxed, closed, face_of, nearly
from wedgecraft.core.layout.nofit import TOUCH_MM
from wedgecraft.core.layout.recursive import Size
from wedgecraft.core.layout.regular import Unit
from wedgecraft.core.layout.search import FaceProblem, Layout, Spot, compatible
from wedgecraft.core.layout.skyline import MOST_SIDE, Box, SkylineSearch

_SKYLINE_STEPS = 1_000_000
#: Waste in units.
_MOST_SPARE = 48


@dataclass(frozen=True)
class WholeBoxes:
    """The problem in whole units of so many mm: a face of ``width`` x ``depth``, boxes of ``long``
    x ``short``; stations lying along X and upright; ``exact`` when boxes are all there is.
    """

    width: int
    depth: int
    long: int
    short: int
    unit: float
    lying: Boxed
    upright: Boxed
    exact: bool


def whole_boxes(problem: FaceProblem) -> WholeBoxes | None:
    """The boxes of the stations in whole units, where they are boxes for each other and nothing is
    in their way.
    """
    if len({variant.kind for variant in problem.variants}) != 1:
        return None
    single = [Unit(((index, 0.0, 0.0),)) for index in range(len(problem.variants))]
    chosen = [nearly(problem, single, turn)[:1] for turn in (0, 90)]
    boxes = boxed(problem, [*chosen[0], *chosen[1]]) if all(chosen) else []
    if len(boxes) != 2:
        return None
    one, other = (item.size() for item in boxes)
    wide, deep, corner = face_of(boxes)
    if (one.width, one.depth) != (other.depth, other.width) or any(
        closed(item, corner) for item in boxes
    ):
        return None
    unit = math.gcd(one.width, one.depth)
    width, depth = wide // unit, deep // unit
    if max(width, depth) > MOST_SIDE:
        return None
    lying, upright = boxes if one.width >= one.depth else boxes[::-1]
    size = lying.size()
    exact = _all_there_is(problem, single, boxes)
    return WholeBoxes(
        width, depth, size.width // unit, size.depth // unit, unit * UNIT, lying, upright, exact
    )


def _all_there_is(problem: FaceProblem, single: Sequence[Unit], boxes: Sequence[Boxed]) -> bool:
    """Are all stations, at all turns, the same boxes on the same face, and keep off as such only?
    Their sides are whole hundredths: a bound from rounded ones would be none.
    """
    everyone = boxed(problem, single)
    sizes = {item.size() for item in boxes}
    if any(side % 100 for size in sizes for side in (size.width, size.depth)):
        return False
    wide, deep, _ = face_of(boxes)
    outline = shapely.Polygon(problem.face.outer)
    if outline.area < (1 - 1e-9) * outline.envelope.area:
        return False
    for item in everyone:
        own_wide, own_deep, _ = face_of([item])
        if item.size() not in sizes or (own_wide, own_deep) != (wide, deep):
            return False
    for one in everyone:
        for other in everyone:
            region = problem.nofit(one.unit.members[0][0], other.unit.members[0][0])
            ends = np.concatenate([one.low - other.high, one.high - other.low])
            if region.area < (1 - 1e-9) * region.envelope.area or bool(
                np.abs(np.abs(region.bounds - ends) - TOUCH_MM).max() > 1e-6
            ):
                return False
    return True


def settles(problem: FaceProblem) -> bool:
    """Are whole boxes all there is, small enough for the search to be thorough? Then other methods
    have nothing to add.
    """
    whole = whole_boxes(problem)
    return whole is not None and whole.exact


def packed(problem: FaceProblem, limit: int) -> tuple[list[Layout], int]:
    """Packings of boxes, and the bound, lowered where every way to reach it was tried."""
    whole = whole_boxes(problem)
    if whole is None:
        return [], limit
    search = SkylineSearch(whole.width, whole.depth, whole.long, whole.short)
    limit = min(limit, search.most()) if whole.exact else limit
    blocks = _blocks(whole)
    target = limit
    while target > len(blocks):
        # Above this waste the search has nothing to steer by, and more boxes are only harder.
        if whole.width * whole.depth - target * whole.long * whole.short <= _MOST_SPARE:
            dense = search.boxes(target, _SKYLINE_STEPS)
            if dense is not None:
                return [_placed(problem, whole, "valleys filled box by box", dense)], limit
            if search.exhausted and whole.exact and target == limit:
                limit -= 1
        target -= 1
    return [_placed(problem, whole, "blocks of turned boxes", blocks)], limit


def _blocks(whole: WholeBoxes) -> list[Box]:
    sizes = [Size(whole.long, whole.short), Size(whole.short, whole.long)]
    return [(x, y, size == 1) for x, y, size in recursive.packed(whole.width, whole.depth, sizes)]


def _placed(problem: FaceProblem, whole: WholeBoxes, name: str, boxes: list[Box]) -> Layout:
    _, _, corner = face_of([whole.lying, whole.upright])
    spots: list[Spot] = []
    for x, y, turned in boxes:
        item = whole.upright if turned else whole.lying
        at = corner + np.array([x, y]) * whole.unit - item.low
        spots.append((item.unit.members[0][0], float(at[0]), float(at[1])))
    return Layout(name, tuple(compatible(problem, spots)))
