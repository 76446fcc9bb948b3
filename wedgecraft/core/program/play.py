"""A program as it goes, for looking at it: where every tool's tip is on the plates, and when."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.control import Run
from wedgecraft.core.program.motion import Move
from wedgecraft.core.program.poses import face_pose, lifted_mm, machine_pose, rise_mm
from wedgecraft.core.program.scene import Scene
from wedgecraft.core.program.tooling import tool_shapes
from wedgecraft.core.records.program import Played, ToolSeen

Array = NDArray[np.float64]
#: So many places are given at most; arcs as chords this near.
MOST_PLACES, _CHORD_MM = 60_000, 0.2
_CODES = {"rapid": 0, "feed": 1, "arc": 1}
_DECIMALS = 2


def played(asked: Asked, went: Run) -> Played:
    """Places in the frame of the plate that looks at the spindle: its corner, Z0 on what parts
    stand on (the highest of it).
    """
    scene = Scene(asked, [])
    tools = sorted({move.tool for move in went.moves})
    shapes = tool_shapes(asked, tools)
    faces = {}
    for face in range(asked.request.block.faces):
        index = 360.0 * face / asked.request.block.faces
        pose = machine_pose(asked.request, index) @ face_pose(asked.request, face, lifted_mm(asked))
        faces[face] = pose[:3, 3]
    found = Played(
        tools=[
            ToolSeen(
                number=tool,
                length_mm=shapes[tool].length_mm,
                rings=[(ring.radius_mm, ring.low_mm) for ring in shapes[tool].rings],
            )
            for tool in tools
        ],
        of=sum(move.goes for move in went.moves),
    )
    # where stations stand on different heights, from the highest of them
    highest = max(rise_mm(asked, kind) for kind in range(len(asked.kinds)))
    seconds = 0.0
    up: dict[tuple[float, ...], int] = {}
    for number, move in enumerate(went.moves):
        if move.rotary not in up:
            index = scene.index_of(move.rotary)
            up[move.rotary] = next((f for f in faces if scene.faces_up(f, index)), -1)
        face = up[move.rotary]
        begun, seconds = seconds, seconds + move.seconds
        if len(found.line) >= MOST_PLACES:
            continue
        origin = faces.get(face, faces[0])
        for share, place in _places(move):
            x, y, z = place - origin - (0.0, 0.0, shapes[move.tool].length_mm + highest)
            found.line.append(move.line)
            found.move.append(number)
            found.face.append(face)
            found.x.append(round(float(x), _DECIMALS))
            found.y.append(round(float(y), _DECIMALS))
            found.z.append(round(float(z), _DECIMALS))
            found.seconds.append(round(begun + share * (seconds - begun), _DECIMALS))
            found.what.append(_CODES.get(move.what, 2))
            found.tool.append(move.tool)
    return found.model_copy(update={"whole": len(found.line) < MOST_PLACES})


def _places(move: Move) -> Iterator[tuple[float, Sequence[float] | Array]]:
    """How far along, and where: the end of a straight move, all chords of an arc."""
    if move.arc is None:
        yield 1.0, np.array(move.end)
        return
    points = move.points(_CHORD_MM)[1:]
    for k, point in enumerate(points):
        yield (k + 1) / len(points), point
