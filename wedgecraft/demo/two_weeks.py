"""Two weeks of a made-up log: one pocket is bad, and loading takes longer than was assumed."""

from __future__ import annotations

import random
import uuid
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

from pydantic import TypeAdapter

from wedgecraft.core.records.log import AnyEntry

_ENTRY: TypeAdapter[AnyEntry] = TypeAdapter(AnyEntry)
#: The job, what its setup 1 is run with, and the pocket that is bad.
LOGGED = "Manifold block, by the pallet"
BAD_STATION = 17
_STATIONS = 50
_CYCLE_S, _LOAD_S = 3104.0, 2000.0
#: How much longer than assumed: loading, and the program.
LONGER, SLOWER = 1.35, 1.04
_CYCLES_A_DAY = 9
_DAYS = 10
#: What the wrench is set to, N·m.
_TORQUE_NM = 16.0


def entries(until: datetime) -> list[AnyEntry]:
    """Of the two weeks before a moment, the same every time but for their dates."""
    monday = until - timedelta(days=until.weekday() + 14)
    start = monday.replace(hour=7, minute=0, second=0, microsecond=0)
    return [_ENTRY.validate_python(entry) for entry in _all(start)]


def _all(start: datetime) -> Iterator[dict[str, Any]]:
    draw = random.Random("two weeks")  # noqa: S311 (no secret)
    number, cut_s = 0, 0.0
    life = draw.gauss(74, 14)
    for day in range(_DAYS):
        at = start + timedelta(days=day + (2 if day >= 5 else 0))
        for _ in range(_CYCLES_A_DAY):
            number += 1
            load_s = _LOAD_S * LONGER * draw.gauss(1, 0.07)
            if number == 31:
                load_s *= 4.5  # a pallet that stood over lunch
            yield _entry(at, number, "load", seconds=round(load_s), parts=_STATIONS, by="tablet")
            for station in draw.sample(range(1, _STATIONS + 1), 2):
                torque = round(draw.gauss(_TORQUE_NM, 0.25), 1) - (4 if number == 52 else 0)
                yield _entry(at, number * 100 + station, "torque", station=station,
                             torque_nm=torque, by="wrench")  # fmt: skip
            cycle_s = _CYCLE_S * SLOWER * draw.gauss(1, 0.012)
            ended = at + timedelta(seconds=cycle_s)
            scrapped = [s for s in range(1, _STATIONS + 1) if draw.random() < 0.003]
            if draw.random() < 0.16 and BAD_STATION not in scrapped:
                scrapped.append(BAD_STATION)
            yield _entry(ended, number, "cycle", seconds=round(cycle_s),
                         good=_STATIONS - len(scrapped), scrapped=sorted(scrapped),
                         by="control")  # fmt: skip
            yield from _measured(draw, ended, number)
            cut_s += 620
            if cut_s / 60 >= life:
                yield _entry(ended, number, "edge", tool="T2 outside", minutes=round(cut_s / 60, 1),
                             worn=True, by="control")  # fmt: skip
                cut_s, life = 0.0, draw.gauss(74, 14)
            if draw.random() < 0.08:
                reason = draw.choice(["chips in the way", "chips in the way", "coolant low"])
                seconds = round(draw.expovariate(1 / 600)) + 60
                yield _entry(ended, number, "stop", seconds=seconds, reason=reason, by="tablet")
            at = ended + timedelta(seconds=40)


def _measured(draw: random.Random, at: datetime, number: int) -> Iterator[dict[str, Any]]:
    """One part of each cycle, and the bad pocket's every other time: its stop has moved."""
    stations = [draw.randint(1, _STATIONS)] + ([BAD_STATION] if number % 2 else [])
    for station in stations:
        off = 0.021 if station == BAD_STATION else 0.0
        for axis in ("X", "Y"):
            value = round(draw.gauss(off if axis == "X" else 0.0, 0.006), 4)
            yield _entry(at, number * 1000 + station * 2 + (axis == "Y"), "measure",
                         station=station, feature="Supply bore", axis=axis, off_mm=value,
                         by="probe")  # fmt: skip


def _entry(at: datetime, number: int, kind: str, **given: Any) -> dict[str, Any]:
    ident = uuid.uuid5(uuid.NAMESPACE_OID, f"two weeks {kind} {number}").hex
    return {"id": ident, "at": at, "kind": kind, **given}
