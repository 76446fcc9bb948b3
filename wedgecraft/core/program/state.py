"""What a control remembers from line to line: its modal groups, offsets, shifts and where it is."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from wedgecraft.core.program.motion import Pace, Place

#: Work offsets by their code; extended ones are called "G54.1 P7".
PLAIN = {54: "G54", 55: "G55", 56: "G56", 57: "G57", 58: "G58", 59: "G59"}
#: First, second and third axis of a plane: XY, ZX, YZ.
PLANES = {17: (0, 1, 2), 18: (2, 0, 1), 19: (1, 2, 0)}
NOWHERE: Place = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Setting:
    """What is set at a control before a program runs. ``zeros`` and the rest in mm, machine
    coordinates; ``lengths``: of each tool, spindle face to tip; ``pallet_code``: the M code that
    changes pallets; ``home``, ``second_home``: where G28 and G30 go; ``shifts``, ``turns``: it has
    G52, G68.
    """

    zeros: Mapping[str, Place]
    lengths: Mapping[int, float] = field(default_factory=dict)
    home: Place = NOWHERE
    second_home: Place = NOWHERE
    pace: Pace = field(default_factory=Pace)
    pallet_code: int = 60
    #: Blocks with a slash are left out.
    skips: bool = False
    shifts: bool = True
    turns: bool = True


@dataclass
class State:
    """Modal groups by their usual meaning; ``at`` and ``rotary`` in machine coordinates."""

    at: Place = NOWHERE
    rotary: Place = NOWHERE
    motion: int = 0
    plane: int = 17
    absolute: bool = True
    inch: bool = False
    per_turn: bool = False
    zero: str = "G54"
    local: Place = NOWHERE
    #: Rotation of coordinates: middle (in the work offset's frame) and degrees.
    turned: tuple[float, float, float] | None = None
    length_on: bool = False
    length_of: int = 0
    radius: int = 40
    radius_of: int = 0
    cycle: dict[str, Any] | None = None
    to_first: bool = True  # G98: cycles return to the level they began at
    feed: float = 0.0
    rpm: float = 0.0
    spindle: int = 5
    coolant: bool = False
    tool: int = 0
    waiting: int = 0

    def copy(self) -> State:
        return replace(self)


class Frame:
    """From a program's coordinates to the machine's and back, as the state has it."""

    def __init__(self, state: State, setting: Setting, zeros: Mapping[str, Place]) -> None:
        tip = setting.lengths.get(state.length_of, 0.0) if state.length_on else 0.0
        origin = zeros[state.zero]
        self._origin = tuple(o + s for o, s in zip(origin, state.local, strict=True))
        self._tip = tip
        self._turned = state.turned
        self._axes = PLANES[state.plane]

    def machine(self, place: Place) -> Place:
        x, y, z = (p + o for p, o in zip(self._spun(place, 1), self._origin, strict=True))
        return x, y, z + self._tip

    def program(self, place: Place) -> Place:
        x, y, z = place
        bare = (x, y, z - self._tip)
        a, b, c = (p - o for p, o in zip(bare, self._origin, strict=True))
        return self._spun((a, b, c), -1)

    def _spun(self, place: Place, way: int) -> Place:
        if self._turned is None:
            return place
        u, v, degrees = self._turned
        a, b, _ = self._axes
        turn = way * math.radians(degrees)
        found = list(place)
        x, y = place[a] - u, place[b] - v
        found[a] = u + x * math.cos(turn) - y * math.sin(turn)
        found[b] = v + x * math.sin(turn) + y * math.cos(turn)
        return found[0], found[1], found[2]
