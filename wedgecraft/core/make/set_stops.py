"""How stops are fixed: on screws and dowels where those bear what pushes them, else let into a
groove.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from shapely.geometry import LineString, Point, Polygon

from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.make.fasteners import THREADS
from wedgecraft.core.make.stop_strength import (
    TIGHTENED,
    Borne,
    Push,
    bar_bears,
    borne,
    groove_bears,
)
from wedgecraft.core.make.stops import bar_axis, stop_bars, stop_fixings
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.piece import MakeDoubt
from wedgecraft.core.records.plate import Plate

#: A contact whose normal rises more than this is none that pushes sideways; one so near a bar is on
#: it.
_UPRIGHT, _TOUCHES_MM = 0.7, 1.0
#: Under a groove stays so much of the plate; house usage, from memory.
_FLOOR_SHARE = 0.35
#: A cutter goes so many diameters deep; under a sunk head stays so many of a screw's.
_DEEP, _UNDER_HEAD = 4.0, 2.0
_UNJUDGED = MakeDoubt(
    what="stops",
    says="whether their screws and dowels bear what parts push on them is not known: hold does not"
    " say how the forces share themselves out",
    remedy="a hold that settles, in Hold",
    wrong=False,
)


@dataclass(frozen=True)
class SetStop:
    """One stop: its bar, what fixes it, how deep it is let in, and how it bears what pushes it."""

    bar: Polygon
    high_mm: float
    fixings: tuple[Fixing, ...]
    groove_mm: float = 0.0
    bears: float = math.inf
    force_n: float = 0.0

    @property
    def bare(self) -> str:
        """The bar by its size."""
        _, long_mm, across_mm = bar_axis(self.bar)
        high = self.high_mm + self.groove_mm
        return f"stop bar {across_mm:.4g} x {high:.4g} x {long_mm:.4g}"

    @property
    def says(self) -> str:
        """The bar as a parts list names it, with its holes from one end."""
        (start, end), long_mm, _ = bar_axis(self.bar)
        high = self.high_mm + self.groove_mm
        bored = [
            f"{float((np.array([item.x, item.y]) - start) @ (end - start)) / long_mm:.4g}"
            for item in self.fixings
            if item.thread
        ]
        if not bored:
            return self.bare.capitalize()
        screw = next(item for item in self.fixings if item.thread)
        thread, sunk = THREADS[screw.thread], high - screw.clamped_mm
        sink = f", sunk Ø{thread.sink_mm:g} x {sunk:.4g}" if sunk > 0 else ""
        dowel = next((f" and Ø{it.diameter_mm:g} H7" for it in self.fixings if it.dowel_mm), "")
        return (
            f"{self.bare.capitalize()}: Ø{thread.clear_mm:g}{sink} at"
            f" {' and '.join(bored)}{dowel and dowel + ' near its ends'}"
        )

    @property
    def corner_mm(self) -> float:
        """The radius of its inner corners: of a cutter half as wide, thicker where it goes deep."""
        across_mm = bar_axis(self.bar)[2]
        return min(across_mm / 2, max(across_mm / 4, self.groove_mm / _DEEP / 2))

    @cached_property
    def groove(self) -> Rings:
        """What is milled for it, longer by its inner corners at both ends, so that those of the bar
        are free; nothing where it is not let in.
        """
        if not self.groove_mm:
            return []
        (start, end), long_mm, across_mm = bar_axis(self.bar)
        more = (end - start) / long_mm * self.corner_mm
        whole = LineString([start - more, end + more]).buffer(across_mm / 2, cap_style="flat")
        ring = whole.buffer(-self.corner_mm * 0.999).buffer(self.corner_mm * 0.999, quad_segs=12)
        ring = ring.exterior
        return [[(float(x), float(y)) for x, y in ring.coords[:-1]]]


@dataclass(frozen=True)
class SetStops:
    """All of one kind of station, what is wrong or not known of them, and what is to be read."""

    stops: tuple[SetStop, ...] = ()
    doubts: tuple[MakeDoubt, ...] = ()
    notes: tuple[str, ...] = ()


def set_stops(ready: Ready, verdict: HoldVerdict | None, plate: Plate) -> SetStops:
    """How the stops of a kind of station are fixed to a plate, so that each bears as many times
    what pushes it as the house asks of clamping.
    """
    bars, high = stop_bars(ready), ready.view.station.stops.height_mm
    plain = [SetStop(bar, high, stop_fixings(bar, high)) for bar in bars]
    if not bars:
        return SetStops()
    if verdict is None or verdict.share is None or not verdict.share.settled:
        return SetStops(tuple(plain), (_UNJUDGED,))
    pushes, astray = _pushes(ready, verdict, bars)
    found = [
        _fixed(stop, own, verdict.needed, plate) for stop, own in zip(plain, pushes, strict=True)
    ]
    weak = [stop for stop in found if stop.bears < verdict.needed]
    doubts = {stop.says: _too_weak(stop, verdict.needed, plate) for stop in weak}
    if astray:  # what pushes no bar that is known of is not judged
        doubts[""] = _UNJUDGED
    return SetStops(tuple(found), tuple(doubts.values()), _notes(ready, found, verdict.needed))


def _fixed(stop: SetStop, pushes: Sequence[Push], needed: float, plate: Plate) -> SetStop:
    """On screws and dowels where they bear it; else in the shallowest groove that does, or, where
    none does, in the deepest.
    """
    yields = plate.material.yield_mpa
    plain = borne(stop.bar, stop.fixings, pushes, yields)
    total = sum(push.force_n for push in pushes)
    if total <= 0:
        return stop
    if plain is not None and _least(plain) >= needed:
        return replace(stop, bears=_least(plain), force_n=total)
    high = sum(push.force_n * push.at[2] for push in pushes) / total
    _, long_mm, across_mm = bar_axis(stop.bar)
    bends = bar_bears(across_mm, high, long_mm)
    most = math.floor(plate.thickness_mm * (1 - _FLOOR_SHARE))
    found = stop
    for deep in range(2, most + 1):
        let_in = tuple(
            replace(
                item,
                clamped_mm=min(item.clamped_mm, _UNDER_HEAD * THREADS[item.thread].nominal_mm),
                begins_mm=float(deep),
            )
            for item in stop_fixings(stop.bar, stop.high_mm + deep)
            if item.thread
        )
        bears = min(groove_bears(deep, high, long_mm, yields), bends) / total
        found = replace(stop, fixings=let_in, groove_mm=deep, bears=bears, force_n=total)
        if bears >= needed:
            break
    return found


def _least(found: Borne) -> float:
    return min(found.sideways, found.upright)


def _pushes(
    ready: Ready, verdict: HoldVerdict, bars: Sequence[Polygon]
) -> tuple[list[list[Push]], bool]:
    """By bar, what every part of a station pushes it with at most; and whether anything pushes
    where no bar is.
    """
    share = verdict.share
    most = {item.name: item.most_n for item in share.contacts} if share is not None else {}
    found: list[list[Push]] = [[] for _ in bars]
    pressed: set[str] = set()
    there: set[str] = set()
    for contact in verdict.contacts:
        x, y, z = contact.point_mm
        if contact.preload_n or abs(contact.normal[2]) > _UPRIGHT:
            continue
        if most.get(contact.name, 0.0) > 0:
            pressed.add(contact.name)
        for member in ready.station.members:
            at = Point(member.put(np.array([x, y])))
            number = int(np.argmin([bar.distance(at) for bar in bars]))
            if bars[number].distance(at) > _TOUCHES_MM:
                continue
            there.add(contact.name)
            sign = 1.0 if member.half_turn else -1.0
            way = sign * contact.normal[0], sign * contact.normal[1]
            found[number].append(Push(most.get(contact.name, 0.0), (at.x, at.y, z), way))
    return found, not pressed <= there


def _notes(ready: Ready, found: Sequence[SetStop], needed: float) -> tuple[str, ...]:
    pushed = [stop for stop in found if stop.force_n > 0]
    if not pushed:
        return ()
    worst = min(pushed, key=lambda stop: stop.bears)
    how = (
        f"a groove {worst.groove_mm:g} mm deep, H7 for its bar h6, bears"
        if worst.groove_mm
        else f"screws at {TIGHTENED:.0%} of class 8.8's proof stress and dowels bear"
    )
    return (
        f"Stops, op {ready.view.op.number}: up to {worst.force_n:.0f} N"
        f" ({worst.force_n / 4.44822:.0f} lbf) pushes one; {how} {worst.bears:.1f} times that;"
        f" needed {needed:.1f}.",
    )


def _too_weak(stop: SetStop, needed: float, plate: Plate) -> MakeDoubt:
    return MakeDoubt(
        what="stops",
        says=f"up to {stop.force_n:.0f} N push a {stop.bare}: let"
        f" in {stop.groove_mm:g} mm, the most in this plate, it bears {stop.bears:.2f} times that;"
        f" {needed:g} times are needed",
        remedy=f"a longer or lower stop, or a plate harder or over {plate.thickness_mm:g} mm thick",
    )
