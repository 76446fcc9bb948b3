"""What is hit on the way: every tool with its holder along every move, against all that stands and
against the workpieces as they are cut, and while the block turns.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.control import Run
from wedgecraft.core.program.motion import Move
from wedgecraft.core.program.poses import machine_pose
from wedgecraft.core.program.scene import Scene, Standing
from wedgecraft.core.program.swept import (
    HOLDER_RAPID,
    NONE_MM,
    RAPID,
    RUBS,
    SPOILT,
    Grid,
    against_standing,
    heights_of,
    lowest_near,
    step_for,
    through_part,
)
from wedgecraft.core.program.tooling import ToolShape, tool_shapes
from wedgecraft.core.records.program import Finding, PartZero
from wedgecraft.core.workpiece.sitting import Sitting

Array = NDArray[np.float64]
CHECK = "what is hit on the way"
#: Arcs are swept as chords that lie this near.
_CHORD_MM = 0.01
#: Turning with less than this between tool and what turns is a hit.
_MARGIN_MM = 1.0
_MOST_TOLD, _MOST_NAMED = 8, 4


@dataclass(frozen=True)
class _Hit:
    """``order``: the move of the run, so that hits are told as they come; of one ``kind`` are hits
    of one piece of one tool on one sort of thing; ``where``: the number of station or part.
    """

    order: int
    kind: tuple[str, object, object, object]
    where: int
    finding: Finding


@dataclass(frozen=True)
class _Ways:
    """Straight pieces of all moves, (n, 6) of the tip in machine coordinates; of each its move, its
    tool's row, whether it is a rapid, the block's index.
    """

    tips: Array
    move: NDArray[np.int64]
    tool: NDArray[np.int64]
    rapid: NDArray[np.bool_]
    index: Array

    def of(self, there: NDArray[np.bool_]) -> _Ways:
        return _Ways(
            self.tips[there], self.move[there], self.tool[there], self.rapid[there],
            self.index[there],
        )  # fmt: skip


class _Table:
    """Tools as rows of figures, for compiled loops."""

    def __init__(self, shapes: Sequence[ToolShape]) -> None:
        self.shapes = list(shapes)
        many, deep = max(1, len(shapes)), max((len(s.rings) for s in shapes), default=1)
        self.radii, self.lows = np.zeros((many, deep)), np.zeros((many, deep))
        self.rises = np.zeros(many)
        self.whole = np.ones(many, np.bool_)
        for k, shape in enumerate(shapes):
            for s, ring in enumerate(shape.rings):
                self.radii[k, s], self.lows[k, s] = ring.radius_mm, ring.low_mm
            self.rises[k], self.whole[k] = shape.rise, shape.whole

    def says(self, row: int, ring: int) -> str:
        shape = self.shapes[row]
        said = shape.rings[ring].says
        return f"T{shape.number}" if ring == 0 else f"T{shape.number}'s {said}"


def met(asked: Asked, parts: Sequence[PartZero], went: Run, again: bool = False) -> list[Finding]:
    """What is hit, in the order it comes; that nothing is; what was not looked at. ``parts``: those
    that are there, as they came out before where ``again``.
    """
    scene = Scene(asked, parts)
    tools = sorted({move.tool for move in went.moves if move.goes or move.what == "index"})
    shapes = tool_shapes(asked, tools)
    table = _Table([shapes[tool] for tool in tools])
    ways = _ways_of(went.moves, scene, shapes, tools)
    hits = [
        *_with_standing(scene, ways, table, went.moves),
        *_with_parts(asked, parts, scene, ways, table, went.moves, again),
        *_while_turning(asked, scene, went.moves, shapes),
    ]
    hits.sort(key=lambda hit: hit.order)
    found = _told_once(hits)
    unsaid = [shape for shape in shapes.values() if shape.unsaid and shape.number]
    beside = sorted({move.tool for move in went.moves if move.beside and move.cuts})
    saws = [f"T{shape.number}" for shape in shapes.values() if not shape.whole]
    doubts = [
        *([f"what a saw leaves of a part, {', '.join(saws)}"] if saws else []),
        *(
            f"{what} of {_and([f'T{shape.number}' for shape in unsaid if shape.unsaid == what])}"
            for what in dict.fromkeys(shape.unsaid for shape in unsaid)
        ),
    ]
    if doubts:
        says = f"nobody has said {_and(doubts)}: put it in the machine's tool table"
        if saws and not unsaid:
            says = f"not looked at: {_and(doubts)}"
        found.append(Finding(check=CHECK, stands=None, says=says))
    if beside:
        says = (
            f"{_and([f'T{tool}' for tool in beside])} cuts with G41 or G42: looked at along the"
            " path as it is written, which is right for wear alone"
        )
        found.append(Finding(check=CHECK, stands=None, says=says))
    if not found:
        says = f"nothing, by {sum(tool > 0 for tool in tools)} tools with their holders"
        found.append(Finding(check=CHECK, stands=True, says=says))
    return found


def _and(items: Sequence[str]) -> str:
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"


def _told_once(hits: Sequence[_Hit]) -> list[Finding]:
    """The first of each kind, and where else the same happens; the first few kinds."""
    alike: dict[tuple[object, ...], list[_Hit]] = {}
    for hit in hits:
        alike.setdefault(hit.kind, []).append(hit)
    found = []
    for first, *others in list(alike.values())[:_MOST_TOLD]:
        finding, places = first.finding, sorted({hit.where for hit in others} - {first.where})
        if places:
            said = ", ".join(map(str, places[:_MOST_NAMED]))
            more = f" and {len(places) - _MOST_NAMED} more" if len(places) > _MOST_NAMED else ""
            what = first.kind[0] if len(places) > 1 else first.kind[0].removesuffix("s")
            says = f"{finding.says}; the same at {what} {said}{more}"
            finding = finding.model_copy(update={"says": says})
        found.append(finding)
    if len(alike) > _MOST_TOLD:
        says = f"{len(alike) - _MOST_TOLD} more kinds of hit after these"
        found.append(Finding(check=CHECK, stands=False, says=says))
    return found


def _ways_of(
    moves: Sequence[Move], scene: Scene, shapes: dict[int, ToolShape], tools: Sequence[int]
) -> _Ways:
    row_of = {tool: k for k, tool in enumerate(tools)}
    tips: list[Any] = []
    about: list[tuple[int, int, bool, float]] = []
    indexes: dict[Any, float] = {}
    for k, move in enumerate(moves):
        if not move.goes:
            continue
        length = shapes[move.tool].length_mm
        if move.rotary not in indexes:
            indexes[move.rotary] = scene.index_of(move.rotary)
        own = (k, row_of[move.tool], not move.cuts, indexes[move.rotary])
        if move.arc is None:
            (ax, ay, az), (bx, by, bz) = move.start, move.end
            tips.append((ax, ay, az - length, bx, by, bz - length))
            about.append(own)
            continue
        points = move.points(_CHORD_MM) - (0.0, 0.0, length)
        tips.extend(np.hstack([points[:-1], points[1:]]).tolist())
        about.extend([own] * (len(points) - 1))
    which = np.array(about or np.zeros((0, 4)), dtype=float)
    return _Ways(
        np.array(tips or np.zeros((0, 6)), dtype=float),
        which[:, 0].astype(np.int64),
        which[:, 1].astype(np.int64),
        which[:, 2].astype(np.bool_),
        which[:, 3],
    )


def _with_standing(scene: Scene, ways: _Ways, table: _Table, moves: Sequence[Move]) -> list[_Hit]:
    found = []
    for index in np.unique(ways.index).tolist():
        own = ways.of(ways.index == index)
        things = scene.at(index)
        if not things:
            continue
        first, depth = _against(own, things, table)
        for k, row, ring in np.argwhere(first >= 0).tolist():
            n, thing = int(first[k, row, ring]), things[k]
            move = moves[own.move[n]]
            how = "cuts" if move.cuts and ring == 0 else "runs"
            speed = "" if move.cuts else " at rapid"
            where = f" of station {thing.station}" if thing.station is not None else ""
            says = (
                f"{table.says(row, ring)} {how} {depth[k, row, ring]:.1f} mm into"
                f" {thing.what}{where}{speed}"
            )
            place = own.tips[n, 3:]
            kind = ("stations", row, ring, (thing.what, move.cuts))
            found.append(_hit(moves, int(own.move[n]), place, says, kind, thing.station))
    return found


def _against(
    ways: _Ways, things: Sequence[Standing], table: _Table
) -> tuple[NDArray[np.int64], Array]:
    rings = np.concatenate([thing.ring for thing in things])
    starts = np.cumsum([0, *(len(thing.ring) for thing in things)])
    boxes = np.array([(*t.ring.min(axis=0), *t.ring.max(axis=0)) for t in things])
    highs = np.array([thing.high_mm for thing in things])
    first, depth = against_standing(
        ways.tips, ways.tool, table.radii, table.lows, table.rises, rings, starts, highs, boxes
    )
    return first, depth


def _hit(
    moves: Sequence[Move],
    order: int,
    place: Sequence[float] | Array,
    says: str,
    kind: tuple[str, object, object, object],
    where: int | None,
) -> _Hit:
    x, y, z = (round(float(value), 3) for value in place)
    finding = Finding(
        check=CHECK,
        stands=False,
        says=says,
        line=moves[order].line,
        part=where if kind[0] == "parts" else None,
        at_mm=(x, y, z),
        move=order,
    )
    return _Hit(order, kind, where or 0, finding)


def _with_parts(
    asked: Asked,
    parts: Sequence[PartZero],
    scene: Scene,
    ways: _Ways,
    table: _Table,
    moves: Sequence[Move],
    again: bool,
) -> list[_Hit]:
    found: list[_Hit] = []
    grids: dict[int, tuple[Grid, Array]] = {}
    widest = float(table.radii.max(initial=0.0))
    indexes = np.unique(ways.index).tolist()
    by_face = {
        face: ways.of(np.isin(ways.index, [i for i in indexes if scene.faces_up(face, i)]))
        for face in {part.face for part in parts}
    }
    for part in parts:
        sitting = asked.kinds[part.kind].sitting
        if sitting.before.empty:
            continue
        known = grids.get(part.kind)
        grid, least = grids[part.kind] = known or _grids(sitting, again)
        own = _near(_seen_from(part, sitting.top_mm, by_face[part.face]), grid, widest)
        if not len(own.tips):
            continue
        found += _through(part, sitting.top_mm, own, grid, least, table, moves)
    return found


def _grids(sitting: Sitting, again: bool) -> tuple[Grid, Array]:
    step = step_for(sitting.before)
    grid = heights_of(sitting.after if again else sitting.before, sitting.before, step)
    finished = heights_of(sitting.finished, sitting.before, step)
    return grid, lowest_near(finished.heights)


def _seen_from(part: PartZero, top_mm: float, ways: _Ways) -> _Ways:
    """In the part's own frame: its datum corner, Z0 on what it stands on."""
    turn = math.radians(part.turn_deg)
    c, s = math.cos(turn), math.sin(turn)
    tips = np.empty_like(ways.tips)
    for k in (0, 3):
        x, y = ways.tips[:, k] - part.at_mm[0], ways.tips[:, k + 1] - part.at_mm[1]
        tips[:, k], tips[:, k + 1] = c * x + s * y, c * y - s * x
        tips[:, k + 2] = ways.tips[:, k + 2] - part.at_mm[2] + top_mm
    return _Ways(tips, ways.move, ways.tool, ways.rapid, ways.index)


