"""What no layout can exceed: against best-known packings of rounds, exhaustion on small faces, and
whatever stands clear of one another.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.layout.test_layout import _optimum, _ring
from wedgecraft.bench.layouts import (
    IN_CIRCLE,
    IN_SQUARE,
    box_request,
    packing_of,
    seeded_plan,
    shape_request,
)
from wedgecraft.core.layout import bound, fill, points
from wedgecraft.core.layout.joint import whole
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.layout import LayoutRequest
from wedgecraft.demo.by_hand import demo_requests
from wedgecraft.demo.shop import demo_documents


def _problem(request) -> FaceProblem:
    request = whole(request)
    return FaceProblem(request.faces[0], Geometry(request.kinds)).least


def _round(radius: float, corners: int, at: float = 0.0) -> list[tuple[float, float]]:
    angles = [2 * math.pi * k / corners for k in range(corners)]
    return [(at + radius * math.cos(a), at + radius * math.sin(a)) for a in angles]


@pytest.mark.parametrize(
    ("count", "radius", "face"),
    [(n, 100 * r * (1 - 5e-5), _ring(100, 100)) for n, r in IN_SQUARE.items()]
    + [(n, 50 / ratio * (1 - 2e-4), _round(50, 360, 50)) for n, ratio in IN_CIRCLE.items()],
)
def test_rounds_never_under_the_best_known_and_close_above_where_they_are_many(count, radius, face):
    """Specht's tables, as the bench has them. Nine tenths for thirty and more: area alone, and
    points under boxes, stay at four fifths.
    """
    problem = _problem(shape_request(_round(radius, 64), face, [0, 90]))
    limit = bound.upper_bound(problem)
    assert limit >= count
    if count >= 30:
        assert count >= 0.9 * limit
        assert count < 0.9 * min(bound._by_area(problem), bound._by_boxes(problem))


def test_oler_by_hand():
    """Of four points at the corners of a square, 2 / sqrt 3 + 2 + 1 is 4.15; of nine on a grid,
    8 / sqrt 3 + 4 + 1 is 9.6.
    """
    problem = _problem(shape_request(_round(25, 720), _ring(100, 100), [0]))
    middles = {0: (0.0, 0.0)}
    region = bound._kept_off(problem, middles)
    assert region is not None
    assert bound._by_centres(problem, middles, region) == 4  # centres in 50 x 50, 50 apart
    wide = _problem(shape_request(_round(25, 720), _ring(150, 150), [0]))
    assert bound._by_centres(wide, middles, region) == 9


@settings(max_examples=30, deadline=None)
@given(st.integers(4, 9), st.integers(4, 9), st.integers(1, 4), st.integers(1, 4))
def test_small_boxes_by_exhaustion(width, depth, one, other):
    long, short = max(one, other), min(one, other)
    problem = _problem(box_request(width, depth, long, short))
    most = _optimum(width, depth, long, short)
    if problem.variants:
        for each in (bound._by_area, bound._by_boxes, bound._by_halves):
            assert each(problem) >= most


_MANY = 10**6


def test_points_weighed_are_never_under_exhaustion_and_closer_than_points_that_count_alike():
    """Small faces with a closed cell or bar: the optimum by trying everything. Weights find it each
    time, points that count alike do not.
    """
    rng = np.random.default_rng(5)
    closer = 0
    for _ in range(40):
        width, depth = (int(v) for v in rng.integers(5, 9, 2))
        short, long = sorted(int(v) for v in rng.integers(1, 5, 2))
        x, y = int(rng.integers(1, width - 1)), int(rng.integers(1, depth - 1))
        across = int(rng.integers(1, min(3, width - x) + 1))
        keepout = {"outer": _ring(across, 1, x, y)}
        request = box_request(width, depth, long, short).model_dump()
        request["faces"][0]["keepouts"] = [keepout]
        problem = _problem(LayoutRequest.model_validate(request))
        closed = sum(1 << (x + k + y * width) for k in range(across))
        most = _optimum(width, depth, long, short, closed)
        if not problem.variants or most == 0:
            continue
        sizes = [(short, long) if v.turn % 180 else (long, short) for v in problem.variants]
        corners = {0: (0, 0), 90: (-short, 0), 180: (-long, -short), 270: (0, -long)}
        rooms = [
            shapely.transform(
                room, lambda p, c=corners[v.turn], s=size: p + np.array(c) + np.array(s) / 2
            )
            for room, v, size in zip(problem.rooms, problem.variants, sizes, strict=True)
        ]
        alike = points._on_a_grid([points.Room(room) for room in rooms], sizes, _MANY)
        weighed = points._weighed(rooms, sizes, _MANY)
        assert min(alike, weighed) >= most, (width, depth, long, short, keepout)
        closer += weighed == most < alike
        assert weighed == most or weighed == _MANY  # more points than are weighed
    assert closer >= 5


def test_vises_of_the_demo_are_proven_by_weighed_points():
    """340 x 100 with 3 between: points that count alike leave room for ten where nine is all."""
    documents = {document.job.name: document for document, _ in demo_documents()}
    asked = setup_request(documents["Gauge-well collar"], 2)
    assert asked is not None
    found = layout(packing_of(asked))
    assert (found.sets, found.bound, found.proven) == (9, 9, True)


@pytest.mark.parametrize(
    ("corners", "hexagon"),
    [
        (4, 2 / 1),  # a square is its own
        (6, 1.5 * math.sqrt(3)),
        # The densest packing of octagons covers (4 + 4√2) / (5 + 4√2), 0.9062, of the plane.
        (8, 2 * math.sqrt(2) * (5 + 4 * math.sqrt(2)) / (4 + 4 * math.sqrt(2))),
        (720, 2 * math.sqrt(3)),
    ],
)
def test_the_least_hexagon_round_known_shapes(corners, hexagon):
    shape = shapely.Polygon(_round(1, corners))
    found = bound._least_hexagon(bound._fewer_corners(shape))
    assert found == pytest.approx(hexagon, rel=1e-3)


@pytest.mark.parametrize("seed", range(6))
def test_points_of_the_closest_lattice_are_as_many_as_the_inequality_allows(seed):
    """Oler's inequality is exact on a parallelogram of the closest lattice: (m + 1) (n + 1)."""
    rng = np.random.default_rng(seed)
    skew = rng.uniform(-0.4, 0.4, (2, 2)) + np.eye(2)
    hexagon = shapely.Polygon(np.array(_round(1, 6)) @ skew)  # tiles the plane: its own least
    corners = shapely.get_coordinates(hexagon)
    one, other = (corners[0] + corners[1]) / 2, (corners[1] + corners[2]) / 2  # touch, not overlap
    m, n = (int(v) for v in rng.integers(1, 9, 2))
    rim = shapely.Polygon([0 * one, m * one, m * one + n * other, n * other])
    cell = bound._least_hexagon(hexagon) / 4
    assert rim.area / cell + bound._rim(rim, hexagon) / 2 + 1 == pytest.approx((m + 1) * (n + 1))


