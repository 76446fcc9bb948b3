"""One station: a part against two stops with edge clamps, as layers of polygons and as contacts.

The station's frame has its origin at the datum corner, where the two stops' planes meet: the part's bounding box starts there.
The long stop stands on the left (X-), the end stop at the front (Y-), the clamps on the right push X-. Turns are about
the datum corner, counter-clockwise.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Any, Literal

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.clamps import EdgeClamp
from wedgecraft.core.contacts import Contact, LoadCase
from wedgecraft.core.cutting.document import HOLE_KINDS, Cut, CuttingLoad
from wedgecraft.core.cutting.path import CUTTER_CLEARANCE_MM, cut_path, swept
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.layout.document import Layer, Role, Turn
from wedgecraft.core.model import Document
from wedgecraft.core.sitting import Sitting
from wedgecraft.core.units import Force, Length

_EPSILON = 1e-6


class Stops(Document):
    """The two stops: bars of this size, friction and holding capacity."""

    thickness_mm: Annotated[Length, Field(gt=0, le=200)] = 8
    length_mm: Annotated[Length, Field(gt=0, le=1000)] = 40
    height_mm: Annotated[Length, Field(gt=0, le=500)] = 12
    friction: Annotated[float, Field(ge=0.02, le=1)] = 0.2
    capacity_n: Annotated[Force, Field(gt=0, le=1e6)] = 20_000
    shop_id: Annotated[str, Field(max_length=40)] | None = None


class StopAndEdgeClamp(Document):
    """A station of two stops and one to three edge clamps on the side across from the long stop.

    ``clearance_mm`` is the least gap between neighbouring stations, for chips and fingers.
    """

    stops: Stops = Stops()
    clamp: EdgeClamp
    clamps: Annotated[int, Field(ge=1, le=3)] = 1
    clearance_mm: Annotated[Length, Field(ge=0, le=200)] = 3
    floor_friction: Annotated[float, Field(ge=0.02, le=1)] = 0.2
    turns: Annotated[list[Turn], Field(min_length=1, max_length=4)] = [0, 90, 180, 270]


@dataclass(frozen=True)
class Station:
    """Geometry of the station in its own frame; polygons in mm. ``axis_bounds``: how far the spindle's axis goes."""

    part: Polygon
    long_stop: Polygon
    end_stop: Polygon
    clamps: tuple[Polygon, ...]
    screws: tuple[tuple[float, float], ...]
    sweep: Any
    axis_bounds: tuple[float, float, float, float]
    layers: tuple[Layer, ...]
    clamp_points: tuple[tuple[float, float], ...]
    clearance_mm: float

    @property
    def bodies(self) -> Polygon:
        return shapely.union_all([self.part, self.long_stop, self.end_stop, *self.clamps])


#: A wrench needs this much room above the clamp.
_WRENCH_LENGTH_MM = 60.0


def build_station(sitting: Sitting, cuts: list[Cut], kind: StopAndEdgeClamp) -> Station:
    """Work the station out from part, cuts and clamps. Raises OutOfRange when stops, clamps and cutters are in each other's way."""
    outline, height = sitting.outline, sitting.height_mm
    _, _, width, depth = outline.bounds
    clamp, stops = kind.clamp, kind.stops
    _check_toe(height, kind)
    long_length, end_length = min(stops.length_mm, depth), min(stops.length_mm, width)
    left, front, right = (_touch(outline, side) for side in ("left", "front", "right"))
    long_middle = _middle(left, long_length, depth)
    end_middle = _middle(front, end_length, width)
    long_stop = box(-stops.thickness_mm, long_middle - long_length / 2, 0, long_middle + long_length / 2)
    end_stop = box(end_middle - end_length / 2, -stops.thickness_mm, end_middle + end_length / 2, 0)
    places = _clamp_places(right, long_middle, kind)
    clamps = tuple(box(width, y - clamp.width_mm / 2, width + clamp.length_mm, y + clamp.width_mm / 2) for y in places)
    screw_x = width + max(clamp.length_mm / 2, clamp.wrench_diameter_mm / 2)
    screws = tuple((screw_x, y) for y in places)
    solid = Polygon(outline.exterior)
    sweeps = _sweeps(cuts, sitting, [long_stop, end_stop], clamps, kind)
    layers = [_layer("body", "part", solid, 0, height)]
    layers += [_layer("body", name, stop, 0, stops.height_mm) for name, stop in (("long stop", long_stop), ("end stop", end_stop))]
    layers += [_layer("body", "clamp", body, 0, clamp.height_mm) for body in clamps]
    layers += [
        _layer(
            "access",
            "wrench",
            Point(at).buffer(clamp.wrench_diameter_mm / 2, quad_segs=8),
            clamp.height_mm,
            clamp.height_mm + _WRENCH_LENGTH_MM,
        )
        for at in screws
    ]
    layers += [_layer("sweep", name, area, low - CUTTER_CLEARANCE_MM, height + 200) for name, area, low in sweeps]
    return Station(
        part=outline,
        long_stop=long_stop,
        end_stop=end_stop,
        clamps=clamps,
        screws=screws,
        sweep=shapely.union_all([area for _, area, _ in sweeps]),
        axis_bounds=_bounds_of([cut_path(cut, outline).axis for cut in cuts]),
        layers=tuple(layers),
        clamp_points=tuple((width, y) for y in places),
        clearance_mm=kind.clearance_mm,
    )


