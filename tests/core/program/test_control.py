"""The stand-in for a control: by hand, against matrices, and what it refuses."""

from __future__ import annotations

import contextlib
import math
import random
from collections import Counter

import numpy as np
import pytest
from gcodeparser import parse_gcode_lines
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wedgecraft.core.program.control import run
from wedgecraft.core.program.motion import Pace
from wedgecraft.core.program.state import Setting
from wedgecraft.core.program.words import ProgramRefused, read

ZEROS = {"G54": (-300.0, -200.0, -400.0), "G55": (-150.0, -210.0, -390.0), "G54.1 P7": (-9, -8, -7)}
SET = Setting(ZEROS, lengths={1: 120.0, 2: 80.5}, pace=Pace(24_000, 3_000, 5.0, 9.0, 2.0))
SAFE = "G21 G17 G90 G40 G49 G80 G94 G54\nT1 M6\nS3000 M3\nF300\n"


def _ends(text: str, kinds=("rapid", "feed", "arc")):
    found = run(SAFE + text, SET)
    return [
        tuple(np.subtract(move.end, ZEROS["G54"]).round(6).tolist())
        for move in found.moves
        if move.what in kinds
    ]


def _at(text: str):
    return _ends(text)[-1]


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ("G0 X10 Y-5 Z3", (10, -5, 3)),
        ("G0 X10\nY-5\nG91 X1 Y1\nX1", (12, -4, 400)),
        ("G20 G0 X1 Y-.5", (25.4, -12.7, 400)),
        ("G0 X10 Y10 Z5\nG43 H1 Z5", (10, 10, 125)),  # the spindle's face is a tool higher
        ("G43 H2 Z0\nG49\nZ0", (300, 200, 0)),
        ("G52 X100 Y0 Z0\nG0 X1 Y2 Z3", (101, 2, 3)),
        ("G52 X100\nG52 X0\nG0 X1 Y2 Z3", (1, 2, 3)),
        ("G0 X1 Y1\nG55 X0 Y0 Z0", (150, -10, 10)),
        ("G54.1 P7\nG0 X0 Y0 Z0", (291, 192, 393)),
        ("G10 L2 P3 X-1 Y-2 Z-3\nG56 G0 X0 Y0 Z0", (299, 198, 397)),
        ("G10 L20 P7 X-1 Y-2 Z-3\nG54.1 P7 G0 X0 Y0 Z0", (299, 198, 397)),
        ("G91 G10 L2 P1 X5\nG90 G0 X0 Y0 Z0", (5, 0, 0)),
        ("G53 G0 Z-10", (300, 200, 390)),
        ("G0 X5 Y5 Z-5\nG91 G28 Z0", (5, 5, 400)),
        ("G68 X10 Y10 R90\nG0 X20 Y10 Z0", (10, 20, 0)),
        ("G68 X0 Y0 R30\nG0 X20 Y0 Z0\nG69\nX7", (7, 10, 0)),
        ("G68 X0 Y0 R180\nG0 X1 Y0 Z0\nG91 X1 Y0", (-2, 0, 0)),
        ("/G0 X99\nG0 X1 Y1 Z1", (1, 1, 1)),
    ],
)
def test_where_a_line_takes_the_tool_worked_out_by_hand(text, where):
    setting = SET if "/" not in text else Setting(ZEROS, skips=True)
    end = run(SAFE + text, setting).moves[-1].end
    assert np.subtract(end, ZEROS["G54"]) == pytest.approx(where, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "middle", "sweep"),
    [
        ("G2 X20 Y10 I10 J0", (10, 10), -180),
        ("G3 X10 Y20 I10 J0", (10, 10), 270),
        ("G3 X0 Y10 I10 J0", (10, 10), 360),
        ("G2 X10 Y20 R10", (10, 10), -90),
        ("G3 X10 Y20 R10", (0, 20), 90),
        ("G2 X10 Y20 R-10", (0, 20), -270),
        ("G3 X10 Y20 R-10", (10, 10), 270),
        ("G3 X10 Y20 Z-4 R10", (0, 20), 90),
    ],
)
def test_arcs_by_hand(text, middle, sweep):
    """From X0 Y10; every point as far from the middle, a helix down evenly."""
    move = run(SAFE + "G0 X0 Y10 Z0\n" + text, SET).moves[-1]
    at = np.add(middle, ZEROS["G54"][:2])
    assert move.arc.middle == pytest.approx(at)
    assert math.degrees(move.arc.sweep) == pytest.approx(sweep)
    points = move.points()
    assert np.hypot(*(points[:, :2] - at).T) == pytest.approx(np.full(len(points), 10.0))
    assert np.diff(points[:, 2]) == pytest.approx(
        np.full(len(points) - 1, np.diff(points[:, 2])[0])
    )
    flat = abs(math.radians(sweep)) * 10
    assert move.length_mm == pytest.approx(math.hypot(flat, points[-1, 2] - points[0, 2]))
    assert np.linalg.norm(np.diff(points, axis=0), axis=1).sum() == pytest.approx(
        move.length_mm, rel=1e-3
    )


