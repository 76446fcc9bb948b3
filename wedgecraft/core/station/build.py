"""One station: a part against two stops with edge clamps, or several that share a clamp, as layers
of polygons.

The station's frame has its origin at the datum corner of its first part, where the two stops'
planes meet: the part's bounding box starts there. The long stop stands on the left (X-), the end
stop at the front (Y-), the clamps on the right push X-. Turns are about the datum corner,
counter-clockwise.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.clamping.sharing import BEHIND_MM
from wedgecraft.core.cutting.path import CUTTER_CLEARANCE_MM, cut_path, run_over, swept
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.element import Body, Press
from wedgecraft.core.records.layout import Layer, Role
from wedgecraft.core.records.locating import AgainstStops, InNest, InVee, OnPins
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.station import StopAndEdgeClamp, Stops
from wedgecraft.core.station.pins import pin_contacts, pinned
from wedgecraft.core.station.vee import Vee, in_vee
from wedgecraft.core.workpiece.sitting import Sitting

_EPSILON = 1e-6
Interval = tuple[float, float]


@dataclass(frozen=True)
class Member:
    """One part of a station: where its datum corner is, and whether it is turned half round.

    ``presses``: where clamps press on it, in its own frame.
    """

    x_mm: float
    y_mm: float
    half_turn: bool
    presses: tuple[Press, ...]

    def put(self, shape: Any) -> Any:
        """From the part's own frame into the station's: a shape, or points as an array (..., 2)."""
        move = np.array([self.x_mm, self.y_mm])
        sign = -1.0 if self.half_turn else 1.0
        return (
            sign * shape + move
            if isinstance(shape, np.ndarray)
            else shapely.transform(shape, lambda xy: sign * xy + move)
        )


@dataclass(frozen=True)
class Station:
    """Geometry of the station in its own frame; polygons in mm. ``axis_bounds``: how far the
    spindle's axis goes.

    ``part``, ``long_stop`` and ``end_stop`` are the first part's; ``parts`` and ``stops`` those of
    all ``members``. ``seats``: what else locates a part, in its own frame; ``clamp_bodies``:
    ``clamps`` with their heights.
    """

    part: Polygon
    long_stop: Polygon
    end_stop: Polygon
    parts: tuple[Polygon, ...]
    stops: tuple[Polygon, ...]
    clamps: tuple[Polygon, ...]
    screws: tuple[tuple[float, float], ...]
    sweep: Any
    axis_bounds: tuple[float, float, float, float]
    layers: tuple[Layer, ...]
    members: tuple[Member, ...]
    clearance_mm: float
    clamp_bodies: tuple[Body, ...] = ()
    seats: tuple[Contact, ...] = ()
    vee: Vee | None = None

    @property
    def bodies(self) -> Polygon:
        return shapely.union_all([*self.parts, *self.stops, *self.clamps])

    @property
    def clamp_points(self) -> tuple[tuple[float, float], ...]:
        """Where clamps press on the first part."""
        return tuple((press.x, press.y) for press in self.members[0].presses)


#: A wrench needs this much room above the clamp.
_WRENCH_LENGTH_MM = 60.0


def build_station(sitting: Sitting, cuts: list[Cut], kind: StopAndEdgeClamp) -> Station:
    """Work the station out from part, cuts and clamps. Raises OutOfRange when stops, clamps and
    cutters are in each other's way.
    """
    outline, height = sitting.outline, sitting.height_mm
    _, _, width, depth = outline.bounds
    clamp, stops = kind.clamp, kind.stops
    if kind.element.is_toe:
        _check_toe(height, kind)
    elif kind.sharing.how != "a clamp each":
        raise OutOfRange(
            "station.sharing.how",
            kind.sharing.how,
            f"a clamp each: parts share edge clamps, not a {kind.element.kind}",
        )
    long_length, end_length = min(stops.length_mm, depth), min(stops.length_mm, width)
    if isinstance(kind.locating, InNest):
        long_length, end_length = depth, width  # a pocket's walls go all along
    left, front = (touch(outline, side) for side in ("left", "front"))
    long_middle = _middle(left, long_length, depth)
    end_middle = _middle(front, end_length, width)
    long_stop = box(
        -stops.thickness_mm, long_middle - long_length / 2, 0, long_middle + long_length / 2
    )
    end_stop = box(end_middle - end_length / 2, -stops.thickness_mm, end_middle + end_length / 2, 0)
    if kind.sharing.how == "row between jaws":
        long_stop = box(-stops.thickness_mm, 0, 0, depth)
    vee, seats = None, _located(kind, outline, height)
    if isinstance(kind.locating, InVee):
        vee = in_vee(outline, kind.locating.angle_deg, stops.length_mm, stops.thickness_mm)
        long_stop, end_stop, long_middle = vee.block, Polygon(), vee.middle[1]
    elif seats:
        pins = [contact.point_mm[1] for contact in seats]
        long_middle = (min(pins) + max(pins)) / 2
    held = _clamped(outline, height, long_middle, kind, _apart(cuts, outline, stops))
    members, clamps, screws = held.members, tuple(body.polygon for body in held.bodies), held.screws
    parts = tuple(member.put(outline) for member in members)
    bodies = [
        member.put(stop)
        for member in members
        for stop in (long_stop, end_stop)
        if not stop.is_empty
    ]
    if kind.sharing.how == "row between jaws":
        fixed_jaw = box(-stops.thickness_mm, 0, 0, members[-1].y_mm + depth)
        stopped = members[:1] if kind.sharing.against_neighbour else members
        bodies = [fixed_jaw, *[member.put(end_stop) for member in stopped]]
    if not kind.stopped:
        bodies = []
    sweeps = _sweeps(cuts, sitting, members, bodies, held.bodies, kind)
    layers = [_layer("body", "part", Polygon(part.exterior), 0, height) for part in parts]
    layers += [_layer("body", "stop", stop, 0, stops.height_mm) for stop in bodies]
    layers += [
        _layer("body", "clamp", body.polygon, body.low_mm, body.high_mm) for body in held.bodies
    ]
    layers += [
        _layer("access", "clamp, open", body.polygon, body.low_mm, body.high_mm)
        for body in held.opened
    ]
    layers += [
        _layer(
            "access",
            "wrench",
            Point(at).buffer(clamp.wrench_diameter_mm / 2, quad_segs=8),
            held.screw_height_mm,
            held.screw_height_mm + _WRENCH_LENGTH_MM,
        )
        for at in screws
    ]
    layers += [
        _layer("sweep", name, area, low - CUTTER_CLEARANCE_MM, height + 200)
        for name, area, low in sweeps
    ]
    return Station(
        part=outline,
        long_stop=long_stop,
        end_stop=end_stop,
        parts=parts,
        stops=tuple(bodies),
        clamps=clamps,
        screws=screws,
        sweep=shapely.union_all([area for _, area, _ in sweeps]),
        axis_bounds=_bounds_of(
            [member.put(cut_path(cut, outline).axis) for cut in cuts for member in members]
        ),
        layers=tuple(layers),
        members=members,
        clearance_mm=kind.clearance_mm,
        clamp_bodies=held.bodies,
        seats=held.seats + seats,
        vee=vee,
    )


def _located(kind: StopAndEdgeClamp, outline: Polygon, height_mm: float) -> tuple[Contact, ...]:
    """Contacts of the pins a part is located on. Raises OutOfRange for a locating that does not go
    with the clamps.
    """
    locating = kind.locating
    if isinstance(locating, AgainstStops):
        return ()
    if kind.element.locates or kind.sharing.how != "a clamp each":
        what = kind.element.kind if kind.element.locates else kind.sharing.how
        raise OutOfRange(
            "station.locating.kind", locating.kind, f"stops: {what} locates the parts by itself"
        )
    if not isinstance(locating, OnPins):
        return ()
    return pin_contacts(pinned(outline, locating), locating, height_mm, kind.stops.capacity_n)


@dataclass(frozen=True)
class _Clamped:
    """The parts of a station, its clamps' bodies, where those go when open, and their screws."""

    members: tuple[Member, ...]
    bodies: tuple[Body, ...]
    screws: tuple[tuple[float, float], ...]
    screw_height_mm: float
    opened: tuple[Body, ...] = ()
    seats: tuple[Contact, ...] = ()


