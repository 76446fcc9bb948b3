"""Whether every part gets every tool of its op just once, where it should."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.program.control import Run
from wedgecraft.core.program.motion import Move
from wedgecraft.core.program.ops import OpPiece, OpProgram
from wedgecraft.core.program.poses import shifted, spun
from wedgecraft.core.program.state import Setting
from wedgecraft.core.records.program import Finding, PartZero, ZeroTable

Array = NDArray[np.float64]
#: Paths this near are the same: figures are written to a tenth of this.
_SAME_MM = 2e-3
_MOST_TOLD = 8


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


def each_once(
    table: ZeroTable, ops: Mapping[int, OpProgram], went: Run, setting: Setting
) -> list[Finding]:
    """Cutting moves in the order they came, matched with what each part wants of each tool."""
    check = "every part gets every tool of its op once"
    cuts = _at_the_tip(went, setting)
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
