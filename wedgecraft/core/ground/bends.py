"""Arcs that the chords of a closed ring stand for: so that a profile goes to a machine as lines and
arcs, not as a thousand short lines.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: x, y of a corner, and the bulge of what follows it: the tangent of a quarter of the arc's angle,
#: positive to the left; 0 for a line (the convention of DXF).
Bend = tuple[float, float, float]

#: Corners of chords lie this near to their arc; and chords no farther inside it, at their middle.
STRAYS_MM = 0.003
_DEEP_MM = 0.008
#: An arc has so many chords at least, and turns through so much, radians.
_FEWEST, _TURNS = 4, math.radians(8)
#: Corners may be rounded by half of this.
_ROUNDED_MM = 2e-5
#: No chord of an arc turns through more, and no arc, as one, through more than half a turn.
_WIDEST, _MOST = 0.5, math.pi
#: So many corners on end may not fit before an arc is over: short chords say little of it.
_MISSES = 4


def bends_of(ring: Sequence[tuple[float, float]] | Array) -> list[Bend]:
    """The ring (n, 2), first corner not repeated, as lines and arcs: every corner of it lies within
    ``STRAYS_MM`` of what comes back. Greedy, each arc as long as it fits.
    """
    points = np.asarray(ring, dtype=float)
    count = len(points)
    if count <= _FEWEST:
        return [(float(x), float(y), 0.0) for x, y in points]
    points = np.roll(points, -_corner(points), axis=0)
    closed = np.concatenate([points, points[:1]])
    found: list[Bend] = []
    at = 0
    while at < count:
        end, bulge = _longest(closed, at)
        x, y = closed[at]
        found.append((float(x), float(y), bulge))
        at = end
    return found


def _corner(points: Array) -> int:
    """Where arcs do not run on: where the ring turns sharply, or after its longest line."""
    ways = np.roll(points, -1, axis=0) - points
    turn = np.abs(np.angle(_turns(np.roll(ways, 1, axis=0), ways)))
    if turn.max() > _WIDEST:
        return int(np.argmax(turn))
    return int(np.argmax(np.hypot(*ways.T)) + 1) % len(points)


def _turns(first: Array, second: Array) -> NDArray[np.complex128]:
    one, other = first[:, 0] + 1j * first[:, 1], second[:, 0] + 1j * second[:, 1]
    found: NDArray[np.complex128] = other * np.conj(one)
    return found


def _longest(points: Array, at: int) -> tuple[int, float]:
    """Where the longest arc from a corner ends, and its bulge; the next corner where none begins
    there.
    """
    best, missed = (at + 1, 0.0), 0
    for last in range(at + _FEWEST, len(points)):
        bulge = _fits(points[at : last + 1])
        if bulge is not None:
            best, missed = (last, bulge), 0
        elif missed == _MISSES:
            break
        missed += bulge is None
    return best if abs(best[1]) >= math.tan(_TURNS / 4) else (at + 1, 0.0)


def _fits(run: Array) -> float | None:
    """The bulge of one arc through the ends of a run of corners, if the others lie on it."""
    start, end = run[0], run[-1]
    chord = end - start
    long = float(np.hypot(*chord))
    ways = np.diff(run, axis=0)
    turn = np.angle(_turns(ways[:-1], ways[1:]))
    sizes = np.maximum(np.hypot(*ways.T), 1e-9)
    # rounded corners of a short chord say little of which way it turns
    noise = 1e-3 + _ROUNDED_MM / np.minimum(sizes[:-1], sizes[1:])
    sign = 1.0 if turn.sum() > 0 else -1.0
    if (sign * turn < -noise).any() or (np.abs(turn) > _WIDEST + noise).any() or long < 1e-9:
        return None
    # of all circles through both ends, that whose middle lies so far to the left of the chord
    middle = (start + end) / 2
    left = np.array([-chord[1], chord[0]]) / long
    inner = run[1:-1] - middle
    across, along = inner @ left, inner @ (chord / long)
    square = along**2 + across**2 - (long / 2) ** 2
    weight = float(across @ across)
    if weight < 1e-18:
        return None
    off = float(across @ square) / (2 * weight)
    radius = math.hypot(long / 2, off)
    strays = np.abs(np.hypot(along, across - off) - radius)
    deep = (sizes / 2) ** 2 / (2 * radius)
    if strays.max() > STRAYS_MM or deep.max() > _DEEP_MM:
        return None
    angle = 2 * math.atan2(long / 2, sign * off)  # the arc runs round the far side of the middle
    if angle > _MOST + 1e-6:
        return None
    return sign * math.tan(angle / 4)


def measured(bends: Sequence[Bend]) -> tuple[float, float, float]:
    """Area of a ring of lines and arcs and its centre (x, y), in closed form: the polygon of its
    corners, and a segment of a circle on each arc's chord.
    """
    points = np.array([(x, y) for x, y, _ in bends])
    ends = np.roll(points, -1, axis=0)
    cross = points[:, 0] * ends[:, 1] - points[:, 1] * ends[:, 0]
    area = float(cross.sum()) / 2
    moment = ((points + ends) * cross[:, None]).sum(axis=0) / 6
    for (start, end), (_, _, bulge) in zip(zip(points, ends, strict=True), bends, strict=True):
        if not bulge:
            continue
        angle, chord = 4 * math.atan(abs(bulge)), end - start
        radius = float(np.hypot(*chord)) / (2 * math.sin(angle / 2))
        own = math.copysign(radius**2 / 2 * (angle - math.sin(angle)), bulge)
        out = math.copysign(1.0, bulge) * np.array([chord[1], -chord[0]]) / np.hypot(*chord)
        middle = (start + end) / 2 - out * radius * math.cos(angle / 2)
        away = 4 * radius * math.sin(angle / 2) ** 3 / (3 * (angle - math.sin(angle)))
        area += own
        moment = moment + own * (middle + out * away)
    x, y = (moment / area).tolist()
    return abs(area), x, y


def amid(start: Bend, end: Bend) -> tuple[float, float]:
    """Amid the arc from a corner to the next."""
    (x0, y0, bulge), (x1, y1, _) = start, end
    return (x0 + x1) / 2 + bulge * (y1 - y0) / 2, (y0 + y1) / 2 - bulge * (x1 - x0) / 2
