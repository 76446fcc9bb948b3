"""Layouts: sound by an independent test, never fewer than by hand, never above a true optimum's
bound.
"""

from __future__ import annotations

import math
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon, box

from tests.core.independent import boxes_by_hand, faults
from wedgecraft.bench.layouts import BOXES, box_request
from wedgecraft.core.layout.nofit import Geometry, Variant
from wedgecraft.core.layout.skyline import SkylineSearch
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest


def _ring(width, depth, x=0.0, y=0.0):
    return [(x, y), (x + width, y), (x + width, y + depth), (x, y + depth)]


@pytest.mark.parametrize(("width", "depth", "long", "short", "optimum"), BOXES)
def test_published_pallet_loading_instances(width, depth, long, short, optimum):
    """Published optima of the pallet loading literature; the bound must never fall below them."""
    request = box_request(width, depth, long, short)
    result = layout(request)
    assert faults(request, result) == []
    assert result.bound >= optimum
    assert result.count == optimum
    assert result.proven == (result.count == result.bound)


@pytest.mark.parametrize(
    ("width", "depth", "long", "short"),
    [(9, 7, 3, 2), (8, 8, 4, 1), (11, 6, 4, 3), (7, 9, 5, 1), (6, 6, 3, 3), (5, 9, 5, 2)],
)
def test_the_skyline_search_finds_what_there_is_and_nothing_else(width, depth, long, short):
    """Against the exhaustive count: a packing of every number up to it, none above; every packing
    sound.
    """
    optimum = _optimum(width, depth, long, short)
    search = SkylineSearch(width, depth, long, short)
    assert search.boxes(optimum + 1) is None
    for target in range(max(1, optimum - 1), optimum + 1):
        found = search.boxes(target)
        assert found is not None
        assert len(found) >= target
        cells = [
            (x + i, y + j)
            for x, y, turned in found
            for i in range(short if turned else long)
            for j in range(long if turned else short)
        ]
        assert len(set(cells)) == len(cells)
        assert {0 <= x < width and 0 <= y < depth for x, y in cells} == {True}
    for bad in ((0, 5, 2, 1), (300, 5, 2, 1), (9, 9, 1, 2)):
        with pytest.raises(ValueError, match="sides from 1 to 255"):
            SkylineSearch(*bad)


@cache
def _optimum(width: int, depth: int, long: int, short: int, closed: int = 0) -> int:
    """Exhaustive: boxes on whole positions, which loses nothing for whole sizes (shift every box
    left and down); ``closed``: cells that are none, as bits.
    """
    best = 0

    def search(free: int, start: int, count: int) -> None:
        nonlocal best
        best = max(best, count)
        if count + bin(free).count("1") // (long * short) <= best:
            return
        for cell in range(start, width * depth):
            x, y = cell % width, cell // width
            for w, d in {(long, short), (short, long)}:
                if x + w > width or y + d > depth:
                    continue
                mask = sum(((1 << w) - 1) << (x + (y + k) * width) for k in range(d))
                if free & mask == mask:
                    search(free & ~mask, cell + 1, count + 1)

    search(((1 << width * depth) - 1) & ~closed, 0, 0)
    return best


@pytest.mark.parametrize(
    ("width", "depth", "long", "short"),
    [(5, 5, 3, 2), (7, 5, 3, 2), (6, 6, 4, 1), (7, 6, 4, 3), (8, 5, 3, 2), (7, 7, 5, 2)],
)
def test_small_boxes_against_exhaustive_search(width, depth, long, short):
    result = layout(box_request(width, depth, long, short))
    assert result.count == _optimum(width, depth, long, short)
    assert result.bound >= result.count