def _apart(cuts: Sequence[Cut], outline: Polygon, stops: Stops) -> float:
    """Gap between parts side by side: for the stop of the next one, and for cutters that go round a
    part.
    """
    depth = outline.bounds[3]
    beyond = [
        max(area.bounds[3] - depth, -area.bounds[1])
        for cut in cuts
        if not cut.of.facing
        for area in swept(cut, outline)
    ]
    return max(stops.thickness_mm + BEHIND_MM, *beyond, 0.0)


def _clamped(
    outline: Polygon, height: float, aim: float, kind: StopAndEdgeClamp, gap: float
) -> _Clamped:
    """The parts of the station, ``gap`` between those side by side, its clamps' bodies and their
    screws.
    """
    _, _, width, depth = outline.bounds
    clamp, right = kind.clamp, touch(outline, "right")
    screw = max(clamp.length_mm / 2, clamp.wrench_diameter_mm / 2)
    how = kind.sharing.how
    if how == "a clamp each":
        pressed = kind.element.along_side_mm(clamp)
        places = () if pressed is None else _clamp_places(right, aim, kind, pressed)
        grip = kind.element.grip(outline, height, clamp, kind.clamps, places)
        one = (Member(0.0, 0.0, False, grip.presses),)
        return _Clamped(
            one, grip.bodies, grip.screws, grip.screw_height_mm, grip.opened, grip.seats
        )
    if how == "double wedge between two":
        places = _clamp_places(right, aim, kind, clamp.width_mm)
        presses = tuple(Press(width, y, 1.0) for y in places)
        wedges = tuple(
            box(width, y - clamp.width_mm / 2, width + clamp.length_mm, y + clamp.width_mm / 2)
            for y in places
        )
        middle = (places[0] + places[-1]) / 2
        if any(abs(a + b - 2 * middle) > 1e-6 for a, b in zip(places, places[::-1], strict=True)):
            raise OutOfRange(
                "station.clamps",
                kind.clamps,
                "one, or clamps evenly about their middle: the part on the other side of a double"
                " wedge is turned half round",
            )
        pair = (
            Member(0.0, 0.0, False, presses),
            Member(2 * width + clamp.length_mm, 2 * middle, True, presses),
        )
        return _shared(pair, wedges, tuple((width + clamp.length_mm / 2, y) for y in places), clamp)
    if kind.clamps != 1:
        raise OutOfRange("station.clamps", kind.clamps, f"one: {how} means that the parts share it")
    pitch = depth if kind.sharing.against_neighbour and how == "row between jaws" else depth + gap
    count = kind.sharing.parts
    if how == "one clamp for two":
        middle = (depth + pitch) / 2
        reach = middle - clamp.width_mm / 2, middle + clamp.width_mm / 2
        near, far = _pressed(right, *reach), _pressed(right, reach[0] - pitch, reach[1] - pitch)
        if near is None or far is None:
            least = 2 * max(middle - right[-1][1], right[0][0] + pitch - middle) + 2 * _LEAST_TOE_MM
            raise OutOfRange(
                "station.clamp.width_mm",
                clamp.width_mm,
                f"at least {least:.1f} mm, so that the toe presses on both parts across the stop"
                " between them",
            )
        body = box(width, reach[0], width + clamp.length_mm, reach[1])
        both = (
            Member(0.0, 0.0, False, (Press(width, near, 1.0),)),
            Member(0.0, pitch, False, (Press(width, far, 1.0),)),
        )
        return _shared(both, (body,), ((width + screw, middle),), clamp)
    ends = sorted({right[0][0], right[-1][1]})
    presses = tuple(Press(width, y, 1.0 / len(ends)) for y in ends)
    middle = (count - 1) * pitch / 2 + (ends[0] + ends[-1]) / 2
    back = width + kind.sharing.jaw_mm
    jaw = box(width, 0, back, (count - 1) * pitch + depth)
    body = box(
        back, middle - clamp.width_mm / 2, back + clamp.length_mm, middle + clamp.width_mm / 2
    )
    row = tuple(Member(0.0, number * pitch, False, presses) for number in range(count))
    return _shared(row, (jaw, body), ((back + screw, middle),), clamp)


