"""Where holes begin on each side of a piece, and which way they go."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.piece import Piece, Side

Array = NDArray[np.float64]


class Frame(NamedTuple):
    """A side: its corner, its two ways along (seen on drawings as X and Y), the way into the piece,
    and how thick the piece is that way.
    """

    corner: Array
    along: Array
    up: Array
    into: Array
    through_mm: float

    def at(self, x_mm: float, y_mm: float) -> Array:
        """A place on it."""
        return self.corner + x_mm * self.along + y_mm * self.up


def frame(piece: Piece, side: Side) -> Frame:
    """Of one side of a piece."""
    w, d, t = piece.width_mm, piece.depth_mm, piece.thickness_mm
    x, y, z = np.eye(3)
    if side.startswith("face"):
        ring = np.array(piece.section or [])
        # faces come before the spindle in turn, the next one on the left
        k = (1 - int(side.split()[1])) % len(ring)
        start, end = ring[k], ring[(k + 1) % len(ring)]
        way = (end - start) / np.linalg.norm(end - start)
        along, into = np.array([*way, 0.0]), np.array([-way[1], way[0], 0.0])
        middle = ring.mean(axis=0)
        through = 2 * float(into[:2] @ (middle - start))
        return Frame(np.array([*start, 0.0]), along, z, into, through)
    return {
        "top": Frame(t * z, x, y, -z, t),
        "bottom": Frame(0 * z, x, y, z, t),
        "front": Frame(0 * z, x, z, y, d),
        "back": Frame(d * y, x, z, -y, d),
        "left": Frame(0 * z, y, z, x, w),
        "right": Frame(w * x, y, z, -x, w),
    }[side]


def width_of(piece: Piece, side: Side) -> float:
    """How wide an upright side is."""
    if side in ("front", "back"):
        return piece.width_mm
    if side in ("left", "right"):
        return piece.depth_mm
    ring = np.array(piece.section or [])
    return float(np.linalg.norm(ring[1] - ring[0]))


def seen_x_mm(piece: Piece, side: Side, x_mm: float) -> float:
    """Along a side from its left end as it is seen from outside; jaws are seen from their gap."""
    turned = side in ("back", "left") and not piece.bodies
    return width_of(piece, side) - x_mm if turned else x_mm


def section(faces: int, across_mm: float) -> list[tuple[float, float]]:
    """A regular polygon with as many sides, so wide as its sides stand from its middle and back,
    counter-clockwise from the left end of the side in front; its lower left corner at the origin.

    >>> [(round(x), round(y)) for x, y in section(4, 100)]
    [(0, 0), (100, 0), (100, 100), (0, 100)]
    """
    step = 2 * math.pi / faces
    out = across_mm / 2 / math.cos(step / 2)
    angles = [-math.pi / 2 - step / 2 + k * step for k in range(faces)]
    points = np.array([(out * math.cos(a), out * math.sin(a)) for a in angles])
    return [(float(px), float(py)) for px, py in points - points.min(axis=0)]
