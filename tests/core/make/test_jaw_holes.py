"""Holes across soft jaws: where they are, what they want, and when there is no room for them."""

from __future__ import annotations

import pytest
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.make.jaw_holes import dowels, screws
from wedgecraft.core.make.pair import Pair, Turned
from wedgecraft.core.make.pocket import Cutting, Layer, gripping
from wedgecraft.core.records.vise import Vise


def _vise(**changes: object) -> Vise:
    given = {"name": "vise", "jaw_width_mm": 120, "jaw_height_mm": 40, "opening_mm": 150,
             "rated_force_n": 20_000, "rated_torque_nm": 80, "jaw_screw": "M10",
             "jaw_screws_apart_mm": 70, "jaw_screws_up_mm": 14}  # fmt: skip
    return Vise.model_validate(given | changes)


def _pair(depth: float, pocket: Polygon, gap: float = 3.2) -> Pair:
    """Jaws 40 mm thick on either side of a gap amid X0, 120 mm wide, with one pocket."""
    area = MultiPolygon([pocket])
    cut = Cutting(10.0, area, (), MultiPolygon())
    return Pair(
        fixed=box(-40 - gap / 2, -60, -gap / 2, 60),
        moving=box(gap / 2, -60, 40 + gap / 2, 60),
        under_mm=0.0,
        depth_mm=depth,
        clearance_mm=0.025,
        split_mm=0.0,
        gap_mm=gap,
        layers=(Layer(0.0, depth, area),),
        cuttings=(cut,),
        grips=gripping(area, 0.0, gap),
    )


def test_screws_go_where_the_vise_has_its_threads_and_the_shortest_that_holds_is_picked():
    pair = _pair(5.0, box(-20, -15, 20, 15))
    found = screws(pair, Turned(pair), _vise(), 40.0)
    assert not found.doubts
    fixed, moving = found.rows
    for row, side in ((fixed, "front"), (moving, "back")):
        assert row.side == side
        assert [(p.x_mm, p.y_mm) for p in row.places] == [(25, 14), (95, 14)]
        # 40 mm of jaw behind the gap, two diameters of it left under the head
        assert (row.begins_mm, row.sink_depth_mm) == pytest.approx((43.2, 20))
        assert (row.diameter_mm, row.sink_mm) == (11, 18)
    # 20 mm under the head and one diameter in the vise's steel: 30 mm
    assert [item.says for item in found.bought] == ["Screw ISO 4762 M10 x 30"] * 2


def test_a_counterbore_that_comes_too_near_to_the_pocket_says_by_how_much():
    """Its top is 14 + 9 = 23 mm up; a pocket 18 mm deep of 40 has its floor at 22."""
    wide = box(-20, -50, 20, 50)
    pair = _pair(18.0, wide)
    found = screws(pair, Turned(pair), _vise(), 40.0)
    assert [doubt.says for doubt in found.doubts] == [
        "-1.0 mm between their counterbore and the pocket; at least 2 mm"
    ] * 2
    assert all(doubt.wrong for doubt in found.doubts)
    assert "3.0 mm less deep" in found.doubts[0].remedy
    # as offered, it is enough
    offered = _pair(15.0, wide)
    assert not screws(offered, Turned(offered), _vise(), 40.0).doubts
    # beside a narrow pocket they never meet it, however deep
    narrow = _pair(30.0, box(-20, -10, 20, 10))
    assert not screws(narrow, Turned(narrow), _vise(), 40.0).doubts


@pytest.mark.parametrize(
    ("changes", "where", "least"),
    [
        ({"jaw_screws_up_mm": 10}, "the jaw's foot", 1.0),  # 18 mm wide: 9 mm round its middle
        ({"jaw_screws_up_mm": 30}, "the jaw's top", 1.0),
        ({"jaw_screws_apart_mm": 110}, "the jaw's end", -4.0),
        ({"jaw_screws_apart_mm": 0}, "one another", -18.0),
    ],
)
def test_counterbores_that_break_out_of_the_jaw_are_wrong(changes, where, least):
    pair = _pair(1.0, box(-20, -5, 20, 5))
    found = screws(pair, Turned(pair), _vise(**changes), 40.0)
    said = [doubt.says for doubt in found.doubts if where in doubt.says]
    assert len(said) == 2
    assert all(text.startswith(f"{least:.1f} mm") for text in said)
    assert all(doubt.wrong for doubt in found.doubts)


def test_a_vise_whose_threads_nobody_has_stated_is_amber_and_named():
    pair = _pair(5.0, box(-20, -15, 20, 15))
    (doubt,) = screws(pair, Turned(pair), _vise(jaw_screw=""), 40.0).doubts
    assert not doubt.wrong
    assert "“vise”" in doubt.remedy


def test_dowels_align_both_jaws_and_neither_bottoms_nor_meets_a_screw():
    pair = _pair(5.0, box(-20, -15, 20, 15))
    found = dowels(pair, Turned(pair), _vise(), 40.0)
    fixed, moving = found.rows
    assert (fixed.fit, moving.fit) == ("H7", "F7")
    # ISO 286: 6 H7 is 0 to +12, 6 F7 is +10 to +22 micrometres
    assert (fixed.low_mm, fixed.high_mm) == pytest.approx((0.0, 0.012))
    assert (moving.low_mm, moving.high_mm) == pytest.approx((0.010, 0.022))
    (pin,) = found.bought
    long = float(pin.says.rsplit(" ", 1)[1])
    # pressed in two diameters, it slides two more, with the gap between, and a millimetre spare
    assert fixed.depth_mm == 12
    assert long >= 12 + 3.2 + 12
    assert moving.depth_mm >= long - 12 + 1 - 3.2
    for place in fixed.places:
        for screw_x in (25, 95):
            apart = ((place.x_mm - screw_x) ** 2 + (place.y_mm - 14) ** 2) ** 0.5
            assert apart >= 9 + 3 + 2 - 1e-9
    assert [p.x_mm for p in fixed.places] == [p.x_mm for p in moving.places] == [10, 110]


def test_no_room_for_dowels_is_said_with_what_else_aligns():
    pair = _pair(36.0, box(-20, -59, 20, 59))
    found = dowels(pair, Turned(pair), _vise(), 40.0)
    assert not found.rows
    (doubt,) = found.doubts
    assert not doubt.wrong
    assert "side stop" in doubt.remedy
