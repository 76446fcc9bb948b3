"""Drawings of pieces, read back by other readers: every hole, every dimension, at its true size."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections import Counter

import ezdxf
import numpy as np
import pytest
import trimesh
from defusedxml import ElementTree
from ezdxf.path import make_path
from pypdf import PdfReader
from shapely.geometry import LinearRing, MultiPoint, Point, Polygon
from shapely.ops import unary_union

from tests.core.make.planned import planned
from wedgecraft.core.make.drawing import SCALES, Title
from wedgecraft.core.make.jaws import gap_bridged
from wedgecraft.core.make.sides import frame
from wedgecraft.core.make.solid import bodies
from wedgecraft.core.make.strokes import plain, strokes
from wedgecraft.core.plan.assembled import assembled
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.sheet import PAPERS
from wedgecraft.formats.glb import bodies_3mf, bodies_glb
from wedgecraft.formats.piece_files import Kernel, pack, sheets_of, solids_of, zipped
from wedgecraft.formats.sheets.dxf import to_dxf
from wedgecraft.formats.sheets.pdf import to_pdf
from wedgecraft.formats.sheets.svg import to_svg

_TITLE = Title("Saltmarsh Gauge Works", "Vane yoke", "", "planner", "2026-11-28")


@pytest.fixture(scope="module")
def made():
    """A plate, and a pair of soft jaws."""
    plate = planned("Manifold block, 8-port")
    return pieces_of(plate, 1), pieces_of(planned("Float-arm hub"), 2)


def _entities(dxf: bytes) -> list[tuple[str, dict[int, list[str]]]]:
    """What stands in the entities section, by group codes alone."""
    lines = dxf.decode().splitlines()
    groups = [(int(lines[k]), lines[k + 1].strip()) for k in range(0, len(lines) - 1, 2)]
    start = groups.index((2, "ENTITIES"))
    found: list[tuple[str, dict[int, list[str]]]] = []
    for code, value in groups[start + 1 :]:
        if (code, value) == (0, "ENDSEC"):
            return found
        if code == 0:
            found.append((value, {}))
        else:
            found[-1][1].setdefault(code, []).append(value)
    raise AssertionError("no end of the section")


def _same(found, wanted) -> bool:
    """Whether two lists of circles hold the same ones, to a thousandth."""
    if len(found) != len(wanted) or not wanted:
        return len(found) == len(wanted)
    a, b = (np.array(values, dtype=float) for values in (found, wanted))
    apart = np.abs(a[:, None] - b[None]).max(axis=2)
    return bool(max(apart.min(axis=0).max(), apart.min(axis=1).max()) < 1e-3)


@pytest.mark.parametrize("which", [0, 1])
@pytest.mark.parametrize(("units", "scale"), [("mm", 1.0), ("inch", 25.4)])
def test_every_hole_and_every_dimension_of_a_dxf_is_the_pieces(made, which, units, scale):
    piece = made[which].pieces[0]
    sheet = sheets_of(made[which], 0, _TITLE, units)[0]
    entities = _entities(to_dxf(sheet))
    x0, y0 = piece.datum_mm
    upright = [row for row in piece.holes if row.side in ("top", "bottom")]
    wanted = [
        ((p.x_mm - x0) / scale, (p.y_mm - y0) / scale, size / 2 / scale)
        for row in upright
        for p in row.places
        for size in (row.diameter_mm, row.sink_mm)
        if size is not None
    ]
    # what goes right across both jaws is drawn once, in a view of its own
    for view in sheet.views[2:]:
        dx, dy = (
            (a - b) / sheet.scale for a, b in zip(view.at_mm, sheet.views[0].at_mm, strict=True)
        )
        wanted += [
            ((p.x_mm + dx - x0) / scale, (p.y_mm + dy - y0) / scale, size / 2 / scale)
            for row in piece.holes
            if row.side == "front"
            for p in row.places
            for size in (row.diameter_mm, row.sink_mm)
            if size is not None
        ]
    assert wanted
    circles = [
        (item[10][0], item[20][0], item[40][0])
        for kind, item in entities
        if kind == "CIRCLE" and item[8][0] in ("OUTLINE", "HIDDEN")
    ]
    assert _same(circles, wanted)
    # outlines in the plan view: blocks and pockets, lines and arcs where chords are
    space = ezdxf.read(io.StringIO(to_dxf(sheet).decode())).modelspace()
    rings = [
        (LinearRing([(p.x, p.y) for p in make_path(item).flattening(1e-4)]), len(item))
        for item in space.query('LWPOLYLINE[layer=="OUTLINE"]')
        if item.closed
    ]
    for outline in [*piece.bodies, *(pocket.outline[0] for pocket in piece.pockets)]:
        wanted_ring = LinearRing([((x - x0) / scale, (y - y0) / scale) for x, y in outline])
        drawn, bends = min(rings, key=lambda item: item[0].hausdorff_distance(wanted_ring))
        assert drawn.hausdorff_distance(wanted_ring) < 0.009 / scale
        # of a curve's chords a cam system gets few lines and arcs
        assert bends <= max(len(outline) / 4, 16)
    # real dimensions: what they measure is where something of the piece is
    dims = [item for kind, item in entities if kind == "DIMENSION"]
    ordinates = [item for item in dims if int(item[70][0]) & 0b111 == 6]
    places = [(place.x_mm, place.y_mm) for row in upright for place in row.places]
    for axis, start in ((0, x0), (1, y0)):
        code = (13, 23)[axis]
        mine = [item for item in ordinates if bool(int(item[70][0]) & 64) == (axis == 0)]
        distinct = {round(place[axis], 2) for place in places}
        # a dimension is from the datum to its own point, and says no other value
        found = {round(float(item[code][0]) * scale + start, 2) for item in mine}
        for item in mine:
            assert float(item[42][0]) == pytest.approx(float(item[code][0]), abs=1e-6)
            assert item.get(1, ["<>"])[0] in ("", "<>")
        assert {0.0, round((piece.width_mm, piece.depth_mm)[axis], 2)} <= found
        # where there is no room for so many, holes stand in the table alone
        assert distinct <= found or len(distinct) > 25
    thick = [float(item[42][0]) for item in dims if int(item[70][0]) & 0b111 == 0]
    assert any(value == pytest.approx(piece.thickness_mm / scale) for value in thick)
    header = to_dxf(sheet).decode()
    assert "$INSUNITS\n 70\n" + ("4" if units == "mm" else "1") in header.replace("     ", "")


def test_a_pdf_has_the_papers_size_and_says_what_is_on_it(made):
    for plate in made:
        sheets = sheets_of(plate, 0, _TITLE, "mm")
        data = to_pdf(sheets, "x")
        assert data == to_pdf(sheets, "x")
        pages = PdfReader(io.BytesIO(data)).pages
        assert len(pages) == len(sheets)
        text = "\n".join(page.extract_text() for page in pages)
        piece = plate.pieces[0]
        for page, sheet in zip(pages, sheets, strict=True):
            size = (float(page.mediabox.width), float(page.mediabox.height))
            assert size == pytest.approx([v * 72 / 25.4 for v in PAPERS[sheet.paper]], abs=0.01)
            assert sheet.scale in SCALES
        for row in piece.holes:
            assert row.says in text
            for number, place in enumerate(row.places, 1):
                assert f"{row.letter}{number}" in text
                assert f"{place.x_mm - piece.datum_mm[0]:.2f}".replace("-0.00", "0.00") in text
        assert {"Saltmarsh Gauge Works", piece.name, "ISO 2768-m"} <= set(text.splitlines())


def test_an_svg_is_to_scale_and_nothing_leaves_the_frame(made):
    for plate in made:
        piece = plate.pieces[0]
        for sheet in sheets_of(plate, 0, _TITLE, "mm"):
            root = ElementTree.fromstring(to_svg(sheet))
            assert root.get("width") == f"{sheet.width_mm:g}mm"
            space = "{http://www.w3.org/2000/svg}"
            radii = Counter(round(float(c.get("r")), 3) for c in root.iter(f"{space}circle"))
            if sheet.views:
                for row in piece.holes:
                    if row.side in ("top", "bottom"):
                        radius = round(row.diameter_mm / 2 * sheet.scale, 3)
                        assert radii[radius] >= len(row.places)
            for text in root.iter(f"{space}text"):
                x, y = float(text.get("x")), float(text.get("y"))
                assert 20 - 1e-6 <= x <= sheet.width_mm - 10
                assert 10 <= y <= sheet.height_mm - 10 + 1e-6


def test_a_pack_holds_all_files_and_says_which(made):
    files = dict(pack(made[0], _TITLE, "mm"))
    manifest = json.loads(files["manifest.json"])
    assert {item["file"] for item in manifest["files"]} == set(files) - {"manifest.json"}
    for item in manifest["files"]:
        assert hashlib.sha256(files[item["file"]]).hexdigest() == item["sha256"]
    kinds = Counter(name.rsplit(".", 1)[1] for name in files)
    assert kinds["pdf"] == len(made[0].pieces)
    assert kinds["dxf"] >= kinds["pdf"]
    data = zipped(made[0], _TITLE, "mm")
    assert data == zipped(made[0], _TITLE, "mm")
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        assert {name: opened.read(name) for name in opened.namelist()} == files
    holes = next(data for name, data in files.items() if name.endswith("holes.csv"))
    rows = list(csv.DictReader(holes.decode().splitlines()))
    first = made[0].pieces[0]
    assert len(rows) == sum(len(row.places) for row in first.holes) + len(first.pockets)
    parts = list(csv.DictReader(files["parts list.csv"].decode().splitlines()))
    assert sum(int(row["count"]) for row in parts if "Screw" in row["what"]) > 0


def test_a_step_file_read_by_the_kernel_is_the_piece_to_a_millionth(made, tmp_path):
    """Volume and centre of gravity against what the piece says, counted from its holes in closed
    form; every hole a true cylinder; each block of a pair a body of its own, named.
    """
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.STEPControl import STEPControl_Reader

    from wedgecraft.formats.step.writer import write_step

    for plate in made:
        piece = plate.pieces[0]
        data = write_step([piece.model_dump_json()])
        path = tmp_path / "piece.step"
        path.write_bytes(data)
        reader = STEPControl_Reader()
        reader.ReadFile(str(path))
        reader.TransferRoots()
        found = GProp_GProps()
        BRepGProp.VolumeProperties_s(reader.OneShape(), found)
        volume = piece.mass_kg / (piece.material.density_kg_m3 * 1e-9)
        assert found.Mass() == pytest.approx(volume, rel=1e-6)
        centre = found.CentreOfMass()
        assert (centre.X(), centre.Y(), centre.Z()) == pytest.approx(piece.centre_mm, abs=1e-5)
        text = data.decode()
        holes = sum(
            len(row.places) * (1 + (row.sink_mm is not None) + (row.through_mm is not None))
            for row in piece.holes
            if not row.in_pocket
        )
        assert text.count("CYLINDRICAL_SURFACE") >= holes
        assert piece.marks
        assert f"PRODUCT('{piece.name} marking'" in text
        names = [piece.name] if not piece.bodies else [f"{piece.name} 1", f"{piece.name} 2"]
        assert all(f"PRODUCT('{name}'" in text for name in names)


def test_meshed_solids_are_the_piece_and_marking_is_open_lines_in_its_place(made, tmp_path):
    """GLB in metres, Y up, and 3MF in mm, read by another library; what chords leave apart, of the
    volume counted from the holes. Every point of the marking over the piece, capitals as high as
    they say.
    """
    for plate in made:
        piece = plate.pieces[0]
        volume = piece.mass_kg / (piece.material.density_kg_m3 * 1e-9)
        solids = bodies(piece)
        for data, kind, scale in (
            (bodies_glb(solids), "glb", 1000.0),
            (bodies_3mf(solids), "3mf", 1.0),
        ):
            scene = trimesh.load(io.BytesIO(data), file_type=kind, force="scene")
            assert len(scene.geometry) == len(piece.bodies or [0])
            assert scene.to_mesh().volume * scale**3 == pytest.approx(volume, rel=2e-4)
            size = np.sort(np.ptp(scene.bounds, axis=0)) * scale
            wanted = sorted((piece.width_mm, piece.depth_mm, piece.thickness_mm))
            assert size == pytest.approx(wanted, abs=1e-3)
        entities = _entities(to_dxf(sheets_of(plate, 0, _TITLE, "mm")[0]))
        lines = [item for kind, item in entities if item.get(8) == ["MARKING"]]
        assert lines
        xs, ys = ([float(v) for item in lines for v in item[code]] for code in (10, 20))
        points = np.column_stack([xs, ys]) + np.array(piece.datum_mm)
        assert (points >= 0).all()
        assert (points <= [piece.width_mm, piece.depth_mm]).all()
        tops = [mark.y_mm + mark.high_mm for mark in piece.marks]
        assert points[:, 1].max() == pytest.approx(max(tops), abs=0.3)
    assert plain("Hülse Ø7 歯車") == "Hulse ?7 ??"
    assert len(strokes("H", 0, 0, 4)) == 3


def test_small_pieces_go_on_a4_and_the_profile_is_printed_as_large_as_life(made):
    """Read back from the SVG in its own millimetres: a bar of 100, the jaws and the pocket at their
    size; tables and notes on a sheet of their own, nothing of them lost.
    """
    piece = made[1].pieces[0]
    first, *lists, last = sheets_of(made[1], 0, _TITLE, "mm")
    assert {sheet.paper for sheet in (first, *lists)} == {"A4"}
    text = " ".join(item.text for sheet in lists for item in sheet.items if item.kind == "label")
    for row in piece.holes:
        assert row.says in text
    for word in ("Stock to leave", "undercut", "dowels"):
        assert word in text
    assert (last.scale, last.name) == (1.0, f"{piece.name}, to lay the part on")
    root = ElementTree.fromstring(to_svg(last))
    space = "{http://www.w3.org/2000/svg}"
    assert (root.get("width"), root.get("viewBox")) == ("210mm", "0 0 210 297")
    outline = next(g for g in root.iter(f"{space}g") if g.get("id") == "outline")
    drawn = [
        np.array([tuple(map(float, point.split(","))) for point in item.get("points").split()])
        for item in outline
        if item.get("points")
    ]
    sizes = [tuple(np.round(np.ptp(points, axis=0), 3)) for points in drawn]
    assert (100.0, 0.0) in sizes
    for ring in [*piece.bodies, *(pocket.outline[0] for pocket in piece.pockets)]:
        assert tuple(np.round(np.ptp(np.array(ring), axis=0), 3)) in sizes
    # every sheet is counted on every sheet
    for number, sheet in enumerate((first, *lists, last), 1):
        said = [item.text for item in sheet.items if item.kind == "label"]
        assert f"{number}/{2 + len(lists)}" in said


def test_every_dimension_of_a_drawing_is_a_face_or_an_axis_of_the_solid(made, tmp_path):
    """The kernel's cylinders and planes, read from STEP, against the ordinates of the DXF: each
    says where an upright axis or an outer face is, and none that is upright is left out where the
    drawing has room for all.
    """
    from OCP.BRep import BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Cylinder
    from OCP.STEPControl import STEPControl_Reader
    from OCP.TopAbs import TopAbs_FACE, TopAbs_VERTEX
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    from wedgecraft.formats.step.writer import write_step

    for plate in made:
        piece = plate.pieces[0].model_copy(update={"marks": []})
        path = tmp_path / "piece.step"
        path.write_bytes(write_step([piece.model_dump_json()]))
        reader = STEPControl_Reader()
        reader.ReadFile(str(path))
        reader.TransferRoots()
        shape = reader.OneShape()
        axes, corners = [], []
        faces = TopExp_Explorer(shape, TopAbs_FACE)
        while faces.More():
            surface = BRepAdaptor_Surface(TopoDS.Face(faces.Current()))
            if surface.GetType() == GeomAbs_Cylinder:
                cylinder = surface.Cylinder()
                at, way = cylinder.Axis().Location(), cylinder.Axis().Direction()
                if abs(way.Z()) > 0.999:
                    axes.append((at.X(), at.Y(), cylinder.Radius()))
            faces.Next()
        points = TopExp_Explorer(shape, TopAbs_VERTEX)
        while points.More():
            point = BRep_Tool.Pnt_s(TopoDS.Vertex(points.Current()))
            corners.append((point.X(), point.Y()))
            points.Next()
        entities = _entities(to_dxf(sheets_of(plate, 0, _TITLE, "mm")[0]))
        x0, y0 = piece.datum_mm
        dims = [item for kind, item in entities if kind == "DIMENSION"]
        ordinates = [item for item in dims if int(item[70][0]) & 0b111 == 6]
        assert ordinates
        ends = [(x + k * r, y + k * r) for x, y, r in axes for k in (-1, 0, 1)]
        there = np.array([*ends, *corners])
        sheet = sheets_of(plate, 0, _TITLE, "mm")[0]
        for item in ordinates:
            along = bool(int(item[70][0]) & 64)
            x, y = float(item[13][0]) + x0, float(item[23][0]) + y0
            if len(sheet.views) > 2 and y < -5:
                continue  # of the view across the jaws, not of the plan
            off = there[:, 0] - x if along else there[:, 1] - y
            assert np.abs(off).min() < 0.006, (x, y)
        # every upright cylinder is a hole of the table, at its place and of its size
        listed = [
            (p.x_mm, p.y_mm, size / 2)
            for row in piece.holes
            if row.side in ("top", "bottom") and not row.in_pocket
            for p in row.places
            for size in (row.diameter_mm, row.sink_mm, row.through_mm)
            if size is not None
        ]
        if listed:
            known = np.array(listed)
            milled = [(Polygon(item.outline[0]), item.corner_mm) for item in piece.pockets]
            for axis in axes:
                corner = any(
                    abs(radius - axis[2]) < 1e-2 and area.buffer(0.01).covers(Point(axis[:2]))
                    for area, radius in milled
                )
                assert corner or np.abs(known - axis).max(axis=1).min() < 1e-3


def test_jaws_with_their_gap_bridged_are_one_block_with_one_pocket(made):
    """For a cam system: no holes, no gap; what is milled is the part grown all round, over the gap
    too, to the volume of prisms.
    """
    plate, jaws = made[0].pieces[0], made[1].pieces[0]
    assert gap_bridged(plate) is None
    one = gap_bridged(jaws)
    ((name, body),) = bodies(one)
    assert name.endswith("gap bridged")
    hull = MultiPoint([point for ring in jaws.bodies for point in ring]).convex_hull
    pockets = [Polygon(item.outline[0]) for item in one.pockets]
    milled = sum(area.area * item.depth_mm for area, item in zip(pockets, one.pockets, strict=True))
    assert body.volume_mm3 == pytest.approx(hull.area * jaws.thickness_mm - milled, rel=1e-6)
    part = Polygon(jaws.drawn_part[0])
    clear = jaws.touching.clearance_mm
    assert pockets[0].buffer(1e-3).covers(part.buffer(0.98 * clear))
    # in either jaw it is the same pocket
    both = unary_union([Polygon(ring) for ring in jaws.bodies])
    own = unary_union([Polygon(item.outline[0]) for item in jaws.pockets])
    assert pockets[0].intersection(both).symmetric_difference(own).area < 1e-6 * own.area
    asked = []

    def write(documents):
        asked.append(documents)
        return b"solid"

    kernel = Kernel(write, write)
    assert solids_of(made[0], None, kernel).keys() == {"pieces.step"}
    assert solids_of(made[1], None, kernel).keys() == {
        "pieces.step",
        "S2-1 soft-jaws-op-20-gap-bridged.step",
    }
    assert [len(documents) for documents in asked] == [1, 1, 1]


def test_an_assembly_is_read_back_with_every_body_where_it_stands(tmp_path):
    """By the kernel's own reader: names, how many, and each body's middle by its pose."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib
    from OCP.collections import Sequence_TDF_Label
    from OCP.STEPCAFControl import STEPCAFControl_Reader
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

    from wedgecraft.formats.step.writer import write_assembly

    whole = assembled(planned("Float-arm hub"), 2)
    path = tmp_path / "assembly.step"
    path.write_bytes(write_assembly(whole.model_dump_json()))
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.ReadFile(str(path))
    assert reader.Transfer(document)
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    tops, parts = Sequence_TDF_Label(), Sequence_TDF_Label()
    tool.GetFreeShapes(tops)
    assert tops.Length() == 1
    XCAFDoc_ShapeTool.GetComponents_s(tops.Value(1), parts, False)
    assert parts.Length() == len(whole.stands)
    for k, item in enumerate(whole.stands):
        box = Bnd_Box()
        BRepBndLib.AddOptimal_s(XCAFDoc_ShapeTool.GetShape_s(parts.Value(k + 1)), box, False, False)
        low, high = box.CornerMin(), box.CornerMax()
        solid = whole.solids[item.solid]
        if solid.piece is not None:
            size = solid.piece.width_mm, solid.piece.depth_mm, solid.piece.thickness_mm
            own = np.array([[x, y, z] for x in (0, size[0]) for y in (0, size[1])
                            for z in (0, size[2])])  # fmt: skip
        else:
            own = np.array([[x, y, z] for slab in solid.slabs for rings in slab.areas
                            for x, y in rings[0] for z in (slab.low_mm, slab.high_mm)])  # fmt: skip
        pose = np.array(item.pose)
        there = own @ pose[:, :3].T + pose[:, 3]
        found = [[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]]
        assert np.allclose(found, [there.min(axis=0), there.max(axis=0)], atol=0.02), item.name
    assert path.read_bytes().count(b"Soft jaws") >= 1