def _bounds_of(shapes: list[Any]) -> tuple[float, float, float, float]:
    found = np.array([shape.bounds for shape in shapes])
    low, high = found.min(axis=0), found.max(axis=0)
    return float(low[0]), float(low[1]), float(high[2]), float(high[3])


def _sweeps(
    cuts: list[Cut], sitting: Sitting, stops: list[Polygon], clamps: tuple[Polygon, ...], kind: StopAndEdgeClamp
) -> list[tuple[str, Polygon, float]]:
    """What each cut sweeps and how low; what another sweeps as low and wider is left out. Raises OutOfRange."""
    height, found = sitting.height_mm, []
    for cut in cuts:
        if cut.depth_mm > height + 1e-9 and cut.kind not in (*HOLE_KINDS, "contour", "saw", "slot"):
            raise OutOfRange("cut.axial_depth_mm", cut.depth_mm, f"in all less than the part's height, {height:g} mm")
        low = max(height - cut.depth_mm, CUTTER_CLEARANCE_MM)
        for area in swept(cut, sitting.outline):
            _check_above(cut, area, low, stops, clamps, kind)
            found.append((cut.name, area, low))
    found.sort(key=lambda item: (item[2], -item[1].area))
    kept: list[tuple[str, Polygon, float]] = []
    for name, area, low in found:
        if not any(other.covers(area) for _, other, _ in kept):
            kept.append((name, area, low))
    return kept


def _layer(role: Role, name: str, polygon: Polygon, low: float, high: float) -> Layer:
    ring = np.asarray(shapely.force_2d(polygon).exterior.coords)[:-1]
    return Layer(role=role, name=name, outer=[(float(x), float(y)) for x, y in ring], low_mm=low, high_mm=high)


def _check_above(
    cut: Cut, area: Polygon, low: float, stops: list[Polygon], clamps: tuple[Polygon, ...], kind: StopAndEdgeClamp
) -> None:
    """The cutter must pass over stops and clamps it sweeps across."""
    allowed = low - CUTTER_CLEARANCE_MM
    for name, field, height, bodies in (
        ("stops", "station.stops.height_mm", kind.stops.height_mm, stops),
        ("clamp", "station.clamp.height_mm", kind.clamp.height_mm, clamps),
    ):
        if height > allowed and any(area.intersects(body) for body in bodies):
            raise OutOfRange(
                field,
                height,
                f"{cut.name} comes down to {low:g} mm above the plate and keeps {CUTTER_CLEARANCE_MM:g} mm: "
                f"the {name} may be at most {allowed:g} mm high, or cut less deep",
            )


def _check_toe(height_mm: float, kind: StopAndEdgeClamp) -> None:
    if kind.clamp.toe_height_mm > min(kind.clamp.height_mm, height_mm):
        raise OutOfRange(
            "station.clamp.toe_height_mm",
            kind.clamp.toe_height_mm,
            f"at most the height of clamp and part, {min(kind.clamp.height_mm, height_mm):g} mm",
        )


Interval = tuple[float, float]


