"""What happens to the parts of a station: where plate, stops and clamps touch them, and where cuts
may pull.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.clamping.pressure import hertz_line
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.planar import spread_out
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.cut import Cut, CuttingLoad
from wedgecraft.core.records.material import HOLDER_YOUNGS_MPA
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.touch import touch, touched_heights
from wedgecraft.core.station.vee import Vee
from wedgecraft.core.workpiece.sitting import Sitting

_EPSILON = 1e-6


def station_contacts(
    station: Station,
    sitting: Sitting,
    kind: StopAndEdgeClamp,
    preload_n: float,
    member: Member | None = None,
    youngs_mpa: float = 69_000,
    done: bool = False,
) -> list[Contact]:
    """Where plate, stops and clamps touch a part of the station (the first), in the part's frame;
    ``preload_n`` is a part's share; ``done``: when the op's cuts are done.
    """
    pressing = {
        "a clamp each": "edge clamp",
        "double wedge between two": "wedge",
        "one clamp for two": "shared clamp",
    }
    contacts = []
    floor = sitting.floor_after if done else station.floor
    hull = shapely.get_coordinates(floor.convex_hull.exterior)[:-1]
    keep = spread_out(hull)
    bed = float(floor.area) / len(keep)
    for index, (x, y) in enumerate(hull[keep]):
        contacts.append(
            _locator(f"plate {index + 1}", (x, y, 0.0), (0, 0, 1), kind.floor_friction, None, bed)
        )
    if station.vee is not None:
        contacts += _vee_contacts(station.vee, sitting.height_mm, kind, preload_n, youngs_mpa)
    elif kind.stopped:
        contacts += _stop_contacts(station, sitting, kind, preload_n, youngs_mpa)
    rubs = kind.element.rubs(kind.clamp)
    for index, press in enumerate((member or station.members[0]).presses):
        area = press.area_mm2
        if area is None:
            area = _pressed_patch(
                station.pressed, kind, press.y, press.share, preload_n, youngs_mpa
            )
        contacts.append(
            Contact(
                name=press.name or f"{pressing.get(kind.sharing.how, 'jaw')} {index + 1}",
                kind="clamp",
                point_mm=(
                    press.x,
                    press.y,
                    kind.clamp.toe_height_mm if press.z is None else press.z,
                ),
                normal=press.normal,
                friction=rubs if press.friction is None else press.friction,
                preload_n=press.share * preload_n,
                area_mm2=area,
            )
        )
    return contacts + kind.element.seated(station.seats, preload_n)


def _stop_contacts(
    station: Station, sitting: Sitting, kind: StopAndEdgeClamp, preload_n: float, youngs_mpa: float
) -> list[Contact]:
    """Both stops, at two heights each; the long stop may be a flank that leans over the part."""
    contacts = []
    flank = kind.element.leaning()
    for name, stop, side, normal in (
        ("long stop", station.long_stop, "left", (1, 0, 0)),
        ("end stop", station.end_stop, "front", (0, 1, 0)),
    ):
        points = ends_on(station.part, stop, side)  # type: ignore[arg-type]
        # Half of the stop's capacity may land on the ends at each height.
        capacity = kind.stops.capacity_n / 2
        reach = (
            (stop.bounds[1], stop.bounds[3]) if side == "left" else (stop.bounds[0], stop.bounds[2])
        )
        length, radius = _met(station.part, side, *reach)  # type: ignore[arg-type]
        radius = hollowed(radius, kind.stops.hollow_mm, "station.stops.hollow_mm")
        leans = flank is not None and side == "left"
        low, high = touched_heights(sitting, side, kind.stops.height_mm)  # type: ignore[arg-type]
        heights = (flank.low_mm, flank.high_mm) if flank is not None and leans else (low, high)
        patch = _patch(length, heights[1] - heights[0], radius, preload_n, youngs_mpa) / (
            2 * len(points)
        )
        for number, (x, y) in enumerate(points):
            for z in heights:
                place = (
                    f"{name}, {'far' if number else 'near'} end,"
                    f" {'top' if z == heights[1] else 'foot'}"
                )
                way = flank.normal if flank is not None and leans else normal
                contacts.append(
                    _locator(place, (x, y, z), way, kind.stops.friction, capacity, patch)
                )
    return contacts


def _vee_contacts(
    vee: Vee, height_mm: float, kind: StopAndEdgeClamp, preload_n: float, youngs_mpa: float
) -> list[Contact]:
    """Both flanks, at two heights each, where the round touches them."""
    low, high = min(1.0, kind.stops.height_mm / 2), min(kind.stops.height_mm, height_mm)
    half, _ = hertz_line(max(preload_n, 1.0), high, vee.radius_mm, youngs_mpa, HOLDER_YOUNGS_MPA)
    return [
        _locator(
            f"flank {number + 1}, {'top' if z == high else 'foot'}",
            (*at, z),
            (*normal, 0.0),
            kind.stops.friction,
            kind.stops.capacity_n / 2,
            half * high,
        )
        for number, (at, normal) in enumerate(zip(vee.touches, vee.normals, strict=True))
        for z in (low, high)
    ]


def _locator(
    name: str,
    point: tuple[float, float, float],
    normal: tuple[float, float, float],
    friction: float,
    capacity: float | None,
    area_mm2: float,
) -> Contact:
    x, y, z = map(float, point)
    return Contact(
        name=name,
        kind="locator",
        point_mm=(x, y, z),
        normal=normal,
        friction=friction,
        capacity_n=capacity,
        area_mm2=area_mm2,
    )


def _pressed_patch(
    part: Polygon,
    kind: StopAndEdgeClamp,
    y: float,
    share: float,
    preload_n: float,
    youngs_mpa: float,
) -> float:
    """What a toe here, or its share of a jaw, touches."""
    if kind.sharing.how == "row between jaws":
        length, radius = _met(part, "right", -math.inf, math.inf)
        return share * _patch(
            length, min(kind.clamp.height_mm, kind.stops.height_mm), radius, preload_n, youngs_mpa
        )
    length, radius = _met(part, "right", y - kind.clamp.width_mm / 2, y + kind.clamp.width_mm / 2)
    radius = hollowed(radius, kind.clamp.toe_hollow_mm, "station.clamp.toe_hollow_mm")
    return _patch(length, kind.clamp.toe_land_mm, radius, preload_n, youngs_mpa)


#: Less than this touches as a line: a round, or a corner.
_LINE_MM = 0.5


def _patch(
    length_mm: float, high_mm: float, radius_mm: float, force_n: float, youngs_mpa: float
) -> float:
    """Area of a contact of this length seen from above and this height, mm2; where a round touches
    a flat, as wide as Hertz has it.
    """
    if length_mm >= _LINE_MM:
        return length_mm * high_mm
    half, _ = hertz_line(max(force_n, 1.0), high_mm, radius_mm, youngs_mpa, HOLDER_YOUNGS_MPA)
    return max(length_mm, 2 * half) * high_mm


def hollowed(radius_mm: float, hollow_mm: float, field: str) -> float:
    """Radius of a cylinder on a flat that touches as this round does in a hollow. Raises OutOfRange
    for a hollow that pinches it.
    """
    if not hollow_mm or math.isinf(radius_mm):
        return radius_mm
    if hollow_mm <= 1.001 * radius_mm:
        raise OutOfRange(
            field,
            hollow_mm,
            f"more than the part's radius, {radius_mm:.2f} mm, or it touches with its edges alone",
        )
    return 1 / (1 / radius_mm - 1 / hollow_mm)


def _met(
    part: Polygon, side: Literal["left", "front", "right"], low: float, high: float
) -> tuple[float, float]:
    """How much of the side touches a flat from ``low`` to ``high``, and the radius of the outline
    where that is next to nothing.
    """
    axis, at = (0, part.bounds[2] if side == "right" else 0.0) if side != "front" else (1, 0.0)
    touching = [
        (max(a, low), min(b, high))
        for a, b in touch(part, side)
        if min(b, high) >= max(a, low) - _EPSILON
    ]
    length = sum(max(0.0, b - a) for a, b in touching)
    if length >= _LINE_MM or not touching:
        return length, math.inf
    ring = shapely.get_coordinates(part.exterior)[:-1]
    k = int(np.argmin(np.hypot(ring[:, axis] - at, ring[:, 1 - axis] - touching[0][0])))
    a, b, c = ring[k - 1], ring[k], ring[(k + 1) % len(ring)]
    area = abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2
    if area < 1e-12:
        return length, 1e4
    radius = math.dist(a, b) * math.dist(b, c) * math.dist(c, a) / (4 * area)
    return length, max(radius, 0.2)  # no corner is sharper than a broken edge


def ends_on(
    part: Polygon, stop: Polygon, side: Literal["left", "front"]
) -> list[tuple[float, float]]:
    """Ends of the contact between outline and stop: two points, or one where a round touches."""
    axis = 1 if side == "left" else 0
    reach = stop.bounds[axis], stop.bounds[axis + 2]
    touching = [(max(low, reach[0]), min(high, reach[1])) for low, high in touch(part, side)]
    touching = [(low, high) for low, high in touching if high >= low - _EPSILON]
    first, last = touching[0][0], touching[-1][1]
    ends = [first] if last - first < 0.5 else [first, last]
    return [(0.0, v) if side == "left" else (v, 0.0) for v in ends]


def station_loads(sitting: Sitting, cut: Cut, guide: Polygon, load: CuttingLoad) -> list[LoadCase]:
    """Where and how one cut may pull: at the ends of its region (and its middle when facing), top
    and bottom of its depth range.

    Milling: 16 directions, lifting and pressing. Hole cuts: at each hole, pressing and breaking
    through, with their twist.
    """
    places = cut.of.places(cut, guide)
    low = max(0.0, sitting.lowest(cut))
    steps = 16 if load.in_plane_peak_n > 0 else 1
    cases = []
    for (x, y), where in places.items():
        for z, depth in ((sitting.top_mm - cut.from_top_mm, "top"), (low, "full depth")):
            for step in range(steps):
                angle = 2 * math.pi * step / 16
                push = (
                    load.in_plane_peak_n * math.cos(angle),
                    load.in_plane_peak_n * math.sin(angle),
                )
                direction = f", pushing {round(math.degrees(angle), 1):g}°" if steps > 1 else ""
                for axial, word in ((load.pull_peak_n, "lifting"), (-load.push_peak_n, "pressing")):
                    # a cutter without helix pulls sideways alone
                    if axial == 0 and word == "lifting":
                        if load.in_plane_peak_n == 0:
                            continue
                        word = "not lifting"
                    # A right-hand cutter turns clockwise seen from above, and takes the part along.
                    cases.append(
                        LoadCase(
                            name=f"{cut.name} {where}, {depth}{direction}, {word}"[:120],
                            point_mm=(x, y, z),
                            force_n=(*push, axial),
                            moment_nmm=(0, 0, -1000 * load.twist_nm),
                        )
                    )
    return cases
