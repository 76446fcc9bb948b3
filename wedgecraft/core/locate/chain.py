"""What is measured of each feature, from what, and through which ops its datum came about.

A feature measured from what the same clamping cut has none of the errors that move the whole part. One measured from what an op before
cut has all errors of this clamping, and all that lie between its base and the faces that this clamping is located on.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.features import Direction, Feature, feature_problems
from wedgecraft.core.gripping import WITHOUT_STOPS
from wedgecraft.core.locate.document import Accuracy, OnPins, Spread
from wedgecraft.core.locate.faces import axis_of, cut_faces, face_at, made_in, raw_size
from wedgecraft.core.locate.judge import ranges
from wedgecraft.core.locate.pins import pinned
from wedgecraft.core.locate.schemes import Located, centres, located
from wedgecraft.core.locate.sources import Array, Source, Surroundings, between, rigid_stack, shifting
from wedgecraft.core.locate.vee import round_outline
from wedgecraft.core.plan import Planned, PlanRequest
from wedgecraft.core.sitting import Sitting, sits
from wedgecraft.core.station import Station, build_station

#: Holes and features this near are the same.
_SAME_MM = 1.0
#: Something a place is measured from: a feature, or a face of the part.
Thing = Feature | Direction
Carried = tuple[str, Spread, float, str]


@dataclass(frozen=True)
class Check:
    """One thing measured of a feature. ``point``, ``way`` in the frame of the part as it sits; no ``way``: the diameter of a zone.

    ``limit_mm``: that diameter, or plus-or-minus along the way. ``chain``: what counts beside the clamping's own errors; all there is
    where ``relative``. ``problem``: why it cannot be judged.
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


