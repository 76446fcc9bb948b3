"""A setup's program tried on the stand-in: whether every part gets every tool of its op just once,
where it should; whether it does the same however the control was left; limits, and how it ends.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.control import Control, Run, run
from wedgecraft.core.program.motion import Move, Pace
from wedgecraft.core.program.ops import OpPiece, OpProgram
from wedgecraft.core.program.poses import middle_of, shifted, spun
from wedgecraft.core.program.state import Setting, State
from wedgecraft.core.program.words import Block, ProgramRefused, read
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.program import Finding, PartZero, Tried, ZeroTable

Array = NDArray[np.float64]
#: Paths this near are the same: figures are written to a tenth of this.
_SAME_MM = 2e-3
#: So many ways a control may have been left, and how many blocks it may take to set it right.
STATES, _BEGINNING = 200, 40
#: A tool whose length nobody has said is taken as this long, each a little longer than the one
#: before, so that one tool with another's length cuts at another height.
_LENGTH_MM, _LONGER_MM = 150.0, 0.1
_MOST_TOLD = 8


def lengths_of(machine: Machine, tools: Sequence[int]) -> tuple[dict[int, float], list[int]]:
    """From the spindle's face to the tip, of holder and cutter; and tools nobody has said it of."""
    known = {
        tool.number: tool.holder.gauge_length_mm
        + (tool.cutter.reach_mm or tool.cutter.flute_length_mm)
        for tool in machine.tools
        if tool.holder is not None
    }
    unsaid = sorted({tool for tool in tools if tool not in known})
    return {tool: known.get(tool, _LENGTH_MM + _LONGER_MM * tool) for tool in tools}, unsaid


def setting_of(asked: Asked, table: ZeroTable, tools: Sequence[int]) -> Setting:
    """The control before the program runs: this table in its offsets, other names at nothing."""
    machine = asked.request.machine
    zeros = dict.fromkeys(machine.work_offsets, (0.0, 0.0, 0.0))
    zeros |= {zero.name: zero.at_mm for zero in table.zeros}
    return Setting(
        zeros,
        lengths=lengths_of(machine, tools)[0],
        pace=Pace(
            1000 * machine.rapid_m_min,
            1000 * machine.acceleration_m_s2,
            machine.tool_change_s,
            machine.pallet_change_s,
            machine.index_s,
        ),
    )


def tried(asked: Asked, table: ZeroTable, ops: Mapping[int, OpProgram], text: str | bytes) -> Tried:
    """Raises ProgramRefused, where a control would stop."""
    blocks = read(text)
    called = [int(w.value) for block in blocks for w in block.words if w.letter == "T"]
    setting = setting_of(
        asked, table, sorted({*called, *(t for op in ops.values() for t in op.tools)})
    )
    went = run(blocks, setting)
    findings = [
        *_each_once(table, ops, _at_the_tip(went, setting)),
        *_faults(went),
        *_same_from_any_state(blocks, setting),
        *_ends(went, table),
        *_limits(asked.request.machine, went),
        Finding(
            check="what is hit on the way",
            stands=None,
            says="not looked at yet: run it in single block, clear of the part, before trusting it",
        ),
    ]
    findings.sort(key=lambda item: (item.stands is not False, item.stands is True))
    changes = sum(move.what == "tool" for move in went.moves)
    return Tried(seconds=went.seconds, tool_changes=changes, lines=len(blocks), findings=findings)


# every part, every tool, once --------------------------------------------------------------------


@dataclass
class _Wanted:
    """What one part must get of one tool: the path of its piece, in machine coordinates."""

    part: PartZero
    piece: OpPiece
    path: list[Move]
    pose: Array
    done: bool = False
    first: Array = field(default_factory=lambda: np.zeros(6))

    def __post_init__(self) -> None:
        if self.path:
            self.first = self.placed(self.path[0])

    def placed(self, move: Move) -> Array:
        """Where a move of the op's own program begins and ends in the machine, at the tip."""
        ends = np.array([[*move.start, 1.0], [*move.end, 1.0]])
        ends[:, 2] -= move.tip_mm
        found: Array = (ends @ self.pose.T)[:, :3].ravel()
        return found


