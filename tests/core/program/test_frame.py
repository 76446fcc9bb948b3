"""Zeros, order and frame of planned setups, tried on the stand-in; mistakes put in are found."""

from __future__ import annotations

import itertools
import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.make.planned import planned
from wedgecraft.core.cutting.shape import point_mm
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.program.control import run
from wedgecraft.core.program.frame import frame
from wedgecraft.core.program.ops import read_op
from wedgecraft.core.program.order import (
    changes_by_station,
    fewest_changes,
    least_travel,
    travel_mm,
)
from wedgecraft.core.program.poses import face_pose, lifted_mm, machine_pose, middle_of, part_pose
from wedgecraft.core.program.state import Setting
from wedgecraft.core.program.trial import setting_of, tried
from wedgecraft.core.program.words import ProgramRefused
from wedgecraft.core.program.zeros import as_g10, zero_table

DEMO = Path(__file__).parents[3] / "wedgecraft/demo/programs"
FIRST = """%
O10 (FIRST OP, ONE PART)
G21 G90 G17 G54
T1 M6
S3000 M3
G0 X-20 Y10
G43 H1 Z30 M8
Z2
G1 Z-1 F300
X60 F600
G0 Z30
M9
T3 M6
G0 X10 Y10 S1200 M3
G43 H3 Z30 M8
G99 G81 X10 Y10 Z-8 R2 F150
X30
G91 Y12
G90 G80
G0 Z30
G91 G28 Z0
M30
%
"""
SECOND = """O20
G54 G20 G90
T3 M6
S1000 M3
G0 X1. Y.5
G43 H3 Z1.2
M98 P21
M5
T1 M6
G0 X0 Y0 S2000 M3
G43 H1 Z1.
G1 Z-.05 F10.
G2 X0 Y0 I.4 J0
G0 Z1.
G53 Z0
M30
O21
G1 Z-.2 F5.
G0 Z1.2
M99
"""


@pytest.fixture(scope="module")
def block():
    """A tombstone of two ops."""
    return planned_setup(planned("Manifold block, by the pallet"), 1)


@pytest.fixture(scope="module")
def plate():
    return planned_setup(planned("Vane yoke"), 1)


def _with(asked, **rules):
    machine = asked.request.machine.model_copy(update=rules)
    return asked.__class__(
        asked.number,
        asked.request.model_copy(update={"machine": machine}),
        asked.design,
        asked.kinds,
        asked.copies,
    )


def _strategy(asked, strategy):
    design = asked.design.model_copy(update={"datum": strategy})
    return asked.__class__(asked.number, asked.request, design, asked.kinds, asked.copies)


def _every_way(orders):
    """How few changes do, by looking at all there are, one change after another."""
    orders = [[tool for tool, _ in itertools.groupby(order)] for order in orders]
    now, changes = {(0,) * len(orders)}, 0
    done = tuple(map(len, orders))
    while done not in now:
        changes += 1
        now = {
            tuple(p + (p < len(o) and o[p] == tool) for p, o in zip(at, orders, strict=True))
            for at in now
            for tool in {o[p] for p, o in zip(at, orders, strict=True) if p < len(o)}
        }
    return changes


@settings(max_examples=150, deadline=None)
@given(st.lists(st.lists(st.integers(1, 6), min_size=1, max_size=9), min_size=1, max_size=4))
def test_fewest_tool_changes_is_what_brute_force_finds(orders):
    found = fewest_changes(tuple(map(tuple, orders)))
    for order in orders:
        at = 0
        for tool in found:
            while at < len(order) and order[at] == tool:
                at += 1
        assert at == len(order)  # every op gets its tools in its own order
    assert len(found) == _every_way(orders)
    assert changes_by_station(orders, [0]) == len([k for k, _ in itertools.groupby(orders[0])])


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 7))
def test_the_way_round_few_places_is_the_shortest_of_all(seed, count):
    places = np.random.default_rng(seed).uniform(0, 400, (count, 2))
    start = places.mean(axis=0)
    for begin in (None, start):
        found = least_travel(places, begin)
        assert sorted(found) == list(range(count))
        every = (travel_mm(places, order, begin) for order in itertools.permutations(range(count)))
        assert travel_mm(places, found, begin) == pytest.approx(min(every))


