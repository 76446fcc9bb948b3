"""One part of a station."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from wedgecraft.core.records.element import Press


@dataclass(frozen=True)
class Member:
    """One part of a station: where its datum corner is, and whether it is turned half round.

    ``presses``: where clamps press on it, in its own frame.
    """

    x_mm: float
    y_mm: float
    half_turn: bool
    presses: tuple[Press, ...]

    def put(self, shape: Any) -> Any:
        """From the part's own frame into the station's: a shape, or points as an array (..., 2)."""
        move = np.array([self.x_mm, self.y_mm])
        sign = -1.0 if self.half_turn else 1.0
        return (
            sign * shape + move
            if isinstance(shape, np.ndarray)
            else shapely.transform(shape, lambda xy: sign * xy + move)
        )
