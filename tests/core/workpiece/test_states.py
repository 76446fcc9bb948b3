"""The workpiece through its ops: parts worked by hand."""

from __future__ import annotations

import math

import pytest

from wedgecraft.core.plan.whole import with_results
from wedgecraft.core.records.cut import Cut, Cutter
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.recess import Bevel, Hole, Pocket
from wedgecraft.core.records.stock import Stock, StockDimension, Variation
from wedgecraft.core.records.workpiece import WorkpieceRequest
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.workpiece.report import not_as_drawn, workpiece_report
from wedgecraft.core.workpiece.states import workpiece

#: Aluminium, round figures.
_STUFF = Material(
    id="aluminium",
    name="aluminium",
    expansion_per_k=23e-6,
    kc11_mpa=700,
    mc=0.25,
    density_kg_m3=2700,
    yield_mpa=240,
    youngs_mpa=69_000,
)


def _stock(x=1.0, y=0.0, z=1.0, vary=0.0, **more) -> Stock:
    even = Variation(kind="range", value_mm=vary)
    sides = {
        axis: StockDimension(allowance_mm=allowance, variation=even)
        for axis, allowance in (("x", x), ("y", y), ("z", z))
    }
    return Stock(kind="saw-cut bar", **sides, **more)


def _part(ops, width=40.0, depth=30.0, height=20.0, stock=None, **more) -> Part:
    ring = [(0, 0), (width, 0), (width, depth), (0, depth)]
    return Part(
        name="block",
        outline=Outline(outer=ring),
        height_mm=height,
        material=_STUFF,
        stock=stock or _stock(),
        ops=ops,
        **more,
    )


def _cut(
    kind, name, diameter=10.0, depth=1.0, top=0.0, width=1.0, cutter="end mill", **more
) -> Cut:
    tool = {"flute_length_mm": 60, **more.pop("tool", {})}
    return Cut(
        name=name,
        kind=kind,
        tool=Cutter(kind=cutter, diameter_mm=diameter, teeth=2, **tool),
        axial_depth_mm=depth,
        radial_width_mm=width,
        feed_per_tooth_mm=0.05,
        spindle_rpm=6000,
        from_top_mm=top,
        **more,
    )


_FACE = _cut("face", "T1 face", 50, 1, -1, width=40, cutter="face mill")
_ROUND = _cut("contour", "T2 outside", 10, 21, 0)


def _drill(name="T3 drill", diameter=8.0, depth=24.0, at=((20, 15),), **more) -> Cut:
    return _cut("drill", name, diameter, depth, 0, cutter="drill", at=list(at), **more)


def test_a_block_faced_gone_round_drilled_and_turned_over_comes_out_as_drawn():
    """All volumes by hand: 42 x 30 x 22 blank, 40 x 30 x 20 part, one 8 mm hole through."""
    part = _part(
        [Op(number=10, cuts=[_FACE, _ROUND, _drill()]), Op(number=20, up="-Z", cuts=[_FACE])],
        recesses=[Hole(x_mm=20, y_mm=15, diameter_mm=8)],
    )
    found = workpiece(part)
    assert found.blank.volume_mm3 == pytest.approx(42 * 30 * 22)
    first, second = found.ops
    assert [item.volume_mm3 for item in first.cuts] == pytest.approx(
        [42 * 30 * 1, 2 * 1 * 30 * 21, math.pi * 16 * 21], rel=1e-3
    )
    # The drill goes on into the allowance below; its point does not come out of it.
    assert second.before.box[3:] == pytest.approx((40, 30, 21))
    assert second.cuts[0].volume_mm3 == pytest.approx(40 * 30 - math.pi * 16, rel=1e-3)
    assert found.last.volume_mm3 == pytest.approx(found.finished.volume_mm3, rel=1e-6)
    assert found.left_over == ()
    assert not workpiece_report(WorkpieceRequest(part=part)).doubts


def test_a_cut_too_deep_a_cut_that_begins_in_the_material_and_one_in_the_air_are_named():
    deep = _drill(depth=12)
    part = _part(
        [Op(number=10, cuts=[_ROUND, _FACE, _FACE, deep])],
        recesses=[Hole(x_mm=20, y_mm=15, diameter_mm=8, depth_mm=10)],
        stock=_stock(z=0.5),
    )
    found = workpiece_report(WorkpieceRequest(part=part))
    states = found.states[0].cuts
    gouge = states[3].gouges[0]
    # less the skin of chords, four thousandths all round
    assert gouge.volume_mm3 == pytest.approx(math.pi * 16 * 2, rel=1e-2)
    assert gouge.place_mm == pytest.approx((20, 15, 9), abs=3e-3)
    said = " / ".join(doubt.says for doubt in found.doubts)
    assert (
        "T2 outside begins 0.50 mm under the top of the largest blank: begin it at -0.50 mm" in said
    )
    assert "T1 face cuts air" in said
    assert "T3 drill takes 100.1 mm³ of the finished part" in said
    # Nothing cuts the underside's half millimetre.
    assert found.left_over[0].volume_mm3 == pytest.approx(0.5 * 40 * 30, rel=1e-3)
    assert found.left_over[0].from_side == "-Z"


