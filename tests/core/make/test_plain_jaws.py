"""Steps and parallels of hard jaws, and two sizes on one pair of soft ones, by hand."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from shapely.affinity import translate
from shapely.geometry import Polygon

from tests.core.make.planned import planned
from wedgecraft.core.make.pair import pair_of
from wedgecraft.core.make.solid import bodies
from wedgecraft.core.plan.pieces import pieces_of, planned_setup
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.two_sizes import deep_into, on_one_pair, says_of_others
from wedgecraft.core.records.job import JobDocument


def _cover(**form):
    given = json.loads(planned("Staff-gauge cover").model_dump_json())
    given["result"] = None
    given["route"]["setups"][0]["form"] |= form
    return plan_route(JobDocument.model_validate(given), alternatives=False)


def test_parallels_are_as_high_as_leaves_the_part_where_it_was_planned():
    document = planned("Staff-gauge cover")
    made = pieces_of(document, 1)
    asked = planned_setup(document, 1)
    vise = document.route.setups[0].form.vise
    assert made.pieces == []
    for kind, ready in enumerate(asked.kinds):
        deep = ready.view.station.stops.height_mm
        op = asked.design.kinds[kind].op_number
        (item,) = (b for b in made.bought if b.why.startswith(f"under op {op},"))
        assert f"{vise.jaw_height_mm - deep:g} mm high" in item.says
        assert item.count == sum(s.kind == kind for s in asked.design.stations)


def test_steps_are_cut_where_the_part_stands_and_leave_the_jaws_room_to_close():
    document = _cover(jaws="stepped", ledge_mm=6, other_jaws="hard")
    asked = planned_setup(document, 1)
    (piece,) = pieces_of(document, 1).pieces
    ready = next(kind for kind in asked.kinds if kind.view.station.element.stepped)
    station, vise = ready.view.station, document.route.setups[0].form.vise
    x0, _, x1, _ = ready.sitting.between(0, station.stops.height_mm).bounds
    wide = x1 - x0
    # both blanks a step thicker than jaws; between their steps what the part leaves
    inner, outer = (sorted(np.array(body)[:, 1]) for body in piece.bodies)
    assert outer[0] - inner[-1] == pytest.approx(wide - 12)
    assert inner[-1] - inner[0] == pytest.approx(station.element.moving_mm + 6)
    assert outer[-1] - outer[0] == pytest.approx(vise.fixed_jaw_mm + 6)
    steps = [Polygon(pocket.outline[0]) for pocket in piece.pockets]
    assert [step.bounds[3] - step.bounds[1] for step in steps] == pytest.approx([6, 6])
    assert {pocket.depth_mm for pocket in piece.pockets} == {station.stops.height_mm}
    assert {p.floor_mm for p in piece.pockets} == {vise.jaw_height_mm - station.stops.height_mm}
    whole = sum(body.volume_mm3 for _, body in bodies(piece))
    assert piece.mass_kg == pytest.approx(whole * piece.material.density_kg_m3 * 1e-9)
    narrow = pieces_of(_cover(jaws="stepped", ledge_mm=wide / 2 + 1), 1)
    wrong = [doubt.says for item in narrow.pieces for doubt in item.doubts if doubt.wrong]
    assert any("meet before the jaws close" in says for says in wrong)


def test_two_sizes_go_on_one_pair_where_enough_stays_between_their_pockets():
    """The hub's jaws and themselves on the back: 60 thick or so, pockets of half a hub each."""
    document = planned("Float-arm hub")
    asked = planned_setup(document, 2)
    pair, vise = pair_of(asked.kinds[0]), document.route.setups[1].form.vise
    # half the hub's 48, less half the gap of 3.2, with its clearance
    assert deep_into(pair) == pytest.approx((22.4 + 0.025, 22.4 + 0.025), abs=0.03)
    thick = pair.fixed.bounds[2] - pair.fixed.bounds[0]
    left = thick - 2 * 22.425
    says = on_one_pair(pair, pair, vise, asked.request.rules, 30)
    assert f"{left:.0f} mm stay" in says
    assert f"{asked.request.rules.setup_minutes:g} min" in says
    # blanks so thin that less than two counterbores of M8 would stay
    fixed = pair.fixed.intersection(translate(pair.fixed, thick - 50, 0))
    thin = replace(pair, fixed=fixed.buffer(0))
    says = on_one_pair(thin, thin, vise, asked.request.rules, 30)
    assert says.startswith("Not on the back of op 30's jaws: 5.1 mm would be left")
    assert says_of_others(asked, [asked], vise) == {
        20: [on_one_pair(pair, pair, vise, asked.request.rules, 20)]
    }
    plate = planned_setup(document, 1)
    assert says_of_others(plate, [asked], vise) == {}


def test_blanks_on_carriers_want_no_screws_and_keep_their_dovetail():
    """The hub's jaws are 30 high and its pocket 8.2 deep: 21.8 are left, less the dovetail."""
    document = planned("Float-arm hub")
    given = json.loads(document.model_dump_json())

    def made(deep):
        given["route"]["setups"][1]["form"]["vise"]["carrier_deep_mm"] = deep
        (piece,) = pieces_of(JobDocument.model_validate(given), 2).pieces
        return piece

    bolted, carried, thin = made(0), made(10), made(19)
    assert any(row.sink_mm for row in bolted.holes)
    assert all(row.in_pocket for row in carried.holes)
    assert not any("Screw" in item.says or "Dowel" in item.says for item in carried.bought)
    assert all("dovetailed" in item.says for item in carried.bought)
    assert any("same carrier" in note for note in carried.notes)
    assert not [doubt for doubt in carried.doubts if doubt.wrong]
    (floor,) = (doubt for doubt in thin.doubts if doubt.wrong)
    assert floor.says.startswith("2.8 mm are left under the pocket")
