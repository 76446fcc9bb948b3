"""Solids given as triangles, written by a general mesh library and read again."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from shapely.geometry import box

from wedgecraft.core.workpiece.body import cylinder, prism
from wedgecraft.core.workpiece.packed import unpacked
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.meshes import read_mesh
from wedgecraft.formats.solid_kinds import kind_of

_BORED = prism(box(0, 0, 40, 30), 0, 20) - cylinder((12, 15, -1), 22, 5, chord_error_mm=0.05)


def _written(kind: str, scale: float = 1.0) -> bytes:
    mesh = trimesh.Trimesh(*_BORED.mesh, process=False)
    if kind == "glb":  # metres, Y up
        mesh.apply_transform(
            np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1000.0]]) / 1000
        )
    mesh.apply_scale(scale)
    return bytes(mesh.export(file_type=kind))


@pytest.mark.parametrize("kind", ["stl", "3mf", "glb"])
def test_a_bored_block_comes_back_with_its_sizes_its_hole_and_its_mesh(kind):
    data = _written(kind)
    assert kind_of(data) == kind
    reading, _, _, _, mesh = read_mesh(data, f"block.{kind}")
    assert reading.size_mm == pytest.approx((40, 30, 20), abs=1e-4)
    assert reading.volume_mm3 == pytest.approx(24_000 - math.pi * 25 * 20, rel=1e-3)
    assert {way.name for way in reading.ways} == {"+X", "-X", "+Y", "-Y", "+Z", "-Z"}
    up = next(way for way in reading.ways if way.name == "+Z")
    (hole,) = up.holes
    assert (hole.x_mm, hole.y_mm) == pytest.approx((12, 15), abs=1e-3)
    assert hole.diameter_mm == pytest.approx(10, abs=0.1)
    assert hole.through
    # Chords of a ten-millimetre hole within a twentieth: found again, not much over.
    assert 0.02 < reading.mesh.chord_error_mm < 0.12
    points, triangles = unpacked(mesh)
    assert len(triangles) == reading.triangles
    assert np.ptp(points, axis=0) == pytest.approx((40, 30, 20), abs=1e-4)


def test_what_is_no_mesh_or_no_part_is_refused_with_what_would_work():
    assert kind_of(b"ISO-10303-21;") is None
    for data, why in (
        (b"glTF" + bytes(40), "damaged"),
        (_written("stl", 0.001), "are the units right"),
        (_written("stl", 1000.0), "are the units right"),
        (_written("stl")[:-500] + bytes(500), "open|holds"),
    ):
        with pytest.raises(FileRefused, match=why) as refused:
            read_mesh(data, "x")
        assert refused.value.remedy