def test_many_places_are_visited_no_longer_than_row_by_row():
    grid = np.array([(x * 50.0, y * 70.0) for y in range(6) for x in range(8)])
    found = least_travel(grid)
    assert sorted(found) == list(range(48))
    assert travel_mm(grid, found) <= 47 * 50 + 5 * 20 + 1e-6


def test_a_parts_zero_is_the_product_of_rotations_of_a_general_library(block):
    """Of every part on every face, at its own index and at another: scipy's rotations and plain
    sums of how far things are apart.
    """
    request, machine = block.request, block.request.machine
    table = zero_table(block)
    middle = np.array(middle_of(machine)[0])
    plate, out = request.plate, request.block.across_mm / 2 + request.plate.thickness_mm
    assert len({part.face for part in table.parts}) == request.block.faces > 1
    for part in table.parts:
        placed = block.design.stations[part.station - 1]
        top = block.kinds[part.kind].sitting.top_mm
        local = np.array([placed.x_mm - plate.width_mm / 2, placed.y_mm, out + top])
        assert part.at_mm == pytest.approx(middle + local, abs=1e-5)
        angle = 360 * part.face / request.block.faces
        for index in (angle, 17.0):
            member = block.design.kinds[placed.kind].drawing.places[part.member]
            pose = (
                machine_pose(request, index)
                @ face_pose(request, part.face, lifted_mm(block))
                @ part_pose(placed, member, top)
            )
            turn = Rotation.from_euler("y", index - angle, degrees=True)
            assert pose[:3, 3] == pytest.approx(middle + turn.apply(local), abs=1e-5)
            spin = turn * Rotation.from_euler("z", placed.turn, degrees=True)
            assert pose[:3, :3] == pytest.approx(spin.as_matrix(), abs=1e-9)


def test_names_skip_what_is_taken_and_strategies_fall_back_to_what_there_is(block, plate):
    few = _with(block, offsets_taken=["G55", "G56"])
    table = zero_table(_strategy(few, "one per face"))
    assert [zero.name for zero in table.zeros][:2] == ["G54", "G57"]
    assert table.notes == ["G55 and G56 are taken: after G54 comes G57"]
    assert [zero.number for zero in table.zeros] == list(range(1, len(table.zeros) + 1))
    each = zero_table(_strategy(plate, "one per station"))
    if len(plate.design.stations) > 6:
        assert each.strategy != "one per station"
        assert "are free" in each.doubts[0]
    nowhere = _with(plate, middle_x_mm=None, middle_y_mm=None, middle_z_mm=None)
    assert any("nobody has said" in doubt for doubt in zero_table(nowhere).doubts)
    said = _with(plate, middle_x_mm=-380.0, middle_y_mm=-230.5, middle_z_mm=-610.25)
    assert not [doubt for doubt in zero_table(said).doubts if "nobody" in doubt]
    # the block for a control writes the same numbers
    table = zero_table(said)
    wrote = run("\n".join([*as_g10(table), "M30"]), Setting({})).zeros
    for zero in table.zeros:
        assert wrote[zero.name] == pytest.approx(zero.at_mm, abs=5e-4)
    with pytest.raises(OutOfRange, match="at least one"):
        zero_table(_with(plate, offsets_taken=plate.request.machine.work_offsets))


def _ops(asked):
    return {k: read_op((FIRST, SECOND)[k % 2]) for k in range(len(asked.design.kinds))}


