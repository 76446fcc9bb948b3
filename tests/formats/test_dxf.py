"""Outlines read back from drawings written by ezdxf and by hand, and from files that are no use."""

from __future__ import annotations

import io
import math
import random

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from tests.formats.fuzz import refused_in_words
from wedgecraft.core.records.drawing import OutlinesFound
from wedgecraft.core.workpiece.holes import round_hole
from wedgecraft.formats import dxf
from wedgecraft.formats.dxf import read_outlines
from wedgecraft.formats.errors import FileRefused, UnitsMissing
from wedgecraft.formats.outlines import MOST_BYTES


def read_outline(data: bytes, units=None, **options):
    """The largest outline."""
    found: OutlinesFound = read_outlines(data, units, **options)
    return found.outlines[0]


def _bytes(document: ezdxf.document.Drawing) -> bytes:
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _drawing(units: int = 4):
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = units
    return document, document.modelspace()


def _area(outline) -> float:
    return Polygon(outline.outer, outline.holes).area


def test_polyline_with_bulges_is_a_slot_with_round_ends():
    document, space = _drawing()
    space.add_lwpolyline([(0, 0, 0), (40, 0, 1), (40, 20, 0), (0, 20, 1)], format="xyb", close=True)
    found = read_outline(_bytes(document)).outline
    assert _area(found) == pytest.approx(40 * 20 + math.pi * 100, rel=5e-4)
    assert Polygon(found.outer).bounds == pytest.approx((-10, 0, 50, 20), abs=0.011)


def test_chain_of_lines_and_arcs_in_any_order_and_direction_with_holes():
    document, space = _drawing()
    pieces = [
        lambda: space.add_line((5, 0), (55, 0)),
        lambda: space.add_arc((55, 5), 5, -90, 0),
        lambda: space.add_line((60, 35), (60, 5)),
        lambda: space.add_arc((55, 35), 5, 0, 90),
        lambda: space.add_line((55, 40), (5, 40)),
        lambda: space.add_arc((5, 35), 5, 90, 180),
        lambda: space.add_line((0, 5), (0, 35)),
        lambda: space.add_arc((5, 5), 5, 180, 270),
        lambda: space.add_circle((20, 20), 6),
        lambda: space.add_circle((45, 20), 4),
        lambda: space.add_text("op 10"),
    ]
    random.Random(4).shuffle(pieces)
    for add in pieces:
        add()
    found = read_outlines(_bytes(document))
    assert len(found.outlines[0].outline.holes) == 2
    assert _area(found.outlines[0].outline) == pytest.approx(
        60 * 40 - (4 - math.pi) * 25 - math.pi * (36 + 16), rel=1e-3
    )
    assert found.notes == ["1 TEXT left out"]


def test_units_come_from_the_header_or_are_asked_for():
    document, space = _drawing(units=1)
    space.add_lwpolyline([(0, 0), (2.5, 0), (2.5, 1), (0, 1)], close=True)
    assert Polygon(read_outline(_bytes(document)).outline.outer).bounds == pytest.approx(
        (0, 0, 63.5, 25.4)
    )
    document.header["$INSUNITS"] = 0
    with pytest.raises(UnitsMissing, match=r"2\.5 x 1.*inch \(63\.5 x 25\.4 mm\)"):
        read_outline(_bytes(document))
    assert Polygon(read_outline(_bytes(document), "mm").outline.outer).bounds == pytest.approx(
        (0, 0, 2.5, 1)
    )


def test_a_drawing_written_by_hand():
    """Release 12, entities only, as an old control or a text editor would write it."""
    corners = [(0, 0), (30, 0), (30, 20), (0, 20)]
    lines = ["0", "SECTION", "2", "ENTITIES"]
    for (x1, y1), (x2, y2) in zip(corners, corners[1:] + corners[:1], strict=True):
        lines += ["0", "LINE", "8", "0", "10", f"{x1}", "20", f"{y1}", "11", f"{x2}", "21", f"{y2}"]
    lines += ["0", "CIRCLE", "8", "0", "10", "15", "20", "10", "40", "5", "0", "ENDSEC", "0", "EOF"]
    found = read_outline("\n".join(lines).encode(), "mm").outline
    assert _area(found) == pytest.approx(600 - math.pi * 25, rel=1e-3)


