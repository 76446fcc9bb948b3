"""Which surfaces of the workpiece are raw and which op cut them."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.feature import Direction
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.pose import turn_of
from wedgecraft.core.workpiece.states import Workpiece

Array = NDArray[np.float64]
#: A surface is at a plane when it lies within this of it and faces its way by this cosine.
_NEAR_MM, _FACES = 0.02, 0.9
#: The blank's own surface.
RAW = -1


def made_at(
    piece: Workpiece,
    body: Body,
    way: Array,
    at_mm: float,
    low_mm: float = -math.inf,
    high_mm: float = math.inf,
) -> int | None:
    """Which op (its place among the part's ops, ``RAW`` for none) made the surface of a state that
    lies at a plane and faces ``way``, between two heights; nothing where there is none.

    The blank's own counts wherever there is any of it that is no sliver: it is the less certain.
    """
    points, triangles = body.mesh
    corners = points[triangles]
    twice = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(twice, axis=1) / 2
    with np.errstate(invalid="ignore", divide="ignore"):
        facing = (twice @ way) / (2 * area)
    off = np.abs(corners @ way - at_mm).min(axis=1)
    heights = corners[:, :, 2]
    there = (
        (facing > _FACES)
        & (off < _NEAR_MM)
        & (heights.max(axis=1) > low_mm + 1e-6)
        & (heights.min(axis=1) < high_mm - 1e-6)
    )
    if not there.any():
        return None
    shares: dict[int, float] = {}
    for ident, size in zip(body.origins[there], area[there], strict=True):
        op, _ = piece.made_by.get(int(ident), (RAW, RAW))
        shares[op] = shares.get(op, 0.0) + float(size)
    if shares.get(RAW, 0.0) > 0.1 * sum(shares.values()):
        return RAW
    return max(shares, key=lambda op: shares[op])


def face_made_in(piece: Workpiece, before: int, face: Direction) -> int | None:
    """Which op cut a face of the finished part, as it is before the op with this place among the
    part's ops (their count: after all); nothing while it is raw, or not yet down to its size.
    """
    known = _known(piece)
    if (before, face) not in known:
        state = (
            piece.blank
            if before == 0
            else piece.ops[before - 1].pose.back(piece.ops[before - 1].after)
        )
        way = turn_of(face)[2]
        box = np.array(piece.finished.box).reshape(2, 3)
        at = float((box @ way).max())
        found = made_at(piece, state, way, at)
        known[before, face] = None if found is None or found == RAW else found
    return known[before, face]


def _known(piece: Workpiece) -> dict[tuple[int, Direction], int | None]:
    found: dict[tuple[int, Direction], int | None] = piece.faces_known
    return found