def test_arcs_in_the_other_planes_turn_about_the_third_axis():
    """ZX: from +Z to +X is counter-clockwise (a right-handed frame); YZ: from +Y to +Z."""
    zx = run(SAFE + "G0 X0 Y0 Z10\nG18 G3 X10 Z0 K-10 I0", SET).moves[-1].points()
    assert np.subtract(zx[len(zx) // 2], ZEROS["G54"])[[0, 2]] == pytest.approx(
        (10 * math.sin(math.pi / 4),) * 2, abs=0.3
    )
    yz = run(SAFE + "G0 X0 Y10 Z0\nG19 G3 Y0 Z10 J-10 K0", SET).moves[-1]
    assert math.degrees(yz.arc.sweep) == pytest.approx(90)


@pytest.mark.parametrize(
    ("text", "heights"),
    [
        ("G98 G81 Z-10 R2", [20, 2, -10, 20]),
        ("G99 G81 Z-10 R2", [20, 2, -10, 2]),
        ("G91 G98 G81 Z-12 R-18", [20, 2, -10, 20]),
        ("G98 G83 Z-10 R2 Q5", [20, 2, -3, 2, -2, -8, 2, -7, -10, 20]),
        ("G98 G73 Z-10 R2 Q5", [20, 2, -3, -2, -2, -8, -7, -7, -10, 20]),
        ("G98 G84 Z-10 R2", [20, 2, -10, 2, 20]),
        ("G98 G85 Z-10 R2", [20, 2, -10, 2, 20]),
    ],
)
def test_cycles_leg_by_leg(text, heights):
    assert [z for _, _, z in _ends(f"G0 X5 Y5 Z20\n{text}")[1:]] == pytest.approx(heights)


def test_cycles_at_several_places_repeat_and_stop():
    found = _ends("G0 X0 Y0 Z20\nG99 G81 X5 Y5 Z-3 R2\nX15\nG91 X10 K2\nG90 G80\nX0")
    lows = [place[:2] for place in found if place[2] == -3]
    assert lows == [(5, 5), (15, 5), (25, 5), (35, 5)]
    assert found[-1] == (0, 5, 2)
    assert _ends("G0 X0 Y0 Z20\nG81 X5 Z-3 R2 K0\nG80")[-1] == (0, 0, 20)
    rests = [m.seconds for m in run(SAFE + "G0 Z9\nG82 Z-1 R1 P500\nG4 P250\nG4 X2", SET).moves]
    assert [s for s in rests if s in (0.5, 0.25, 2.0)] == [0.5, 0.25, 2.0]


def test_subprograms_nest_and_repeat_and_never_without_end():
    text = "G0 X0 Y0 Z0\nM98 P20 L3\nM98 P20021\nM30\n"
    text += "O20\nG91 G0 X1\nM98 P21\nG90\nM99\nO21\nG91 Y1\nM99"
    assert _at(text) == (3, 5, 0)
    with pytest.raises(ProgramRefused, match="at most 10 deep"):
        run("O1\nM98 P1\nM30", SET)
    with pytest.raises(ProgramRefused, match="for ever"):
        run("G0 X1\nM99", SET)
    endless = "".join(f"O{n}\nM98 P{n + 1} L9999\nM99\n" for n in range(1, 6)) + "O6\nM99\n"
    with pytest.raises(ProgramRefused, match="an end"):
        run(endless, SET)


def _plain(lines):
    """Straight moves and arcs in XY by their middle, worked out with matrices: nothing shared."""
    zeros, at = {"G54": ZEROS["G54"], "G55": ZEROS["G55"]}, np.zeros(3)
    zero, absolute, unit, shift, spin = "G54", True, 1.0, np.zeros(3), (0.0, 0.0, 0.0)
    ends = []
    for line in lines:
        words = [(word[0], float(word[1:])) for word in line.split()]
        codes = [f"G{value:g}" for letter, value in words if letter == "G"]
        if "G20" in codes or "G21" in codes:
            unit = 25.4 if "G20" in codes else 1.0
        if "G90" in codes or "G91" in codes:
            absolute = "G90" in codes
        zero = next((code for code in codes if code in zeros), zero)
        given = {letter: value * unit for letter, value in words if letter in "XYZ"}
        turn = Rotation.from_euler("z", spin[2], degrees=True).as_matrix()
        about = np.array([*spin[:2], 0.0])
        origin = np.array(zeros[zero]) + shift
        if "G68" in codes:
            spin = (given["X"], given["Y"], dict(words)["R"])
            continue
        if "G69" in codes:
            spin = (0.0, 0.0, 0.0)
            continue
        if "G52" in codes:
            shift = np.array([given.get(k, s) for k, s in zip("XYZ", shift, strict=True)])
            continue
        here = turn.T @ (at - origin - about) + about
        wanted = here.copy()
        for k, letter in enumerate("XYZ"):
            if letter in given:
                wanted[k] = given[letter] if absolute else here[k] + given[letter]
        if given:
            at = turn @ (wanted - about) + about + origin
            ends.append(at)
    return np.array(ends)


def _written(seed: int) -> list[str]:
    """A random program of what both know."""
    dice = random.Random(seed)
    lines = ["G21 G90 G54", "G0 X0 Y0 Z50"]
    for _ in range(dice.randint(5, 40)):
        kind = dice.random()
        axes = dice.sample("XYZ", dice.randint(1, 3))
        move = " ".join(f"{axis}{dice.uniform(-60, 60):.3f}" for axis in sorted(axes))
        if kind < 0.6:
            lines.append(f"{dice.choice(['G0', 'G1', 'G91 G1', 'G90 G0', 'G90'])} {move}")
        elif kind < 0.7:
            lines.append(f"{dice.choice(['G20', 'G21'])} G{dice.choice([54, 55])} {move}")
        elif kind < 0.8:
            lines.append(f"G52 X{dice.uniform(-9, 9):.3f} Y{dice.uniform(-9, 9):.3f}")
        elif kind < 0.9:
            lines.append(f"G68 X{dice.uniform(-9, 9):.2f} Y1.5 R{dice.uniform(-180, 180):.2f}")
        else:
            lines.append("G69")
    return lines


@settings(max_examples=120, deadline=None)
@given(st.integers(0, 10**9))
def test_random_programs_end_where_matrices_say(seed):
    lines = _written(seed)
    found = run("T1 M6\nS100 M3 F100\n" + "\n".join(lines), SET)
    ends = [move.end for move in found.moves if move.what in ("rapid", "feed")]
    assert np.array(ends) == pytest.approx(_plain(lines), abs=1e-6)


def test_seconds_by_the_closed_forms_of_even_acceleration():
    """v = 400 mm/s reached in 133 ms and 26.7 mm: 100 mm take l/v + v/a; 10 mm take 2 sqrt(l/a). A
    feed that runs on does not stop, one that turns square does.
    """
    rapids = run("G0 X100 Y0 Z0\nX110", Setting({"G54": (0, 0, 0)}, pace=SET.pace)).moves
    assert rapids[0].seconds == pytest.approx(100 / 400 + 400 / 3000)
    assert rapids[1].seconds == pytest.approx(2 * math.sqrt(10 / 3000))
    text = "S100 M3\nG1 F6000 X50\nX100\nY50\nM30"
    feeds = run(text, Setting({"G54": (0, 0, 0)}, pace=SET.pace)).moves
    stop = 100 / 3000 / 2  # half of v/a: one end at rest
    assert [m.seconds for m in feeds] == pytest.approx([0.5 + stop, 0.5 + stop, 0.5 + 2 * stop])
    still = run(SAFE + "M60\nG0 G53 Z0\nB90", SET).moves
    assert [m.seconds for m in still if m.what in ("tool", "pallet", "index")] == [5.0, 9.0, 2.0]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("G1 X5 F100", "spindle at rest"),
        ("S100 M3\nG43 H9 Z5", "H9 has no length"),
        ("T2 M6\nG43 H2 Z-300\nM6", "below home in Z"),
        ("S100 M3\nM8\nT2 M6", "coolant on"),
        ("M3", "no speed"),
        ("G0 Z-5\nB90", "indexes below home"),
    ],
)
def test_what_a_control_would_do_and_a_machinist_would_not_is_a_fault(text, said):
    faults = run(text, SET).faults
    assert any(said in fault.says for fault in faults)
    assert all(fault.line <= text.count("\n") + 1 for fault in faults)
    assert run(SAFE + "G0 X0 Y0\nG43 H1 Z5\nG1 Z-1\nG0 G53 Z0\nM5\nM9\nM30", SET).faults == ()


