"""The quick cross product against numpy's own, over every way shapes meet in the engine."""

from __future__ import annotations

import numpy as np
import pytest

from wedgecraft.core.ground.vectors import cross


@pytest.mark.parametrize(
    ("left", "right"),
    [
        ((3,), (3,)),
        ((3,), (8, 3)),
        ((8, 3), (3,)),
        ((8, 3), (8, 3)),
        ((6, 1, 3), (6, 3, 3)),
        ((1, 3), (5, 3)),
        ((0, 3), (3,)),
    ],
)
def test_it_is_numpys_to_the_last_bit(left, right):
    rng = np.random.default_rng(5)
    a, b = rng.normal(scale=1e3, size=left), rng.normal(size=right)
    assert np.array_equal(cross(a, b), np.cross(a, b))
    if a.ndim == b.ndim == 1:
        assert np.array_equal(cross(tuple(a), b.tolist()), np.cross(a, b))
        assert cross((1, 0, 0), (0, 1, 0)).tolist() == [0, 0, 1]
