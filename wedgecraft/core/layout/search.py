"""What every method of placing works on: one face, its regions, and layouts on it with the order of
preference.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise, product

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import box

from wedgecraft.core.layout.nofit import Area, Geometry, Variant, areas_only, moved, triangles
from wedgecraft.core.layout.outlines import is_curved
from wedgecraft.core.records.layout import Face, Placement

Array = NDArray[np.float64]
#: (variant index, x, y)
Spot = tuple[int, float, float]


#: A room of more corners is taken for its hull where it is wanted in pieces.
_MOST_PIECES = 400
#: So many rooms with stations in them are kept.
_MOST_LEFT = 400
#: A room of more corners than this is cut into tiles where parts of it are worked on.
_MANY_CORNERS = 400


@dataclass
class FaceProblem:
    """One face: variants that fit on it somewhere, each with the region of its origin, off the
    stations that stand there already.

    ``kinds``: those that may stand here; nothing for all.
    """

    face: Face
    geometry: Geometry
    fixed: Sequence[Placement] = ()
    kinds: frozenset[int] | None = None
    variants: list[Variant] = field(init=False)
    rooms: list[Area] = field(init=False)
    _tiles: dict[int, list[Area]] = field(init=False, default_factory=dict)
    _left: OrderedDict[tuple[int, tuple[Spot, ...]], tuple[Area, ...]] = field(
        init=False, default_factory=OrderedDict
    )

    def __post_init__(self) -> None:
        rooms = [
            (variant, self._room(variant))
            for variant in self.geometry.variants
            if self.kinds is None or variant.kind in self.kinds
        ]
        rooms = [(variant, room) for variant, room in rooms if not room.is_empty]
        self.variants = [variant for variant, _ in rooms]
        self.rooms = [room for _, room in rooms]
        for room in self.rooms:
            shapely.prepare(room)

    def _room(self, variant: Variant) -> Area:
        return off(self.geometry, self.geometry.inner_fit(self.face, variant), variant, self.fixed)

    @cached_property
    def least(self) -> FaceProblem:
        """The same where nothing counts as larger than it is: what holds there for every layout is
        true.
        """
        curved = self.geometry.curved or any(
            is_curved(keepout.outer) for keepout in self.face.keepouts
        )
        return (
            FaceProblem(self.face, self.geometry.least, self.fixed, self.kinds) if curved else self
        )

    @cached_property
    def content(self) -> str:
        """All that says what can stand on the face, whatever it is called: the same content has the
        same answers.
        """
        stand = [item.model_dump_json(exclude={"face"}) for item in self.fixed]
        face = self.face.model_dump_json(exclude={"name"})
        return f"{face} {stand} {sorted(self.kinds or ())} {self.geometry.content}"

    @cached_property
    def pieces(self) -> list[list[Array]]:
        """Each room in convex pieces; of rooms with very many corners the hull."""
        return [
            triangles(room)
            if shapely.count_coordinates(room) <= _MOST_PIECES
            else [shapely.get_coordinates(room.convex_hull)[:-1]]
            for room in self.rooms
        ]

    @property
    def plain(self) -> bool:
        """Nothing on the face but its edge."""
        return not self.face.keepouts and not self.fixed

    def tiles(self, variant: int) -> list[Area]:
        """A room of very many corners in tiles about half as large as what a station keeps off,
        others as they are.
        """
        if variant not in self._tiles:
            room = self.rooms[variant]
            tiles = [room]
            if shapely.count_coordinates(room) > _MANY_CORNERS:
                left, low, right, high = self.nofit(variant, variant).bounds
                x0, y0, x1, y1 = room.bounds
                xs = np.linspace(x0, x1, 1 + max(1, round(2 * (x1 - x0) / (right - left))))
                ys = np.linspace(y0, y1, 1 + max(1, round(2 * (y1 - y0) / (high - low))))
                cut = (
                    areas_only(shapely.intersection(room, box(a, c, b, d)))
                    for (a, b), (c, d) in product(pairwise(xs), pairwise(ys))
                )
                tiles = [tile for tile in cut if not tile.is_empty]
            self._tiles[variant] = tiles
        return self._tiles[variant]

    def left_by(self, variant: int, spots: Sequence[Spot]) -> tuple[list[Area], int]:
        """The tiles of a room less what the first so many of these stations take, for the most of
        them that is known.
        """
        standing = tuple(spots)
        for count in range(len(standing), 0, -1):
            known = self._left.get((variant, standing[:count]))
            if known is not None:
                return list(known), count
        return list(self.tiles(variant)), 0

    def keep_left(self, variant: int, spots: Sequence[Spot], tiles: Sequence[Area]) -> None:
        """Know these tiles when the same stations stand again."""
        while len(self._left) >= _MOST_LEFT:
            self._left.popitem(last=False)
        self._left[variant, tuple(spots)] = tuple(tiles)

    def nofit(self, first: int, second: int) -> Area:
        region = self.geometry.nofit(self.variants[first], self.variants[second])
        shapely.prepare(region)
        return region

    def fits(self, variant: int, points: Array) -> NDArray[np.bool_]:
        return shapely.intersects_xy(self.rooms[variant], points[:, 0], points[:, 1])

    def clashes(self, first: int, second: int, offsets: Array) -> NDArray[np.bool_]:
        """Does ``second`` at these offsets from ``first`` collide? Touching does not."""
        return shapely.contains_xy(self.nofit(first, second), offsets[:, 0], offsets[:, 1])


def off(geometry: Geometry, room: Area, variant: Variant, standing: Sequence[Placement]) -> Area:
    """What is left of a room for this variant where others stand."""
    if room.is_empty or not standing:
        return room
    taken = [
        moved(geometry.nofit(Variant(item.kind, item.turn), variant), (item.x_mm, item.y_mm))
        for item in standing
    ]
    return areas_only(shapely.difference(room, shapely.union_all(taken)))


@dataclass(frozen=True)
class Layout:
    """Stations on one face and the method that found them."""

    method: str
    spots: tuple[Spot, ...]

    def rank(self, problem: FaceProblem) -> tuple[float, ...]:
        """Smaller is better: most stations, then fewest turns, rows and columns, then nearest the
        datum corner.
        """
        turns = {problem.variants[spot[0]].turn for spot in self.spots}
        rows = {round(spot[2], 3) for spot in self.spots}
        columns = {round(spot[1], 3) for spot in self.spots}
        distance = sum(spot[1] + spot[2] for spot in self.spots)
        return (-len(self.spots), len(turns), len(rows) + len(columns), round(distance, 3))


def best(layouts: Sequence[Layout], problem: FaceProblem) -> Layout:
    return min(layouts, key=lambda layout: layout.rank(problem), default=Layout("none", ()))


def compatible(problem: FaceProblem, spots: Sequence[Spot]) -> list[Spot]:
    """Keep the spots, in order, that fit and clash with none kept before."""
    kept: list[Spot] = []
    by_variant: dict[int, list[tuple[float, float]]] = {}
    for variant, x, y in spots:
        point = np.array([[x, y]])
        if not problem.fits(variant, point)[0]:
            continue
        if any(
            problem.clashes(other, variant, point - np.array(places)).any()
            for other, places in by_variant.items()
        ):
            continue
        kept.append((variant, x, y))
        by_variant.setdefault(variant, []).append((x, y))
    return kept
