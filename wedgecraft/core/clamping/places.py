"""Where a clamp element takes hold of one part: what presses on it, what else locates it, and the
bodies that stand round it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.clamping.elements import SEGMENTS
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.contact import Contact, Vector
from wedgecraft.core.records.element import (
    Dovetail,
    Element,
    ExpandingPin,
    PullStud,
    Rod,
    Strap,
    Vacuum,
)
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.workpiece.holes import RoundHole, round_holes


class Press(NamedTuple):
    """Where something presses on a part, in its own frame, with the share of a part's preload that
    lands there.

    ``z`` and ``friction``: nothing for a toe, which has its own. ``area_mm2``: nothing where it is
    found from what touches.
    """

    x: float
    y: float
    share: float
    z: float | None = None
    normal: Vector = (-1.0, 0.0, 0.0)
    name: str = ""
    friction: float | None = None
    area_mm2: float | None = None


@dataclass(frozen=True)
class Body:
    """A piece of a clamp between two heights over the plate."""

    polygon: Polygon
    low_mm: float
    high_mm: float


@dataclass(frozen=True)
class Grip:
    """``bodies`` of the clamps; ``opened``: where they go to let the part out; ``screws`` with the
    height they are turned at.

    ``seats``: what locates the part besides plate and stops.
    """

    presses: tuple[Press, ...]
    bodies: tuple[Body, ...]
    opened: tuple[Body, ...]
    screws: tuple[tuple[float, float], ...]
    screw_height_mm: float
    seats: tuple[Contact, ...] = ()


#: Of a strap behind its heel.
_BEHIND_HEEL_MM = 6.0
_EDGE_PARTS = 6


def along_side(element: Element, clamp: EdgeClamp) -> float | None:
    """Width of an element that presses along the side across from the long stop; nothing for one
    that does not.
    """
    if isinstance(element, Strap):
        return element.width_mm
    return clamp.width_mm if element.kind in ("edge clamp", "toothed insert", "dovetail") else None


def gripped(
    outline: Polygon,
    height_mm: float,
    element: Element,
    clamp: EdgeClamp,
    count: int,
    places: tuple[float, ...],
) -> Grip:
    """The grip of ``count`` elements on one part, at ``places`` along its side where they press
    there. Raises OutOfRange.
    """
    width = float(outline.bounds[2])
    if isinstance(element, Strap):
        return _straps(outline, height_mm, element, places)
    if isinstance(element, ExpandingPin):
        return _pin(outline, height_mm, element, count)
    if isinstance(element, Rod):
        return _rod(outline, height_mm, element, count)
    if isinstance(element, PullStud):
        return _studs(outline, element, count)
    if isinstance(element, Vacuum):
        return _vacuum(outline, element)
    screw = max(clamp.length_mm / 2, clamp.wrench_diameter_mm / 2)
    bodies = tuple(
        Body(
            box(width, y - clamp.width_mm / 2, width + clamp.length_mm, y + clamp.width_mm / 2),
            0,
            clamp.height_mm,
        )
        for y in places
    )
    screws = tuple((width + screw, y) for y in places)
    if isinstance(element, Dovetail):
        if element.depth_mm >= height_mm:
            raise OutOfRange(
                "station.element.depth_mm",
                element.depth_mm,
                f"less than the part's height, {height_mm:g} mm",
            )
        normal = leaning(element, -1.0)
        presses = tuple(
            Press(
                width,
                y,
                1.0,
                element.depth_mm / 2,
                normal,
                f"flank {k + 1}",
                element.friction,
                clamp.width_mm * element.depth_mm,
            )
            for k, y in enumerate(places)
        )
    else:
        presses = tuple(Press(width, y, 1.0) for y in places)
    return Grip(presses, bodies, bodies, screws, clamp.height_mm)


def leaning(element: Dovetail, side: float) -> Vector:
    """Which way a flank pushes on the part: inward and down."""
    flank = math.radians(element.flank_deg)
    return (side * math.sin(flank), 0.0, -math.cos(flank))


def sealed_mm2(outline: Polygon, element: Vacuum) -> float:
    """Area inside the seal. Raises OutOfRange when the border leaves none."""
    inside = outline.buffer(-element.border_mm)
    if inside.area < 1:
        raise OutOfRange(
            "station.element.border_mm",
            element.border_mm,
            "a border that leaves something of the part to hold",
        )
    return float(inside.area)


def _straps(outline: Polygon, height: float, strap: Strap, places: tuple[float, ...]) -> Grip:
    width = float(outline.bounds[2])
    screw = width - strap.nose_mm / 2 + strap.to_nose_mm
    end = screw + strap.to_heel_mm + _BEHIND_HEEL_MM
    presses, bodies, opened = [], [], []
    for k, y in enumerate(places):
        low, high = y - strap.width_mm / 2, y + strap.width_mm / 2
        under = outline.intersection(box(width - strap.nose_mm, low, width, high))
        if under.area < 0.25 * strap.nose_mm * strap.width_mm:
            raise OutOfRange(
                "station.element.nose_mm",
                strap.nose_mm,
                "a nose that lies on the part: there is none under it there",
            )
        middle = under.centroid
        presses.append(
            Press(
                float(middle.x),
                float(middle.y),
                1.0,
                height,
                (0.0, 0.0, -1.0),
                f"strap {k + 1}",
                strap.friction,
                under.area,
            )
        )
        bodies.append(
            Body(box(width - strap.nose_mm, low, end, high), height, height + strap.thickness_mm)
        )
        bodies.append(
            Body(box(screw + strap.to_heel_mm - _BEHIND_HEEL_MM, low, end, high), 0, height)
        )
        opened.append(
            Body(
                box(width + 1, low, end + strap.nose_mm + 1, high),
                height,
                height + strap.thickness_mm,
            )
        )
    return Grip(
        tuple(presses),
        tuple(bodies),
        tuple(opened),
        tuple((screw, y) for y in places),
        height + strap.thickness_mm,
    )


def _one(count: int, element: Element) -> None:
    if count != 1:
        raise OutOfRange("station.clamps", count, f"one: a part has one {element.kind}")


def fitting_hole(outline: Polygon, least_mm: float, most_mm: float) -> RoundHole | None:
    """The round hole between two diameters nearest the middle of the part."""
    middle = outline.centroid
    fits = [hole for hole in round_holes(outline) if least_mm <= hole.diameter_mm <= most_mm]
    return min(
        fits,
        key=lambda hole: (
            round(math.hypot(hole.x_mm - middle.x, hole.y_mm - middle.y), 6),
            hole.x_mm,
        ),
        default=None,
    )


def _holes_said(outline: Polygon) -> str:
    found = sorted({round(hole.diameter_mm, 2) for hole in round_holes(outline)})
    return (
        "it has none" if not found else "it has " + ", ".join(f"{item:g}" for item in found) + " mm"
    )


def _pin(outline: Polygon, height: float, pin: ExpandingPin, count: int) -> Grip:
    """Segments of the sleeve, at two heights each. All press alike, which is what friction holds
    by.

    Behind each stands the cone, which can push back as much again as it presses (a capacity that
    goes with the preload): there without friction, because segments that only brace each other
    would otherwise hold any force, and that is no clamping.
    """
    _one(count, pin)
    hole = fitting_hole(outline, pin.least_mm, pin.most_mm)
    if hole is None:
        raise OutOfRange(
            "station.element.least_mm",
            f"{pin.least_mm:g} to {pin.most_mm:g}",
            f"a pin for a round hole of the part: {_holes_said(outline)}",
        )
    if pin.grip_mm > height:
        raise OutOfRange(
            "station.element.grip_mm", pin.grip_mm, f"at most the part's height, {height:g} mm"
        )
    radius, presses, seats = hole.diameter_mm / 2, [], []
    patch = math.pi * hole.diameter_mm / SEGMENTS * pin.grip_mm / 2
    for k in range(SEGMENTS):
        angle = 2 * math.pi * k / SEGMENTS
        way = (math.cos(angle), math.sin(angle), 0.0)
        at = (hole.x_mm + radius * way[0], hole.y_mm + radius * way[1])
        for z in ((height - pin.grip_mm) / 2, (height + pin.grip_mm) / 2):
            name = f"segment {k + 1}, {'top' if 2 * z > height else 'foot'}"
            presses.append(Press(*at, 0.5, z, way, name, pin.friction, patch))
            seats.append(
                Contact(
                    name=f"cone behind {name}",
                    kind="locator",
                    point_mm=(*at, z),
                    normal=way,
                    friction=0.0,
                    area_mm2=patch,
                )
            )
    body = Body(
        Point(hole.x_mm, hole.y_mm).buffer(radius * 0.95, quad_segs=8),
        0,
        (height + pin.grip_mm) / 2,
    )
    return Grip(tuple(presses), (body,), (body,), ((hole.x_mm, hole.y_mm),), height, tuple(seats))


def _rod(outline: Polygon, height: float, rod: Rod, count: int) -> Grip:
    _one(count, rod)
    hole = fitting_hole(outline, 0.0, rod.washer_mm - 2)
    if hole is None:
        raise OutOfRange(
            "station.element.washer_mm",
            rod.washer_mm,
            "a washer at least 2 mm wider than a round hole of the part, which the rod goes"
            f" through: {_holes_said(outline)}",
        )
    washer = Point(hole.x_mm, hole.y_mm).buffer(rod.washer_mm / 2, quad_segs=8)
    under = float(outline.intersection(washer).area)
    radius = (hole.diameter_mm + rod.washer_mm) / 4
    presses = tuple(
        Press(
            hole.x_mm + radius * math.cos(angle),
            hole.y_mm + radius * math.sin(angle),
            1 / _EDGE_PARTS,
            height,
            (0.0, 0.0, -1.0),
            f"washer {k + 1}",
            rod.friction,
            under / _EDGE_PARTS,
        )
        for k, angle in enumerate(2 * math.pi * np.arange(_EDGE_PARTS) / _EDGE_PARTS)
    )
    body = Body(washer, height, height + rod.nut_mm)
    return Grip(presses, (body,), (), ((hole.x_mm, hole.y_mm),), height + rod.nut_mm)


def _studs(outline: Polygon, stud: PullStud, count: int) -> Grip:
    """Evenly along the longer side of the part, each seat wholly under it."""
    room = outline.buffer(-stud.seat_mm / 2)
    if room.is_empty:
        raise OutOfRange("station.element.seat_mm", stud.seat_mm, "a seat that the part covers")
    x0, y0, x1, y1 = outline.bounds
    middle, along = outline.centroid, 0 if x1 - x0 >= y1 - y0 else 1
    reach = (x1 - x0, y1 - y0)[along]
    presses, seats = [], []
    area = math.pi * stud.seat_mm**2 / 4
    taken: list[Point] = []
    for k in range(count):
        shift = reach * ((2 * k + 1) / (2 * count) - 0.5)
        wanted = Point(
            middle.x + (shift if along == 0 else 0), middle.y + (shift if along == 1 else 0)
        )
        at = (
            shapely.get_point(shapely.shortest_line(room, wanted), 0)
            if not room.covers(wanted)
            else wanted
        )
        if any(at.distance(other) < stud.seat_mm for other in taken):
            raise OutOfRange(
                "station.clamps",
                count,
                f"fewer pull studs: seats of {stud.seat_mm:g} mm would overlap",
            )
        taken.append(at)
        presses.append(Press(at.x, at.y, 1.0, 0.0, (0.0, 0.0, -1.0), f"stud {k + 1}", 0.0, area))
        for turn in range(4):
            way = (math.cos(turn * math.pi / 2), math.sin(turn * math.pi / 2), 0.0)
            point = (at.x - stud.seat_mm / 2 * way[0], at.y - stud.seat_mm / 2 * way[1], 0.0)
            seats.append(
                Contact(
                    name=f"seat {k + 1}, side {turn + 1}",
                    kind="locator",
                    point_mm=point,
                    normal=way,
                    friction=0.0,
                    capacity_n=stud.capacity_n,
                    area_mm2=stud.seat_mm * 2,
                )
            )
    return Grip(tuple(presses), (), (), (), 0.0, tuple(seats))


def _vacuum(outline: Polygon, vacuum: Vacuum) -> Grip:
    """Spread over what the seal encloses: the middles of its quarters, which balance where all of
    it does.
    """
    inside = outline.buffer(-vacuum.border_mm)
    area, middle = sealed_mm2(outline, vacuum), inside.centroid
    x0, y0, x1, y1 = inside.bounds
    quarters = [
        inside.intersection(box(*sorted_box))
        for sorted_box in (
            (x0, y0, middle.x, middle.y),
            (middle.x, y0, x1, middle.y),
            (x0, middle.y, middle.x, y1),
            (middle.x, middle.y, x1, y1),
        )
    ]
    presses = tuple(
        Press(
            float(piece.centroid.x),
            float(piece.centroid.y),
            float(piece.area / area),
            0.0,
            (0.0, 0.0, -1.0),
            f"vacuum {k + 1}",
            0.0,
            float(piece.area),
        )
        for k, piece in enumerate(quarters)
        if piece.area > 0
    )
    return Grip(presses, (), (), (), 0.0)
