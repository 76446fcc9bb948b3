"""What a layout promises whatever the problem: told answers that only get better, an end when
asked, bounds that follow the room.
"""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.independent import faults
from tests.core.layout.test_layout import _jobs, _ring
from wedgecraft.bench import layouts
from wedgecraft.bench.layouts import shape_request
from wedgecraft.core.layout import one
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.solve import alternatives, layout
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult

SOME = settings(
    max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
)
WEDGE = [(0.0, 0.0), (46.0, 0.0), (46.0, 12.0), (0.0, 38.0)]


def _more(request: LayoutRequest, **change: object) -> LayoutRequest:
    return request.model_copy(
        update={"kinds": [kind.model_copy(update=change) for kind in request.kinds]}
    )


@SOME
@given(_jobs())
def test_answers_told_on_the_way_are_sound_and_only_get_better(request):
    told: list[LayoutResult] = []
    result = layout(request, told.append)
    counts = [answer.sets for answer in told]
    assert counts == sorted(counts)
    assert all(faults(request, answer) == [] for answer in told[:: max(1, len(told) // 3)])
    assert all(answer.sets <= answer.bound for answer in told)
    if result.sets:
        assert told
        assert told[-1].sets <= result.sets
    again: list[LayoutResult] = []
    assert layout(request, again.append) == result
    assert again == told


class _Enough(Exception):
    pass


def test_who_is_told_can_end_it():
    calls = []

    def enough(answer: LayoutResult) -> None:
        calls.append(answer.count)
        raise _Enough

    with pytest.raises(_Enough):
        layout(shape_request(WEDGE, _ring(300, 200), [0, 90, 180, 270]), enough)
    assert len(calls) == 1


@SOME
@given(st.integers(90, 260), st.integers(80, 200), st.integers(5, 60), st.floats(0.5, 6))
def test_a_larger_face_never_has_the_smaller_bound_nor_a_wider_gap_the_larger(
    width, depth, more, gap
):
    small = shape_request(WEDGE, _ring(width, depth), [0, 90, 180, 270]).model_copy(
        update={"effort": 0.0}
    )
    large = shape_request(WEDGE, _ring(width + more, depth), [0, 90, 180, 270]).model_copy(
        update={"effort": 0.0}
    )
    answers = [layout(request) for request in (small, large, _more(small, clearance_mm=gap))]
    assert answers[0].count <= answers[1].bound
    assert answers[2].count <= answers[0].bound
    assert answers[2].used_mm2 <= answers[2].usable_mm2 * (1 + 1e-9)


def test_more_effort_never_finds_fewer():
    request = shape_request(WEDGE, _ring(260, 170), [0, 90, 180, 270])
    found = [
        layout(request.model_copy(update={"effort": effort})).count
        for effort in (0.0, 0.5, 1.0, 3.0)
    ]
    assert found == sorted(found)


def test_alternatives_of_a_bare_layout_are_sound_regular_and_roomy():
    request = _more(shape_request(WEDGE, _ring(330, 210), [0, 90, 180, 270]), clearance_mm=2.0)
    best = layout(request)
    named = {item.name: item for item in alternatives(request, best)}
    for other in named.values():
        assert faults(request, other.result) == []
        assert other.result.count <= best.bound
    plain = named["most regular"].result
    assert len({item.turn for item in plain.placements}) == 1
    columns = sorted({round(item.x_mm, 2) for item in plain.placements})
    assert np.ptp(np.diff(columns)) < 0.02  # one pitch
    roomy = named["most room"]
    assert roomy.more_room_mm > 0
    assert faults(_more(request, clearance_mm=2.0 + roomy.more_room_mm), roomy.result) == []
    assert roomy.result.count >= 0.9 * best.count
    if "fewest offsets" in named:
        alike = named["fewest offsets"].result
        assert len({item.turn for item in alike.placements}) == 1
        assert alike.count > plain.count


def test_the_bench_measures_what_it_says_real_plans_first(monkeypatch):
    names = [name for name, _ in layouts.GROUPS]
    assert names == ["real plans", "bare faces"]
    wanted = ("boxes 5 x 3 in 22 x 16", "5 circles in a square")
    few = [item for item in layouts.bare_shapes() if item.name in wanted]
    assert len(few) == 2
    short = dataclasses.replace(few[0], known=24)
    monkeypatch.setattr(layouts, "GROUPS", (("few", lambda: iter([*few, short])),))
    headings, boxes, circles, missed, total, *classes, memory = layouts.lines()
    assert headings.split()[:5] == ["instance", "count", "bound", "known", "proven"]
    assert boxes.split()[-9:-5] == ["23", "23", "23", "yes"]
    assert circles.split()[-9] == circles.split()[-7] == "5"
    assert missed.split()[-7] == "24"
    assert "3, 51 sets" in total
    assert "short of what is known 1;" in total
    assert [line.split(":")[0].strip() for line in classes] == ["boxes", "rounds"]
    assert classes[0].strip() == "boxes: 2, count over bound 1.00 in the median; proven 2"
    assert memory.startswith("peak memory")


def test_seeded_plans_are_plans_with_stations_and_the_same_every_time():
    """What is measured goes the way a user's plan goes: several layers, screws in the plate."""
    for seed in (0, 1, 2, 5):
        asked = layouts.packing_of(layouts.seeded_plan(seed))
        assert asked == layouts.packing_of(layouts.seeded_plan(seed))
        assert len(asked.faces[0].keepouts) >= 4
        assert len(asked.kinds[0].layers) >= 3
        assert {layer.role for layer in asked.kinds[0].layers} >= {"body", "sweep"}


def test_a_face_is_solved_once_for_its_content_and_never_mistaken_for_another(monkeypatch):
    """The same face under another name is answered from what is known; another effort, another
    number wanted, a station that stands there, a gap wider by a hair are faces of their own.
    """
    request = _more(shape_request(WEDGE, _ring(140, 110), [0, 90, 180, 270]), clearance_mm=2.0)
    told: list[LayoutResult] = []
    known = layout(request, told.append)
    solved = []
    true = one._filled
    monkeypatch.setattr(one, "_filled", lambda *given: solved.append(1) or true(*given))
    face = request.faces[0].model_copy(update={"name": "the same"})
    again: list[LayoutResult] = []
    assert layout(request.model_copy(update={"faces": [face]}), again.append) == known
    assert (again, solved) == (told, [])
    stands = known.placements[0].model_copy(update={"x_mm": known.placements[0].x_mm + 1.5})
    for other in (
        {"effort": 0.5},
        {"most": 3},
        {"fixed": [stands]},
        {"kinds": [request.kinds[0].model_copy(update={"clearance_mm": 2.0001})]},
    ):
        answer = layout(request.model_copy(update=other))
        assert solved, other
        solved.clear()
        assert faults(request.model_copy(update=other), answer) == []


def test_screws_that_are_alike_close_the_same_room_as_each_by_itself():
    """Round ones, a bar, and one that is higher, at odd places: against the difference of each
    no-fit region worked out for it alone.
    """
    rng = np.random.default_rng(12)
    angles = 2 * np.pi * np.arange(24) / 24
    disc = np.stack([6 * np.cos(angles), 6 * np.sin(angles)], axis=1)
    bar = np.array([(0, 0), (31, 4), (29, 12), (-2, 8)])
    places = rng.uniform(15, 180, (14, 2))
    keepouts = [
        {
            "outer": np.round((bar if k % 5 == 0 else disc) + at, 6).tolist(),
            "height_mm": 8 if k % 3 else 60,
        }
        for k, at in enumerate(places)
    ]
    sweep = {"role": "sweep", "name": "s", "outer": _ring(40, 30, -5, -5), "low_mm": 20}
    document = shape_request(WEDGE, _ring(260, 220), [0, 90, 180, 270]).model_dump()
    document["faces"][0]["keepouts"] = keepouts
    document["kinds"][0]["layers"].append({**sweep, "high_mm": 90})
    request = LayoutRequest.model_validate(document)
    geometry = Geometry(request.kinds)
    for variant in geometry.variants:
        room = geometry.inside(request.faces[0], variant)
        for keepout in request.faces[0].keepouts:
            room = shapely.difference(room, geometry._closed_by(keepout, variant))
        found = geometry.inner_fit(request.faces[0], variant)
        assert 0 < found.area < geometry.inside(request.faces[0], variant).area
        assert shapely.symmetric_difference(found, room).area < 1e-2
        assert shapely.hausdorff_distance(found.boundary, room.boundary) < 2e-4