class Chain:
    """The features of one op of a part, as this request plans it."""

    def __init__(self, view: PlanRequest, sitting: Sitting, station: Station, gives_mm: dict[str, float]) -> None:
        self.view, self.sitting, self.station, self.gives_mm = view, sitting, station, gives_mm
        self.part, self.op = view.part, view.op
        self._known: dict[int, tuple[Sitting, Located | None]] = {}

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
                found.append(Check(feature, np.zeros(3), None, feature.tolerance_mm, True, (), "", problem=text))
            elif feature.kind == "orientation":
                found.append(self._leaning(feature))
            elif feature.kind == "profile":
                found += self._all_round(feature)
            else:
                found.append(self._placed(feature))
        return [self._kept(check) for check in found]

    def _kept(self, check: Check) -> Check:
        """A place that follows a turn which nothing keeps is not judged."""
        one = self.located
        if check.problem or check.relative or not one.turns or round_outline(self.sitting.outline) is not None:
            return check
        away = math.dist(check.point[:2], one.pivot)
        along_z = check.way is not None and abs(check.way[2]) > 1 - 1e-9
        if along_z or away <= _SAME_MM:
            return check
        problem = (
            f"nothing but friction keeps the part from turning, and it is {away:.1f} mm from where it turns: stops, or a second pin"
        )
        return replace(check, problem=problem)

    def _gives(self, feature: Feature) -> float:
        return self.gives_mm.get(feature.name, 0.0)

    def _base(self, feature: Feature) -> Thing | None:
        if feature.measured_from == "face":
            return feature.from_face
        if feature.measured_from == "feature":
            return next(item for item in self.part.features if item.name == feature.from_feature)
        return None

    def _here(self, base: Thing) -> bool:
        """Is it cut in this clamping?"""
        return base.op == self.op.number if isinstance(base, Feature) else base in cut_faces(self.part, self.op)

    def _point(self, thing: Thing, like: Array | None = None) -> Array:
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

    def _normal(self, face: Direction) -> Array:
        side = self.sitting.side(face)
        found = np.zeros(3)
        found["XYZ".index(side[1])] = 1.0
        return found

    def _way(self, feature: Feature, base: Thing | None, point: Array) -> tuple[Array, str]:
        """Along what a distance is measured."""
        if isinstance(base, str):
            return self._normal(base), f"square to face {base}"
        if feature.takes:
            return self._normal(feature.takes[0]), f"square to face {feature.takes[0]}"
        if base is not None:
            line = point - self._point(base)
            if np.linalg.norm(line) > 1e-6:
                return line / np.linalg.norm(line), "along the line between them"
        k = 0 if point[0] >= point[1] else 1
        return np.eye(3)[k], f"along {'XY'[k]}"

    def _placed(self, feature: Feature) -> Check:
        base, point = self._base(feature), self._point(feature)
        chain, relative, said = self._from(feature, base, point)
        way = None
        if feature.kind != "position":
            way, along = self._way(feature, base, point)
            said = f"{along}, {said}"
        return Check(feature, point, way, feature.tolerance_mm, relative, chain, said, self._gives(feature))

    def _from(self, feature: Feature, base: Thing | None, point: Array) -> tuple[tuple[Source, ...], bool, str]:
        """What counts besides, whether that is all, and in words what it is measured from."""
        if base is None:
            return (), False, "from the station's locators"
        name = base.name if isinstance(base, Feature) else f"face {base}"
        if self._here(base):
            apart = point - self._point(base, point)
            temperature = self.view.accuracy.temperature_k
            return tuple(between(self.view.machine, self.part.material, temperature, apart, self._gives(feature))), True, (
                f"from {name}, cut in the same clamping"
            )  # fmt: skip
        chain = []
        for k, side in enumerate(("-X", "-Y", "-Z")):
            datum = self._datum(self.view, self.sitting, self.station, side)  # type: ignore[arg-type]
            axis = self.sitting.face(side)[1]  # type: ignore[arg-type]
            if datum is None or (isinstance(base, str) and base[1] != axis):
                continue
            for label, spread, size, why in self._relation(base, datum, axis, self.op.number):
                chain.append(shifting(label, spread, size * np.eye(3)[k], why))
        made = base.op if isinstance(base, Feature) else made_in(self.part, base, self.op.number)
        return tuple(chain), False, f"from {name}, " + ("raw" if made is None else f"cut in op {made}")

    def _datum(self, view: PlanRequest, sitting: Sitting, station: Station | None, side: Direction) -> Thing | None:
        """What locates an op on that side: a face of the part, or the feature whose hole a pin is in; nothing where that is unknown."""
        kind = view.station
        if side == "-Z" or (kind.stopped and kind.locating.kind != "V"):
            return sitting.face(side)
        if isinstance(kind.locating, OnPins):
            hole = pinned(sitting.outline, kind.locating).round
            at = (hole.x_mm, hole.y_mm)
        elif station is not None and kind.element.kind in WITHOUT_STOPS:
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
        """How far two things of the part may be off one another along an axis of it, as the ops before have made them."""
        if a == b or any(isinstance(item, str) and item[1] != axis for item in (a, b)):
            return []
        made = [item.op if isinstance(item, Feature) else made_in(self.part, item, before) for item in (a, b)]
        if made[0] is None and made[1] is None:
            size, spread, why = raw_size(self.part, axis_of(a if isinstance(a, str) else b))  # type: ignore[arg-type]
            return [("size of the blank", spread, size, f"{a} to {b}: {why}")]
        if made[0] == made[1]:
            machine, far = self.view.machine, abs(self._along(a, axis) - self._along(b, axis))
            size = machine.positioning_mm + machine.positioning_per_m_mm * far / 1000
            return [(f"op {made[0]}: machine positioning", "normal", size, f"{_name(a)} to {_name(b)}, in one clamping")]
        later, other = (a, b) if (made[0] or -1) > (made[1] or -1) else (b, a)
        number = max(value for value in made if value is not None)
        errors, datum = self._of_op(number, later, axis)
        return errors + (self._relation(other, datum, axis, number) if datum is not None else [])

    def _along(self, thing: Thing, axis: str) -> float:
        if isinstance(thing, str):
            return face_at(self.part, thing)
        return {"X": thing.x_mm, "Y": thing.y_mm, "Z": self.part.height_mm / 2 if thing.z_mm is None else thing.z_mm}[axis]

    def _of_op(self, number: int, thing: Thing, axis: str) -> tuple[list[Carried], Thing | None]:
        """What an op before is off along an axis of the part where it cut something, and what it was located on there.

        Its station is taken to be like this op's; where on the plate it stood is not known: in its middle.
        """
        index = next(k for k, op in enumerate(self.part.ops) if op.number == number)
        view = view_of(self.view, index)
        sitting = sits(view.part, view.op.up)
        try:
            station: Station | None = build_station(sitting, view.op.cuts, view.station)
            sources = located(view, sitting, station).sources  # type: ignore[arg-type]
        except OutOfRange:
            station, sources = None, []
        there = Chain(view, sitting, station or self.station, {})
        point = there._point(thing, np.array([*sitting.outline.centroid.coords[0], sitting.height_mm / 2]))
        unit = np.zeros(3)
        unit["XYZ".index(axis)] = 1.0
        way = sitting.turn @ unit
        stack = rigid_stack(sources, point, [np.eye(3)])
        middle = np.array([[view.plate.width_mm / 2, view.plate.depth_mm / 2]])
        stack += surroundings_of(view).stack(np.array([[*middle[0], point[2]]]), middle, 0.0)
        side: Direction = "-" + "XYZ"[int(np.argmax(np.abs(way)))]  # type: ignore[assignment]
        found: list[Carried] = [
            (f"op {number}: {name}", "normal", float(values[0, 0]), f"where op {number} cut {_name(thing)}")
            for name, values in ranges(stack, way[None, :]).items()
            if values[0, 0] > 0
        ]
        return found, there._datum(view, sitting, station, side)

    def _leaning(self, feature: Feature) -> Check:
        """A face or an axis out of square or parallel: how far its far end stands off its near one."""
        x0, y0, x1, y1 = self.sitting.outline.bounds
        height = self.sitting.height_mm
        if feature.takes:
            way = self._normal(feature.takes[0])
            k = int(np.argmax(way))
            box = np.array([x1 - x0, y1 - y0, height])
            box[k] = 0
            lever = box
        else:
            lever, way = np.array([0.0, 0.0, height]), np.array([1.0, 0.0, 0.0])
        base = self._base(feature)
        name = "the station" if base is None else base.name if isinstance(base, Feature) else f"face {base}"
        long = float(np.linalg.norm(lever))
        chain = between(self.view.machine, self.part.material, 0.0, np.full(3, long), self._gives(feature), straight=True)
        here = base is not None and self._here(base)
        if not here:
            chain += [
                Source(item.name, item.spread, np.cross(item.turn, lever), np.zeros(3), item.why)
                for item in self.located.sources
                if np.any(item.turn)
            ]
        said = f"over {long:.1f} mm, to {name}" + (", cut in the same clamping" if here else "")
        return Check(feature, np.zeros(3), way, feature.tolerance_mm, True, tuple(chain), said)

    def _all_round(self, feature: Feature) -> list[Check]:
        """A profile lies in its zone when its corners do, half of it to either side."""
        x0, y0, x1, y1 = self.sitting.outline.bounds
        base, found = self._base(feature), []
        for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)):
            point = np.array([x, y, self._point(feature)[2]])
            chain, relative, said = self._from(feature, base, point)
            for k in (0, 1):
                found.append(
                    Check(
                        feature, point, np.eye(3)[k], feature.tolerance_mm / 2, relative, chain,
                        f"along {'XY'[k]} at X{x:.1f} Y{y:.1f}, {said}", self._gives(feature),
                    )
                )  # fmt: skip
        return found