@settings(max_examples=40, deadline=None)
@given(st.integers(3, 60), st.integers(0, 10_000), st.sampled_from([1, 4, 5]))
def test_random_outlines_come_back_with_their_area(count, seed, units):
    rng = np.random.default_rng(seed)
    angles = 2 * math.pi * (np.arange(count) + rng.uniform(0, 0.8, count)) / count
    radii = rng.uniform(10, 50, count)
    ring = np.stack([radii * np.cos(angles), radii * np.sin(angles)], axis=1)
    document, space = _drawing(units)
    order = rng.permutation(count)
    for k in order:
        ends = [tuple(ring[k]), tuple(ring[(k + 1) % count])]
        space.add_line(*(ends if rng.random() < 0.5 else ends[::-1]))
    scale = {1: 25.4, 4: 1.0, 5: 10.0}[units]
    if not Polygon(ring).is_valid:
        return
    assert _area(read_outline(_bytes(document)).outline) == pytest.approx(
        Polygon(ring).area * scale**2, rel=1e-6
    )


def _of(*loops, line=None):
    document, space = _drawing()
    for loop in loops:
        space.add_lwpolyline(loop, close=True)
    if line:
        space.add_line(*line)
    return _bytes(document)


SQUARE = [(0, 0), (20, 0), (20, 20), (0, 20)]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"this is no drawing", "DXF|model space"),
        (b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nabc\n", "DXF|outline|model space|read"),
        (b"x" * (MOST_BYTES + 1), "too big"),
        (_of(), "model space is empty"),
        (_of(line=((0, 0), (5, 5))), "open"),
        (_of([(0, 0), (20, 20), (20, 0), (0, 20)]), "crosses itself"),
        (_of([(0, 0), (20, 0), (40, 0)]), "no area|open"),
        (_of([(0, 0), (0.2, 0), (0.2, 0.2), (0, 0.2)]), "units right"),
        (_of([(0, 0), (90_000, 0), (90_000, 9000), (0, 9000)]), "units right"),
        (_of(SQUARE, [(2, 2), (20, 2), (8, 8)]), "cross or touch"),
        (
            _of(SQUARE, [(2, 2), (8, 2), (8, 8), (2, 8)], [(5, 5), (12, 5), (12, 12), (5, 12)]),
            "cross or touch",
        ),
        (_of([(0, 0), (1e300, 0), (1e300, 1e300), (0, 1e300)]), "finite|beyond"),
    ],
)
def test_useless_files_are_refused_with_what_was_found_and_what_to_do(data, said):
    with pytest.raises(FileRefused, match=said) as caught:
        read_outline(data)
    assert caught.value.remedy


def test_an_open_outline_says_where_and_how_wide_the_gap_is():
    document, space = _drawing()
    for ends in [((0, 0), (30, 0)), ((30, 0), (30, 20)), ((30, 20), (0, 20)), ((0, 20), (0, 0.5))]:
        space.add_line(*ends)
    with pytest.raises(
        FileRefused,
        match=r"the widest gap in the way is 0\.5 mm at X0\.000 Y0\.250.*up to 0\.51 mm apart",
    ):
        read_outline(_bytes(document))
    assert read_outline(_bytes(document), join_mm=0.51).depth_mm == pytest.approx(20)


def test_of_an_outline_in_pieces_the_gap_that_keeps_it_open_is_named():
    """Two halves, 0.05 mm apart on one side and 0.31 on the other: each half's own ends are 30 mm
    apart, which says nothing.
    """
    document, space = _drawing()
    for run in [[(0, 10), (0, 0), (30, 0), (30, 10)], [(30.05, 10), (30, 20), (0, 20), (0, 10.31)]]:
        space.add_lwpolyline(run)
    with pytest.raises(
        FileRefused,
        match=(
            r"2 chain.*widest gap in the way is 0\.31 mm at X0\.000 Y10\.155.*up to 0\.32 mm apart"
        ),
    ):
        read_outline(_bytes(document))
    assert read_outline(_bytes(document), join_mm=0.32).area_mm2 == pytest.approx(600, abs=1)
    document, space = _drawing()
    space.add_lwpolyline([(0, 10), (0, 0), (30, 0), (30, 10)])
    space.add_line((25, 10), (5, 10))
    with pytest.raises(
        FileRefused,
        match=(
            r"up to 2 mm apart would not close one; the ends nearest to each other are 5 mm.*what"
            r" is missing"
        ),
    ):
        read_outline(_bytes(document))


