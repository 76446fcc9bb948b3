"""Identical boxes with quarter turns on a bare rectangle: packings of whole units, and a bound that
a finished search proves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import shapely

from wedgecraft.core.layout import recursive
from wedgecraft.core.layout.search import FaceProblem, Layout, Spot, compatible
from wedgecraft.core.layout.skyline import MOST_SIDE, Box, SkylineSearch

_MOST_UNITS = 400
_MOST_CUTS = 10_000
_SKYLINE_STEPS = 1_000_000
#: Waste in units.
_MOST_SPARE = 48


@dataclass(frozen=True)
class WholeBoxes:
    """The problem in whole units: a face of ``width`` x ``depth``, boxes of ``long`` x ``short``;
    variants lying along X and upright.
    """

    width: int
    depth: int
    long: int
    short: int
    unit: float
    lying: int
    upright: int
    exact: bool


def whole_boxes(problem: FaceProblem) -> WholeBoxes | None:
    """Boxes round the stations in whole units, where one kind stands alone on a bare face;
    ``exact`` when boxes are all there is.
    """
    if len({variant.kind for variant in problem.variants}) != 1 or not problem.plain:
        return None
    quarter = [
        next((i for i, v in enumerate(problem.variants) if v.turn % 180 == turn), None)
        for turn in (0, 90)
    ]
    kind = problem.geometry.kinds[problem.variants[0].kind]
    if None in quarter or len(kind.layers) != 1 or kind.regions:
        return None
    lying, upright = (index for index in quarter if index is not None)
    left, low, right, high = problem.nofit(lying, lying).bounds
    size = (right - left) / 2, (high - low) / 2
    outline = shapely.Polygon(problem.face.outer)
    x0, y0, x1, y1 = outline.bounds
    gap = kind.clearance_mm
    lengths = [*size, x1 - x0 + gap, y1 - y0 + gap]
    unit = _common_unit(lengths)
    w, d, width, depth = (int((value + 1e-3) / unit) for value in lengths)
    if max(width, depth) > _MOST_UNITS or min(w, d) < 1:
        return None
    body = shapely.Polygon(kind.layers[0].outer)
    exact = all(
        abs(shape.area - shapely.box(*shape.bounds).area) < 1e-9 * shape.area
        for shape in (body, outline)
    )
    sides = np.ptp(np.array(kind.layers[0].outer), axis=0) + gap
    exact = exact and bool(np.abs(sides * 100 - np.round(sides * 100)).max() < 1e-6)
    if w < d:
        lying, upright = upright, lying
    return WholeBoxes(width, depth, max(w, d), min(w, d), unit, lying, upright, exact)


def settles(problem: FaceProblem) -> bool:
    """Are whole boxes all there is, small enough for the search to be thorough? Then other methods
    have nothing to add.
    """
    whole = whole_boxes(problem)
    return whole is not None and whole.exact and max(whole.width, whole.depth) <= MOST_SIDE


def packed(problem: FaceProblem, limit: int) -> tuple[list[Layout], int]:
    """Packings of boxes, and the bound, lowered where every way to reach it was tried."""
    whole = whole_boxes(problem)
    if whole is None:
        return [], limit
    search = None
    if max(whole.width, whole.depth) <= MOST_SIDE:
        search = SkylineSearch(whole.width, whole.depth, whole.long, whole.short)
        limit = min(limit, search.most()) if whole.exact else limit
    blocks: list[Box] | None = None
    target = limit
    while search is not None and (blocks is None or target > len(blocks)):
        # Above this waste the search has nothing to steer by, and more boxes are only harder.
        if whole.width * whole.depth - target * whole.long * whole.short <= _MOST_SPARE:
            dense = search.boxes(target, _SKYLINE_STEPS)
            if dense is not None:
                return [_placed(problem, whole, "valleys filled box by box", dense)], limit
            if search.exhausted and whole.exact and target == limit:
                limit -= 1
        target -= 1
        # Blocks are quick, but the first target is mostly met without them.
        blocks = blocks if blocks is not None else _blocks(whole)
    return [
        _placed(
            problem, whole, "blocks of turned boxes", _blocks(whole) if blocks is None else blocks
        )
    ], limit


def _blocks(whole: WholeBoxes) -> list[Box]:
    return recursive.BlockSearch(whole.long, whole.short, _MOST_CUTS).boxes(
        whole.width, whole.depth
    )


def _placed(problem: FaceProblem, whole: WholeBoxes, name: str, boxes: list[Box]) -> Layout:
    x0, y0, _, _ = shapely.Polygon(problem.face.outer).bounds
    spots: list[Spot] = []
    for x, y, turned in boxes:
        index = whole.upright if turned else whole.lying
        body = problem.geometry.body(problem.variants[index]).bounds
        spots.append((index, x0 + x * whole.unit - body[0], y0 + y * whole.unit - body[1]))
    return Layout(name, tuple(compatible(problem, spots)))


def _common_unit(lengths: list[float]) -> float:
    """Largest unit of which the two box sides are whole numbers, to a hundredth of a millimetre."""
    sides = [Fraction(round(value * 100), 100) for value in lengths[:2]]
    top = math.gcd(
        sides[0].numerator * sides[1].denominator, sides[1].numerator * sides[0].denominator
    )
    return top / (sides[0].denominator * sides[1].denominator)
