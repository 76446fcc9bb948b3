"""Boxes in blocks: against the recursion as it is written down, on every kind of face and station;
disjoint, inside, off what is closed.
"""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.independent import faults
from tests.core.layout.test_layout import _ring
from wedgecraft.bench.layouts import SEEDED, box_request, seeded_boxes
from wedgecraft.core.layout import boxed, recursive
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.recursive import Size
from wedgecraft.core.layout.search import FaceProblem
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest


def _obvious(width: int, depth: int, sizes: tuple[Size, ...]) -> int:
    """Every cut in two and in five, at every whole number."""

    @cache
    def most(w: int, d: int) -> int:
        found = max(size.holds * (w // size.width) * (d // size.depth) for size in sizes)
        for x in range(1, w):
            found = max(found, most(x, d) + most(w - x, d))
        for y in range(1, d):
            found = max(found, most(w, y) + most(w, d - y))
        for x1 in range(1, w):
            for x2 in range(x1 + 1, w):
                for y1 in range(1, d):
                    for y2 in range(y1 + 1, d):
                        found = max(
                            found,
                            most(x1, d - y1)
                            + most(w - x1, d - y2)
                            + most(x2 - x1, y2 - y1)
                            + most(x2, y1)
                            + most(w - x2, y2),
                        )
        return found

    return most(width, depth)


_SIZE = st.builds(Size, st.integers(2, 6), st.integers(2, 6), st.integers(1, 2))
#: A box, its quarter turn as a rule, and sometimes another that holds two.
_SIZES = st.one_of(
    st.lists(_SIZE, min_size=1, max_size=3),
    st.builds(
        lambda one, more: [one, Size(one.depth, one.width, one.holds), *more],
        _SIZE,
        st.lists(_SIZE, max_size=1),
    ),
)


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 13), st.integers(1, 11), _SIZES)
@example(5, 5, [Size(3, 2), Size(2, 3)])  # a pinwheel, and one the other way round would not do
@example(11, 7, [Size(4, 3), Size(3, 4)])
def test_as_many_as_every_cut_at_every_place_finds(width, depth, sizes):
    placed = recursive.packed(width, depth, sizes)
    assert sum(sizes[size].holds for _, _, size in placed) == _obvious(width, depth, tuple(sizes))
    _sound(width, depth, sizes, placed)


@settings(max_examples=40, deadline=None)
@given(
    st.integers(20, 60),
    st.integers(20, 50),
    st.lists(_SIZE, min_size=1, max_size=3),
    st.lists(
        st.tuples(st.integers(0, 55), st.integers(0, 45), st.integers(1, 9), st.integers(1, 9)),
        max_size=5,
    ),
)
def test_what_is_closed_stays_empty_and_costs_no_more_than_it_must(width, depth, sizes, pins):
    """Never more than on the bare face, nor fewer than one size of box in a grid that leaves out
    what is closed.
    """
    closed = [
        [(x - size.width, y - size.depth, x + w, y + d) for x, y, w, d in pins] for size in sizes
    ]
    placed = recursive.packed(width, depth, sizes, closed=closed)
    taken = _sound(width, depth, sizes, placed)
    for x, y, w, d in pins:
        assert not taken[y : y + d, x : x + w].any()
    free = sum(sizes[size].holds for *_, size in recursive.packed(width, depth, sizes))
    found = sum(sizes[size].holds for *_, size in placed)
    assert found <= free
    for size, shut in zip(sizes, closed, strict=True):
        grid = [
            (x, y)
            for x in range(0, width - size.width + 1, size.width)
            for y in range(0, depth - size.depth + 1, size.depth)
            if not any(a < x < c and b < y < e for a, b, c, e in shut)
        ]
        assert found >= size.holds * len(grid)


def _sound(width, depth, sizes, placed):
    area = np.zeros((depth, width), dtype=int)
    for x, y, size in placed:
        box = sizes[size]
        assert 0 <= x <= width - box.width
        assert 0 <= y <= depth - box.depth
        area[y : y + box.depth, x : x + box.width] += 1
    assert area.max(initial=0) <= 1
    return area