def _at_the_tip(went: Run, setting: Setting) -> list[Move]:
    """Moves at feed with how long the tool in the spindle really is, whatever length is on."""
    return [
        replace(move, tip_mm=setting.lengths.get(move.tool, 0.0))
        for move in went.moves
        if move.cuts
    ]


def _each_once(
    table: ZeroTable, ops: Mapping[int, OpProgram], cuts: Sequence[Move]
) -> list[Finding]:
    """Cutting moves in the order they came, matched with what each part wants of each tool."""
    check = "every part gets every tool of its op once"
    wanted = [
        _Wanted(part, piece, piece.cutting, _pose(part))
        for part in table.parts
        for op in [ops.get(part.kind)]
        if op is not None
        for piece in op.pieces
        if piece.cutting
    ]
    by_tool: dict[int, list[_Wanted]] = {}
    for each in wanted:
        by_tool.setdefault(each.piece.tool, []).append(each)
    found: list[Finding] = []
    at = 0
    while at < len(cuts) and len(found) < _MOST_TOLD:
        move = cuts[at]
        item = _belongs(by_tool.get(move.tool, []), move)
        if item is None:
            found.append(_stray(check, by_tool.get(move.tool, []), move))
            at += 1
            while at < len(cuts) and _belongs(by_tool.get(cuts[at].tool, []), cuts[at]) is None:
                at += 1
            continue
        wrong = next(
            (
                k
                for k, own in enumerate(item.path)
                if at + k >= len(cuts) or not _alike(item, own, cuts[at + k])
            ),
            None,
        )
        item.done = True
        if wrong is not None:
            last = cuts[min(at + wrong, len(cuts) - 1)]
            says = f"T{move.tool} leaves its path at part {item.part.number}"
            found.append(
                Finding(check=check, stands=False, says=says, line=last.line, part=item.part.number)
            )
        at += len(item.path) if wrong is None else max(wrong, 1)
    for left in wanted:
        if not left.done and len(found) < _MOST_TOLD:
            where = f"part {left.part.number}, station {left.part.station}"
            says = f"{where}, never gets T{left.piece.tool}"
            found.append(Finding(check=check, stands=False, says=says, part=left.part.number))
    if not wanted:
        return [Finding(check=check, stands=None, says="no op has a program to compare with")]
    if found:
        return found
    many, mine = len(table.parts), sum(part.kind in ops for part in table.parts)
    if mine < many:
        says = f"{mine} of {many} parts; the others' ops have no program to compare with"
        return [Finding(check=check, stands=None, says=says)]
    return [Finding(check=check, stands=True, says=f"{many} of {many} parts")]


def _pose(part: PartZero) -> Array:
    found: Array = shifted(*part.at_mm) @ spun(2, part.turn_deg)
    return found


def _ends_of(move: Move) -> Array:
    found = np.array([*move.start, *move.end])
    found[[2, 5]] -= move.tip_mm
    return found


def _belongs(items: Sequence[_Wanted], move: Move) -> _Wanted | None:
    ends = _ends_of(move)
    for item in items:
        if not item.done and np.abs(item.first[3:] - ends[3:]).max() < _SAME_MM:
            return item
    return None


def _alike(item: _Wanted, own: Move, move: Move) -> bool:
    """The same move, at the same feed, about the same middle."""
    if move.what != own.what or move.tool != item.piece.tool:
        return False
    same = np.abs(item.placed(own)[3:] - _ends_of(move)[3:]).max() < _SAME_MM
    if move.arc is not None and own.arc is not None:
        same = same and abs(move.arc.sweep - own.arc.sweep) < 1e-3
    return bool(same and abs(move.feed - own.feed) < 1e-3 * max(own.feed, 1.0))


