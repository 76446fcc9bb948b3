"""One program for a whole setup out of a program for each op: by tool over faces and stations, or
station by station, with zeros, clear planes and a safe first and last block.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.ops import OpPiece, OpProgram
from wedgecraft.core.program.order import changes_by_station, fewest_changes, least_travel
from wedgecraft.core.program.poses import index_deg, rise_mm
from wedgecraft.core.program.words import MOST_LINES
from wedgecraft.core.program.written import figure, joined, written_out
from wedgecraft.core.records.program import PartZero, Program, Restart, ZeroTable

#: Over the highest thing that stands on a face, mm; house usage, from memory.
CLEAR_MM = 10.0
#: Lines are numbered in steps, so that a person can put some between.
_STEP = 10
#: So many lines stand round what one tool does at one part.
_AROUND = 12
_SAFE = "G0 G17 G21 G40 G49 G69 G80 G90 G94 G98"
_SAFE_UNTURNED = _SAFE.replace("G69 ", "")
_NO_SHIFT = "G52 X0 Y0 Z0"
#: Subprograms are numbered from here.
_FIRST_CALLED = 8001
_HOME_Z = "G53 G0 Z0"


@dataclass(frozen=True)
class _Stop:
    """One part that one tool goes to with one piece of its op's program."""

    part: PartZero
    piece: OpPiece


@dataclass(frozen=True)
class _Turn:
    """A tool in the spindle, and where it goes."""

    tool: int
    stops: tuple[_Stop, ...]


def frame(
    asked: Asked,
    table: ZeroTable,
    ops: Mapping[int, OpProgram],
    order: Literal["by tool", "by station"] | None = None,
    only: Sequence[int] | None = None,
    raised_mm: float | None = None,
) -> Program:
    """The program. ``ops``: of each kind of station, its place counted from 0; ``only``: numbers of
    the parts that are there, all where nothing is said; ``raised_mm``: first so high over the work,
    then, after a stop, at size. Raises OutOfRange where an op has none.
    """
    kinds = asked.design.kinds
    missing = [kind.name for k, kind in enumerate(kinds) if k not in ops]
    if missing:
        raise OutOfRange("ops", "no program", f"a program for {', '.join(missing)}")
    there = [part for part in table.parts if only is None or part.number in only]
    if not there:
        raise OutOfRange("only", 0, "at least one part")
    how = order or asked.request.rules.order
    turns = _by_tool(there, ops) if how == "by tool" else _by_station(there, ops)
    own = [len(stop.piece.lines) for turn in turns for stop in turn.stops]
    lines = len(own) * _AROUND + (0 if asked.request.machine.subprograms else sum(own))
    if lines > MOST_LINES:
        raise OutOfRange(
            "ops",
            f"{lines} lines",
            f"at most {MOST_LINES} lines for the whole setup: fewer parts in it, or programs that"
            " say more with fewer lines, as cycles, arcs and subprograms do",
        )
    text = _Text(asked, table)
    high = turns if raised_mm is None else [_raised(turn, raised_mm) for turn in turns]
    text.calls(turns)
    text.begin()
    if raised_mm is not None:
        for turn in high:
            text.tool(turn)
        text.look("RAISED UNTIL HERE. LOOK, THEN AT SIZE")
    for turn in turns:
        text.tool(turn)
    text.end()
    stations = [part.kind for part in there]
    orders = {k: op.tools for k, op in ops.items()}
    other = (
        changes_by_station([orders[k] for k in sorted(orders)], stations)
        if how == "by tool"
        else len(fewest_changes(tuple(orders[k] for k in sorted({p.kind for p in there}))))
    )
    return Program(
        text="\n".join(text.lines) + "\n",
        order=how,
        tools=[turn.tool for turn in turns],
        tool_changes=len(turns),
        tool_changes_other=other,
        index_moves=text.indexed,
        parts=[part.number for part in there],
        restarts=text.restarts,
    )


def chained(
    asked: Asked, table: ZeroTable, numbers: Mapping[int, int], only: Sequence[int] | None = None
) -> Program:
    """Programs that are in the control under these ``numbers``, of each kind of station, called at
    every part with its zero. What they do nobody here knows. Raises OutOfRange.
    """
    there = [part for part in table.parts if only is None or part.number in only]
    machine = asked.request.machine
    moved = next((p for p in there if any(p.shift_mm) or p.turn_deg), None)
    if moved is not None and not (machine.local_shift and machine.turned_coordinates):
        raise OutOfRange(
            "setup.zeros.strategy",
            table.strategy,
            "one per station: this control neither shifts nor turns what it calls",
        )
    text = _Text(asked, table)
    text.begin()
    order = _travelled(there, False)
    for part in order:
        text.call(part, numbers[part.kind])
    text.end()
    return Program(
        text="\n".join(text.lines) + "\n",
        order="by station",
        tools=[],
        tool_changes=0,
        tool_changes_other=0,
        index_moves=text.indexed,
        parts=[part.number for part in there],
        restarts=text.restarts,
    )


