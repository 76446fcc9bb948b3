"""What of a pocket really touches a part, and where the part comes to lie.

Jaw and part almost never have the same size. The part may shift and turn, the moving jaw comes
along and may tilt on the vise; walls give as an elastic foundation (Johnson, Contact Mechanics,
section 4.3: pressure in proportion to how deep they meet; how stiff, by how wide they do) and
only push. All of it is one convex problem in five unknowns, solved by Newton's method.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, product
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

Array = NDArray[np.float64]

#: Along a straight wall a place to touch every so many mm; what is shorter than this is a chord of
#: an arc, and touches amid it, where it faces as the arc does.
_STEP_MM = 0.25
_CHORD_MM = 2.0
#: A turn that walls resist less than this share of what they could is decided by nothing.
_FREE = 1e-4
#: Of the walls' stiffness, what keeps a part where it was put down in a direction that nothing
#: decides.
_STAYS = 1e-7
#: Places farther apart than this along the profile are two.
_APART_MM = 2.5
_ROUNDS = 200
#: Widths that change by less than this share are taken.
_SETTLED = 0.01


@dataclass(frozen=True)
class Profile:
    """A part's profile where jaws have walls: places (n, 2), normals out of the part (n, 2), how
    much of the profile each stands for, mm (n,), and whether its wall is on the moving jaw (n,).
    """

    at: Array
    normals: Array
    lengths: Array
    moving: NDArray[np.bool_]


class Lies(NamedTuple):
    """Where a part comes to lie in its pocket, off its nominal place: shift in mm, turn in rad
    about the middle of its profile; how far the moving jaw came and tilted; pressure at each place
    of the profile, MPa.
    """

    x_mm: float
    y_mm: float
    turn_rad: float
    closed_mm: float
    tilt_rad: float
    pressure_mpa: Array


def profile_of(
    part: Polygon, split_mm: float, gap_mm: float, reliefs: BaseGeometry | None = None
) -> Profile:
    """The profile in short pieces, without what lies in the gap or at a relief; openings in it are
    those that a post stands in.
    """
    turned = shapely.orient_polygons(part)
    rings = [
        _in_pieces(shapely.get_coordinates(ring)) for ring in (turned.exterior, *turned.interiors)
    ]
    ways = np.concatenate([np.diff(corners, axis=0) for corners in rings])
    lengths = np.linalg.norm(ways, axis=1)
    there = lengths > 1e-9
    middles = np.concatenate([(corners[:-1] + corners[1:]) / 2 for corners in rings])
    normals = np.column_stack([ways[:, 1], -ways[:, 0]]) / np.maximum(lengths, 1e-12)[:, None]
    there &= np.abs(middles[:, 0] - split_mm) > gap_mm / 2
    if reliefs is not None and not reliefs.is_empty:
        there &= ~shapely.contains_xy(reliefs, middles[:, 0], middles[:, 1])
    return Profile(middles[there], normals[there], lengths[there], middles[there, 0] > split_mm)


def _in_pieces(corners: Array) -> Array:
    """The ring's corners with more on its longer sides."""
    found = []
    for start, end in pairwise(corners):
        long = float(np.hypot(*(end - start)))
        count = int(np.ceil(long / _STEP_MM)) if long > _CHORD_MM else 1
        shares = np.arange(count)[:, None] / count
        found.append(start + shares * (end - start))
    return np.concatenate([*found, corners[-1:]])


def turns_freely(profile: Profile, found: Lies) -> bool:
    """Whether nothing of what touches keeps the part from turning, as of a round in a round."""
    on = found.pressure_mpa > 0
    size = float(np.ptp(profile.at, axis=0).max()) / 2
    turn = _rows(profile, False)[on, 2]
    weight = profile.lengths[on]
    return bool((weight * turn**2).sum() < _FREE * size**2 * weight.sum())


