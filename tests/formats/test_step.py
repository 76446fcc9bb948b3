"""Solids written by the kernel read back against closed forms; damaged files; a kernel that is
brought down.
"""

from __future__ import annotations

import math
import os
import signal
import threading
from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.geometry import Point, Polygon, box

from tests.formats.fuzz import damaged
from wedgecraft.core.workpiece.holes import round_hole
from wedgecraft.core.workpiece.loops import LoopFault
from wedgecraft.core.workpiece.mesh import Mesh, section, silhouette, turned_up, volume_mm3
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.step.reader import LIMITS, StepReader

pytestmark = pytest.mark.filterwarnings("ignore::DeprecationWarning")


def _written(shape, tmp_path) -> bytes:
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

    writer = STEPControl_Writer()
    writer.Transfer(shape, STEPControl_AsIs)
    path = tmp_path / "part.step"
    writer.Write(str(path))
    return path.read_bytes()


def _box(x, y, z):
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox

    return BRepPrimAPI_MakeBox(float(x), float(y), float(z)).Shape()


def _bar(x, y, z, radius, length, direction=(0, 0, 1)):
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    place = gp_Ax2(gp_Pnt(float(x), float(y), float(z)), gp_Dir(*map(float, direction)))
    return BRepPrimAPI_MakeCylinder(place, float(radius), float(length)).Shape()


def _move(shape, x, y, z):
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Trsf, gp_Vec

    step = gp_Trsf()
    step.SetTranslation(gp_Vec(float(x), float(y), float(z)))
    return BRepBuilderAPI_Transform(shape, step).Shape()


def _less(shape, *others):
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut

    for other in others:
        shape = BRepAlgoAPI_Cut(shape, other).Shape()
    return shape


@pytest.fixture(scope="module")
def reader():
    made = StepReader(replace(LIMITS, seconds=60))
    yield made
    made.close()


@pytest.fixture
def block(tmp_path) -> bytes:
    """A 60 x 40 x 25 block: a through hole, a blind hole, a hole from the side."""
    drilled = (
        _bar(20, 20, -1, 6, 30),
        _bar(45, 20, 10, 4, 20),
        _bar(-1, 20, 12, 2.5, 10, (1, 0, 0)),
    )
    return _written(_less(_box(60, 40, 25), *drilled), tmp_path)


def _mesh(answer) -> Mesh:
    _, points, triangles, faces, _ = answer
    return Mesh(
        np.frombuffer(points).reshape(-1, 3),
        np.frombuffer(triangles, np.int64).reshape(-1, 3),
        np.frombuffer(faces, np.int64),
    )


def test_volume_faces_and_holes_of_a_block_against_closed_forms(reader, block):
    answer = reader.read(block, "block.step")
    reading, mesh = answer[0], _mesh(answer)
    exact = 60 * 40 * 25 - math.pi * (36 * 25 + 16 * 15 + 6.25 * 9)
    assert reading.volume_mm3 == pytest.approx(exact, rel=1e-9)
    assert volume_mm3(mesh) == pytest.approx(exact, rel=2e-3)
    assert reading.size_mm == pytest.approx((60, 40, 25))
    up = reading.ways[0]
    assert up.name in ("+Z", "-Z")
    top = next(way for way in reading.ways if way.name == "+Z")
    assert top.height_mm == pytest.approx(25)
    assert top.area_mm2 == pytest.approx(
        60 * 40 - math.pi * (36 + 16) + math.pi * 16, rel=1e-6
    )  # the blind hole's floor looks up, too
    found = {round(hole.diameter_mm, 6): hole for hole in top.holes}
    assert set(found) == {12, 8, 5}
    assert (found[12].x_mm, found[12].y_mm, found[12].depth_mm, found[12].through) == pytest.approx(
        (20, 20, 25, True)
    )
    assert (found[8].x_mm, found[8].depth_mm, found[8].through) == pytest.approx((45, 15, False))
    assert [abs(v) for v in found[5].axis] == pytest.approx([1, 0, 0])
    outline = Polygon(top.outline.outer, top.outline.holes)
    assert outline.area == pytest.approx(2400 - math.pi * 36, rel=1e-3)


