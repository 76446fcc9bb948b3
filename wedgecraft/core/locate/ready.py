"""An op worked out as far as its station: how the part sits, what it weighs, what gives, what is
checked of each feature.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.station_deflection import feature_gives
from wedgecraft.core.locate.standing import Locating, locating_of
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.plate import Datum, Plate
from wedgecraft.core.records.request import Block, PlanRequest
from wedgecraft.core.records.view import OpView, views_of
from wedgecraft.core.station.build import Station, build_station
from wedgecraft.core.station.cut_loads import guides_of
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.sitting import Sitting

_STEEL_KG_MM3 = 7.85e-6


@dataclass(frozen=True)
class Ready:
    """One of the planned ops, worked out as far as its station: the request as this op sees it, how
    the part sits, what it weighs.

    ``gives_mm``: by feature, how far part and block give under the cut that finishes it;
    ``locating``: what is checked of each.
    """

    view: OpView
    sitting: Sitting
    station: Station
    masses: Masses
    gives_mm: Mapping[str, float]
    locating: Locating


def ready(view: OpView) -> Ready:
    """Work one op's station out. Raises OutOfRange where part, cuts and clamps do not go
    together.
    """
    sitting = stood(view)
    guides_of(view, sitting)
    station = build_station(sitting, view.station)
    gives = feature_gives(view, sitting, station)
    return Ready(
        view,
        sitting,
        station,
        masses_of(view, sitting, station),
        gives,
        locating_of(view, sitting, station, gives),
    )


def bare_kg(block: Block, masses: Masses) -> float:
    """What the table carries before any part: plates and block."""
    return block.faces * masses.plate_kg + block.body_kg


def own_placements(request: PlanRequest) -> list[Placement]:
    """Stations a person placed, those that planning leaves: all of an own layout, else the locked
    ones.

    Raises OutOfRange for a turn that is not allowed, or a face or an op that is not there.
    """
    views, found = views_of(request), []
    for index, item in enumerate(request.arrangement.stations):
        for name, value, most in (
            ("face", item.face, request.block.faces),
            ("kind", item.kind, 1 + len(request.also)),
        ):
            if value >= most:
                raise OutOfRange(
                    f"arrangement.stations.{index}.{name}",
                    value,
                    f"less than {most}, counted from 0",
                )
        allowed = views[item.kind].station.turns
        if item.turn not in allowed:
            turns = ", ".join(f"{turn}°" for turn in allowed)
            raise OutOfRange(
                f"arrangement.stations.{index}.turn",
                f"{item.turn}°",
                f"stations may stand at {turns}",
            )
        if request.arrangement.own or item.locked:
            found.append(
                Placement(
                    face=item.face,
                    kind=item.kind,
                    x_mm=item.x_mm,
                    y_mm=item.y_mm,
                    turn=item.turn,
                    fixed=item.locked,
                )
            )
    return found


def plate_reach(plate: Plate, datum: Datum) -> float:
    """As far as a place that matters can be from the datum."""
    return 2 * (plate.width_mm + plate.depth_mm + abs(datum.x_mm) + abs(datum.y_mm))


def masses_of(view: OpView, sitting: Sitting, station: Station) -> Masses:
    """Of the part, the loaded station, its share for one part, and the bare plate, kg."""
    part = sitting.before_kg
    stops = sum(stop.area for stop in station.stops) * view.station.stops.height_mm
    clamps = sum(body.polygon.area * (body.high_mm - body.low_mm) for body in station.clamp_bodies)
    plate = view.plate
    plate_kg = (
        plate.width_mm * plate.depth_mm * plate.thickness_mm * plate.material.density_kg_m3 * 1e-9
    )
    count = len(station.members)
    whole = count * part + (stops + clamps) * _STEEL_KG_MM3
    return Masses(part, whole, whole / count, plate_kg)


@dataclass(frozen=True)
class Masses:
    """Of one part, one loaded station, its share for each part in it, and the bare plate."""

    part_kg: float
    station_kg: float
    each_kg: float
    plate_kg: float
