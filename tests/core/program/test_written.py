"""Coordinates worked out, how a program goes place by place, and the room that tools take."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.core.make.planned import planned
from wedgecraft.core.cutting.shape import edge_length_mm, edge_radius_mm, point_mm, rise_of
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.program.frame import frame
from wedgecraft.core.program.ops import read_op
from wedgecraft.core.program.play import played
from wedgecraft.core.program.tooling import tool_shapes
from wedgecraft.core.program.trial import ran
from wedgecraft.core.program.words import read
from wedgecraft.core.program.written import written_out
from wedgecraft.core.program.zeros import zero_table
from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.records.tool import Holder, Tool

DEMO = Path(__file__).parents[3] / "wedgecraft/demo/programs"


@pytest.fixture(scope="module")
def block():
    return planned_setup(planned("Manifold block, by the pallet"), 1)


def _program(dice, inch):
    """Lines, arcs by middle and radius, and cycles with words left out, as people write them."""
    unit = 25.4 if inch else 1.0
    lines = ["G20" if inch else "G21", "G90 G17 G54", "T1 M6", "S900 M3", "G0 X0 Y0", "G43 H1 Z9"]

    def figure(value):
        return f"{value / unit:.4f}"

    for _ in range(int(dice.integers(3, 9))):
        x, y, z = dice.uniform(-40, 40, 3)
        lines += {
            0: [f"G0 X{figure(x)}", f"Y{figure(y)}"],
            1: [f"G1 X{figure(x)} Y{figure(y)} Z{figure(z)} F{figure(300)}"],
            2: [
                f"G1 X{figure(x)} F{figure(200)}",
                f"G2 X{figure(x)} I{figure(y / 8 + 7)} J{figure(z)}",
            ],
            3: [
                f"G98 G83 X{figure(x)} Y{figure(y)} Z{figure(-9)} R{figure(2)} Q{figure(3)}"
                f" F{figure(80)}",
                f"X{figure(y)}",
                "G80",
            ],
        }[int(dice.integers(4))]
    return "\n".join([*lines, "G0 Z9", "M30"])


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**9), st.sampled_from([0, 90, 180, 270, 37]), st.booleans())
def test_what_is_worked_out_goes_where_a_turn_and_a_shift_would_send_it(seed, turn, inch):
    """Every move against a general library's rotation, plus a plain sum."""
    dice = np.random.default_rng(seed)
    (piece,) = read_op(_program(dice, inch)).pieces
    shift = tuple(dice.uniform(-50, 50, 3).tolist())
    text = "\n".join(
        [
            "T1 M6", "G20" if inch else "G21", "G90", "S900 M3", "G0 X0 Y0",
            *written_out(piece, shift, float(turn)), "M30",
        ]
    )  # fmt: skip
    moved = read_op(text).pieces[0].moves
    spun = Rotation.from_euler("z", turn, degrees=True)
    want = [move for move in piece.moves if move.what != "dwell"]
    got = [move for move in moved if move.what != "dwell"]
    # what stands before the first place that a piece says for itself is the frame's to reach
    got = got[len(got) - len(want) :]
    seen = False
    for own, there in zip(want, got, strict=True):
        assert (own.what, own.tool) == (there.what, there.tool)
        assert own.feed == pytest.approx(there.feed, rel=1e-3)
        seen = seen or own.cuts
        if not seen:
            continue
        expected = spun.apply(own.end) + shift
        assert there.end == pytest.approx(tuple(expected), abs=0.02 if inch else 2e-3)
        if own.arc is not None:
            assert there.arc.sweep == pytest.approx(own.arc.sweep, abs=2e-2)
            middle = spun.apply([*own.arc.middle, 0])[:2] + shift[:2]
            assert there.arc.middle == pytest.approx(tuple(middle), abs=0.02)
    assert seen or not any(move.cuts for move in want)
    assert written_out(piece, (0, 0, 0), 0) is piece.lines


def test_what_cannot_be_worked_out_says_what_would_do():
    up = read_op("T1 M6\nS1 M3 F9\nG0 X0 Z0\nG18\nG2 X4 Z0 I2 K0\nM30").pieces[0]
    assert written_out(up, (1, 0, 0), 0)
    with pytest.raises(OutOfRange, match="arcs in G17"):
        written_out(up, (0, 0, 0), 90)