def _touch(outline: Polygon, side: Literal["left", "front", "right"]) -> list[Interval]:
    """Where along its length the outline touches the plane at that side of its bounding box; points are intervals of no length."""
    ring = shapely.get_coordinates(outline.exterior)
    axis, value = {"left": (0, 0.0), "front": (1, 0.0), "right": (0, outline.bounds[2])}[side]
    on_plane = np.abs(ring[:, axis] - value) < _EPSILON
    found = [(float(point[1 - axis]),) * 2 for point in ring[on_plane]]
    edges = zip(ring[:-1][on_plane[:-1] & on_plane[1:]], ring[1:][on_plane[:-1] & on_plane[1:]], strict=True)
    found += [tuple(sorted((float(a[1 - axis]), float(b[1 - axis])))) for a, b in edges]  # type: ignore[misc]
    merged: list[Interval] = []
    for low, high in sorted(found):
        if merged and low <= merged[-1][1] + _EPSILON:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    return merged


def _middle(touch: list[Interval], length: float, side: float) -> float:
    """Centre of a stop: amid all it can touch, or on the longest stretch when the stop would fall into a gap; within the side."""
    middle = _within((touch[0][0] + touch[-1][1]) / 2, length, side)
    if any(low <= middle + length / 2 and high >= middle - length / 2 for low, high in touch):
        return middle
    low, high = max(touch, key=lambda interval: (round(interval[1] - interval[0], 6), -interval[0]))
    return _within((low + high) / 2, length, side)


def _within(middle: float, length: float, side: float) -> float:
    return min(max(middle, length / 2), side - length / 2)


def _clamp_places(touch: list[Interval], aim: float, kind: StopAndEdgeClamp) -> tuple[float, ...]:
    """Where toes press: spread over the side, each moved to where its whole width, or as much as there is, meets the part."""
    low, high = touch[0][0], touch[-1][1]
    width, count = kind.clamp.width_mm, kind.clamps
    pitch = max(width, kind.clamp.wrench_diameter_mm)
    room = high - low
    if count > 1 and room + width < count * pitch:
        raise OutOfRange(
            "station.clamps",
            count,
            f"the side across from the long stop touches over {room:.1f} mm; {count} clamps need {count * pitch - width:.1f} mm",
        )
    if count == 1:
        targets = [aim]
    else:
        spread = max((count - 1) * pitch, room * (count - 1) / count)
        targets = [(low + high - spread) / 2 + spread * index / (count - 1) for index in range(count)]
    places = tuple(min((_on(interval, target, width) for interval in touch), key=lambda y: abs(y - target)) for target in targets)
    if any(after - before < pitch - _EPSILON for before, after in pairwise(places)):
        raise OutOfRange(
            "station.clamps", count, "the side across from the long stop has too little to press on; fewer clamps, or narrower ones"
        )
    return places


def _on(interval: Interval, target: float, width: float) -> float:
    """The place on an interval nearest to the target with the whole toe on the part, or in the middle of a short interval."""
    low, high = interval
    return (low + high) / 2 if high - low < width else min(max(target, low + width / 2), high - width / 2)


def station_contacts(station: Station, height_mm: float, kind: StopAndEdgeClamp, preload_n: float) -> list[Contact]:
    """Where plate, stops and clamps touch the part, in the part's frame."""
    contacts = []
    hull = shapely.get_coordinates(station.part.convex_hull.exterior)[:-1]
    keep = _spread_out(hull)
    for index, (x, y) in enumerate(hull[keep]):
        contacts.append(_locator(f"plate {index + 1}", (x, y, 0.0), (0, 0, 1), kind.floor_friction, None))
    low, high = min(1.0, kind.stops.height_mm / 2), min(kind.stops.height_mm, height_mm)
    for name, stop, side, normal in (
        ("long stop", station.long_stop, "left", (1, 0, 0)),
        ("end stop", station.end_stop, "front", (0, 1, 0)),
    ):
        points = _along(station.part, stop, side)  # type: ignore[arg-type]
        # Half of the stop's capacity may land on the ends at each height.
        capacity = kind.stops.capacity_n / 2
        for number, (x, y) in enumerate(points):
            for z in (low, high):
                place = f"{name}, {'far' if number else 'near'} end, {'top' if z == high else 'foot'}"
                contacts.append(_locator(place, (x, y, z), normal, kind.stops.friction, capacity))
    for index, (x, y) in enumerate(station.clamp_points):
        contacts.append(
            Contact(
                name=f"edge clamp {index + 1}",
                kind="clamp",
                point_mm=(x, y, kind.clamp.toe_height_mm),
                normal=(-1, 0, 0),
                friction=kind.clamp.toe_friction,
                preload_n=preload_n,
            )
        )
    return contacts


