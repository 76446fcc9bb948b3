"""Everything that puts a feature elsewhere than the drawing has it: fixture, pick-up, machine,
index, pallet, temperature.

Ranges are plus-or-minus: three standard deviations where the spread is normal, the end where it is
uniform, the value itself where it is fixed. A source moves a point of the part by a shift and a
small turn about the origin of its frame.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.records.locating import Accuracy, Spread
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.rules import Strategy

Array = NDArray[np.float64]
_AXES = np.eye(3)
ARC_SECOND = math.pi / 180 / 3600


@dataclass(frozen=True)
class Source:
    """One thing that is off, in the frame of an op: ``name`` of its group, its spread, what the end
    of its range does, and why.
    """

    name: str
    spread: Spread
    shift: Array
    turn: Array
    why: str


def shifting(name: str, spread: Spread, shift: Sequence[float] | Array, why: str) -> Source:
    return Source(name, spread, np.asarray(shift, dtype=float), np.zeros(3), why)


@dataclass(frozen=True)
class Stack:
    """Sources at n places: ``moves`` (n, sources, 3) in the plate's frame at the end of each
    range.
    """

    names: tuple[str, ...]
    spreads: tuple[Spread, ...]
    whys: tuple[str, ...]
    moves: Array

    def __add__(self, other: Stack) -> Stack:
        moves = np.concatenate([self.moves, other.moves], axis=1)
        return Stack(
            self.names + other.names, self.spreads + other.spreads, self.whys + other.whys, moves
        )

    def of(self, index: int) -> Stack:
        """At one place alone."""
        return replace(self, moves=self.moves[index : index + 1])


def rigid_stack(
    sources: Sequence[Source], point: Sequence[float] | Array, turns: Sequence[Array]
) -> Stack:
    """What sources of a station do to a point of its part, turned into the plate's frame by
    ``turns`` (3, 3), one a place.
    """
    shifts = np.array([source.shift for source in sources]).reshape(-1, 3)
    vectors = shifts + cross(np.array([source.turn for source in sources]).reshape(-1, 3), point)
    moves = np.einsum("nij,sj->nsi", np.array(turns).reshape(-1, 3, 3), vectors)
    return Stack(
        tuple(s.name for s in sources),
        tuple(s.spread for s in sources),
        tuple(s.why for s in sources),
        moves,
    )


@dataclass(frozen=True)
class Surroundings:
    """What plate, block, machine and shop do to all stations.

    ``part``: what grows from a station's datum corner on; nothing: what the plate is made of.
    ``outwards_mm``: from the axis a block indexes about to the plate's top; ``middle``: where the
    axis is, in plate coordinates.
    """

    accuracy: Accuracy
    machine: Machine
    plate: Material
    datum: tuple[float, float]
    part: Material | None = None
    strategy: Strategy = "one for all"
    faces: int = 1
    axis: str = "upright"
    outwards_mm: float = 0.0
    middle: tuple[float, float] = (0.0, 0.0)

    @property
    def growth_per_mm(self) -> float:
        """How much a millimetre of plate grows away from the machine's scales, plus or minus."""
        return abs(self._growth(self.plate))

    def _growth(self, material: Material) -> float:
        return (
            material.expansion_per_k - self.machine.scale_expansion_per_k
        ) * self.accuracy.temperature_k

    def still_place(self, from_corner: Sequence[float] | Array) -> Array:
        """Where a point that far from its station's datum corner does not move as plate and part
        grow, (2,); the datum where all places move.
        """
        plate, datum = self._growth(self.plate), np.array(self.datum)
        if not plate:
            return datum
        return np.asarray(
            datum
            + (1 - self._growth(self.part or self.plate) / plate)
            * np.asarray(from_corner, dtype=float)[:2]
        )

    def stack(
        self,
        points: Array,
        corners: Array,
        gives_mm: float,
        measured: Sequence[Array | None] | None = None,
    ) -> Stack:
        """Of points (n, 3), z over the plate, of stations whose datum corners are at ``corners``
        (n, 2).

        ``measured``: for stations that were measured, how far they stand off the drawing (3,) and,
        as a fourth, how well that is known.
        """
        accuracy, machine, count = self.accuracy, self.machine, len(points)
        own = self.strategy == "one per station"
        origin = corners if own else np.broadcast_to(np.array(self.datum), (count, 2))
        away = np.column_stack([points[:, :2] - origin, points[:, 2]])
        found: list[tuple[str, Spread, str, Array]] = []

        def each(
            name: str, why: str, sizes: Array | float, axes: str = "XYZ", spread: Spread = "normal"
        ) -> None:
            """The same along every axis, independently; ``sizes`` a number, or (n, 3)."""
            wide = np.broadcast_to(np.asarray(sizes, dtype=float), (count, 3))
            for k in map("XYZ".index, axes):
                found.append((name, spread, why, wide[:, k, None] * _AXES[k]))

        if not own:
            drawn = f"±{accuracy.station_place_mm:g} mm of the drawing"
            known = measured if measured is not None else [None] * count
            place = np.array(
                [accuracy.station_place_mm if item is None else item[3] for item in known]
            ).reshape(-1, 1)
            why = (
                drawn
                if all(item is None for item in known)
                else f"{drawn}; those measured, as well as they were"
            )
            each("station place", why, place, "XY")
            if accuracy.measured_are == "only known" and any(item is not None for item in known):
                off = np.array([np.zeros(3) if item is None else item[:3] for item in known])
                found.append(
                    ("station off the drawing", "fixed", "measured, and not in the program", off)
                )
        each("height of plate and rests", f"±{accuracy.height_mm:g} mm", accuracy.height_mm, "Z")
        each("datum pick-up", f"±{accuracy.datum_pickup_mm:g} mm", accuracy.datum_pickup_mm)
        reach = machine.positioning_mm + machine.positioning_per_m_mm * np.abs(away) / 1000
        each(
            "machine positioning",
            f"±{machine.positioning_mm:g} mm and {machine.positioning_per_m_mm:g} mm a metre",
            reach,
        )
        to_corner = np.column_stack([corners - origin, np.zeros(count)])
        grown = self._growth(self.plate) * to_corner + self._growth(self.part or self.plate) * (
            away - to_corner
        )
        why = "expansion of plate, then of part, less that of the scales, x distance"
        found.append((f"temperature, ±{accuracy.temperature_k:g} K", "normal", why, grown))
        if self.faces > 1:
            if self.strategy == "one for all":
                each(
                    "faces to one another",
                    f"±{accuracy.face_place_mm:g} mm, as the block was made",
                    accuracy.face_place_mm,
                )
            angle = (
                machine.index_arcsec
                if self.strategy == "one for all"
                else machine.index_repeat_arcsec
            )
            found.append(
                (
                    "rotary index",
                    "normal",
                    f"±{angle:g} arc seconds x distance from its axis",
                    self._indexed(points, angle),
                )
            )
        if machine.pallet_repeat_mm:
            each(
                "pallet repeatability",
                f"±{machine.pallet_repeat_mm:g} mm, machine builder",
                machine.pallet_repeat_mm,
            )
        if accuracy.rebolted_mm:
            each(
                "bolted on again",
                f"±{accuracy.rebolted_mm:g} mm: play on its screws",
                accuracy.rebolted_mm,
                "XY",
                "uniform",
            )
        if gives_mm:
            each(
                "give under the cut",
                "part on its contacts and block, under the cut that finishes it",
                gives_mm,
                spread="uniform",
            )
        names, spreads, whys, moves = zip(*found, strict=True)
        return Stack(names, spreads, whys, np.stack(moves, axis=1))

    def _indexed(self, points: Array, arcsec: float) -> Array:
        angle = arcsec * ARC_SECOND
        k = 0 if self.axis == "upright" else 1
        moved = np.zeros_like(points)
        moved[:, k] = angle * (self.outwards_mm + points[:, 2])
        moved[:, 2] = -angle * (points[:, k] - self.middle[k])
        return moved


def between(
    machine: Machine,
    part: Material,
    temperature_k: float,
    apart: Array,
    gives_mm: float,
    straight: bool = False,
) -> list[Source]:
    """Sources of what is cut in one clamping and measured from one another, ``apart`` (3,) in the
    op's frame.

    All that moves the whole part has gone. ``straight``: along one cut, so without the constant
    share of positioning.
    """
    found = []
    for k, name in enumerate("XYZ"):
        size = (0.0 if straight else machine.positioning_mm) + machine.positioning_per_m_mm * abs(
            float(apart[k])
        ) / 1000
        why = f"along {name}, over {abs(float(apart[k])):.1f} mm in one clamping"
        found.append(shifting("machine positioning", "normal", size * _AXES[k], why))
    growth = abs(part.expansion_per_k - machine.scale_expansion_per_k) * temperature_k
    found.append(
        shifting(
            f"temperature, ±{temperature_k:g} K",
            "normal",
            growth * np.abs(apart),
            "expansion of part less scales",
        )
    )
    if gives_mm:
        found += [
            shifting(
                "give under the cut", "uniform", gives_mm * axis, "under the cut that finishes it"
            )
            for axis in _AXES
        ]
    return found