def test_arcs_give_true_sizes_and_centres_and_leave_no_material_out():
    """A disc of 110 in two bulges from an odd angle, a hole of 37 in three arcs, and a notch of
    radius 8 in the rim of a plate.
    """
    document, space = _drawing()
    odd = [(110 / 2 * math.cos(a), 110 / 2 * math.sin(a), 1.0) for a in (0.7, 0.7 + math.pi)]
    space.add_lwpolyline(odd, format="xyb", close=True)
    for start, end in ((17, 140), (140, 200), (200, 17)):
        space.add_arc((3, -4), 18.5, start, end)
    found = read_outline(_bytes(document))
    assert (found.width_mm, found.depth_mm) == pytest.approx((110, 110), abs=1e-5)
    assert 0 <= Polygon(found.outline.outer).area - math.pi * 55**2 < 0.002 * math.pi * 110
    hole = round_hole(np.array(found.outline.holes[0]))
    assert (hole.x_mm, hole.y_mm, hole.diameter_mm) == pytest.approx((3, -4, 37), abs=1e-5)
    document, space = _drawing()
    space.add_lwpolyline(
        [(0, 0, 0), (40, 0, 0), (40, 6, -1), (40, 22, 0), (40, 30, 0), (0, 30, 0)],
        format="xyb",
        close=True,
    )
    found = read_outline(_bytes(document))
    true = box(0, 0, 40, 30).difference(Point(40, 14).buffer(8, quad_segs=2000))
    assert true.difference(Polygon(found.outline.outer)).area < 1e-3
    assert true.hausdorff_distance(Polygon(found.outline.outer)) <= 0.00202


def test_what_a_block_has_on_layer_0_is_on_the_layer_of_its_insert():
    """Off: gone with the insert, but for what has a layer of its own; frozen: gone whole. The DXF
    reference, on layers.
    """
    document, space = _drawing()
    document.layers.add("off").off()
    document.layers.add("frozen").freeze()
    document.layers.add("on")
    block = document.blocks.new("B")
    block.add_circle((0, 0), 4)
    block.add_circle((20, 0), 6, dxfattribs={"layer": "on"})
    deeper = document.blocks.new("DEEPER")
    deeper.add_blockref("B", (0, 0))
    space.add_lwpolyline([(-90, -90), (90, -90), (90, 90), (-90, 90)], close=True)
    for layer, y, name in (
        ("off", 0, "B"),
        ("frozen", 30, "B"),
        ("on", 60, "B"),
        ("off", -40, "DEEPER"),
    ):
        space.add_blockref(name, (0, y), dxfattribs={"layer": layer})
    found = read_outlines(_bytes(document))
    rings = [round_hole(np.array(ring)) for ring in found.outlines[0].outline.holes]
    assert sorted((round(h.x_mm), round(h.y_mm), round(h.diameter_mm)) for h in rings) == [
        (0, 60, 8),
        (20, -40, 12),
        (20, 0, 12),
        (20, 60, 12),
    ]
    assert [(layer.name, layer.curves) for layer in found.layers] == [("0", 1), ("on", 4)]


#: Written once: a drawing carries its hour, and damage must fall on the same bytes every time.
SOUND = _of(SQUARE, [(5, 5), (8, 5), (8, 8), (5, 8)])


@settings(max_examples=80, deadline=None)
@given(st.data())
def test_damaged_drawings_never_do_worse_than_be_refused(data):
    whole = bytearray(SOUND)
    start = whole.find(b"ENTITIES")
    for _ in range(data.draw(st.integers(1, 12))):
        place = data.draw(st.integers(start, len(whole) - 1))
        whole[place] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(start, len(whole)))
    with refused_in_words():  # anything else fails the test
        assert read_outline(bytes(whole[:cut]), "mm").outline.outer


