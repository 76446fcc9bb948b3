"""Planes and round holes found on bodies made by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.workpiece.body import cylinder, prism
from wedgecraft.core.workpiece.pose import turn_of
from wedgecraft.core.workpiece.surfaces import planes_of, round_holes_of, sagitta_mm, side_of

_CROSS = cylinder((0, 0, -30), 60, 3).turned(turn_of("+X"), (30, 15, 8))
_BODY = (
    prism(box(0, 0, 60, 30), 0, 20)
    - cylinder((12, 15, -1), 22, 5)  # through
    - cylinder((45, 15, 12), 9, 4, 118)  # blind, with its point
    - _CROSS  # along X, through the first
)


def test_holes_have_their_axis_their_depth_and_the_sides_they_are_open_to():
    found = {round(hole.diameter_mm, 1): hole for hole in round_holes_of(_BODY)}
    assert sorted(found) == [6.0, 8.0, 10.0]
    through, blind, cross = found[10.0], found[8.0], found[6.0]
    assert through.through
    assert {side_of(way) for way in through.open_to} == {"+Z", "-Z"}
    assert not blind.through
    assert [side_of(way) for way in blind.open_to] == ["+Z"]
    assert blind.start_mm == pytest.approx((45, 15, 12), abs=1e-3)
    assert math.dist(blind.start_mm, blind.end_mm) == pytest.approx(8, abs=1e-3)
    # Broken by the first, it is still one hole from side to side.
    assert cross.through
    assert {side_of(way) for way in cross.open_to} == {"+X", "-X"}
    assert abs(cross.end_mm[0] - cross.start_mm[0]) == pytest.approx(60, abs=1e-3)


def test_a_boss_a_fillet_and_a_slots_end_are_no_holes_and_chords_are_no_faces():
    boss = prism(box(0, 0, 40, 30), 0, 10)
    boss = boss | cylinder((20, 15, 5), 15, 8)
    assert round_holes_of(boss) == []
    rounded = box(6, 6, 34, 24).buffer(6, quad_segs=24)
    slot = (
        box(12, 13, 28, 17).buffer(0).union(Point(28, 15).buffer(2)).union(Point(12, 15).buffer(2))
    )
    plate = prism(rounded.difference(slot), 0, 10)
    assert round_holes_of(plate) == []
    faces = planes_of(plate)
    assert sorted(side_of(face.normal) or "?" for face in faces if face.area_mm2 > 170) == [
        "+X",
        "+Y",
        "+Z",
        "-X",
        "-Y",
        "-Z",
    ]
    top = next(face for face in faces if side_of(face.normal) == "+Z")
    assert top.area_mm2 == pytest.approx(rounded.difference(slot).area, rel=1e-6)
    assert top.place_mm[2] == pytest.approx(10)


def test_how_far_chords_stray_is_told_from_the_mesh_alone():
    """A regular polygon of n sides strays r (1 - cos(pi / n)) from its circle."""
    for sides in (24, 60, 120):
        ring = 10 * np.column_stack(
            [
                np.cos(2 * np.pi * np.arange(sides) / sides),
                np.sin(2 * np.pi * np.arange(sides) / sides),
            ]
        )
        found = sagitta_mm(prism(Polygon(ring), 0, 30))
        assert found == pytest.approx(10 * (1 - math.cos(math.pi / sides)), rel=0.05)
    assert sagitta_mm(prism(box(0, 0, 4, 3), 0, 2)) == 0
