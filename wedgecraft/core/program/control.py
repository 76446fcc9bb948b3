"""A stand-in for a control: runs word-address programs, ours and anyone's, into moves in machine
coordinates. What it does not know it refuses with line and word; it is no real control.

Codes as ISO 6983 and common practice have them, from memory where the standard leaves them to the
maker (cycles, subprograms, extended offsets).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wedgecraft.core.program.cycles import CYCLES, legs
from wedgecraft.core.program.given import Given, middle_by_radius
from wedgecraft.core.program.modal import Fault, Modal
from wedgecraft.core.program.motion import Arc, Move, Place, timed
from wedgecraft.core.program.state import NOWHERE, PLANES, Setting, State
from wedgecraft.core.program.words import Block, ProgramRefused, read

#: A program that runs on past this many blocks has no end.
MOST_BLOCKS = 2_000_000
_DEEPEST = 10
#: The ends of an arc may lie on circles that differ by this, mm, or by this share.
_ARC_MM, _ARC_SHARE = 0.02, 1e-3
_NOTHING = 1e-9


@dataclass(frozen=True)
class Run:
    """A program as it went: moves with their seconds, what was wrong on the way, the state it ended
    in, the lines at which tools were changed, work offsets that it wrote.
    """

    moves: tuple[Move, ...]
    faults: tuple[Fault, ...]
    end: State
    ended: bool
    zeros: dict[str, Place]

    @property
    def seconds(self) -> float:
        return sum(move.seconds for move in self.moves)


def run(text: str | bytes | Sequence[Block], setting: Setting, start: State | None = None) -> Run:
    """Raises ProgramRefused, at the line a control would stop at.

    >>> found = run("G90 G54 G0 X10 Y5\\nM30", Setting({"G54": (-300, -200, -400)}))
    >>> found.moves[-1].end, found.ended
    ((-290.0, -195.0, 0.0), True)
    """
    blocks = read(text) if isinstance(text, str | bytes) else list(text)
    control = Control(setting, start)
    control.go(blocks)
    seconds = list(timed(control.moves, setting.pace))
    for move, takes in zip(control.moves, seconds, strict=True):
        move.seconds = takes
    faults = tuple(control.faults)
    return Run(tuple(control.moves), faults, control.state, control.ended, control.zeros)


class Control(Modal):
    """One run, block by block."""

    def go(self, blocks: Sequence[Block]) -> None:
        """From the first block to M2, M30 or the end of the text."""
        starts = {
            int(word.value): k
            for k, block in enumerate(blocks)
            for word in block.words
            if word.letter == "O"
        }
        self._from(blocks, 0, starts, 0)

    def _from(self, blocks: Sequence[Block], at: int, starts: dict[int, int], deep: int) -> None:
        while at < len(blocks) and not self.ended:
            block = blocks[at]
            at += 1
            if block.skip and self.setting.skips:
                continue
            self._done += 1
            if self._done > MOST_BLOCKS:
                raise ProgramRefused(block.line, "", "an end: it runs on past 2,000,000 blocks")
            called = self._block(block)
            if called == "back":
                if deep == 0:
                    raise ProgramRefused(
                        block.line, "M99", "M30 here: M99 would begin again, for ever"
                    )
                return
            if isinstance(called, tuple):
                number, times = called
                if number not in starts:
                    raise ProgramRefused(
                        block.line, f"P{number}", f"a subprogram O{number:04d} in the same file"
                    )
                if deep >= _DEEPEST:
                    raise ProgramRefused(
                        block.line, f"P{number}", f"subprograms at most {_DEEPEST} deep"
                    )
                for _ in range(times):
                    self._from(blocks, starts[number], starts, deep + 1)
                    if self.ended:
                        return

    def _block(self, block: Block) -> str | tuple[int, int] | None:
        """Everything a block says, in the order a control does it; what it calls, if anything."""
        given = Given(block, self.state.inch)
        for code in given.g:
            self._modal(code, given)
        self._numbers(given)
        called = self._m_before(given)
        self._act(given)
        self._m_after(given)
        return called

    def _act(self, given: Given) -> None:
        """The one thing a block does: its own code, or a move."""
        own = given.own
        if 4 in own:
            seconds = given.number("X") or given.number("U") or (given.number("P") or 0.0) / 1000
            self._still(given, "dwell", seconds)
        elif 10 in own:
            self._write_zero(given)
        elif 52 in own:
            if not self.setting.shifts:
                raise ProgramRefused(given.line, "G52", "no local shift: this control has none")
            places = self._axes_of(given)
            x, y, z = (places.get(k, self.state.local[k]) for k in range(3))
            self.state.local = (x, y, z)
        elif 53 in own:
            self._rotary(given)
            places = self._axes_of(given)
            if places:
                x, y, z = (places.get(k, self.state.at[k]) for k in range(3))
                self._add(given, "rapid", (x, y, z))
        elif 28 in own or 30 in own:
            self._to_home(given, self.setting.home if 28 in own else self.setting.second_home)
        else:
            self._move(given)

    def _target(self, given: Given) -> Place:
        """Where the words of a block send the tool, in the program's coordinates."""
        here, places = self._frame().program(self.state.at), self._axes_of(given)
        found = [
            places.get(k, here[k])
            if self.state.absolute or k not in places
            else here[k] + places[k]
            for k in range(3)
        ]
        return found[0], found[1], found[2]

    def _move(self, given: Given) -> None:
        turned = self._rotary(given)
        state, places = self.state, self._axes_of(given)
        if state.cycle is not None:
            self._cycle(given, places)
            return
        if not places and not (state.motion in (2, 3) and given.has("IJK")):
            return
        if turned and state.motion != 0:
            raise ProgramRefused(
                given.line, given.said, "turning at rest: rotary axes only index here"
            )
        target = self._target(given)
        if state.motion == 0:
            self._add(given, "rapid", self._frame().machine(target))
        elif state.motion == 1:
            self._ready_to_cut(given)
            self._add(given, "feed", self._frame().machine(target))
        else:
            self._ready_to_cut(given)
            self._arc(given, target)

    def _rotary(self, given: Given) -> bool:
        """A, B and C turn at once, before anything else of the block moves."""
        state = self.state
        if not given.has("ABC"):
            return False
        angles = list(state.rotary)
        for k, letter in enumerate("ABC"):
            value = given.number(letter)
            if value is not None:
                angles[k] = value if state.absolute or 53 in given.own else angles[k] + value
        if angles == list(state.rotary):
            return False
        turned = max(
            min(abs(a - b) % 360, 360 - abs(a - b) % 360)
            for a, b in zip(angles, state.rotary, strict=True)
        )
        if state.at[2] < self.setting.home[2] - 1e-6:
            self._fault(given, "index", "it indexes below home in Z")
        state.rotary = (angles[0], angles[1], angles[2])
        self._still(given, "index", self.setting.pace.index_s * turned / 90)
        return True

    def _to_home(self, given: Given, home: Place) -> None:
        places = self._axes_of(given)
        if not places:
            raise ProgramRefused(given.line, given.said, "the axes that go home, as G28 Z0")
        middle = self._frame().machine(self._target(given))
        self._add(given, "rapid", middle)
        x, y, z = (home[k] if k in places else middle[k] for k in range(3))
        self._add(given, "rapid", (x, y, z))

    def _write_zero(self, given: Given) -> None:
        kind, number = int(given.need("L", "G10")), int(given.number("P") or 0)
        if kind == 20:
            name = f"G54.1 P{number}"
        elif kind == 2 and 1 <= number <= 6:
            name = f"G{53 + number}"
        else:
            raise ProgramRefused(
                given.line, f"L{kind} P{number}", "G10 L2 P1 to P6, or L20 for extended offsets"
            )
        before, places = self.zeros.get(name, NOWHERE), self._axes_of(given)
        x, y, z = (
            before[k]
            if k not in places
            else places[k] + (0.0 if self.state.absolute else before[k])
            for k in range(3)
        )
        self.zeros[name] = (x, y, z)
        self._framed = ()

    def _arc(self, given: Given, target: Place) -> None:
        """By its middle (I, J, K from where it starts) or its radius (R)."""
        state, frame = self.state, self._frame()
        axes = PLANES[state.plane]
        a, b, c = axes
        start = frame.program(state.at)
        left = state.motion == 3
        radius = given.length("R")
        u0, v0, u1, v1 = start[a], start[b], target[a], target[b]
        if radius is not None:
            u, v = middle_by_radius(given, (u0, v0), (u1, v1), radius, left)
        else:
            u, v = (here + (given.length("IJK"[k]) or 0.0) for here, k in ((u0, a), (v0, b)))
            first, last = math.hypot(u0 - u, v0 - v), math.hypot(u1 - u, v1 - v)
            if first < _NOTHING or abs(first - last) > max(_ARC_MM, _ARC_SHARE * first):
                raise ProgramRefused(
                    given.line,
                    given.said,
                    f"an arc whose ends are as far from its middle: they are {first:.3f} and"
                    f" {last:.3f} mm from it",
                )
        sweep = math.atan2(v1 - v, u1 - u) - math.atan2(v0 - v, u0 - u)
        sweep %= 2 * math.pi
        if abs(u1 - u0) < _NOTHING and abs(v1 - v0) < _NOTHING:
            sweep = 2 * math.pi if left else 0.0
        elif sweep < _NOTHING:
            sweep = 2 * math.pi
        sweep = sweep if left else sweep - 2 * math.pi
        middle = [0.0, 0.0, 0.0]
        middle[a], middle[b], middle[c] = u, v, start[c]
        placed = frame.machine((middle[0], middle[1], middle[2]))
        arc = Arc((placed[a], placed[b]), sweep, axes)
        self._add(given, "arc", frame.machine(target), arc=arc)

    def _cycle(self, given: Given, places: dict[int, float]) -> None:
        """A cycle at each place that a block gives, ``K`` or ``L`` times."""
        state, known = self.state, self.state.cycle
        if known is None or not (places or given.has("RPQ") or given.g_of(CYCLES)):
            return
        if state.plane != 17:
            raise ProgramRefused(given.line, f"G{known['code']}", "cycles in the XY plane, G17")
        here = self._frame().program(state.at)
        known.setdefault("first", here[2])
        if (level := given.length("R")) is not None:
            known["r"] = level if state.absolute else known["first"] + level
        if 2 in places:
            low = known.get("r", here[2])
            known["z"] = places[2] if state.absolute else low + places[2]
        for letter in "PQ":
            if (value := given.number(letter)) is not None:
                known[letter] = given.mm(value) if letter == "Q" else value / 1000
        if not places and not given.g_of(CYCLES):
            return
        if "z" not in known or "r" not in known:
            raise ProgramRefused(given.line, f"G{known['code']}", "Z and R with the cycle")
        self._ready_to_cut(given)
        times = given.number("K") if given.number("K") is not None else given.number("L")
        for _ in range(1 if times is None else int(times)):
            here = self._frame().program(state.at)
            step = {k: v for k, v in places.items() if k < 2}
            x, y = (
                here[k] if k not in step else step[k] + (0.0 if state.absolute else here[k])
                for k in range(2)
            )
            back = known["first"] if state.to_first else known["r"]
            for kind, height, seconds in legs(known["code"], known, here[2], max(back, known["r"])):
                if kind == "dwell":
                    self._still(given, "dwell", seconds)
                else:
                    self._add(given, kind, self._frame().machine((x, y, height)))

    def _ready_to_cut(self, given: Given) -> None:
        state = self.state
        tapping = state.cycle is not None and state.cycle["code"] in (74, 84)
        if state.feed <= 0:
            raise ProgramRefused(given.line, given.said, "a feed, F, before the first cut")
        if state.spindle == 5 and not tapping:
            self._fault(given, "spindle", "it feeds with the spindle at rest")