@pytest.mark.parametrize(
    ("text", "line", "word"),
    [
        ("G0 X1\nG0 X", 2, "X"),
        ("G0 X1..2", 1, ".2"),
        ("#1=5", 1, "#"),
        ("G0 X1 (never ends", 1, "("),
        ("G0 X1\n\nG187 P1", 3, "G187"),
        ("M77", 1, "M77"),
        ("G58 X0", 1, "G58"),
        ("G1 X5", 1, "G1 X5"),
        ("S1 M3 F9\nG2 X5 Y5 I1 J0", 2, "G2 X5"),
        ("S1 M3 F9\nG2 X5 Y5 R1", 2, "G2 X5"),
        ("S1 M3 F9\nG18 G81 Z-5 R1", 2, "G81"),
        ("S1 M3 F9\nG81 X5 R1", 2, "G81"),
        ("M98 P99", 1, "P99"),
        ("G28", 1, "G28"),
        ("G1 F9 S1 M3 B90 X5", 1, "G1 F9"),
        ("E5", 1, "E5"),
    ],
)
def test_what_is_not_understood_is_refused_with_its_line_and_word(text, line, word):
    with pytest.raises(ProgramRefused) as refused:
        run(text, SET)
    assert refused.value.line == line
    assert word in str(refused.value.value)


