"""Several parts that share one clamp: a double wedge between two, one edge clamp for two, a row
between jaws.

What every part of such a station gets of the screw's force, and where the parts sit beside the
first.
"""

from __future__ import annotations

import math
from functools import lru_cache

from wedgecraft.core.clamping.jaw_row import row
from wedgecraft.core.clamping.screw import edge_clamp_preload, screw_forces_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.row import RowRequest, RowResult
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks, Sharing

#: Behind a part there must be room to drop it in, before the next one's stop.
BEHIND_MM = 1.0


def wedge_force_n(screw_n: float, angle_deg: float, friction: float) -> float:
    """Force of each jaw of a double wedge that a screw pulls down: ``F / (2 tan(angle + rho))``,
    ``rho = atan(friction)``.

    Both flanks lean ``angle`` from the screw's axis. Source: statics of the wedge, any handbook of
    mechanics.
    """
    return screw_n / (2 * math.tan(math.radians(angle_deg) + math.atan(friction)))


def part_preload(
    clamp: EdgeClamp,
    sharing: Sharing,
    blanks: Blanks,
    places_mm: tuple[float, ...] = (),
    whole: Preload | None = None,
    screw_mm: float | None = None,
) -> Preload:
    """What one clamp presses each part with, low and high. Raises OutOfRange.

    ``places_mm``: where along the jaw the parts of a row are pressed; ``whole``: what they share,
    where that is no edge clamp's; ``screw_mm``: where that pushes, amid them where nothing is said.
    """
    if sharing.how == "double wedge between two":
        return _wedge(clamp, sharing)
    whole = whole or edge_clamp_preload(clamp)
    if sharing.how == "a clamp each":
        return whole
    if sharing.how == "one clamp for two":
        # A toe that rocks balances on two, whatever their sizes.
        return Preload(whole.low_n / 2, whole.high_n / 2, whole.seating_n / 2)
    count = len(places_mm)
    if blanks.rule == "strict" and count > 2:
        raise OutOfRange(
            "station.sharing.row",
            count,
            "two: the house rule is strict, a rigid jaw only ever balances on two. Take 2, or let"
            " the rule be computed",
        )
    screw = amid(places_mm) if screw_mm is None else screw_mm
    if count <= 2 or blanks.rule == "off":
        # the lever: the part farther from the screw gets less
        arms = [place - amid(places_mm) for place in places_mm]
        off = abs(screw - amid(places_mm)) * max(arms) / max(sum(a * a for a in arms), 1e-9)
        off = min(off, 1 / count)
        return Preload(whole.low_n * (1 / count - off), whole.high_n * (1 / count + off), 0.0)
    low = row_share(sharing, blanks, places_mm, whole.low_n, screw)
    high = row_share(sharing, blanks, places_mm, whole.high_n, screw)
    if low.least_n <= 0:
        raise OutOfRange(
            "station.sharing.row",
            count,
            "fewer parts, or blanks more alike: over the jaws they differ by"
            f" {blanks.spread_mm:.3g} mm ({blanks.source}), so in {100 * low.chance_loose:.0f} of"
            " 100 clampings one part is loose. Two always share; faced to one length more would"
            " hold",
        )
    return Preload(low.least_n, max(part.high_n for part in high.parts), 0.0)


def amid(places_mm: tuple[float, ...]) -> float:
    """The middle of a row."""
    return (min(places_mm, default=0.0) + max(places_mm, default=0.0)) / 2


@lru_cache(maxsize=64)
def row_share(
    sharing: Sharing, blanks: Blanks, places_mm: tuple[float, ...], force_n: float, screw_mm: float
) -> RowResult:
    """The row of this station. Raises OutOfRange for a screw that pushes beside it."""
    if not min(places_mm) <= screw_mm <= max(places_mm):
        raise OutOfRange(
            "station.sharing.row",
            len(places_mm),
            "one, or parts that the jaws meet in their middle: the screw would push beside what"
            " the jaw touches",
        )
    return row(
        RowRequest(
            places_mm=list(places_mm),
            force_n=force_n,
            screw_mm=screw_mm,
            spread_mm=blanks.spread_mm,
            stiffness_n_mm=sharing.part_stiffness_n_mm,
            tilt_stiffness_nmm=sharing.tilt_stiffness_nmm,
            distribution="uniform" if blanks.uniform else "normal",
            clampings=4000,
        )
    )


def _wedge(clamp: EdgeClamp, sharing: Sharing) -> Preload:
    low, high = screw_forces_n(clamp)
    if sharing.wedge_friction_low > sharing.wedge_friction_high:
        raise OutOfRange(
            "station.sharing.wedge_friction_low",
            sharing.wedge_friction_low,
            "at most wedge_friction_high",
        )
    return Preload(
        wedge_force_n(low, sharing.wedge_angle_deg, sharing.wedge_friction_high),
        wedge_force_n(high, sharing.wedge_angle_deg, sharing.wedge_friction_low),
        0.0,
    )
