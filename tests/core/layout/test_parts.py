"""The parts of the layout engine, each against something slower or older: fits, bounds, blocks,
cliques, rows.
"""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Point, Polygon

from tests.core.independent import as_result, faults
from tests.core.layout.test_layout import _optimum, _ring
from wedgecraft.bench.layouts import box_request
from wedgecraft.core.ground.planar import turned
from wedgecraft.core.layout import bound, exact, fill, regular
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem, Layout, compatible
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult, Placement

ELL = [(0, 0), (40, 0), (40, 14), (14, 14), (14, 36), (0, 36)]
TRIANGLE = [(0, 0), (40, 0), (20, 34.64)]


def _request(
    outer, face=None, keepouts=(), turns=(0, 90, 180, 270), clearance=0.0, **kind
) -> LayoutRequest:
    return LayoutRequest.model_validate(
        {
            "faces": [
                {"name": "face", "outer": face or _ring(200, 160), "keepouts": list(keepouts)}
            ],
            "kinds": [
                {
                    "name": "k",
                    "layers": [{"role": "body", "name": "b", "outer": outer}],
                    "turns": list(turns),
                    "clearance_mm": clearance,
                }
                | kind
            ],
        }
    )


def _problem(request: LayoutRequest) -> FaceProblem:
    return FaceProblem(request.faces[0], Geometry(request.kinds))


def _as_result(problem: FaceProblem, found: Layout) -> LayoutResult:
    placements = [
        Placement(
            face=0, kind=problem.variants[v].kind, x_mm=x, y_mm=y, turn=problem.variants[v].turn
        )
        for v, x, y in found.spots
    ]
    return as_result(placements)


@pytest.mark.parametrize("outer", [ELL, TRIANGLE, _ring(30, 12)])
@pytest.mark.parametrize("clearance", [0.0, 4.0])
def test_every_regular_and_every_filled_layout_is_sound_by_itself(outer, clearance):
    request = _request(outer, keepouts=[{"outer": _ring(20, 20, 90, 70)}], clearance=clearance)
    problem = _problem(request)
    groups = [tuple(range(len(problem.variants))), *fill.groups(problem)]
    found = [
        *regular.lattices(problem),
        *regular.lattices(problem, tilted=True),
        *fill.fills(problem, groups),
        regular.hand_grid(problem),
    ]
    assert len(found) > 40
    for item in found[:: max(1, len(found) // 25)]:
        assert faults(request, _as_result(problem, item)) == [], item.method


def test_half_turned_triangles_fill_rows_almost_without_loss():
    """Triangles and their half turns tile the plane: a strip of height h and length n * a / 2 + a /
    2 takes n of them.
    """
    request = _request(TRIANGLE, face=_ring(40 * 4 + 20 + 0.02, 34.65), turns=(0, 180))
    result = layout(request)
    assert faults(request, result) == []
    assert result.count == 8


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 100_000))
def test_inner_fit_is_where_the_body_is_inside_and_clear(seed):
    rng = np.random.default_rng(seed)
    face = [(0, 0), (120, 0), (120, 60), (70, 90), (0, 90)]
    keepout = _ring(15, 15, float(rng.uniform(0, 100)), float(rng.uniform(0, 70)))
    request = _request(ELL, face=face, keepouts=[{"outer": keepout}])
    geometry = Geometry(request.kinds)
    for variant in geometry.variants:
        room = geometry.inner_fit(request.faces[0], variant)
        body = affinity.rotate(Polygon(ELL), variant.turn, origin=(0, 0))
        for x, y in rng.uniform((-40, -40), (160, 130), (25, 2)):
            placed = affinity.translate(body, x, y)
            clear = (
                Polygon(face).covers(placed) and placed.intersection(Polygon(keepout)).area < 1e-9
            )
            margin = (
                abs(Polygon(face).exterior.distance(placed)) < 0.01
                or placed.distance(Polygon(keepout)) < 0.01
            )
            if not margin:
                assert room.intersects(Point(x, y)) == clear


