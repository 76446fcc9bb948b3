"""How a program begins and ends: the same however the control was left, and leaving nothing on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from wedgecraft.core.program.control import Control, Run
from wedgecraft.core.program.state import Setting, State
from wedgecraft.core.program.words import Block, ProgramRefused
from wedgecraft.core.records.program import Finding, ZeroTable

#: So many ways a control may have been left, and how many blocks it may take to set it right.
STATES, _BEGINNING = 200, 40
_MOST_TOLD = 8


def faults(went: Run) -> list[Finding]:
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
        local=(float(dice.uniform(-5, 5)), 1.0, 0.0) if setting.shifts else (0.0, 0.0, 0.0),
        turned=of(None, (1.0, 2.0, 30.0)) if setting.turns else None,
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


def same_from_any_state(blocks: Sequence[Block], setting: Setting) -> list[Finding]:
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


def ends(went: Run, table: ZeroTable) -> list[Finding]:
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