def test_a_drills_point_under_a_flat_bottom_is_no_gouge_and_its_cone_is_left_by_none():
    flat = _part(
        [Op(number=10, cuts=[_drill(depth=10)])],
        recesses=[Hole(x_mm=20, y_mm=15, diameter_mm=8, depth_mm=10)],
        stock=_stock(0, 0, 0),
    )
    found = workpiece(flat).ops[0].cuts[0]
    cone = math.pi * 16 * 4 / math.tan(math.radians(70)) / 3
    assert found.gouges == ()
    assert found.volume_mm3 == pytest.approx(math.pi * 160 + cone, rel=1e-3)


def test_a_round_cutter_leaves_sharp_corners_and_says_the_largest_that_would_do():
    """In each corner of a pocket stays (1 - pi/4) r2 x depth; a rounded one asks for its radius."""
    pocket = _cut("pocket", "T4 pocket", 8, 5, width=4)
    for radius, cutter in ((0.0, 0.0), (3.0, 6.0)):
        part = _part(
            [Op(number=10, cuts=[pocket])],
            recesses=[Pocket(at=[(10, 8), (30, 22)], depth_mm=5, corner_radius_mm=radius)],
            stock=_stock(0, 0, 0),
        )
        left = workpiece(part).left_over
        corner = (1 - math.pi / 4) * (4**2 - radius**2) * 5
        assert [item.volume_mm3 for item in left] == pytest.approx([corner] * 4, rel=0.02)
        assert [item.corner_mm for item in left] == pytest.approx([cutter] * 4, abs=0.15)


def test_what_a_roughing_cut_leaves_a_later_one_takes():
    rough = _cut("contour", "T2 rough", 12, 20, 0, leave_mm=0.4)
    fine = _cut("contour", "T5 finish", 12, 20, 0)
    part = _part([Op(number=10, cuts=[rough, fine])], stock=_stock(2, 2, 0))
    found = workpiece(part)
    took = [item.volume_mm3 for item in found.ops[0].cuts]
    # Rounded corners of the roughing band: a square's corner less a quarter circle of its radius.
    band = 40.8 * 30.8 - 40 * 30 - (4 - math.pi) * 0.4**2
    assert took == pytest.approx([(44 * 34 - 40 * 30 - band) * 20, band * 20], rel=1e-3)
    assert found.left_over == ()


def test_sawing_frees_a_piece_and_crossing_holes_leave_a_burr_or_none():
    saw = _cut(
        "saw",
        "T8 saw",
        80,
        2,
        8,
        cutter="slitting saw",
        at=[(20, -60), (20, 90)],
        tool={"width_mm": 2, "flute_length_mm": 2},
    )
    slab = _part([Op(number=10, cuts=[saw])], height=10, stock=_stock(0, 0, 0))
    slab = slab.model_copy(update={"stock": _stock(0, 0, 5)})
    found = workpiece(slab)
    assert found.ops[0].cuts[0].loose == pytest.approx((5 * 40 * 30,))
    assert found.ops[0].after.box[2] == pytest.approx(2)
    bore = _drill("T3 bore", 10, 22)
    ream = _cut("ream", "T4 ream", 10.2, 21, width=0.1, cutter="reamer", at=[(20, 15)])
    cross = _drill("T6 cross", 5, 14, at=((20, 10),))
    side = Op(number=20, up="-Y", cuts=[cross])
    holes = [
        Hole(x_mm=20, y_mm=15, diameter_mm=10.2),
        Hole(side="-Y", x_mm=20, y_mm=10, diameter_mm=5, depth_mm=14),
    ]
    after = _part([Op(number=10, cuts=[bore, ream]), side], recesses=holes, stock=_stock(0, 0, 0))
    burr = workpiece(after).burrs
    assert [(b.first, b.second, b.cut_away_by, b.before) for b in burr] == [
        ("op 10 T3 bore", "op 20 T6 cross", None, "op 10 T4 ream")
    ]
    last = Op(number=30, cuts=[ream])
    order = _part([Op(number=10, cuts=[bore]), side, last], recesses=holes, stock=_stock(0, 0, 0))
    assert workpiece(order).burrs[0].cut_away_by == "op 30 T4 ream"


