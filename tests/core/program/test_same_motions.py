"""A program written another way is the same program: incremental, in inches, shifted, turned, in
subprograms, from extended offsets, taken apart and put together again. Whatever the moves, the
machine goes the same way.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wedgecraft.core.program.control import run
from wedgecraft.core.program.ops import read_op
from wedgecraft.core.program.state import Setting

SET = Setting({"G54": (-300.0, -200.0, -400.0), "G54.1 P9": (-300.0, -200.0, -400.0)})
HEAD = "G21 G17 G90 G94 G54\nT1 M6\nS1000 M3\nF250\nG0 X0 Y0 Z30\n"
_place = st.floats(-80, 80).map(lambda value: round(value, 3))
_low = st.floats(-9, 9).map(lambda value: round(value, 3))
#: Places with the kind of move that leads to each; arcs have how far they turn, in degrees.
_moves = st.lists(
    st.tuples(st.sampled_from(["G0", "G1", "arc"]), _place, _place, _low, st.integers(-340, 340)),
    min_size=1,
    max_size=14,
)


def _lines(moves, unit=1.0):
    """Absolute blocks, arcs by their middle: at the left of the chord where they turn left."""
    found, at = [], (0.0, 0.0)
    for kind, x, y, z, turn in moves:
        if kind != "arc":
            found.append((kind, x, y, z, None))
        elif math.dist(at, (x, y)) > 1 and abs(turn) > 5:
            found.append(("G3" if turn > 0 else "G2", x, y, z, _middle(at, (x, y), turn)))
        else:
            continue
        at = (x, y)
    return [
        f"{kind} X{x / unit:.7f} Y{y / unit:.7f} Z{z / unit:.7f}"
        + ("" if ij is None else f" I{ij[0] / unit:.7f} J{ij[1] / unit:.7f}")
        for kind, x, y, z, ij in found
    ]


def _middle(start, end, turn):
    """From the start, of the arc that turns so far between two places."""
    (x0, y0), (x1, y1) = start, end
    chord, half = math.dist(start, end), math.radians(turn) / 2
    off = chord / 2 / math.tan(half)
    mx, my = (x0 + x1) / 2 - off * (y1 - y0) / chord, (y0 + y1) / 2 + off * (x1 - x0) / chord
    return mx - x0, my - y0


def _way(text, setting=SET):
    """All places along the way, in the machine."""
    moves = [m for m in run(text, setting).moves if m.goes]
    return np.concatenate([move.points(0.05) for move in moves])


def _same(a, b, within=2e-3):
    assert len(a) == len(b)
    assert np.abs(a - b).max() < within


@settings(max_examples=60, deadline=None)
@given(_moves)
def test_incremental_or_in_inches_it_goes_the_same_way(moves):
    plain = _way(HEAD + "\n".join(_lines(moves)))
    inches = HEAD + "G20\n" + "\n".join(_lines(moves, 25.4))
    _same(plain, _way(inches))
    steps, at = ["G91"], np.array([0.0, 0.0, 30.0])
    for line in _lines(moves):
        words = line.split()
        end = np.array([float(word[1:]) for word in words[1:4]])
        step = " ".join(f"{axis}{v:.7f}" for axis, v in zip("XYZ", end - at, strict=True))
        steps.append(" ".join([words[0], step, *words[4:]]))
        at = end
    _same(plain, _way(HEAD + "\n".join(steps)))


@settings(max_examples=60, deadline=None)
@given(_moves, _place, _place, st.integers(-180, 180))
def test_shifted_and_turned_it_goes_the_same_way_shifted_and_turned(moves, x, y, degrees):
    """Coordinates turned and shifted by a general library, against G52 and G68."""
    body = "\n".join(_lines(moves))
    plain = _way(HEAD + body)
    zero = np.array(SET.zeros["G54"])
    spin = Rotation.from_euler("z", degrees, degrees=True)
    moved = zero + (x, y, 0) + spin.apply(plain - zero)
    text = HEAD.replace("G0 X0", f"G52 X{x} Y{y} Z0\nG68 X0 Y0 R{degrees}\nG0 X0")
    own = _way(text + body)
    _same(own[1:], moved[1:])
    # turned about a place of its own, that place stays where it was
    about = HEAD.replace("G0 X0", f"G68 X{x} Y{y} R{degrees}\nG0 X0") + f"G0 X{x} Y{y} Z5"
    assert _way(about)[-1] == pytest.approx(zero + (x, y, 5), abs=1e-6)


@settings(max_examples=40, deadline=None)
@given(_moves, st.integers(1, 5))
def test_in_subprograms_or_from_an_extended_offset_it_goes_the_same_way(moves, cut):
    lines = _lines(moves)
    plain = _way(HEAD + "\n".join(lines) + "\nM30")
    first, second = lines[:cut], lines[cut:]
    called = [
        HEAD + "M98 P77\nM98 P78\nM30",
        "O77",
        *first,
        "M99",
        "O78",
        "M98 P79",
        "M99",
        "O79",
        *second,
        "M99",
    ]
    _same(plain, _way("\n".join(called)))
    extended = HEAD.replace("G54\n", "G54.1 P9\n") + "\n".join(lines)
    _same(plain, _way(extended))
    numbered = "\n".join(f"N{10 * k} {line.lower()} (é)" for k, line in enumerate(lines))
    _same(plain, _way(HEAD + numbered.replace(" ", "  ")))


@settings(max_examples=40, deadline=None)
@given(_moves, _moves)
def test_an_op_taken_apart_at_its_tools_makes_the_moves_it_made(first, second):
    """The blocks of each piece, run by themselves from the state that goes with them."""
    text = (
        HEAD
        + "\n".join(_lines(first))
        + "\nG0 Z40\nT2 M6\nG20 S500 M4\nF9.\nG0 X0 Y0 Z1.5\n"
        + "\n".join(_lines(second, 25.4))
        + "\nG91 G28 Z0\nM30"
    )
    op = read_op(text)
    assert op.tools == (1, 2)
    free = Setting({"G54": (0.0, 0.0, 0.0)}, home=(0.0, 0.0, 1000.0))
    for piece in op.pieces:
        start = piece.start.copy()
        start.spindle = 3
        moves = run("\n".join(piece.lines), free, start).moves
        made = [move for move in moves if move.cuts]
        assert [move.what for move in made] == [move.what for move in piece.cutting]
        for mine, own in zip(made, piece.cutting, strict=True):
            assert mine.end == pytest.approx(own.end, abs=1e-6)
            assert mine.feed == pytest.approx(own.feed)


@settings(max_examples=40, deadline=None)
@given(_moves)
def test_seconds_are_never_less_than_the_way_at_its_feed_and_add_up(moves):
    """A bound from below by length over speed; a machine that takes any acceleration at once takes
    just that; slower to gather speed is never quicker.
    """
    text = HEAD + "\n".join(_lines(moves)) + "\nG4 P1500"
    found = run(text, SET)
    cuts = [move for move in found.moves if move.cuts]
    for move in cuts:
        assert move.seconds >= move.length_mm / (250 / 60) - 1e-9
    for move in found.moves:
        if move.what == "rapid":
            far = max(abs(a - b) for a, b in zip(move.start, move.end, strict=True))
            assert move.seconds >= far / (SET.pace.rapid_mm_min / 60) - 1e-9
    assert found.seconds == pytest.approx(sum(move.seconds for move in found.moves))
    assert found.moves[-1].seconds == 1.5
    paces = [
        SET.pace.__class__(24_000, acceleration, 5.0) for acceleration in (500.0, 3_000.0, 1e12)
    ]
    seconds = [run(text, Setting(SET.zeros, pace=pace)).seconds for pace in paces]
    assert seconds == sorted(seconds, reverse=True)
    even = sum(move.length_mm for move in cuts) / (250 / 60)
    rapids = sum(
        max(abs(a - b) for a, b in zip(m.start, m.end, strict=True)) / 400
        for m in found.moves
        if m.what == "rapid"
    )
    assert seconds[-1] == pytest.approx(even + rapids + 5.0 + 1.5, abs=1e-3)


@pytest.mark.parametrize("code", [73, 81, 82, 83, 84, 85, 86, 89])
@pytest.mark.parametrize("levels", ["G98", "G99"])
def test_cycles_reach_the_floor_never_feed_above_and_end_where_they_say(code, levels):
    """Of every cycle at three places, with and without pecks: what all of them have in common."""
    for peck in ("", " Q3", " Q40"):
        text = HEAD + f"G0 Z25\n{levels} G{code} X5 Y5 Z-9 R2{peck} F90\nX15\nY25\nG80\n"
        moves = run(text, SET).moves
        zero = SET.zeros["G54"]
        first = next(k for k, move in enumerate(moves) if move.what == "feed")
        own = moves[first - 1 :]
        lows: dict[tuple[float, float], float] = {}
        for move in own:
            x, y, z = (round(v - o, 6) for v, o in zip(move.end, zero, strict=True))
            start = round(move.start[2] - zero[2], 6)
            if move.what == "feed":
                assert max(z, start) <= 2  # no feed above the level it comes down to in rapid
                assert (x, y) == tuple(
                    round(v - o, 6) for v, o in zip(move.start[:2], zero[:2], strict=True)
                )
                lows[x, y] = min(lows.get((x, y), 9), z)
            if move.what == "rapid" and move.start[:2] != move.end[:2]:
                assert min(z, start) >= 2  # never sideways in a hole
            if move.what == "rapid" and z < 2:  # quick only where it has cut before
                assert z > lows[x, y] - 1e-9
        assert lows == {(5, 5): -9, (15, 5): -9, (15, 25): -9}
        assert moves[-1].end[2] - zero[2] == pytest.approx(25 if levels == "G98" else 2)