def lies(
    profile: Profile,
    gap_mm: float,
    force_n: float,
    stiffness_mpa_mm: float,
    high_mm: float,
    tilt_nmm: float = 0.0,
    start: Sequence[float] = (0.0, 0.0, 0.0),
) -> Lies:
    """Closed with a force on a part whose profile is ``gap_mm`` smaller than its pocket all round,
    walls ``high_mm`` high; ``tilt_nmm`` a radian of the moving jaw, 0 for none. ``start``: where
    the part was put down, which is where it stays in a direction that nothing decides.
    """
    rows = _rows(profile, tilt_nmm > 0)
    weight = stiffness_mpa_mm * high_mm * profile.lengths
    free = rows.shape[1]
    load = np.zeros(free)
    load[3] = force_n
    keep = np.zeros(free)
    size = float(np.ptp(profile.at, axis=0).max()) / 2
    keep[:3] = _STAYS * weight.sum() * np.array([1.0, 1.0, size**2])
    keep[3] = keep[0]
    if free == 5:
        keep[4] = tilt_nmm
    rest = np.zeros(free)
    rest[:3] = start

    def energy(q: Array) -> float:
        deep = np.maximum(rows @ q - gap_mm, 0)
        return float((weight * deep**2).sum() / 2 - load @ q + (keep * (q - rest) ** 2).sum() / 2)

    q = rest.copy()
    q[3] = gap_mm  # the jaw has come as far as the part
    for _ in range(_ROUNDS):
        deep = rows @ q - gap_mm
        on = deep > 0
        pushed = rows[on] * weight[on, None]
        slope = pushed.T @ deep[on] - load + keep * (q - rest)
        bend = pushed.T @ rows[on] + np.diag(keep)
        step = -np.linalg.solve(bend, slope)
        share, now = 1.0, energy(q)
        while energy(q + share * step) > now and share > 1e-9:
            share /= 2
        q = q + share * step
        if np.abs(share * step * np.array([1, 1, size, 1, size][:free])).max() < 1e-10:
            break
    deep = np.maximum(rows @ q - gap_mm, 0)
    tilt = float(q[4]) if free == 5 else 0.0
    return Lies(float(q[0]), float(q[1]), float(q[2]), float(q[3]), tilt, stiffness_mpa_mm * deep)


def stiffness(
    profile: Profile,
    gap_mm: float,
    force_n: float,
    high_mm: float,
    walls: Sequence[tuple[float, float]],
    tilt_nmm: float = 0.0,
) -> float:
    """Of walls that give one behind the other, each so thick with its modulus, MPa a mm: as bars,
    but no deeper than what touches is wide to either side, as pressure spreads beyond (against
    finite elements: the highest pressure within a twentieth, the width within a quarter).
    """
    deep = math.inf
    found = 0.0
    for _ in range(_ROUNDS):
        found = 1 / sum(min(thick, deep) / modulus for thick, modulus in walls)
        lying = lies(profile, gap_mm, force_n, found, high_mm, tilt_nmm)
        runs = [float(profile.lengths[run].sum()) for run in places(profile, lying)]
        half = max(runs, default=0.0) / 2
        if not half or abs(half - deep) < _SETTLED * half:
            break
        deep = half
    return found


def _rows(profile: Profile, tilts: bool) -> Array:
    """How far each place goes towards its wall for a unit of shift, turn, closing and tilt."""
    middle = profile.at.mean(axis=0)
    arm = profile.at - middle
    n = profile.normals
    turn = n[:, 1] * arm[:, 0] - n[:, 0] * arm[:, 1]
    closing = np.where(profile.moving, n[:, 0], 0.0)
    rows = [n[:, 0], n[:, 1], turn, closing]
    if tilts:
        jaw = profile.at[profile.moving].mean(axis=0) if profile.moving.any() else middle
        reach = profile.at - jaw
        rows.append(-np.where(profile.moving, n[:, 1] * reach[:, 0] - n[:, 0] * reach[:, 1], 0.0))
    return np.column_stack(rows)


