"""Layouts out and in: the drawing read back by other readers, the table by our own and by the csv
module, damaged tables refused.
"""

from __future__ import annotations

import csv
import io

import ezdxf
import numpy as np
import pytest
from ezdxf import bbox
from hypothesis import given
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon
from svgelements import SVG, Circle
from svgelements import Polygon as SvgPolygon

from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.request import OwnStation, PlanRequest
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.formats.dxf import read_outlines
from wedgecraft.formats.layout_files import LAYERS, to_dxf, to_svg
from wedgecraft.formats.stations import from_csv, to_csv


@pytest.fixture(scope="module")
def layout():
    document = starting_request("Block", 60).model_dump()
    exact = {"variation": {"kind": "range", "value_mm": 0}}
    document["parts"][0]["stock"] |= dict.fromkeys("xyz", exact)
    document["plate"] |= {
        "keepouts": [
            {"x_mm": 30, "y_mm": 320, "width_mm": 24},
            {"shape": "box", "x_mm": 380, "y_mm": 20, "width_mm": 30},
        ]
    }
    request = PlanRequest.model_validate(document)
    return request, plan(request).designs[0]


def _expected(design) -> list[Polygon]:
    part = Polygon(design.kinds[0].drawing.part[0], design.kinds[0].drawing.part[1:])
    return [
        affinity.translate(affinity.rotate(part, s.turn, origin=(0, 0)), s.x_mm, s.y_mm)
        for s in design.stations
    ]


@pytest.mark.parametrize("scale", [1.0, 25.4])
def test_the_drawing_holds_every_layer_to_scale_for_another_reader(layout, scale):
    request, design = layout
    document = ezdxf.read(io.StringIO(to_dxf(request, design, scale).decode()))
    assert document.header["$INSUNITS"] == (4 if scale == 1 else 1)
    space = document.modelspace()
    plate = bbox.extents(space.query('*[layer=="PLATE"]'))
    assert (plate.size.x * scale, plate.size.y * scale) == pytest.approx((400, 350))
    parts = sorted(
        tuple(np.round(np.mean([v[:2] for v in p.get_points()], axis=0) * scale, 3))
        for p in space.query('LWPOLYLINE[layer=="PARTS"]')
    )
    assert parts == sorted(
        tuple(np.round(np.mean(p.exterior.coords[:-1], axis=0), 3)) for p in _expected(design)
    )
    count = {layer: len(space.query(f'*[layer=="{layer}"]')) for layer in LAYERS}
    assert count["TEXT"] == count["PARTS"] == design.count
    assert count["STOPS"] == 2 * design.count
    assert count["HOLES"] == count["CLAMPS"] == len(design.kinds[0].drawing.clamps) * design.count
    assert count["KEEPOUTS"] == 2
    circle = next(iter(space.query('CIRCLE[layer=="KEEPOUTS"]')))
    assert (circle.dxf.center.x * scale, circle.dxf.radius * scale) == pytest.approx((30, 12))
    assert document.audit().errors == []
    # And our own reader finds the parts on their layer again.
    found = read_outlines(to_dxf(request, design, scale), None, "x", layers=["PARTS"])
    assert len(found.outlines) == design.count
    assert found.outlines[0].area_mm2 == pytest.approx(60 * 40)


def test_the_picture_is_in_real_millimetres_for_another_reader(layout):
    request, design = layout
    read = SVG.parse(io.BytesIO(to_svg(request, design)), ppi=25.4)
    parts = [
        np.array([(p.x, p.y) for p in shape.points])
        for shape in read.elements()
        if isinstance(shape, SvgPolygon)
    ]
    sizes = [tuple(sorted(np.round(np.ptp(points, axis=0), 3))) for points in parts]
    assert sizes.count((40, 60)) == design.count
    assert (350, 400) in sizes
    assert (
        len([shape for shape in read.elements() if isinstance(shape, Circle)])
        == 1 + len(design.kinds[0].drawing.screws) * design.count
    )
    # Y points up: the station nearest the plate's lower edge lies low in the picture.
    lowest = max(
        points[:, 1].max() for points, size in zip(parts, sizes, strict=True) if size == (40, 60)
    )
    assert lowest == pytest.approx(5 + 350 - min(p.bounds[1] for p in _expected(design)), abs=1e-3)


@pytest.mark.parametrize("units", ["mm", "inch"])
def test_the_table_comes_back_as_it_went(layout, units):
    _, design = layout
    text = to_csv(design.stations, units)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == design.count
    assert float(rows[3][f"x [{units}]"]) * (1 if units == "mm" else 25.4) == pytest.approx(
        design.stations[3].x_mm, abs=1e-4
    )
    found, faults = from_csv(
        text, "inch" if units == "mm" else "mm"
    )  # the titles say which, whatever the caller thinks
    assert faults == []
    assert [(s.turn, s.locked) for s in found] == [(s.turn, s.locked) for s in design.stations]
    for read, given_ in zip(found, design.stations, strict=True):
        assert (read.x_mm, read.y_mm) == pytest.approx((given_.x_mm, given_.y_mm), abs=1e-4)