def _clear_pairs_are_apart(problem: FaceProblem, shapes: list[bound.Area], seed: int) -> None:
    """Pairs at random: of whoever is off the no-fit region the shapes do not overlap."""
    rng = np.random.default_rng(seed)
    reach = 1.3 * max(float(np.abs(shape.bounds).max()) for shape in shapes)
    clear = 0
    for a, own in enumerate(shapes):
        for b, theirs in enumerate(shapes):
            offsets = rng.uniform(-2 * reach, 2 * reach, (150, 2))
            offsets = offsets[~problem.clashes(a, b, offsets)]
            clear += len(offsets)
            for offset in offsets:
                there = shapely.transform(theirs, lambda p, o=offset: p + o)
                assert own.intersection(there).area < 1e-3 * min(own.area, there.area)
    assert clear > 100


@pytest.mark.parametrize("seed", [0, 3, 4, 7, 9, 21, 30])
def test_real_stations_that_stand_clear_have_their_middles_and_cores_apart(seed):
    """What the bounds take for a station's own is, wherever two stand clear."""
    problem = _problem(packing_of(seeded_plan(seed)))
    for middles in bound._middles(problem):
        region = bound._kept_off(problem, middles)
        assert region is not None
        assert region.convex_hull.area == pytest.approx(region.area)
        _clear_pairs_are_apart(problem, bound._halves(problem, middles, {0: region}), seed)


#: Jobs of the demo that hold two kinds of stations on one face: op 10 and 20, and a kit.
_OF_TWO_KINDS = ["Manifold block, by the pallet", "Probe-clamp kit"]


def _demo(name: str) -> LayoutRequest:
    return packing_of(next(request for request, _ in demo_requests() if request.name == name))


@pytest.mark.parametrize("name", _OF_TWO_KINDS)
def test_stations_of_two_kinds_that_stand_clear_are_apart_too(name):
    problem = _problem(_demo(name))
    assert {variant.kind for variant in problem.variants} == {0, 1}
    for middles in bound._middles(problem):
        region = bound._kept_off(problem, middles)
        assert region is not None
        shapes = bound._halves(problem, middles, dict.fromkeys(middles, region))
        _clear_pairs_are_apart(problem, shapes, 1)
        own = {kind: bound._kept_off(problem, middles, kind) for kind in middles}
        share = bound._together(problem, middles, own)
        assert 0 < share <= 1
        grown = {
            kind: shapely.transform(each, lambda corners, s=share: corners * s)
            for kind, each in own.items()
        }
        _clear_pairs_are_apart(problem, bound._halves(problem, middles, grown), 2)


