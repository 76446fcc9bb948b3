"""Made-up logs of the demo's jobs: two weeks of one, in which a pocket is bad and loading takes
longer than was assumed; a few days of each of the others.
"""

from __future__ import annotations

import random
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter

from wedgecraft.core.records.log import AnyEntry

_ENTRY: TypeAdapter[AnyEntry] = TypeAdapter(AnyEntry)
#: What is measured varies so much by itself, mm; a wrench, N·m.
_SPREAD_MM, _WRENCH_NM = 0.006, 0.25
_BETWEEN_S = 40


@dataclass(frozen=True)
class Days:
    """How a setup went: what its design and programs say of a cycle, and how it really was.

    ``each``: parts at a station. ``longer``, ``slower``: loading and cycle against that.
    ``measured``: a feature, and how far all of them are off in X; ``bad``: a station, how far its
    parts are off, and its share scrapped. ``edge``: the tool that wears, minutes of cut a cycle and
    its life. ``lunch``: a load that stood, ``weak``: a load whose screws were not tightened;
    ``slipped``: cycle and station.
    """

    job: str
    stations: int
    cycle_s: float
    load_s: float
    torque_nm: float = 0.0
    setup: int = 1
    each: int = 1
    days: int = 3
    after: int = 0
    a_day: int = 9
    longer: float = 1.0
    slower: float = 1.0
    measured: tuple[str, float] | None = None
    bad: tuple[int, float, float] | None = None
    edge: tuple[str, float, float] | None = None
    stops: tuple[str, ...] = ("chips in the way", "chips in the way", "coolant low")
    lunch: int = 0
    weak: int = 0
    slipped: tuple[int, int] | None = None

    @property
    def pieces(self) -> int:
        """Parts of a cycle."""
        return self.stations * self.each


_PALLET = "Manifold block, by the pallet"
DAYS = (
    Days(_PALLET, 52, 3207, 2080, 16, days=10, longer=1.35, slower=1.04, bad=(17, 0.021, 0.16),
         measured=("Supply bore", 0.0), edge=("T2 outside", 645 / 60, 74), lunch=31, weak=52),
    Days("Manifold block, 8-port", 16, 1142, 640, 16, days=3, a_day=14, longer=1.1,
         measured=("Supply bore", 0.0), edge=("T2 outside", 6.5, 90)),
    Days("Manifold block, 8-port", 16, 840, 640, 16, setup=2, after=3, days=3, a_day=16),
    Days("Vane yoke", 13, 2388, 624, 14, days=4, a_day=10, slower=1.06,
         measured=("Pivot holes", 0.0), edge=("T2 outside and fork", 31, 120)),
    Days("Vane yoke", 9, 1576, 360, 15, setup=2, after=4, days=2, a_day=12),
    Days("Float-arm hub", 30, 680, 1200, 16, days=3, a_day=13, longer=0.85,
         measured=("Shaft bore", 0.034), edge=("T4 shaft bore, ream", 2.2, 60)),
    Days("Float-arm hub", 9, 46, 360, 12, setup=2, after=3, days=2, a_day=30),
    Days("Gland plate", 20, 2187, 800, 17, days=4, a_day=9, slower=1.03,
         measured=("Seal bore", 0.0), edge=("T9 outside", 23, 75)),
    Days("Gland plate", 9, 757, 360, 26, setup=2, after=4, days=2, a_day=18),
    Days("Anchor lug", 7, 670, 280, 20, days=3, a_day=20, measured=("Pin hole", 0.0),
         slipped=(11, 4)),
    Days("Anchor lug", 9, 255, 648, 60, setup=2, each=2, after=3, days=2, a_day=22),
    Days("Probe-clamp kit", 30, 1749, 1200, days=4, a_day=9, longer=1.15,
         measured=("Clamp screw hole", 0.0)),
    Days("Probe-clamp kit", 9, 1512, 360, 27, setup=2, after=4, days=2, a_day=12),
    Days("Staff-gauge cover", 8, 288, 288, 72, days=4, a_day=32, longer=0.92,
         measured=("Ø6.6 hole 3", 0.0)),
    Days("Gauge-well collar", 2, 210, 80, 104, days=3, a_day=60, measured=("Ø25 hole 1", 0.0),
         edge=("T2 outside", 2.0, 80)),
    Days("Gauge-well collar", 9, 240, 360, 60, setup=2, after=3, days=2, a_day=26),
)  # fmt: skip