def _shared(
    members: tuple[Member, ...],
    polygons: tuple[Polygon, ...],
    screws: tuple[tuple[float, float], ...],
    clamp: EdgeClamp,
) -> _Clamped:
    """Parts that share edge clamps, which stand as high as the clamp is."""
    bodies = tuple(Body(polygon, 0, clamp.height_mm) for polygon in polygons)
    return _Clamped(members, bodies, screws, clamp.height_mm, bodies)


#: A toe that presses on less of a part than this slips off it.
_LEAST_TOE_MM = 2.0


def _pressed(touch: list[Interval], low: float, high: float) -> float | None:
    """Middle of what a toe from ``low`` to ``high`` presses on; nothing when that is too little."""
    met = [(max(a, low), min(b, high)) for a, b in touch if min(b, high) >= max(a, low)]
    if not met or met[-1][1] - met[0][0] < _LEAST_TOE_MM:
        return None
    return (met[0][0] + met[-1][1]) / 2


def _bounds_of(shapes: list[Any]) -> tuple[float, float, float, float]:
    found = np.array([shape.bounds for shape in shapes])
    low, high = found.min(axis=0), found.max(axis=0)
    return float(low[0]), float(low[1]), float(high[2]), float(high[3])


def _sweeps(
    cuts: list[Cut],
    sitting: Sitting,
    members: Sequence[Member],
    stops: Sequence[Polygon],
    clamps: Sequence[Body],
    kind: StopAndEdgeClamp,
) -> list[tuple[str, Polygon, float]]:
    """What each cut sweeps and how low; what another sweeps as low and wider is left out. Raises
    OutOfRange.
    """
    height, found = sitting.height_mm, []
    for cut in cuts:
        if cut.depth_mm > height + 1e-9 and not cut.of.through:
            raise OutOfRange(
                "cut.axial_depth_mm",
                cut.depth_mm,
                f"in all less than the part's height, {height:g} mm",
            )
        low = max(height - cut.depth_mm, CUTTER_CLEARANCE_MM)
        own, over = swept(cut, sitting.outline), run_over(cut, sitting.outline)
        for member in members:
            _check_above(cut, member.put(over), low, stops, clamps, kind)
        every = [[member.put(area) for area in own] for member in members]
        for areas in every:
            found += [(cut.name, area, low) for area in areas]
        _check_neighbours(
            cut, members, sitting.outline, [shapely.union_all(areas) for areas in every]
        )
    found.sort(key=lambda item: (item[2], -item[1].area))
    kept: list[tuple[str, Polygon, float]] = []
    for name, area, low in found:
        if not any(other.covers(area) for _, other, _ in kept):
            kept.append((name, area, low))
    return kept


