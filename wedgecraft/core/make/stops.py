"""How stop bars are fixed: screws and dowels along them, sunk where they are high enough."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.make.fasteners import PICKED, SUNK_MM, Thread, dowel_for
from wedgecraft.core.records.fixing import Fixing

#: A stop keeps so much beside a screw's head and beside a dowel, mm; from memory.
_BESIDE_HEAD_MM = 0.5
_BESIDE_DOWEL_MM = 1.5
#: How far from its middle a bar's screws are, at most, of its length, and what is left between
#: them and its dowels; a short one has one screw, in the middle.
_OUT = 0.22
_WEB_MM = 2.5
_LARGEST_MM = 8.0
_DOWELS = (0.0, 1.0)
#: A bar so many heads long has two screws.
_LONG = 4.0
#: A dowel is in the plate for so many diameters.
_IN_PLATE = 1.5
#: It ends so far below a stop's top, and its hole goes on so far below it: it never bottoms.
_UNDER_TOP_MM = 1.0
_UNDER_DOWEL_MM = 1.0


def stop_bars(ready: Ready) -> list[Polygon]:
    """The stop bars of a station, in its frame; its element's own walls are none."""
    kind = ready.view.station
    if not kind.stopped or kind.element.by_form:
        return []
    return list(ready.station.stops)


def stop_fixings(bar: Polygon, height_mm: float) -> tuple[Fixing, ...]:
    """Screws and dowels of one stop, seen from above: the largest screw whose head it takes, sunk
    where at least as much is left under the head; two screws between dowels at both ends, one screw
    between them, or a screw and a dowel, as its length allows.
    """
    along, long_mm, across_mm = bar_axis(bar)
    fit = [
        (thread, *found)
        for thread in reversed(PICKED)
        if thread.nominal_mm <= _LARGEST_MM
        and thread.head_mm + 2 * _BESIDE_HEAD_MM <= across_mm + 1e-9
        and (found := _spread(thread, long_mm)) is not None
    ]
    fit.sort(key=lambda it: _high(it[0], height_mm) and not _sinks(it[0], height_mm, across_mm))
    if not fit:
        says = (
            f"{long_mm:.3g} x {across_mm:.3g} mm are too small for a screw of the table and a"
            " dowel: a bar let into a groove, or a larger one"
        )
        return (Fixing("stop", unknown=says),)
    thread, screws, dowels = fit[0]
    dowel = thread.nominal_mm
    sunk = _sinks(thread, height_mm, across_mm)
    clamped = height_mm - (thread.head_high_mm + SUNK_MM if sunk else 0.0)
    screw = Fixing("stop, screw", thread=thread.name, clamped_mm=clamped)
    proud = min(height_mm - _UNDER_TOP_MM, _IN_PLATE * dowel)
    long = dowel_for(_IN_PLATE * dowel, proud)
    deep = long - proud + _UNDER_DOWEL_MM
    pin = Fixing("stop, dowel", diameter_mm=dowel, fit="H7", depth_mm=deep, dowel_mm=long)
    keeps = thread.head_mm / 2 + _BESIDE_HEAD_MM, dowel / 2 + _BESIDE_DOWEL_MM
    return (
        *(screw.at(*_inside(bar, along, 0.5 + x / long_mm, keeps[0])) for x in screws),
        *(pin.at(*_inside(bar, along, 0.5 + x / long_mm, keeps[1])) for x in dowels),
    )


def _high(thread: Thread, height_mm: float) -> bool:
    """Whether a bar is high enough for a sunk head with as much left under it."""
    return height_mm >= 2 * thread.head_high_mm + SUNK_MM


def _sinks(thread: Thread, height_mm: float, across_mm: float) -> bool:
    """Whether it is wide enough for the counterbore too."""
    wide = thread.sink_mm + 2 * _BESIDE_HEAD_MM <= across_mm + 1e-9
    return wide and _high(thread, height_mm)


def _spread(thread: Thread, long_mm: float) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
    """Where screws and dowels are along a bar, from its middle; nothing where not even one of each
    has room.
    """
    end = long_mm / 2 - thread.nominal_mm / 2 - _BESIDE_DOWEL_MM  # of a dowel
    apart = thread.nominal_mm / 2 + thread.drill_mm / 2 + _WEB_MM  # of a dowel and a screw
    head = thread.head_mm / 2 + _BESIDE_HEAD_MM
    out = min(end - apart, _OUT * long_mm)
    if out >= head and long_mm >= _LONG * thread.head_mm:
        return (-out, out), (-end, end)
    if end >= apart:
        return (0.0,), (-end, end)
    screw = long_mm / 2 - head
    return ((screw,), (-end,)) if end + screw >= apart else None


def bar_axis(bar: Polygon) -> tuple[tuple[np.ndarray, np.ndarray], float, float]:
    """Both ends of its long middle line, its length and its width."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(bar).exterior)[:4]
    sides = np.linalg.norm(np.diff(corners, axis=0, append=corners[:1]), axis=1)
    k = int(np.argmax(sides[:2]))
    start = (corners[k] + corners[(k + 3) % 4]) / 2
    end = (corners[k + 1] + corners[(k + 2) % 4]) / 2
    return (start, end), float(sides[k]), float(sides[1 - k])


def _inside(
    bar: Polygon, along: tuple[np.ndarray, np.ndarray], share: float, keeps_mm: float
) -> tuple[float, float]:
    """The place in the bar nearest this share of its length that keeps so far from its edge."""
    start, end = along
    wanted = Point(*(start + share * (end - start)))
    room = bar.buffer(-keeps_mm, join_style="mitre")
    while room.is_empty and keeps_mm > 0.1:
        keeps_mm *= 0.8
        room = bar.buffer(-keeps_mm, join_style="mitre")
    if room.is_empty or room.covers(wanted):
        return float(wanted.x), float(wanted.y)
    at = shapely.get_point(shapely.shortest_line(room, wanted), 0)
    return float(at.x), float(at.y)
