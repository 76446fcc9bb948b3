"""A setup's program tried on the stand-in, and what is found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.control import Run, run
from wedgecraft.core.program.deep import deep_holes
from wedgecraft.core.program.left import ends, faults, same_from_any_state
from wedgecraft.core.program.meets import met
from wedgecraft.core.program.motion import Pace
from wedgecraft.core.program.once import each_once
from wedgecraft.core.program.ops import OpProgram
from wedgecraft.core.program.reach import within_reach
from wedgecraft.core.program.scene import Scene
from wedgecraft.core.program.state import Setting
from wedgecraft.core.program.tooling import lengths_of
from wedgecraft.core.program.words import Block, read
from wedgecraft.core.records.program import PartZero, Tried, ZeroTable


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
        shifts=machine.local_shift,
        turns=machine.turned_coordinates,
    )


def tried(
    asked: Asked,
    table: ZeroTable,
    ops: Mapping[int, OpProgram],
    text: str | bytes,
    envelopes: Sequence[str] = (),
    again: bool = False,
    raised: Sequence[PartZero] = (),
) -> Tried:
    """Raises ProgramRefused, where a control would stop. ``envelopes``: names of ops of which only
    the sweep of their cuts is known; ``again``: parts are put in as they came out; ``raised``:
    parts that are gone through over the work before.
    """
    blocks = read(text)
    went = ran(asked, table, ops, blocks)
    return judged(asked, table, ops, blocks, went, envelopes, again, raised)


def judged(
    asked: Asked,
    table: ZeroTable,
    ops: Mapping[int, OpProgram],
    blocks: Sequence[Block],
    ran_as: tuple[Setting, Run],
    envelopes: Sequence[str] = (),
    again: bool = False,
    raised: Sequence[PartZero] = (),
) -> Tried:
    """Of a program that was run."""
    setting, went = ran_as
    findings = [
        *each_once(
            table.model_copy(update={"parts": [*raised, *table.parts]}),
            ops,
            went,
            setting,
            Scene(asked, table.parts),
        ),
        *faults(went),
        *same_from_any_state(blocks, setting),
        *ends(went, table),
        *within_reach(asked.request.machine, went),
        *met(asked, table.parts, went, again),
        *deep_holes(asked, ops),
    ]
    findings.sort(key=lambda item: (item.stands is not False, item.stands is True))
    changes = sum(move.what == "tool" for move in went.moves)
    return Tried(
        accepted=not envelopes and all(item.stands for item in findings),
        envelopes=list(envelopes),
        seconds=went.seconds,
        tool_changes=changes,
        lines=len(blocks),
        findings=findings,
    )


def ran(
    asked: Asked, table: ZeroTable, ops: Mapping[int, OpProgram], blocks: Sequence[Block]
) -> tuple[Setting, Run]:
    """The control as it is set for it, and how it goes. Raises ProgramRefused."""
    called = [int(w.value) for block in blocks for w in block.words if w.letter == "T"]
    tools = sorted({*called, *(t for op in ops.values() for t in op.tools)})
    setting = setting_of(asked, table, tools)
    return setting, run(blocks, setting)