STATIONS = st.lists(
    st.builds(
        OwnStation,
        x_mm=st.floats(-5000, 5000).map(lambda v: round(v, 4)),
        y_mm=st.floats(-5000, 5000).map(lambda v: round(v, 4)),
        turn=st.sampled_from([0, 90, 180, 270]),
        locked=st.booleans(),
    ),
    min_size=1,
    max_size=30,
)


@given(
    STATIONS,
    st.permutations(["x", "y", "turn", "locked", "remark"]),
    st.sampled_from([",", ";", "\t"]),
)
def test_any_stations_survive_in_any_order_of_columns_and_with_any_separator(
    stations, columns, separator
):
    def cell(item: OwnStation, name: str) -> str:
        value = {
            "x": item.x_mm,
            "y": item.y_mm,
            "turn": f"{item.turn}°",
            "locked": "yes" if item.locked else "no",
            "remark": "a b",
        }[name]
        return repr(value) if isinstance(value, float) else str(value)

    lines = [separator.join(columns)] + [
        separator.join(cell(item, name) for name in columns) for item in stations
    ]
    found, faults = from_csv("\n".join(lines) + "\n")
    assert faults == []
    assert found == stations


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "row of titles"),
        ("x,y\n", "row of titles"),
        ("station,x\n1,2\n", "needed"),
        ("x,y\n1,wide\n", "not a length"),
        ("x,y\n1,\n", "length"),
        ("x,y,turn\n1,2,45\n", "not a turn"),
        ("x,y,turn\n1,2,1e400\n", "not a turn"),
        ("x,y,locked\n1,2,perhaps\n", "neither yes nor no"),
        ("x,y\nnan,2\n", "no place"),
        ("x,y\n1e9,2\n", "no place"),
        ("x,y\n" + "1,1\n" * 1001, "at most 1000"),
        ('x,y\n"1,2\n', "length"),
    ],
)
def test_tables_that_are_none_are_refused_with_their_row(text, said):
    found, faults = from_csv(text)
    assert found == []
    assert said in faults[0].message


def test_cells_may_carry_their_own_units():
    found, faults = from_csv("x,y\n2.5 in,10 mm\n1/2 in, 3\n", "inch")
    assert faults == []
    assert [(item.x_mm, item.y_mm) for item in found] == [(63.5, 10), (12.7, pytest.approx(76.2))]


@given(st.text(alphabet="xy,;\t\n0123456789.-\"' inm°ealockdturn", max_size=200))
def test_any_text_is_read_or_refused_in_words(text):
    found, faults = from_csv(text)
    assert bool(found) != bool(faults)
    assert all(fault.message for fault in faults)


def test_faces_of_a_block_lie_side_by_side_in_every_file():
    """Two ops on three faces: every part where its face is, read back by other readers; the table
    by hand.
    """
    document = starting_request("Block", 60).model_dump(mode="json")
    document["parts"][0]["ops"].append(document["parts"][0]["ops"][0] | {"number": 20, "up": "-Z"})
    request = PlanRequest.model_validate(
        document | {"also": [{"part": 0, "op": 1}], "block": {"faces": 3}}
    )
    design = plan(request).designs[0]
    assert [kind.op_number for kind in design.kinds] == [10, 20]
    space = ezdxf.read(io.StringIO(to_dxf(request, design).decode())).modelspace()
    plates = sorted(
        min(v[0] for v in line.get_points()) for line in space.query('LWPOLYLINE[layer=="PLATE"]')
    )
    assert plates == pytest.approx([0, 440, 880])
    middles = sorted(
        tuple(np.round(np.mean([v[:2] for v in p.get_points()], axis=0), 2))
        for p in space.query('LWPOLYLINE[layer=="PARTS"]')
    )
    expected = []
    for station in design.stations:
        part = Polygon(design.kinds[station.kind].drawing.part[0])
        placed = affinity.translate(
            affinity.rotate(part, station.turn, origin=(0, 0)),
            station.x_mm + 440 * station.face,
            station.y_mm,
        )
        expected.append(tuple(np.round(np.mean(placed.exterior.coords[:-1], axis=0), 2)))
    assert np.array(middles) == pytest.approx(np.array(sorted(expected)), abs=0.011)
    texts = {text.dxf.text for text in space.query("TEXT")}
    assert set(design.faces) | {str(station.number) for station in design.stations} == texts
    drawn = SVG.parse(io.BytesIO(to_svg(request, design)), ppi=25.4)
    sizes = [
        tuple(np.round(np.ptp([(p.x, p.y) for p in s.points], axis=0), 2))
        for s in drawn.elements()
        if isinstance(s, SvgPolygon)
    ]
    assert sizes.count((400, 350)) == 3
    back, faults = from_csv(to_csv(design.stations))
    assert faults == []
    assert [(s.face, s.kind, round(s.x_mm, 3), s.turn) for s in back] == [
        (s.face, s.kind, round(s.x_mm, 3), s.turn) for s in design.stations
    ]
    assert from_csv("x,y,face,op\n1,2,0,1\n")[1][0].column == "face"
    assert from_csv("x,y,face,op\n1,2,1,nine\n")[1][0].column == "op"
