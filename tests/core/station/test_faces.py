"""Where faces stand: against rotation matrices of a general library, and closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wedgecraft.core.records.request import Block
from wedgecraft.core.shop.picks import named
from wedgecraft.core.station.faces import apothem_mm, faces_of

PLATE = named("plate", "Plate 400 x 350 x 25")


@given(st.integers(2, 8), st.sampled_from(["upright", "lying"]), st.integers(0, 400))
def test_indexing_brings_every_face_to_where_the_first_stands(count, axis, across):
    block = Block(faces=count, axis=axis, across_mm=across)
    faces, body = faces_of(PLATE, block)
    centre = np.array(body.start_mm if body else (0, 0, 0), dtype=float)
    if axis == "lying" and body is None:
        centre = np.array([0, 0, faces[0].origin_mm[2] - PLATE.thickness_mm])
    for k, face in enumerate(faces):
        x, y, out = np.array(face.x), np.array(face.y), np.array(face.out)
        assert np.cross(x, y) == pytest.approx(out, abs=1e-12)
        # Counted as a rotary counts: about its axis, right-handed.
        way = (0, 0, 1) if axis == "upright" else (1, 0, 0)
        turn = Rotation.from_rotvec(2 * math.pi * k / count * np.array(way))
        assert turn.apply(out) == pytest.approx(np.array(faces[0].out), abs=1e-9)
        corner = turn.apply(np.array(face.origin_mm) - centre) + centre
        assert corner == pytest.approx(np.array(faces[0].origin_mm), abs=1e-6)


def test_plates_meet_at_their_edges_where_the_block_is_as_small_as_they_allow():
    """Chord and apothem of a regular polygon: neighbours' backs share an edge."""
    for count in range(3, 9):
        faces, body = faces_of(PLATE, Block(faces=count))
        assert body.apothem_mm == apothem_mm(PLATE, Block(faces=count))
        corners = []
        for face in faces:
            x, out = np.array(face.x), np.array(face.out)
            left = np.array(face.origin_mm) - PLATE.thickness_mm * out
            corners.append((left, left + PLATE.width_mm * x))
        for k in range(count):
            ends = [np.linalg.norm(a - b) for a in corners[k] for b in corners[(k + 1) % count]]
            assert min(ends) == pytest.approx(0, abs=1e-6)
    lying = faces_of(PLATE, Block(faces=4, axis="lying")).faces
    assert [round(face.out[2]) for face in lying] == [1, 0, -1, 0]
    assert min(face.origin_mm[2] for face in lying) > 0  # over the table