def _near(ways: _Ways, grid: Grid, widest: float) -> _Ways:
    rows, columns = grid.heights.shape
    x0, y0 = grid.low
    x1, y1 = x0 + columns * grid.step_mm, y0 + rows * grid.step_mm
    a, b = ways.tips[:, :3], ways.tips[:, 3:]
    low, high = np.minimum(a, b), np.maximum(a, b)
    return ways.of(
        (low[:, 0] - widest < x1)
        & (high[:, 0] + widest > x0)
        & (low[:, 1] - widest < y1)
        & (high[:, 1] + widest > y0)
        & (low[:, 2] < grid.heights.max())
    )


_SAID = {
    RAPID: "{tool} at rapid runs {deep:.1f} mm into part {part}",
    SPOILT: "{tool} cuts {deep:.2f} mm into what part {part} keeps",
    RUBS: "{tool} rubs {deep:.1f} mm deep on part {part}",
    HOLDER_RAPID: "{tool} at rapid runs {deep:.1f} mm into part {part}",
}


def _through(
    part: PartZero,
    top_mm: float,
    ways: _Ways,
    grid: Grid,
    least: Array,
    table: _Table,
    moves: Sequence[Move],
) -> list[_Hit]:
    first, depth, place = through_part(
        grid.heights.copy(), least, *grid.low, grid.step_mm, ways.tips, ways.rapid, ways.tool,
        table.radii, table.lows, table.rises, table.whole,
    )  # fmt: skip
    found = []
    turn = math.radians(part.turn_deg)
    for row, ring, kind in np.argwhere(first >= 0).tolist():
        n = int(first[row, ring, kind])
        says = _SAID[kind].format(
            tool=table.says(row, ring), deep=float(depth[row, ring, kind]), part=part.number
        )
        x, y = place[row, ring, kind]
        z = float(ways.tips[n, 5]) - top_mm
        at = np.array(
            [
                part.at_mm[0] + x * math.cos(turn) - y * math.sin(turn),
                part.at_mm[1] + x * math.sin(turn) + y * math.cos(turn),
                part.at_mm[2] + z,
            ]
        )
        how = ("parts", row, ring, kind)
        found.append(_hit(moves, int(ways.move[n]), at, says, how, part.number))
    return found