def _stray(check: str, items: Sequence[_Wanted], move: Move) -> Finding:
    """A cut where none should be: how far from the nearest that there is."""
    ends = _ends_of(move)
    if not items:
        says = f"T{move.tool} cuts, and no op has it"
        return Finding(check=check, stands=False, says=says, line=move.line)
    near = min(items, key=lambda item: float(np.abs(item.first[3:] - ends[3:]).max()))
    x, y, z = (ends[3:] - near.first[3:]).tolist()
    if near.done and max(abs(x), abs(y), abs(z)) < _SAME_MM:
        says = f"T{move.tool} cuts part {near.part.number} a second time"
    else:
        says = (
            f"T{move.tool} cuts where no part has that cut: the nearest is part"
            f" {near.part.number}, off by X {x:.3f} Y {y:.3f} Z {z:.3f} mm"
        )
    return Finding(check=check, stands=False, says=says, line=move.line, part=near.part.number)


# how it begins and ends --------------------------------------------------------------------------


def _faults(went: Run) -> list[Finding]:
    check = "spindle, coolant, home"
    if not went.faults:
        return [Finding(check=check, stands=True, says="on before feed, off before a change")]
    return [
        Finding(check=check, stands=False, says=fault.says, line=fault.line)
        for fault in went.faults[:_MOST_TOLD]
    ]


def any_state(dice: np.random.Generator, setting: Setting) -> State:
    """A control as someone may have left it."""

    def of(*options: Any) -> Any:
        return options[int(dice.integers(len(options)))]

    x, y = dice.uniform(-200, 0, 2).tolist()
    tools = (0, *setting.lengths)
    return State(
        at=(x, y, of(0.0, -50.0)),
        motion=of(0, 1, 2, 3),
        plane=of(17, 18, 19),
        absolute=of(True, False),
        inch=of(True, False),
        per_turn=of(True, False),
        zero=of(*sorted(setting.zeros)),
        local=(float(dice.uniform(-5, 5)), 1.0, 0.0),
        turned=of(None, (1.0, 2.0, 30.0)),
        length_on=of(True, False),
        length_of=of(*tools),
        radius=of(40, 41, 42),
        cycle=of(None, {"code": 81, "z": -5.0, "r": 2.0}),
        to_first=of(True, False),
        feed=of(0.0, 123.0),
        rpm=of(0.0, 4567.0),
        tool=of(*tools),
        waiting=of(*tools),
    )


def _same_from_any_state(blocks: Sequence[Block], setting: Setting) -> list[Finding]:
    """The control is in the same state after a few blocks, however it was left: then all that
    follows is the same. Until then it may go home, and nothing else.
    """
    check = "same motions however the control was left"
    head = _head(blocks)
    dice = np.random.default_rng(len(blocks))
    wanted: tuple[object, ...] | None = None
    for _ in range(STATES):
        control = Control(setting, any_state(dice, setting))
        begun = control.state.at
        try:
            control.go(head)
        except ProgramRefused as refused:
            says = f"left otherwise, the control stops there: {refused.word}; {refused.allowed}"
            return [Finding(check=check, stands=False, says=says, line=refused.line)]
        state = control.state
        moved = [m for m in control.moves if m.goes]
        if any(m.end[:2] != begun[:2] for m in moved):
            line = next(m.line for m in moved if m.end[:2] != begun[:2])
            says = "it moves in X or Y before every modal group is set"
            return [Finding(check=check, stands=False, says=says, line=line)]
        left = _modal(state)
        if wanted is None:
            wanted = left
        elif left != wanted:
            what = ", ".join(
                name for name, a, b in zip(_GROUPS, left, wanted, strict=True) if a != b
            )
            says = f"its first cut depends on how the control was left: {what}"
            return [
                Finding(check=check, stands=False, says=says, line=head[-1].line if head else 1)
            ]
    return [Finding(check=check, stands=True, says=f"tried from {STATES} states")]


_GROUPS = (
    "plane", "G90 or G91", "G20 or G21", "G94 or G95", "work offset", "G52", "G68", "compensation",
    "cycle", "return level", "tool", "height",
)  # fmt: skip