def _name(thing: Thing) -> str:
    return thing.name if isinstance(thing, Feature) else f"face {thing}"


def view_of(view: PlanRequest, op_index: int) -> PlanRequest:
    """The same part in another op, in a station like this one's."""
    return view.model_copy(update={"planned": Planned(part=view.planned.part, op=op_index)})


def surroundings_of(view: PlanRequest) -> Surroundings:
    """What plate, block, machine and shop do to this op's stations."""
    block, plate = view.block, view.plate
    across = plate.width_mm if block.axis == "upright" else plate.depth_mm
    apothem = block.across_mm / 2 or (across / (2 * math.tan(math.pi / block.faces)) if block.faces > 2 else 0.0)
    rule = view.rules.datum
    return Surroundings(
        accuracy=_as_measured(view), machine=view.machine, plate=plate.material, datum=(view.datum.x_mm, view.datum.y_mm),
        strategy="one for all" if rule == "cheapest in tolerance" else rule, faces=block.faces, axis=block.axis,
        outwards_mm=apothem + plate.thickness_mm, middle=(plate.width_mm / 2, plate.depth_mm / 2),
    )  # fmt: skip


def _as_measured(view: PlanRequest) -> Accuracy:
    """With every station of an own layout measured and in the program, stations stand as well as they were measured."""
    found = [item.measured for item in view.arrangement.stations]
    if not view.arrangement.own or not found or view.accuracy.measured_are == "only known":
        return view.accuracy
    known = [item.within_mm for item in found if item is not None]
    return view.accuracy if len(known) < len(found) else view.accuracy.model_copy(update={"station_place_mm": max(known)})
