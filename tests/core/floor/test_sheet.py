"""The setter's sheet of a planned setup, and the published lifting equation."""

from __future__ import annotations

import pytest
from scipy.spatial.transform import Rotation

from tests.core.make.planned import planned
from wedgecraft.core.floor.lift import Lift, multipliers, weight_limit_kg
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.sheets import setup_sheet
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.demo.tooling import op_programs

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
    ops = [OpText(part=p, op=o, text=t) for p, o, _, t in op_programs(document)]
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
    # a limit that does not hold is on the sheet
    assert sheet.exceeded == []
    first = document.result.setups[0]
    (line, *rest) = design.limits
    spoilt = design.model_copy(
        update={"limits": [line.model_copy(update={"state": "over"}), *rest]}
    )
    answer = first.result.model_copy(update={"designs": [spoilt]})
    setups = [first.model_copy(update={"result": answer}), *document.result.setups[1:]]
    result = document.result.model_copy(update={"setups": setups})
    over = document.model_copy(update={"result": result})
    assert setup_sheet(ProgramRequest(document=over), 1).exceeded == [line.label]
    # another design is another version, the same one the same
    assert bare.version == sheet.version


def test_a_full_magazine_names_what_goes_out_and_what_must_come_in():
    """Six places, four of them with tools of another job: as many go as are missing."""
    document = planned("Manifold block, by the pallet")
    ops = [OpText(part=p, op=o, text=t) for p, o, _, t in op_programs(document)]
    first, *others = document.route.setups
    table = first.machine.tools
    strange = [
        tool.model_copy(update={"number": 20 + k, "cutter": tool.cutter.model_copy(
            update={"name": f"Other {k}", "diameter_mm": 33.0 + k})})
        for k, tool in enumerate(table[:4])
    ]  # fmt: skip
    machine = first.machine.model_copy(update={"tools": [*table[:2], *strange], "magazine": 7})
    route = document.route.model_copy(
        update={"setups": [first.model_copy(update={"machine": machine}), *others]}
    )
    known = document.model_copy(update={"route": route})
    sheet = setup_sheet(ProgramRequest(document=known, ops=ops), 1)
    assert [tool.number for tool in sheet.tools if not tool.there] == [3, 4, 5, 6]
    # ten in all and seven places: three go, and none that the program calls
    assert sheet.remove == ["T20 Other 0", "T21 Other 1", "T22 Other 2"]
    assert sheet.accepted is False
    # what nobody has said is not made up: no holder, no length, but the cutter its cut names
    drill = next(tool for tool in sheet.tools if tool.number == 5)
    assert (drill.holder, drill.length_mm) == ("", None)
    assert drill.cutter.startswith("Drill 5")


def test_vises_are_tightened_by_their_handle_and_no_plate_is_lifted():
    document = planned("Vane yoke")
    sheet = setup_sheet(ProgramRequest(document=document), 2)
    (tightened,) = sheet.tightened
    assert (tightened.what, tightened.key) == ("vise jaws", "handle")
    assert [item.what for item in sheet.heavy] == ["a part"]
    assert sheet.heavy[0].by_hand
    plate = setup_sheet(ProgramRequest(document=document), 1)
    bare, loaded = (item.kg for item in plate.heavy if "plate" in item.what)
    stations = len(plate.faces[0].stations)
    volume = 400 * 350 * 25 * 1e-9
    assert bare == pytest.approx(volume * 2700, rel=0.05)  # of aluminium
    assert loaded > bare + stations * 0.05
