"""Where soft jaws touch: all along the profile that was cut into them, each jaw on its side of the
gap between them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.cut import largest
from wedgecraft.core.records.element import Nest
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.workpiece.sitting import Sitting

Jaw = Literal["fixed", "moving"]
#: A wall presses where it faces its jaw by this cosine; flatter against the closing it only slides.
_FACES = 0.3
#: Touching is looked at on these heights, as shares of the depth.
_LEVELS = (0.25, 0.75)
#: A touching piece is no longer than this share of the outline, and turns no more, radians.
_PIECE, _BENDS = 0.1, 0.6
#: What lies farther inside the profile does not touch it, mm.
_TOUCHES_MM = 0.03


@dataclass(frozen=True)
class Touch:
    """A piece of wall against a jaw: its middle, which way it faces, how long and high it is."""

    at: tuple[float, float, float]
    faces: tuple[float, float]
    length_mm: float
    high_mm: float


def profile(sitting: Sitting, kind: StopAndEdgeClamp) -> Polygon:
    """What both jaws leave free: all that the part covers down there."""
    return sitting.between(0.0, kind.stops.height_mm)


def fixed_half(sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest) -> Polygon:
    """The fixed jaw round its half of the profile, seen from above."""
    held = profile(sitting, kind)
    _, low, _, high = held.bounds
    middle, half = (low + high) / 2, nest.width_mm / 2
    split = nest.split_mm(held) - nest.gap_mm / 2
    whole = box(-kind.stops.thickness_mm, middle - half, split, middle + half)
    return largest(_parts(whole.difference(nest.pocket(held))))


def touches(sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, jaw: Jaw) -> list[Touch]:
    """Where a jaw touches the part. Raises OutOfRange where it does not."""
    held = profile(sitting, kind)
    split, sign = nest.split_mm(held), -1.0 if jaw == "fixed" else 1.0
    edge = held.exterior.buffer(_TOUCHES_MM)
    depth = min(kind.stops.height_mm, sitting.height_mm)
    found: list[Touch] = []
    for share in _LEVELS:
        level = share * depth
        for part in shapely.get_parts(sitting.before.slice(level)):
            ring = shapely.get_coordinates(part.exterior)
            if not part.exterior.is_ccw:
                ring = ring[::-1]
            most = _PIECE * float(part.exterior.length)
            found += _pieces(ring, sign, split, nest.gap_mm / 2, edge, most, level, depth / 2)
    if not found:
        raise OutOfRange(
            "station.stops.height_mm",
            kind.stops.height_mm,
            f"where the {jaw} jaw meets the part: it touches nothing there",
        )
    return found


def _pieces(
    ring: np.ndarray,
    sign: float,
    split: float,
    half_gap: float,
    edge: Polygon,
    most_mm: float,
    level: float,
    high: float,
) -> list[Touch]:
    """Edges of a ring that face a jaw beyond the gap, cut short and gathered."""
    found: list[Touch] = []
    run: list[tuple[np.ndarray, np.ndarray, float]] = []

    def close() -> None:
        if run:
            lengths = np.cumsum([item[2] for item in run])
            at, (x, y), _ = run[int(np.searchsorted(lengths, lengths[-1] / 2))]
            place = (float(at[0]), float(at[1]), level)
            found.append(Touch(place, (float(x), float(y)), float(lengths[-1]), high))
            run.clear()

    for a, b in pairwise(ring):
        whole = float(np.linalg.norm(b - a))
        if whole < 1e-9:
            continue
        faces = np.array([b[1] - a[1], a[0] - b[0]]) / whole
        count = max(1, math.ceil(whole / most_mm))
        for k in range(count):
            middle = a + (b - a) * (k + 0.5) / count
            there = sign * faces[0] >= _FACES and sign * (middle[0] - split) > half_gap
            if not there or not edge.contains(shapely.Point(middle)):
                close()
                continue
            bends = bool(run) and float(faces @ run[0][1]) < math.cos(_BENDS)
            if bends or sum(item[2] for item in run) + whole / count > most_mm * 1.001:
                close()
            run.append((middle, faces, whole / count))
    close()
    return found


def nest_contacts(
    sitting: Sitting, kind: StopAndEdgeClamp, nest: Nest, preload_n: float
) -> list[Contact]:
    """Both jaws' touches as contacts: the moving jaw presses on each the harder the more it faces
    the closing, all together with the preload.
    """
    moving = touches(sitting, kind, nest, "moving")
    total = sum(item.length_mm * item.faces[0] ** 2 for item in moving)
    found = [
        Contact(
            name=f"fixed jaw {number}",
            kind="locator",
            point_mm=item.at,
            normal=(-item.faces[0], -item.faces[1], 0.0),
            friction=kind.stops.friction,
            capacity_n=kind.stops.capacity_n,
            area_mm2=item.length_mm * item.high_mm,
        )
        for number, item in enumerate(touches(sitting, kind, nest, "fixed"), 1)
    ]
    found += [
        Contact(
            name=f"moving jaw {number}",
            kind="clamp",
            point_mm=item.at,
            normal=(-item.faces[0], -item.faces[1], 0.0),
            friction=kind.element.rubs(kind.clamp),
            preload_n=preload_n * item.length_mm * item.faces[0] / total,
            area_mm2=item.length_mm * item.high_mm,
        )
        for number, item in enumerate(moving, 1)
    ]
    return found


def _parts(shape: shapely.Geometry) -> MultiPolygon:
    parts: Sequence[shapely.Geometry] = shapely.get_parts(shape)
    return MultiPolygon([part for part in parts if isinstance(part, Polygon)])
