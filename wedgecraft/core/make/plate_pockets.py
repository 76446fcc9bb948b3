"""What is milled into a plate under and beside its stations."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.set_stops import SetStop
from wedgecraft.core.make.webs import least_web_mm
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.element import Milled
from wedgecraft.core.records.piece import HolePlace, Holes, MakeDoubt, Pocket
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.station.relief import milled_reliefs


def pockets_of(asked: Asked, station: PlacedStation, stops: Sequence[SetStop]) -> list[Pocket]:
    """Reliefs under what is milled right through the parts of a station, grooves for its stops,
    what its clamps are let into, and what their element wants under the parts.
    """
    ready, thick = asked.kinds[station.kind], asked.request.plate.thickness_mm
    element, built = ready.view.station.element, ready.station
    milled = [
        *(Milled("relief", *item) for item in milled_reliefs(ready.sitting, built.members)),
        *element.let_in(built.clamp_bodies),
        *(
            item._replace(area=member.put(item.area))
            for member in built.members
            for item in element.under(built.floor)[0]
        ),
        *(
            Milled("groove for a stop", Polygon(ring), stop.groove_mm, stop.corner_mm)
            for stop in stops
            for ring in stop.groove
        ),
    ]
    return [
        Pocket(
            what=f"{item.what}, station {station.number}",
            outline=[
                [
                    (round(float(x) + station.x_mm, 6), round(float(y) + station.y_mm, 6))
                    for x, y in turned(np.array(ring.coords[:-1]), station.turn)
                ]
                for ring in (item.area.exterior, *item.area.interiors)
            ],
            depth_mm=item.deep_mm,
            corner_mm=item.corner_mm,
            floor_mm=thick - item.deep_mm,
        )
        for item in milled
    ]


def around(pockets: Sequence[Pocket]) -> list[Holes]:
    """Rounds about them, where nothing is marked."""
    found = []
    for pocket in pockets:
        area = Polygon(pocket.outline[0])
        middle = area.centroid
        far = float(area.exterior.hausdorff_distance(middle))
        place = HolePlace(x_mm=float(middle.x), y_mm=float(middle.y), what=pocket.what)
        found.append(
            Holes(letter="", says="", diameter_mm=2 * far, depth_mm=pocket.depth_mm, places=[place])
        )
    return found


def near_pockets(pockets: Sequence[Pocket], rows: Sequence[Holes], plate: Plate) -> list[MakeDoubt]:
    """Pockets that holes, other pockets or an edge leave too little beside, or nothing below."""
    found: list[MakeDoubt] = []
    web = least_web_mm(plate.thickness_mm)
    areas = [Polygon(pocket.outline[0], pocket.outline[1:]) for pocket in pockets]
    bored = [
        (place.x_mm, place.y_mm, row.widest_mm / 2)
        for row in rows
        for place in row.places
        if row.side == "top"
    ]
    inner = box(web, web, plate.width_mm - web, plate.depth_mm - web)
    tree = shapely.STRtree(areas)
    for k, (pocket, area) in enumerate(zip(pockets, areas, strict=True)):
        remedy = "the station elsewhere"
        # a hole inside begins on its floor
        near = [
            (x, y)
            for x, y, radius in bored
            if not area.contains(Point(x, y)) and area.distance(Point(x, y)) < radius + web
        ]
        if near:
            says = f"{len(near)} holes leave less than {web:g} mm beside it"
            found.append(MakeDoubt(what=pocket.what, says=says, remedy=remedy, places=near))
        for other in tree.query(area, "dwithin", web).tolist():
            if other <= k or not _bare(pocket, pockets[other]):
                continue
            gap = area.distance(areas[other])
            says = f"{gap:.1f} mm are left to {pockets[other].what}; at least {web:g} mm"
            at = area.centroid
            found.append(
                MakeDoubt(what=pocket.what, says=says, remedy=remedy, places=[(at.x, at.y)])
            )
        if not inner.contains(area):
            says = f"less than {web:g} mm are left to the plate's edge"
            found.append(MakeDoubt(what=pocket.what, says=says, remedy=remedy))
        if pocket.floor_mm < web:
            deep = plate.thickness_mm - web
            says = f"{pocket.floor_mm:.1f} mm are left below it; at least {web:g} mm"
            found.append(
                MakeDoubt(
                    what=pocket.what,
                    says=says,
                    remedy=f"{deep:.1f} mm deep at most, or a thicker plate",
                )
            )
    return found


def _bare(one: Pocket, other: Pocket) -> bool:
    """Whether a web between two stands by itself: nothing stands in a relief, and grooves at a
    corner of one station may run into one another.
    """
    stops = "groove for a stop"
    reliefs = one.what.startswith("relief") or other.what.startswith("relief")
    same = one.what == other.what and one.what.startswith(stops)
    return not reliefs and not same
