"""One cycle as a time line: tools over stations and faces, tool changes, index moves, and the door.

Rapids are those between stations, and up and down at each. Cuts keep their order within an op; by
tool, a tool that several ops wait for is changed in once. Loading is hidden behind cutting where
the machine changes pallets.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from wedgecraft.core.records.cycle import Cycle, Segment
from wedgecraft.core.records.machine import Machine


@dataclass(frozen=True)
class OpTimes:
    """One op's cuts (name, tool, seconds on one part), how many of its parts each face has, its
    screws beyond one a part, and seconds of rapids when a tool goes to all its stations of a face;
    none where they are not known.
    """

    cuts: Sequence[tuple[str, str, float]]
    stations: Sequence[int]
    screws: int = 0
    rapids: Sequence[float] = ()

    def rapids_s(self, face: int) -> float:
        """For one visit of a face."""
        return self.rapids[face] if self.rapids else 0.0


def cycle(
    ops: Sequence[OpTimes],
    machine: Machine,
    order: Literal["by tool", "by station"],
    handling_s: float,
    screw_s: float = 0.0,
) -> Cycle:
    """The cycle of these ops on faces that the machine indexes to.

    ``handling_s``: seconds to load one part with one screw; ``screw_s``: for each screw beyond
    that, saved for each that parts share.
    """
    faces = len(ops[0].stations)
    by_tool, by_station = _by_tool(ops, machine, faces), _by_station(ops, machine, faces)
    segments = by_tool if order == "by tool" else by_station
    changes = {
        name: sum(item.times for item in found if item.what == "tool change")
        for name, found in (("by tool", by_tool), ("by station", by_station))
    }
    loading = max(
        0.0,
        handling_s * sum(sum(op.stations) for op in ops) + screw_s * sum(op.screws for op in ops),
    )
    machining = sum(item.seconds for item in segments)
    hidden = machine.pallets >= 2
    if hidden:
        segments = [
            *segments,
            Segment(what="pallet change", label="pallet change", seconds=machine.pallet_change_s),
        ]
        waits = loading - machining - machine.pallet_change_s
        if waits > 0:
            segments.append(Segment(what="door open", label="waits for loading", seconds=waits))
    else:
        segments = [*segments, Segment(what="door open", label="unload and load", seconds=loading)]
    total = sum(item.seconds for item in segments)
    return Cycle(
        segments=segments,
        seconds=total,
        order=order,
        tool_changes=changes[order],
        tool_changes_other=changes["by station" if order == "by tool" else "by tool"],
        index_moves=sum(item.what == "index" for item in segments),
        loading_seconds=loading,
        hidden=hidden,
        pallets=machine.pallets if hidden else 1,
        unattended_seconds=(machining + machine.pallet_change_s) * machine.pallets
        if hidden
        else machining,
    )


def _index(machine: Machine, faces: int, start: int, end: int) -> list[Segment]:
    """The shorter way round, at the machine's time for a quarter turn."""
    steps = min((end - start) % faces, (start - end) % faces)
    if steps == 0:
        return []
    angle = 360 * steps / faces
    return [
        Segment(
            what="index", label=f"index {angle:g}°", seconds=machine.index_s * angle / 90, face=end
        )
    ]


def _by_tool(ops: Sequence[OpTimes], machine: Machine, faces: int) -> list[Segment]:
    ahead = [list(op.cuts) for op in ops]
    found: list[Segment] = []
    at, forwards = 0, True
    while any(ahead):
        first = next(cuts for cuts in ahead if cuts)
        name, tool, _ = first[0]
        taken: list[tuple[int, float]] = []
        for kind, cuts in enumerate(ahead):
            while cuts and cuts[0][1] == tool:
                taken.append((kind, cuts.pop(0)[2]))
        found.append(Segment(what="tool change", label=name, seconds=machine.tool_change_s))
        # There and back, so that the last face of one tool is the first of the next.
        for face in range(faces) if forwards else reversed(range(faces)):
            seconds = sum(ops[kind].stations[face] * each for kind, each in taken)
            if seconds > 0:
                found += _index(machine, faces, at, face)
                found.append(Segment(what="cut", label=name, seconds=seconds, face=face))
                found += _rapids(sum(ops[kind].rapids_s(face) for kind, _ in taken), name, face)
                at = face
        forwards = not forwards
    return found


def _by_station(ops: Sequence[OpTimes], machine: Machine, faces: int) -> list[Segment]:
    found: list[Segment] = []
    at, in_spindle = 0, ""
    for face in range(faces):
        stations = sum(op.stations[face] for op in ops)
        if stations == 0:
            continue
        found += _index(machine, faces, at, face)
        tools = [tool for op in ops for _ in range(op.stations[face]) for _, tool, _ in op.cuts]
        changes = sum(tool != before for before, tool in pairwise([in_spindle, *tools]))
        in_spindle = tools[-1] if tools else in_spindle
        if changes:
            label = f"{changes} tool change{'s' if changes > 1 else ''}"
            seconds = changes * machine.tool_change_s
            found.append(
                Segment(what="tool change", label=label, seconds=seconds, face=face, times=changes)
            )
        seconds = sum(op.stations[face] * sum(each for _, _, each in op.cuts) for op in ops)
        label = f"{stations} stations"
        found.append(Segment(what="cut", label=label, seconds=seconds, face=face))
        found += _rapids(sum(len(op.cuts) * op.rapids_s(face) for op in ops), label, face)
        at = face
    return found


def _rapids(seconds: float, label: str, face: int) -> list[Segment]:
    """Nothing where none are known."""
    return [Segment(what="rapids", label=label, seconds=seconds, face=face)] if seconds else []
