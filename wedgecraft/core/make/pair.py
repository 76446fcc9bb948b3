"""A pair of soft jaws: the blanks, and the part's profile cut into both as it drops in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.locate.in_jaws import clearance_of
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.make.pocket import Cutting, Layer, best_cutting, gripping, layers
from wedgecraft.core.records.element import Nest
from wedgecraft.core.station.nest import profile
from wedgecraft.core.workpiece.body import Body, prism, united

#: A jaw keeps so much outside its pocket, mm; common practice, from memory.
_WALL_MM = 6.0
#: The uppermost cut goes on so far over the top.
_OVER_MM = 1.0
_LEFT_MM = 0.01


@dataclass(frozen=True)
class Pair:
    """A pair of soft jaws in its station's frame: blanks, the pocket's layers as they are cut, the
    walls that grip; the floor of the pocket at Z0.
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
    fixed, moving = _blanks(ready, nest, held)
    found = layers(sitting.before, depth, clearance)
    grips = gripping(found[0].area, split, nest.gap_mm)
    wall = shapely.union(fixed, moving).convex_hull.buffer(-_WALL_MM, join_style="mitre")
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
        tuple(found),
        tuple(cuttings),
        grips,
    )


def _blanks(ready: Ready, nest: Nest, held: Polygon) -> tuple[Polygon, Polygon]:
    """Both jaws before the pocket is cut, seen from above."""
    kind = ready.view.station
    _, low, right, high = held.bounds
    middle, half = (low + high) / 2, nest.width_mm / 2
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
