"""A pair of soft jaws: the blanks, and the part's profile cut into both as it drops in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
import shapely
from shapely.affinity import translate
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.locate.in_jaws import clearance_of
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.make.pocket import Cutting, Layer, best_cutting, gripping, layers
from wedgecraft.core.records.element import Nest
from wedgecraft.core.station.nest import posts_in, profile
from wedgecraft.core.workpiece.body import Body, prism, united

#: Between two pockets reliefs leave so much, mm; house usage, from memory.
_WEB_MM = 2.0
#: The uppermost cut goes on so far over the top.
_OVER_MM = 1.0
_LEFT_MM = 0.01

Shape = TypeVar("Shape", bound=BaseGeometry)


@dataclass(frozen=True)
class Pair:
    """A pair of soft jaws in its station's frame: blanks, the pockets' layers as they are cut, the
    walls that grip; the floor of the pockets at Z0. ``posts``: openings of the first pocket's part
    that one is left in. ``along``: how far along the jaws each of the
    pockets, all alike, is from the first.
    """

    fixed: Polygon
    moving: Polygon
    under_mm: float
    depth_mm: float
    clearance_mm: float
    split_mm: float
    gap_mm: float
    layers: tuple[Layer, ...]
    cuttings: tuple[Cutting, ...]
    grips: tuple[BaseGeometry, BaseGeometry]
    along: tuple[float, ...] = (0.0,)
    posts: tuple[Polygon, ...] = ()

    @property
    def cutter_mm(self) -> float:
        """One cutter for all layers."""
        return min(cutting.cutter_mm for cutting in self.cuttings)

    def kept(self, jaw: int) -> float:
        """Of a jaw's gripping wall at the floor, what reliefs leave, mm."""
        gone = shapely.union_all([relief.takes for c in self.cuttings for relief in c.reliefs])
        return float(self.grips[jaw].difference(gone).length)


def pair_of(ready: Ready) -> Pair | None:
    """The jaws of a station that has such; nothing for any other."""
    kind, sitting = ready.view.station, ready.sitting
    nest = kind.element.nest
    if nest is None:
        return None
    depth = kind.stops.height_mm
    clearance = clearance_of(ready.view)
    held = profile(sitting, kind)
    split = nest.split_mm(held)
    along = tuple(member.y_mm for member in ready.station.members)
    fixed, moving = _blanks(ready, nest, held, along)
    posts = tuple(posts_in(held, nest))
    found = layers(sitting.before, depth, clearance, posts)
    grips = gripping(found[0].area, split, nest.gap_mm)
    wall = _inside(fixed, moving, nest, found[-1].area, along)
    wall = wall.difference(shapely.union_all(posts))
    both = shapely.union_all([grips[0], grips[1]])
    # what a cutter leaves within the clearance touches nothing
    film = clearance + _LEFT_MM
    first = best_cutting(found[0].area, depth, both, wall, film)
    cuttings = [first]
    for layer in found[1:]:
        own = gripping(layer.area, split, nest.gap_mm)
        walls = shapely.union_all([own[0], own[1]])
        cuttings.append(best_cutting(layer.area, depth - layer.low_mm, walls, wall, film))
    under = float(getattr(kind.element, "under_mm", 0.0))
    return Pair(
        fixed,
        moving,
        under,
        depth,
        clearance,
        split,
        nest.gap_mm,
        tuple(replace(layer, area=_each(layer.area, along)) for layer in found),
        tuple(_every(cutting, along) for cutting in cuttings),
        (_each(grips[0], along), _each(grips[1], along)),
        along,
        posts,
    )


def _each(shape: Shape, along: Sequence[float]) -> Shape:
    """A shape of the first pocket, in all of them."""
    if len(along) == 1:
        return shape
    every = [part for y in along for part in shapely.get_parts(translate(shape, 0.0, y))]
    return shape.__class__(every)


def _every(cutting: Cutting, along: Sequence[float]) -> Cutting:
    return Cutting(
        cutting.cutter_mm,
        _each(cutting.area, along),
        tuple(
            replace(item, y=item.y + y, start=(item.start[0], item.start[1] + y))
            for y in along
            for item in cutting.reliefs
        ),
        _each(cutting.left, along),
    )


def _inside(
    fixed: Polygon, moving: Polygon, nest: Nest, area: MultiPolygon, along: Sequence[float]
) -> BaseGeometry:
    """Where the first pocket's reliefs may go, so that those of the others may too."""
    whole = shapely.union(fixed, moving).convex_hull.buffer(-nest.wall_mm, join_style="mitre")
    found = shapely.intersection_all([translate(whole, 0.0, -y) for y in along])
    if len(along) > 1:
        x0, low, x1, high = whole.bounds
        _, y0, _, y1 = area.bounds
        more = (along[1] - along[0] - (y1 - y0) - _WEB_MM) / 2
        found = found.intersection(box(x0, y0 - more, x1, y1 + more))
    return found


def _blanks(
    ready: Ready, nest: Nest, held: Polygon, along: Sequence[float]
) -> tuple[Polygon, Polygon]:
    """Both jaws before the pockets are cut, seen from above."""
    kind = ready.view.station
    _, low, right, high = held.bounds
    middle, half = (low + high + along[0] + along[-1]) / 2, nest.width_mm / 2
    split = nest.split_mm(held)
    behind = float(getattr(kind.element, "moving_mm", kind.stops.thickness_mm))
    fixed = box(-kind.stops.thickness_mm, middle - half, split - nest.gap_mm / 2, middle + half)
    moving = box(split + nest.gap_mm / 2, middle - half, right + behind, middle + half)
    return fixed, moving


def jaw_body(pair: Pair, jaw_height_mm: float) -> Body:
    """Both jaws as a solid in their station's frame, the pocket's floor at Z0."""
    low = pair.depth_mm - jaw_height_mm
    blanks = [prism(jaw, low, pair.depth_mm) for jaw in (pair.fixed, pair.moving)]
    milled = [
        prism(cutting.area, layer.low_mm, layer.high_mm + _OVER_MM * (layer is pair.layers[-1]))
        for layer, cutting in zip(pair.layers, pair.cuttings, strict=True)
    ]
    return united(blanks) - united(milled)


class Turned:
    """From the station's frame into the piece's: the jaws along X, the fixed one above."""

    def __init__(self, pair: Pair) -> None:
        x0, y0, x1, _ = shapely.union(pair.fixed, pair.moving).bounds
        self._aside, self._up = -y0, x1
        self.split = x1 - pair.fixed.bounds[2]
        self.gap = pair.gap_mm

    @property
    def moved(self) -> tuple[float, float]:
        """What is added: along the piece's X, and up its Y."""
        return self._aside, self._up

    def __call__(self, points: np.ndarray) -> np.ndarray:
        return np.column_stack([points[:, 1] + self._aside, self._up - points[:, 0]])

    def area(self, shape: BaseGeometry) -> BaseGeometry:
        return shapely.transform(shape, self)

    def rings(self, part: Polygon) -> Rings:
        turned = shapely.orient_polygons(self.area(part))
        return [
            [(round(float(x), 5), round(float(y), 5)) for x, y in ring.coords[:-1]]
            for ring in (turned.exterior, *turned.interiors)
        ]