def _raised(turn: _Turn, by_mm: float) -> _Turn:
    stops = []
    for stop in turn.stops:
        x, y, z = stop.part.shift_mm
        part = stop.part.model_copy(update={"shift_mm": (x, y, z + by_mm)})
        stops.append(_Stop(part, stop.piece))
    return _Turn(turn.tool, tuple(stops))


def _by_tool(parts: Sequence[PartZero], ops: Mapping[int, OpProgram]) -> list[_Turn]:
    """As few changes as any order has; there and back over faces, and over the parts of each."""
    kinds = sorted({part.kind for part in parts})
    ahead = {k: list(ops[k].pieces) for k in kinds}
    found: list[_Turn] = []
    for number, tool in enumerate(fewest_changes(tuple(ops[k].tools for k in kinds))):
        now: dict[int, list[OpPiece]] = {}
        for k in kinds:
            while ahead[k] and ahead[k][0].tool == tool:
                now.setdefault(k, []).append(ahead[k].pop(0))
        stops = [
            _Stop(part, piece)
            for part in _travelled([part for part in parts if now.get(part.kind)], number % 2 == 1)
            for piece in now[part.kind]
        ]
        found.append(_Turn(tool, tuple(stops)))
    return found


def _by_station(parts: Sequence[PartZero], ops: Mapping[int, OpProgram]) -> list[_Turn]:
    found: list[_Turn] = []
    for part in _travelled(parts, False):
        for piece in ops[part.kind].pieces:
            if found and found[-1].tool == piece.tool:
                found[-1] = _Turn(piece.tool, (*found[-1].stops, _Stop(part, piece)))
            else:
                found.append(_Turn(piece.tool, (_Stop(part, piece),)))
    return found


def _travelled(parts: Sequence[PartZero], back: bool) -> list[PartZero]:
    """Face by face, on each by the shortest way from where the last one ended."""
    faces = sorted({part.face for part in parts}, reverse=back)
    found: list[PartZero] = []
    for face in faces:
        own = [part for part in parts if part.face == face]
        places = np.array([part.at_mm[:2] for part in own])
        start = np.array(found[-1].at_mm[:2]) if found else None
        found += [own[k] for k in least_travel(places, start)]
    return found


