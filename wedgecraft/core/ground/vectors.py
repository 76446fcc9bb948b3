"""Small vectors, many thousand times over."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

_AHEAD, _BEHIND = np.array([1, 2, 0]), np.array([2, 0, 1])


def cross(left: ArrayLike, right: ArrayLike) -> NDArray[np.float64]:
    """The cross product along the last axis, (..., 3) each, broadcast: numpy's own, at a tenth of
    its price where vectors are few.
    """
    a, b = np.asarray(left, dtype=float), np.asarray(right, dtype=float)
    if a.ndim == b.ndim == 1:
        (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
        return np.array((ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx))
    product: NDArray[np.float64] = (
        a[..., _AHEAD] * b[..., _BEHIND] - a[..., _BEHIND] * b[..., _AHEAD]
    )
    return product