def _check_neighbours(
    cut: Cut, members: Sequence[Member], outline: Polygon, sweeps: Sequence[Any]
) -> None:
    """Where a facing cutter runs over the next part of the same station, that part must be faced
    there itself; others keep off it.
    """
    for member, sweep in zip(members, sweeps, strict=True):
        for other, faced in zip(members, sweeps, strict=True):
            own = faced if cut.of.facing else Polygon()
            if (
                other is not member
                and sweep.intersection(other.put(outline)).difference(own).area > 1e-6
            ):
                raise OutOfRange(
                    "station.sharing.how",
                    cut.name,
                    f"parts farther apart: {cut.name} would run into the next part of the station;"
                    " thicker stops between them, a longer wedge, a smaller cutter, or a clamp for"
                    " each part",
                )


def _layer(role: Role, name: str, polygon: Polygon, low: float, high: float) -> Layer:
    ring = np.asarray(shapely.force_2d(polygon).exterior.coords)[:-1]
    return Layer(
        role=role,
        name=name,
        outer=[(float(x), float(y)) for x, y in ring],
        low_mm=low,
        high_mm=high,
    )


def _check_above(
    cut: Cut,
    area: Any,
    low: float,
    stops: Sequence[Polygon],
    clamps: Sequence[Body],
    kind: StopAndEdgeClamp,
) -> None:
    """The cutter must pass over stops and clamps it sweeps across."""
    allowed = low - CUTTER_CLEARANCE_MM
    toe = kind.element.stands_beside
    bodies = [("stops", "station.stops.height_mm", kind.stops.height_mm, stop) for stop in stops]
    field = "station.clamp.height_mm" if toe else "station.element.kind"
    bodies += [
        ("clamp" if toe else kind.element.kind, field, body.high_mm, body.polygon)
        for body in clamps
    ]
    for name, field, height, body in bodies:
        if height > allowed and area.intersects(body):
            raise OutOfRange(
                field,
                height,
                f"the {name} at most {math.floor(100 * allowed + 1e-6) / 100:g} mm high there, or a"
                f" cut less deep: {cut.name} comes down to {round(low, 2):g} mm above the plate and"
                f" keeps {CUTTER_CLEARANCE_MM:g} mm",
            )