def test_blanks_vary_away_from_stops_and_floor_and_a_chamfer_is_cut_as_it_is_drawn():
    part = _part([Op(number=10)], stock=_stock(1, 0, 1, vary=0.3))
    small, large = workpiece(part, "smallest").blank, workpiece(part, "largest").blank
    assert small.box == pytest.approx((-1, 0, -1, 40.4, 29.4, 20.4))
    assert large.box == pytest.approx((-1, 0, -1, 41.6, 30.6, 21.6))
    over = workpiece(
        _part([Op(number=10, up="-Z")], stock=_stock(1, 0, 1, vary=0.3)), "largest"
    ).blank
    assert over.box == pytest.approx((-1.6, 0, -1.6, 41, 30.6, 21))
    bevel = _cut("chamfer", "T9 chamfer", 10, 1, cutter="chamfer mill", tool={"entering_deg": 45})
    part = _part([Op(number=10, cuts=[bevel])], recesses=[Bevel(width_mm=1)], stock=_stock(0, 0, 0))
    taken = workpiece(part)
    # The frustum that stays, by the prismatoid's rule.
    kept = (40 * 30 + 4 * 39 * 29 + 38 * 28) / 6
    assert taken.ops[0].cuts[0].volume_mm3 == pytest.approx(40 * 30 - kept, rel=1e-6)
    assert taken.left_over == ()
    assert taken.ops[0].cuts[0].gouges == ()


def test_seconds_below_what_the_removal_rate_allows_are_questioned():
    """40 mm wide, 1 mm deep, 0.05 x 2 x 6000 = 600 mm/min: 24,000 mm3/min."""
    fast = _FACE.model_copy(update={"seconds": 1.0})
    part = _part([Op(number=10, cuts=[fast])], stock=_stock(1, 0, 1))
    found = workpiece_report(WorkpieceRequest(part=part))
    assert found.states[0].cuts[0].least_seconds == pytest.approx(60 * 42 * 30 / 24_000, rel=1e-3)
    assert any("cannot take 1260 mm³ in 1 s" in doubt.says for doubt in found.doubts)


def test_nothing_is_called_right_that_was_not_looked_at():
    """A part without cuts, and one whose solid only another shop has."""
    bare = _part([Op(number=10)], stock=_stock(0, 0, 0))
    said = [doubt.says for doubt in workpiece_report(WorkpieceRequest(part=bare)).doubts]
    assert said == ["no op has a cut yet: nothing is checked"]
    away = {"up": (0, 0, 1), "volume_mm3": 24_000, "mesh": {"sha256": "0" * 64}}
    lost = Part.model_validate(bare.model_dump() | {"solid": away})
    said = [doubt.says for doubt in workpiece_report(WorkpieceRequest(part=lost)).doubts]
    assert "the part's solid is not at hand" in said[0]


def test_what_is_left_is_told_from_the_films_of_chords_that_hang_on_to_it():
    """A pocket beside a bore that is cut, the pocket is not: left is the pocket less the bore, from
    where it is open, though the bore's wall leaves a film all the way down.
    """
    pocket = Pocket(at=[(12, 9), (30, 21)], depth_mm=5)
    hole = Hole(x_mm=20, y_mm=15, diameter_mm=16)
    bore = _cut("drill", "T3 bore", 16, 22, 0, cutter="drill", at=[(20, 15)])
    part = _part([Op(number=10, cuts=[bore])], recesses=[pocket, hole], stock=_stock(0, 0, 0))
    found = workpiece(part).left_over
    half = math.acos(6 / 8)
    shared = math.pi * 64 - 2 * (64 * half - 6 * 8 * math.sin(half))  # bore in a strip of 12
    left = 5 * (18 * 12 - shared)
    assert sum(item.volume_mm3 for item in found) == pytest.approx(left, rel=0.01)
    for item in found:
        assert item.low_mm[2] == pytest.approx(15, abs=0.1)
        assert item.from_side == "+Z"
    bevelled = _part([Op(number=10)], recesses=[Bevel(width_mm=1)], stock=_stock(0, 0, 0))
    (edge,) = workpiece(bevelled).left_over
    assert edge.from_side == "+Z"


def test_a_burr_that_no_cut_takes_off_costs_hand_time_in_the_job():
    """Two crossing drilled holes: one burr, twenty seconds by the house rule."""
    across = _drill("T4 across", 5.0, 32.0, [(20, 10)])
    part = _part([Op(number=10, cuts=[_drill()]), Op(number=20, up="+Y", cuts=[across])])
    (burr,) = [doubt for doubt in not_as_drawn([part]) if doubt.by_hand]
    assert "taken off by hand" in burr.says
    asked = starting_request("x", 1).model_dump(mode="json")
    document = JobDocument.model_validate({**asked, "parts": [part.model_dump(mode="json")]})
    whole = with_results(document, [], [burr]).result
    (figure,) = [item for item in whole.figures if item.id == "deburring"]
    assert (figure.value, figure.unit) == (document.job.rules.burr_seconds, "s")