@pytest.mark.parametrize("strategy", ["one for all", "one per face", "one per station"])
@pytest.mark.parametrize("order", ["by tool", "by station"])
def test_a_setups_program_cuts_every_part_once_and_is_left_as_it_should_be(
    block, plate, strategy, order
):
    for asked in (_strategy(block, strategy), _strategy(plate, strategy)):
        names = [f"G54.1 P{k}" for k in range(1, 100)]
        wide = _with(
            asked, work_offsets=[*asked.request.machine.work_offsets, *names], travel_z_mm=2000
        )
        table, ops = zero_table(wide), _ops(wide)
        program = frame(wide, table, ops, order)
        found = tried(wide, table, ops, program.text)
        # the made-up ops cut where nothing of these parts is: what they hit, test_meets looks at
        bad = [i for i in found.findings if i.stands is False and "hit" not in i.check]
        assert bad == [], bad
        assert found.tool_changes == program.tool_changes == len(program.tools)
        checks = {item.check: item for item in found.findings}
        assert checks["every part gets every tool of its op once"].stands
        assert checks["same motions however the control was left"].stands
        # what a restart line says is what stands there
        lines = program.text.splitlines()
        for restart in program.restarts:
            at = next(k for k, line in enumerate(lines) if line.startswith(f"N{restart.line} "))
            assert f"(T{restart.tool} PART {restart.part} " in lines[at - 1]
    assert program.tool_changes_other >= 1


def test_by_tool_changes_as_seldom_as_can_be_and_says_what_the_other_order_takes(block):
    """Two ops, T1 T3 and T3 T1: three changes do for all, and by station there are many."""
    table, ops = zero_table(block), _ops(block)
    program = frame(block, table, ops, "by tool")
    assert program.tools in ([1, 3, 1], [3, 1, 3])
    assert program.tool_changes_other > len(table.parts) / 2
    assert program.index_moves <= 3 * (block.request.block.faces - 1) + 1
    fewer = frame(block, table, ops, "by tool", only=[1, 2, 5])
    assert fewer.parts == [1, 2, 5]
    cut = {int(n) for n in re.findall(r"PART (\d+)", fewer.text)}
    assert cut == {1, 2, 5}
    with pytest.raises(OutOfRange, match="a program for"):
        frame(block, table, {0: ops[0]})
    long = read_op("T1 M6\nS1 M3 F9\n" + "G1 X1\nG1 X0\n" * 5_000)
    with pytest.raises(OutOfRange, match="for the whole setup"):
        frame(block, table, dict.fromkeys(ops, long))


@pytest.mark.parametrize(
    ("old", "new", "check", "says"),
    [
        (r"( PART 3 [^\n]*\nN\d+ )G5\d", r"\1G59", "every part", "no part has"),
        (r"( PART 3 [^\n]*\n.*\nN\d+ G52 X-?)", r"\g<1>1", "every part", "no part has"),
        (r"( PART 4 [^\n]*\n)(?:N.*\n)+", r"\1", "every part", "never gets"),
        (r"\nN\d+ M5\n", "\n", "spindle", "spindle on"),
        (r"\nN\d+ M9\n", "\n", "spindle", "coolant on"),
        (r"\nN\d+ G53 G0 Z0\nN(\d+) G49\n", "\n", "spindle", "below home"),
        (r"G90 B90\.", "G90 B0.", "every part", "second time"),
        (r"G43 H1 ", "G43 H9 ", "spindle", "H9 has no length"),
        (r"G43 H1 ", "G43 H3 ", "every part", "no part has"),
        (r"N\d+ G0 G17 G21 G40[^\n]*\n", "", "same motions", "depends on"),
        (r"\nN\d+ M30", "", "ends", "M30"),
        (r"G52 X0 Y0 Z0(?=\nN\d+ M30)", "G52 X1 Y0 Z0", "ends", "G52"),
        (r"G20 G90", "G21 G90", "every part", "no part has"),
        (r"X30\n", "X30.2\n", "every part", "path"),
        (r"S1200 M3", "S99999 M3", "travels", "turns a minute"),
    ],
)
def test_a_mistake_of_each_kind_is_found(block, old, new, check, says):
    roomy = _with(block, travel_z_mm=2000)
    table, ops = zero_table(roomy), _ops(roomy)
    text = frame(roomy, table, ops).text
    wrong, count = re.subn(old, new, text, count=1)
    assert count == 1
    found = [item for item in tried(roomy, table, ops, wrong).findings if item.stands is False]
    assert any(check in item.check and says in item.says for item in found), found


