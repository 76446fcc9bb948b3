"""The packing problem behind a plan: the plate inside its margin, keep-outs, and where a station
keeps its tolerance and travel.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.planar import ring_of
from wedgecraft.core.layout.joint import put
from wedgecraft.core.locate.ready import Ready, bare_kg, plate_reach
from wedgecraft.core.records.layout import (
    Face,
    Joint,
    Layer,
    LayoutRequest,
    Obstacle,
    Region,
    StationKind,
)
from wedgecraft.core.records.machine import Machine, offsets_free
from wedgecraft.core.records.plate import BORE_MM, ROUND_BORE_MM, Plate
from wedgecraft.core.records.request import PlanRequest

#: Stations may stand this far out of a region: travel is kept by more.
_HAIR_MM = 3e-3
#: Shapes that share less only touch, mm².
_OVER_MM2 = 1e-3
#: A pallet's edge is looked at so far down.
_DEEP_MM = 100.0


def layout_request(
    request: PlanRequest, kinds: Sequence[Ready], offsets: int | None = None
) -> LayoutRequest:
    """The packing problem behind a plan: faces inside their margin, keep-outs, each op's station
    with tolerance and travel as regions.

    ``offsets``: work offsets there are, where those of the machine are not meant.
    """
    plate = request.plate
    margin = plate.margin_mm
    if min(plate.width_mm, plate.depth_mm) - 2 * margin < 1:
        raise OutOfRange(
            "plate.margin_mm",
            margin,
            f"less than half the plate, {min(plate.width_mm, plate.depth_mm) / 2:g} mm",
        )
    inside = box(margin, margin, plate.width_mm - margin, plate.depth_mm - margin)
    keepouts = [
        Obstacle(outer=ring_of(polygon), height_mm=height)
        for polygon, height in (*keepout_polygons(plate), *_over_bore(request), *_in_front(request))
    ]
    faces = [
        Face(name=name, outer=ring_of(inside), keepouts=keepouts) for name in request.face_names
    ]
    stations = [_kind(item, each) for item, each in zip(kinds, request.per_set, strict=True)]
    room_kg = request.machine.table_load_kg - bare_kg(request.block, kinds[0].masses)
    carried = min(request.wanted, 5000)
    # With an offset for each part there is no room for more parts than offsets.
    each = sum(request.per_set) if request.rules.datum == "one per station" else 0
    free = offsets_free(request.machine) if offsets is None else offsets
    joint = joint_of(request, kinds)
    if joint is not None:
        _clear_of_each_other(kinds[0], kinds[-1], joint)
    there_are = (request.station.element.there_are or 5000) * (2 if joint is not None else 1)
    while carried > 1 and (
        _kg_of(carried, stations, kinds) > room_kg + 1e-6
        or each * carried > free
        or sum(kind.stations(carried) for kind in stations) > there_are
    ):
        carried -= 1
    return LayoutRequest(faces=faces, kinds=stations, most=carried, joint=joint)


def joint_of(request: PlanRequest, kinds: Sequence[Ready]) -> Joint | None:
    """How two stations stand in one body; nothing where each has its own. Raises OutOfRange for ops
    that do not go together in one.
    """
    first, second = kinds[0], kinds[-1]
    back = first.view.station.element.back_mm
    if back is None:
        return None
    if len(kinds) > 2 or len(set(request.per_set)) > 1:
        raise OutOfRange(
            "also",
            len(kinds),
            "one op at both stations of a vise, or one at each, as many of either; another setup"
            " for what is more",
        )
    if len(first.station.members) != len(second.station.members):
        raise OutOfRange(
            "station.sharing.row",
            len(second.station.members),
            f"{len(first.station.members)}, as at the other station: as many parts of either",
        )
    up = second.view.station.element.up_mm - first.view.station.element.up_mm
    middle = sum(_jaw_middle(item) for item in (first, second))
    return Joint(second=len(kinds) - 1, x_mm=-back, y_mm=middle, up_mm=up)


def _jaw_middle(item: Ready) -> float:
    """Where along the jaws their middle is, from the datum corner."""
    jaws = item.station.stops[0] if item.station.stops else item.station.part
    return float(jaws.bounds[1] + jaws.bounds[3]) / 2


def _clear_of_each_other(first: Ready, second: Ready, joint: Joint) -> None:
    """Raises OutOfRange where a cutter at one station would run into what stands at the other."""
    for own, other, up in ((first, second, -joint.up_mm), (second, first, joint.up_mm)):
        for layer in own.station.layers:
            if layer.role != "sweep":
                continue
            area = Polygon([put(point, joint) for point in layer.outer])
            for body in other.station.layers:
                if body.role != "body" or body.high_mm <= layer.low_mm + up:
                    continue
                inside = area.intersection(Polygon(body.outer)).area
                if body.high_mm > 0 and inside > _OVER_MM2:
                    raise OutOfRange(
                        "station.element.stations",
                        2,
                        f"one, or a smaller cutter for it: {layer.name} of op"
                        f" {own.view.op.number} would run into what stands at the other station",
                    )


def _kg_of(sets: int, stations: Sequence[StationKind], kinds: Sequence[Ready]) -> float:
    return sum(
        kind.stations(sets) * item.masses.station_kg
        for kind, item in zip(stations, kinds, strict=True)
    )


def _kind(item: Ready, per_set: int) -> StationKind:
    view, station = item.view, item.station
    regions = [
        _region("tolerance", member.put(check.point[:2]), region)
        for number, member in enumerate(station.members)
        for check in item.locating.checks
        if (
            region := item.locating.allowed_region(
                check, view.station.turns, plate_reach(view.plate, view.datum), number
            )
        )
        is not None
        and not region.is_empty
    ]
    x0, y0, x1, y1 = station.axis_bounds
    travel = _travel(view.plate, view.machine)
    regions += [_region("travel", point, travel) for point in ((x0, y0), (x1, y1))]
    return StationKind(
        name=view.part.name,
        layers=[_whole_jaw(layer) for layer in station.layers]
        if view.station.element.nest is not None
        else list(station.layers),
        turns=view.station.turns,
        clearance_mm=view.station.clearance_mm,
        regions=regions,
        per_set=per_set,
        holds=len(station.members),
    )


def _whole_jaw(layer: Layer) -> Layer:
    """A soft jaw without its pocket: for its neighbours that makes no difference."""
    if layer.role != "body" or layer.name == "part":
        return layer
    return layer.model_copy(update={"outer": ring_of(Polygon(layer.outer).convex_hull)})


def _in_front(request: PlanRequest) -> list[tuple[Polygon, float]]:
    """The pallet's own edge, where it stands farther out than the plates of an upright block: a
    cutter or a holder that reaches below them would run into it.
    """
    block, machine, plate = request.block, request.machine, request.plate
    out = machine.table_y_mm / 2 - block.across_mm / 2 - plate.thickness_mm
    upright = block.axis == "upright" and (block.faces > 1 or block.across_mm > 0)
    if not upright or out <= 0:
        return []
    side = max(0.0, machine.table_x_mm - plate.width_mm) / 2
    return [(box(-side, -_DEEP_MM, plate.width_mm + side, 0.0), out)]


def _over_bore(request: PlanRequest) -> list[tuple[Polygon, float]]:
    """Nothing stands over the bore a zero is picked up in: what is cut below a part would run into
    it.
    """
    datum, plate = request.datum, request.plate
    if datum.from_what != "bore" or not (
        0 < datum.x_mm < plate.width_mm and 0 < datum.y_mm < plate.depth_mm
    ):
        return []
    return [(_round(datum.x_mm, datum.y_mm, BORE_MM + 2 * ROUND_BORE_MM), 0.0)]


def _round(x: float, y: float, across: float) -> Polygon:
    """A polygon round the circle."""
    sides = 24
    return Point(x, y).buffer(across / 2 / math.cos(math.pi / sides), quad_segs=sides // 4)


def keepout_polygons(plate: Plate) -> list[tuple[Polygon, float]]:
    """Keep-outs as polygons with heights; a round one as a polygon round the circle."""
    found = []
    for item in plate.keepouts:
        if item.shape == "round":
            found.append((_round(item.x_mm, item.y_mm, item.width_mm), item.height_mm))
        else:
            half_depth = (item.depth_mm or item.width_mm) / 2
            half_width = item.width_mm / 2
            area = box(
                item.x_mm - half_width,
                item.y_mm - half_depth,
                item.x_mm + half_width,
                item.y_mm + half_depth,
            )
            found.append((area, item.height_mm))
    return found


def _region(name: str, point: Sequence[float] | np.ndarray, area: Polygon) -> Region:
    return Region(name=name, point_mm=(float(point[0]), float(point[1])), outer=ring_of(area))


def _travel(plate: Plate, machine: Machine) -> Polygon:
    """Where the spindle's axis can go, the plate being centred on the table."""
    x, y = plate.width_mm / 2, plate.depth_mm / 2
    half_x, half_y = machine.travel_x_mm / 2 - _HAIR_MM, machine.travel_y_mm / 2 - _HAIR_MM
    return box(x - half_x, y - half_y, x + half_x, y + half_y)