def logged(job: str, until: datetime) -> list[AnyEntry]:
    """Of the two weeks before a moment, the same every time but for their dates."""
    monday = until - timedelta(days=until.weekday() + 14)
    start = monday.replace(hour=7, minute=0, second=0, microsecond=0)
    return [
        _ENTRY.validate_python(entry)
        for days in DAYS
        if days.job == job
        for entry in _all(days, start)
    ]


def _all(days: Days, start: datetime) -> Iterator[dict[str, Any]]:
    seed = "two weeks" if days.job == _PALLET else f"{days.job} {days.setup}"
    draw = random.Random(seed)  # noqa: S311 (no secret)
    number, cut = 0, 0.0
    tool, minutes, life = days.edge or ("", 0.0, 1e9)
    lasts = draw.gauss(life, 0.19 * life)
    stations = range(1, days.stations + 1)

    def entry(at: datetime, many: int, kind: str, **given: Any) -> dict[str, Any]:
        ident = uuid.uuid5(uuid.NAMESPACE_OID, f"{seed} {kind} {many}").hex
        return {"id": ident, "at": at, "kind": kind, "setup": days.setup, **given}

    for day in range(days.after, days.after + days.days):
        at = start + timedelta(days=day + (2 if day >= 5 else 0))
        for _ in range(days.a_day):
            number += 1
            load_s = days.load_s * days.longer * draw.gauss(1, 0.07)
            if number == days.lunch:
                load_s *= 4.5  # a pallet that stood over lunch
            yield entry(at, number, "load", seconds=round(load_s), parts=days.pieces, by="tablet")
            for station in draw.sample(stations, 2) if days.torque_nm else []:
                torque = draw.gauss(days.torque_nm, _WRENCH_NM * days.torque_nm / 16)
                if number == days.weak:
                    torque -= 4
                yield entry(at, number * 100 + station, "torque", station=station,
                            torque_nm=round(torque, 1), by="wrench")  # fmt: skip
            cycle_s = days.cycle_s * days.slower * draw.gauss(1, 0.012)
            ended = at + timedelta(seconds=cycle_s)
            scrapped = [s for s in stations if draw.random() < 0.003]
            if days.bad and draw.random() < days.bad[2] and days.bad[0] not in scrapped:
                scrapped.append(days.bad[0])
            if days.slipped and days.slipped[0] == number:
                slipped = days.slipped[1]
                scrapped = sorted({*scrapped, slipped})
                yield entry(ended, number, "slip", station=slipped, by="tablet",
                            note="chips under the part")  # fmt: skip
            yield entry(ended, number, "cycle", seconds=round(cycle_s), by="control",
                        good=days.pieces - len(scrapped), scrapped=sorted(scrapped))  # fmt: skip
            for place, station, axis, off in _measured(draw, days, number):
                yield entry(ended, number * 1000 + place, "measure", station=station, axis=axis,
                            feature=days.measured[0] if days.measured else "", off_mm=off,
                            by="probe")  # fmt: skip
            cut += minutes
            if cut >= lasts:
                yield entry(ended, number, "edge", tool=tool, minutes=round(cut, 1), worn=True,
                            by="control")  # fmt: skip
                cut, lasts = 0.0, draw.gauss(life, 0.19 * life)
            if draw.random() < 0.08:
                reason = draw.choice(days.stops)
                seconds = round(draw.expovariate(1 / 600)) + 60
                yield entry(ended, number, "stop", seconds=seconds, reason=reason, by="tablet")
            at = ended + timedelta(seconds=_BETWEEN_S)


def _measured(
    draw: random.Random, days: Days, number: int
) -> Iterator[tuple[int, int, str, float]]:
    """One part of each cycle, and the bad pocket's every other time: its stop has moved."""
    if not days.measured:
        return
    bad, off, _ = days.bad or (0, 0.0, 0.0)
    stations = [draw.randint(1, days.stations)] + ([bad] if bad and number % 2 else [])
    for station in dict.fromkeys(stations):
        for axis in ("X", "Y"):
            aside = days.measured[1] + (off if station == bad else 0.0) if axis == "X" else 0.0
            value = round(draw.gauss(aside, _SPREAD_MM), 4)
            yield station * 2 + (axis == "Y"), station, axis, value
