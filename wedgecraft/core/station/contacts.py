"""What happens to the parts of a station: where plate, stops and clamps touch them, and where cuts
may pull.
"""

from __future__ import annotations

import math
from typing import Literal

import shapely
from shapely.geometry import Polygon

from wedgecraft.core.clamping.pressure import hertz_line
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.planar import spread_out
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.cut import Cut, CuttingLoad
from wedgecraft.core.records.element import Press
from wedgecraft.core.records.material import HOLDER_YOUNGS_MPA
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.nest import nest_contacts
from wedgecraft.core.station.patch import EVERYWHERE, Patch, Span, touched
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
    if station.under is not None:
        floor = floor.intersection(station.under)
        if floor.area <= 0:
            raise OutOfRange(
                "station.element.ledge_mm", 0, "more: the part stands on nothing where it would be"
            )
    hull = shapely.get_coordinates(floor.convex_hull.exterior)[:-1]
    keep = spread_out(hull)
    bed = float(floor.area) / len(keep)
    for index, (x, y) in enumerate(hull[keep]):
        contacts.append(
            _locator(f"plate {index + 1}", (x, y, 0.0), (0, 0, 1), kind.floor_friction, None, bed)
        )
    if kind.element.nest is not None:
        return contacts + nest_contacts(sitting, kind, kind.element.nest, preload_n)
    if station.vee is not None:
        contacts += _vee_contacts(station.vee, sitting.height_mm, kind, preload_n, youngs_mpa)
    elif kind.stopped:
        contacts += _stop_contacts(station, sitting, kind, preload_n, youngs_mpa)
    rubs = kind.element.rubs(kind.clamp)
    if kind.element.flat_mm is not None:
        jaw = (member or station.members[0]).presses[0]
        return contacts + _jaw_contacts(sitting, kind, jaw, preload_n, youngs_mpa)
    for index, press in enumerate((member or station.members[0]).presses):
        area, z, normal = press.area_mm2, press.z, press.normal
        friction = rubs if press.friction is None else press.friction
        force = press.share * preload_n
        if area is None:
            patch = _pressed(sitting, kind, press)
            area = patch.pressed_mm2(preload_n, youngs_mpa)
            if kind.sharing.how == "row between jaws":
                area *= press.share
            elif z is None:
                z = sum(patch.heights) / 2
                # pushed level, a slope gets less where friction hinders (statics of the wedge)
                lean = abs(patch.lean)
                force /= math.cos(lean) + friction * math.sin(lean)
                normal = patch.pushed("right")
        contacts.append(
            Contact(
                name=press.name or f"{pressing.get(kind.sharing.how, 'jaw')} {index + 1}",
                kind="clamp",
                point_mm=(press.x, press.y, kind.clamp.toe_height_mm if z is None else z),
                normal=normal,
                friction=friction,
                preload_n=force,
                area_mm2=area,
            )
        )
    return contacts + kind.element.seated(station.seats, preload_n)


def _stop_contacts(
    station: Station, sitting: Sitting, kind: StopAndEdgeClamp, preload_n: float, youngs_mpa: float
) -> list[Contact]:
    """What both stops touch, at its outermost corners; the long stop may be a flank that leans over
    the part.
    """
    contacts = []
    flank = kind.element.leaning()
    for name, stop, side in (
        (kind.element.stops_said[0], station.long_stop, "left"),
        (kind.element.stops_said[1], station.end_stop, "front"),
    ):
        patch = stop_patch(sitting, stop, side, kind.stops.height_mm)  # type: ignore[arg-type]
        patch = patch.hollowed(kind.stops.hollow_mm, "station.stops.hollow_mm")
        leans = flank is not None and side == "left"
        way = flank.normal if flank is not None and leans else patch.pushed(side)  # type: ignore[arg-type]
        corners, area = patch.corners, patch.pressed_mm2(preload_n, youngs_mpa)
        if flank is not None and leans:
            heights = (flank.low_mm, flank.high_mm)
            corners = tuple((a, z) for a in patch.ends for z in heights)
            touched_mm = patch.heights[1] - patch.heights[0]
            area *= (heights[1] - heights[0]) / touched_mm if touched_mm else 1.0
        # Half of the stop's capacity may land on the ends at each height.
        capacity = kind.stops.capacity_n / 2
        middle, level = (sum(span) / 2 for span in (patch.along, patch.heights))
        for a, z in corners:
            place = (
                f"{name}, {'far' if a > middle else 'near'} end, {'top' if z > level else 'foot'}"
            )
            at = (0.0, a, z) if side == "left" else (a, 0.0, z)
            contacts.append(
                _locator(place, at, way, kind.stops.friction, capacity, area / len(corners))
            )
    return contacts