@pytest.mark.parametrize("faces", [4, 5])
def test_a_block_is_drawn_from_each_of_its_sides_as_a_person_stands_before_it(faces):
    """Circles of every side view against the axes of the holes, by which way is right for who looks
    along them: into the piece across up.
    """
    document = planned("Manifold block, by the pallet")
    given = document.model_dump(mode="json")
    if faces != 4:
        given["route"]["setups"][0]["form"] |= {"faces": faces, "across_mm": 420}
        design = given["result"]["setups"][0]["result"]["designs"][0]
        design["faces"] = [f"B{72 * k}°" for k in range(faces)]
    made = pieces_of(JobDocument.model_validate(given), 1)
    place = len(made.pieces) - 1
    piece = made.pieces[place]
    sheets = sheets_of(made, place, _TITLE, "mm")
    views = [(sheet, view) for sheet in sheets for view in sheet.views if "outside" in view.name]
    assert len(views) == faces
    for sheet, view in views:
        side = frame(piece, view.name.split(": ")[1])
        right = np.cross(side.into, side.up)
        corners = np.array(piece.section or [(0, 0), (280, 0), (280, 280), (0, 280)])
        ends = corners - side.corner[:2]
        flat = np.abs(ends @ side.into[:2]) < 1e-6  # the corners of this side
        start = (corners[flat] @ right[:2]).min()
        wanted = sorted(
            (round(float(right @ side.at(p.x_mm, p.y_mm)) - start, 3), round(p.y_mm, 3))
            for row in piece.holes
            if row.side == view.name.split(": ")[1]
            for p in row.places
        )
        drawn = sorted(
            {(round(item.x, 3), round(item.y, 3)) for item in view.items if item.kind == "round"}
        )
        assert drawn == wanted
        assert 0 < sheet.scale <= 1
        # everything of a view is on its paper
        x, y = view.at_mm
        for item in view.items:
            if item.kind == "stroke":
                ends = np.array(item.points) * sheet.scale + (x, y)
                assert (ends > 0).all()
                assert (ends < (sheet.width_mm, sheet.height_mm)).all()
