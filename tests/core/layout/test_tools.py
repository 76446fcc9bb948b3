"""What the layout methods are made of, each against something slower: crossings, row heights,
pressed rounds, renewals, bounds.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon, box

from tests.core.independent import as_result, faults
from tests.core.layout.test_layout import _random_polygon, _ring
from wedgecraft.bench.layouts import box_request, packing_of, shape_request
from wedgecraft.core.layout import bound, boxes, fill, mix, one, regular, renew, rounds, search
from wedgecraft.core.layout.edges import count_inside, edges_of, far_up, slant_heights
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem, Layout
from wedgecraft.core.records.layout import Placement
from wedgecraft.demo.by_hand import demo_requests


def _problem(request) -> FaceProblem:
    return FaceProblem(request.faces[0], Geometry(request.kinds))


def _judged(request, problem: FaceProblem, found: Layout) -> list[str]:
    variants = problem.variants
    stations = [
        Placement(face=0, kind=variants[v].kind, x_mm=x, y_mm=y, turn=variants[v].turn)
        for v, x, y in found.spots
    ]
    return faults(request, as_result(stations))


def test_points_inside_and_the_far_end_of_a_ray_as_shapely_has_them():
    rng = np.random.default_rng(6)
    for _ in range(40):
        area = shapely.union(
            _random_polygon(rng), shapely.affinity.translate(_random_polygon(rng), 25, 3)
        ).difference(box(-2, -2, 2, 2))
        edges, points, shifts = (
            edges_of(area),
            rng.uniform(-30, 50, (60, 2)),
            rng.uniform(-5, 5, (4, 2)),
        )
        for shift, found in zip(shifts, count_inside(edges, points, shifts), strict=True):
            assert found == shapely.contains_xy(area, *(points + shift).T).sum()
        x = float(rng.uniform(-20, 40))
        crossed = shapely.intersection(area, LineString([(x, 0), (x, 200)]))
        assert far_up(edges, np.array([x])) == pytest.approx(
            0.0 if crossed.is_empty else crossed.bounds[3], abs=1e-9
        )


def test_rows_that_each_shift_further_stay_clear_of_all_rows_below():
    rng = np.random.default_rng(8)
    for _ in range(15):
        body = _random_polygon(rng)
        problem = _problem(shape_request(list(body.exterior.coords)[:-1], _ring(300, 300), [0]))
        edges = edges_of(problem.nofit(0, 0))
        for step in [*regular._level_steps(edges), *regular._tilted_steps(edges)]:
            along = np.array([math.cos(step.angle), math.sin(step.angle)])
            up = np.array([-along[1], along[0]])
            for row in range(4):
                aside = row * step.shift if step.slanted else (row % 2) * step.shift
                for column in range(-4, 5):
                    offset = (column * step.pitch_x + aside) * along + row * step.pitch_y * up
                    if row or column:
                        assert (
                            body.intersection(shapely.affinity.translate(body, *offset)).area
                            < 0.02 * body.area
                        )


def test_slants_are_the_least_that_each_row_up_asks():
    """However far up is looked: rows beyond the first that no higher point could reach ask for
    nothing more.
    """
    rng = np.random.default_rng(21)
    for body in [Polygon(_ring(40, 30, -20, -15)), *(_random_polygon(rng) for _ in range(12))]:
        edges = edges_of(body)
        pitch = float(body.bounds[2] - body.bounds[0])
        columns, shifts = np.arange(-3, 4) * pitch, np.linspace(0, 0.9, 7) * pitch
        for shift, found in zip(shifts, slant_heights(edges, columns, shifts, 8), strict=True):
            assert found == pytest.approx(
                max(far_up(edges, (row * shift) % pitch + columns) / row for row in range(1, 8))
            )


def test_the_slope_of_pressed_rounds_against_differences():
    """Within, in a hole and beyond a corner of a room that is not convex."""
    rng = np.random.default_rng(2)
    room = shapely.box(0, 0, 30, 20) - shapely.box(20, 12, 31, 21) - shapely.Point(9, 9).buffer(4)
    edges = rounds.edges_of(room)
    flat = rng.uniform(-4, 28, 40)
    value, slope = rounds._energy(flat, edges, 7.0)
    places = flat.reshape(-1, 2)
    apart = np.linalg.norm(places[:, None] - places[None], axis=2)[np.triu_indices(20, 1)]
    off = shapely.distance(room, shapely.points(places))
    assert 4 < (off > 0).sum() < 16
    assert value == pytest.approx((np.maximum(0, 7 - apart) ** 2).sum() + (off**2).sum())
    for index in range(len(flat)):
        step = np.zeros_like(flat)
        step[index] = 1e-6
        difference = (
            rounds._energy(flat + step, edges, 7.0)[0] - rounds._energy(flat - step, edges, 7.0)[0]
        ) / 2e-6
        assert slope[index] == pytest.approx(difference, abs=1e-4)


@pytest.mark.parametrize("sides", [16, 24, 90, 400])
def test_what_counts_as_round_and_what_does_not(sides):
    angles = 2 * np.pi * np.arange(sides) / sides
    circle = np.stack([12 * np.cos(angles), 12 * np.sin(angles)], axis=1) + (30, 5)
    found = rounds.round_station(_problem(shape_request(circle.tolist(), _ring(100, 100), [0])))
    assert (found is None) == (sides < 20)
    if found:
        # sums are as round as their outlines, which are taken from without
        assert 24 - 1e-3 <= found.diameter <= 24 * (1 + 1.5e-3)
    oval = circle * (1.2, 1)
    assert (
        rounds.round_station(_problem(shape_request(oval.tolist(), _ring(100, 100), [0]))) is None
    )


@settings(max_examples=12, deadline=None)
@given(st.integers(20, 60), st.integers(14, 40), st.integers(0, 5))
def test_renewing_never_loses_a_station_and_every_step_is_sound(width, depth, seed):
    rng = np.random.default_rng(seed)
    keepouts = [{"outer": _ring(12, 12, *map(float, rng.uniform(0, 180, 2)))} for _ in range(2)]
    document = shape_request(
        [(0, 0), (width, 0), (width, depth / 2), (width / 2, depth), (0, depth)],
        _ring(200, 170),
        [0, 90, 180, 270],
    ).model_dump()
    document["faces"][0]["keepouts"] = keepouts
    request = type(shape_request(_ring(1, 1), _ring(2, 2), [0])).model_validate(document)
    problem = _problem(request)
    start = Layout(
        "corner by corner",
        tuple(fill.fill(problem, range(len(problem.variants)), *fill.DIRECTIONS[0])),
    )
    count = len(start.spots)
    for found in renew.renewals(problem, start, 12):
        assert len(found.spots) > count
        assert _judged(request, problem, found) == []
        count = len(found.spots)


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("direction", fill.DIRECTIONS[:4])
def test_a_room_filled_tile_by_tile_is_sound_and_full(seed, direction, monkeypatch):
    """Of many keep-outs: what stands is clear, and nothing is left of the whole rooms."""
    rng = np.random.default_rng(seed)
    document = shape_request(
        [(0, 0), (40, 0), (40, 15), (20, 30), (0, 30)], _ring(330, 270), [0, 90, 180, 270]
    ).model_dump()
    document["faces"][0]["keepouts"] = [
        {"outer": _ring(9, 9, *map(float, rng.uniform(0, 320, 2)))} for _ in range(12)
    ]
    request = type(shape_request(_ring(1, 1), _ring(2, 2), [0])).model_validate(document)
    problem = _problem(request)
    monkeypatch.setattr(search, "_MANY_CORNERS", 40)
    assert min(len(problem.tiles(variant)) for variant in range(4)) > 20
    found = fill.fill(problem, range(4), *direction)
    assert _judged(request, problem, Layout("corner by corner", tuple(found))) == []
    for variant in range(4):
        taken = [
            shapely.transform(problem.nofit(placed, variant), lambda p, at=(x, y): p + at)
            for placed, x, y in found
        ]
        assert problem.rooms[variant].difference(shapely.union_all(taken)).area < 0.01


def test_what_is_known_of_stations_that_stand_again_changes_nothing():
    """Fillings from parts of one another, in a problem that remembers and in new ones."""
    request = packing_of(demo_requests()[-1][0])
    knows = _problem(request)
    everything = range(len(knows.variants))
    whole = fill.fill(knows, everything, *fill.DIRECTIONS[0])
    rng = np.random.default_rng(2)
    behind = 0
    for _ in range(6):
        kept = [spot for spot in whole if rng.random() < 0.6]
        direction = fill.DIRECTIONS[int(rng.integers(0, 5))]
        found = fill.fill(knows, everything, *direction, start=kept)
        for start in (kept, [*kept, *found[:2]], [*kept, *found][:-1]):
            behind += 0 < knows.left_by(0, start)[1] < len(start)
            anew = fill.fill(_problem(request), everything, *direction, start=start)
            assert fill.fill(knows, everything, *direction, start=start) == anew
    assert behind > 5


@pytest.mark.parametrize("index", range(7))
def test_every_bound_stays_above_what_much_more_effort_finds(index):
    """Area, grown parts and boxes, each by itself, on the demo's stations."""
    request = packing_of(demo_requests()[index][0])
    for kind in range(len(request.kinds)):
        problem = FaceProblem(request.faces[0], Geometry(request.kinds), kinds=frozenset({kind}))
        found, limit, hand = one.fill_face(problem, 1.0)
        assert len(hand.spots) <= len(found.spots) <= limit
        assert len(found.spots) <= min(
            bound._by_area(problem),
            bound._by_boxes(problem),
            bound._by_halves(problem),
            bound.at_a_glance(problem),
        )
        plain, _, _ = one.fill_regularly(problem, 1.0)
        assert len(hand.spots) <= len(plain.spots) <= len(found.spots)
        assert len({problem.variants[spot[0]].turn for spot in plain.spots}) == 1


