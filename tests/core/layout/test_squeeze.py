"""Stations squeezed in: known tilings, depths against a polygon library, nothing ever overlaps."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import Point

from tests.core.independent import as_result, faults
from tests.core.layout.test_layout import _random_polygon, _ring
from wedgecraft.bench.layouts import packing_of, seeded_plan, shape_request
from wedgecraft.core.layout import fill, squeeze
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem, Layout
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest, Placement

TURNS = [0, 90, 180, 270]
L_OF_THREE = [(0.0, 0.0), (20.0, 0.0), (20.0, 10.0), (10.0, 10.0), (10.0, 20.0), (0.0, 20.0)]


def _problem(request: LayoutRequest) -> FaceProblem:
    return FaceProblem(request.faces[0], Geometry(request.kinds))


def _wrong(request: LayoutRequest, found: Layout) -> list[str]:
    variants = _problem(request).variants
    return faults(
        request,
        as_result(
            [
                Placement(face=0, kind=variants[v].kind, x_mm=x, y_mm=y, turn=variants[v].turn)
                for v, x, y in found.spots
            ]
        ),
    )


@pytest.mark.parametrize(
    ("width", "depth", "count"),
    # Chu and Johnsonbaugh, "Tiling deficient boards with trominoes", Mathematics Magazine 59, 1986
    # (from memory): they tile 5 x 9, though not by pairs alone.
    [(40, 60, 8), (50, 60, 10), (50, 90, 15)],
)
def test_ls_of_three_squares_tile_what_they_are_known_to_tile(width, depth, count):
    # A hundredth more room each way: no more of them have room for all that.
    request = shape_request(L_OF_THREE, _ring(width * 1.01, depth * 1.01), TURNS)
    problem = _problem(request)
    found = Layout("one", tuple(fill.fill(problem, (0,), (0, 1), (1, 0))))
    squeezing = squeeze.Squeeze(problem, 20.0)
    while len(found.spots) < count:
        more = squeezing.more(found, [0])
        assert more is not None
        assert len(more.spots) == len(found.spots) + 1
        found = more
    assert not _wrong(request, found)


def test_depths_are_how_far_two_stations_must_be_moved_apart():
    rng = np.random.default_rng(8)
    for _ in range(6):
        outer = shapely.get_coordinates(_random_polygon(rng))[:-1].tolist()
        problem = _problem(shape_request(outer, _ring(120, 90), TURNS))
        known = squeeze.rasters(problem)
        step, far = squeeze._STEP, known.far
        for u, v in rng.integers(0, 2 * far + 1, (60, 2)):
            first, second = (int(k) for k in rng.integers(0, 4, 2))
            region = problem.nofit(first, second)
            point = Point((u - far) * known.cell, (v - far) * known.cell)
            deep = region.boundary.distance(point) if region.contains(point) else 0.0
            told = known.depths[first, second, u % step, v % step, u // step, v // step]
            assert told / squeeze._PARTS == pytest.approx(deep / known.cell, abs=0.2)


def test_plans_hold_more_stations_than_the_other_methods_find_and_none_overlap():
    # Every other method left these at 20 and 18 in the same time, the first also in twenty times.
    for seed, least in ((3, 21), (21, 19)):
        request = packing_of(seeded_plan(seed))
        found = layout(request)
        assert found.count >= least
        assert not faults(request, found)
        assert found.count <= found.bound


def test_what_is_squeezed_in_stands_clear_of_keepouts_and_of_what_stands_already():
    rng = np.random.default_rng(3)
    squeezed_in = 0
    for seed in range(6):
        outer = shapely.get_coordinates(_random_polygon(rng))[:-1].tolist()
        document = shape_request(outer, _ring(150, 110), TURNS).model_dump()
        document["faces"][0]["keepouts"] = [
            {"outer": _ring(9, 9, float(x), float(y))} for x, y in rng.uniform(10, 100, (3, 2))
        ]
        document["kinds"][0]["clearance_mm"] = float(rng.uniform(0, 3))
        request = LayoutRequest.model_validate(document)
        problem = _problem(request)
        found = Layout("one", tuple(fill.fill(problem, (seed % 4,), (1, 0), (0, 1))))
        squeezing = squeeze.Squeeze(problem, 0.3)
        while found.spots and (more := squeezing.more(found, [0])) is not None:
            found, squeezed_in = more, squeezed_in + 1
        assert not _wrong(request, found)
    assert squeezed_in >= 6


def test_kits_get_one_of_each_kind_wanted():
    document = shape_request(_ring(30, 20), _ring(100, 100), TURNS).model_dump()
    other = document["kinds"][0] | {"name": "other"}
    other["layers"] = [other["layers"][0] | {"outer": L_OF_THREE}]
    document["kinds"].append(other)
    request = LayoutRequest.model_validate(document)
    problem = _problem(request)
    found = squeeze.Squeeze(problem, 1.0).more(Layout("none", ()), [0, 0, 0, 1, 1, 1, 1])
    assert found is not None
    assert not _wrong(request, found)
    kinds = [problem.variants[v].kind for v, _, _ in found.spots]
    assert kinds == [0, 0, 0, 1, 1, 1, 1]
