"""Stations where they stand: every check there as a stack of sources, its share of the tolerance,
and where on a plate it is met.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.locate.chain import Before, Chain, Check, surroundings_of
from wedgecraft.core.locate.judge import Sums, sums, used
from wedgecraft.core.locate.schemes import Located, located
from wedgecraft.core.locate.sources import Array, Source, Stack, Surroundings, rigid_stack
from wedgecraft.core.records.rules import Rule
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.member import Member
from wedgecraft.core.workpiece.sitting import Sitting

#: How finely the border of an allowed region is found.
_RAYS, _HALVINGS = 72, 24
#: How finely the place is found where a check uses least: so many a side, and so many times.
_BETWEEN, _FINER = 7, 4


@dataclass(frozen=True)
class Locating:
    """One planned op's locating: its surroundings, how each part of the station is located, what is
    checked.
    """

    surroundings: Surroundings
    members: tuple[Member, ...]
    located: tuple[Located, ...]
    checks: tuple[Check, ...]
    rule: Rule
    before: tuple[Before, ...] = field(default=(), compare=False)
    _regions: dict[tuple[int, tuple[int, ...], float, int], Polygon | None] = field(
        init=False, default_factory=dict, compare=False
    )

    def stack(
        self,
        check: Check,
        corners: Array,
        turns: Sequence[int],
        member: int = 0,
        measured: Sequence[Array | None] | None = None,
    ) -> tuple[Stack, Array | None]:
        """Sources of a check at n stations, in the plate's frame, and the ways it is measured
        along; ``corners`` (n, 2).
        """
        one = self.members[member]
        matrices = [_matrix(turn + (180 if one.half_turn else 0)) for turn in turns]
        ways = (
            None
            if check.way is None
            else np.array([matrix @ check.way for matrix in matrices]).reshape(-1, 3)
        )
        if check.relative:
            return rigid_stack(check.chain, (0, 0, 0), matrices), ways
        sources: list[Source] = [*self.located[member].sources, *check.chain]
        around = self.surroundings.stack(
            self.places(check, corners, turns, member), corners, check.gives_mm, measured
        )
        return rigid_stack(sources, check.point, matrices) + around, ways

    def places(self, check: Check, corners: Array, turns: Sequence[int], member: int = 0) -> Array:
        """Where a check's point is on the plate, with its height over it, (n, 3)."""
        at = self.members[member].put(check.point[:2])
        moved = np.array([turned(at, turn) for turn in turns]).reshape(-1, 2) + corners
        return np.column_stack([moved, np.full(len(moved), check.point[2])])

    def shares(
        self,
        check: Check,
        corners: Array,
        turns: Sequence[int],
        member: int = 0,
        measured: Sequence[Array | None] | None = None,
    ) -> Array:
        """Share of the tolerance used, by the house rule, (n,)."""
        stack, ways = self.stack(check, corners, turns, member, measured)
        worst, probable = used(stack, ways)
        chosen = worst if self.rule == "worst case" else probable
        return chosen / check.limit_mm

    def allowed_region(
        self, check: Check, turns: Sequence[int], reach_mm: float, member: int = 0
    ) -> Polygon | None:
        """Where on the plate, within ``reach_mm`` of the datum, the point of a check may be at
        every turn: a convex polygon inside it.

        Nothing where it is everywhere; an empty one where it is nowhere. The share grows along
        every ray from its least place and is convex, so chords between points on the border stay
        inside.
        """
        if check.problem:
            return None
        key = id(check), tuple(sorted({turn % 360 for turn in turns})), reach_mm, member
        if key not in self._regions:
            self._regions[key] = self._region(check, key[1], reach_mm, member)
        return self._regions[key]

    def _region(
        self, check: Check, turns: Sequence[int], reach_mm: float, member: int
    ) -> Polygon | None:
        if check.relative or self.surroundings.strategy == "one per station":
            here = max(self.shares_at(check, np.zeros((1, 2)), turn, member)[0] for turn in turns)
            return None if here <= 1 + 1e-9 else Polygon()

        share = self._at_turns(check, turns, member)
        best = self.least_place(check, turns, member)
        if share(best[None, :])[0] > 1:
            return Polygon()
        angles = np.linspace(0, 2 * math.pi, _RAYS, endpoint=False)
        rays = np.stack([np.cos(angles), np.sin(angles)], axis=1)
        low, high = np.zeros(len(angles)), np.full(len(angles), reach_mm)
        if (share(best + rays * reach_mm) <= 1).all():
            return None
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            inside = share(best + rays * middle[:, None]) <= 1
            low, high = np.where(inside, middle, low), np.where(inside, high, middle)
        return Polygon(best + rays * low[:, None])

    def _at_turns(
        self, check: Check, turns: Sequence[int], member: int
    ) -> Callable[[Array], Array]:
        """Shares as a function of places (n, 2), at the turn that uses most there, (n,): what does
        not depend on them is added up once, all turns in one go.
        """
        put = self.members[member].put(check.point[:2])
        from_corner = np.array([turned(put, turn) for turn in turns])
        half = 180 if self.members[member].half_turn else 0
        matrices = [_matrix(turn + half) for turn in turns]
        ways = None if check.way is None else np.array([each @ check.way for each in matrices])
        own = check.chain if check.relative else [*self.located[member].sources, *check.chain]
        at = (0, 0, 0) if check.relative else check.point
        always = [
            sums(rigid_stack(own, at, [each]), None if ways is None else ways[k : k + 1])
            for k, each in enumerate(matrices)
        ]

        def share(places: Array) -> Array:
            count = len(places)
            found = Sums(
                *(
                    np.repeat(np.concatenate(parts), count, axis=0)
                    for parts in zip(
                        *((one.fixed, one.ends, one.squares) for one in always), strict=True
                    )
                )
            )
            if not check.relative:
                points = np.column_stack([places, np.full(count, check.point[2])])
                corners = (places[None] - from_corner[:, None]).reshape(-1, 2)
                everywhere = np.tile(points, (len(turns), 1))
                around = self.surroundings.stack(everywhere, corners, check.gives_mm)
                along = None if ways is None else np.repeat(ways, count, axis=0)
                found = found + sums(around, along)
            worst, probable = found.used()
            used_mm = worst if self.rule == "worst case" else probable
            shares: Array = (used_mm / check.limit_mm).reshape(len(turns), count).max(axis=0)
            return shares

        return share

    def least_place(self, check: Check, turns: Sequence[int] = (0,), member: int = 0) -> Array:
        """Where on the plate it uses least, at all these turns: at the datum, over the axis that a
        block indexes about, where nothing grows, or between them.
        """
        around = self.surroundings
        k = 0 if around.axis == "upright" else 1
        from_corner = [turned(self.members[member].put(check.point[:2]), turn) for turn in turns]
        options = np.array(
            [around.datum, around.datum, *(around.still_place(at) for at in from_corner)]
        )
        if around.faces > 1:
            options[1, k] = around.middle[k]
        share = self._at_turns(check, turns, member)
        low, high = options.min(axis=0), options.max(axis=0)
        for _ in range(_FINER):
            across, up = (np.linspace(low[axis], high[axis], _BETWEEN) for axis in (0, 1))
            grid = np.column_stack([np.repeat(across, _BETWEEN), np.tile(up, _BETWEEN)])
            best: Array = grid[int(np.argmin(share(grid)))]
            step = (high - low) / (_BETWEEN - 1)
            low, high = best - step, best + step
        return best

    def shares_at(self, check: Check, places: Array, turn: int, member: int = 0) -> Array:
        """Shares with the point of the check at these places of the plate, (n,)."""
        return self._at_turns(check, (turn,), member)(places)


def _matrix(turn: int) -> Array:
    c, s = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}[turn % 360]
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]], dtype=float)


def locating_of(
    view: OpView, sitting: Sitting, station: Station, gives_mm: dict[str, float]
) -> Locating:
    """Work out how one planned op is located and what is checked. Raises OutOfRange."""
    chain = Chain(view, sitting, station, gives_mm)
    first = chain.located
    stacked = view.station.sharing.against_neighbour
    each = [
        located(view, sitting, station, k) if stacked and k else first
        for k in range(len(station.members))
    ]
    checks = tuple(chain.checks())
    return Locating(
        surroundings_of(view),
        station.members,
        tuple(each),
        checks,
        view.rules.tolerance_rule,
        tuple(chain.before),
    )