def test_whole_boxes_are_seen_as_such_and_others_are_not():
    whole = boxes.whole_boxes(_problem(box_request(40, 25, 7, 3)))
    assert whole is not None
    assert (whole.width, whole.depth, whole.long, whole.short, whole.exact) == (40, 25, 7, 3, True)
    odd = boxes.whole_boxes(_problem(box_request(40, 25, 7.123456, 3)))
    assert odd is None or not odd.exact  # a bound from rounded sizes would be no bound
    ell = shape_request([(0, 0), (7, 0), (7, 1), (1, 1), (1, 3), (0, 3)], _ring(40, 25), [0, 90])
    seen = boxes.whole_boxes(_problem(ell))
    assert seen is None or not seen.exact


@given(
    st.lists(
        st.tuples(st.integers(0, 40), st.integers(1, 5), st.integers(1, 4)), min_size=2, max_size=4
    )
)
def test_sets_are_what_the_scarcest_kind_allows(given_kinds):
    kind = box_request(40, 25, 7, 3).kinds[0]
    kinds = [
        kind.model_copy(update={"per_set": each, "holds": holds}) for _, each, holds in given_kinds
    ]
    sets = mix.sets_of([count for count, _, _ in given_kinds], kinds)
    assert all(sets * each <= count * holds for count, each, holds in given_kinds)
    assert any((sets + 1) * each > count * holds for count, each, holds in given_kinds)
    for item, (_, each, holds) in zip(kinds, given_kinds, strict=True):
        assert (
            (item.stations(sets) - 1) * holds
            < max(1, sets * each)
            <= max(1, item.stations(sets) * holds)
        )
