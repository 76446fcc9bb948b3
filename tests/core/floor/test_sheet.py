"""The setter's sheet of a planned setup, and the published lifting equation."""

from __future__ import annotations

import pytest
from scipy.spatial.transform import Rotation

from tests.core.make.planned import planned
from wedgecraft.core.floor.lift import Lift, multipliers, weight_limit_kg
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.sheets import setup_sheet
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.demo.shop import op_programs

_LB, _INCH = 0.45359237, 2.54


def test_the_lifting_equation_gives_its_own_worked_example():
    """Loading punch press stock, the manual's first example (US units, from memory): 16.3 lb where
    it is lifted from, 14.5 lb where it is put; metric constants are rounded otherwise.
    """
    common = {"horizontal_cm": 23 * _INCH, "travel_cm": 49 * _INCH, "coupling": "fair"}
    origin = Lift(vertical_cm=15 * _INCH, **common)
    put = Lift(vertical_cm=64 * _INCH, **common)
    assert weight_limit_kg(origin) / _LB == pytest.approx(16.3, rel=0.06)
    assert weight_limit_kg(put) / _LB == pytest.approx(14.5, rel=0.06)
    found = multipliers(origin)
    for name, value in {"HM": 0.44, "VM": 0.89, "DM": 0.86, "AM": 1, "FM": 1, "CM": 0.95}.items():
        assert found[name] == pytest.approx(value, abs=0.015)
    # at best 23 kg; nothing beyond arm's length, over head, behind the back
    assert weight_limit_kg(Lift(25, 75, 25, 0, 0.2, "good")) == 23
    for wrong in (Lift(horizontal_cm=64), Lift(vertical_cm=176), Lift(turn_deg=136)):
        assert weight_limit_kg(wrong) == 0
    with pytest.raises(OutOfRange, match="at most"):
        weight_limit_kg(Lift(a_minute=9))


def test_a_sheet_says_where_every_part_goes_and_what_it_takes():
    document = planned("Manifold block, by the pallet")
    design = document.result.setups[0].result.designs[0]
    ops = [OpText(part=p, op=o, text=t) for p, o, _, t in op_programs(document.job.name)]
    sheet = setup_sheet(ProgramRequest(document=document, ops=ops), 1)
    stations = {s.number: s for face in sheet.faces for s in face.stations}
    assert set(stations) == {station.number for station in design.stations}
    for placed in design.stations:
        # the datum corner is where the station stands, whatever its turn; the part lies beside it
        own = stations[placed.number]
        assert own.corners_mm == [pytest.approx((placed.x_mm, placed.y_mm), abs=0.01)]
        turn = Rotation.from_euler("z", placed.turn, degrees=True)
        (x, y), *_ = design.kinds[placed.kind].drawing.part[0]
        moved = turn.apply([x, y, 0])[:2] + [placed.x_mm, placed.y_mm]
        assert own.parts[0][0][0] == pytest.approx(tuple(moved), abs=0.01)
    assert (sheet.accepted, sheet.parts_a_cycle) == (True, design.count)
    (tightened,) = sheet.tightened
    assert (tightened.ops, tightened.torque_nm) == ([10, 20], 16)
    assert tightened.key == "hexagon key 6"
    assert [tool.number for tool in sheet.tools] == [1, 2, 3, 4, 5, 6]
    assert all(tool.there and tool.length_mm for tool in sheet.tools)
    worst = max(design.stations, key=lambda s: s.tolerance_share if s.kind == 0 else 0)
    assert {m.station for m in sheet.first_article if m.op == 10} == {worst.number}
    (block,) = [item for item in sheet.heavy if "block" in item.what]
    assert (block.kg, block.by_hand) == (105, False)
    assert not sheet.remove
    # a machine whose magazine is full says what must go; without a program nothing is claimed
    bare = setup_sheet(ProgramRequest(document=document), 1)
    assert (bare.accepted, bare.seconds, bare.tools) == (None, None, [])
    # another design is another version, the same one the same
    assert bare.version == sheet.version
