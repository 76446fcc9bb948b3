"""What is measured of each feature, from what, and through which ops its datum came about.

A feature measured from what the same clamping cut has none of the errors that move the whole part.
One measured from what an op before cut has all errors of this clamping, and all that lie between
its base and the faces that this clamping is located on.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.station_deflection import feature_gives
from wedgecraft.core.locate.faces import axis_of, cut_faces, face_at, made_in, raw_size
from wedgecraft.core.locate.judge import ranges
from wedgecraft.core.locate.schemes import Located, centres, located
from wedgecraft.core.locate.sources import (
    Array,
    Source,
    Surroundings,
    between,
    rigid_stack,
    shifting,
)
from wedgecraft.core.records.feature import Direction, Feature
from wedgecraft.core.records.locating import Accuracy, Spread
from wedgecraft.core.records.request import Planned
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station, build_station
from wedgecraft.core.station.faces import apothem_mm
from wedgecraft.core.station.stood import stood
from wedgecraft.core.station.vee import round_outline
from wedgecraft.core.workpiece.facts import feature_problems
from wedgecraft.core.workpiece.sitting import Sitting

#: Holes and features this near are the same.
_SAME_MM = 1.0
#: Something a place is measured from: a feature, or a face of the part.
Thing = Feature | Direction
Carried = tuple[str, Spread, float, str]


@dataclass(frozen=True)
class Check:
    """One thing measured of a feature. ``point``, ``way`` in the frame of the part as it sits; no
    ``way``: the diameter of a zone.

    ``limit_mm``: that diameter, or plus-or-minus along the way. ``chain``: what counts beside the
    clamping's own errors; all there is where ``relative``. ``problem``: why it cannot be judged.
    ``nominal``: what the drawing has, by axis of the part, or along the way.
    """

    feature: Feature
    point: Array
    way: Array | None
    limit_mm: float
    relative: bool
    chain: tuple[Source, ...]
    said: str
    gives_mm: float = 0.0
    problem: str = ""
    nominal: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Before:
    """An op whose errors are carried on: in a station of its ``own`` or one like this op's;
    ``trouble``: why that cannot hold it.
    """

    number: int
    own: bool
    chain: Chain
    located: Located | None
    trouble: str = ""

    @property
    def held(self) -> str:
        station = "a station of its own" if self.own else "a station like this one's"
        return (
            f"held in {station}"
            if self.located
            else f"standing on plain faces: {station} cannot hold it"
        )


class Chain:
    """The features of one op of a part, as this request plans it."""

    def __init__(
        self, view: OpView, sitting: Sitting, station: Station, gives_mm: dict[str, float]
    ) -> None:
        self.view, self.sitting, self.station, self.gives_mm = view, sitting, station, gives_mm
        self.part, self.op = view.part, view.op
        self._known: dict[int, Before] = {}

    @cached_property
    def located(self) -> Located:
        """The first part of the station."""
        return located(self.view, self.sitting, self.station)

    def checks(self) -> list[Check]:
        """Of every feature cut in this op, at least one each."""
        wrong = feature_problems(self.part.features, self.part.ops)
        found = []
        for feature in self.view.judged:
            mine = [line for line in wrong if line.startswith(f"{feature.name}: ")]
            if mine:
                text = "; ".join(line.removeprefix(f"{feature.name}: ") for line in mine)
                found.append(
                    Check(
                        feature, np.zeros(3), None, feature.tolerance_mm, True, (), "", problem=text
                    )
                )
            else:
                found += self._known_of(feature)
        return [self._kept(check) for check in found]

    def _known_of(self, feature: Feature) -> list[Check]:
        try:
            return feature.of.checks(self, feature)
        except _Missing as missing:
            return [
                Check(
                    feature,
                    np.zeros(3),
                    None,
                    feature.tolerance_mm,
                    True,
                    (),
                    "",
                    problem=str(missing),
                )
            ]

    def _kept(self, check: Check) -> Check:
        """A place that follows a turn which nothing keeps is not judged."""
        one = self.located
        if (
            check.problem
            or check.relative
            or not one.turns
            or round_outline(self.sitting.outline) is not None
        ):
            return check
        away = math.dist(check.point[:2], one.pivot)
        along_z = check.way is not None and abs(check.way[2]) > 1 - 1e-9
        if along_z or away <= _SAME_MM:
            return check
        problem = (
            f"nothing but friction keeps the part from turning, and it is {away:.1f} mm from where"
            " it turns: stops, or a second pin"
        )
        return replace(check, problem=problem)

    def gives(self, feature: Feature) -> float:
        """How far part and block give under the cut that finishes it."""
        return self.gives_mm.get(feature.name, 0.0)

    def base(self, feature: Feature) -> Thing | None:
        """What it is measured from; nothing where that is the fixture's datum."""
        if feature.measured_from == "face":
            return feature.from_face
        if feature.measured_from == "feature":
            return next(item for item in self.part.features if item.name == feature.from_feature)
        return None

    def here(self, base: Thing) -> bool:
        """Is it cut in this clamping?"""
        return (
            base.op == self.op.number
            if isinstance(base, Feature)
            else base in cut_faces(self.part, self.op)
        )

    def point(self, thing: Thing, like: Array | None = None) -> Array:
        """Where it is as the part sits; of a face, the point across from ``like``."""
        if isinstance(thing, Feature):
            z = self.part.height_mm / 2 if thing.z_mm is None else thing.z_mm
            at = [thing.x_mm, thing.y_mm, z]
            for face in thing.takes:
                at["XYZ".index(face[1])] = face_at(self.part, face)
            return np.array(self.sitting.place(*at))
        part_point = np.zeros(3)
        part_point["XYZ".index(thing[1])] = face_at(self.part, thing)
        point = np.array(self.sitting.place(*part_point))
        if like is None:
            return point
        k = "XYZ".index(self.sitting.side(thing)[1])
        across = np.array(like, dtype=float)
        across[k] = point[k]
        return across

    def normal(self, face: Direction) -> Array:
        """Square to a face of the part, as the part sits."""
        side = self.sitting.side(face)
        found = np.zeros(3)
        found["XYZ".index(side[1])] = 1.0
        return found

    def measured(
        self, feature: Feature, base: Thing | None, point: Array
    ) -> tuple[tuple[Source, ...], bool, str]:
        """What counts besides, whether that is all, and in words what it is measured from."""
        if base is None:
            return (), False, "from the station's locators"
        name = base.name if isinstance(base, Feature) else f"face {base}"
        if self.here(base):
            apart = point - self.point(base, point)
            temperature = self.view.accuracy.temperature_k
            return (
                tuple(
                    between(
                        self.view.machine,
                        self.part.material,
                        temperature,
                        apart,
                        self.gives(feature),
                    )
                ),
                True,
                f"from {name}, cut in the same clamping",
            )
        chain = []
        sides: tuple[Direction, ...] = ("-X", "-Y", "-Z")
        for k, side in enumerate(sides):
            datum = self._datum(self.view, self.sitting, self.station, side)
            axis = self.sitting.face(side)[1]
            if isinstance(base, str) and base[1] != axis:
                continue
            if datum is None:
                raise _Missing(_unrecorded(self.view, self.op.number))
            for label, spread, size, why in self._relation(base, datum, axis, self.op.number):
                chain.append(shifting(label, spread, size * np.eye(3)[k], why))
        made = base.op if isinstance(base, Feature) else made_in(self.part, base, self.op.number)
        return (
            tuple(chain),
            False,
            f"from {name}, " + ("raw" if made is None else f"cut in op {made}"),
        )

    def _datum(
        self, view: OpView, sitting: Sitting, station: Station | None, side: Direction
    ) -> Thing | None:
        """What locates an op on that side: a face of the part, or the feature whose hole a pin is
        in; nothing where that is unknown.

        An op that cannot be held in that station, so has none, is taken to stand on faces.
        """
        kind = view.station
        if side == "-Z" or station is None or (kind.stopped and kind.locating.on_faces):
            return sitting.face(side)
        pins = kind.locating.pins(sitting.floor)
        if pins is not None:
            at = (pins.round.x_mm, pins.round.y_mm)
        elif kind.element.locates:
            at = centres(station)[0]
        else:
            return sitting.face(side)
        for item in self.part.features:
            z = self.part.height_mm / 2 if item.z_mm is None else item.z_mm
            x, y, _ = sitting.place(item.x_mm, item.y_mm, z)
            if math.dist((x, y), at) <= _SAME_MM and item.op < view.op.number:
                return item
        return None

    def _relation(self, a: Thing, b: Thing, axis: str, before: int) -> list[Carried]:
        """How far two things of the part may be off one another along an axis of it, as the ops
        before have made them.
        """
        if a == b or any(isinstance(item, str) and item[1] != axis for item in (a, b)):
            return []
        made = [
            item.op if isinstance(item, Feature) else made_in(self.part, item, before)
            for item in (a, b)
        ]
        if made[0] is None and made[1] is None:
            size, spread, why = raw_size(self.part, axis_of(a if isinstance(a, str) else b))  # type: ignore[arg-type]
            return [("size of the blank", spread, size, f"{a} to {b}: {why}")]
        if made[0] == made[1]:
            number = made[0] or self.op.number
            view = self.view if number == self.op.number else self._view(number)
            machine = view.machine
            far = abs(self._along(a, axis) - self._along(b, axis))
            size = machine.positioning_mm + machine.positioning_per_m_mm * far / 1000
            return [
                (
                    f"op {made[0]}: machine positioning",
                    "normal",
                    size,
                    f"{_name(a)} to {_name(b)}, in one clamping",
                )
            ]
        later, other = (a, b) if (made[0] or -1) > (made[1] or -1) else (b, a)
        number = max(value for value in made if value is not None)
        errors, datum = self._of_op(number, later, axis)
        if datum is None:
            raise _Missing(_unrecorded(self._view(number), number))
        return errors + self._relation(other, datum, axis, number)

    def _along(self, thing: Thing, axis: str) -> float:
        if isinstance(thing, str):
            return face_at(self.part, thing)
        return {
            "X": thing.x_mm,
            "Y": thing.y_mm,
            "Z": self.part.height_mm / 2 if thing.z_mm is None else thing.z_mm,
        }[axis]

    def _of_op(self, number: int, thing: Thing, axis: str) -> tuple[list[Carried], Thing | None]:
        """What an op before is off along an axis of the part where it cut something, and what it
        was located on there.

        Where on the plate its station stood is not known: what it cut was in the corner of the
        plate where it is off most.
        """
        before = self._before(number)
        there, at, view = before.chain, before.located, before.chain.view
        unit = np.zeros(3)
        unit["XYZ".index(axis)] = 1.0
        way = there.sitting.turn @ unit
        point = there.point(
            thing,
            np.array([*there.sitting.outline.centroid.coords[0], there.sitting.height_mm / 2]),
        )
        width, depth = view.plate.width_mm, view.plate.depth_mm
        corners = np.array([(0.0, 0.0), (width, 0.0), (width, depth), (0.0, depth)])
        taken = [
            name for name, gives in there.gives_mm.items() if gives and self._cuts(name, thing)
        ]
        around = surroundings_of(view).stack(
            np.column_stack([corners, np.full(4, point[2])]),
            corners - point[:2],
            max((there.gives_mm[name] for name in taken), default=0.0),
        )
        stack = rigid_stack(at.sources if at else _plain(view), point, [np.eye(3)] * 4) + around
        side: Direction = "-" + "XYZ"[int(np.argmax(np.abs(way)))]  # type: ignore[assignment]
        found: list[Carried] = [
            (
                f"op {number}: {name}",
                "normal",
                float(values.max()),
                f"where op {number} cut {_name(thing)}, {before.held}",
            )
            for name, values in ranges(stack, np.tile(way, (4, 1))).items()
            if values.max() > 0
        ]
        return found, there._datum(view, there.sitting, there.station if at else None, side)

    def _cuts(self, name: str, thing: Thing) -> bool:
        """Is that the feature meant, or one that takes the face meant?"""
        feature = next(item for item in self.part.features if item.name == name)
        return feature == thing or thing in feature.takes

    def _view(self, number: int) -> OpView:
        return view_of(
            self.view, next(k for k, op in enumerate(self.part.ops) if op.number == number)
        )

    def _before(self, number: int) -> Before:
        """An op before this one, in its own station where that is known, and else in one like this
        op's.
        """
        if number not in self._known:
            view = self._view(number)
            sitting = stood(view)
            there_held = elsewhere(self.view, view.planned.op)
            own = there_held is not None and there_held.station is not None
            try:
                station = build_station(sitting, view.station)
                there = Chain(view, sitting, station, feature_gives(view, sitting, station))
                self._known[number] = Before(number, own, there, there.located)
            except OutOfRange as error:
                self._known[number] = Before(
                    number, own, Chain(view, sitting, self.station, {}), None, error.allowed
                )
        return self._known[number]

    @property
    def before(self) -> list[Before]:
        """The ops before that were asked for what they leave behind, and those before them, as far
        as checks were made.
        """
        every = {
            item.number: item for known in self._known.values() for item in known.chain.before
        } | self._known
        return [every[number] for number in sorted(every)]

    def turning(self, base: Thing | None) -> list[Source]:
        """What turns the part in this clamping, and what turned it in those before that its base
        goes back to.
        """
        found = list(self.located.sources)
        for number in self._squared_in(base):
            before = self._before(number)
            back = self.sitting.turn @ before.chain.sitting.turn.T
            sources = before.located.sources if before.located else []
            found += [
                replace(item, name=f"op {number}: {item.name}", turn=back @ item.turn)
                for item in sources
            ]
        return found

    def _squared_in(self, base: Thing | None) -> list[int]:
        """Ops before that had the part turned otherwise between its base and the faces it stands on
        now; none where one cut them all.
        """
        sides: tuple[Direction, ...] = ("-X", "-Y", "-Z")
        datums = [self._datum(self.view, self.sitting, self.station, side) for side in sides]
        if base is None or base in datums:
            return []
        made = {
            item.op if isinstance(item, Feature) else made_in(self.part, item, self.op.number)
            for item in [base, *datums]
            if item
        }
        return sorted(number for number in made if number is not None) if len(made) > 1 else []