class _Text:
    """The lines, numbered, and what the control is left in."""

    def __init__(self, asked: Asked, table: ZeroTable) -> None:
        self.asked, self.table = asked, table
        self.lines: list[str] = []
        self.restarts: list[Restart] = []
        self.indexed = 0
        self._number = 0
        self._called: dict[tuple[str, ...], int] = {}
        self._face: int | None = None
        self._first = table.zeros[0].name
        block = asked.request.block
        self._letter = "" if block.faces == 1 else ("B" if block.axis == "upright" else "A")

    def begin(self) -> None:
        request = self.asked.request
        name = "".join(c if c.isalnum() or c in " -." else " " for c in request.name.upper())
        self.lines += [
            "%",
            f"O{1000 + self.asked.number} ({name.strip()} SETUP {self.asked.number})",
        ]
        self._safe()
        for line in request.machine.first_lines:
            self._say(line)
        self._say(_HOME_Z)

    def _safe(self) -> None:
        """Every modal group, and nothing of a shift left."""
        self._say(_SAFE if self.asked.request.machine.turned_coordinates else _SAFE_UNTURNED)
        self._say(self._first)
        self._no_shift()

    def _no_shift(self) -> None:
        if self.asked.request.machine.local_shift:
            self._say(_NO_SHIFT)

    def tool(self, turn: _Turn) -> None:
        self._say(f"T{turn.tool} M6")
        if self.asked.request.machine.stops_to_look:
            self._say("M1")
        for stop in turn.stops:
            self._to_face(stop.part.face)
            self._stop(turn.tool, stop)
        self._say("M9")
        self._say("M5")
        self._say(_HOME_Z)
        self._say("G49")

    def call(self, part: PartZero, number: int) -> None:
        """A program of the control, from a part's own zero."""
        self._to_face(part.face)
        kind = self.asked.design.kinds[part.kind]
        self.lines.append(f"(PART {part.number} STATION {part.station} OP {kind.op_number})")
        self.restarts.append(
            Restart(line=self._number + _STEP, tool=0, part=part.number, station=part.station)
        )
        self._say(part.zero)
        if self.asked.request.machine.local_shift:
            x, y, z = part.shift_mm
            self._say(f"G52 X{figure(x)} Y{figure(y)} Z{figure(z)}")
        if part.turn_deg:
            self._say(f"G68 X0 Y0 R{figure(part.turn_deg)}")
        self._say(f"M98 P{number}")
        self._say("M9")
        self._say("M5")
        self._say(_HOME_Z)
        self._safe()

    def look(self, says: str) -> None:
        """Stops until a person goes on."""
        self.lines.append(f"({says})")
        self._say("M0")

    def end(self) -> None:
        if self._letter and self._face:
            self._to_face(0)
        self._safe()
        for line in self.asked.request.machine.last_lines:
            self._say(line)
        self._say("M30")
        for lines, number in self._called.items():
            self.lines.append(f"O{number}")
            self.lines += [*lines, "M99"]
        self.lines.append("%")

    def _to_face(self, face: int) -> None:
        if not self._letter or face == self._face:
            self._face = face
            return
        self._say(_HOME_Z)
        self._say(f"G90 {self._letter}{figure(index_deg(self.asked.request.block, face))}")
        self.indexed += self._face is not None
        self._face = face

    def _stop(self, tool: int, stop: _Stop) -> None:
        part, piece = stop.part, stop.piece
        kind = self.asked.design.kinds[part.kind]
        self.lines.append(
            f"(T{tool} PART {part.number} STATION {part.station} OP {kind.op_number})"
        )
        self.restarts.append(
            Restart(line=self._number + _STEP, tool=tool, part=part.number, station=part.station)
        )
        x, y, z = part.shift_mm
        machine = self.asked.request.machine
        self._say(part.zero)
        if machine.local_shift:
            self._say(f"G52 X{figure(x)} Y{figure(y)} Z{figure(z)}")
        turned = part.turn_deg and self._turns
        if turned:
            self._say(f"G68 X0 Y0 R{figure(part.turn_deg)}")
        clear = self._clear_mm(part)
        at = np.array(piece.begins_at or (0.0, 0.0))
        off = np.zeros(3)
        if not machine.local_shift:
            off = np.array(part.shift_mm)
        if part.turn_deg and not turned:
            turn = np.radians(part.turn_deg)
            at = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ at
        at, clear = at + off[:2], clear + float(off[2])
        self._say(f"G0 X{figure(at[0])} Y{figure(at[1])}")
        self._say(f"G43 H{tool} Z{figure(clear)}")
        lines = self._spoken(stop)
        number = self._called.get(lines)
        for line in [f"M98 P{number}"] if number is not None else lines:
            self._say(line)
        self._say("G80")
        self._say(f"G90 G21 G17 G40 G94 G98 G0 Z{figure(clear)}")
        if turned:
            self._say("G69")
        self._no_shift()

    @property
    def _turns(self) -> bool:
        """Whether the control turns coordinates about a part's own zero."""
        machine = self.asked.request.machine
        return machine.turned_coordinates and machine.local_shift

    def _spoken(self, stop: _Stop) -> tuple[str, ...]:
        """What is said at a stop, as this control takes it."""
        part, machine = stop.part, self.asked.request.machine
        shift = (0.0, 0.0, 0.0) if machine.local_shift else part.shift_mm
        turn = 0.0 if self._turns else part.turn_deg
        return (*_preamble(stop.piece), *written_out(stop.piece, shift, turn))

    def calls(self, turns: Sequence[_Turn]) -> None:
        """What is said more than once is said in subprograms, where the shop wants them."""
        if self.asked.request.machine.subprograms:
            said = [self._spoken(stop) for turn in turns for stop in turn.stops]
            self._called = joined(said, _FIRST_CALLED)

    def _clear_mm(self, part: PartZero) -> float:
        """Over everything on that face, from the part's own zero."""
        highest = max(
            body.high_mm + rise_mm(self.asked, station.kind)
            for station in self.asked.on_face(part.face)
            for body in self.asked.design.kinds[station.kind].drawing.bodies
        )
        top = self.asked.kinds[part.kind].sitting.top_mm + rise_mm(self.asked, part.kind)
        return highest - top + CLEAR_MM

    def _say(self, line: str) -> None:
        if line:
            self._number += _STEP
            self.lines.append(f"N{self._number} {line}")


def _preamble(piece: OpPiece) -> list[str]:
    """The state in which a piece of an op's program begins, whatever ran before it here."""
    state = piece.start
    words = [
        f"G{state.plane}",
        "G20" if state.inch else "G21",
        "G90" if state.absolute else "G91",
        "G95" if state.per_turn else "G94",
        "G98" if state.to_first else "G99",
        f"G{state.motion if state.motion in (0, 1) else 0}",
    ]
    unit = 25.4 if state.inch else 1.0
    if state.rpm:
        words.append(f"S{figure(state.rpm)}")
    if state.feed:
        words.append(f"F{figure(state.feed / unit)}")
    return [" ".join(words)]
