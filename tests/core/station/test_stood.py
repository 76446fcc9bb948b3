"""Stations hold the workpiece as the ops before left it: parts worked by hand."""

from __future__ import annotations

import math

import pytest

from tests.core.workpiece.test_states import _cut, _drill, _part, _stock
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.verdict import Holding
from wedgecraft.core.locate.faces import datum_face
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.recess import Pocket
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import OpView, views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts, touched_by_stop
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.patch import EVERYWHERE
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.made import touched_op

#: Gone round to half its height; the rest is left raw.
_UPPER = _cut("contour", "T2 outside", 10, 11, -1)
_LOWER = _cut("contour", "T2 rest", 10, 11, 0)
_TOP = _cut("face", "T1 face", 50, 1, -1, width=40, cutter="face mill")


def _view(part, op=0, stop=8.0, toe=5.0, **station) -> OpView:
    given = starting_request("x", 10).model_dump(mode="json")
    given["parts"] = [part.model_dump(mode="json")]
    given["planned"] = {"part": 0, "op": op}
    given["station"]["stops"] |= {"height_mm": stop}
    given["station"]["clamp"] |= {"height_mm": stop, "toe_height_mm": toe}
    given["station"] |= station
    return views_of(PlanRequest.model_validate(given))[0]


def _two_halves():
    ops = [Op(number=10, cuts=[_TOP, _UPPER]), Op(number=20, up="-Z", cuts=[_TOP, _LOWER])]
    return _part(ops, stock=_stock(1, 2, 1, vary=0.1))


def test_the_blank_stands_at_the_corner_and_the_part_as_far_inside_as_it_has_allowance():
    """40 x 30 x 20 in a blank 1, 2 and 1 mm larger all round, that may be 0.2 mm more."""
    sitting = stood(_view(_two_halves()))
    assert sitting.outline.bounds == pytest.approx((0, 0, 42.2, 34.2))
    assert sitting.place(0, 0, 0) == pytest.approx((1, 2, 1))
    assert (sitting.height_mm, sitting.top_mm) == pytest.approx((22.2, 21))
    assert sitting.lowest(_UPPER) == pytest.approx(11)
    assert [(band.low_mm, band.high_mm) for band in sitting.bands] == [(0, 22.2)]
    # Over and over: on what op 10 cut, which is the part's own side; the raw rest overhangs.
    over = stood(_view(_two_halves(), op=1))
    assert over.place(40, 0, 20) == pytest.approx((0, 0, 0))
    assert [band.area.bounds for band in over.bands] == [
        pytest.approx((0, 0, 40, 30)),
        pytest.approx((-1.2, -2, 41, 32.2)),
    ]


def test_faces_are_raw_or_cut_as_the_cuts_have_it_where_they_are_touched():
    part = _two_halves()
    first, second = stood(_view(part)), stood(_view(part, op=1))
    high = stood(_view(part, op=1, stop=14, toe=12))
    assert datum_face(first, "-X", 0, 8).why == "face -X is raw, and gone after op 10"
    assert datum_face(second, "-X", 0, 8).why == "face +X, cut in op 10"
    assert datum_face(second, "-Z", -1, 1).cut_in == 10
    # Stops that reach above the step touch the raw rest, which stands out farther.
    assert high.place(40, 0, 20) == pytest.approx((1.2, 2, 0))
    assert touched_by_stop(high, "left", EVERYWHERE, 14).heights == pytest.approx(
        (10, 14), abs=0.02
    )
    assert touched_op(high, "-X", 10.5, 14) is None


def test_what_a_roughing_cut_left_is_a_cut_face_though_it_is_not_down_to_size():
    rough = _UPPER.model_copy(update={"leave_mm": 0.4})
    ops = [Op(number=10, cuts=[_TOP, rough]), Op(number=20, up="-Z", cuts=[_TOP, _LOWER])]
    over = stood(_view(_part(ops, stock=_stock(1, 2, 1)), op=1))
    assert over.place(40, 0, 20) == pytest.approx((0.4, 0.4, 0))
    assert datum_face(over, "-X", 0, 8).why == "face +X, cut in op 10"


def _bush(op_up="+Z"):
    """A flange 40 x 30 x 6 under a body 24 x 30 x 20, a step on either side."""
    steps = [
        Pocket(at=[(-1, -1), (8, 31)], depth_mm=14),
        Pocket(at=[(32, -1), (41, 31)], depth_mm=14),
    ]
    return _part([Op(number=10, up=op_up, cuts=[_drill()])], recesses=steps, stock=_stock(0, 0, 0))


def test_a_flange_is_touched_by_stops_and_a_clamp_above_it_stands_in_the_part(as_drawn):
    low = build_station(stood(_view(_bush(), stop=5, toe=3)), _view(_bush(), stop=5, toe=3).station)
    assert [press.x for press in low.members[0].presses] == [40]
    with pytest.raises(OutOfRange) as refused:
        build_station(stood(_view(_bush(), toe=8)), _view(_bush(), toe=8).station)
    assert refused.value.field == "station.clamp.toe_height_mm"
    assert "8.00 mm into the clamp" in refused.value.allowed
    # Flange up, the stops touch the body and the flange overhangs them.
    over = _view(_bush("-Z"), stop=10, toe=7)
    sitting = stood(over)
    assert sitting.outline.bounds[0] == pytest.approx(-8)
    assert build_station(sitting, over.station).members[0].presses[0].x == pytest.approx(24)


def test_what_a_cut_of_the_op_takes_away_is_no_place_for_a_toe():
    """A slot into the side where the toe presses, low enough that its cutter clears the clamp."""
    slot = _cut("slot", "T4 slot", 12, 17, at=[(30, 15), (55, 15)])
    part = _part([Op(number=10, cuts=[slot])], stock=_stock(0, 0, 0))
    view = _view(part, stop=0.9, toe=0.6)
    build_station(stood(view), view.station)
    deep = _part([Op(number=10, cuts=[slot.model_copy(update={"axial_depth_mm": 19.8})])])
    view = _view(deep, stop=0.9, toe=0.6)
    with pytest.raises(OutOfRange, match=r"takes away what the clamp touches|comes down to"):
        build_station(stood(view), view.station)


def test_a_part_is_held_also_when_its_cuts_are_done_and_stands_on_what_is_left():
    """A pocket right through leaves a frame to stand on: less area, the same corners."""
    through = _cut("pocket", "T5 pocket", 10, 20, width=5, at=[(8, 8), (32, 22)])
    part = _part([Op(number=10, cuts=[through])], stock=_stock(0, 0, 0))
    view = _view(part)
    sitting = stood(view)
    station = build_station(sitting, view.station)
    assert sitting.comes_out_different
    before, after = (
        [
            c
            for c in station_contacts(station, sitting, view.station, 1000, done=done)
            if c.name.startswith("plate")
        ]
        for done in (False, True)
    )
    assert sum(c.area_mm2 for c in before) == pytest.approx(40.0 * 30)
    corners = (4 - math.pi) * 5**2
    assert sum(c.area_mm2 for c in after) == pytest.approx(40 * 30 - 24 * 14 + corners, abs=40)
    holding = Holding(view, station, sitting, cut_loads(view, sitting))
    done = [item for item in holding.parts().values() if item.done]
    assert done
    assert sum(done[0].weight_n) == pytest.approx(
        -sitting.after.volume_mm3 * part.material.density_kg_m3 * 1e-9 * 9.80665
    )