def _modal(state: State) -> tuple[object, ...]:
    return (
        state.plane, state.absolute, state.inch, state.per_turn, state.zero, state.local,
        state.turned, state.radius, state.cycle is None, state.to_first, state.tool, state.at[2],
    )  # fmt: skip


def _head(blocks: Sequence[Block]) -> list[Block]:
    """Up to where the first tool is in, or a few blocks."""
    for k, block in enumerate(blocks[:_BEGINNING]):
        if any(word.letter == "M" and word.value == 6 for word in block.words):
            return list(blocks[: k + 1])
    return list(blocks[:_BEGINNING])


def _ends(went: Run, table: ZeroTable) -> list[Finding]:
    check = "ends as it should"
    state, first = went.end, table.zeros[0].name
    wrong = [
        says
        for says, bad in (
            ("it does not end with M30", not went.ended),
            (f"it ends in {state.zero}, not in {first}", state.zero != first),
            ("a shift, G52, is left", state.local != (0.0, 0.0, 0.0)),
            ("turned coordinates, G68, are left", state.turned is not None),
            ("radius compensation is left on", state.radius != 40),
            ("a cycle is left on", state.cycle is not None),
            ("coordinates are left incremental, G91", not state.absolute),
            ("Z is not home", state.at[2] < -1e-6),
        )
        if bad
    ]
    if wrong:
        return [Finding(check=check, stands=False, says=says) for says in wrong]
    return [Finding(check=check, stands=True, says=f"in {first}, nothing left on")]


def _limits(machine: Machine, went: Run) -> list[Finding]:
    """Where nobody has said where the table's middle is, only how far X and Y go in all."""
    check = "travels, speed, magazine"
    said = middle_of(machine)[1]
    found = _travels(check, machine, went, said)
    for move in went.moves:
        if move.rpm > machine.spindle_rpm:
            says = f"{move.rpm:.0f} turns a minute; the spindle has {machine.spindle_rpm:.0f}"
            found.append(Finding(check=check, stands=False, says=says, line=move.line))
            break
    tools = {move.tool for move in went.moves if move.what == "tool"}
    if len(tools) > machine.magazine:
        says = f"{len(tools)} tools; the magazine holds {machine.magazine}"
        found.append(Finding(check=check, stands=False, says=says))
    unsaid = lengths_of(machine, sorted(tools))[1]
    if not found and (unsaid or not said):
        what = []
        if unsaid:
            what.append(f"the lengths of {', '.join(f'T{n}' for n in unsaid)}")
        if not said:
            what.append("where the table's middle is")
        says = f"within travels as far as is known: nobody has said {' and '.join(what)}"
        return [Finding(check=check, stands=None, says=says)]
    return found or [Finding(check=check, stands=True, says="within all")]


def _travels(check: str, machine: Machine, went: Run, said: bool) -> list[Finding]:
    (x, y, _), _ = middle_of(machine)
    half, deep, across = machine.travel_x_mm / 2, machine.travel_z_mm, machine.travel_y_mm
    reach = [(x - half, x + half), (y - across / 2, y + across / 2), (-deep, 0.0)]
    if machine.spindle_level:
        reach[1] = (y, y + across)
    moves = list(went.moves)
    if not said:  # where it began, at home, says nothing of the table either
        first = next((k for k, move in enumerate(moves) if move.what == "feed"), len(moves))
        moves = moves[first:]
    ends = np.array([move.end for move in moves] or [(0.0, 0.0, 0.0)])
    found = []
    for k, axis in enumerate("XYZ"):
        low, high = reach[k]
        over = np.maximum(low - ends[:, k], ends[:, k] - high)
        if not said:
            over = np.full(len(ends), np.ptp(ends[:, k]) - (high - low) if k < 2 else 0.0)
        worst = int(np.argmax(over))
        if over[worst] > 1e-6:
            says = f"{axis} goes {over[worst]:.1f} mm beyond its travel"
            line = moves[worst].line
            found.append(Finding(check=check, stands=False, says=says, line=line))
    return found