def places(profile: Profile, found: Lies) -> Iterator[NDArray[np.int64]]:
    """Where it touches: runs of neighbours under pressure, as indices into the profile."""
    on = np.flatnonzero(found.pressure_mpa > 0)
    if not len(on):
        return
    apart = np.hypot(*(np.diff(profile.at[on], axis=0)).T)
    runs = np.split(on, np.flatnonzero(apart > _APART_MM) + 1)
    around = np.hypot(*(profile.at[on[-1]] - profile.at[on[0]])) <= _APART_MM
    if around and len(runs) > 1:
        runs = [np.concatenate([runs[-1], runs[0]]), *runs[1:-1]]
    yield from runs


@dataclass(frozen=True)
class Settled:
    """Within what a part comes to lie wherever in its play it is put down: plus or minus in mm, mm
    and rad about the middle of its profile; ``apart_mm``: how far two are apart at most, turn at
    the ends of the profile included unless it turns freely; ``free``: whether it does.
    """

    half: tuple[float, float, float]
    apart_mm: float
    free: bool


def settled(
    profile: Profile,
    gap_mm: float,
    force_n: float,
    stiffness_mpa_mm: float,
    high_mm: float,
    tilt_nmm: float = 0.0,
    friction: float = 0.0,
) -> Settled:
    """Put down at the ends of its play in every direction, then clamped: how far apart it comes to
    lie. Walls that press hold it back by ``friction``: so far from where it would lie that what
    pushes it back is no more than what all of them can hold, and no farther than its play.
    """
    size = float(np.ptp(profile.at, axis=0).max()) / 2
    play = max(gap_mm, 0.0) * np.array([1.0, 1.0, 1 / size])

    def lying(start: Sequence[float]) -> Lies:
        return lies(profile, gap_mm, force_n, stiffness_mpa_mm, high_mm, tilt_nmm, start)

    first = lying((0.0, 0.0, 0.0))
    free = turns_freely(profile, first)
    if gap_mm <= 0:
        return Settled((0.0, 0.0, 0.0), 0.0, free)
    ends = [lying((play * start).tolist()) for start in product((-1, 0, 1), repeat=3)]
    at = np.array([(item.x_mm, item.y_mm, item.turn_rad) for item in ends])
    sticks = _sticks(profile, first, friction, stiffness_mpa_mm * high_mm, high_mm, tilt_nmm)
    half = np.maximum(np.ptp(at, axis=0) / 2, np.minimum(sticks, play))
    counted = half * np.array([1.0, 1.0, 0.0 if free else size])
    return Settled(
        (float(half[0]), float(half[1]), float(half[2])), float(2 * np.linalg.norm(counted)), free
    )


def _sticks(
    profile: Profile, found: Lies, friction: float, stiff: float, high_mm: float, tilt_nmm: float
) -> Array:
    """How far along x, y and turn the walls' friction can keep a part from where they push it."""
    on = found.pressure_mpa > 0
    rows, weight = _rows(profile, tilt_nmm > 0)[on], stiff * profile.lengths[on]
    along = _rows(_turned(profile), False)[on, :3]
    # where wall and part go together nothing slides: the moving jaw goes along X only
    limits = friction * np.abs(along).T @ (found.pressure_mpa * profile.lengths * high_mm)[on]
    stays = np.diag(np.full(rows.shape[1], _STAYS * weight.sum()))
    if tilt_nmm:
        stays[4, 4] = tilt_nmm
    gives = np.linalg.inv((rows * weight[:, None]).T @ rows + stays)[:3, :3]
    return np.asarray(np.abs(np.diag(gives)) * limits)


def _turned(profile: Profile) -> Profile:
    """With what lies along each wall in place of what stands on it."""
    x, y = profile.normals.T
    return replace(profile, normals=np.column_stack([-y, x]))
