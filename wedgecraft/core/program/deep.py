"""Deep holes: whether a drill comes right out often enough.

In brass, from about 7 diameters deep, a drill withdraws fully on every peck: common practice, no
source.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from wedgecraft.core.cutting.shape import shape_of
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.motion import Move
from wedgecraft.core.program.ops import OpProgram
from wedgecraft.core.program.tooling import cutters_of
from wedgecraft.core.records.program import Finding

CHECK = "deep holes"
_DEEP_DIAMETERS = 7.0
_SAME_MM = 1e-3


def deep_holes(asked: Asked, ops: Mapping[int, OpProgram]) -> list[Finding]:
    """Nothing where no op drills brass so deep."""
    found = []
    cutters = cutters_of(asked)
    for kind, op in ops.items():
        ready = asked.kinds[kind]
        if "brass" not in ready.sitting.part.material.name.lower():
            continue
        for piece in op.pieces:
            cutter = cutters.get(piece.tool)
            if cutter is None or not shape_of(cutter).point:
                continue
            deepest = max(_without_coming_out(piece.moves), default=0.0)
            times = deepest / cutter.diameter_mm
            if times > _DEEP_DIAMETERS + 1e-6:
                says = (
                    f"op {ready.sitting.op.number}, T{piece.tool} goes {times:.1f} diameters deep"
                    " without coming out: in brass it comes right out on every peck from about 7"
                )
                found.append(Finding(check=CHECK, stands=None, says=says))
    return found


def _without_coming_out(moves: Sequence[Move]) -> Iterator[float]:
    """How much deeper each stretch cuts from coming out over the finished top to the next time; of
    each hole anew.
    """
    done: dict[tuple[float, float], float] = {}
    place, low = (0.0, 0.0), 0.0
    for move in [*moves, None]:
        if move is None or move.end[2] >= -_SAME_MM:
            before = done.get(place, 0.0)
            if low < before:
                yield before - low
                done[place] = low
            low = 0.0
            continue
        place = round(move.end[0], 3), round(move.end[1], 3)
        if move.cuts:
            low = min(low, move.end[2])
