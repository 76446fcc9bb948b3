"""Which surfaces of the workpiece are raw and which op cut them.

An op has cut a surface when a wall or floor of what one of its cuts sweeps lies in it: where there
was nothing to take, it took what some blanks have there.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.feature import Direction
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.pose import Pose, turn_of
from wedgecraft.core.workpiece.sitting import Sitting
from wedgecraft.core.workpiece.states import Workpiece

Array = NDArray[np.float64]
#: A surface is at a plane when it lies within this of it and faces its way by this cosine.
_NEAR_MM, _FACES = 0.02, 0.9
_EVER = (-math.inf, math.inf)


def touched_op(sitting: Sitting, side: Direction, low_mm: float, high_mm: float) -> int | None:
    """The place among the part's ops of the last that cut what the station's corner touches on a
    side, between two heights; nothing where that is raw.
    """
    return _last(sitting, turn_of(side)[2], 0.0, (low_mm, high_mm))


def pressed_op(sitting: Sitting, side: Direction, height_mm: float) -> int | None:
    """The same of what stands farthest out on a side at a height."""
    slice_ = sitting.at(height_mm)
    if slice_.is_empty:
        return None
    x0, y0, x1, y1 = slice_.bounds
    at = {"-X": -x0, "+X": x1, "-Y": -y0, "+Y": y1}[side]
    return _last(sitting, turn_of(side)[2], at, (height_mm - 1, height_mm + 1))


def made_at(sitting: Sitting, point: Sequence[float], into: Sequence[float]) -> int | None:
    """The same of the surface at a place of the station, ``into`` pointing into the part there."""
    way = -np.array(into)
    heights = (point[2] - 1, point[2] + 1) if abs(way[2]) < _FACES else _EVER
    return _last(sitting, way, float(way @ np.array(point)), heights)


def _last(sitting: Sitting, way: Array, at_mm: float, heights: tuple[float, float]) -> int | None:
    for index in reversed(range(sitting.index)):
        if _walls(sitting.piece, index, sitting.pose, way, at_mm, heights):
            return index
    return None


def face_made_in(piece: Workpiece, before: int, face: Direction) -> int | None:
    """The place of the last op that cut a face of the finished part, at least in part, of those
    before the one with this place; nothing while it is raw, or not yet down to its size.
    """
    known: dict[tuple[int, Direction], int | None] = piece.faces_known
    if (before, face) not in known:
        way = turn_of(face)[2]
        at = float((np.array(piece.finished.box).reshape(2, 3) @ way).max())
        still = Pose(np.eye(3), np.zeros(3))
        known[before, face] = next(
            (k for k in reversed(range(before)) if _walls(piece, k, still, way, at, _EVER)), None
        )
    return known[before, face]


def _walls(
    piece: Workpiece, index: int, into: Pose, way: Array, at_mm: float, heights: tuple[float, float]
) -> bool:
    """Whether a cut of an op swept along the plane ``way @ p = at_mm`` of a frame, beyond it, the
    surface facing ``way``; ``into``: from the part's frame into that one.
    """
    state = piece.ops[index]
    return any(
        _has_wall(into.put(state.pose.back(body)), way, at_mm, heights)
        for body in state.swept
        if not body.empty
    )


def _has_wall(body: Body, way: Array, at_mm: float, heights: tuple[float, float]) -> bool:
    points, triangles = body.mesh
    corners = points[triangles]
    off = np.abs(corners @ way - at_mm).min(axis=1)
    near = off < _NEAR_MM
    if not near.any():
        return False
    corners = corners[near]
    twice = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(twice, axis=1)
    faces = twice @ -way > _FACES * size
    z = corners[:, :, 2]
    there = (z.max(axis=1) > heights[0] + 1e-6) & (z.min(axis=1) < heights[1] - 1e-6)
    return bool((faces & there & (size > 1e-6)).any())
