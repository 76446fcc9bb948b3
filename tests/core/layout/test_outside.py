"""Layouts against the outside: published box, circle and lattice packings, a packing library, and
kinds that share faces by exhaustion.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import rectpack
from shapely.geometry import Polygon

from tests.core.independent import as_result, boxes_by_hand, faults
from tests.core.layout.test_layout import _optimum, _ring
from wedgecraft.bench.layouts import IN_CIRCLE, IN_SQUARE, L_APPROACH, box_request
from wedgecraft.core.layout import regular, rounds
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem
from wedgecraft.core.layout.skyline import SkylineSearch
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult


@pytest.mark.parametrize(("width", "depth", "long", "short", "optimum"), L_APPROACH)
def test_boxes_that_no_blocks_in_blocks_reach(width, depth, long, short, optimum):
    request = box_request(width, depth, long, short)
    result = layout(request)
    assert faults(request, result) == []
    assert (result.count, result.bound, result.proven) == (optimum, optimum, True)
    assert optimum == width * depth // (long * short)


def test_what_a_finished_search_calls_impossible_is_impossible():
    """Against exhaustion: no packing of one more wherever the search says it tried everything."""
    rng, finished = np.random.default_rng(4), 0
    for _ in range(25):
        width, depth = map(int, rng.integers(4, 9, 2))
        long, short = sorted(map(int, rng.integers(1, 5, 2)), reverse=True)
        optimum = _optimum(width, depth, long, short)
        search = SkylineSearch(width, depth, long, short)
        assert search.most() >= optimum
        for target in range(1, optimum + 3):
            found = search.boxes(target)
            assert (found is not None) == (target <= optimum), (width, depth, long, short, target)
            assert found is not None or search.exhausted
            finished += search.exhausted
    assert finished > 25


def test_random_jobs_against_a_packing_library_and_boxes_by_hand():
    """Identical boxes on random plates: never fewer than the library's best of its methods, nor
    than a grid by hand.
    """
    rng, ours, theirs, by_hand = np.random.default_rng(11), 0, 0, 0
    for _ in range(45):
        width, depth = (float(v) for v in rng.integers(60, 200, 2))
        w, d = (float(v) for v in rng.integers(11, 40, 2))
        gap = float(rng.integers(0, 4))
        document = box_request(width, depth, w, d).model_dump()
        document["kinds"][0]["clearance_mm"] = gap
        request = LayoutRequest.model_validate(document | {"effort": 0.2})
        result = layout(request)
        library = max(
            _library(width + gap, depth + gap, w + gap, d + gap, turns) for turns in (True, False)
        )
        hand = boxes_by_hand(request)
        assert faults(request, result) == []
        assert hand <= result.count <= result.bound
        assert library <= result.count, (width, depth, w, d, gap)
        ours, theirs, by_hand = ours + result.count, theirs + library, by_hand + hand
    assert ours > 1.02 * theirs
    assert ours > 1.05 * by_hand


def _library(width: float, depth: float, w: float, d: float, turns: bool) -> int:
    most = 0
    for method in (
        rectpack.MaxRectsBssf,
        rectpack.MaxRectsBl,
        rectpack.SkylineBlWm,
        rectpack.GuillotineBssfSas,
    ):
        packer = rectpack.newPacker(pack_algo=method, rotation=turns)
        for _ in range(int(width * depth // (w * d)) + 1):
            packer.add_rect(w, d)
        packer.add_bin(width, depth)
        packer.pack()
        most = max(most, len(packer.rect_list()))
    return most


def _round(
    radius: float, corners: int = 64, x: float = 0, y: float = 0
) -> list[tuple[float, float]]:
    angles = [2 * math.pi * k / corners for k in range(corners)]
    return [(x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles]


@pytest.mark.parametrize(("count", "radius"), [(count, IN_SQUARE[count]) for count in (7, 13, 30)])
def test_as_many_circles_in_a_square_as_best_known(count, radius):
    _as_many_rounds(count, 100 * radius * (1 - 5e-5), _ring(100, 100))


@pytest.mark.parametrize(("count", "ratio"), [(count, IN_CIRCLE[count]) for count in (7, 13)])
def test_as_many_circles_in_a_circle_as_best_known(count, ratio):
    _as_many_rounds(count, 50 / ratio * (1 - 2e-4), _round(50, 360, 50, 50))


def _as_many_rounds(count: int, radius: float, face: list[tuple[float, float]]) -> None:
    request = _kinds([_round(radius)], face, turns=[0])
    result = layout(request)
    assert faults(request, result) == []
    assert result.count == count
    assert rounds.round_station(FaceProblem(request.faces[0], Geometry(request.kinds))) is not None


def _kinds(outers, face, turns=(0, 180), faces=1, **kind) -> LayoutRequest:
    return LayoutRequest.model_validate(
        {
            "faces": [{"name": f"F{k}", "outer": face} for k in range(faces)],
            "kinds": [
                {
                    "name": f"k{n}",
                    "turns": list(turns),
                    "layers": [{"role": "body", "name": "b", "outer": outer}],
                }
                | kind
                for n, outer in enumerate(outers)
            ],
        }
    )


@pytest.mark.parametrize(
    ("outer", "density"),
    [
        # A triangle and its half turn fill the plane, whatever its shape.
        ([(0, 0), (31, 4), (11, 27)], 1.0),
        ([(0, 0), (40, 0), (9, 30)], 1.0),
        # Regular pentagon: (5 - sqrt 5) / 3, Kuperberg and Kuperberg 1990, "Double-lattice packings
        # of convex bodies in the plane".
        (_round(20, 5), (5 - math.sqrt(5)) / 3),
        # Regular heptagon, from memory of the same method: 0.8927.
        (_round(20, 7), 0.8926),
    ],
)
def test_double_lattices_reach_the_known_density(outer, density):
    """The tightest lattice that is laid, by the face that it takes for each station; never tighter
    than is possible.
    """
    request = _kinds([outer], _ring(400, 400))
    problem = FaceProblem(request.faces[0], Geometry(request.kinds))
    area = Polygon(outer).area
    takes = []
    for unit in regular.units(problem):
        edges = regular.edges_of(regular.unit_nofit(problem, unit))
        takes += [
            step.area / len(unit.members)
            for step in [*regular._level_steps(edges), *regular._tilted_steps(edges)]
        ]
    assert area / min(takes) >= 0.985 * density
    assert area / min(takes) <= density * 1.0005  # stations may touch within a hair


@pytest.mark.parametrize(
    ("faces", "per_set"), [(1, (1, 1)), (1, (1, 2)), (2, (1, 1)), (2, (3, 1)), (4, (1, 1))]
)
def test_kinds_share_faces_for_the_most_complete_sets(faces, per_set):
    """Against every way of giving whole and half faces to two kinds; sound, balanced, under the
    bound, never under the hand's.
    """
    request = _kinds(
        [_ring(30, 20), _ring(24, 24)], _ring(120, 100), turns=(0, 90), faces=faces, clearance_mm=2
    )
    request = request.model_copy(
        update={
            "kinds": [
                kind.model_copy(update={"per_set": each})
                for kind, each in zip(request.kinds, per_set, strict=True)
            ]
        }
    )
    told: list[LayoutResult] = []
    result = layout(request, told.append)
    assert faults(request, result) == []
    counts = [sum(item.kind == kind for item in result.placements) for kind in (0, 1)]
    assert counts == [result.sets * each for each in per_set]
    assert max(result.by_hand, 1) <= result.sets <= result.bound
    assert [answer.sets for answer in told] == sorted(answer.sets for answer in told)
    assert told[-1].sets <= result.sets
    for answer in told:
        assert faults(request, answer) == []

    def alone(outer, width) -> int:
        return layout(_kinds([outer], _ring(width, 100), turns=(0, 90), clearance_mm=2)).count

    whole = [alone(_ring(30, 20), 120), alone(_ring(24, 24), 120)]
    half = [alone(_ring(30, 20), 59), alone(_ring(24, 24), 59)]
    by_faces = max(
        min(
            (a * whole[0] + h * half[0]) // per_set[0],
            ((faces - h - a) * whole[1] + h * half[1]) // per_set[1],
        )
        for h in range(faces + 1)
        for a in range(faces + 1 - h)
    )
    assert result.sets >= by_faces


def test_a_kind_keeps_to_its_faces_and_faces_alike_are_filled_alike():
    request = _kinds([_ring(30, 20), _ring(24, 24)], _ring(120, 100), faces=3)
    kinds = [
        request.kinds[0].model_copy(update={"faces": [0, 1]}),
        request.kinds[1].model_copy(update={"faces": [2]}),
    ]
    result = layout(request.model_copy(update={"kinds": kinds}))
    assert {(item.kind, item.face) for item in result.placements} <= {(0, 0), (0, 1), (1, 2)}
    one = layout(_kinds([_ring(30, 20)], _ring(120, 100), faces=4))
    by_face = [
        sorted((p.x_mm, p.y_mm, p.turn) for p in one.placements if p.face == face)
        for face in range(4)
    ]
    assert by_face[0] == by_face[1] == by_face[2] == by_face[3]
    assert faults(request, as_result([])) == []
