"""Stations where someone put them: do they stand clear, by how much not, and where is the nearest
place that works.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.ops import nearest_points

from wedgecraft.core.ground.documents import Document, Point
from wedgecraft.core.layout.joint import beside, body_of, half_turned, joined, whole
from wedgecraft.core.layout.nofit import Area, Geometry, Variant, geometry_of
from wedgecraft.core.layout.search import off
from wedgecraft.core.records.layout import LayoutRequest, Placement

#: For so many faults the nearest place that works is looked for; one who moves a hundred wrongly at
#: once mends them one by one.
_MOST_REMEDIES = 12
#: Positions are written to a thousandth: so little over counts as touching.
CLEAR_MM = 1e-3
#: Places offered are written to a hundredth and stand clear as written.
_OFFERED_MM = 0.008


class Fault(Document):
    """``station`` (an index) ``says`` what it does wrong, by how much, to which ``other``;
    ``nearest_mm``: where it would stand clear.
    """

    station: int
    other: int | None = None
    says: str
    by_mm: float
    nearest_mm: Point | None = None


def faults(
    request: LayoutRequest, placements: Sequence[Placement], geometry: Geometry | None = None
) -> list[Fault]:
    """Everything that is wrong with these placements, by station; empty when all stand clear.
    Touching is clear.
    """
    if request.joint is not None:
        return _of_joined(request, placements)
    geometry = geometry or geometry_of(request.kinds)
    rooms = {
        (item.face, item.kind, item.turn): geometry.inner_fit(
            request.faces[item.face], Variant(item.kind, item.turn)
        )
        for item in {(item.face, item.kind, item.turn): item for item in placements}.values()
    }
    found = [
        fault
        for index, item in enumerate(placements)
        if not shapely.dwithin(
            rooms[item.face, item.kind, item.turn], shapely.Point(item.x_mm, item.y_mm), CLEAR_MM
        )
        for fault in _alone(request, geometry, index, item)
    ]
    for face in range(len(request.faces)):
        found += _pairs(
            geometry,
            placements,
            [index for index, item in enumerate(placements) if item.face == face],
        )
    found.sort(key=lambda fault: (fault.station, fault.other is not None, -fault.by_mm))
    remedied: dict[int, Point | None] = {}
    for station in dict.fromkeys(fault.station for fault in found):
        if len(remedied) < _MOST_REMEDIES:
            remedied[station] = nearest_clear(request, geometry, placements, station)
    return [fault.model_copy(update={"nearest_mm": remedied.get(fault.station)}) for fault in found]


def _of_joined(request: LayoutRequest, placements: Sequence[Placement]) -> list[Fault]:
    """Of stations that stand two in a body: the bodies' faults, told of the first of the two; and
    of those that stand alone.
    """
    pairs, alone = joined(request.joint, placements)
    found = [
        fault.model_copy(
            update={
                "station": pairs[fault.station][0],
                "other": None if fault.other is None else pairs[fault.other][0],
            }
        )
        for fault in faults(whole(request), [body_of(placements, pair) for pair in pairs])
    ]
    for index in alone:
        says = "stands without the other station of its vise"
        found.append(Fault(station=index, says=says, by_mm=0.0))
    return sorted(found, key=lambda fault: fault.station)


def clear_room(
    request: LayoutRequest,
    geometry: Geometry,
    placements: Sequence[Placement],
    face: int,
    variant: Variant,
    but: int | None = None,
) -> Area:
    """Where the origin of a station may be on this face while the others (all but ``but``) stay
    where they are.
    """
    if request.joint is not None:
        pairs, _ = joined(request.joint, placements)
        bodies = [body_of(placements, pair) for pair in pairs]
        own = next((k for k, pair in enumerate(pairs) if but in pair), None)
        as_one = whole(request)
        second = variant.kind != 0
        turn = half_turned(variant.turn) if second else variant.turn
        room = clear_room(as_one, geometry_of(as_one.kinds), bodies, face, Variant(0, turn), own)
        x, y = beside(request.joint, turn) if second else (0.0, 0.0)
        return shapely.transform(room, lambda xy: xy + (x, y))
    others = [item for index, item in enumerate(placements) if item.face == face and index != but]
    return off(geometry, geometry.inner_fit(request.faces[face], variant), variant, others)


def first_place(room: Area) -> Point | None:
    """The lowest place of a room, then the farthest left, as written to a hundredth; nothing in an
    empty one.
    """
    if room.is_empty:
        return None
    inner = room.buffer(-_OFFERED_MM)
    points = shapely.get_coordinates(room if inner.is_empty else inner)
    index = int(np.lexsort((points[:, 0], np.round(points[:, 1], 2)))[0])
    x, y = points[index] if inner.is_empty else np.round(points[index], 2)
    return float(x), float(y)


def nearest_clear(
    request: LayoutRequest, geometry: Geometry, placements: Sequence[Placement], station: int
) -> Point | None:
    """The nearest place for this station, turned as it is; nothing when there is none on its
    face.
    """
    item = placements[station]
    room = clear_room(
        request, geometry, placements, item.face, Variant(item.kind, item.turn), station
    )
    if room.is_empty:
        return None
    inner = room.buffer(-_OFFERED_MM)
    place = nearest_points(room if inner.is_empty else inner, shapely.Point(item.x_mm, item.y_mm))[
        0
    ]
    return (
        (float(place.x), float(place.y))
        if inner.is_empty
        else (round(place.x, 2), round(place.y, 2))
    )


def _alone(request: LayoutRequest, geometry: Geometry, index: int, item: Placement) -> list[Fault]:
    """What a station that stands wrong on its face does: against the edge, keep-outs and
    regions.
    """
    face, variant, point = (
        request.faces[item.face],
        Variant(item.kind, item.turn),
        shapely.Point(item.x_mm, item.y_mm),
    )
    found = []
    over = shapely.distance(geometry.inside(face, variant), point)
    if not over <= CLEAR_MM:
        by = float(over) if np.isfinite(over) else float(max(face_size(face.outer)))
        found.append(
            Fault(station=index, says=f"stands {by:.2f} mm over the edge of {face.name}", by_mm=by)
        )
    for keepout in face.keepouts:
        closed = geometry.closed_by(keepout, variant)
        if shapely.contains(closed, point):
            by = float(shapely.distance(closed.boundary, point))
            if by <= CLEAR_MM:
                continue
            found.append(Fault(station=index, says=f"stands {by:.2f} mm into a keep-out", by_mm=by))
    for region in geometry.kinds[item.kind].regions:
        over = shapely.distance(geometry.within(region, variant), point)
        if over > CLEAR_MM:
            found.append(
                Fault(
                    station=index,
                    says=f"stands {over:.2f} mm outside what {region.name} allows",
                    by_mm=float(over),
                )
            )
    return found


def face_size(outer: Sequence[Point]) -> tuple[float, float]:
    width, depth = np.ptp(np.array(outer), axis=0)
    return float(width), float(depth)


def _pairs(geometry: Geometry, placements: Sequence[Placement], members: list[int]) -> list[Fault]:
    """Stations that stand into one another: told of the later one, as the one more likely moved
    last, and of the earlier.
    """
    found = []
    groups: dict[Variant, list[int]] = {}
    for index in members:
        groups.setdefault(Variant(placements[index].kind, placements[index].turn), []).append(index)
    for first, mine in groups.items():
        places = np.array([(placements[i].x_mm, placements[i].y_mm) for i in mine])
        for second, theirs in groups.items():
            region = geometry.nofit(first, second)
            others = np.array([(placements[i].x_mm, placements[i].y_mm) for i in theirs])
            offsets = (others[None, :, :] - places[:, None, :]).reshape(-1, 2)
            for flat in np.flatnonzero(
                shapely.contains_xy(region, offsets[:, 0], offsets[:, 1])
            ).tolist():
                one, other = mine[flat // len(theirs)], theirs[flat % len(theirs)]
                if one == other:
                    continue
                by = float(shapely.distance(region.boundary, shapely.Point(offsets[flat])))
                if by <= CLEAR_MM:
                    continue
                found.append(
                    Fault(
                        station=other,
                        other=one,
                        says=f"stands {by:.2f} mm too near another",
                        by_mm=by,
                    )
                )
    return found
