"""What a control takes over from the words of a block: modal groups, numbers, M codes; and how it
writes down its moves.
"""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.program.cycles import CYCLES
from wedgecraft.core.program.given import Given
from wedgecraft.core.program.motion import Arc, Kind, Move, Place
from wedgecraft.core.program.state import PLAIN, PLANES, Frame, Setting, State
from wedgecraft.core.program.words import ProgramRefused

#: What the stand-in takes without doing anything: exact stop, cutting mode, end of scaling, and
#: spindle orientation, ends of tool life, optional stops.
_QUIET_G = frozenset({9, 15, 40.1, 50, 61, 64, 69.1, 80.1})
_QUIET_M = frozenset({0, 1, 19, 48, 49})


@dataclass(frozen=True)
class Fault:
    """What a control would not stop at, and a machinist would: ``what`` in few words."""

    line: int
    what: str
    says: str


class Modal:
    """A control's memory, and what was wrong on the way."""

    def __init__(self, setting: Setting, start: State | None = None) -> None:
        self.setting = setting
        self.state = start.copy() if start is not None else State(at=setting.home)
        self.zeros: dict[str, Place] = dict(setting.zeros)
        self.moves: list[Move] = []
        self.faults: list[Fault] = []
        self.ended = False
        self._done = 0
        self._framed: tuple[object, ...] = ()

    def _modal(self, code: float, given: Given) -> None:
        state, number = self.state, int(code)
        if code in given.own:
            return
        if number in (0, 1, 2, 3) and code == number:
            state.motion, state.cycle = number, None
        elif code in PLANES:
            state.plane = number
        elif code in (20, 21):
            state.inch = code == 20
            given.inch = state.inch
        elif code in (90, 91):
            state.absolute = code == 90
        elif code in (94, 95):
            state.per_turn = code == 95
        elif code in PLAIN:
            self._take_zero(PLAIN[number], given)
        elif code == 54.1:
            self._take_zero(f"G54.1 P{int(given.need('P', 'G54.1'))}", given)
            given.spent.add("P")
        elif code in (40, 41, 42):
            state.radius, state.radius_of = number, int(given.number("D") or state.radius_of)
        elif code in (43, 49):
            state.length_on = code == 43
            if code == 43:
                state.length_of = int(given.number("H") or state.tool)
                if state.length_of not in self.setting.lengths and state.length_of:
                    self._fault(given, "tool length", f"H{state.length_of} has no length set")
        elif code in (98, 99):
            state.to_first = code == 98
        elif code in (68, 69):
            if not self.setting.turns:
                raise ProgramRefused(
                    given.line, f"G{number}", "no turned coordinates: this control has none"
                )
            self._turn(code, given)
        elif code == 80:
            state.cycle = None
        elif number in CYCLES and code == number:
            state.cycle = {"code": number}
        elif code not in _QUIET_G:
            raise ProgramRefused(
                given.line, given.text_of("G", code), "a G code the stand-in knows"
            )

    def _take_zero(self, name: str, given: Given) -> None:
        if name not in self.zeros:
            there = ", ".join(sorted(self.zeros)) or "none"
            raise ProgramRefused(given.line, name, f"a work offset that is set: {there}")
        self.state.zero = name

    def _turn(self, code: float, given: Given) -> None:
        if code == 69:
            self.state.turned = None
            return
        a, b, _ = PLANES[self.state.plane]
        here = self._frame().program(self.state.at)
        u, v = (given.length("XYZ"[k]) for k in (a, b))
        degrees = given.need("R", "G68")
        self.state.turned = (here[a] if u is None else u, here[b] if v is None else v, degrees)
        given.spent |= {"XYZ"[a], "XYZ"[b], "R"}

    def _numbers(self, given: Given) -> None:
        state = self.state
        if (feed := given.number("F")) is not None:
            state.feed = given.mm(feed)
        if (rpm := given.number("S")) is not None:
            state.rpm = rpm
        if (tool := given.number("T")) is not None:
            state.waiting = int(tool)
        if (h := given.number("H")) is not None and state.length_on:
            state.length_of = int(h)

    def _m_before(self, given: Given) -> str | tuple[int, int] | None:
        state = self.state
        called: str | tuple[int, int] | None = None
        for code in given.m:
            if code in (3, 4):
                state.spindle = code
                if state.rpm <= 0:
                    self._fault(given, "spindle", f"M{code} with no speed set")
            elif code in (7, 8):
                state.coolant = True
            elif code == 6:
                self._change_tool(given)
            elif code == 98:
                number = int(given.need("P", "M98"))
                times = given.number("L") or given.number("K")
                if times is None and number > 9999:
                    times, number = number // 10_000, number % 10_000
                called = number, int(times or 1)
                given.spent |= {"P", "L", "K"}
            elif code == 99:
                called = "back"
            elif code == self.setting.pallet_code:
                self._still(given, "pallet", self.setting.pace.pallet_change_s)
            elif code not in (2, 5, 9, 30) and code not in _QUIET_M:
                raise ProgramRefused(given.line, f"M{code}", "an M code the stand-in knows")
        return called

    def _m_after(self, given: Given) -> None:
        for code in given.m:
            if code == 5:
                self.state.spindle = 5
            elif code == 9:
                self.state.coolant = False
            elif code in (2, 30):
                self.ended = True
                self.state.spindle, self.state.coolant = 5, False

    def _change_tool(self, given: Given) -> None:
        state = self.state
        if state.waiting == 0:
            self._fault(given, "tool", "M6 with no tool called before it")
        if state.spindle != 5:
            self._fault(given, "spindle", "the tool is changed with the spindle on")
        if state.coolant:
            self._fault(given, "coolant", "the tool is changed with the coolant on")
        if state.at[2] < self.setting.home[2] - 1e-6:
            self._fault(given, "tool change", "the tool is changed below home in Z")
        state.tool, state.spindle = state.waiting, 5
        self._still(given, "tool", self.setting.pace.tool_change_s)

    def _still(self, given: Given, kind: Kind, seconds: float) -> None:
        self._add(given, kind, self.state.at, seconds=seconds)

    def _axes_of(self, given: Given) -> dict[int, float]:
        found = {}
        for k, letter in enumerate("XYZ"):
            value = given.length(letter)
            if value is not None:
                found[k] = value
        return found

    def _frame(self) -> Frame:
        state = self.state
        key = (state.zero, state.local, state.turned, state.length_on, state.length_of, state.plane)
        if key != self._framed:
            self._framed, self._known = key, Frame(state, self.setting, self.zeros)
        return self._known

    def _add(
        self, given: Given, kind: Kind, end: Place, seconds: float = 0.0, arc: Arc | None = None
    ) -> None:
        state = self.state
        feed = state.feed * state.rpm if state.per_turn else state.feed
        tip = self.setting.lengths.get(state.length_of, 0.0) if state.length_on else 0.0
        self.moves.append(
            Move(
                line=given.line,
                what=kind,
                start=state.at,
                end=end,
                rotary=state.rotary,
                tool=state.tool,
                zero=state.zero,
                tip_mm=tip,
                feed=feed if kind in ("feed", "arc") else 0.0,
                rpm=state.rpm if state.spindle != 5 else 0.0,
                coolant=state.coolant,
                arc=arc,
                seconds=seconds,
                beside=state.radius != 40,
            )
        )
        state.at = end

    def _fault(self, given: Given, what: str, says: str) -> None:
        self.faults.append(Fault(given.line, what, says))
