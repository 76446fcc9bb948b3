"""Every feature at every station: the check that uses most of its tolerance there, and what adds up
in it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wedgecraft.core.locate.chain import Check
from wedgecraft.core.locate.judge import Sampled, ranges, sampled, used
from wedgecraft.core.locate.sources import Array, Stack
from wedgecraft.core.locate.standing import Locating
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.request import OwnStation


@dataclass(frozen=True)
class Judged:
    """A feature at n stations, at ``corners`` (n, 2), turned.

    ``which`` (n,): index into ``looked_at``, the checks and parts of the station that were looked
    at.

    ``share`` by the house rule; ``probable_mm`` and ``worst_mm`` as the drawing gives its
    tolerance; ``place`` (n, 3) on the plate.
    """

    feature: Feature
    problem: str
    corners: Array
    turns: Sequence[int]
    looked_at: tuple[tuple[Check, int], ...]
    stacks: tuple[tuple[Stack, Array | None], ...]
    which: np.ndarray
    share: Array
    probable_mm: Array
    worst_mm: Array
    place: Array

    def check(self, station: int) -> Check:
        return self.looked_at[int(self.which[station])][0]

    def member(self, station: int) -> int:
        return self.looked_at[int(self.which[station])][1]

    def stack(self, station: int) -> tuple[Stack, Array | None]:
        """What adds up at one station."""
        stack, ways = self.stacks[int(self.which[station])]
        return stack.of(station), None if ways is None else ways[station : station + 1]

    @cached_property
    def _ranges(self) -> dict[int, dict[str, Array]]:
        """Of each stack that some station is judged by, for all stations at once."""
        return {int(each): ranges(*self.stacks[each]) for each in np.unique(self.which)}

    @cached_property
    def _sizes(self) -> dict[int, dict[str, list[float]]]:
        """How long each of these is."""
        return {
            each: {name: np.linalg.norm(of, axis=1).tolist() for name, of in named.items()}
            for each, named in self._ranges.items()
        }

    def contributions(self, station: int) -> list[tuple[str, Array]]:
        """Ranges by group, (1 or 2,), largest first, scaled as the drawing gives the tolerance
        along one way.
        """
        scale = self.feature.tolerance_mm / self.check(station).limit_mm
        each = int(self.which[station])
        found = [
            (-sizes[station], name)
            for name, sizes in self._sizes[each].items()
            if sizes[station] > 0
        ]
        return [(name, scale * self._ranges[each][name][station]) for _, name in sorted(found)]


def judged(
    locating: Locating,
    corners: Array,
    turns: Sequence[int],
    measured: Sequence[Array | None] | None = None,
) -> list[Judged]:
    """Every feature of the op at these stations; ``corners`` (n, 2)."""
    count, found = len(turns), []
    for feature in dict.fromkeys(check.feature.name for check in locating.checks):
        checks = [check for check in locating.checks if check.feature.name == feature]
        if checks[0].problem or not count:
            nothing = np.zeros(count)
            found.append(
                Judged(
                    checks[0].feature,
                    checks[0].problem,
                    corners,
                    turns,
                    (),
                    (),
                    np.zeros(count, dtype=int),
                    nothing,
                    nothing,
                    nothing,
                    np.zeros((count, 3)),
                )
            )
            continue
        looked = [(check, number) for check in checks for number in range(len(locating.members))]
        stacks = [
            locating.stack(check, corners, turns, number, measured) for check, number in looked
        ]
        sums = [used(*item) for item in stacks]
        limits = np.array([[check.limit_mm] for check, _ in looked])
        worst = np.array([item[0] for item in sums]) / limits
        probable = np.array([item[1] for item in sums]) / limits
        share = worst if locating.rule == "worst case" else probable
        which, at = np.argmax(share, axis=0), np.arange(count)
        places = np.array(
            [locating.places(check, corners, turns, number) for check, number in looked]
        )
        zone = checks[0].feature.tolerance_mm
        found.append(
            Judged(
                checks[0].feature,
                "",
                corners,
                turns,
                tuple(looked),
                tuple(stacks),
                which,
                share[which, at],
                probable[which, at] * zone,
                worst[which, at] * zone,
                places[which, at],
            )
        )
    return found


def sample(items: Sequence[Judged], samples: int = 100_000) -> list[Sampled | None]:
    """Draw parts for every feature at every station, each at the check that uses most there;
    nothing for what cannot be judged.
    """
    asked, owners = [], []
    for number, item in enumerate(items):
        for k in np.unique(item.which) if item.stacks else []:
            stack, ways = item.stacks[int(k)]
            mine = np.flatnonzero(item.which == k)
            part = Stack(stack.names, stack.spreads, stack.whys, stack.moves[mine])
            asked.append(
                (part, None if ways is None else ways[mine], item.looked_at[int(k)][0].limit_mm)
            )
            owners.append((number, mine))
    found: list[Sampled | None] = [None] * len(items)
    for (number, mine), drawn in zip(owners, sampled(asked, samples), strict=True):
        item = items[number]
        whole = found[number] or Sampled(
            *(np.zeros(len(item.which), dtype=kind) for kind in (float, float, bool, float))
        )
        scale = item.feature.tolerance_mm / item.check(int(mine[0])).limit_mm
        whole.out_share[mine], whole.cpk[mine], whole.at_least[mine] = (
            drawn.out_share,
            drawn.cpk,
            drawn.at_least,
        )
        whole.within_mm[mine] = scale * drawn.within_mm
        found[number] = whole
    return found


def known_places(
    stations: Sequence[OwnStation], placements: Sequence[Placement]
) -> list[Array | None]:
    """What is known of each placement's real place: off the drawing along X, Y, Z, and how well it
    was measured, (4,).
    """
    known = {_key(item): item for item in stations if item.measured is not None}
    found: list[Array | None] = []
    for placement in placements:
        station = known.get(_key(placement))
        if station is None or station.measured is None:
            found.append(None)
            continue
        at = station.measured
        found.append(
            np.array([at.x_mm - station.x_mm, at.y_mm - station.y_mm, at.z_mm or 0.0, at.within_mm])
        )
    return found


def _key(item: OwnStation | Placement) -> tuple[int, int, float, float, int]:
    return item.face, item.kind, round(item.x_mm, 3), round(item.y_mm, 3), item.turn
