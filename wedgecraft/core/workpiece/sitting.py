"""How a part sits in an op: turned so that one of its sides is up, seen from the spindle.

The outline given for a part is the one seen with +Z up. Upside down it is mirrored; on its side it
is a rectangle, exactly so for a part of one outline through its height, and on the safe side for
any other.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.outline import outline_polygon
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.stock import AXES, Axis

#: Rows give x', y', z' of the op's frame from x, y, z of the part's: proper turns, all of them.
_TURNS: dict[Direction, list[list[int]]] = {
    "+Z": [[1, 0, 0], [0, 1, 0], [0, 0, 1]],
    "-Z": [[-1, 0, 0], [0, 1, 0], [0, 0, -1]],
    "+X": [[0, 0, -1], [0, 1, 0], [1, 0, 0]],
    "-X": [[0, 0, 1], [0, 1, 0], [-1, 0, 0]],
    "+Y": [[1, 0, 0], [0, 0, -1], [0, 1, 0]],
    "-Y": [[1, 0, 0], [0, 0, 1], [0, -1, 0]],
}


@dataclass(frozen=True)
class Sitting:
    """The part as it sits: ``outline`` from above with its datum corner at (0, 0), ``height_mm``
    over what it stands on.
    """

    outline: Polygon
    height_mm: float
    up: Direction
    size_mm: tuple[float, float, float]

    @property
    def across(self) -> Axis:
        """The part's axis along X as it sits: what clamps grip over."""
        return AXES[int(np.argmax(np.abs(np.array(_TURNS[self.up])[0])))]

    @property
    def turn(self) -> np.ndarray:
        """Rows give x', y', z' of the op's frame from the part's, (3, 3)."""
        return np.array(_TURNS[self.up], dtype=float)

    def face(self, side: Direction) -> Direction:
        """Which face of the part is on this side as it sits."""
        return _named(self.turn.T @ _pointing(side))

    def side(self, face: Direction) -> Direction:
        """On which side a face of the part is as it sits."""
        return _named(self.turn @ _pointing(face))

    def place(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        """A place of the part's frame in the op's frame, mm from the datum corner and the underside
        as it sits.
        """
        turn = np.array(_TURNS[self.up])
        # The box's lower corner comes to the origin again.
        corner = np.minimum(turn, 0) @ np.array(self.size_mm)
        found = turn @ np.array([x, y, z]) - corner
        return float(found[0]), float(found[1]), float(found[2])


def _pointing(direction: Direction) -> np.ndarray:
    """Unit vector of a side."""
    found = np.zeros(3)
    found["XYZ".index(direction[1])] = 1.0 if direction[0] == "+" else -1.0
    return found


def _named(vector: np.ndarray) -> Direction:
    k = int(np.argmax(np.abs(vector)))
    found: Direction = ("+" if vector[k] > 0 else "-") + "XYZ"[k]  # type: ignore[assignment]
    return found


def sits(part: Part, up: Direction) -> Sitting:
    """Turn the part so that ``up`` faces the spindle."""
    outline = outline_polygon(part.outline)
    _, _, width, depth = outline.bounds
    size = (float(width), float(depth), float(part.height_mm))
    if up == "+Z":
        return Sitting(outline, part.height_mm, up, size)
    if up == "-Z":
        mirrored = shapely.transform(
            outline, lambda xy: np.stack([width - xy[:, 0], xy[:, 1]], axis=1)
        )
        return Sitting(shapely.geometry.polygon.orient(mirrored), part.height_mm, up, size)
    turned = np.abs(np.array(_TURNS[up])) @ np.array(size)
    x, y, z = (float(value) for value in turned)
    return Sitting(Polygon([(0, 0), (x, 0), (x, y), (0, y)]), z, up, size)
