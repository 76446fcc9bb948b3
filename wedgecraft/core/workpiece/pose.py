"""How a part stands: which side is up, how far it is turned, and where its datum corner comes to.

The part's frame: its outline's box begins at X0 Y0, its underside lies at Z0. An op's frame is the
same of the part as it stands in the op: Z towards the spindle, the finished part's box at the
origin.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.feature import Direction
from wedgecraft.core.workpiece.body import Body

Array = NDArray[np.float64]
#: Rows give x', y', z' of the op's frame from x, y, z of the part's: proper turns, all of them.
TURNS: dict[Direction, list[list[int]]] = {
    "+Z": [[1, 0, 0], [0, 1, 0], [0, 0, 1]],
    "-Z": [[-1, 0, 0], [0, 1, 0], [0, 0, -1]],
    "+X": [[0, 0, -1], [0, 1, 0], [1, 0, 0]],
    "-X": [[0, 0, 1], [0, 1, 0], [-1, 0, 0]],
    "+Y": [[1, 0, 0], [0, 0, -1], [0, 1, 0]],
    "-Y": [[1, 0, 0], [0, 0, 1], [0, -1, 0]],
}


def turn_of(up: Direction, turn_deg: float = 0.0) -> Array:
    """Rows give x', y', z' of the part's axes with ``up`` up, then turned about that, (3, 3)."""
    stood = np.array(TURNS[up], dtype=float)
    if turn_deg == 0:
        return stood
    quarter, rest = divmod(turn_deg, 90)
    if rest == 0:
        c, s = [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)][int(quarter) % 4]
    else:
        c, s = math.cos(math.radians(turn_deg)), math.sin(math.radians(turn_deg))
    found: Array = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]) @ stood
    return found


@dataclass(frozen=True, eq=False)
class Pose:
    """A point p of the part's frame comes to ``turn @ p + shift_mm``."""

    turn: Array
    shift_mm: Array

    def put(self, body: Body) -> Body:
        return body.turned(self.turn, self.shift_mm)

    def back(self, body: Body) -> Body:
        return body.turned(self.turn.T, -self.turn.T @ self.shift_mm)

    def place(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        found = self.turn @ np.array([x, y, z]) + self.shift_mm
        return float(found[0]), float(found[1]), float(found[2])

    def back_points(self, points: Array) -> Array:
        """Points (n, 3) of the other frame in the part's."""
        found: Array = (points - self.shift_mm) @ self.turn
        return found

    def moved(self, x: float, y: float, z: float) -> Pose:
        """The same, everything moved on."""
        return Pose(self.turn, self.shift_mm + np.array([x, y, z]))


def stands(finished: Body, up: Direction, turn_deg: float = 0.0) -> tuple[Pose, Body]:
    """The pose that brings the finished part's box to the origin, and the part in it; the same body
    each time, so that what is known of it stays known.
    """
    known = finished.poses
    if (up, turn_deg) not in known:
        pose = pose_of(finished, up, turn_deg)
        known[up, turn_deg] = (pose, pose.put(finished))
    found: tuple[Pose, Body] = known[up, turn_deg]
    return found


def pose_of(finished: Body, up: Direction, turn_deg: float = 0.0) -> Pose:
    """The pose that brings the finished part's box to the origin."""
    turn = turn_of(up, turn_deg)
    low = np.array(finished.turned(turn).box[:3])
    return Pose(turn, np.where(np.abs(low) < 1e-9, 0.0, -low))