@settings(max_examples=25, deadline=None)
@given(st.integers(3, 8), st.integers(3, 7), st.integers(2, 4), st.integers(1, 3))
def test_bounds_never_fall_under_the_true_optimum(width, depth, long, short):
    problem = _problem(box_request(width, depth, long, short))
    if problem.variants:
        assert bound.upper_bound(problem) >= _optimum(
            width, depth, max(long, short), min(long, short)
        )


def test_bounds_hold_with_keepouts_and_masks_against_whatever_was_found():
    rng = np.random.default_rng(2)
    for outer, _ in itertools.product([ELL, TRIANGLE, _ring(30, 12)], range(4)):
        keepouts = [{"outer": _ring(18, 18, *map(float, rng.uniform(0, 140, 2)))} for _ in range(3)]
        region = {
            "name": "mask",
            "point_mm": (5, 5),
            "outer": _ring(*map(float, rng.uniform(60, 160, 2))),
        }
        request = _request(outer, keepouts=keepouts, clearance=2.0, regions=[region]).model_copy(
            update={"effort": 0.0}
        )
        result = layout(request)
        assert faults(request, result) == []
        assert result.count <= result.bound


def test_cliques_cover_every_clash_and_join_only_what_clashes():
    request = _request(ELL, clearance=1.0)
    problem = _problem(request)
    rng = np.random.default_rng(1)
    spots = [
        (int(v), float(x), float(y))
        for v, x, y in zip(
            rng.integers(0, 4, 90), rng.uniform(0, 160, 90), rng.uniform(0, 120, 90), strict=True
        )
    ]
    variants, points = np.array([s[0] for s in spots]), np.array([s[1:] for s in spots])
    cliques = exact._cliques(problem, variants, points)
    together = {pair for clique in cliques for pair in itertools.permutations(clique, 2)}
    for i, j in itertools.combinations(range(len(spots)), 2):
        clash = len(compatible(problem, [spots[i], spots[j]])) < 2
        if all(problem.fits(s[0], np.array([s[1:]]))[0] for s in (spots[i], spots[j])):
            assert ((i, j) in together) == clash


def test_the_choice_among_positions_improves_a_poor_layout_and_keeps_a_good_one():
    request = box_request(22, 16, 5, 3)
    problem = _problem(request)
    chosen, limit = exact.choose(problem, [], Layout("nothing", ()), effort=1.0)
    assert limit is not None
    assert limit >= 23
    assert 21 <= len(chosen.spots) <= 23
    assert faults(request, _as_result(problem, chosen)) == []


def test_quarter_turns_are_exact():
    points = np.random.default_rng(0).uniform(-50, 50, (40, 2))
    for quarter in (0, 90, 180, 270):
        angle = math.radians(quarter)
        rotation = np.array(
            [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
        )
        assert turned(points, quarter) == pytest.approx(points @ rotation.T)
    assert (turned(turned(points, 90), 270) == points).all()


def test_numbers_run_along_rows_from_the_datum_corner():
    result = layout(_request(_ring(30, 12), face=_ring(100, 40), turns=(0,), clearance=2.0))
    places = [(round(p.y_mm, 1), p.x_mm) for p in result.placements]
    assert places == sorted(places)


@pytest.mark.parametrize("width", [59.9999, 60.0, 60.4])
def test_an_exact_fit_fits(width):
    """Three twenties in sixty: touching is clear, and a hair's rounding must not cost a part."""
    assert layout(_request(_ring(20, 20), face=_ring(width, 20), turns=(0,))).count == 3


def test_polygonal_faces_are_kept_inside():
    hexagon = [
        (100 + 90 * math.cos(k * math.pi / 3), 90 + 90 * math.sin(k * math.pi / 3))
        for k in range(6)
    ]
    request = _request(_ring(25, 18), face=hexagon, clearance=1.0)
    result = layout(request)
    assert faults(request, result) == []
    assert result.count >= 25