@pytest.mark.parametrize("seed", [3, 61, 90, 154, 185])
def test_seeded_boxes_on_bare_faces_and_as_stations_of_several_layers(seed):
    """As many as unhurried recursion finds (kept beside the bench), on the bare face and where
    each box is a part between stops, cut all round, and reached by a wrench.
    """
    width, depth, long, short = seeded_boxes(seed)
    bare = layout(box_request(width, depth, long, short))
    assert bare.sets >= SEEDED[seed]
    request = _as_stations(width, depth, long, short)
    found = layout(request)
    assert faults(request, found) == []
    assert (found.sets, found.bound) == (bare.sets, bare.bound)


def _as_stations(width, depth, long, short, keepouts=()) -> LayoutRequest:
    """Ten times as large: a part with a border for its cutter, stops and a clamp that lie in the
    border. What two keep each other off is the box.
    """
    w, d = 10.0 * long, 10.0 * short
    part = [(4.0, 4.0), (w - 4, 4.0), (w - 4, d - 4), (4.0, d - 4)]
    base = [(0.0, 0.0), (w, 0.0), (w, d), (0.0, d)]
    stop = [(0.0, 6.0), (4.0, 6.0), (4.0, d - 6), (0.0, d - 6)]
    layers = [
        {"role": "body", "name": "nest", "outer": base, "low_mm": 0, "high_mm": 6},
        {"role": "body", "name": "part", "outer": part, "low_mm": 2, "high_mm": 30},
        {"role": "body", "name": "stop", "outer": stop, "low_mm": 6, "high_mm": 12},
        {"role": "sweep", "name": "outside", "outer": part, "low_mm": 4, "high_mm": 60},
        {"role": "access", "name": "wrench", "outer": stop, "low_mm": 6, "high_mm": 60},
    ]
    face = {"name": "plate", "outer": _ring(10.0 * width, 10.0 * depth), "keepouts": list(keepouts)}
    kinds = [{"name": "station", "turns": [0, 90, 180, 270], "layers": layers}]
    return LayoutRequest.model_validate({"faces": [face], "kinds": kinds})


def test_keep_outs_and_masks_on_real_stations_are_gone_round():
    """Screws through a plate: never fewer than the hand's grid or the lattices, more than the
    stations that the screws themselves hit would leave.
    """
    width, depth, long, short = 40, 25, 7, 3
    screws = [
        {"outer": [(x, y), (x + 8, y), (x + 8, y + 8), (x, y + 8)], "height_mm": 10}
        for x, y in ((0, 0), (392, 0), (0, 242), (392, 242), (196, 121))
    ]
    request = _as_stations(width, depth, long, short, screws)
    problem = FaceProblem(request.faces[0], Geometry(request.kinds))
    found = max((len(item.spots) for item in boxed.packings(problem, 0, 10**6)), default=0)
    assert found >= 47 - 5
    answer = layout(request)
    assert faults(request, answer) == []
    assert answer.by_hand <= answer.sets <= 47
    assert answer.sets >= found


def test_boxes_of_stations_keep_off_each_other_wherever_the_stations_would_meet():
    """Random stations of two bodies: the boxes that the linear programme gives are apart only where
    the no-fit regions say so.
    """
    rng = np.random.default_rng(8)
    for _ in range(6):
        w, d, e = (float(v) for v in rng.integers(20, 60, 3))
        arm = [(w - 1, 0), (w + e / 4, 0), (w + e / 4, d), (w - 1, d)]
        layers = [
            {"role": "body", "name": name, "outer": outer}
            for name, outer in (("part", _ring(w, d)), ("arm", arm))
        ]
        kind = {"name": "k", "turns": [0, 90, 180, 270], "layers": layers, "clearance_mm": 2}
        request = LayoutRequest.model_validate(
            {"faces": [{"name": "f", "outer": _ring(500, 400)}], "kinds": [kind]}
        )
        problem = FaceProblem(request.faces[0], Geometry(request.kinds))
        for choice in boxed._choices(problem):
            items = boxed.boxed(problem, choice)
            for one in items:
                for other in items:
                    region = problem.nofit(one.unit.members[0][0], other.unit.members[0][0])
                    hair = 1e-6
                    assert region.bounds[2] <= (one.high - other.low)[0] + hair
                    assert region.bounds[3] <= (one.high - other.low)[1] + hair
                    assert region.bounds[0] >= (one.low - other.high)[0] - hair
                    assert region.bounds[1] >= (one.low - other.high)[1] - hair
