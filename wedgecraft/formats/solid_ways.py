"""A solid seen from every side that may be up: outline, size, holes; the same whatever file it came
from.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any, Protocol

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import ValidationError
from shapely.geometry import Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.ground.documents import field_errors
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import SolidFace, SolidHole
from wedgecraft.core.records.solid import Vector, WayUp
from wedgecraft.core.workpiece.loops import LoopFault, rings_of
from wedgecraft.core.workpiece.mesh import Mesh, from_below, outline_of, silhouette, turned_up

Array = NDArray[np.float64]


class Round(Protocol):
    """A cylinder of a solid."""

    @property
    def radius(self) -> float: ...
    @property
    def point(self) -> Array: ...
    @property
    def axis(self) -> Array: ...


_MOST_WAYS = 12
_SIDES = {
    (0, 0, 1): "+Z",
    (0, 0, -1): "-Z",
    (1, 0, 0): "+X",
    (-1, 0, 0): "-X",
    (0, 1, 0): "+Y",
    (0, -1, 0): "-Y",
}


def asked_ways(planes: list[SolidFace]) -> list[tuple[Vector, str]]:
    """Ways up worth looking at: the six sides of the file, and large planar faces that look
    elsewhere.
    """
    found: dict[tuple[float, ...], str] = {
        tuple(map(float, up)): side for up, side in _SIDES.items()
    }
    for face in planes[:40]:
        normal = tuple(np.round(face.normal, 6) + 0.0)
        if len(found) < _MOST_WAYS and not any(np.dot(normal, up) > 0.9999 for up in found):
            found[normal] = "face towards X{:.2f} Y{:.2f} Z{:.2f}".format(*normal)

    def area(up: tuple[float, ...]) -> float:
        return sum(face.area_mm2 for face in planes if np.dot(face.normal, up) > 0.9999)

    ranked = sorted(found, key=lambda up: -area(up))
    return [((up[0], up[1], up[2]), found[up]) for up in ranked]


def silhouettes(mesh: Mesh, ways: list[Vector]) -> list[Polygon | str]:
    """What is seen from above each way up, or why nothing is. From the two ends of one direction a
    solid covers the same.
    """

    def look(up: Vector) -> Polygon | str:
        try:
            return silhouette(turned_up(mesh, up)[0])
        except LoopFault as fault:
            return str(fault)

    first = [
        next((k for k, other in enumerate(ways) if np.dot(other, up) < -0.9999999), index)
        for index, up in enumerate(ways)
    ]
    own = [index for index, mate in enumerate(first) if mate >= index]
    with ThreadPoolExecutor(2) as both_cores:  # uniting polygons leaves the interpreter free
        found = dict(zip(own, both_cores.map(look, [ways[index] for index in own]), strict=True))
    return [
        found[index] if index in found else from_below(found[first[index]])
        for index in range(len(ways))
    ]


def way_up(
    mesh: Mesh,
    up: Vector,
    said: str,
    seen: Polygon | str,
    name: str,
    planes: list[SolidFace],
    rounds: Mapping[int, Round | None],
    stray: float,
    holes: list[Any],
) -> WayUp:
    stood, turn = turned_up(mesh, up)
    size = stood.points.max(axis=0)
    corner = (mesh.points @ turn.T).min(axis=0)
    area = sum(face.area_mm2 for face in planes if np.dot(face.normal, up) > 0.9999)
    outline, wrong = None, seen if isinstance(seen, str) else None
    if not isinstance(seen, str):
        true, chords = _outlined(stood, rounds, turn, corner, seen, stray)
        # Triangles cut corners off what is round: the true box begins a little before theirs.
        low, high = np.array(true.bounds[:2]), np.array(true.bounds[2:])
        corner[:2] += low
        size[:2] = high - low
        placed = shapely.transform(true, lambda points: points - low)
        try:
            outline = Outline(
                outer=rings_of([placed])[0],
                holes=[[tuple(p) for p in ring.coords[:-1]] for ring in placed.interiors],
                chord_error_mm=chords,
                origin=f"STEP {name}, {said} up"[:200],
            )
        except ValidationError as error:
            wrong = field_errors(error)[0].message[:300]
    return WayUp(
        up=up,
        name=said,
        area_mm2=area,
        width_mm=float(size[0]),
        depth_mm=float(size[1]),
        height_mm=float(size[2]),
        outline=outline,
        holes=[_seen(hole, turn, corner) for hole in holes],
        wrong=wrong,
    )


def _outlined(
    stood: Mesh,
    rounds: Mapping[int, Round | None],
    turn: Array,
    corner: Array,
    seen: Polygon,
    stray: float,
) -> tuple[Polygon, float]:
    """The outline behind a silhouette, and how far its chords may lie from it."""
    along = {
        number: item
        for number, item in rounds.items()
        if item is not None and abs(float((turn @ item.axis)[2])) > 1 - 1e-9
    }
    circles = {
        (*np.round((turn @ item.point - corner)[:2], 5).tolist(), round(item.radius, 6))
        for item in along.values()
    }
    others = np.unique(
        stood.triangles[np.isin(stood.faces, [number for number in rounds if number not in along])]
    )
    found = outline_of(
        seen, np.array(sorted(circles)).reshape(-1, 3), stood.points[others, :2], stray
    )
    return found, stray if len(others) else CHORD_ERROR_MM


def _seen(hole: Any, turn: Array, corner: Array) -> SolidHole:
    """A hole in the frame of the part as it stands, at its upper end."""
    diameter, point, axis, low, high, through = hole
    ends = [turn @ (point + axis * at) - corner for at in (low, high)]
    top = ends[0] if ends[0][2] >= ends[1][2] else ends[1]
    direction = turn @ axis
    return SolidHole(
        diameter_mm=diameter,
        x_mm=float(top[0]),
        y_mm=float(top[1]),
        z_mm=float(top[2]),
        axis=tuple(np.round(direction, 6) + 0.0),
        depth_mm=float(high - low),
        through=through,
    )