def _locator(
    name: str, point: tuple[float, float, float], normal: tuple[float, float, float], friction: float, capacity: float | None
) -> Contact:
    x, y, z = map(float, point)
    return Contact(name=name, kind="locator", point_mm=(x, y, z), normal=normal, friction=friction, capacity_n=capacity)


def _spread_out(hull: np.ndarray, most: int = 8) -> list[int]:
    """Indices of at most ``most`` hull points: the farthest in evenly spread directions."""
    angles = 2 * math.pi * np.arange(most) / most + math.pi / most
    directions = np.stack([np.cos(angles), np.sin(angles)])
    return sorted(set(np.argmax(hull @ directions, axis=0).tolist()))


def _along(part: Polygon, stop: Polygon, side: Literal["left", "front"]) -> list[tuple[float, float]]:
    """Ends of the contact between outline and stop: two points, or one where a round touches."""
    axis = 1 if side == "left" else 0
    reach = stop.bounds[axis], stop.bounds[axis + 2]
    touching = [(max(low, reach[0]), min(high, reach[1])) for low, high in _touch(part, side)]
    touching = [(low, high) for low, high in touching if high >= low - _EPSILON]
    first, last = touching[0][0], touching[-1][1]
    ends = [first] if last - first < 0.5 else [first, last]
    return [(0.0, v) if side == "left" else (v, 0.0) for v in ends]


def station_loads(station: Station, height_mm: float, cut: Cut, load: CuttingLoad) -> list[LoadCase]:
    """Where and how one cut may pull: at the ends of its region (and its middle when facing), top and bottom of its depth range.

    Milling: 16 directions, lifting and pressing. Hole cuts: at each hole, pressing and breaking through, with their twist.
    """
    places = _load_places(station, cut)
    low = max(0.0, height_mm - cut.depth_mm)
    steps = 16 if load.in_plane_peak_n > 0 else 1
    cases = []
    for (x, y), where in places.items():
        for z, depth in ((height_mm - cut.from_top_mm, "top"), (low, "full depth")):
            for step in range(steps):
                angle = 2 * math.pi * step / 16
                push = (load.in_plane_peak_n * math.cos(angle), load.in_plane_peak_n * math.sin(angle))
                direction = f", pushing {round(math.degrees(angle), 1):g}°" if steps > 1 else ""
                for axial, word in ((load.pull_peak_n, "lifting"), (-load.push_peak_n, "pressing")):
                    if axial == 0 and word == "lifting":
                        continue
                    # A right-hand cutter turns clockwise seen from above, and takes the part along.
                    cases.append(
                        LoadCase(
                            name=f"{cut.name} {where}, {depth}{direction}, {word}"[:120], point_mm=(x, y, z),
                            force_n=(*push, axial), moment_nmm=(0, 0, -1000 * load.twist_nm),
                        )
                    )  # fmt: skip
    return cases


def _load_places(station: Station, cut: Cut) -> dict[tuple[float, float], str]:
    """Where the cut is looked at, each place once, with its name."""
    if cut.kind in HOLE_KINDS:
        holes = shapely.get_coordinates(cut_path(cut, station.part).axis)
        if len(holes) > 8:
            holes = holes[_spread_out(holes)]
        return {(float(x), float(y)): f"at X{x:g} Y{y:g}" for x, y in holes}
    if cut.kind in ("slot", "saw"):
        (x0, y0), (x1, y1) = cut.at
        return {(x0, y0): "at its start", (x1, y1): "at its end", ((x0 + x1) / 2, (y0 + y1) / 2): "in its middle"}
    ring = shapely.get_coordinates(station.part.exterior)[:-1]
    if cut.kind != "contour" and cut.at:
        ring = shapely.get_coordinates(cut_path(cut, station.part).axis.exterior)[:-1]
    angles = 2 * math.pi * np.arange(8) / 8
    ends = np.argmax(ring @ np.stack([np.cos(angles), np.sin(angles)]), axis=0)
    names = ["right", "far right", "far", "far left", "left", "near left", "near", "near right"]
    places: dict[tuple[float, float], str] = {}
    for name, index in zip(names, ends, strict=True):
        places.setdefault((float(ring[index][0]), float(ring[index][1])), f"at the {name} {'corner' if ' ' in name else 'end'}")
    if cut.kind != "contour":
        centre = Polygon(ring).centroid
        places[(float(centre.x), float(centre.y))] = "in the middle"
    return places
