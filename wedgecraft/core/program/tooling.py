"""The room a tool takes, from its tip up: its cutting edges, its shank, its holder."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from wedgecraft.core.cutting.shape import edge_length_mm, edge_radius_mm, rise_of, shape_of
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.tool import Holder

#: A tool whose length nobody has said is taken as this long, each a little longer than the one
#: before, so that one tool with another's length cuts at another height.
_LENGTH_MM, _LONGER_MM = 150.0, 0.1
#: A tool of which nobody has said anything is looked at as a pin of this radius: what that meets,
#: any tool meets.
_PIN_MM = 0.5
#: A holder is as thick as its nose for so far, then as its body; house usage, from memory.
_NOSE_MM = 20.0
#: Where it does not cut, a tool is this share of its radius thinner than its edges.
_RELIEVED = 0.98
#: What share of a cutter's width the arbor over it has where nobody has said how it is held; house
#: usage, from memory.
_ARBOR = 0.5
_NAMED = re.compile(r"T(\d+)\b")


@dataclass(frozen=True)
class Ring:
    """``radius_mm`` from ``low_mm`` over the tip upwards, as far as the next one goes."""

    says: str
    radius_mm: float
    low_mm: float


@dataclass(frozen=True)
class ToolShape:
    """``rings`` from the tip up, the first one the cutting edges; ``rise``: how much higher its end
    is for a millimetre from its axis. ``whole``: it cuts nothing but what it leaves open above;
    ``unsaid``: what nobody has said of it.
    """

    number: int
    length_mm: float
    rings: tuple[Ring, ...]
    rise: float = 0.0
    whole: bool = True
    unsaid: str = ""

    @property
    def widest_mm(self) -> float:
        return max(ring.radius_mm for ring in self.rings)


def lengths_of(machine: Machine, tools: Sequence[int]) -> tuple[dict[int, float], list[int]]:
    """From the spindle's face to the tip, of holder and cutter; and tools nobody has said it of."""
    known = {
        tool.number: tool.holder.gauge_length_mm + out_mm(tool.cutter)
        for tool in machine.tools
        if tool.holder is not None
    }
    unsaid = sorted({tool for tool in tools if tool not in known})
    return {tool: known.get(tool, _LENGTH_MM + _LONGER_MM * tool) for tool in tools}, unsaid


def tool_shapes(asked: Asked, tools: Sequence[int]) -> dict[int, ToolShape]:
    """T0 is an empty spindle. Others by the machine's tool table; else by a cut of the setup's ops
    that is named after the tool, as "T5 ports, drill" is, without a holder; else a pin.
    """
    machine = asked.request.machine
    table = {tool.number: tool for tool in machine.tools}
    cutters = cutters_of(asked)
    lengths, _ = lengths_of(machine, tools)
    found = {}
    for number in tools:
        tool, length = table.get(number), lengths[number] if number else 0.0
        cutter = cutters.get(number)
        holder = tool.holder if tool is not None else None
        found[number] = _shape(number, length, cutter, holder)
    return found


def cutters_of(asked: Asked) -> Mapping[int, Cutter]:
    """By number, as far as anybody has said."""
    known = {tool.number: tool.cutter for tool in asked.request.machine.tools}
    return _named(asked) | known


def _named(asked: Asked) -> dict[int, Cutter]:
    found: dict[int, Cutter] = {}
    for kind in asked.kinds:
        for cut in kind.sitting.op.cuts:
            said = _NAMED.match(cut.name)
            if said:
                found.setdefault(int(said[1]), cut.tool)
    return found


def out_mm(cutter: Cutter) -> float:
    """How far it stands out of its holder."""
    return cutter.reach_mm or cutter.flute_length_mm


def _shape(
    number: int, length_mm: float, cutter: Cutter | None, holder: Holder | None
) -> ToolShape:
    if cutter is None:
        return ToolShape(
            number, length_mm, (Ring("tip", _PIN_MM, 0.0),), unsaid="the cutter and the holder"
        )
    shape, radius, edges = shape_of(cutter), edge_radius_mm(cutter), edge_length_mm(cutter)
    rings = [Ring("cutter", radius, 0.0)]
    out = max(out_mm(cutter), edges)
    if out > edges:
        shank = radius * _RELIEVED
        if shape.on_arbor:
            shank = min(shank, holder.bore_mm / 2 if holder is not None else radius * _ARBOR)
        rings.append(Ring("shank", shank, edges))
    if holder is not None:
        rings.append(Ring("holder", holder.nose_diameter_mm / 2, out))
        if holder.gauge_length_mm > _NOSE_MM:
            body = max(holder.nose_diameter_mm, holder.body_diameter_mm) / 2
            rings.append(Ring("holder", body, out + _NOSE_MM))
    return ToolShape(
        number,
        length_mm,
        tuple(rings),
        rise_of(cutter),
        whole=not shape.blade,
        unsaid="" if holder is not None else "the holder",
    )
