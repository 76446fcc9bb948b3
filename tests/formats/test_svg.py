"""Outlines out of SVG written by another library and by hand, their scale, and documents that mean
harm.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import svgwrite
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Polygon

from tests.formats.fuzz import damaged, refused_in_words
from wedgecraft.core.workpiece.holes import round_hole
from wedgecraft.formats.drawings import kind_of, read_drawing
from wedgecraft.formats.errors import FileRefused, UnitsMissing
from wedgecraft.formats.svg import read_outlines


def _area(outline) -> float:
    return Polygon(outline.outer, outline.holes).area


def test_shapes_written_by_another_library_come_back_with_their_sizes():
    drawing = svgwrite.Drawing(size=("120mm", "80mm"), viewBox="0 0 120 80")
    drawing.add(drawing.rect((10, 10), (60, 40), rx=5, ry=5))
    drawing.add(drawing.circle((30, 30), 8))
    drawing.add(drawing.ellipse((95, 40), (12, 6)))
    drawing.add(drawing.text("op 10", (1, 1)))
    found = read_outlines(drawing.tostring().encode())
    plate, oval = found.outlines
    assert (plate.width_mm, plate.depth_mm) == pytest.approx((60, 40), abs=1e-3)
    assert _area(plate.outline) == pytest.approx(2400 - (4 - math.pi) * 25 - math.pi * 64, rel=5e-4)
    assert oval.area_mm2 == pytest.approx(math.pi * 72, rel=2e-3)
    assert found.notes == ["1 text left out"]


@settings(max_examples=40, deadline=None)
@given(
    st.integers(3, 30),
    st.integers(0, 10_000),
    st.floats(-180, 180),
    st.floats(0.2, 4),
    st.sampled_from(["mm", "cm", "in"]),
)
def test_random_outlines_through_transforms_and_units(count, seed, turn, scale, unit):
    rng = np.random.default_rng(seed)
    angles = 2 * math.pi * (np.arange(count) + rng.uniform(0, 0.8, count)) / count
    ring = np.stack([rng.uniform(10, 40, count) * f(angles) for f in (np.cos, np.sin)], axis=1)
    polygon = Polygon(ring)
    if not polygon.is_valid:
        return
    points = " ".join(f"{x!r},{y!r}" for x, y in ring.tolist())
    size = f'width="20{unit}" height="20{unit}" viewBox="0 0 200 200"'
    data = f"""<svg xmlns="http://www.w3.org/2000/svg" {size}>
      <g transform="translate(90 80) rotate({turn!r})"><g transform="scale({scale!r})">
      <polygon points="{points}"/></g></g></svg>"""
    unit_mm = {"mm": 1, "cm": 10, "in": 25.4}[unit] * 20 / 200
    expected = affinity.rotate(
        affinity.scale(polygon, scale * unit_mm, -scale * unit_mm, origin=(0, 0)),
        -turn,
        origin=(0, 0),
    )
    if min(expected.bounds[2] - expected.bounds[0], expected.bounds[3] - expected.bounds[1]) < 1.1:
        return
    (found,) = read_outlines(data.encode()).outlines
    assert found.area_mm2 == pytest.approx(expected.area, rel=1e-4)
    assert found.width_mm == pytest.approx(expected.bounds[2] - expected.bounds[0], rel=1e-4)


def test_without_real_units_the_person_says_what_a_unit_is():
    data = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300" viewBox="0 0 200'
        b' 150"><path d="M10 10h96v48h-96z"/></svg>'
    )
    with pytest.raises(UnitsMissing, match="96 x 48"):
        read_outlines(data)
    for said, width in (("mm", 96), ("inch", 96 * 25.4), ("px", 25.4)):
        assert read_outlines(data, said).outlines[0].width_mm == pytest.approx(width)


def test_y_points_up_and_paths_with_arcs_and_curves_keep_their_area():
    data = b"""<svg xmlns="http://www.w3.org/2000/svg" width="100mm" viewBox="0 0 100 100">
      <path d="M0 0 H40 V20 A10 10 0 0 1 40 40 H0 Z"/></svg>"""
    (found,) = read_outlines(data).outlines
    assert found.area_mm2 == pytest.approx(1600 + math.pi * 50, rel=1e-3)
    bulge = max(found.outline.outer, key=lambda point: point[0])
    assert bulge[1] == pytest.approx(-30, abs=0.5)


HOSTILE = {
    "entities": (
        b'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b'
        b' "&a;&a;&a;&a;&a;&a;&a;&a;">]><svg><text>&b;</text></svg>'
    ),
    "a file read": (
        b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg><text>&x;</text></svg>'
    ),
    "nested": b"<svg>" + b"<g>" * 5000 + b"</g>" * 5000 + b"</svg>",
    "clones of clones": (
        b'<svg xmlns:xlink="x"><g id="a"><use xlink:href="#b"/></g><g id="b"><use'
        b' xlink:href="#a"/></g></svg>'
    ),
    "many": b"<svg>" + b"<circle r='1'/>" * 60_000 + b"</svg>",
    "not svg": b"<html><body/></html>",
    "cut short": b"<svg><path d='M0 0",
    "nothing": b"",
    "no numbers": (
        b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L nan 5 L 1e999 0 z'/></svg>"
    ),
    "huge": b"<svg xmlns='http://www.w3.org/2000/svg'><rect width='1e9' height='1e9'/></svg>",
    "crossing": (
        b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L20 20 L20 0 L0 20 z'/></svg>"
    ),
    "open": b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L20 20 L20 0'/></svg>",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_and_useless_documents_are_refused_in_words(name):
    with pytest.raises(FileRefused) as caught:
        read_outlines(HOSTILE[name], "mm")
    assert caught.value.what
    assert caught.value.remedy


SEED = b"""<svg xmlns="http://www.w3.org/2000/svg" width="90mm" viewBox="0 0 90 60">
<g transform="rotate(3)">
<path d="M10 10 h20 v20 q-10 10 -20 0 z"/><circle cx="60" cy="30" r="9"/></g></svg>"""


@settings(max_examples=150, deadline=None)
@given(st.randoms(use_true_random=False))
def test_damaged_documents_never_do_worse_than_be_refused(rng):
    with refused_in_words():
        assert read_drawing(damaged(SEED, rng), "mm", "x.svg").outlines


@pytest.mark.parametrize(
    ("data", "name", "kind"),
    [
        (b"ISO-10303-21;", "part.dxf", "step"),
        (b"  <?xml version='1.0'?><svg/>", "part.txt", "svg"),
        (b"  0\nSECTION\n", "part.svg", "dxf"),
        (b"999\nmade by hand\n0\nSECTION", "x", "dxf"),
    ],
)
def test_a_mislabelled_file_is_known_by_its_content(data, name, kind):
    assert kind_of(data, name) == kind


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"%PDF-1.7", "is a PDF"),
        (b"PK\x03\x04", "ZIP"),
        (b"AC1032", "DWG"),
        (b"hello", "no kind of drawing"),
    ],
)
def test_other_files_are_named_for_what_they_are(data, said):
    with pytest.raises(FileRefused, match=said):
        read_drawing(data, "mm", "part.bin")


def _holes(body: str, root: str = 'width="100mm" height="100mm" viewBox="0 0 100 100"'):
    """Centre and sizes of what stands in a frame that fills the drawing."""
    names = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    data = f"<svg {names} {root}>{body}</svg>"
    found = read_outlines(data.encode())
    return [
        tuple(round(value, 3) for value in Polygon(item.outline.outer).bounds)
        for item in found.outlines
    ]


@pytest.mark.parametrize(
    ("body", "box"),
    [
        # Worked by hand from SVG 2: what is used stands where it is used, under the transforms of
        # the use and of what holds it.
        (
            '<defs><rect id="r" width="10" height="6"/></defs><use xlink:href="#r" x="20" y="30"/>',
            (20, -36, 30, -30),
        ),
        (
            (
                '<defs><g id="r"><rect width="10" height="6"/></g></defs><g'
                ' transform="scale(2)"><use href="#r" transform="translate(5 5)" x="1"/></g>'
            ),
            (12, -22, 32, -10),
        ),
        # A symbol's view of 20 x 10 fills the use's 40 x 40 as far as its shape allows, in the
        # middle: twice as large, 10 down.
        (
            (
                '<symbol id="s" viewBox="0 0 20 10"><rect width="20" height="10"/></symbol><use'
                ' href="#s" x="10" y="10" width="40" height="40"/>'
            ),
            (10, -40, 50, -20),
        ),
        (
            (
                '<symbol id="s" viewBox="0 0 20 10" preserveAspectRatio="none"><rect width="20"'
                ' height="10"/></symbol><use href="#s" x="10" y="10" width="40" height="40"/>'
            ),
            (10, -50, 50, -10),
        ),
        (
            (
                '<symbol id="s" viewBox="0 0 20 10" preserveAspectRatio="xMinYMax slice"><rect'
                ' width="10" height="10"/></symbol><use href="#s" width="40" height="40"/>'
            ),
            (0, -40, 40, 0),
        ),
        # An inner view from (10, 10), twice as large, its own corner at (5, 5).
        (
            (
                '<svg x="10" y="10" width="40" height="40" viewBox="5 5 20 20"><rect x="5" y="5"'
                ' width="50%" height="25%"/></svg>'
            ),
            (10, -20, 30, -10),
        ),
        ('<rect x="10%" y="5%" width="50%" height="25%"/>', (10, -30, 60, -5)),
        # A use of a use.
        (
            (
                '<defs><rect id="r" width="10" height="6"/><g id="two"><use href="#r"'
                ' x="5"/></g></defs><use href="#two" x="20"/>'
            ),
            (25, -6, 35, 0),
        ),
    ],
)
def test_uses_symbols_inner_views_and_percentages_stand_where_they_are_seen(body, box):
    assert _holes(body) == [pytest.approx(box)]


@pytest.mark.parametrize(
    ("root", "size"),
    [
        (
            'width="100mm" height="50mm" viewBox="0 0 200 200"',
            (25, 25),
        ),  # fits in: a quarter of a millimetre a unit
        (
            (
                'width="100mm" height="50mm" viewBox="0 0 200 200" preserveAspectRatio="xMidYMid'
                ' slice"'
            ),
            (50, 50),
        ),
        ('width="100mm" height="50mm" viewBox="0 0 200 200" preserveAspectRatio="none"', (50, 25)),
        ('width="100mm" viewBox="0 0 200 200"', (50, 50)),
    ],
)
def test_the_view_of_the_drawing_gives_its_scale(root, size):
    ((left, low, right, high),) = _holes('<rect x="20" y="20" width="50%" height="100"/>', root)
    assert (right - left, high - low) == pytest.approx(size)


def test_round_things_of_a_drawing_have_their_sizes_and_leave_nothing_out():
    ((left, low, right, high),) = _holes(
        '<circle cx="50" cy="50" r="27.5" transform="rotate(33 50 50) scale(0.8)"/>'
    )
    assert (right - left, high - low) == pytest.approx((44, 44), abs=1e-3)
    data = b"""<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm"
      viewBox="0 0 100 100"><g transform="rotate(21 50 50)">
      <path d="M20 20 H80 V50 A30 30 0 0 1 20 50 Z"/><circle cx="50" cy="45" r="9.25"/></g></svg>"""
    found = read_outlines(data).outlines[0].outline
    polygon, hole = Polygon(found.outer), round_hole(np.array(found.holes[0]))
    true = affinity.rotate(
        Polygon([(20, 20), (80, 20), (80, 50), *_half_turn(50, 50, 30), (20, 50)]),
        21,
        origin=(50, 50),
    )
    true = affinity.scale(true, 1, -1, origin=(0, 0))
    assert true.difference(polygon).area < 1e-4
    assert polygon.hausdorff_distance(true) < 0.0025
    assert hole.diameter_mm == pytest.approx(18.5, abs=1e-5)


def _half_turn(x, y, radius):
    angles = np.linspace(0, math.pi, 5001)[1:-1]
    return [(x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles]