def test_a_program_is_played_where_it_goes(block):
    """Every place against the moves themselves: on the plate that looks at the spindle."""
    ops = {k: read_op((DEMO / f"manifold-op{n}.nc").read_text()) for k, n in enumerate((10, 20))}
    table = zero_table(block)
    text = frame(block, table, ops, None, [1, 2, 30]).text
    setting, went = ran(block, table, ops, read(text))
    found = played(block, went)
    assert found.whole
    assert found.of == sum(move.goes for move in went.moves)
    assert found.seconds[-1] == pytest.approx(went.seconds, abs=0.01)
    request = block.request
    middle = np.array([-280.0, -560.0, -760.0])
    out = request.block.across_mm / 2 + request.plate.thickness_mm
    corner = middle + [-request.plate.width_mm / 2, 0, out]
    last = {}
    for row, move in enumerate(found.move):
        last[move] = row
    for number, move in enumerate(went.moves):
        row = last[number]
        assert found.line[row] == move.line
        assert found.face[row] == round(move.rotary[1] / 90) % 4
        tip = np.array(move.end) - [0, 0, setting.lengths.get(move.tool, 0.0)] - corner
        if move.tool:
            place = (found.x[row], found.y[row], found.z[row])
            assert place == pytest.approx(tuple(tip), abs=0.011)
    # a part's hole is where its station stands
    placed = block.design.stations[table.parts[0].station - 1]
    turn = Rotation.from_euler("z", placed.turn, degrees=True)
    x, y, _ = turn.apply([27, 33, 0]) + [placed.x_mm, placed.y_mm, 0]
    drilled = [k for k, tool in enumerate(found.tool) if tool == 3 and found.what[k] == 1]
    near = min(np.hypot(found.x[k] - x, found.y[k] - y) for k in drilled)
    assert near < 0.02


def test_the_room_a_tool_takes_is_that_of_its_edges_its_shank_and_its_holder(block):
    holder = Holder(
        name="chuck", nose_diameter_mm=30, body_diameter_mm=44, gauge_length_mm=70, bore_mm=16
    )
    cutters = [
        Cutter(kind="drill", diameter_mm=10, teeth=2, flute_length_mm=60, reach_mm=80),
        Cutter(kind="slitting saw", diameter_mm=80, teeth=40, width_mm=2, reach_mm=30),
        Cutter(kind="tap", diameter_mm=8, teeth=3, pitch_mm=1.25, flute_length_mm=20),
        Cutter(kind="chamfer mill", diameter_mm=6, teeth=3, entering_deg=45, flute_length_mm=3),
    ]
    tools = [Tool(number=k, cutter=c, holder=holder) for k, c in enumerate(cutters, 1)]
    machine = block.request.machine.model_copy(update={"tools": tools[:3]})
    asked = replace(block, request=block.request.model_copy(update={"machine": machine}))
    shapes = tool_shapes(asked, [0, 1, 2, 3, 99])
    drill = [(ring.says, ring.radius_mm, ring.low_mm) for ring in shapes[1].rings]
    assert drill == [
        ("cutter", 5, 0), ("shank", pytest.approx(4.9), 60), ("holder", 15, 80), ("holder", 22, 100)
    ]  # fmt: skip
    assert shapes[1].length_mm == 150
    # the point of 140 degrees: 5 mm over the tangent of 70 degrees
    assert point_mm(cutters[0]) == pytest.approx(5 / np.tan(np.radians(70)))
    saw = shapes[2]
    assert (saw.whole, saw.rings[0].radius_mm, saw.rings[1].low_mm) == (False, 40, 2)
    assert saw.rings[1].radius_mm == 8  # the largest shank its holder takes
    # ISO 724: the hole of M8 is 6.647
    assert 2 * edge_radius_mm(cutters[2]) == pytest.approx(6.647, abs=5e-4)
    assert (rise_of(cutters[3]), edge_length_mm(cutters[1])) == (1.0, 2)
    assert (shapes[0].length_mm, shapes[99].unsaid) == (0.0, "the cutter and the holder")
    assert shapes[99].widest_mm == 0.5
