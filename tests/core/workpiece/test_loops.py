"""Chains and nests against what they were cut from, and solids' views from triangles alone against
closed forms.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box
from shapely.ops import unary_union

from wedgecraft.core.workpiece.loops import LoopFault, chain, nest
from wedgecraft.core.workpiece.mesh import Mesh, section, silhouette, turned_up, volume_mm3


def _ring(
    count: int, rng: np.random.Generator, centre=(0.0, 0.0), size: float = 50.0
) -> np.ndarray:
    angles = 2 * math.pi * (np.arange(count) + rng.uniform(0, 0.7, count)) / count
    radii = rng.uniform(0.5, 1, count) * size
    return np.stack(
        [centre[0] + radii * np.cos(angles), centre[1] + radii * np.sin(angles)], axis=1
    )


def _cut_up(ring: np.ndarray, rng: np.random.Generator, gap: float) -> list[np.ndarray]:
    """The ring in pieces of any length, any order and direction, their ends moved apart by up to
    ``gap`` in all.
    """
    count = len(ring)
    starts = np.sort(rng.choice(count, size=rng.integers(2, count + 1), replace=False))
    pieces = []
    for start, end in zip(starts, np.append(starts[1:], starts[0] + count), strict=True):
        piece = ring[np.arange(start, end + 1) % count].copy()
        for end_of in (0, -1):
            step = rng.normal(size=2)
            piece[end_of] += step / np.linalg.norm(step) * rng.uniform(0, gap / 2)
        pieces.append(piece if rng.random() < 0.5 else piece[::-1])
    return [pieces[k] for k in rng.permutation(len(pieces))]


@settings(max_examples=120, deadline=None)
@given(st.integers(3, 40), st.integers(0, 10_000), st.sampled_from([0.0, 0.005, 0.05]))
def test_a_ring_cut_into_pieces_comes_back_whole(count, seed, gap):
    rng = np.random.default_rng(seed)
    ring = _ring(count, rng)
    found = chain(_cut_up(ring, rng, gap), max(gap, 1e-6))
    assert found.open == []
    assert len(found.loops) == 1
    assert Polygon(found.loops[0]).area == pytest.approx(Polygon(ring).area, abs=gap * 400 + 1e-6)
    assert all(0 < item.gap_mm <= gap + 1e-9 for item in found.healed)
    if gap == 0:
        assert found.healed == []


@settings(max_examples=60, deadline=None)
@given(st.integers(4, 30), st.integers(0, 10_000))
def test_a_missing_piece_leaves_the_chain_open_with_its_width(count, seed):
    rng = np.random.default_rng(seed)
    ring = _ring(count, rng)
    missing = int(rng.integers(count))
    pieces = [ring[[k, (k + 1) % count]] for k in range(count) if k != missing]
    found = chain(pieces, 1e-3)
    assert found.loops == []
    (gap,) = found.open
    assert gap.gap_mm == pytest.approx(
        float(np.linalg.norm(ring[missing] - ring[(missing + 1) % count]))
    )


def test_two_rings_that_touch_at_a_gap_do_not_swap_ends():
    """The nearest end is taken first: a joint of 0.02 is not passed over for one of 0.08."""
    square = [(0, 0), (10, 0), (10, 10), (0, 10)]
    near = [np.array([square[k], square[(k + 1) % 4]], dtype=float) for k in range(4)]
    near[1] = near[1] + [[0.02, 0.0], [0.0, 0.0]]
    other = [
        piece + [10.08, 0.0]
        for piece in (np.array([square[k], square[(k + 1) % 4]], dtype=float) for k in range(4))
    ]
    found = chain([*near, *other], 0.1)
    assert sorted(round(Polygon(loop).area) for loop in found.loops) == [100, 100]


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 5), st.integers(0, 3))
def test_outlines_holes_and_islands_are_told_apart_in_any_order(seed, holes, islands):
    rng = np.random.default_rng(seed)
    loops = [
        np.array(box(-100, -20, 100, 20).exterior.coords)[:-1],
        np.array(box(300, 0, 320, 9).exterior.coords)[:-1],
    ]
    places = [(-80 + 32 * k, 0.0) for k in range(holes)]
    loops += [_ring(9, rng, place, 12) for place in places]
    loops += [
        np.array(Point(place).buffer(1.5, quad_segs=3).exterior.coords)[:-1]
        for place in places[:islands]
    ]
    found, notes = nest([loops[k] for k in rng.permutation(len(loops))])
    assert [(len(item.holes), len(item.islands)) for item in found] == [
        (holes, min(islands, holes)),
        (0, 0),
    ]
    assert notes == []


@pytest.mark.parametrize(
    ("other", "said"),
    [
        (box(5, 5, 30, 8), "cross or touch"),
        (box(10, 2, 14, 6), "cross or touch"),
        (Polygon([(2, 2), (6, 6), (6, 2), (2, 6)]), "crosses itself"),
    ],
)
def test_loops_that_cross_are_refused_with_the_place(other, said):
    with pytest.raises(LoopFault, match=said) as caught:
        nest(
            [np.array(box(0, 0, 10, 10).exterior.coords)[:-1], np.array(other.exterior.coords)[:-1]]
        )
    assert caught.value.remedy


# ---- solids from triangles alone: no kernel, only boxes put together


def _boxes(*solids: tuple[float, float, float, float, float, float]) -> Mesh:
    """Boxes as (x, y, z, width, depth, height), twelve triangles each, wound outwards."""
    corners = np.array([[(k >> 0) & 1, (k >> 1) & 1, (k >> 2) & 1] for k in range(8)], dtype=float)
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    triangles = np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))])
    points = np.concatenate([corners * size[3:] + size[:3] for size in solids])
    index = np.concatenate([triangles + 8 * k for k in range(len(solids))])
    return Mesh(points, index, np.repeat(np.arange(6 * len(solids)), 2))


_SIZES = st.tuples(*([st.floats(0, 30)] * 3), *([st.floats(2, 40)] * 3))


@settings(max_examples=60, deadline=None)
@given(
    _SIZES, st.sampled_from([(0, 0, 1), (0, 0, -1), (1, 0, 0), (0, -1, 0), (1, 1, 0), (1, 2, 3)])
)
def test_turning_keeps_volume_and_shadow_of_a_block_is_that_of_geometry(size, up):
    mesh = _boxes(size)
    stood, turn = turned_up(mesh, up)
    assert volume_mm3(stood) == pytest.approx(size[3] * size[4] * size[5])
    assert np.linalg.det(turn) == pytest.approx(1)
    assert turn @ (np.array(up) / np.linalg.norm(up)) == pytest.approx([0, 0, 1], abs=1e-9)
    assert stood.points.min(axis=0) == pytest.approx([0, 0, 0], abs=1e-9)
    # The shadow of a box: half the sum of its faces' projected areas, all six of them.
    ux, uy, uz = np.abs(np.array(up)) / np.linalg.norm(up)
    shadow = size[3] * size[4] * uz + size[4] * size[5] * ux + size[3] * size[5] * uy
    assert silhouette(stood).area == pytest.approx(shadow, rel=2e-3)


@settings(max_examples=60, deadline=None)
@given(
    _SIZES, st.tuples(st.floats(-1, 1), st.floats(-1, 1), st.floats(0.2, 1)), st.floats(0.05, 0.95)
)
def test_shadow_and_section_of_two_stacked_blocks(below, above, share):
    """A second, smaller block standing on the first: seen from above their union, cut through each
    its own rectangle.
    """
    x, y, z, w, d, h = below
    dx, dy, s = above
    top = (x + dx * w / 2, y + dy * d / 2, z + h, w * s, d * s, h)
    stood, _ = turned_up(_boxes(below, top), (0, 0, 1))
    expected = unary_union(
        [box(x, y, x + w, y + d), box(top[0], top[1], top[0] + top[3], top[1] + top[4])]
    )
    if expected.geom_type == "Polygon":
        assert silhouette(stood).area == pytest.approx(expected.area, rel=1e-3, abs=0.02)
    for height, (width, depth) in ((share * h, (w, d)), (h + share * h, (w * s, d * s))):
        pieces = section(stood, height)
        assert sum(piece.area for piece in pieces) == pytest.approx(
            width * depth, rel=1e-3, abs=0.02
        )


def test_a_solid_in_two_pieces_has_no_one_outline():
    with pytest.raises(LoopFault, match="2 pieces"):
        silhouette(_boxes((0, 0, 0, 10, 10, 10), (30, 0, 0, 10, 10, 10)))


def test_an_open_surface_has_no_section():
    whole = _boxes((0, 0, 0, 10, 10, 10))
    torn = Mesh(whole.points, whole.triangles[4:5], whole.faces[4:5])
    with pytest.raises(LoopFault, match="open at this height"):
        section(torn, 5)


def test_a_round_bar_lying_down_is_seen_as_a_rectangle_and_cut_into_strips():
    angles = 2 * math.pi * np.arange(200) / 200
    ring = np.stack([np.zeros(200), 10 * np.cos(angles), 10 * np.sin(angles)], axis=1)
    points = np.concatenate([ring, ring + [60.0, 0, 0], [[0, 0, 0], [60, 0, 0]]])
    sides = [(k, 200 + (k + 1) % 200, 200 + k) for k in range(200)] + [
        (k, (k + 1) % 200, 200 + (k + 1) % 200) for k in range(200)
    ]
    caps = [((k + 1) % 200, k, 400) for k in range(200)] + [
        (200 + k, 200 + (k + 1) % 200, 401) for k in range(200)
    ]
    mesh = Mesh(points, np.array(sides + caps), np.array([0] * 400 + [1] * 200 + [2] * 200))
    sign = 1 if volume_mm3(mesh) > 0 else -1
    mesh = Mesh(points, mesh.triangles[:, ::sign], mesh.faces)
    assert volume_mm3(mesh) == pytest.approx(math.pi * 100 * 60, rel=1e-3)
    stood, _ = turned_up(mesh, (0, 0, 1))
    assert silhouette(stood).area == pytest.approx(60 * 20, rel=1e-3)
    for height in (2.0, 7.0, 14.0):
        width = 2 * math.sqrt(100 - (height - 10) ** 2)
        assert sum(piece.area for piece in section(stood, height)) == pytest.approx(
            60 * width, rel=2e-3
        )
