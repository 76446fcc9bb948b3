"""One station: a part against two stops with edge clamps, or several that share a clamp, as layers
of polygons.

The station's frame has its origin at the datum corner of its first part, where the two stops'
planes meet: the part's bounding box starts there. The long stop stands on the left (X-), the end
stop at the front (Y-), the clamps on the right push X-. Turns are about the datum corner,
counter-clockwise.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.cutting.path import CUTTER_CLEARANCE_MM, cut_path
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.element import Body
from wedgecraft.core.records.layout import Layer, Role
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.clamped import apart, clamped
from wedgecraft.core.station.clear import keeps_clear
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.nest import fixed_half
from wedgecraft.core.station.stops import stop_middle
from wedgecraft.core.station.sweeps import sweeps
from wedgecraft.core.station.touch import touch
from wedgecraft.core.station.vee import Vee
from wedgecraft.core.workpiece.sitting import Sitting


@dataclass(frozen=True)
class Station:
    """Geometry of the station in its own frame; polygons in mm. ``axis_bounds``: how far the
    spindle's axis goes.

    ``part`` is what stops touch of the first part, ``floor`` what it stands on; ``long_stop`` and
    ``end_stop`` are its stops; ``parts`` and ``stops`` those of all ``members``. ``seats``: what
    else locates a part, in its own frame; ``clamp_bodies``: ``clamps`` with their heights;
    ``under``: what stands under the floor, nothing for all of it.
    """

    part: Polygon
    floor: Polygon
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
    under: Any = None

    @property
    def bodies(self) -> Polygon:
        return shapely.union_all([*self.parts, *self.stops, *self.clamps])

    @property
    def clamp_points(self) -> tuple[tuple[float, float], ...]:
        """Where clamps press on the first part."""
        return tuple((press.x, press.y) for press in self.members[0].presses)


#: What differs less between two floors is no hole.
_SPECK_MM = 0.05
#: A wrench needs this much room above the clamp.
_WRENCH_LENGTH_MM = 60.0


def build_station(sitting: Sitting, kind: StopAndEdgeClamp) -> Station:
    """Work the station out from the workpiece, its cuts and clamps. Raises OutOfRange when stops,
    clamps and cutters are in each other's way, or touch what is not there or is cut away.
    """
    outline, height = sitting.touching, sitting.height_mm
    _, _, width, depth = outline.bounds
    clamp, stops = kind.clamp, kind.stops
    if kind.element.is_toe:
        _check_toe(height, kind)
    elif kind.sharing.how != "a clamp each" and not (
        kind.sharing.how == "row between jaws" and kind.element.flat_mm is not None
    ):
        raise OutOfRange(
            "station.sharing.how",
            kind.sharing.how,
            f"a clamp each: parts share edge clamps, not a {kind.element.kind}",
        )
    flat = kind.element.flat_mm
    long_length = flat or min(stops.length_mm, depth)
    end_length = min(kind.element.side_mm or stops.length_mm, width)
    if kind.locating.all_along:  # a pocket's walls
        long_length, end_length = depth, width
    left, front = (touch(outline, side) for side in ("left", "front"))
    long_middle = depth / 2 if flat else stop_middle(left, long_length, depth)
    end_middle = stop_middle(front, end_length, width)
    long_stop = box(
        -stops.thickness_mm, long_middle - long_length / 2, 0, long_middle + long_length / 2
    )
    side_thick = kind.element.side_mm or stops.thickness_mm
    end_stop = box(end_middle - end_length / 2, -side_thick, end_middle + end_length / 2, 0)
    if kind.sharing.how == "row between jaws" and not flat:
        long_stop = box(-stops.thickness_mm, 0, 0, depth)
    nest = kind.element.nest
    if nest is not None:
        side_thick = nest.wall_mm
    seats = _located(kind, sitting.floor, height)
    vee = kind.locating.vee(outline, stops.length_mm, stops.thickness_mm)
    if vee is not None:
        long_stop, end_stop, long_middle = vee.block, Polygon(), vee.middle[1]
    elif seats:
        pins = [contact.point_mm[1] for contact in seats]
        long_middle = (min(pins) + max(pins)) / 2
    held = clamped(sitting, long_middle, kind, apart(sitting, side_thick))
    members, clamps, screws = held.members, tuple(body.polygon for body in held.bodies), held.screws
    parts = tuple(member.put(sitting.outline) for member in members)
    standing = (long_stop, end_stop)
    bodies = [member.put(stop) for member in members for stop in standing if not stop.is_empty]
    if nest is not None:
        long_stop = fixed_half(sitting, kind, nest, tuple(member.y_mm for member in members))
        bodies = [long_stop]
    elif kind.sharing.how == "row between jaws":
        fixed_jaw = box(-stops.thickness_mm, 0, 0, members[-1].y_mm + depth)
        if flat:
            middle = (members[-1].y_mm + depth) / 2
            fixed_jaw = box(-stops.thickness_mm, middle - flat / 2, 0, middle + flat / 2)
            long_stop = fixed_jaw
        stopped = members[:1] if kind.sharing.against_neighbour else members
        bodies = [fixed_jaw, *[member.put(end_stop) for member in stopped]]
    if not kind.stopped:
        bodies = []
    swept_by = sweeps(sitting, members, bodies, held.bodies, kind)
    keeps_clear(sitting, kind, long_stop, end_stop, held)
    layers = [
        _layer("body", "part", Polygon(member.put(band.area).exterior), band.low_mm, band.high_mm)
        for member in members
        for band in sitting.bands
    ]
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
        for name, area, low in swept_by
    ]
    return Station(
        part=outline,
        floor=sitting.floor,
        under=_under(sitting, kind),
        long_stop=long_stop,
        end_stop=end_stop,
        parts=parts,
        stops=tuple(bodies),
        clamps=clamps,
        screws=screws,
        sweep=shapely.union_all([area for _, area, _ in swept_by]),
        axis_bounds=_bounds_of(
            [
                member.put(cut_path(cut, guide).axis)
                for cut, guide in zip(sitting.cuts, sitting.guides, strict=True)
                for member in members
            ]
        ),
        layers=tuple(layers),
        members=members,
        clearance_mm=kind.clearance_mm,
        clamp_bodies=held.bodies,
        seats=held.seats + seats,
        vee=vee,
    )


def _under(sitting: Sitting, kind: StopAndEdgeClamp) -> Any:
    """What stands under the part. Raises OutOfRange where a cut of the op would run into it."""
    gone = sitting.floor.difference(sitting.floor_after).buffer(-_SPECK_MM)
    return kind.element.stands_on(sitting.floor, gone.buffer(2 * _SPECK_MM))


def _located(kind: StopAndEdgeClamp, outline: Polygon, height_mm: float) -> tuple[Contact, ...]:
    """Contacts of the pins a part is located on. Raises OutOfRange for a locating that does not go
    with the clamps.
    """
    locating = kind.locating
    if locating.plain or kind.element.nest is not None:
        return ()
    if kind.element.locates or kind.sharing.how != "a clamp each":
        what = kind.element.kind if kind.element.locates else kind.sharing.how
        raise OutOfRange(
            "station.locating.kind", locating.kind, f"stops: {what} locates the parts by itself"
        )
    return locating.seats(outline, height_mm, kind.stops.capacity_n)


def _bounds_of(shapes: list[Any]) -> tuple[float, float, float, float]:
    if not shapes:  # an op without cuts goes nowhere
        return 0.0, 0.0, 0.0, 0.0
    found = np.array([shape.bounds for shape in shapes])
    low, high = found.min(axis=0), found.max(axis=0)
    return float(low[0]), float(low[1]), float(high[2]), float(high[3])


def _layer(role: Role, name: str, polygon: Polygon, low: float, high: float) -> Layer:
    ring = np.asarray(shapely.force_2d(polygon).exterior.coords)[:-1]
    return Layer(
        role=role,
        name=name,
        outer=[(float(x), float(y)) for x, y in ring],
        low_mm=low,
        high_mm=high,
    )


def _check_toe(height_mm: float, kind: StopAndEdgeClamp) -> None:
    if kind.clamp.toe_height_mm > min(kind.clamp.height_mm, height_mm):
        raise OutOfRange(
            "station.clamp.toe_height_mm",
            kind.clamp.toe_height_mm,
            f"at most the height of clamp and part, {min(kind.clamp.height_mm, height_mm):g} mm",
        )