def test_every_way_up_turns_the_same_solid(reader, block):
    for way in reader.read(block, "block.step")[0].ways:
        assert sorted((way.width_mm, way.depth_mm, way.height_mm)) == pytest.approx([25, 40, 60])
        assert way.outline is not None, way.wrong
        assert Polygon(way.outline.outer).area == pytest.approx(
            way.width_mm * way.depth_mm, rel=1e-3
        )
        for hole in way.holes:
            assert -1e-6 <= hole.z_mm <= way.height_mm + 1e-6


def test_sections_against_closed_forms_at_every_height(reader, block):
    stood, _ = turned_up(_mesh(reader.read(block, "block.step")), (0, 0, 1))
    for height, gone in ((3, 36), (11, None), (20, 36 + 16)):
        pieces = section(stood, height)
        if gone is not None:
            assert sum(piece.area for piece in pieces) == pytest.approx(
                2400 - math.pi * gone, rel=2e-3
            )
    half_side_hole = 2 * math.sqrt(2.5**2 - 1) * 9
    assert sum(p.area for p in section(stood, 11)) == pytest.approx(
        2400 - math.pi * 52 - half_side_hole, rel=2e-3
    )
    assert section(stood, 30) == []


def test_a_cone_a_round_and_an_overhang_are_seen_as_wide_as_they_are(reader, tmp_path):
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse

    mushroom = BRepAlgoAPI_Fuse(_bar(0, 0, 0, 10, 20), _bar(0, 0, 20, 25, 6)).Shape()
    answer = reader.read(_written(mushroom, tmp_path), "mushroom.step")
    top = next(way for way in answer[0].ways if way.name == "+Z")
    assert Polygon(top.outline.outer).area == pytest.approx(math.pi * 625, rel=2e-3)
    stood, _ = turned_up(_mesh(answer), (0, 0, 1))
    assert sum(piece.area for piece in section(stood, 10)) == pytest.approx(math.pi * 100, rel=3e-3)
    side = next(way for way in answer[0].ways if way.name == "+X")
    assert Polygon(side.outline.outer).area == pytest.approx(20 * 20 + 50 * 6, rel=2e-3)


def test_round_things_have_their_true_sizes_and_no_material_is_left_out(reader, tmp_path):
    """A disc of 110 with a bore of 37 off its middle and a flat on one side; a ball, whose outline
    only its triangles know.
    """
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Pnt

    disc = _less(_bar(7, 3, 0, 55, 12), _bar(16, -2, -1, 18.5, 20))
    top = next(
        way
        for way in reader.read(_written(disc, tmp_path), "disc.step")[0].ways
        if way.name == "+Z"
    )
    assert (top.width_mm, top.depth_mm) == pytest.approx((110, 110), abs=1e-4)
    bore, read = round_hole(np.array(top.outline.holes[0])), top.holes[0]
    assert (bore.x_mm, bore.y_mm, bore.diameter_mm) == pytest.approx((64, 50, 37), abs=2e-4)
    assert (read.x_mm, read.y_mm, read.diameter_mm) == pytest.approx((64, 50, 37), abs=1e-4)
    outer = Polygon(top.outline.outer)
    assert 0 <= outer.area - math.pi * 55**2 < 0.002 * math.pi * 110
    cut = _less(disc, _move(_box(200, 200, 50), 7 + 41.3, -100, -10))
    top = next(
        way for way in reader.read(_written(cut, tmp_path), "cut.step")[0].ways if way.name == "+Z"
    )
    assert (top.width_mm, top.depth_mm) == pytest.approx((96.3, 110), abs=1e-4)
    angles = np.linspace(0, 2 * math.pi, 20_001)
    true = Polygon(np.column_stack([55 + 55 * np.cos(angles), 55 + 55 * np.sin(angles)])) & box(
        0, 0, 96.3, 110
    )
    assert (
        true - Polygon(top.outline.outer)
    ).area < 5e-5 * true.length  # corners are read to a ten-thousandth
    assert true.hausdorff_distance(Polygon(top.outline.outer)) < 0.003
    ball = BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 30.0).Shape()
    top = next(
        way
        for way in reader.read(_written(ball, tmp_path), "ball.step")[0].ways
        if way.name == "+X"
    )
    seen, true = (
        Polygon(top.outline.outer),
        Point(top.width_mm / 2, top.depth_mm / 2).buffer(30, quad_segs=2000),
    )
    assert seen.buffer(0.2 * top.outline.chord_error_mm).covers(true)
    assert true.hausdorff_distance(seen) <= top.outline.chord_error_mm + 0.004


