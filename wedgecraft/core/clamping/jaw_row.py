"""A row of parts between one pair of rigid jaws: how the clamping force is shared when the blanks
are not of one size.

The moving jaw may tilt. Part i at ``x_i`` along the jaw, bigger than the nominal by ``e_i``, pushes
back only: ``F_i = k max(0, d + theta x_i + e_i)``, with ``sum F_i = F`` and ``sum F_i x_i + k_theta
theta = F x_screw``. Two parts and a free jaw share equally whatever their sizes; stiff jaws go to
independent springs. Source: statics of a compress-only bed of springs.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.row import PartShare, RowRequest, RowResult

Array = NDArray[np.float64]

_SEED = 20_070
_STEPS = 60
#: A jaw that is free to tilt still needs a grain of stiffness, as a share of the parts' own, to
#: have one answer when one part is left.
_GRAIN = 1e-12


def row(request: RowRequest) -> RowResult:
    """Monte Carlo over the blanks' variation; the same request gives the same answer.

    Two parts under a jaw that tilts freely share its force, whatever their sizes.

    >>> pair = RowRequest(places_mm=[-20, 20], force_n=20_000, screw_mm=0, stiffness_n_mm=2e5,
    ...                   spread_mm=0.02, needed_n=2000)
    >>> [round(part.mean_n) for part in row(pair).parts], row(pair).chance_loose
    ([10000, 10000], 0.0)
    """
    forces = row_forces(request, blanks(request))
    least = forces.min(axis=1)
    low, high = np.quantile(forces, [0.01, 0.99], axis=0)
    return RowResult(
        parts=[
            PartShare(place_mm=x, mean_n=float(mean), low_n=float(a), high_n=float(b))
            for x, mean, a, b in zip(request.places_mm, forces.mean(axis=0), low, high, strict=True)
        ],
        least_n=float(np.quantile(least, 0.01)),
        chance_loose=float((least <= 1e-9 * request.force_n).mean()),
        chance_short=float((least < request.needed_n).mean()),
    )


def blanks(request: RowRequest) -> Array:
    """Oversizes, shape (clampings, parts), mm."""
    rng, shape = np.random.default_rng(_SEED), (request.clampings, len(request.places_mm))
    if request.distribution == "uniform":
        return rng.uniform(-request.spread_mm, request.spread_mm, shape)
    return rng.normal(0.0, request.spread_mm, shape)


def row_forces(request: RowRequest, oversizes: Array) -> Array:
    """Force on every part, shape as ``oversizes`` (clampings, parts), N.

    The equilibrium is the least of a convex, piecewise quadratic energy in the jaw's shift and
    tilt: Newton's method, which knows the answer once it knows which parts touch. Raises OutOfRange
    if it does not settle.
    """
    k, count = request.stiffness_n_mm, oversizes.shape[1]
    middle = float(np.mean(request.places_mm))
    x = np.array(request.places_mm) - middle
    span = max(1.0, float(np.abs(x).max()))
    x = x / span  # tilt in mm at the end of the row: both unknowns of one size
    tilt = request.tilt_stiffness_nmm / span**2 / k + _GRAIN
    arm = (request.screw_mm - middle) / span
    squeeze = request.force_n / k
    shift = np.full(len(oversizes), squeeze / count) - oversizes.min(axis=1)
    lean = np.zeros(len(oversizes))
    open_rows = np.arange(len(oversizes))
    for _ in range(_STEPS):
        e, d, t = oversizes[open_rows], shift[open_rows], lean[open_rows]
        gaps = d[:, None] + t[:, None] * x + e
        touch = gaps > 0
        pressed = np.where(touch, gaps, 0.0)
        off = np.stack(
            [squeeze - pressed.sum(axis=1), squeeze * arm - pressed @ x - tilt * t], axis=1
        )
        left = np.abs(off).max(axis=1) > 1e-12 * max(1.0, squeeze)
        if not left.any():
            break
        open_rows, off, touch, e, d, t = (
            open_rows[left],
            off[left],
            touch[left],
            e[left],
            d[left],
            t[left],
        )
        a = np.maximum(touch.sum(axis=1), 1e-9)
        b, c = touch @ x, touch @ (x * x) + tilt
        determinant = np.maximum(a * c - b * b, 1e-14)
        step = np.stack(
            [
                (c * off[:, 0] - b * off[:, 1]) / determinant,
                (a * off[:, 1] - b * off[:, 0]) / determinant,
            ],
            axis=1,
        )
        length = _length(d, t, step, e, x, tilt, squeeze, arm)
        shift[open_rows] = d + length * step[:, 0]
        lean[open_rows] = t + length * step[:, 1]
    else:
        raise OutOfRange(
            "places_mm",
            len(request.places_mm),
            "a row whose forces settle; the parts are too unlike",
        )
    forces: Array = k * np.maximum(0.0, shift[:, None] + lean[:, None] * x + oversizes)
    return forces


def _length(
    d: Array, t: Array, step: Array, e: Array, x: Array, tilt: float, squeeze: float, arm: float
) -> Array:
    """How much of Newton's step each row takes: halved until the energy falls."""

    def energy(length: Array) -> Array:
        shift, lean = d + length * step[:, 0], t + length * step[:, 1]
        pressed = np.maximum(0.0, shift[:, None] + lean[:, None] * x + e)
        found: Array = (
            0.5 * (pressed**2).sum(axis=1) + 0.5 * tilt * lean**2 - squeeze * (shift + arm * lean)
        )
        return found

    length = np.ones(len(d))
    start = energy(np.zeros(len(d)))
    slack = 1e-15 * (1.0 + np.abs(start))
    for _ in range(40):
        worse = energy(length) > start + slack
        if not worse.any():
            break
        length = np.where(worse, length / 2, length)
    return length