def _check_toe(height_mm: float, kind: StopAndEdgeClamp) -> None:
    if kind.clamp.toe_height_mm > min(kind.clamp.height_mm, height_mm):
        raise OutOfRange(
            "station.clamp.toe_height_mm",
            kind.clamp.toe_height_mm,
            f"at most the height of clamp and part, {min(kind.clamp.height_mm, height_mm):g} mm",
        )


def touch(outline: Polygon, side: Literal["left", "front", "right"]) -> list[Interval]:
    """Where along its length the outline touches the plane at that side of its bounding box; points
    are intervals of no length.

    A chord that stands for an arc is the point that the arc touches at.
    """
    ring = shapely.get_coordinates(outline.exterior)
    axis, value = {"left": (0, 0.0), "front": (1, 0.0), "right": (0, outline.bounds[2])}[side]
    on_plane = np.abs(ring[:, axis] - value) < _EPSILON
    found = [(float(point[1 - axis]),) * 2 for point in ring[on_plane]]
    starts = np.flatnonzero(on_plane[:-1] & on_plane[1:])
    for start in starts.tolist():
        low, high = sorted((float(ring[start, 1 - axis]), float(ring[start + 1, 1 - axis])))
        if len(starts) == 1 and _of_an_arc(ring[:-1], start):
            return [((low + high) / 2,) * 2]
        found.append((low, high))
    merged: list[Interval] = []
    for low, high in sorted(found):
        if merged and low <= merged[-1][1] + _EPSILON:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    return merged


#: No chord of an arc, as drawings are read, lies farther from it; and how much its turns at both
#: ends may differ.
_CHORD_MM, _UNEVEN = 0.011, 0.3


def _of_an_arc(ring: np.ndarray, start: int) -> bool:
    """Whether an edge of a closed ring stands for part of an arc: it turns by the same small angle
    at both ends.
    """
    count = len(ring)
    before, here, after = (
        ring[(start + k + 1) % count] - ring[(start + k) % count] for k in (-1, 0, 1)
    )
    turns = [
        math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b))
        for a, b in ((before, here), (here, after))
    ]
    mean = abs(sum(turns)) / 2
    if mean <= 1e-6 or abs(turns[0] - turns[1]) > 2 * _UNEVEN * mean:
        return False
    return float(np.hypot(*here)) * math.tan(min(mean, 1.5) / 2) / 4 <= _CHORD_MM


def _middle(touch: list[Interval], length: float, side: float) -> float:
    """Centre of a stop: amid all it can touch, or on the longest stretch when the stop would fall
    into a gap; within the side.
    """
    middle = _within((touch[0][0] + touch[-1][1]) / 2, length, side)
    if any(low <= middle + length / 2 and high >= middle - length / 2 for low, high in touch):
        return middle
    low, high = max(touch, key=lambda interval: (round(interval[1] - interval[0], 6), -interval[0]))
    return _within((low + high) / 2, length, side)


def _within(middle: float, length: float, side: float) -> float:
    return min(max(middle, length / 2), side - length / 2)


def _clamp_places(
    touch: list[Interval], aim: float, kind: StopAndEdgeClamp, width: float
) -> tuple[float, ...]:
    """Where toes press: spread over the side, each moved to where its whole width, or as much as
    there is, meets the part.
    """
    low, high = touch[0][0], touch[-1][1]
    count = kind.clamps
    pitch = max(width, kind.clamp.wrench_diameter_mm)
    room = high - low
    if count > 1 and room + width < count * pitch:
        raise OutOfRange(
            "station.clamps",
            count,
            f"the side across from the long stop touches over {room:.1f} mm; {count} clamps need"
            f" {count * pitch - width:.1f} mm",
        )
    if count == 1:
        targets = [aim]
    else:
        spread = max((count - 1) * pitch, room * (count - 1) / count)
        targets = [
            (low + high - spread) / 2 + spread * index / (count - 1) for index in range(count)
        ]
    places = tuple(
        min((_on(interval, target, width) for interval in touch), key=lambda y: abs(y - target))
        for target in targets
    )
    if any(after - before < pitch - _EPSILON for before, after in pairwise(places)):
        raise OutOfRange(
            "station.clamps",
            count,
            "the side across from the long stop has too little to press on; fewer clamps, or"
            " narrower ones",
        )
    return places


def _on(interval: Interval, target: float, width: float) -> float:
    """The place on an interval nearest to the target with the whole toe on the part, or in the
    middle of a short interval.
    """
    low, high = interval
    return (
        (low + high) / 2
        if high - low < width
        else min(max(target, low + width / 2), high - width / 2)
    )
