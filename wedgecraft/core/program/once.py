"""Whether every part gets every tool of its op just once, where it should."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.program.control import Run
from wedgecraft.core.program.motion import Move, Place
from wedgecraft.core.program.ops import OpPiece, OpProgram
from wedgecraft.core.program.poses import shifted, spun
from wedgecraft.core.program.scene import Scene
from wedgecraft.core.program.state import Setting
from wedgecraft.core.records.program import Finding, PartZero, ZeroTable

Array = NDArray[np.float64]
#: Paths this near are the same: figures are written to a tenth of this.
_SAME_MM = 2e-3
_MOST_TOLD = 8
_NOTHING = OpProgram(())


@dataclass(frozen=True)
class _Paths:
    """Moves at feed as rows: where they begin and end at the tip, (n, 3) each; feed, how far an arc
    turns, tool; ``moves`` themselves.
    """

    moves: Sequence[Move]
    start: Array
    end: Array
    feed: Array
    sweep: Array
    rotary: Sequence[Place]

    @classmethod
    def of(cls, moves: Sequence[Move], tips: Sequence[float]) -> _Paths:
        tip = np.zeros((len(moves), 3))
        tip[:, 2] = tips
        return cls(
            moves,
            np.array([move.start for move in moves]).reshape(-1, 3) - tip,
            np.array([move.end for move in moves]).reshape(-1, 3) - tip,
            np.array([move.feed for move in moves], dtype=float),
            np.array([move.arc.sweep if move.arc is not None else 0.0 for move in moves]),
            [move.rotary for move in moves],
        )


@dataclass
class _Wanted:
    """What one part must get of one tool: the path of its piece, ``end`` in machine coordinates."""

    part: PartZero
    piece: OpPiece
    path: _Paths
    end: Array
    done: bool = False


def each_once(
    table: ZeroTable, ops: Mapping[int, OpProgram], went: Run, setting: Setting, scene: Scene
) -> list[Finding]:
    """Cutting moves in the order they came, matched with what each part wants of each tool."""
    check = "every part gets every tool of its op once"
    moves = [move for move in went.moves if move.cuts]
    # with how long the tool in the spindle really is, whatever length is on
    cuts = _Paths.of(moves, [setting.lengths.get(move.tool, 0.0) for move in moves])
    paths = {
        (kind, k): _Paths.of(piece.cutting, [move.tip_mm for move in piece.cutting])
        for kind, op in ops.items()
        for k, piece in enumerate(op.pieces)
    }
    wanted = [
        _Wanted(part, piece, path, path.end @ pose[:3, :3].T + pose[:3, 3])
        for part in table.parts
        for pose in [shifted(*part.at_mm) @ spun(2, part.turn_deg)]
        for op in [ops.get(part.kind, _NOTHING)]
        for k, piece in enumerate(op.pieces)
        for path in [paths[part.kind, k]]
        if path.moves
    ]
    by_tool: dict[int, list[_Wanted]] = {}
    for each in wanted:
        by_tool.setdefault(each.piece.tool, []).append(each)
    found: list[Finding] = []
    at = 0
    while at < len(moves) and len(found) < _MOST_TOLD:
        move = moves[at]
        item = _belongs(by_tool.get(move.tool, []), cuts, at, scene)
        if item is None:
            facing = _facing(by_tool.get(move.tool, []), cuts, at, scene)
            found.append(_stray(check, facing, move, cuts.end[at]))
            at += 1
            while (
                at < len(moves)
                and _belongs(by_tool.get(moves[at].tool, []), cuts, at, scene) is None
            ):
                at += 1
            continue
        wrong = _leaves(item, cuts, at)
        item.done = True
        if wrong is not None:
            last = moves[min(at + wrong, len(moves) - 1)]
            says = f"T{move.tool} leaves its path at part {item.part.number}"
            found.append(
                Finding(check=check, stands=False, says=says, line=last.line, part=item.part.number)
            )
        at += len(item.path.moves) if wrong is None else max(wrong, 1)
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


def _belongs(items: Sequence[_Wanted], cuts: _Paths, at: int, scene: Scene) -> _Wanted | None:
    """What begins with this cut, on a face that looks at the spindle."""
    for item in items:
        if item.done or np.abs(item.end[0] - cuts.end[at]).max() >= _SAME_MM:
            continue
        if scene.faces_up(item.part.face, scene.index_of(cuts.rotary[at])):
            return item
    return None


def _facing(items: Sequence[_Wanted], cuts: _Paths, at: int, scene: Scene) -> Sequence[_Wanted]:
    """Those on the face that looks at the spindle; all where none does."""
    index = scene.index_of(cuts.rotary[at])
    return [item for item in items if scene.faces_up(item.part.face, index)] or items


def _leaves(item: _Wanted, cuts: _Paths, at: int) -> int | None:
    """Which of its moves is not the same, at the same feed, about the same middle."""
    own, most = item.path, len(item.path.moves)
    there = slice(at, at + most)
    many = len(cuts.moves[there])
    feeds = own.feed[:many]
    same = (
        (np.abs(item.end[:many] - cuts.end[there]).max(axis=1) < _SAME_MM)
        & (np.abs(own.sweep[:many] - cuts.sweep[there]) < 1e-3)
        & (np.abs(feeds - cuts.feed[there]) < 1e-3 * np.maximum(feeds, 1.0))
    )
    pairs = zip(own.moves, cuts.moves[there], strict=False)
    same &= [a.what == b.what and b.tool == item.piece.tool for a, b in pairs]
    if same.all():
        return None if many == most else many
    return int(np.argmin(same))


def _stray(check: str, items: Sequence[_Wanted], move: Move, end: Array) -> Finding:
    """A cut where none should be: how far from the nearest that there is."""
    if not items:
        says = f"T{move.tool} cuts, and no op has it"
        return Finding(check=check, stands=False, says=says, line=move.line)
    near = min(items, key=lambda item: float(np.abs(item.end[0] - end).max()))
    x, y, z = (end - near.end[0]).tolist()
    if near.done and max(abs(x), abs(y), abs(z)) < _SAME_MM:
        says = f"T{move.tool} cuts part {near.part.number} a second time"
    else:
        says = (
            f"T{move.tool} cuts where no part has that cut: the nearest is part"
            f" {near.part.number}, off by X {x:.3f} Y {y:.3f} Z {z:.3f} mm"
        )
    return Finding(check=check, stands=False, says=says, line=move.line, part=near.part.number)
