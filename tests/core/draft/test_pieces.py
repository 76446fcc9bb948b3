"""What a draft is put together from, each on bodies made by hand: cutters, levels, holes, chamfers,
lighter cuts, sizes.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from pydantic import ValidationError
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.draft.bevelled import bevels_of, chamfer
from wedgecraft.core.draft.drilled import drill, drillable, holes_seen, point_mm
from wedgecraft.core.draft.held import _lighter
from wedgecraft.core.draft.milled import Bench, Shop, _called, mill
from wedgecraft.core.draft.tools import Crib
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, Cutter, CuttingRequest
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.stock import StockSizes
from wedgecraft.core.shop.picks import named
from wedgecraft.core.workpiece.body import bevelled, cylinder, less, prism, united
from wedgecraft.core.workpiece.pose import Pose
from wedgecraft.core.workpiece.surfaces import round_holes_of

STILL = Pose(np.eye(3), np.zeros(3))
WORK = MATERIALS["aluminium-6061"]


def _mill(diameter: float, long: float, name: str = "") -> Cutter:
    return Cutter(name=name or f"mill {diameter:g}", diameter_mm=diameter, teeth=3,
                  flute_length_mm=long)  # fmt: skip


def _drill(diameter: float, long: float = 60) -> Cutter:
    return Cutter(name=f"drill {diameter:g}", kind="drill", diameter_mm=diameter, teeth=2,
                  flute_length_mm=long)  # fmt: skip


FACE = Cutter(name="face", kind="face mill", diameter_mm=63, teeth=6, entering_deg=45, helix_deg=0,
              flute_length_mm=6)  # fmt: skip
BEVEL = Cutter(name="bevel", kind="chamfer mill", diameter_mm=10, teeth=4, entering_deg=45,
               helix_deg=0, flute_length_mm=5)  # fmt: skip
CUTTERS = [
    FACE, BEVEL, _mill(20, 44), _mill(12, 26), _mill(8, 18), _mill(6, 13), _mill(6, 26, "long 6"),
    _mill(3, 7), _drill(8), _drill(10), _drill(5, 12),
]  # fmt: skip


def _bench(finished, blank, cutters=CUTTERS) -> Bench:
    machine = named("machine", "Vertical, 760 x 460 mm travel")
    return Bench(finished, blank, [], Shop(Crib(cutters), WORK, machine))


def _stepped():
    """100 x 60 x 30, its upper half only 60 wide, a pocket of 40 x 30 x 10 with corners of 4."""
    pocket = box(34, 19, 66, 41).buffer(4, quad_segs=32)
    return less(
        united([prism(box(0, 0, 100, 60), 0, 15), prism(box(20, 0, 80, 60), 15, 30)]),
        [prism(pocket, 20, 31)],
    )


def test_levels_are_milled_from_the_top_down_and_nothing_is_left_above_them():
    finished, blank = _stepped(), prism(box(-2, -2, 102, 62), -6, 31)
    bench = _bench(finished, blank)
    mill(bench, 0.0, drillable([]))
    told = [(cut.kind, round(cut.from_top_mm, 3), round(cut.depth_mm, 3)) for cut in bench.cuts]
    assert told == [
        ("face", -1.0, 0.0),
        ("pocket", 0.0, 10.0),
        ("pocket", 0.0, 10.0),
        ("clear", 0.0, 15.0),
        ("clear", 15.0, 30.0),
    ]
    left = bench.now - finished
    under = prism(box(-2, -2, 102, 62), -6, 0)
    assert left.volume_mm3 == pytest.approx(under.volume_mm3, rel=1e-4)
    assert (finished - bench.now).volume_mm3 < 1e-3  # nothing of the part is taken
    # a later op finds nothing outside, whatever chords left
    again = _bench(finished, bench.now)
    mill(again, None, drillable([]), as_it_comes=True)
    assert again.cuts == []


def test_a_pocket_is_cleared_by_the_widest_cutter_its_corners_let_in():
    bench = _bench(_stepped(), prism(box(0, 0, 100, 60), 0, 30))
    mill(bench, 0.0, drillable([]))
    wide, fine = (cut for cut in bench.cuts if cut.kind == "pocket")
    assert wide.tool.diameter_mm == 20
    assert fine.tool.diameter_mm == 8  # corners of 4 mm
    assert Polygon(fine.at).area == pytest.approx(40 * 30 - (4 - math.pi) * 16, rel=2e-3)
    sharp = less(prism(box(0, 0, 60, 60), 0, 20), [prism(box(20, 20, 40, 40), 8, 21)])
    bench = _bench(sharp, prism(box(0, 0, 60, 60), 0, 20))
    mill(bench, 0.0, drillable([]))
    # in sharp corners something stays: not the smallest of all, which is too short besides
    assert bench.cuts[-1].tool.diameter_mm == 8
    corners = (bench.now - sharp).volume_mm3
    assert corners == pytest.approx((4 - math.pi) * 16 * 12, rel=0.03)


def test_an_island_in_a_pocket_stays():
    post = prism(Point(50, 30).buffer(6), 5, 18)
    finished = united(
        [less(prism(box(0, 0, 100, 60), 0, 25), [prism(box(10, 10, 90, 50), 5, 26)]), post]
    )
    bench = _bench(finished, prism(box(0, 0, 100, 60), 0, 25))
    mill(bench, 0.0, drillable([]))
    assert (finished - bench.now).volume_mm3 < 1e-3 * post.volume_mm3
    assert bench.now.slice(10).area == pytest.approx(finished.slice(10).area, rel=0.01)
    for cut in bench.cuts:  # none begins under what stands there
        assert cut.from_top_mm <= 0 or cut.kind == "pocket"


def test_cutters_that_are_too_short_or_too_wide_are_not_taken():
    crib = Crib(CUTTERS)
    ring = box(0, 0, 50, 9.9)
    around = ring.buffer(1.0).difference(ring)
    first, last = crib.mills(ring, around, 5)
    assert first.diameter_mm == 8
    assert last.diameter_mm <= 6
    assert crib.mills(ring, around, 20)[0].name == "long 6"
    assert crib.mills(ring, around, 60) is None
    assert crib.mills(box(0, 0, 50, 2), box(0, 0, 50, 2).buffer(1), 5) is None
    assert crib.drill(10.01, 40).diameter_mm == 10
    assert crib.drill(5.0, 30) is None
    assert crib.smaller_drill(9.2, 40).diameter_mm == 8
    assert crib.face_mill(40) is FACE
    assert [crib.number(tool) for tool in (FACE, BEVEL, FACE)] == [1, 2, 1]


def test_holes_are_drilled_by_size_and_depth_and_milled_to_size_where_no_drill_is_it():
    plate = prism(box(0, 0, 80, 40), 0, 12)
    holes = [(10, 10, 8.0, -1), (30, 10, 8.0, -1), (50, 10, 8.0, 4), (20, 30, 9.0, -1),
             (70, 30, 30.0, -1)]  # fmt: skip
    made = less(plate, [cylinder((x, y, low), 20, d / 2) for x, y, d, low in holes])
    seen = holes_seen(round_holes_of(made), STILL)
    assert len(seen) == 5
    bench = _bench(made, plate)
    missing = drill(bench, seen)
    assert missing == []
    told = {(cut.kind, cut.tool.diameter_mm, len(cut.at)) for cut in bench.cuts}
    assert {("drill", 8, 2), ("drill", 8, 1)} <= told  # through, and to a depth
    through = next(cut for cut in bench.cuts if len(cut.at) == 2)
    assert through.depth_mm == pytest.approx(12 + point_mm(_drill(8)) + 0.5)
    blind = next(c for c in bench.cuts if c.kind == "drill" and c.at == [(50, 10)])
    assert blind.depth_mm == pytest.approx(8)
    assert any(cut.kind == "pocket" and "9" in cut.name for cut in bench.cuts)
    # the wide one is milled
    mill(bench, 0.0, drillable(seen))
    assert (bench.now - made).volume_mm3 < 40  # chords
    # without a drill or a mill it is said
    assert len(drill(_bench(made, plate, [FACE]), seen)) == 4


def test_edges_and_rims_that_lean_by_45_degrees_are_chamfered_as_deep_as_they_go():
    cone = bevelled(Polygon(Point(20, 15).buffer(4, quad_segs=32).exterior), 8, 10, 2.0)
    body = less(
        united([prism(box(0, 0, 40, 30), 0, 9), bevelled(box(0, 0, 40, 30), 9, 10, -1.0)]),
        [cylinder((20, 15, -1), 12, 4), cone],
    )
    found = {(round(bevel.wide_mm, 2), len(bevel.at)) for bevel in bevels_of(body)}
    assert found == {(1.0, 0), (2.0, 1)}
    blank = less(prism(box(0, 0, 40, 30), 0, 10), [cylinder((20, 15, -1), 12, 4)])
    bench = _bench(body, blank)
    chamfer(bench)
    assert [(cut.kind, round(cut.axial_depth_mm, 2)) for cut in bench.cuts] == [
        ("chamfer", 1.0),
        ("chamfer", 2.0),
    ]
    skin = 0.01 * body.surface_mm2
    assert (bench.now - body).volume_mm3 < skin
    assert (body - bench.now).volume_mm3 < skin
    # edges of another angle are none: no chamfer mill makes them
    steep = united([prism(box(0, 0, 40, 30), 0, 8), bevelled(box(0, 0, 40, 30), 8, 10, -1.0)])
    assert list(bevels_of(steep)) == []
    assert list(bevels_of(prism(box(0, 0, 40, 30), 0, 10))) == []


@pytest.mark.parametrize("kind", ["clear", "face", "drill"])
def test_a_lighter_cut_puts_less_on_the_part_and_takes_as_much(kind):
    tool = {"clear": _mill(20, 44), "face": FACE, "drill": _drill(10)}[kind]
    cut = Cut(
        kind=kind,
        tool=tool,
        axial_depth_mm=20 if kind == "drill" else 4,
        radial_width_mm=0 if kind == "drill" else 0.4 * tool.diameter_mm,
        feed_per_tooth_mm=0.1,
        spindle_rpm=2000,
        passes=1 if kind == "drill" else 2,
    )
    lighter = _lighter(cut, 0.7)

    def force(of: Cut) -> float:
        load = cutting_load(CuttingRequest(material=WORK, cut=of))
        return max(load.in_plane_peak_n, load.push_peak_n)

    assert force(lighter) < 0.9 * force(cut)
    assert lighter.passes * lighter.axial_depth_mm == pytest.approx(cut.passes * cut.axial_depth_mm)
    assert _lighter(cut, 1.0) == cut


def test_a_cutter_is_asked_of_the_shop_before_a_top_is_faced():
    bench = _bench(prism(box(0, 0, 10, 10), 0, 10), prism(box(0, 0, 10, 10), 0, 12), [_drill(8)])
    with pytest.raises(OutOfRange, match="a face mill or end mills"):
        mill(bench, None, drillable([]))


def test_sizes_of_stock_are_lengths_in_their_own_unit():
    inch = StockSizes(name="ours", form="plate", sizes=["1/2 in", "1 1/4 in"])
    assert inch.inch
    assert inch.by_mm == {12.7: "1/2 in", 31.75: "1 1/4 in"}
    assert not StockSizes(name="ours", sizes=["12", "16 mm"]).inch
    for wrong in (["thick"], ["0 mm"], []):
        with pytest.raises(ValidationError):
            StockSizes(name="ours", sizes=wrong)


def test_a_slot_is_long_and_a_groove_goes_round_something():
    turned = Polygon([(0, 0), (30, 30), (27, 33), (-3, 3)])
    ring = Point(0, 0).buffer(20).difference(Point(0, 0).buffer(15))
    assert [_called(area) for area in (box(0, 0, 30, 8), turned, ring, box(0, 0, 30, 20))] == [
        "slot",
        "slot",
        "groove",
        "pocket",
    ]