def _plain(view: OpView) -> list[Source]:
    """What locators do that are known by their accuracy alone: those of an op that the station
    meant for it cannot hold.
    """
    accuracy, why = (
        view.accuracy,
        "the station meant for that op cannot hold it: locators as true as these, side by side",
    )
    axes = np.eye(3)
    return [
        *(shifting("locators' place", "normal", accuracy.locator_mm * axis, why) for axis in axes),
        *(shifting("locators' wear", "uniform", accuracy.wear_mm * axis, why) for axis in axes[:2]),
    ]


def _name(thing: Thing) -> str:
    return thing.name if isinstance(thing, Feature) else f"face {thing}"


def view_of(view: OpView, op_index: int) -> OpView:
    """The same part in another op: in its own station, with the errors there, where that is known,
    and else in one like this op's.
    """
    held = elsewhere(view, op_index)
    changed: dict[str, Any] = {
        "planned": Planned(part=view.planned.part, op=op_index),
        "op": view.part.ops[op_index],
    }
    if held is not None and held.station is not None:
        changed["station"] = held.station
    if held is not None and held.there is not None:
        there = held.there
        changed |= {"machine": there.machine, "plate": there.plate, "accuracy": there.accuracy}
    return replace(view, **changed)


def elsewhere(view: OpView, op_index: int) -> Planned | None:
    """Where another op of the same part is known to be held."""
    return next(
        (item for item in view.elsewhere if (item.part, item.op) == (view.planned.part, op_index)),
        None,
    )