def test_ellipses_splines_and_old_polylines_are_curves_too():
    document, space = _drawing()
    space.add_ellipse((0, 0), (30, 0), ratio=0.5)
    assert _area(read_outline(_bytes(document)).outline) == pytest.approx(
        math.pi * 30 * 15, rel=2e-3
    )
    document, space = _drawing()
    space.add_polyline2d([(0, 0), (20, 0), (20, 10), (0, 10)], close=True)
    assert _area(read_outline(_bytes(document)).outline) == pytest.approx(200)
    document, space = _drawing()
    ring = [(25 * math.cos(k * math.pi / 10), 25 * math.sin(k * math.pi / 10)) for k in range(20)]
    space.add_spline(fit_points=[(x, y, 0) for x, y in [*ring, ring[0]]])
    assert _area(read_outline(_bytes(document)).outline) == pytest.approx(math.pi * 625, rel=0.01)


def test_small_gaps_are_closed_doubles_forgotten_and_islands_left_to_their_hole():
    document, space = _drawing()
    for start, end in [
        ((0, 0.004), (30, 0)),
        ((30.003, 0), (30, 20)),
        ((30, 20.005), (0, 20)),
        ((0, 20), (0, 0)),
    ]:
        space.add_line(start, end)
    for _ in range(2):  # drawn twice, as happens
        space.add_circle((15, 10), 5)
    space.add_circle((15, 10), 2)  # an island in the hole
    every = read_outlines(_bytes(document))
    found = every.outlines[0].outline
    assert len(found.holes) == len(found.islands) == 1
    assert _area(found) == pytest.approx(600 - math.pi * 25, rel=2e-3)
    assert every.outlines[0].area_mm2 == pytest.approx(600 - math.pi * 21, rel=2e-3)
    assert sorted(round(gap.gap_mm, 4) for gap in every.healed) == [0.003, 0.004, 0.005]
    assert "1 curves drawn twice were taken once" in every.notes


def test_chords_stay_within_what_the_outline_says():
    document, space = _drawing()
    space.add_circle((0, 0), 40)
    found = read_outline(_bytes(document)).outline
    ring = np.array(found.outer)
    middles = (ring + np.roll(ring, -1, axis=0)) / 2
    assert (40 - np.linalg.norm(middles, axis=1)).max() <= found.chord_error_mm * 1.01
    assert len(ring) < 400


def test_layers_are_chosen_outlines_offered_and_ends_joined_as_far_as_one_says():
    document, space = _drawing()
    for ends in [((0, 0), (30, 0)), ((30, 0), (30, 20)), ((30, 20), (0, 20)), ((0, 20), (0, 0.5))]:
        space.add_line(*ends, dxfattribs={"layer": "part"})
    space.add_lwpolyline(
        [(50, 0), (62, 0), (62, 9), (50, 9)], close=True, dxfattribs={"layer": "coupon"}
    )
    space.add_circle((56, 4), 2, dxfattribs={"layer": "coupon"})
    document.layers.add("hidden").off()
    space.add_lwpolyline(
        [(0, 0), (900, 0), (900, 900), (0, 900)], close=True, dxfattribs={"layer": "hidden"}
    )
    data = _bytes(document)
    found = read_outlines(data)
    assert [(layer.name, layer.curves, layer.used) for layer in found.layers] == [
        ("coupon", 2, True),
        ("part", 4, True),
    ]
    assert [(round(item.width_mm, 3), len(item.outline.holes)) for item in found.outlines] == [
        (12, 1)
    ]
    assert [round(gap.gap_mm, 3) for gap in found.open] == [0.5]
    joined = read_outlines(data, join_mm=0.6)
    assert [(round(item.width_mm, 3), round(item.depth_mm, 3)) for item in joined.outlines] == [
        (30, 20),
        (12, 9),
    ]
    assert [round(gap.gap_mm, 3) for gap in joined.healed] == [0.5]
    assert len(read_outlines(data, join_mm=0.6, layers=["coupon"]).outlines) == 1
    with pytest.raises(FileRefused, match="none of the layers"):
        read_outlines(data, layers=["nothing"])


