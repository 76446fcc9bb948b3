"""What would bring a feature in at a station: each change solved by adding up again, and ranked."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.locate.ready import Ready, ready
from wedgecraft.core.locate.scaling import scaled, share_of
from wedgecraft.core.locate.verdicts import Judged
from wedgecraft.core.records.rules import STRATEGIES
from wedgecraft.core.records.verdicts import BringsIn

#: A coordinate measuring machine knows a station's place this well, plus or minus; common practice,
#: no source.
MEASURED_MM = 0.003
_STEPS = 24
#: A change that moves the share by less than this is none.
_FELT = 0.005


def remedies(item: Ready, one: Judged, row: int) -> list[BringsIn]:
    """Ranked: those that bring it in, the smallest change first; then the rest by what they leave.
    Where it is in already, by that alone.
    """
    now = float(one.share[row])
    found = [*_smaller(item, one, row), *_strategies(item, one, row), *_longer_stop(item, one, row)]
    felt = [change for change in found if change.share < now - _FELT]
    if now <= 1:
        return sorted(felt, key=lambda each: (each.share, each.what))[:8]
    return sorted(
        felt,
        key=lambda each: (
            not each.brings_in,
            -each.change if each.brings_in else each.share,
            each.what,
        ),
    )[:8]


def _smaller(item: Ready, one: Judged, row: int) -> list[BringsIn]:
    """Contributors made smaller: as little as is enough, or as far as they go."""
    accuracy, machine, kind = item.view.accuracy, item.view.machine, item.view.station
    asked: list[tuple[str, tuple[str, ...], float, float, str, str]] = [
        (
            "Measure the stations and put their places into the program",
            ("station place",),
            accuracy.station_place_mm,
            MEASURED_MM,
            "accuracy.station_place_mm",
            "known within ±{:.3f} mm",
        ),
        (
            "Keep the shop nearer one temperature",
            ("temperature",),
            accuracy.temperature_k,
            0.5,
            "accuracy.temperature_k",
            "±{:.1f} K",
        ),
        (
            "Pick the datum up better",
            ("datum pick-up",),
            accuracy.datum_pickup_mm,
            0.002,
            "accuracy.datum_pickup_mm",
            "±{:.3f} mm",
        ),
        (
            "Truer stops and pins",
            ("locators' place",),
            accuracy.locator_mm,
            0.001,
            "accuracy.locator_mm",
            "±{:.3f} mm each",
        ),
        (
            "Renew worn locators",
            ("locators' wear",),
            accuracy.wear_mm,
            0.0,
            "accuracy.wear_mm",
            "±{:.3f} mm of wear",
        ),
        (
            "Truer plate and rests",
            ("height of plate and rests",),
            accuracy.height_mm,
            0.003,
            "accuracy.height_mm",
            "±{:.3f} mm",
        ),
        (
            "Truer faces of the block",
            ("faces to one another",),
            accuracy.face_place_mm,
            0.003,
            "accuracy.face_place_mm",
            "±{:.3f} mm",
        ),
        (
            "A positive stop or dowels, so that it comes back where it was",
            ("bolted on again",),
            accuracy.rebolted_mm,
            0.003,
            "accuracy.rebolted_mm",
            "±{:.3f} mm",
        ),
        (
            "A machine that positions better",
            ("machine positioning",),
            machine.positioning_mm,
            0.001,
            "",
            "±{:.4f} mm",
        ),
        (
            "A rotary that indexes better",
            ("rotary index",),
            machine.index_arcsec,
            1.0,
            "",
            "±{:.1f} arc seconds",
        ),
        (
            "Truer datum faces: machine the blanks first",
            ("datum faces",),
            _largest(item),
            0.003,
            "",
            "flat within ±{:.3f} mm",
        ),
        (
            "Tighter blanks",
            ("size of the blank", "diameter of the round", "neighbours in the row"),
            1.0,
            0.02,
            "",
            "{:.2f} times as wide",
        ),
        ("Tighter pins", ("play on the pins",), 1.0, 0.15, "", "{:.2f} times the play"),
        (
            "Hold it stiffer, or a lighter finishing cut",
            ("give under the cut",),
            _give(item),
            0.0,
            "",
            "give {:.4f} mm",
        ),
    ]
    found = []
    for what, groups, now, least, field, form in asked:
        if now <= least:
            continue
        factor, share = _solved(one, row, groups, item, least / now)
        if factor < 1:
            value = now * factor
            settable = field.startswith("accuracy.")
            found.append(
                BringsIn(
                    what=f"{what}: {form.format(value)}"[:120],
                    field=field if settable else "",
                    value=_down(value) if settable else None,
                    share=share,
                    brings_in=share <= 1 + 1e-9,
                    change=factor,
                )
            )
    push = kind.locating.takes_up_play
    if push is not None:
        factor, share = _solved(one, row, ("play in the nest",), item, 0.0, whole=True)
        found.append(
            BringsIn(
                what=push[0],
                field=f"station.locating.{push[1]}",
                value="true",
                share=share,
                brings_in=share <= 1 + 1e-9,
                change=factor,
            )
        )
    return found


def _down(value: float) -> float:
    """Rounded down to four digits behind the point, so that it is still enough."""
    return float(np.floor(value * 1e4) / 1e4)


def _largest(item: Ready) -> float:
    return max((face.range_mm for face in item.locating.located[0].faces.values()), default=0.0)


def _give(item: Ready) -> float:
    return max(item.gives_mm.values(), default=0.0)


def _solved(
    one: Judged, row: int, groups: tuple[str, ...], item: Ready, least: float, whole: bool = False
) -> tuple[float, float]:
    """The largest factor at which it is in, not below ``least``, with the share it leaves.
    ``whole``: all the way.
    """
    stack, ways = one.stack(row)
    limit, rule = one.check(row).limit_mm, item.locating.rule

    def share(factor: float) -> float:
        return float(share_of(scaled(stack, groups, factor), ways, limit, rule)[0])

    if whole or share(least) > 1 or share(1.0) <= 1:
        return least, share(least)
    low, high = least, 1.0
    for _ in range(_STEPS):
        middle = (low + high) / 2
        low, high = (middle, high) if share(middle) <= 1 else (low, middle)
    return low, share(low)


def _strategies(item: Ready, one: Judged, row: int) -> list[BringsIn]:
    found, locating = [], item.locating
    member, check = one.member(row), one.check(row)
    if check.relative:
        return []
    now = STRATEGIES.index(locating.surroundings.strategy)
    for strategy in STRATEGIES[now + 1 :]:
        if strategy == "one per face" and locating.surroundings.faces == 1:
            continue
        other = replace(locating, surroundings=replace(locating.surroundings, strategy=strategy))
        share = float(other.shares(check, one.corners[row : row + 1], [one.turns[row]], member)[0])
        what = (
            "A datum for each face"
            if strategy == "one per face"
            else "A datum, and a work offset, for each part"
        )
        change = 0.5 if strategy == "one per face" else 0.3
        found.append(
            BringsIn(
                what=what,
                field="rules.datum",
                value=strategy,
                share=share,
                brings_in=share <= 1 + 1e-9,
                change=change,
            )
        )
    return found


def _longer_stop(item: Ready, one: Judged, row: int) -> list[BringsIn]:
    """The long stop as much longer as is enough; its ends stand farther apart."""
    kind, check = item.view.station, one.check(row)
    depth = float(item.station.part.bounds[3])
    if (
        not kind.locating.plain
        or not kind.stopped
        or kind.stops.length_mm >= depth
        or check.relative
    ):
        return []

    def share(length: float) -> float:
        longer = kind.model_copy(
            update={"stops": kind.stops.model_copy(update={"length_mm": length})}
        )
        view = replace(item.view, station=longer)
        locating = ready(view).locating
        same = [other for other in locating.checks if other.feature.name == check.feature.name]
        return max(
            float(
                locating.shares(
                    other, one.corners[row : row + 1], [one.turns[row]], one.member(row)
                )[0]
            )
            for other in same
        )

    try:
        best = share(depth)
        length, left = depth, best
        if best <= 1 < float(one.share[row]):
            low, high = kind.stops.length_mm, depth
            for _ in range(8):
                middle = (low + high) / 2
                low, high = (low, middle) if share(middle) <= 1 else (middle, high)
            length, left = high, share(high)
    except OutOfRange:
        return []
    length = float(np.ceil(length * 10) / 10)
    return [
        BringsIn(
            what=f"A longer long stop: {length:.1f} mm",
            field="station.stops.length_mm",
            value=length,
            share=left,
            brings_in=left <= 1 + 1e-9,
            change=kind.stops.length_mm / length,
        )
    ]
