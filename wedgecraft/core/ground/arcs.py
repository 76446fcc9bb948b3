"""Curves as chords that never leave material out: on the outside of what bulges, on the curve
itself of what is hollow.

Points of a curve are (n, 3): x and y in mm, and 1 where the curve runs on through the point, 0
where it begins or ends.
"""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

#: Nowhere do chords lie farther from their curve than this.
CHORD_ERROR_MM = 0.002
#: A turn sharper than this is a corner, not a curve.
_SHARPEST = 0.6
_MOST_STEPS = 100_000


def arc(
    x: float,
    y: float,
    radius: float,
    start: float,
    sweep: float,
    chord_error: float = CHORD_ERROR_MM,
) -> Array:
    """Points on a circular arc from ``start`` through ``sweep`` (radians, either way), ends
    included, and all where it is widest, highest, lowest: so that its box is true.
    """
    share = min(1.0, chord_error / radius)
    most = min(math.pi / 8, 2 * math.acos(1 - share)) if share > 1e-9 else abs(sweep) / _MOST_STEPS
    return np.column_stack(
        [(x, y) + radius * _unit(start, sweep, most), _between(start, sweep, most)]
    )


@lru_cache(maxsize=256)
def _angles(start: float, sweep: float, most: float) -> Array:
    quarter, way = math.pi / 2, 1.0 if sweep > 0 else -1.0
    first = math.floor(way * start / quarter + 1e-9) + 1
    stops = [way * k * quarter for k in range(first, first + 6)]
    marks = [start, *[stop for stop in stops if way * (start + sweep - stop) > 1e-9], start + sweep]
    runs = [
        np.linspace(low, high, max(1, math.ceil(abs(high - low) / most - 1e-9)) + 1)[:-1]
        for low, high in pairwise(marks)
    ]
    found = np.concatenate([*runs, [start + sweep]])
    if len(found) < 5:  # a short arc is still an arc
        found = np.linspace(start, start + sweep, 5)
    return found


@lru_cache(maxsize=256)
def _unit(start: float, sweep: float, most: float) -> Array:
    """Drawings repeat few arcs very often."""
    angles = _angles(start, sweep, most)
    points = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    points[np.abs(points) < 1e-15] = 0.0
    return points


@lru_cache(maxsize=256)
def _between(start: float, sweep: float, most: float) -> Array:
    return smooth(len(_angles(start, sweep, most)))


def smooth(count: int) -> Array:
    """The third numbers of one curve of so many points."""
    found = np.ones(count)
    found[0] = found[-1] = 0.0
    return found


def curve(points: Array) -> Array:
    """Points (n, 2) of one smooth curve, ends included, as (n, 3)."""
    return np.column_stack([points, smooth(len(points))])


def corners(points: Array) -> Array:
    """Points (n, 2) joined by lines, as (n, 3)."""
    return np.column_stack([points, np.zeros(len(points))])


def on_the_outside(ring: Array, most_mm: float = CHORD_ERROR_MM) -> Array:
    """A closed ring (n, 3), material on its left, first point not repeated, as points (m, 2) that
    leave no material out.

    Chords of what bulges become the tangents at their ends; those of what is hollow leave nothing
    out already. Tangents are those of the circle through each point and its neighbours: exact on an
    arc. ``most_mm``: how far the chords may lie from the curve.
    """
    xy, runs_on = ring[:, :2], ring[:, 2] > 0
    count = len(xy)
    if count < 4 or not runs_on.any():
        return np.asarray(xy)
    chord = np.roll(xy, -1, axis=0) - xy
    length = np.hypot(*chord.T)
    along = np.arctan2(chord[:, 1], chord[:, 0])
    turn = np.angle(np.exp(1j * (along - np.roll(along, 1))))  # at each point, to the left
    before, after = np.roll(length, 1), length
    # Angle between the tangent at a point and the chord that leaves it (or comes to it): a share of
    # the turn by the two lengths, as the circle through three points has it.
    span = np.hypot(*(np.roll(xy, -1, axis=0) - np.roll(xy, 1, axis=0)).T)
    with np.errstate(divide="ignore", invalid="ignore"):
        leaving = np.arcsin(np.clip(after * np.sin(turn) / span, -1, 1))
        coming = np.arcsin(np.clip(before * np.sin(turn) / span, -1, 1))
    following = np.roll(np.arange(count), -1)
    # At the ends of a curve the tangent is that of the circle at the point next to it: both ends of
    # a chord make the same angle.
    first = np.where(runs_on, leaving, coming[following])
    second = np.where(runs_on[following], coming[following], leaving)
    curved = runs_on | runs_on[following]
    both = first + second
    height = length * np.sin(first) * np.sin(second) / np.where(both > 1e-12, np.sin(both), 1.0)
    bulges = curved & (first > 1e-9) & (second > 1e-9) & (both < _SHARPEST) & (height < 3 * most_mm)
    if not bulges.any():
        return np.asarray(xy)
    reach = np.where(bulges, length * np.sin(second) / np.where(bulges, np.sin(both), 1.0), 0.0)
    tips = xy + reach[:, None] * np.stack([np.cos(along - first), np.sin(along - first)], axis=1)
    # A point between two tangents lies on the line between their tips: it goes.
    straight = np.abs(np.angle(np.exp(1j * (along - first - np.roll(along + second, 1))))) < 1e-9
    stays = ~(bulges & np.roll(bulges, 1) & (runs_on | straight))
    placed = np.empty((2 * count, 2))
    placed[0::2], placed[1::2] = xy, tips
    kept = np.empty(2 * count, dtype=bool)
    kept[0::2], kept[1::2] = stays, bulges
    return placed[kept]


