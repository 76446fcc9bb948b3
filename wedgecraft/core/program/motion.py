"""Moves of a control in machine coordinates, with the seconds they take."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Place = tuple[float, float, float]
Kind = Literal["rapid", "feed", "arc", "index", "dwell", "tool", "pallet"]
#: A feed that turns by more than this stops in the corner.
_RUNS_ON = math.cos(math.radians(30))


@dataclass(frozen=True, slots=True)
class Arc:
    """About ``middle`` (first and second axis of the plane) by ``sweep`` radians, to the left where
    positive; ``axes`` of the plane, and the one along which a helix goes.
    """

    middle: tuple[float, float]
    sweep: float
    axes: tuple[int, int, int]


@dataclass(slots=True)
class Move:
    """From ``start`` to ``end``, mm, machine coordinates of the spindle's face; ``line`` of the
    text. ``rotary``: A, B and C, degrees, when it ends. ``tip_mm``: how far the tool's tip is taken
    to be below the spindle's face. ``zero``: the work offset it was given in; ``beside``: with
    radius compensation, which is not followed.
    """

    line: int
    what: Kind
    start: Place
    end: Place
    rotary: Place
    tool: int
    zero: str
    tip_mm: float
    feed: float = 0.0
    rpm: float = 0.0
    coolant: bool = False
    arc: Arc | None = None
    seconds: float = 0.0
    beside: bool = False

    @property
    def cuts(self) -> bool:
        """Whether it goes at feed."""
        return self.what in ("feed", "arc")

    @property
    def goes(self) -> bool:
        return self.cuts or self.what == "rapid"

    @property
    def length_mm(self) -> float:
        if self.arc is None:
            return math.dist(self.start, self.end)
        radius = math.dist(self.arc.middle, [self.start[k] for k in self.arc.axes[:2]])
        along = self.end[self.arc.axes[2]] - self.start[self.arc.axes[2]]
        return math.hypot(radius * self.arc.sweep, along)

    def points(self, chord_mm: float = 0.01) -> Array:
        """Places along it, (n, 3), both ends included; an arc as chords this near."""
        if self.arc is None:
            return np.array([self.start, self.end])
        a, b, c = self.arc.axes
        x, y = self.arc.middle
        from_x, from_y = self.start[a] - x, self.start[b] - y
        radius = math.hypot(from_x, from_y)
        step = 2 * math.acos(max(0.0, 1 - min(1.0, chord_mm / max(radius, 1e-9))))
        many = max(2, math.ceil(abs(self.arc.sweep) / max(step, 1e-3)) + 1)
        turns = np.linspace(0.0, self.arc.sweep, many)
        found = np.empty((many, 3))
        found[:, a] = x + from_x * np.cos(turns) - from_y * np.sin(turns)
        found[:, b] = y + from_x * np.sin(turns) + from_y * np.cos(turns)
        found[:, c] = np.linspace(self.start[c], self.end[c], many)
        found[-1] = self.end
        return found


@dataclass(frozen=True)
class Pace:
    """How quick a machine is: rapids in mm/min, acceleration in mm/s², seconds a tool change, a
    pallet change and a quarter turn.
    """

    rapid_mm_min: float = 24_000.0
    acceleration_mm_s2: float = 3_000.0
    tool_change_s: float = 5.0
    pallet_change_s: float = 0.0
    index_s: float = 0.0


def ramp_seconds(length_mm: float, speed_mm_s: float, pace: Pace) -> float:
    """From rest to rest: with the speed reached, ``l/v + v/a``; else ``2 sqrt(l/a)``."""
    a = pace.acceleration_mm_s2
    if length_mm <= 0 or speed_mm_s <= 0:
        return 0.0
    if length_mm >= speed_mm_s**2 / a:
        return length_mm / speed_mm_s + speed_mm_s / a
    return 2 * math.sqrt(length_mm / a)


def timed(moves: Sequence[Move], pace: Pace) -> Iterator[float]:
    """Seconds of each move: rapids from rest to rest, all axes at once at the rapid rate; feeds run
    on into one another where they turn little, and stop in corners.
    """
    ways = [_way(move) if move.cuts else _STILL for move in moves]
    for k, move in enumerate(moves):
        if move.cuts:
            before = k > 0 and _on(ways[k - 1][1], ways[k][0])
            after = k + 1 < len(moves) and _on(ways[k][1], ways[k + 1][0])
            speed = move.feed / 60
            stops = 2 - bool(before) - bool(after)
            whole = ramp_seconds(move.length_mm, speed, pace)
            even = move.length_mm / speed if speed > 0 else 0.0
            yield even + (whole - even) * stops / 2
        elif move.what == "rapid":
            far = max((abs(a - b) for a, b in zip(move.start, move.end, strict=True)), default=0.0)
            yield ramp_seconds(far, pace.rapid_mm_min / 60, pace)
        else:
            yield move.seconds


#: What stands still runs on into nothing.
_STILL: tuple[Place, Place] = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))


def _on(out: Place, into: Place) -> bool:
    return out[0] * into[0] + out[1] * into[1] + out[2] * into[2] > _RUNS_ON


def _way(move: Move) -> tuple[Place, Place]:
    """Which way it begins and ends, as unit vectors."""
    if move.arc is None:
        (x0, y0, z0), (x1, y1, z1) = move.start, move.end
        size = math.dist(move.start, move.end) or 1.0
        unit = ((x1 - x0) / size, (y1 - y0) / size, (z1 - z0) / size)
        return unit, unit
    a, b, _ = move.arc.axes
    found: list[Place] = []
    for place in (move.start, move.end):
        x, y = place[a] - move.arc.middle[0], place[b] - move.arc.middle[1]
        size = math.copysign(math.hypot(x, y) or 1.0, move.arc.sweep)
        way = [0.0, 0.0, 0.0]
        way[a], way[b] = -y / size, x / size
        found.append((way[0], way[1], way[2]))
    return found[0], found[1]