def test_blocks_are_taken_apart_but_never_without_end():
    document, space = _drawing()
    block = document.blocks.new("plate")
    block.add_lwpolyline(SQUARE, close=True)
    space.add_blockref("plate", (100, 0), dxfattribs={"xscale": 2, "yscale": 2, "rotation": 30})
    assert _area(read_outline(_bytes(document)).outline) == pytest.approx(1600, rel=1e-6)
    bomb, space = _drawing()
    bomb.blocks.new("b0").add_line((0, 0), (1, 1))
    for level in range(1, 9):
        holder = bomb.blocks.new(f"b{level}")
        for _ in range(10):
            holder.add_blockref(f"b{level - 1}", (0, 0))
    space.add_blockref("b8", (0, 0))
    with pytest.raises(FileRefused, match="more than 10,000"):
        read_outline(_bytes(bomb))


def test_a_drawing_of_fifty_thousand_lines_is_read_and_one_more_refused():
    from wedgecraft.core.workpiece.loops import chain

    angles = 2 * math.pi * np.arange(49_999) / 49_999
    ring = np.stack([1000 * np.cos(angles), 1000 * np.sin(angles)], axis=1)
    pieces = [
        np.array([ring[k - 1], ring[k]]) for k in np.random.default_rng(1).permutation(len(ring))
    ]
    (loop,) = chain(pieces, 0.01).loops
    assert Polygon(loop).area == pytest.approx(math.pi * 1e6, rel=1e-6)
    document, space = _drawing()
    for k in range(50_001):
        space.add_point((k, 0))
    with pytest.raises(FileRefused, match="more than 50,000 entities"):
        read_outline(_bytes(document))


@pytest.mark.parametrize("seed", range(6))
def test_plain_curves_read_by_ourselves_are_those_the_library_reads(seed, monkeypatch):
    """The slow way is the reference: the whole drawing through ezdxf."""
    rng = np.random.default_rng(seed)
    drawing = ezdxf.new()
    drawing.header["$INSUNITS"] = 4
    drawing.layers.add("OFF").off()
    space = drawing.modelspace()
    corners = [(0, 0), (300, 0), (300, 200), (0, 200)]
    for a, b in zip(corners, corners[1:] + corners[:1], strict=True):
        space.add_line(a, b, dxfattribs={"layer": "EDGE"})
    for k in range(40):
        x, y = 20 + 25 * (k % 10) + rng.uniform(0, 5), 20 + 40 * (k // 10)
        kind = rng.integers(5)
        layer = {"layer": str(rng.choice(["HOLES", "OFF", "0"]))}
        start = float(rng.uniform(-400, 400))
        if kind == 0:
            space.add_circle((x, y), 5, dxfattribs=layer)
        elif kind == 1:  # two half arcs
            space.add_arc((x, y), 5, start, start + 180, dxfattribs=layer)
            space.add_arc((x, y), 5, start + 180, start + 360, dxfattribs=layer)
        elif kind == 2:  # seen from below: stays with the library
            space.add_circle((x, y, 0), 5, dxfattribs=layer | {"extrusion": (0, 0, -1)})
        elif kind == 3:
            space.add_lwpolyline([(x, y), (x + 6, y), (x + 6, y + 6)], close=True, dxfattribs=layer)
        else:
            drawing.layout("Layout1").add_circle((x, y), 5)
    written = io.StringIO()
    drawing.write(written)
    data = written.getvalue().replace("\n", "\r\n" if seed % 2 else "\n").encode()
    quick = dxf.read_outlines(data)
    rest, plain = dxf.plain_curves(written.getvalue())
    assert len(plain) >= 4
    assert len(rest) < len(written.getvalue())
    monkeypatch.setattr(dxf, "plain_curves", lambda text: (text, []))
    slow = dxf.read_outlines(data)
    assert [(item.name, item.curves, item.used) for item in quick.layers] == [
        (i.name, i.curves, i.used) for i in slow.layers
    ]
    for mine, theirs in zip(quick.outlines, slow.outlines, strict=True):
        assert mine.area_mm2 == pytest.approx(theirs.area_mm2, rel=1e-9)
        assert len(mine.outline.holes) == len(theirs.outline.holes)


def test_millimetres_taken_for_metres_are_refused_before_they_fill_the_memory():
    document, space = _drawing(units=6)
    for k in range(1500):
        space.add_circle((10 * (k % 50), 10 * (k // 50)), 4)
    with pytest.raises(FileRefused, match=r"m across") as caught:
        read_outlines(_bytes(document))
    assert "units" in caught.value.remedy