def test_text_of_any_kind_is_read_or_refused_never_hung():
    assert read("(Прокладка; 板)\n; nur Kommentar\n\n%\n")[0].comment == "Прокладка; 板"
    assert read(b"\xef\xbb\xbfG0X1\r\nG1 x-.5 y+2.\r\n")[1].words[2].value == 2.0
    assert read("(caf\xe9)\nG0 X1".encode("latin-1"))[1].get("X") == 1.0
    with pytest.raises(ProgramRefused, match="binary"):
        read(b"\x7fELF\0\0\0")
    with pytest.raises(ProgramRefused, match="characters in a line"):
        read("G0 X1 " * 200)
    dice = random.Random(5)
    for _ in range(300):
        noise = bytes(dice.randrange(256) for _ in range(dice.randrange(200)))
        with contextlib.suppress(ProgramRefused):
            run(noise, SET)


@pytest.mark.parametrize("seed", range(10))
def test_words_are_what_another_parser_reads(seed):
    """gcodeparser (MIT), of the registry; 500 of these were compared by hand, and their places with
    those of a second one.
    """
    text = "\n".join(_written(seed))
    ours = [(word.letter, word.value) for block in read(text) for word in block.words]
    theirs = [
        pair
        for line in parse_gcode_lines(text)
        for pair in [(line.command[0], float(line.command[1])), *line.params.items()]
    ]
    assert Counter(ours) == Counter(theirs)