def test_the_demos_own_programs_go_all_the_way_and_cut_what_the_plan_cuts(block):
    """Every tool of an op's cuts, where that op drills: nothing of what was looked at is wrong."""
    ops = {k: read_op((DEMO / f"manifold-op{n}.nc").read_text()) for k, n in enumerate((10, 20))}
    table = zero_table(block)
    program = frame(block, table, ops)
    found = tried(block, table, ops, program.text)
    assert [item for item in found.findings if item.stands is False] == []
    assert (program.tools, program.tool_changes) == ([1, 2, 3, 4, 5, 6], 6)
    assert program.tool_changes_other == sum(6 if part.kind == 0 else 4 for part in table.parts)
    for k, ready in enumerate(block.kinds):
        for piece in ops[k].pieces:
            cut = next(c for c in ready.sitting.cuts if c.name.startswith(f"T{piece.tool} "))
            if cut.of.hole:
                there = {(round(m.end[0], 3), round(m.end[1], 3)) for m in piece.cutting}
                assert there == {(round(x, 3), round(y, 3)) for x, y in cut.at}
            lowest = min(move.end[2] for move in piece.cutting)
            # where it comes out below, a drill's point goes farther
            assert -cut.depth_mm - point_mm(cut.tool) - 0.1 <= lowest <= -cut.depth_mm + 1e-9
            assert cut.of.through or lowest == pytest.approx(-cut.depth_mm)
            fastest = max(move.feed for move in piece.cutting)
            per_turn = cut.feed_per_tooth_mm * cut.tool.teeth or 1.0
            assert fastest == pytest.approx(per_turn * cut.spindle_rpm)


def test_parts_whose_op_has_no_program_to_compare_with_are_not_said_to_be_cut_right(block):
    table, ops = zero_table(block), _ops(block)
    text = frame(block, table, ops).text
    checks = {item.check: item for item in tried(block, table, {}, text).findings}
    assert checks["every part gets every tool of its op once"].stands is None
    first = sum(part.kind == 0 for part in table.parts)
    only = tried(block, table, {0: ops[0]}, text).findings
    # what cuts the others' parts is nobody's then: said, not passed over
    assert [item for item in only if item.stands is False]
    cut = frame(block, table, ops, only=[p.number for p in table.parts if p.kind == 0]).text
    checks = {item.check: item for item in tried(block, table, {0: ops[0]}, cut).findings}
    found = checks["every part gets every tool of its op once"]
    assert found.stands is None
    assert found.says.startswith(f"{first} of {len(table.parts)} parts;")


def test_an_ops_program_is_taken_apart_by_what_a_control_makes_of_it():
    first, second = read_op(FIRST), read_op(SECOND)
    assert (first.tools, second.tools) == ((1, 3), (3, 1))
    drilled = [move.end for move in first.pieces[1].cutting]
    assert drilled == [(10, 10, -8), (30, 10, -8), (30, 22, -8)]
    # a subprogram is written out, inches stay inches, nothing of the frame is left
    assert not any(line.startswith(("P", "L", "K")) for line in second.pieces[0].lines)
    assert second.pieces[0].lines[-2:] == ("G1 Z-.2 F5.", "G0 Z1.2")
    assert second.pieces[1].start.inch
    assert second.pieces[1].cutting[-1].arc.sweep == pytest.approx(-2 * np.pi)
    text = "\n".join(line for op in (first, second) for piece in op.pieces for line in piece.lines)
    assert not re.search(r"G5[3-9]|G28|G43|M6|M30|M5\b|M9|T\d|H\d|M98|N\d", text)
    for wrong, said in (
        ("G54 G0 X1\nT1 M6\nG55 X2\nM30", "one zero"),
        ("G0 X1\nM30", "a tool"),
        ("T1 M6\nG10 L2 P1 X0\nM30", "frame writes"),
    ):
        with pytest.raises(ProgramRefused, match=said):
            read_op(wrong)


def test_a_setting_has_every_offset_and_length(plate):
    table = zero_table(plate)
    setting = setting_of(plate, table, [1, 7])
    assert set(plate.request.machine.work_offsets) <= set(setting.zeros)
    assert set(setting.lengths) == {1, 7}
