"""What stops bear: dowels by themselves what pushes sideways, screws what would tilt the bar.

Or, let into a groove, its walls bear both.

Dowels: the least single shear strength of hardened ground dowels, ASME B18.8.2 (130,000 psi, from
memory), and the bearing of the plate round them, its yield strength. Screws: class 8.8, proof
stress 580 MPa and stress area, ISO 898-1 (from memory), tightened to 70 % of that; the bar tilts
about its far lower edge once that is used up.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.make.fasteners import THREADS, Thread
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.material import HOLDER_YIELD_MPA

#: Hardened dowels, MPa: 130,000 psi.
DOWEL_SHEAR_MPA = 896.0
#: Proof stress of class 8.8, MPa, and how much of it a screw is tightened to.
PROOF_MPA, TIGHTENED = 580.0, 0.7


@dataclass(frozen=True)
class Push:
    """A force on a stop, N, horizontal: where, in mm of its station, ``z`` over the plate, and the
    way it goes.
    """

    force_n: float
    at: tuple[float, float, float]
    way: tuple[float, float]


@dataclass(frozen=True)
class Borne:
    """How many times what pushes a stop bears: ``sideways`` by its dowels, ``upright`` by its
    screws; N and N·m that push.
    """

    sideways: float
    upright: float
    force_n: float
    moment_nm: float


def stress_area_mm2(thread: Thread) -> float:
    """Of a metric thread, ISO 898-1: the mean of pitch and minor diameter; of a unified one, ASME
    B1.1.

    >>> [round(stress_area_mm2(THREADS[name]), 1) for name in ("M6", "M8", "M12")]
    [20.1, 36.6, 84.3]
    """
    pitches = 0.9743 if thread.inch else 0.9382
    return math.pi / 4 * (thread.nominal_mm - pitches * thread.pitch_mm) ** 2


def tightened_n(thread: Thread) -> float:
    """What a screw pulls with once it is tightened, N."""
    return TIGHTENED * PROOF_MPA * stress_area_mm2(thread)


def borne(
    bar: Polygon, fixings: Sequence[Fixing], pushes: Sequence[Push], plate_yield_mpa: float
) -> Borne | None:
    """How a stop stands what pushes it; nothing where nothing pushes or nothing is known of how it
    is fixed.
    """
    total = sum(push.force_n for push in pushes)
    screws = [item for item in fixings if item.thread]
    dowels = [item for item in fixings if item.dowel_mm]
    if total <= 0 or not screws or not dowels:
        return None
    forces = np.array([push.force_n for push in pushes])
    way = forces @ np.array([push.way for push in pushes])
    way /= np.linalg.norm(way)
    across = np.array([-way[1], way[0]])
    at = float(forces @ np.array([push.at[:2] for push in pushes]) @ across) / total
    each = _shared(at, [float(across @ (item.x, item.y)) for item in dowels])
    sideways = min(
        _dowel_n(item, plate_yield_mpa) / (share * total)
        for item, share in zip(dowels, each, strict=True)
        if share > 0
    )
    moment = sum(push.force_n * push.at[2] for push in pushes)
    far = max(float(way @ corner) for corner in np.array(bar.exterior.coords))
    keeps = sum(
        tightened_n(THREADS[item.thread]) * max(0.0, far - float(way @ (item.x, item.y)))
        for item in screws
    )
    return Borne(sideways, keeps / moment if moment else math.inf, total, moment / 1000)


def _shared(at: float, places: Sequence[float]) -> list[float]:
    """Of a force beside or between dowels, what each takes as a beam on two supports would."""
    if len(places) == 1 or math.isclose(min(places), max(places), abs_tol=1.0):
        return [1 / len(places)] * len(places)
    first, second = places[0], places[-1]
    share = (at - first) / (second - first)
    return [abs(1 - share), abs(share)]


def _dowel_n(dowel: Fixing, plate_yield_mpa: float) -> float:
    """What one dowel takes sideways."""
    shear = DOWEL_SHEAR_MPA * math.pi / 4 * dowel.diameter_mm**2
    bearing = plate_yield_mpa * dowel.diameter_mm * (dowel.depth_mm or dowel.dowel_mm)
    return min(shear, bearing)


def groove_bears(deep_mm: float, high_mm: float, long_mm: float, plate_yield_mpa: float) -> float:
    """What force sideways, ``high_mm`` over the plate, a bar let into a groove takes before the
    groove's walls yield, N: pressed evenly at the yield strength on both walls, above and below
    where it turns about.

    Statics of a rigid post in a socket: with u = F / (p L), u = sqrt((g + 2 h)^2 + g^2) - (g + 2
    h). At no height half its depth would be too much; far up it is a plain couple, p L g^2 / 4 h:

    >>> round(groove_bears(10, 1000, 40, 275) / (275 * 40 * 10**2 / 4 / 1005), 3)
    1.0
    """
    reach = deep_mm + 2 * high_mm
    return plate_yield_mpa * long_mm * (math.hypot(reach, deep_mm) - reach)


def bar_bears(across_mm: float, high_mm: float, long_mm: float) -> float:
    """What force sideways, so high over the plate, a hardened bar takes as a beam that is held at
    its foot, N.
    """
    return HOLDER_YIELD_MPA * long_mm * across_mm**2 / 6 / max(high_mm, 0.1)
