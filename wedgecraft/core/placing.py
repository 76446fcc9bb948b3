"""The packing problem behind a plan: the plate inside its margin, keep-outs, and where a station keeps its tolerance and travel."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.giving import feature_gives
from wedgecraft.core.layout.document import Face, LayoutRequest, Obstacle, Placement, Region, StationKind
from wedgecraft.core.locate.standing import Locating, locating_of
from wedgecraft.core.machine import Plate, offsets_free
from wedgecraft.core.part import part_mass_kg
from wedgecraft.core.plan import PlanRequest, Rings
from wedgecraft.core.reasons import Masses
from wedgecraft.core.sitting import Sitting, sits
from wedgecraft.core.station import Station, build_station

_STEEL_KG_MM3 = 7.85e-6


@dataclass(frozen=True)
class Ready:
    """One of the planned ops, worked out as far as its station: the request as this op sees it, how the part sits, what it weighs.

    ``gives_mm``: by feature, how far part and block give under the cut that finishes it; ``locating``: what is checked of each.
    """

    view: PlanRequest
    sitting: Sitting
    station: Station
    masses: Masses
    gives_mm: Mapping[str, float]
    locating: Locating


def ready(view: PlanRequest) -> Ready:
    """Work one op's station out. Raises OutOfRange where part, cuts and clamps do not go together."""
    sitting = sits(view.part, view.op.up)
    station = build_station(sitting, view.op.cuts, view.station)
    gives = feature_gives(view, sitting, station)
    return Ready(view, sitting, station, masses_of(view, station), gives, locating_of(view, sitting, station, gives))


def bare_kg(request: PlanRequest, masses: Masses) -> float:
    """What the table carries before any part: plates and block."""
    return request.block.faces * masses.plate_kg + request.block.body_kg


def layout_request(request: PlanRequest, kinds: Sequence[Ready], offsets: int | None = None) -> LayoutRequest:
    """The packing problem behind a plan: faces inside their margin, keep-outs, each op's station with tolerance and travel as regions.

    ``offsets``: work offsets there are, where those of the machine are not meant.
    """
    plate = request.plate
    margin = plate.margin_mm
    if min(plate.width_mm, plate.depth_mm) - 2 * margin < 1:
        raise OutOfRange("plate.margin_mm", margin, f"less than half the plate, {min(plate.width_mm, plate.depth_mm) / 2:g} mm")
    inside = box(margin, margin, plate.width_mm - margin, plate.depth_mm - margin)
    keepouts = [Obstacle(outer=ring_of(polygon), height_mm=height) for polygon, height in keepout_polygons(plate)]
    faces = [Face(name=name, outer=ring_of(inside), keepouts=keepouts) for name in request.face_names]
    stations = [_kind(item, each) for item, each in zip(kinds, request.per_set, strict=True)]
    room_kg = request.machine.table_load_kg - bare_kg(request, kinds[0].masses)
    carried = min(request.wanted, 5000)
    # With an offset for each part there is no room for more parts than offsets.
    each = sum(request.per_set) if request.rules.datum == "one per station" else 0
    free = offsets_free(request.machine) if offsets is None else offsets
    while carried > 1 and (_kg_of(carried, stations, kinds) > room_kg + 1e-6 or each * carried > free):
        carried -= 1
    return LayoutRequest(faces=faces, kinds=stations, most=carried)


def _kg_of(sets: int, stations: Sequence[StationKind], kinds: Sequence[Ready]) -> float:
    return sum(kind.stations(sets) * item.masses.station_kg for kind, item in zip(stations, kinds, strict=True))


def _kind(item: Ready, per_set: int) -> StationKind:
    view, station = item.view, item.station
    regions = [
        _region("tolerance", member.put(check.point[:2]), region)
        for number, member in enumerate(station.members)
        for check in item.locating.checks
        if (region := item.locating.allowed_region(check, view.station.turns, plate_reach(view), number)) is not None
        and not region.is_empty
    ]
    x0, y0, x1, y1 = station.axis_bounds
    travel = _travel(view)
    regions += [_region("travel", point, travel) for point in ((x0, y0), (x1, y1))]
    return StationKind(
        name=view.part.name, layers=list(station.layers), turns=view.station.turns, clearance_mm=view.station.clearance_mm,
        regions=regions, per_set=per_set, holds=len(station.members),
    )  # fmt: skip


