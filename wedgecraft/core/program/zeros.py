"""Work offsets of a setup: which name is where, for one zero in all, one a face or one a station.

A part that is turned on its plate runs from a zero of its own turn, or from its plate's with the
coordinates turned: the shift says by how much.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.program.pick_up import misplaced, steps_of
from wedgecraft.core.program.poses import (
    face_pose,
    index_deg,
    lifted_mm,
    machine_pose,
    middle_of,
    part_pose,
    rise_mm,
    shifted,
)
from wedgecraft.core.program.state import PLAIN
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.plate import PickUp
from wedgecraft.core.records.program import PartZero, Zero, ZeroTable
from wedgecraft.core.records.rules import Strategy

Array = NDArray[np.float64]
_DECIMALS = 6
#: A station that was measured is the one drawn this near.
_SAME_PLACE_MM = 0.01
#: Half a turn round, stations come to where others were this near.
_ALIKE_MM = 0.01
_SAID: dict[PickUp, str] = {
    "corner": "corner",
    "bore": "datum bore",
    "midway between faces": "middle between its faces",
    "axis": "block's axis",
}
#: From the fewest offsets to the most.
_FEWER: tuple[Strategy, ...] = ("one for all", "one per face", "one per station")


def free_names(machine: Machine) -> tuple[list[str], list[str]]:
    """Names to give out: the plain ones first, then extended ones; and why any is left out.

    >>> from wedgecraft.core.shop.picks import starting_request
    >>> own = starting_request("Block", 1).machine
    >>> machine = own.model_copy(update={"offsets_taken": ["G55", "G56"]})
    >>> free_names(machine)[0][:2], free_names(machine)[1]
    (['G54', 'G57'], ['G55 and G56 are taken: after G54 comes G57'])
    """
    every = list(dict.fromkeys(machine.work_offsets))
    every.sort(key=lambda name: " " in name or "." in name)
    notes, gap, before = [], [], ""
    for name in every:
        if name in machine.offsets_taken:
            gap.append(name)
            continue
        if gap:
            follows = f"after {before} comes {name}" if before else f"{name} is the first"
            notes.append(f"{_listed(gap)} taken: {follows}")
        gap, before = [], name
    if gap:
        notes.append(f"{_listed(gap)} taken")
    return [name for name in every if name not in machine.offsets_taken], notes


def _listed(names: Sequence[str]) -> str:
    if len(names) == 1:
        return f"{names[0]} is"
    return f"{', '.join(names[:-1])} and {names[-1]} are"


def zero_table(asked: Asked) -> ZeroTable:
    """By the setup's strategy; where there are too few names, the nearest that fits, and it says
    so. Raises OutOfRange for a machine with no offset left.
    """
    names, notes = free_names(asked.request.machine)
    wanted = asked.design.datum
    order = [wanted, *(item for item in reversed(_FEWER[: _FEWER.index(wanted)]))]
    places = _places(asked)
    for strategy in order:
        groups = _groups(places, strategy)
        if len(groups) <= len(names):
            break
    else:
        raise OutOfRange("setup.machine.work_offsets", len(names), "at least one that is not taken")
    doubts = []
    if strategy != wanted:
        doubts.append(
            f"{wanted} takes {len(_groups(places, wanted))} work offsets and {len(names)} are free:"
            f" {strategy} instead"
        )
    if not middle_of(asked.request.machine)[1]:
        doubts.append(
            f"nobody has said where “{asked.request.machine.name}” has the middle of its table:"
            " taken amid its travels, so X, Y and Z here are to be measured"
        )
    doubts += misplaced(asked)
    zeros, parts = [], []
    for number, (name, group) in enumerate(zip(names, groups.values(), strict=False), 1):
        zero, own = _zero(asked, strategy, name, number, group)
        zeros.append(zero)
        parts += own
    parts.sort(key=lambda part: part.number)
    notes += _measured_said(asked, parts) + _half_turn_said(asked)
    return ZeroTable(strategy=strategy, zeros=zeros, parts=parts, notes=notes, doubts=doubts)


def _measured_said(asked: Asked, parts: Sequence[PartZero]) -> list[str]:
    off = [part.measured_off_mm for part in parts if part.measured_off_mm is not None]
    if not off:
        return []
    most = max(math.hypot(*item) for item in off)
    runs = asked.kinds[0].view.accuracy.measured_are == "in the program"
    what = "the program runs at those places" if runs else "the program runs at the drawn places"
    return [
        f"{len(off)} of {len(parts)} parts stand where they were measured, up to {most:.3f} mm off"
        f" the drawing; {what}"
    ]


def _half_turn_said(asked: Asked) -> list[str]:
    """Of a plate on a table that looks the same half a turn round."""
    plate, stations = asked.request.plate, asked.design.stations
    if asked.request.block.faces > 1 or asked.request.station.element.up_mm or not stations:
        return []
    worst = 0.0
    for one in stations:
        off = [
            math.hypot(plate.width_mm - one.x_mm - k.x_mm, plate.depth_mm - one.y_mm - k.y_mm)
            for k in stations
            if (k.kind, (k.turn - one.turn) % 360) == (one.kind, 180)
        ]
        worst = max(worst, min(off, default=math.inf))
    if worst > _ALIKE_MM:
        return []
    return [
        f"half a turn round its middle the plate looks the same, within {worst:.3f} mm: zeroed once"
        " it may run again turned"
    ]


class _Place:
    """One part: where its own zero is, on its plate and in the machine."""

    def __init__(self, asked: Asked, number: int, station: int, member: int) -> None:
        request, placed = asked.request, asked.design.stations[station]
        own = asked.design.kinds[placed.kind].drawing.places[member]
        self.number, self.station, self.member = number, placed.number, member
        self.kind, self.face = placed.kind, placed.face
        self.index = index_deg(request.block, placed.face)
        self.turn = (placed.turn + (180 if own.half_turn else 0)) % 360
        top = asked.kinds[placed.kind].sitting.top_mm
        drawn = part_pose(placed, own, top + rise_mm(asked, placed.kind))
        self.top = top
        found = _measured(asked, placed)
        self.off = (
            _triple(found[:3, 3] - np.array([placed.x_mm, placed.y_mm, 0.0]))
            if (found is not None)
            else None
        )
        runs = asked.kinds[placed.kind].view.accuracy.measured_are == "in the program"
        self.on_plate = drawn
        if self.off is not None and runs:
            self.on_plate = shifted(*self.off) @ drawn
        self.plate = machine_pose(request, self.index) @ face_pose(
            request, placed.face, lifted_mm(asked)
        )
        self.pose: Array = self.plate @ self.on_plate


def _measured(asked: Asked, placed: PlacedStation) -> Array | None:
    """Where a station of the real fixture was found, from its plate's corner; nothing where nobody
    measured it.
    """
    for item in asked.request.arrangement.stations:
        same = (item.face, item.kind) == (placed.face, placed.kind)
        near = math.hypot(item.x_mm - placed.x_mm, item.y_mm - placed.y_mm) < _SAME_PLACE_MM
        if item.measured is not None and same and near:
            return shifted(item.measured.x_mm, item.measured.y_mm, item.measured.z_mm or 0.0)
    return None


def _places(asked: Asked) -> list[_Place]:
    """Faces in turn, on each from left to right and up, as they stand."""
    stations = asked.design.stations
    order = sorted(
        range(len(stations)),
        key=lambda k: (stations[k].face, round(stations[k].y_mm), stations[k].x_mm),
    )
    found: list[_Place] = []
    for k in order:
        members = asked.design.kinds[stations[k].kind].drawing.places
        found += [_Place(asked, len(found) + 1 + m, k, m) for m in range(len(members))]
    return found


def _groups(places: Sequence[_Place], strategy: Strategy) -> dict[object, list[_Place]]:
    """Parts that share an offset."""
    keys: dict[Strategy, Callable[[_Place], object]] = {
        "one for all": lambda place: place.turn,
        "one per face": lambda place: (place.face, place.turn),
        "one per station": lambda place: place.number,
    }
    found: dict[object, list[_Place]] = {}
    for place in places:
        found.setdefault(keys[strategy](place), []).append(place)
    return found


def _zero(
    asked: Asked, strategy: Strategy, name: str, number: int, group: Sequence[_Place]
) -> tuple[Zero, list[PartZero]]:
    """The offset of a group, and its parts from there."""
    first, datum = group[0], asked.request.datum
    if strategy == "one per station":
        at, says = first.pose, f"the datum corner of station {first.station}, Z on its part's top"
    else:
        top = float(first.on_plate[2, 3])
        at = first.plate @ shifted(datum.x_mm, datum.y_mm, top)
        says = (
            f"the plate's {_SAID[datum.from_what]}, X {datum.x_mm:g} Y {datum.y_mm:g},"
            f" Z {first.top:g} mm over what the parts stand on"
        )
    origin = at[:3, 3]
    parts = []
    for place in group:
        step = np.linalg.inv(at) @ place.pose
        x, y, z = (round(float(v), _DECIMALS) + 0.0 for v in step[:3, 3])
        parts.append(
            PartZero(
                number=place.number,
                station=place.station,
                member=place.member,
                kind=place.kind,
                face=place.face,
                zero=name,
                shift_mm=(x, y, z),
                turn_deg=float(place.turn),
                at_mm=_triple(place.pose[:3, 3]),
                measured_off_mm=place.off,
            )
        )
    faces = {place.face for place in group}
    return Zero(
        name=name,
        number=number,
        face=first.face if len(faces) == 1 and asked.request.block.faces > 1 else None,
        index_deg=first.index,
        turn_deg=float(first.turn),
        at_mm=_triple(origin),
        parts=[place.number for place in group],
        says=says,
        steps=steps_of(asked, strategy, first.top),
    ), parts


def _triple(place: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(value), _DECIMALS) + 0.0 for value in place)
    return x, y, z


def as_g10(table: ZeroTable) -> list[str]:
    """A block that writes them into a control."""
    lines = []
    for zero in table.zeros:
        x, y, z = zero.at_mm
        if zero.name.startswith("G54.1 P"):
            which = f"L20 P{zero.name.removeprefix('G54.1 P')}"
        elif zero.name in PLAIN.values():
            which = f"L2 P{int(zero.name.removeprefix('G')) - 53}"
        else:
            lines.append(f"({zero.name}: X{x:.3f} Y{y:.3f} Z{z:.3f}, by hand)")
            continue
        lines.append(f"G90 G10 {which} X{x:.3f} Y{y:.3f} Z{z:.3f}")
    return lines
