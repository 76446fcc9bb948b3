"""Meshes as they come: mended and said so, or refused with what would work."""

from __future__ import annotations

import numpy as np
import pytest
from shapely.geometry import box

from wedgecraft.core.workpiece.body import Body, prism
from wedgecraft.core.workpiece.mend import NotABody, one_body
from wedgecraft.core.workpiece.packed import packed, unpacked

_BLOCK = prism(box(0, 0, 40, 30), 0, 20)
_INNER = prism(box(10, 10, 20, 20), 5, 10)


def _soup(body: Body, inside_out: bool = False):
    """Triangles that share no corners, as many files have them."""
    points, triangles = body.mesh
    corners = points[triangles[:, ::-1] if inside_out else triangles].reshape(-1, 3)
    return corners, np.arange(len(corners)).reshape(-1, 3)


def _with(*soups):
    sizes = np.cumsum([0, *(len(points) for points, _ in soups)])
    return (
        np.concatenate([points for points, _ in soups]),
        np.concatenate([sides + at for (_, sides), at in zip(soups, sizes, strict=False)]),
    )


def _one_wrong_way_round():
    points, triangles = _soup(_BLOCK)
    triangles[3] = triangles[3][::-1].copy()
    return points, triangles


def _shaken():
    points, triangles = _soup(_BLOCK)
    return points + np.random.default_rng(1).normal(0, 2e-5, points.shape), triangles


@pytest.mark.parametrize(
    ("mesh", "volume", "said"),
    [
        (_soup(_BLOCK), 24_000, ""),
        (_soup(_BLOCK, inside_out=True), 24_000, "inside out"),
        (_with(_soup(_BLOCK), _soup(_INNER, inside_out=True)), 23_500, "hollow"),
        (_with(_soup(_BLOCK), _soup(_INNER)), 24_000, "lies inside another"),
        (_with(_soup(_BLOCK), _soup(prism(box(30, 10, 60, 20), 5, 10))), 25_000, "overlap"),
        (_with(_soup(_BLOCK), _soup(prism(box(40, 0, 50, 30), 0, 20))), 30_000, "touch"),
        (_with(_soup(_BLOCK), _soup(_BLOCK)), 24_000, ""),
        (_one_wrong_way_round(), 24_000, ""),
        (_shaken(), 24_000, "joined"),
    ],
)
def test_what_can_be_mended_is_one_body_and_says_what_was_done(mesh, volume, said):
    found = one_body(*mesh, 0.0)
    assert found.bodies[0].volume_mm3 == pytest.approx(volume, rel=1e-5)
    assert said in "; ".join(found.notes)
    assert bool(said) == bool(found.notes)


@pytest.mark.parametrize(
    ("mesh", "why"),
    [
        ((np.empty((0, 3)), np.empty((0, 3), dtype=np.int64)), "no surface"),
        ((_soup(_BLOCK)[0], _soup(_BLOCK)[1][:-1]), "open along 3 edges"),
        (_soup(prism(box(0, 0, 40, 30), 0, 0.01)), "mm thick"),
        (_with(_soup(_BLOCK), _soup(prism(box(90, 0, 99, 9), 0, 5))), "body 2: 9 x 9 x 5 mm"),
        ((np.full((3, 3), np.nan), np.array([[0, 1, 2]])), "no surface"),
    ],
)
def test_what_is_no_body_is_refused_with_what_would_work(mesh, why):
    with pytest.raises(NotABody, match=why) as refused:
        one_body(*mesh, 0.0)
    assert refused.value.remedy


def test_a_packed_mesh_comes_back_and_damaged_bytes_are_refused():
    points, triangles = _BLOCK.mesh
    data = packed(points, triangles)
    again = unpacked(data)
    assert np.array_equal(again[0], points)
    assert np.array_equal(again[1], triangles)
    huge = packed(np.zeros((1, 3)), np.array([[0, 0, 9]]))
    for wrong in (b"", b"no mesh", data[:-5], data[:20] + b"\0" + data[21:], huge):
        with pytest.raises(ValueError, match="mesh cannot be read"):
            unpacked(wrong)