def test_every_way_up_shows_what_all_its_triangles_cover(reader, tmp_path):
    """A lopsided bracket with slanted holes, against the plain union of every triangle, front and
    back, from each way up.
    """
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse

    bracket = BRepAlgoAPI_Fuse(
        _box(50, 30, 8), BRepAlgoAPI_Fuse(_box(9, 30, 40), _bar(40, 7, 0, 5, 22)).Shape()
    ).Shape()
    answer = reader.read(
        _written(
            _less(
                bracket, _bar(28, 18, -5, 4, 40, (0.3, 0.2, 1)), _bar(5, 8, 30, 2, 20, (1, 0, 0))
            ),
            tmp_path,
        ),
        "b",
    )
    mesh = _mesh(answer)
    assert {"+Z", "-Z", "+X", "-X", "+Y", "-Y"} <= {way.name for way in answer[0].ways}
    for way in answer[0].ways:
        stood, _ = turned_up(mesh, way.up)
        triangles = [Polygon(corners) for corners in stood.points[stood.triangles][:, :, :2]]
        covered = shapely.union_all([item.buffer(1e-6) for item in triangles if item.area > 1e-9])
        assert (
            Polygon(way.outline.outer, way.outline.holes).symmetric_difference(covered).area
            < 2e-4 * covered.area + 0.6
        ), way.name
        assert stood.points.max(axis=0)[:2] == pytest.approx((way.width_mm, way.depth_mm))


def _hexagon(across, high):
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
    from OCP.gp import gp_Pnt, gp_Vec

    ring, reach = BRepBuilderAPI_MakePolygon(), across / math.sqrt(3)
    for k in range(6):
        ring.Add(gp_Pnt(reach * math.cos(k * math.pi / 3), reach * math.sin(k * math.pi / 3), 0))
    ring.Close()
    return BRepPrimAPI_MakePrism(
        BRepBuilderAPI_MakeFace(ring.Wire()).Face(), gp_Vec(0, 0, high)
    ).Shape()


