"""What a machine has: travels, spindle speed, places in the magazine."""

from __future__ import annotations

import numpy as np

from wedgecraft.core.program.control import Run
from wedgecraft.core.program.poses import middle_of
from wedgecraft.core.program.tooling import lengths_of
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.program import Finding


def within_reach(machine: Machine, went: Run) -> list[Finding]:
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
    lengths, unsaid = lengths_of(machine, sorted(tools))
    for tool in sorted(tools - set(unsaid)):
        if lengths[tool] > machine.longest_tool_mm + 1e-9:
            most = machine.longest_tool_mm
            says = f"T{tool} is {lengths[tool]:g} mm long; the machine takes {most:g}"
            found.append(Finding(check=check, stands=False, says=says))
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