def _while_turning(
    asked: Asked, scene: Scene, moves: Sequence[Move], shapes: dict[int, ToolShape]
) -> list[_Hit]:
    """What turns sweeps a circle about the axis; the tool must be outside it."""
    turns = [(k, move) for k, move in enumerate(moves) if move.what == "index"]
    if not turns or asked.request.block.faces == 1:
        return []
    swing = scene.swing()
    middle = machine_pose(asked.request, 0.0)[:3, 3]
    found = []
    for k, move in turns:
        shape = shapes[move.tool]
        x = move.end[1 - scene.axis] - middle[1 - scene.axis]
        along = move.end[scene.axis]
        tip = move.end[2] - shape.length_mm - middle[2]
        deepest = 0.0
        for ring in shape.rings:
            off = math.hypot(max(0.0, abs(x) - ring.radius_mm), max(0.0, tip + ring.low_mm))
            reach = max(
                (
                    far
                    for far, low, high in swing
                    if low - ring.radius_mm < along < high + ring.radius_mm
                ),
                default=NONE_MM,
            )
            deepest = max(deepest, reach + _MARGIN_MM - off)
        if deepest > 0:
            says = f"the block turns with T{move.tool} {deepest:.1f} mm inside its swing"
            place = (*move.end[:2], move.end[2] - shape.length_mm)
            found.append(_hit(moves, k, place, says, ("turns", move.tool, 0, 0), None))
    return found