def _chamfered(shape, across, high):
    """Turned down at both ends by a cone of 30 degrees, as bar is."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    tall = high + across
    for z, way in ((-1.0, 1.0), (high + 1.0, -1.0)):
        cone = BRepPrimAPI_MakeCone(
            gp_Ax2(gp_Pnt(0, 0, z), gp_Dir(0, 0, way)),
            across / 2,
            across / 2 + tall * math.sqrt(3),
            tall,
        )
        shape = BRepAlgoAPI_Common(shape, cone.Shape()).Shape()
    return shape


def test_a_chamfered_hexagon_with_a_cross_hole_is_seen_whole_from_every_side(reader, tmp_path):
    """Curves where a cone meets flats are tiled from both sides with corners that do not match."""
    standoff = _less(
        _chamfered(_hexagon(24, 45), 24, 45),
        _bar(0, 0, -1, 5, 50),
        _bar(-20, 0, 30, 3, 40, (1, 0, 0)),
    )
    reading = reader.read(_written(standoff, tmp_path), "standoff.step")[0]
    assert reading.size_mm == pytest.approx((48 / math.sqrt(3), 24, 45), abs=0.02)
    ends = next(way for way in reading.ways if way.up == (0, 0, 1))
    assert ends.outline is not None
    assert Polygon(ends.outline.outer).area == pytest.approx(24**2 * math.sqrt(3) / 2, rel=2e-3)
    assert all(way.outline is not None for way in reading.ways)


def test_an_empty_view_has_no_silhouette():
    flat = Mesh(
        np.array([[0.0, 0, 0], [10, 0, 0], [0, 10, 0]]),
        np.array([[0, 2, 1]]),
        np.zeros(1, dtype=np.int64),
    )
    with pytest.raises(LoopFault, match="nothing is seen"):
        silhouette(flat)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"hello", "does not begin"),
        (b"ISO-10303-21;\nHEADER;\n", "cut short"),
        (
            b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
            "no shape|damaged",
        ),
        (b"ISO-10303-21;" + b" " * 25_000_001, "MB"),
    ],
)
def test_useless_files_are_refused_in_words(reader, data, said):
    with pytest.raises(FileRefused, match=said):
        reader.read(data, "x.step")


@pytest.mark.parametrize(("gap", "one_part"), [(0.0, True), (5.0, False)])
def test_solids_that_touch_are_one_part_and_those_that_stand_apart_are_not(
    reader, tmp_path, gap, one_part
):
    from OCP.BRep import BRep_Builder
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS_Compound

    both, builder, move = TopoDS_Compound(), BRep_Builder(), gp_Trsf()
    builder.MakeCompound(both)
    move.SetTranslation(
        gp_Vec(0, 0, 20 + gap)
    )  # above the other: from the top the two are seen as one piece
    builder.Add(both, _box(30, 20, 20))
    builder.Add(both, _box(30, 20, 10).Moved(TopLoc_Location(move)))
    data = _written(both, tmp_path)
    if one_part:
        assert reader.read(data, "both.step")[0].volume_mm3 == pytest.approx(30 * 20 * 30)
    else:
        with pytest.raises(FileRefused, match="2 solids that do not touch"):
            reader.read(data, "both.step")


def test_surfaces_alone_are_no_part(reader, tmp_path):
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.gp import gp_Pln

    sheet = BRepBuilderAPI_MakeFace(gp_Pln(), 0.0, 50.0, 0.0, 30.0).Shape()
    with pytest.raises(FileRefused, match="no solid"):
        reader.read(_written(sheet, tmp_path), "sheet.step")


def test_a_file_that_brings_the_kernel_down_or_never_ends_is_refused_and_the_next_is_read(
    reader, block
):
    reader.warm()
    (child,) = reader.pids
    killer = threading.Timer(0.02, os.kill, (child, signal.SIGKILL))
    killer.start()

    def until_it_breaks() -> None:
        while True:
            reader.read(block, "block.step")

    with pytest.raises(FileRefused, match="broke down"):
        until_it_breaks()
    assert reader.read(block, "block.step")[0].solids == 1
    slow = StepReader(replace(LIMITS, seconds=2))
    slow.warm()
    (child,) = slow.pids
    os.kill(child, signal.SIGSTOP)  # from now on it never ends, on a machine of any speed
    with pytest.raises(FileRefused, match="was not read in"):
        slow.read(block, "block.step")
    assert child not in slow.pids
    slow.close()


def test_damaged_solids_never_do_worse_than_be_refused(block):
    import random

    quick = StepReader(replace(LIMITS, seconds=5))
    tally = {"read": 0, "refused": 0}
    for seed in range(40):
        try:
            quick.read(damaged(block, random.Random(seed)), "x.step")
            tally["read"] += 1
        except FileRefused:
            tally["refused"] += 1
    quick.close()
    assert tally["refused"] > 5
