"""How parts of every size come to lie between soft jaws, and what that does to where they are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.locate.lies import Lies, Profile, Settled, lies, profile_of, settled, stiffness
from wedgecraft.core.locate.sources import Source, shifting
from wedgecraft.core.records.cut import largest
from wedgecraft.core.records.element import Nest
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.nest import posts_in, profile
from wedgecraft.core.station.preload import blanks_of
from wedgecraft.core.workpiece.blank import FACED_MM
from wedgecraft.core.workpiece.sitting import Sitting

#: What soft jaws are cut from.
JAW_MATERIAL = MATERIALS["aluminium-6061"]
#: A profile this near the finished part's was cut.
_CUT_MM = 0.1
#: Blanks that differ from one another between two parts spread so much more.
_NOT_UNIFORM = 3.0
#: Less than this, mm or mrad, is nothing.
_NOTHING = 1e-5
Size = Literal["smallest", "nominal", "largest"]


@dataclass(frozen=True)
class Resting:
    """One size of part in its pocket: how much smaller all round than that, where it comes to lie,
    and within what.
    """

    size: Size
    gap_mm: float
    lying: Lies
    settled: Settled


@dataclass(frozen=True)
class InJaws:
    """Parts of a station between soft jaws: the profile that can touch, how they rest from the
    smallest to the largest; half of how much they differ across the jaws, and where that comes
    from.
    """

    profile: Profile
    rests: tuple[Resting, ...]
    varies_mm: float
    varies_says: str


def in_jaws(
    view: OpView, sitting: Sitting, nest: Nest, reliefs: BaseGeometry | None = None
) -> InJaws:
    """``reliefs``: what of the pocket's walls is gone; where it is not known yet, nothing is."""
    kind = view.station
    held = profile(sitting, kind)
    varies, source = _varies(view, sitting, held)
    posts = [post.exterior.coords for post in posts_in(held, nest)]
    walled = Polygon(held.exterior, posts)
    at = profile_of(walled, nest.split_mm(held), nest.gap_mm, reliefs)
    high, element = kind.stops.height_mm, kind.element
    walls = _walls(view, sitting, held)
    force = element.preload(kind.clamp).high_n / kind.sharing.parts
    tilt, clearance = float(getattr(element, "tilt_nmm", 0.0)), clearance_of(view)
    sizes: tuple[tuple[Size, float], ...] = (
        ("smallest", varies / 2),
        ("nominal", 0.0),
        ("largest", -varies / 2),
    )
    found = []
    for size, more in sizes:
        gap = clearance + more
        stiff = stiffness(at, gap, force, high, walls, tilt)
        lying = lies(at, gap, force, stiff, high, tilt)
        within = settled(at, gap, force, stiff, high, tilt, kind.stops.friction)
        found.append(Resting(size, gap, lying, within))
    return InJaws(at, tuple(found), varies, source)


def clearance_of(view: OpView) -> float:
    """Of a pocket, all round, mm."""
    return float(getattr(view.station.locating, "clearance_mm", 0.05)) / 2


def play_in_jaws(view: OpView, sitting: Sitting, nest: Nest) -> list[Source]:
    """What a part does that is put down anywhere in the play of its pocket, and clamped: of all
    sizes the one that moves most. About the middle of the profile.
    """
    found = in_jaws(view, sitting, nest)
    half = np.max([item.settled.half for item in found.rests], axis=0)
    x, y, turn = (float(value) if value > _NOTHING else 0.0 for value in half)
    middle = np.array([*found.profile.at.mean(axis=0), 0.0])
    clearance = 2 * clearance_of(view)
    why = (
        f"{clearance:g} mm in all, not pushed into a corner; from where walls press and friction"
        " lets it stay"
    )
    sources = [
        shifting("play in the nest", "uniform", shift, why)
        for shift in ((x, 0.0, 0.0), (0.0, y, 0.0))
        if any(shift)
    ]
    if turn:
        by = np.array([0.0, 0.0, turn])
        sources.append(Source("play in the nest", "uniform", -cross(by, middle), by, why))
    return sources


def _varies(view: OpView, sitting: Sitting, held: Polygon) -> tuple[float, str]:
    """Half of how much parts differ across the jaws: little where what is held is the finished
    part's own, as its blanks do where it is raw.
    """
    deep = view.station.stops.height_mm
    finished = Polygon(largest(sitting.finished.seen(0.0, deep)).exterior)
    if Polygon(held.exterior).hausdorff_distance(finished) < _CUT_MM:
        return FACED_MM, "faces cut in an op before"
    blanks = blanks_of(view, sitting)
    return blanks.spread_mm * (1.0 if blanks.uniform else _NOT_UNIFORM), blanks.source


def _walls(view: OpView, sitting: Sitting, held: Polygon) -> list[tuple[float, float]]:
    """What gives at a wall: the jaw behind it and half the part, each how thick, mm, and its
    modulus, MPa.
    """
    kind = view.station
    moving = float(getattr(kind.element, "moving_mm", kind.stops.thickness_mm))
    behind = (kind.stops.thickness_mm + moving) / 2
    across = float(held.bounds[2] - held.bounds[0])
    part = sitting.part.material.youngs_mpa
    return [(behind, JAW_MATERIAL.youngs_mpa), (across / 2, part)]
