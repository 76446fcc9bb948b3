"""Whether a pattern of holes bolts up in another way than the one meant, and what forbids it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

#: Holes so near where they should be still take their screw or dowel, mm.
GOES_IN_MM = 1.0


class Holed(NamedTuple):
    """A hole of a pattern: its place, and what goes into it."""

    x: float
    y: float
    kind: str


class Motion(NamedTuple):
    """A way to put a piece in wrong: turned so far, turned over or not."""

    turn_deg: float
    over: bool

    def said(self) -> str:
        turned = f"turned {self.turn_deg:.0f}°" if self.turn_deg > 0.5 else "shifted"
        return f"turned over and {turned}" if self.over else turned


def bolts_up(
    pattern: Sequence[Holed], over: bool = False, within_mm: float = GOES_IN_MM
) -> list[Motion]:
    """Every way but the right one in which all holes of a pattern meet holes of their kind.
    ``over``: the piece may be turned over too. A pattern of one hole turns any way, which is said
    as half a turn.
    """
    at = np.array([(hole.x, hole.y) for hole in pattern], dtype=float).reshape(-1, 2)
    kinds = np.array([hole.kind for hole in pattern])
    if len(pattern) == 0:
        return []
    if len(pattern) == 1:
        return [Motion(180.0, False)]
    a, b = _farthest(at)
    found: dict[tuple[int, bool], Motion] = {}
    for flipped in (False, True) if over else (False,):
        own = at * (-1, 1) if flipped else at
        way = own[b] - own[a]
        for c in range(len(at)):
            for d in range(len(at)):
                if c == d or kinds[c] != kinds[a] or kinds[d] != kinds[b]:
                    continue
                towards = at[d] - at[c]
                if abs(np.hypot(*towards) - np.hypot(*way)) > 2 * within_mm:
                    continue
                angle = float(np.arctan2(towards[1], towards[0]) - np.arctan2(way[1], way[0]))
                turned = own @ _turn(angle).T
                middle = (at[c] + at[d] - turned[a] - turned[b]) / 2
                if _meets(turned + middle, at, kinds, within_mm):
                    degrees = float(np.degrees(angle)) % 360
                    moved = float(np.abs(turned + middle - own).max())
                    if flipped or moved > within_mm:
                        key = (round(degrees) % 360, flipped)
                        found.setdefault(key, Motion(degrees % 359.9999, flipped))
    return sorted(found.values())


def _farthest(at: Array) -> tuple[int, int]:
    apart = np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
    a, b = np.unravel_index(int(np.argmax(apart)), apart.shape)
    return int(a), int(b)


def _turn(angle: float) -> Array:
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, -s], [s, c]])


def _meets(moved: Array, at: Array, kinds: NDArray[np.str_], within_mm: float) -> bool:
    """Whether each moved hole lies on one of its kind."""
    apart = np.hypot(*(moved[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
    apart[kinds[:, None] != kinds[None, :]] = np.inf
    return bool((apart.min(axis=1) <= within_mm).all())


def two_dowels(
    pattern: Sequence[Holed], candidates: Sequence[tuple[float, float]], over: bool = False
) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """The two places farthest apart where dowels make sure that a piece goes in one way only;
    nothing where no two do.
    """

    def apart(pair: tuple[tuple[float, float], tuple[float, float]]) -> float:
        (x0, y0), (x1, y1) = pair
        return -float(np.hypot(x1 - x0, y1 - y0))

    for pair in sorted(combinations(candidates, 2), key=apart):
        held = [*pattern, *(Holed(x, y, "dowel") for x, y in pair)]
        if not bolts_up(held, over):
            return pair
    return None


def grid(
    width_mm: float, depth_mm: float, margin_mm: float, step_mm: float
) -> Iterator[tuple[float, float]]:
    """Places along both longer sides of a piece, so far inside its edge."""
    xs = np.arange(margin_mm, width_mm - margin_mm + 1e-9, step_mm)
    ys = np.arange(margin_mm, depth_mm - margin_mm + 1e-9, step_mm)
    for x in xs:
        for y in ys:
            edge = min(x, y, width_mm - x, depth_mm - y)
            if edge < margin_mm + step_mm / 2:
                yield float(x), float(y)
