"""What stays of a soft jaw behind its pocket, and how that gives under the vise's force."""

from __future__ import annotations

import math
from typing import NamedTuple

from wedgecraft.core.locate.in_jaws import JAW_MATERIAL
from wedgecraft.core.make.pair import Pair
from wedgecraft.core.records.material import POISSON
from wedgecraft.core.records.piece import MakeDoubt

#: Shear of a rectangle: its section counts so much less (Timoshenko).
_SHEAR = 1.2
_NEAR_MM = 0.1
#: A wall is not let into something stiff: how its root turns, by moment, and moves, by shear
#: (O'Donnell 1960, "The additional deflection of a cantilever due to the elasticity of the
#: support", from memory).
_ROOT = 16.67 / math.pi
#: And it is pushed aside with the base round it, by so much times shear over the modulus; by finite
#: elements of walls half to four times as high as thick.
_ASIDE = 2.0


class Behind(NamedTuple):
    """Of a jaw: how thick its wall is, how far its top bends back, the stress at its foot."""

    thick_mm: float
    bends_mm: float
    stress_mpa: float


def wall(force_n: float, high_mm: float, thick_mm: float, wide_mm: float, youngs: float) -> Behind:
    """A wall so high and thick, pressed evenly over its height and over so much of its length: as a
    short beam on a base of the same material.
    """
    shear = force_n / wide_mm
    moment = shear * high_mm / 2
    bent = 12 * shear * high_mm**3 / (8 * youngs * thick_mm**3)
    sheared = _SHEAR * shear * high_mm / (2 * youngs / (2 * (1 + POISSON)) * thick_mm)
    root = high_mm * _ROOT * moment / (youngs * thick_mm**2)
    root += (1 - POISSON) * (shear * high_mm + moment) / (youngs * thick_mm)
    root += _ASIDE * shear / youngs
    return Behind(thick_mm, bent + sheared + root, 6 * moment / thick_mm**2)


def behind(pair: Pair, force_n: float) -> tuple[Behind, Behind]:
    """Of the fixed and the moving jaw. A wall spreads what presses it as far to either side as it
    is high, not beyond the jaw.
    """
    milled = [cutting.area.bounds for cutting in pair.cuttings]
    fixed, moving = pair.fixed.bounds, pair.moving.bounds
    left = min(box[0] for box in milled) - fixed[0]
    right = moving[2] - max(box[2] for box in milled)
    long = fixed[3] - fixed[1]
    count = len(pair.along)
    found = []
    for jaw, thick in enumerate((left, right)):
        wide = min(long, pair.kept(jaw) + 2 * pair.depth_mm * count)
        thick = max(thick, 0.01)
        found.append(wall(force_n, pair.depth_mm, thick, wide, JAW_MATERIAL.youngs_mpa))
    return found[0], found[1]


class PostGives(NamedTuple):
    """A post: how thick it is, the force it takes of the jaw's, and the stress at its foot."""

    thick_mm: float
    force_n: float
    stress_mpa: float


def posts_give(pair: Pair, force_n: float) -> list[PostGives]:
    """Of every post in the first pocket. Each takes of the force what its wall is of all that
    grips on its jaw, halfway up.
    """
    found = []
    for post in pair.posts:
        area = post.buffer(-pair.clearance_mm)
        x0, y0, x1, y1 = area.bounds
        jaw = int(area.centroid.x > pair.split_mm)
        grips = pair.grips[jaw]
        own = grips.intersection(post.buffer(_NEAR_MM)).length * len(pair.along)
        force = force_n / len(pair.along) * own / max(grips.length, 1e-9)
        # a rectangle round it, as full as it is
        section = (y1 - y0) * (x1 - x0) ** 2 / 6 * area.area / ((x1 - x0) * (y1 - y0))
        found.append(PostGives(x1 - x0, force, force * pair.depth_mm / 2 / section))
    return found


def weak_posts(found: list[PostGives], needed: float) -> list[MakeDoubt]:
    """Posts whose foot would yield before the force is as many times as large as clamping needs."""
    return [
        MakeDoubt(
            what="post",
            says=f"{item.thick_mm:.1f} mm thick, it takes {item.force_n:.0f} N: its foot is"
            f" {JAW_MATERIAL.yield_mpa / item.stress_mpa:.2f} times from yielding; {needed:g} times"
            " are needed",
            remedy="no posts, or the part held by less",
        )
        for item in found
        if item.stress_mpa * needed > JAW_MATERIAL.yield_mpa
    ]


def too_thin(found: tuple[Behind, Behind], needed: float, force_n: float) -> list[MakeDoubt]:
    """Walls that would yield before the force is as many times as large as clamping needs."""
    said = []
    for name, item in zip(("fixed", "moving"), found, strict=True):
        factor = JAW_MATERIAL.yield_mpa / item.stress_mpa if item.stress_mpa else math.inf
        if factor < needed:
            thicker = item.thick_mm * math.sqrt(needed / factor)
            said.append(
                MakeDoubt(
                    what=f"{name} jaw",
                    says=f"{item.thick_mm:.1f} mm stay behind the pocket: at {force_n:.0f} N its"
                    f" foot is {factor:.2f} times from yielding; {needed:g} times are needed",
                    remedy=f"a blank {math.ceil(thicker - item.thick_mm)} mm thicker, or the part"
                    " held by less",
                )
            )
    return said