class _Missing(Exception):
    """A link of the chain that nothing is known of; says what would make it known."""


def _unrecorded(view: OpView, number: int) -> str:
    where = view.station.locating.made_by
    return (
        f"how far it is from what locates op {number} is not known: record {where} as a feature of"
        " the op that cuts it"
    )


def surroundings_of(view: OpView) -> Surroundings:
    """What plate, block, machine and shop do to this op's stations."""
    block, plate = view.block, view.plate
    rule = view.rules.datum
    return Surroundings(
        accuracy=_as_measured(view),
        machine=view.machine,
        plate=plate.material,
        part=view.part.material,
        datum=(view.datum.x_mm, view.datum.y_mm),
        strategy="one for all" if rule == "cheapest in tolerance" else rule,
        faces=block.faces,
        axis=block.axis,
        outwards_mm=apothem_mm(plate, block) + plate.thickness_mm,
        middle=(plate.width_mm / 2, plate.depth_mm / 2),
    )


def _as_measured(view: OpView) -> Accuracy:
    """With every station of an own layout measured and in the program, stations stand as well as
    they were measured.
    """
    found = [item.measured for item in view.arrangement.stations]
    if not view.arrangement.own or not found or view.accuracy.measured_are == "only known":
        return view.accuracy
    known = [item.within_mm for item in found if item is not None]
    return (
        view.accuracy
        if len(known) < len(found)
        else view.accuracy.model_copy(update={"station_place_mm": max(known)})
    )
