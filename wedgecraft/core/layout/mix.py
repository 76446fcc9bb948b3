"""Faces shared among kinds of stations for the most complete sets: kits with counts, op 10 and op
20 in balance.

Every face gets one of the patterns found for it: filled with one kind, rows of one kind and the
rest of another, or kinds placed in turn as the set needs them. Which face gets which is a small
integer programme. The bound is the linear programme over all that holds for any layout: the face
each kind takes, and what one kind alone could have.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import permutations

import numpy as np
from scipy.optimize import linprog

from wedgecraft.core.layout import bound, fill, one, regular, squeeze
from wedgecraft.core.layout.search import FaceProblem, Layout, Spot, compatible
from wedgecraft.core.records.layout import Placement, StationKind

_MOST_ROWS = 12
_MOST_TRIES = 40
_NO_BOUND = 10**9


@dataclass
class Alike:
    """Faces that are alike, by number, and what stands on them already (then it is one face)."""

    problem: FaceProblem
    faces: list[int]
    stand: list[Placement]
    alone: dict[int, tuple[Layout, int, Layout]] = field(default_factory=dict)

    def standing(self, kind: int) -> int:
        return sum(item.kind == kind for item in self.stand)

    def kinds(self) -> list[int]:
        return sorted({variant.kind for variant in self.problem.variants})

    def counts(self, layout: Layout, kinds: int) -> list[int]:
        return [
            sum(self.problem.variants[v].kind == kind for v, _, _ in layout.spots)
            for kind in range(kinds)
        ]


@dataclass(frozen=True)
class Shared:
    """Layouts by place in the list of faces alike, one for each of its faces; with the bound, and
    sets by hand.
    """

    layouts: dict[int, list[Layout]]
    bound: int
    by_hand: int


def by_kind(placements: Iterable[Placement], kinds: int) -> list[int]:
    """How many there are of each kind."""
    tally = Counter(item.kind for item in placements)
    return [tally[kind] for kind in range(kinds)]


def sets_of(counts: Sequence[int], needs: Sequence[StationKind]) -> int:
    """Complete sets among so many stations of each kind."""
    return min(kind.sets(count) for kind, count in zip(needs, counts, strict=True))


def share(
    fixtures: list[Alike],
    needs: Sequence[StationKind],
    effort: float,
    most: int,
    tell: Callable[[Shared], None],
    filled: one.Fill = one.fill_face,
) -> Shared:
    """Fill all faces for at most so many sets, each kind as ``filled`` does it. ``tell`` gets each
    better sharing as it is found.
    """
    if len(needs) == 1:
        return _one_kind(fixtures, needs[0], effort, most, tell, filled)
    alone = {
        (key, kind): _alone(item, kind)
        for key, item in enumerate(fixtures)
        for kind in item.kinds()
    }
    by_hand: dict[int, list[Layout]] = {}
    for key, item in enumerate(fixtures):
        for kind in item.kinds():
            hand = _in(
                item,
                alone[key, kind],
                one.first(regular.hand_grid(alone[key, kind]), needs[kind].stations(most)),
            )
            item.alone[kind] = (hand, bound.at_a_glance(alone[key, kind].least), hand)
        by_hand[key] = [Layout("none", ()), *(hand for _, _, hand in item.alone.values())]
        by_hand[key] += [
            split for hand in by_hand[key][1:] for split in _by_rows(item, hand, _other_grids)
        ]
        by_hand[key] += _strips(item, needs)
    chosen = _chosen(fixtures, by_hand, needs)
    hand_sets = _sets(fixtures, chosen, needs)
    _told(fixtures, chosen, _bound(fixtures, needs), hand_sets, tell)
    patterns: dict[int, list[Layout]] = {}
    for key, item in enumerate(fixtures):
        for kind in item.kinds():
            found, limit, _ = filled(alone[key, kind], effort, None, needs[kind].stations(most))
            item.alone[kind] = (_in(item, alone[key, kind], found), limit, item.alone[kind][2])
        patterns[key] = [*by_hand[key], *(found for found, _, _ in item.alone.values())]
    limit = _bound(fixtures, needs, closely=filled is one.fill_face)
    best = _told(fixtures, _chosen(fixtures, patterns, needs), limit, hand_sets, tell)
    for source in (_by_turns, _by_filled_rows) if filled is not one.fill_regularly else ():
        if _sets(fixtures, best.layouts, needs) >= limit:
            break
        for key, item in enumerate(fixtures):
            patterns[key] += source(item, needs)
        better = _chosen(fixtures, patterns, needs)
        if _sets(fixtures, better, needs) > _sets(fixtures, best.layouts, needs):
            best = _told(fixtures, better, limit, hand_sets, tell)
    if filled is not one.fill_face:
        return best
    for key, item in enumerate(fixtures):
        for layout in dict.fromkeys(best.layouts[key]):
            for more in _squeezed(item, layout, needs, effort):
                patterns[key].append(more)
                better = _chosen(fixtures, patterns, needs)
                if _sets(fixtures, better, needs) > _sets(fixtures, best.layouts, needs):
                    best = _told(fixtures, better, limit, hand_sets, tell)
                if _sets(fixtures, best.layouts, needs) >= min(limit, most):
                    return best
    return best


def _squeezed(
    item: Alike, layout: Layout, needs: Sequence[StationKind], effort: float
) -> Iterator[Layout]:
    """A face with one set more, and another, until it does not go in; stations over are left
    out.
    """
    squeezing, kinds = squeeze.Squeeze(item.problem, effort), range(len(needs))
    standing = [item.standing(kind) for kind in kinds]
    while squeeze.worth_a_try(item.problem, len(layout.spots), effort):
        counts = item.counts(layout, len(needs))
        sets = sets_of([a + b for a, b in zip(counts, standing, strict=True)], needs)
        if not sets:
            return
        wanted = [needs[kind].stations(sets + 1) - standing[kind] for kind in kinds]
        left, kept = list(wanted), []
        for spot in layout.spots:
            kind = item.problem.variants[spot[0]].kind
            if left[kind] > 0:
                left[kind] -= 1
                kept.append(spot)
        lacking = [kind for kind in kinds for _ in range(left[kind])]
        found = squeezing.more(Layout(layout.method, tuple(kept)), lacking)
        if found is None:
            return
        layout = found
        yield layout


def _one_kind(
    fixtures: list[Alike],
    kind: StationKind,
    effort: float,
    most: int,
    tell: Callable[[Shared], None],
    filled: one.Fill,
) -> Shared:
    """Faces alike are filled alike."""
    layouts: dict[int, list[Layout]] = {}
    hand_total = limit_total = 0
    for key, item in enumerate(fixtures):
        stand, times = len(item.stand), len(item.faces)
        hand_total += stand
        limit_total += stand
        if not item.problem.variants:
            continue
        before, rest = (hand_total, limit_total), fixtures[key + 1 :]

        def told(
            found: Layout,
            limit: int,
            key: int = key,
            times: int = times,
            known: bool = not rest,
            at: int = limit_total,
        ) -> None:
            so_far = layouts | {key: [found] * times}
            tell(Shared(so_far, kind.sets(at + times * limit) if known else _NO_BOUND, 0))

        found, limit, hand = filled(item.problem, effort, told, kind.stations(most))
        layouts[key] = [found] * times
        hand_total, limit_total = before[0] + times * len(hand.spots), before[1] + times * limit
    return Shared(layouts, kind.sets(limit_total), kind.sets(hand_total))


def _alone(item: Alike, kind: int) -> FaceProblem:
    """The face as one kind alone would have it."""
    return FaceProblem(item.problem.face, item.problem.geometry, item.stand, frozenset({kind}))


def _told(
    fixtures: list[Alike],
    chosen: dict[int, list[Layout]],
    limit: int,
    by_hand: int,
    tell: Callable[[Shared], None],
) -> Shared:
    found = Shared(chosen, limit, by_hand)
    tell(found)
    return found


def _in(item: Alike, only: FaceProblem, layout: Layout) -> Layout:
    """A layout of one kind's problem in the numbers of all kinds' variants."""
    place = {variant: index for index, variant in enumerate(item.problem.variants)}
    return Layout(layout.method, tuple((place[only.variants[v]], x, y) for v, x, y in layout.spots))


def _sets(
    fixtures: list[Alike], layouts: dict[int, list[Layout]], needs: Sequence[StationKind]
) -> int:
    total = np.zeros(len(needs), dtype=int)
    for key, item in enumerate(fixtures):
        total += [item.standing(kind) for kind in range(len(needs))]
        for layout in layouts.get(key, []):
            total += item.counts(layout, len(needs))
    return sets_of(total.tolist(), needs)


def _chosen(
    fixtures: list[Alike], patterns: dict[int, list[Layout]], needs: Sequence[StationKind]
) -> dict[int, list[Layout]]:
    """A pattern for every face: most sets, then most stations, then fewest faces of mixed kinds,
    then fewest patterns.
    """
    from ortools.sat.python import cp_model  # a hundred megabytes, and only plans need it

    model, most = cp_model.CpModel(), 10_000_000
    sets = model.new_int_var(0, most, "sets")
    total: list[cp_model.LinearExprT] = [0] * len(needs)
    used: dict[int, list[cp_model.IntVar]] = {}
    cost: cp_model.LinearExprT = 0
    for key, item in enumerate(fixtures):
        used[key] = [model.new_int_var(0, len(item.faces), "") for _ in patterns[key]]
        model.add(sum(used[key]) == len(item.faces))
        for kind in range(len(needs)):
            total[kind] += item.standing(kind)
        for layout, times in zip(patterns[key], used[key], strict=True):
            counts = item.counts(layout, len(needs))
            cost += times * (200 * sum(counts) - 100 * (sum(count > 0 for count in counts) > 1))
            there = model.new_bool_var("")
            model.add(times <= len(item.faces) * there)
            cost -= there
            for kind, count in enumerate(counts):
                total[kind] += count * times
    for kind, need in enumerate(needs):
        model.add(need.per_set * sets <= need.holds * total[kind])
    model.maximize(sets * most + cost)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = 1.0
    solver.solve(model)
    return {
        key: [
            layout
            for layout, times in zip(patterns[key], used[key], strict=True)
            for _ in range(solver.value(times))
        ]
        for key in used
    }


def _bound(fixtures: list[Alike], needs: Sequence[StationKind], closely: bool = False) -> int:
    """No layout has more sets: stations of each kind on each group of faces, as shares, within the
    face they take, alone could have, and (``closely``) all kinds together could have.
    """
    columns = [(key, kind) for key, item in enumerate(fixtures) for kind in item.alone]
    rows, limits = [], []
    for key, item in enumerate(fixtures):
        if item.alone:
            least, shown = item.problem.least, len(item.faces)
            families = bound.shares(least) if closely else [bound.bodies_take(least)]
            for takes, area in families:
                rows.append([takes[kind] if at == key else 0.0 for at, kind in columns] + [0.0])
                limits.append(shown * area * (1 + 1e-6))
            if closely and len(item.alone) > 1:
                rows.append([float(at == key) for at, _ in columns] + [0.0])
                limits.append(float(shown * bound.upper_bound(least)))
    for kind, need in enumerate(needs):
        rows.append(
            [-float(need.holds) if of == kind else 0.0 for _, of in columns] + [float(need.per_set)]
        )
        limits.append(float(need.holds * sum(item.standing(kind) for item in fixtures)))
    most = [len(fixtures[key].faces) * fixtures[key].alone[kind][1] for key, kind in columns]
    answer = linprog(
        [0.0] * len(columns) + [-1.0],
        A_ub=rows,
        b_ub=limits,
        bounds=[(0, top) for top in most] + [(0, None)],
    )
    return math.floor(-answer.fun + 1e-6) if answer.success else _NO_BOUND


def _rows_of(item: Alike, layout: Layout, axis: int) -> list[list[Spot]]:
    """Stations in rows (axis 1) or columns (axis 0), from the datum corner."""
    ordered = sorted(layout.spots, key=lambda spot: spot[1 + axis])
    rows: list[list[Spot]] = []
    for spot in ordered:
        if not rows or spot[1 + axis] - rows[-1][0][1 + axis] > 1.0:
            rows.append([])
        rows[-1].append(spot)
    return rows


def _by_rows(
    item: Alike, layout: Layout, rest: Callable[[Alike, list[Spot], int, int], Iterator[Layout]]
) -> Iterator[Layout]:
    """The first rows of one kind, and what ``rest`` puts beyond them."""
    if len(item.kinds()) < 2 or not layout.spots:
        return
    own = item.problem.variants[layout.spots[0][0]].kind
    for axis in (0, 1):
        rows = _rows_of(item, layout, axis)
        step = -(-len(rows) // _MOST_ROWS)
        for many in range(step, len(rows), step):
            yield from rest(item, [spot for row in rows[:many] for spot in row], own, axis)


def _other_grids(item: Alike, kept: list[Spot], own: int, axis: int) -> Iterator[Layout]:
    """By hand: the other kind's own grid, where it is clear of the rows kept."""
    for kind, (_, _, hand) in item.alone.items():
        if kind != own:
            yield Layout("straight grids", tuple(compatible(item.problem, [*kept, *hand.spots])))