#: A vertex of a mesh lies this near to the surface it stands for, rounding included.
_ON_CIRCLE_MM = 5e-4
#: No chord of an arc turns through more.
_WIDEST = 0.8


def with_arcs(ring: Array, circles: Array, stray_mm: float) -> Array:
    """A closed ring (n, 2) of chords, with the arcs they stand for in their place, as (m, 3).

    ``circles`` (k, 3): x, y and radius of those there may be. Chords of an arc have both ends on
    its circle and lie no farther from it than ``stray_mm``; one alone is a line.
    """
    count = len(ring)
    if count < 3 or not len(circles):
        return corners(ring)
    away = np.abs(
        np.hypot(ring[:, None, 0] - circles[None, :, 0], ring[:, None, 1] - circles[None, :, 1])
        - circles[None, :, 2]
    )
    near = away < _ON_CIRCLE_MM
    following = np.roll(np.arange(count), -1)
    half = np.hypot(*(ring[following] - ring).T)[:, None] / 2
    radius = circles[None, :, 2]
    fits = near & near[following] & (half < radius * math.sin(_WIDEST / 2))
    fits &= radius - np.sqrt(np.maximum(radius**2 - half**2, 0.0)) <= stray_mm + _ON_CIRCLE_MM
    of = np.where(
        fits.any(axis=1), np.argmin(np.where(fits, away + away[following], np.inf), axis=1), -1
    )
    center = circles[np.maximum(of, 0), :2]
    first, second = ring - center, ring[following] - center
    turned = np.arctan2(
        first[:, 0] * second[:, 1] - first[:, 1] * second[:, 0], (first * second).sum(axis=1)
    )
    change = (of != np.roll(of, 1)) | (np.sign(turned) != np.sign(np.roll(turned, 1)))
    if not change.any():  # one circle all round
        x, y, r = circles[of[0]] if of[0] >= 0 else (0.0, 0.0, 0.0)
        return (
            arc(x, y, r, math.atan2(*first[0][::-1]), math.copysign(2 * math.pi, turned[0]))[:-1]
            if of[0] >= 0
            else corners(ring)
        )
    starts = np.flatnonzero(change)
    runs: list[Array] = []
    for start, stop in zip(starts, [*starts[1:], starts[0] + count], strict=True):
        chords = np.arange(start, stop) % count
        if of[start] < 0 or len(chords) < 2:
            runs.append(corners(ring[chords]))
            continue
        x, y, r = circles[of[start]]
        found = arc(x, y, r, math.atan2(*first[start][::-1]), float(turned[chords].sum()))
        found[0, :2] = ring[start]
        runs.append(found[:-1])
    return np.concatenate(runs)


def sides_of(radius_mm: float, chord_error_mm: float = CHORD_ERROR_MM) -> int:
    """Sides of a regular polygon whose chords stray this far from its circle: a multiple of 4, at
    least 24.
    """
    share = min(0.5, chord_error_mm / radius_mm)
    return max(24, 4 * math.ceil(math.pi / (4 * math.acos(1 - share)) - 1e-9))


def disc(x: float, y: float, radius_mm: float) -> Array:
    """A circle as a ring of points (n, 2) that encloses the same area."""
    sides = sides_of(radius_mm)
    turn = 2 * math.pi / sides
    return (x, y) + radius_mm * math.sqrt(turn / math.sin(turn)) * _unit(0.0, 2 * math.pi, turn)[
        :-1
    ]