def own_placements(request: PlanRequest) -> list[Placement]:
    """Stations a person placed, those that planning leaves: all of an own layout, else the locked ones.

    Raises OutOfRange for a turn that is not allowed, or a face or an op that is not there.
    """
    views, found = request.views, []
    for index, item in enumerate(request.arrangement.stations):
        for name, value, most in (("face", item.face, request.block.faces), ("kind", item.kind, 1 + len(request.also))):
            if value >= most:
                raise OutOfRange(f"arrangement.stations.{index}.{name}", value, f"less than {most}, counted from 0")
        allowed = views[item.kind].station.turns
        if item.turn not in allowed:
            turns = ", ".join(f"{turn}°" for turn in allowed)
            raise OutOfRange(f"arrangement.stations.{index}.turn", f"{item.turn}°", f"stations may stand at {turns}")
        if request.arrangement.own or item.locked:
            found.append(
                Placement(face=item.face, kind=item.kind, x_mm=item.x_mm, y_mm=item.y_mm, turn=item.turn, fixed=item.locked)
            )
    return found


def keepout_polygons(plate: Plate) -> list[tuple[Polygon, float]]:
    """Keep-outs as polygons with heights; a round one as a polygon round the circle."""
    found = []
    for item in plate.keepouts:
        if item.shape == "round":
            sides = 24
            radius = item.width_mm / 2 / math.cos(math.pi / sides)
            found.append((Point(item.x_mm, item.y_mm).buffer(radius, quad_segs=sides // 4), item.height_mm))
        else:
            half_depth = (item.depth_mm or item.width_mm) / 2
            half_width = item.width_mm / 2
            area = box(item.x_mm - half_width, item.y_mm - half_depth, item.x_mm + half_width, item.y_mm + half_depth)
            found.append((area, item.height_mm))
    return found


def ring_of(polygon: Polygon) -> list[tuple[float, float]]:
    """Exterior, the last point not repeated."""
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(polygon.exterior)[:-1]]


def rings_of(polygon: Polygon) -> Rings:
    """Exterior, then holes."""
    return [[(float(x), float(y)) for x, y in ring.coords[:-1]] for ring in (polygon.exterior, *polygon.interiors)]


def _region(name: str, point: Sequence[float] | np.ndarray, area: Polygon) -> Region:
    return Region(name=name, point_mm=(float(point[0]), float(point[1])), outer=ring_of(area))


def _travel(request: PlanRequest) -> Polygon:
    """Where the spindle's axis can go, the plate being centred on the table."""
    x, y = request.plate.width_mm / 2, request.plate.depth_mm / 2
    half_x, half_y = request.machine.travel_x_mm / 2, request.machine.travel_y_mm / 2
    return box(x - half_x, y - half_y, x + half_x, y + half_y)


def plate_reach(request: PlanRequest) -> float:
    """As far as a place that matters can be from the datum."""
    return 2 * (request.plate.width_mm + request.plate.depth_mm + abs(request.datum.x_mm) + abs(request.datum.y_mm))


def masses_of(request: PlanRequest, station: Station) -> Masses:
    """Of the part, the loaded station, its share for one part, and the bare plate, kg."""
    part = part_mass_kg(request.part)
    stops = sum(stop.area for stop in station.stops) * request.station.stops.height_mm
    clamps = sum(body.polygon.area * (body.high_mm - body.low_mm) for body in station.clamp_bodies)
    plate = request.plate
    plate_kg = plate.width_mm * plate.depth_mm * plate.thickness_mm * plate.material.density_kg_m3 * 1e-9
    count = len(station.members)
    whole = count * part + (stops + clamps) * _STEEL_KG_MM3
    return Masses(part, whole, whole / count, plate_kg)
