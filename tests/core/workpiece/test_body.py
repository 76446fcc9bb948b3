"""Bodies against closed forms, shapely and the CAD kernel."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, box

from wedgecraft.core.workpiece.body import Body, bevelled, cylinder, less, prism, united
from wedgecraft.core.workpiece.pose import TURNS, pose_of, turn_of


def test_volumes_centres_and_inertia_are_the_closed_forms_of_geometry():
    """Block, drilled hole with its point, frustum: any handbook of geometry."""
    block = prism(box(0, 0, 40, 30), 0, 20)
    assert block.volume_mm3 == pytest.approx(24_000, rel=1e-12)
    assert block.centre_mm == pytest.approx((20, 15, 10))
    inertia = [24_000 / 12 * (b * b + c * c) for b, c in ((30, 20), (40, 20), (40, 30))]
    assert np.diag(block.inertia_mm5) == pytest.approx(inertia)
    drilled = cylinder((0, 0, 0), 10, 3, 118)
    point = 3 / math.tan(math.radians(59))
    assert drilled.volume_mm3 == pytest.approx(math.pi * 9 * (10 + point / 3), rel=1e-4)
    assert drilled.box[2] == pytest.approx(-point, rel=1e-3)
    # A prismatoid: (foot + 4 x middle + top) x height / 6.
    frustum = bevelled(box(0, 0, 40, 30), 18, 20, -2)
    assert frustum.volume_mm3 == pytest.approx((1200 + 4 * 38 * 28 + 36 * 26) / 3, rel=1e-12)
    # A tube's chords lie on both sides of its circles: same area, same second moment within them.
    tube = cylinder((0, 0, 0), 7, 12) - cylinder((0, 0, -1), 9, 5)
    assert tube.volume_mm3 == pytest.approx(math.pi * (144 - 25) * 7, rel=1e-9)
    assert tube.inertia_mm5[2, 2] == pytest.approx(math.pi / 2 * (12**4 - 5**4) * 7, rel=2e-3)


def test_slices_and_shadows_of_what_is_pulled_straight_up_are_its_areas():
    rng = random.Random(3)
    for _ in range(20):
        areas = [
            Point(rng.uniform(0, 40), rng.uniform(0, 40))
            .buffer(rng.uniform(4, 9), quad_segs=6)
            .difference(box(19, 0, 20, 21))
            .buffer(0)
            .convex_hull
            for _ in range(4)
        ]
        spans = [sorted(rng.uniform(0, 30) for _ in range(2)) for _ in areas]
        body = united([prism(area, *span) for area, span in zip(areas, spans, strict=True)])
        body = body - prism(box(10, 10, 30, 15), -1, 40)
        height, slot = rng.uniform(0, 30), box(10, 10, 30, 15)
        both = list(zip(areas, spans, strict=True))
        cut = shapely.union_all([area for area, (low, high) in both if low <= height < high])
        above = shapely.union_all([area for area, (_, high) in both if high > height])
        assert body.slice(height).symmetric_difference(cut - slot).area < 1e-4
        assert body.seen(height).symmetric_difference(above - slot).area < 1e-4


_SIZE = st.floats(2, 30)
_PLACE = st.tuples(st.floats(-10, 10), st.floats(-10, 10), st.floats(-10, 10))


@st.composite
def _some_body(draw: st.DrawFn) -> Body:
    a, b, c = draw(_SIZE), draw(_SIZE), draw(_SIZE)
    round_ = draw(st.booleans())
    body = cylinder((0, 0, 0), c, a / 2) if round_ else prism(box(0, 0, a, b), 0, c)
    turn = turn_of(draw(st.sampled_from(list(TURNS))), draw(st.floats(-180, 180)))
    return body.turned(turn, draw(_PLACE))


@given(_some_body(), _some_body())
@settings(max_examples=40, deadline=None)
def test_what_two_bodies_share_is_counted_once(one: Body, other: Body):
    """Inclusion and exclusion; what is cut away and what stays make the whole."""
    share, whole = (one & other).volume_mm3, (one | other).volume_mm3
    size = one.volume_mm3 + other.volume_mm3
    assert whole == pytest.approx(size - share, abs=1e-7 * size)
    assert (one - other).volume_mm3 + share == pytest.approx(one.volume_mm3, abs=1e-7 * size)


def test_random_cuts_agree_with_the_cad_kernel():
    """Twenty-four bodies made twice, with our booleans and with the CAD kernel's exact ones:
    polyhedra to 1e-6, curved ones within surface x chord error.
    """
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.BRepGProp import BRepGProp
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Trsf
    from OCP.GProp import GProp_GProps

    def exact(shape):
        found = GProp_GProps()
        BRepGProp.VolumeProperties_s(shape, found)
        return found.Mass()

    def one(rng: random.Random, round_: bool):
        a, b, c = (rng.uniform(4, 25) for _ in range(3))
        degrees, place = rng.uniform(-80, 80), [rng.uniform(-6, 6) for _ in range(3)]
        up = rng.choice(["+Z", "+X", "+Y"])
        body = cylinder((0, 0, 0), c, a / 2) if round_ else prism(box(0, 0, a, b), 0, c)
        ours = body.turned(turn_of(up, degrees), place)
        maker = BRepPrimAPI_MakeCylinder(a / 2, c) if round_ else BRepPrimAPI_MakeBox(a, b, c)
        shape = maker.Shape()
        t = turn_of(up, degrees)
        move = gp_Trsf()
        move.SetValues(*(v for k in range(3) for v in (*map(float, t[k]), place[k])))
        return ours, BRepBuilderAPI_Transform(shape, move, True).Shape()

    for seed in range(24):
        rng = random.Random(seed)
        curved = seed % 3 == 0
        bodies = [one(rng, curved and k > 0) for k in range(4)]
        ours, theirs = bodies[0]
        for k, (body, shape) in enumerate(bodies[1:]):
            if k == 1:
                ours, theirs = ours | body, BRepAlgoAPI_Fuse(theirs, shape).Shape()
            else:
                ours, theirs = ours - body, BRepAlgoAPI_Cut(theirs, shape).Shape()
        allowed = ours.doubt_mm3 if curved else 1e-6 * max(1.0, exact(theirs))
        assert ours.volume_mm3 == pytest.approx(exact(theirs), abs=allowed), seed


def test_a_named_surface_says_where_it_came_from_after_any_cuts():
    block, block_name = prism(box(0, 0, 40, 30), 0, 20).named()
    bore, bore_name = cylinder((20, 15, -1), 22, 5).named()
    left = block - bore
    points, triangles = left.mesh
    middles = points[triangles].mean(axis=1)
    of_bore = left.origins == bore_name
    assert set(left.origins) == {block_name, bore_name}
    assert np.hypot(*(middles[of_bore, :2] - (20, 15)).T).max() < 5.01
    assert np.hypot(*(middles[~of_bore, :2] - (20, 15)).T).max() > 15


def test_a_pose_brings_the_finished_part_to_the_origin_whatever_is_up():
    part = less(prism(box(0, 0, 40, 30), 0, 20), [prism(box(-1, -1, 10, 10), 5, 21)])
    for up in TURNS:
        for degrees in (0, 90, 180, 270, 33.0):
            pose = pose_of(part, up, degrees)
            stood = pose.put(part)
            assert stood.box[:3] == pytest.approx((0, 0, 0), abs=1e-9)
            assert np.linalg.det(pose.turn) == pytest.approx(1)
            assert pose.back(stood).box == pytest.approx(part.box, abs=1e-9)


def test_what_stands_in_a_hole_and_what_is_open_in_that_is_in_slice_and_shadow():
    """A tray with a tube in it and a pin in the tube: areas by hand, against shapely's own."""
    tray = box(0, 0, 60, 40).difference(box(5, 5, 55, 35))
    tube = Point(30, 20).buffer(10, quad_segs=64).difference(Point(30, 20).buffer(6, quad_segs=64))
    pin = Point(30, 20).buffer(2, quad_segs=64)
    post = box(10, 10, 14, 14)
    section = shapely.union_all([tray, tube, pin, post])
    floor = prism(box(0, 0, 60, 40), 0, 5)
    body = united([floor, *(prism(area, 5, 20) for area in (tray, tube, pin, post))])
    for found in (body.slice(12), body.seen(6)):
        assert found.area == pytest.approx(section.area, rel=1e-6)
        assert found.symmetric_difference(section).area < 1e-3
        assert len(found.geoms) == 4
    assert body.seen().area == pytest.approx(60 * 40)
