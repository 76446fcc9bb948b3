"""One face filled with stations: every method in order, quick ones first, each better layout told
as it is found.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence

import shapely

from wedgecraft.core.layout import bound, boxed, boxes, exact, fill, regular, renew, rounds, squeeze
from wedgecraft.core.layout.search import FaceProblem, Layout, best

_DIGITS = 4
_RENEWALS = 700
_STARTS = 9
#: Above so many stations renewing gains more in the time than filling from each group of turns.
_MANY = 40
_FILL_WORK = 2_000_000
#: A choice among all positions rarely finds more and takes long: for those who ask for it.
_CHOICE_FROM = 2.0
#: Faces that hold more have more points than can be weighed.
_FEW = 60

Told = Callable[[Layout, int], None]


def fill_face(
    problem: FaceProblem, effort: float, tell: Told | None = None, most: int = 10**6
) -> tuple[Layout, int, Layout]:
    """The best layout, the bound, and what spacing boxes by hand would give; no more than ``most``
    are looked for.

    ``tell`` gets each better layout, with the bound, at once.
    """
    key = f"{effort} {most} {problem.content}"
    if key in _SOLVED:
        _SOLVED.move_to_end(key)
        told, answer = _SOLVED[key]
        if tell:
            for found in told:
                tell(*found)
        return answer
    told = []

    def and_kept(found: Layout, limit: int) -> None:
        told.append((found, limit))
        if tell:
            tell(found, limit)

    fullest, least, hand = _filled(problem, effort, and_kept, most, bound.upper_bound)
    count = len(fullest.spots)
    if 0 < count < least <= _FEW:
        least = max(count, min(least, bound.closer(problem.least)))
    answer = fullest, least, hand
    _SOLVED[key] = (told, answer)
    if len(_SOLVED) > _MOST_SOLVED:
        _SOLVED.popitem(last=False)
    return answer


#: Faces that were filled, by their content, with all that was told on the way: a search over forms
#: never solves the same one twice.
_SOLVED: OrderedDict[str, tuple[list[tuple[Layout, int]], tuple[Layout, int, Layout]]] = (
    OrderedDict()
)
_MOST_SOLVED = 64


def fill_unbounded(
    problem: FaceProblem, effort: float, tell: Told | None = None, most: int = 10**6
) -> tuple[Layout, int, Layout]:
    """As ``fill_face`` for those who know a bound already: theirs is only what a glance says."""
    return _filled(problem, effort, tell, most, bound.at_a_glance)


def _filled(
    problem: FaceProblem,
    effort: float,
    tell: Told | None,
    most: int,
    bounded: Callable[[FaceProblem], int],
) -> tuple[Layout, int, Layout]:
    hand = first(regular.hand_grid(problem), most)
    incumbent = hand
    if tell and hand.spots:
        tell(hand, min(most, bound.at_a_glance(problem.least)))
    limit = min(most, bounded(problem.least))
    if len(hand.spots) >= limit:
        return hand, len(hand.spots), hand

    def better(layouts: Sequence[Layout]) -> bool:
        """Take the best over; is there nothing left to gain?"""
        nonlocal incumbent
        found = best([incumbent, *(first(_rounded(item), most) for item in layouts)], problem)
        if tell and len(found.spots) > len(incumbent.spots):
            tell(found, max(limit, len(found.spots)))
        incumbent = found
        return len(incumbent.spots) >= limit

    tried: list[Layout] = [hand]
    for step in _steps(problem, effort):
        layouts, limit = step(limit, tried, incumbent)
        tried += layouts
        if better(layouts):
            break
    return incumbent, max(limit, len(incumbent.spots)), hand


Fill = Callable[..., tuple[Layout, int, Layout]]


def fill_regularly(
    problem: FaceProblem, effort: float, tell: Told | None = None, most: int = 10**6
) -> tuple[Layout, int, Layout]:
    """As ``fill_face``, but only straight rows of one turn and one pitch: what is easiest to
    program and to load.
    """
    hand = first(regular.hand_grid(problem), most)
    straight = [item for item in regular.lattices(problem) if item.method == "straight rows"]
    found = best([hand, *(first(_rounded(item), most) for item in straight)], problem)
    return found, max(min(most, bound.upper_bound(problem.least)), len(found.spots)), hand


_Step = Callable[[int, Sequence[Layout], Layout], tuple[list[Layout], int]]


def _steps(problem: FaceProblem, effort: float) -> Iterator[_Step]:
    """The methods, quick ones first; each gets the bound, what was tried and the best, and gives
    layouts and the bound.
    """
    everything = tuple(range(len(problem.variants)))
    yield lambda limit, tried, top: boxes.packed(problem, limit)
    if boxes.settles(problem):
        return
    yield lambda limit, tried, top: (regular.lattices(problem, limit, tilted=False), limit)
    if effort > 0:
        yield lambda limit, tried, top: (
            list(boxed.packings(problem, len(top.spots), limit)),
            limit,
        )
    yield lambda limit, tried, top: (fill.fills(problem, [everything], _runs(problem, top)), limit)
    yield lambda limit, tried, top: (regular.lattices(problem, limit, tilted=True), limit)
    yield lambda limit, tried, top: (_topped_up(problem, tried, _runs(problem, top) // 4), limit)
    if effort > 0:
        starts = math.ceil(_STARTS * effort)
        yield lambda limit, tried, top: (
            list(rounds.pressed_in(problem, top, limit, starts)),
            limit,
        )
        yield lambda limit, tried, top: (
            fill.fills(problem, fill.groups(problem), _runs(problem, top))
            if len(top.spots) <= _MANY
            else [],
            limit,
        )
        yield lambda limit, tried, top: (
            list(renew.renewals(problem, top, _rounds(problem, top, effort))),
            limit,
        )
        squeezing = _Squeezing(problem, effort)
        while not squeezing.over:
            yield squeezing.step
    if effort >= _CHOICE_FROM:
        yield lambda limit, tried, top: _chosen(problem, tried, top, effort, limit)
        yield lambda limit, tried, top: (_topped_up(problem, [top], 1), limit)


class _Squeezing:
    """Steps that squeeze one station more in, until none goes in."""

    def __init__(self, problem: FaceProblem, effort: float) -> None:
        self._problem, self._effort = problem, effort
        self._squeeze = squeeze.Squeeze(problem, effort)
        self.over = False

    def step(self, limit: int, tried: Sequence[Layout], top: Layout) -> tuple[list[Layout], int]:
        kinds = {variant.kind for variant in self._problem.variants}
        found = None
        count = len(top.spots)
        pressed = rounds.pressable(self._problem, count)  # finds what squeezing would
        if (
            len(kinds) == 1
            and not pressed
            and squeeze.worth_a_try(self._problem, count, self._effort)
        ):
            found = self._squeeze.more(top, list(kinds))
        self.over = found is None
        return [found] if found else [], limit


def _runs(problem: FaceProblem, top: Layout) -> int:
    """How often filling may be run: each time takes stations x corners of the rooms, and keep-outs
    by the hundred have many.
    """
    corners = sum(shapely.count_coordinates(room) for room in problem.rooms)
    return min(50, max(1, int(_FILL_WORK / max(1, len(top.spots) * corners))))


def _rounds(problem: FaceProblem, top: Layout, effort: float) -> int:
    """Tries at renewing: fewer where each takes longer."""
    wanted = max(4, math.ceil(_RENEWALS * effort / max(10, len(top.spots))))
    return min(wanted, math.ceil(effort * _runs(problem, top)))


def first(item: Layout, most: int) -> Layout:
    """Not more stations than wanted: those nearest the datum's side."""
    if len(item.spots) <= most:
        return item
    return Layout(
        item.method, tuple(sorted(item.spots, key=lambda spot: (spot[2], spot[1]))[:most])
    )


def _chosen(
    problem: FaceProblem, tried: Sequence[Layout], top: Layout, effort: float, limit: int
) -> tuple[list[Layout], int]:
    chosen, proven = exact.choose(problem, tried, top, effort)
    return [chosen], limit if proven is None else min(limit, proven)


def _topped_up(problem: FaceProblem, layouts: Sequence[Layout], most: int) -> list[Layout]:
    """Regular layouts leave pockets at edges and keep-outs: fill those of the fullest few."""
    everything = range(len(problem.variants))
    filled = []
    for item in sorted(layouts, key=lambda candidate: candidate.rank(problem))[: min(6, most)]:
        more = fill.fill(problem, everything, *fill.DIRECTIONS[0], start=item.spots)
        if more:
            filled.append(Layout(f"{item.method}, pockets filled", (*item.spots, *more)))
    return filled


def _rounded(item: Layout) -> Layout:
    return Layout(
        item.method, tuple((v, round(x, _DIGITS), round(y, _DIGITS)) for v, x, y in item.spots)
    )