@pytest.mark.parametrize("name", _OF_TWO_KINDS)
def test_faces_filled_with_two_kinds_stay_under_what_two_kinds_can_have(name):
    """Filled from all sides, kinds in turn and one after the other: no filling takes more than
    there is, and none holds more than the bound of both together, which is closer than by bodies.
    """
    problem = _problem(_demo(name))
    limit, shares = bound.upper_bound(problem), bound.shares(problem)
    assert len(shares) > 1
    assert limit <= bound._by_area(problem)
    everything = tuple(range(len(problem.variants)))
    by_kind = {kind: [k for k in everything if problem.variants[k].kind == kind] for kind in (0, 1)}
    most = 0
    for direction in fill.DIRECTIONS[:4]:
        for first in (0, 1):
            spots = fill.fill(problem, by_kind[first], *direction)[:: 1 + first]
            spots += fill.fill(problem, everything, *direction, start=spots)
            kinds = [problem.variants[variant].kind for variant, _, _ in spots]
            most = max(most, len(spots))
            for takes, there in shares:
                assert sum(takes[kind] for kind in kinds) <= there * (1 + 1e-6)
    assert 0.4 * limit <= most <= limit


def test_op_10_and_20_on_a_block_have_a_bound_of_both_together():
    """Half of what four faces hold of either: it was 44 by bodies alone."""
    found = layout(_demo("Manifold block, by the pallet").model_copy(update={"effort": 0.0}))
    assert found.sets <= found.bound <= 30


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.6, 1.0), min_size=8, max_size=24), st.floats(0.3, 3))
def test_what_is_left_of_a_hollow_region_is_convex_and_inside(radii, stretch):
    angles = 2 * np.pi * np.arange(len(radii)) / len(radii)
    corners = (
        np.stack([np.cos(angles) * stretch, np.sin(angles)], axis=1) * np.array(radii)[:, None]
    )
    region = shapely.Polygon(corners * 30)
    found = bound._convex(region)
    if found is not None:
        assert region.buffer(1e-9).covers(found)
        assert found.convex_hull.area == pytest.approx(found.area)
        assert found.contains(shapely.Point(0, 0))
    disc = shapely.Point(0, 0).buffer(region.exterior.distance(shapely.Point(0, 0)) * 0.999)
    assert found is None or found.buffer(1e-6).covers(disc)  # Oler's disc is never lost


def _of_kinds(width: float, depth: float, *kinds: list[list[tuple[float, float]]]) -> FaceProblem:
    """A face for several kinds, each of some bodies, none of them turned."""
    layers = [
        [{"role": "body", "name": f"body {n}", "outer": outer} for n, outer in enumerate(bodies)]
        for bodies in kinds
    ]
    return _problem(
        LayoutRequest.model_validate(
            {
                "faces": [{"name": "face", "outer": _ring(width, depth)}],
                "kinds": [
                    {"name": f"kind {n}", "turns": [0], "layers": found}
                    for n, found in enumerate(layers)
                ],
            }
        )
    )


def test_kinds_whose_clamps_point_at_each_other_stand_closer_back_to_back():
    """Parts 40 wide, clamps of 30 to the right of one kind and to the left of the other: of one
    kind 70 apart, back to back 40. What bounds both together must know of the 40.
    """
    right, left = [_ring(40, 20), _ring(30, 20, 40)], [_ring(40, 20), _ring(30, 20, -30)]
    problem = _of_kinds(400, 20, right, left)
    assert problem.variants[0].kind != problem.variants[1].kind
    alone = [bound._kept_off(problem, middles, 0).bounds[2] for middles in bound._middles(problem)]
    both = [bound._kept_off(problem, middles).bounds[2] for middles in bound._middles(problem)]
    assert alone == pytest.approx([70, 70], abs=0.01)
    assert both[1] == pytest.approx(40, abs=0.01)  # about the middles of the parts
    # A pair back to back takes 140: two of them and one more stand on 400.
    assert bound.upper_bound(problem) >= 2 * (400 // 140) + 1


def test_what_two_kinds_take_is_all_there_is_where_they_tile_the_face():
    """Boxes of 20 x 20 and 10 x 20 that leave nothing free: 12, 6 and 12, 24 of the smaller."""
    problem = _of_kinds(80, 60, [_ring(20, 20)], [_ring(10, 20)])
    for large, small in ((12, 0), (6, 12), (0, 24)):
        for takes, there in bound.shares(problem):
            assert large * takes[0] + small * takes[1] <= there * (1 + 1e-6)
        takes, there = bound.bodies_take(problem)
        assert large * takes[0] + small * takes[1] == pytest.approx(there, rel=1e-3)
    assert bound.upper_bound(problem) == 24