def _strips(item: Alike, needs: Sequence[StationKind]) -> list[Layout]:
    """By hand: a strip of the face for each kind, its own grid in as many rows as the sets need,
    one strip above the other.
    """
    problem, kinds = item.problem, item.kinds()
    rows = {kind: _rows_of(item, item.alone[kind][2], axis=1) for kind in kinds}
    if len(kinds) < max(2, len(needs)) or not all(rows.values()):
        return []
    most = min(needs[kind].sets(sum(map(len, rows[kind]))) for kind in kinds)
    for sets in range(most, 0, -max(1, most // _MOST_TRIES)):
        spots: list[Spot] = []
        rise = 0.0
        for kind in kinds:
            placed = 0
            variant = rows[kind][0][0][0]
            region = problem.nofit(variant, variant).bounds
            for row in rows[kind]:
                if placed >= needs[kind].stations(sets):
                    break
                spots += [(v, x, y + rise) for v, x, y in row]
                placed += len(row)
                top = row[0][2] - rows[kind][0][0][2] + (region[3] - region[1]) / 2
            rise += top
        found = Layout("straight grids in strips", tuple(compatible(problem, spots)))
        if sets_of(item.counts(found, len(needs)), needs) >= sets:
            return [found]
    return []


def _by_filled_rows(item: Alike, needs: Sequence[StationKind]) -> list[Layout]:
    """Rows of one kind as it fills the face alone, the rest corner by corner with the others, in
    every order.
    """

    def rest(_: Alike, kept: list[Spot], own: int, axis: int) -> Iterator[Layout]:
        others = [kind for kind in item.kinds() if kind != own]
        for order in list(permutations(others))[:2]:
            spots = list(kept)
            for kind in order:
                group = [
                    index
                    for index, variant in enumerate(item.problem.variants)
                    if variant.kind == kind
                ]
                # From the far side, so that what is left over lies between the kinds.
                spots += fill.fill(
                    item.problem, group, *fill.DIRECTIONS[2 if axis else 3], start=spots
                )
            yield Layout(
                "rows of one kind, the rest filled",
                tuple((v, round(x, 4), round(y, 4)) for v, x, y in spots),
            )

    return [found for layout, _, _ in item.alone.values() for found in _by_rows(item, layout, rest)]


def _by_turns(item: Alike, needs: Sequence[StationKind]) -> list[Layout]:
    """Kinds placed in turn, always the one that sets lack most, from several sides."""
    kinds = item.kinds()
    if len(kinds) < 2:
        return []

    def lacking(spots: Sequence[Spot]) -> list[int]:
        counts = {
            kind: item.standing(kind)
            + sum(item.problem.variants[v].kind == kind for v, _, _ in spots)
            for kind in kinds
        }
        return [min(kinds, key=lambda kind: (needs[kind].sets(counts[kind]), kind))]

    everything = tuple(range(len(item.problem.variants)))
    found = []
    for direction in fill.DIRECTIONS:
        spots = fill.fill(item.problem, everything, *direction, wanted=lacking)
        spots += fill.fill(item.problem, everything, *direction, start=spots)
        found.append(
            Layout("kinds in turn", tuple((v, round(x, 4), round(y, 4)) for v, x, y in spots))
        )
    return found