@st.composite
def _jobs(draw) -> LayoutRequest:
    """A random plate with keep-outs and a station with part, stop, clamp and sweep at different
    heights.
    """
    width, depth = draw(st.integers(120, 420)), draw(st.integers(100, 340))
    w, d = draw(st.integers(18, 70)), draw(st.integers(18, 70))
    shape = draw(st.sampled_from(["box", "round", "wedge", "ell"]))
    part = {
        "box": _ring(w, d),
        "round": [
            (w / 2 + w / 2 * math.cos(k * math.pi / 12), w / 2 + w / 2 * math.sin(k * math.pi / 12))
            for k in range(24)
        ],
        "wedge": [(0, 0), (w, 0), (0, d)],
        "ell": [(0, 0), (w, 0), (w, d / 3), (w / 3, d / 3), (w / 3, d), (0, d)],
    }[shape]
    cutter = draw(st.sampled_from([0, 6, 12]))
    layers = [
        {"role": "body", "name": "part", "outer": part, "low_mm": 0, "high_mm": 25},
        {
            "role": "body",
            "name": "stop",
            "outer": _ring(6, d / 2, -6, 2),
            "low_mm": 0,
            "high_mm": 10,
        },
        {"role": "body", "name": "clamp", "outer": _ring(20, 14, w, 2), "low_mm": 0, "high_mm": 10},
        {
            "role": "access",
            "name": "wrench",
            "outer": _ring(14, 14, w + 4, 2),
            "low_mm": 10,
            "high_mm": 80,
        },
    ]
    if cutter:
        low = draw(st.sampled_from([5, 14]))
        swept = list(Polygon(part).buffer(cutter, quad_segs=4).exterior.coords)[:-1]
        layers.append(
            {"role": "sweep", "name": "cut", "outer": swept, "low_mm": low, "high_mm": 200}
        )
    keepouts = [
        {
            "outer": _ring(16, 16, draw(st.integers(0, width)), draw(st.integers(0, depth))),
            "height_mm": draw(st.sampled_from([8, 30])),
        }
        for _ in range(draw(st.integers(0, 4)))
    ]
    regions = []
    if draw(st.booleans()):
        reach = draw(st.integers(80, 400))
        regions = [
            {
                "name": "tolerance",
                "point_mm": (w / 2, d / 2),
                "outer": _ring(reach, reach, -20, -20),
            }
        ]
    return LayoutRequest.model_validate(
        {
            "faces": [{"name": "plate", "outer": _ring(width, depth), "keepouts": keepouts}],
            "kinds": [
                {
                    "name": "station",
                    "layers": layers,
                    "clearance_mm": draw(st.sampled_from([0, 2, 5])),
                    "regions": regions,
                    "turns": draw(st.sampled_from([[0], [0, 180], [0, 90, 180, 270]])),
                }
            ],
            "effort": draw(st.sampled_from([0.0, 0.2])),
        }
    )


@settings(
    max_examples=15, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
)
@given(_jobs())
def test_random_plates_are_sound_never_under_the_hand_grid_and_never_over_the_bound(request):
    result = layout(request)
    assert faults(request, result) == []
    assert result.count >= boxes_by_hand(request)
    assert result.count >= result.by_hand
    assert result.count <= result.bound
    assert (result.hindrance is None) == (result.count > 0)


def test_the_same_document_gives_the_same_answer():
    request = LayoutRequest.model_validate_json(Path("docs/examples/layout.json").read_text())
    assert layout(request) == layout(request)


def test_a_sweep_passes_over_low_bodies_and_keeps_off_high_ones():
    def count(sweep_low: float) -> int:
        kind = {
            "name": "k",
            "turns": [0],
            "layers": [
                {
                    "role": "body",
                    "name": "part",
                    "outer": _ring(20, 20),
                    "low_mm": 0,
                    "high_mm": 10,
                },
                {
                    "role": "sweep",
                    "name": "cut",
                    "outer": _ring(40, 40, -10, -10),
                    "low_mm": sweep_low,
                    "high_mm": 90,
                },
            ],
        }
        return layout(
            LayoutRequest.model_validate(
                {"faces": [{"name": "f", "outer": _ring(100, 20)}], "kinds": [kind]}
            )
        ).count

    assert count(10.0) == 5
    assert count(9.9) == 3


def test_several_faces_and_a_limit_on_stations():
    document = box_request(22, 16, 5, 3).model_dump()
    document["faces"] = [document["faces"][0] | {"name": name} for name in ("B0", "B90")]
    assert layout(LayoutRequest.model_validate(document)).count == 46
    few = layout(LayoutRequest.model_validate(document | {"most": 7}))
    assert (few.count, few.bound, few.proven) == (7, 7, True)


def test_what_does_not_fit_says_by_how_much():
    result = layout(box_request(10, 2, 5, 3))
    assert result.count == 0
    assert "1.0 mm too deep" in (result.hindrance or "")


def _random_polygon(rng: np.random.Generator) -> Polygon:
    """A star-shaped polygon, usually with dents."""
    angles = np.sort(rng.uniform(0, 2 * math.pi, rng.integers(4, 11)))
    radii = rng.uniform(4, 20, len(angles))
    polygon = Polygon(np.stack([radii * np.cos(angles), radii * np.sin(angles)], axis=1))
    return polygon if polygon.is_valid and polygon.area > 20 else box(0, 0, 10, 5)


def test_no_fit_regions_are_where_polygons_overlap():
    rng = np.random.default_rng(5)
    for _ in range(25):
        a, b = _random_polygon(rng), _random_polygon(rng)
        kinds = LayoutRequest.model_validate(
            {
                "faces": [{"name": "f", "outer": _ring(9, 9)}],
                "kinds": [
                    {
                        "name": n,
                        "turns": [0],
                        "layers": [
                            {"role": "body", "name": n, "outer": list(p.exterior.coords)[:-1]}
                        ],
                    }
                    for n, p in (("a", a), ("b", b))
                ],
            }
        ).kinds
        region = Geometry(kinds).nofit(Variant(0, 0), Variant(1, 0))
        for offset in rng.uniform(-40, 40, (60, 2)):
            moved = affinity.translate(b, *offset)
            overlap = a.intersection(moved).area
            inside = region.contains(Polygon([offset] * 3).centroid)
            if overlap > 0.05:
                assert inside
            if a.distance(moved) > 0.01:
                assert not inside