def _jaw_contacts(
    sitting: Sitting, kind: StopAndEdgeClamp, press: Press, preload_n: float, youngs_mpa: float
) -> list[Contact]:
    """The outermost corners of what a flat jaw presses on, evenly. Raises OutOfRange where that is
    nothing.
    """
    reach = (kind.element.flat_mm or 0.0) / 2
    along, heights = (press.y - reach, press.y + reach), (0.0, kind.stops.height_mm)
    patch = touched(sitting.before, "right", press.x, along, heights)
    if patch is None:
        raise OutOfRange(
            "station.stops.height_mm",
            kind.stops.height_mm,
            "where the moving jaw meets the part: it touches nothing there",
        )
    count = len(patch.corners)
    return [
        Contact(
            name=f"moving jaw {number}",
            kind="clamp",
            point_mm=(press.x, a, z),
            normal=patch.pushed("right"),
            friction=kind.element.rubs(kind.clamp),
            preload_n=preload_n / count,
            area_mm2=patch.pressed_mm2(preload_n, youngs_mpa) / count,
        )
        for number, (a, z) in enumerate(patch.corners, 1)
    ]


#: A stop's foot is rounded: nothing lower than this touches it, where something higher does.
_FOOT_MM = 1.0


def stop_patch(
    sitting: Sitting, stop: Polygon, side: Literal["left", "front"], reach_mm: float
) -> Patch:
    """What a stop touches of the workpiece. Raises OutOfRange where it touches nothing."""
    along = (stop.bounds[1], stop.bounds[3]) if side == "left" else (stop.bounds[0], stop.bounds[2])
    return touched_by_stop(sitting, side, along, reach_mm)


def touched_by_stop(
    sitting: Sitting, side: Literal["left", "front"], along: Span, reach_mm: float
) -> Patch:
    """The same of a stop from place to place along a side. Raises OutOfRange."""
    high = min(reach_mm, sitting.height_mm)
    for foot in (min(_FOOT_MM, high / 2), 0.0):
        found = touched(sitting.before, side, 0.0, along, (foot, high))
        if found is not None:
            return found
    raise OutOfRange(
        "station.stops.length_mm",
        round(along[1] - along[0], 3),
        f"a stop where the part is: it touches nothing there up to {high:g} mm; a longer or a"
        " higher one",
    )


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


def _pressed(sitting: Sitting, kind: StopAndEdgeClamp, press: Press) -> Patch:
    """What a toe touches where it presses, or a jaw. Raises OutOfRange where it is nothing."""
    along, heights = EVERYWHERE, (0.0, min(kind.clamp.height_mm, kind.stops.height_mm))
    if kind.sharing.how != "row between jaws":
        along = press.y - kind.clamp.width_mm / 2, press.y + kind.clamp.width_mm / 2
        low, high = kind.clamp.toe_mm
        heights = low, min(high, sitting.height_mm)
    found = touched(sitting.before, "right", press.x, along, heights)
    if found is None:
        raise OutOfRange(
            "station.clamp.toe_height_mm",
            kind.clamp.toe_height_mm,
            "where the part stands out to the toe: it touches nothing there",
        )
    if kind.sharing.how != "row between jaws":
        found = found.hollowed(kind.clamp.toe_hollow_mm, "station.clamp.toe_hollow_mm")
    return found


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
