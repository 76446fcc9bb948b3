"""What the solids of a design say themselves: meshes of the workpiece and prisms of what stands
beside it, judged with nothing but arrays and a general library of meshes, not with the code that
placed them.
"""

from __future__ import annotations

from itertools import combinations

import numpy as np
from manifold3d import CrossSection, Manifold, Mesh64
from shapely.geometry import MultiPoint, Polygon

from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.verdict import HeldAs, Holding
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.station.stood import stood

#: Contacts touch within this; what two bodies share is thinner.
NEAR_MM = 0.02


def overlaps(request: PlanRequest, design: Design) -> list[str]:
    """Pairs of bodies on a face that share more than a film: parts as they are put in, at their
    largest, stops, clamps.
    """
    meshes = []
    for view in views_of(request):
        points, triangles = stood(view).before.mesh
        meshes.append(_solid(points, triangles))
    stations = [build_station(stood(view), view.station) for view in views_of(request)]
    bodies = []
    for station in design.stations:
        kind = stations[station.kind]
        about = f"station {station.number}"
        turn = (0, 0, station.turn)
        for number, member in enumerate(kind.members):
            part = meshes[station.kind].rotate((0, 0, 180 if member.half_turn else 0))
            part = part.translate((member.x_mm, member.y_mm, 0)).rotate(turn)
            name = f"part {number + 1} of {about}"
            bodies.append((station.face, name, part.translate((station.x_mm, station.y_mm, 0))))
        for layer in design.kinds[station.kind].drawing.bodies:
            if layer.name == "part" or layer.high_mm <= layer.low_mm:
                continue
            ring = np.asarray(Polygon(layer.outer).exterior.coords)[:-1]
            section = CrossSection([ring if Polygon(ring).exterior.is_ccw else ring[::-1]])
            block = Manifold.extrude(section, layer.high_mm - layer.low_mm)
            block = block.translate((0, 0, layer.low_mm)).rotate(turn)
            place = (station.x_mm, station.y_mm, 0)
            bodies.append((station.face, f"{layer.name} of {about}", block.translate(place)))
    found = []
    boxes = np.array([body.bounding_box() for _, _, body in bodies])
    for a, b in combinations(range(len(bodies)), 2):
        if bodies[a][0] != bodies[b][0] or not _meet(boxes[a], boxes[b]):
            continue
        if "part" not in bodies[a][1] + bodies[b][1]:
            continue  # pieces of one clamp stand in each other
        both = bodies[a][2] ^ bodies[b][2]
        if both.volume() > 0.01 and 2 * both.volume() > NEAR_MM * both.surface_area():
            found.append(f"{bodies[a][1]} and {bodies[b][1]} share {both.volume():.2f} mm3")
    return found


def _meet(one: np.ndarray, other: np.ndarray) -> bool:
    return bool((one[:3] < other[3:]).all() and (other[:3] < one[3:]).all())


def _solid(points: np.ndarray, triangles: np.ndarray) -> Manifold:
    solid = Manifold(Mesh64(np.ascontiguousarray(points), triangles.astype(np.uint64)))
    assert solid.volume() > 0
    return solid


def untouched(request: PlanRequest) -> list[str]:
    """Contacts that touch no material of the state before, or whose surface does not face them, or
    that a cut takes away.
    """
    found = []
    for view in views_of(request):
        sitting = stood(view)
        station = build_station(sitting, view.station)
        preload = preload_of(view, sitting, station).low_n
        for done in (False, True):
            state = sitting.after if done else sitting.before
            for contact in station_contacts(station, sitting, view.station, preload, done=done):
                off, facing = _nearest(state.mesh, np.array(contact.point_mm), contact.normal)
                if off > NEAR_MM:
                    found.append(f"op {view.op.number} {contact.name}: {off:.3f} mm away, {done}")
                elif facing < 0.9 and contact.area_mm2 > 1:
                    found.append(f"op {view.op.number} {contact.name}: faces {facing:.2f}, {done}")
    return found


def _nearest(
    mesh: tuple[np.ndarray, np.ndarray], point: np.ndarray, normal: tuple[float, float, float]
) -> tuple[float, float]:
    """How far a point is from a mesh; and how squarely a triangle that near faces a push."""
    points, triangles = mesh
    a, b, c = (points[triangles[:, k]] for k in range(3))
    off = _distances(point, a, b, c)
    twice = np.cross(b - a, c - a)
    size = np.maximum(np.linalg.norm(twice, axis=1), 1e-12)
    facing = -(twice @ np.array(normal)) / size
    near = off < NEAR_MM + 1e-3
    return float(off.min()), float(facing[near].max()) if near.any() else -1.0


def _distances(p: np.ndarray, a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
    """From a point to triangles (n,): to the plane where its foot is inside, else to the edges."""
    normal = np.cross(b - a, c - a)
    size = np.linalg.norm(normal, axis=1)
    unit = normal / np.maximum(size, 1e-12)[:, None]
    height = ((p - a) * unit).sum(axis=1)
    foot = p - height[:, None] * unit
    inside = size > 1e-12
    for one, other in ((a, b), (b, c), (c, a)):
        inside &= (np.cross(other - one, foot - one) * unit).sum(axis=1) >= -1e-9
    edges = []
    for one, other in ((a, b), (b, c), (c, a)):
        way = other - one
        t = ((p - one) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-18)
        edges.append(np.linalg.norm(p - one - np.clip(t, 0, 1)[:, None] * way, axis=1))
    return np.where(inside, np.abs(height), np.min(edges, axis=0))


def factors(request: PlanRequest) -> list[tuple[float, float]]:
    """Of each op the hold factor with the engine's contacts, and with floor, stops and toes rebuilt
    from sections of the solid every tenth of a millimetre.
    """
    found = []
    for view in views_of(request):
        sitting = stood(view)
        station = build_station(sitting, view.station)
        holding = Holding(view, station, sitting, cut_loads(view, sitting))
        preload = preload_of(view, sitting, station).low_n
        weight = next(iter(holding.parts().values())).weight_n
        asked = HeldAs(holding, station.members[0], weight).request(holding.cases, preload)
        again = []
        for contact in asked.contacts:
            if not contact.name.startswith(("plate", "long stop", "end stop")):
                again.append(contact)
        mesh = sitting.before.mesh
        plates = [c for c in asked.contacts if c.name.startswith("plate")]
        again += [
            plates[0].model_copy(update={"name": f"plate {k}", "point_mm": (x, y, 0.0)})
            for k, (x, y) in enumerate(_floor(mesh))
        ]
        for axis, name, stop in (
            (0, "long stop", station.long_stop),
            (1, "end stop", station.end_stop),
        ):
            mine = [c for c in asked.contacts if c.name.startswith(name)]
            if not mine or station.vee is not None or view.station.element.leaning() is not None:
                again += mine
                continue
            span = (stop.bounds[1 - axis], stop.bounds[3 - axis])
            for k, (along, z) in enumerate(
                _stopped(mesh, axis, span, view.station.stops.height_mm)
            ):
                at = (0.0, along, z) if axis == 0 else (along, 0.0, z)
                again.append(mine[0].model_copy(update={"name": f"{name} {k}", "point_mm": at}))
        rebuilt = HoldRequest.model_construct(**{**dict(asked), "contacts": again})
        found.append((hold(asked).factor, hold(rebuilt).factor))
    return found


def _floor(mesh: tuple[np.ndarray, np.ndarray]) -> list[tuple[float, float]]:
    points = mesh[0]
    low = points[points[:, 2] < 1e-4][:, :2]
    hull = MultiPoint(low).convex_hull.exterior.coords[:-1]
    return [(float(x), float(y)) for x, y in hull]


def _stopped(
    mesh: tuple[np.ndarray, np.ndarray], axis: int, span: tuple[float, float], reach: float
) -> list[tuple[float, float]]:
    """The outermost places along and heights at which sections lie at the stop's plane; nothing
    lower than its rounded foot.
    """
    points, triangles = mesh
    places = []
    for z in np.arange(1.0, min(reach, points[:, 2].max()) + 1e-9, 0.1):
        height = float(np.clip(z, points[:, 2].min() + 1e-6, points[:, 2].max() - 1e-6))
        for one, other in _section(points, triangles, height):
            if max(abs(one[axis]), abs(other[axis])) < NEAR_MM:
                ends = np.clip([one[1 - axis], other[1 - axis]], *span)
                low, high = sorted((one[1 - axis], other[1 - axis]))
                if high >= span[0] and low <= span[1]:
                    places += [(end, z) for end in ends]
    found = np.array(places)
    if np.ptp(found[:, 0]) < 2.0:  # the chord of a round: its middle
        middle = float(found[:, 0].mean())
        return [(middle, float(found[:, 1].min())), (middle, float(found[:, 1].max()))]
    return [
        (float(a), float(z))
        for a in (found[:, 0].min(), found[:, 0].max())
        for z in (found[:, 1].min(), found[:, 1].max())
    ]


def _section(points: np.ndarray, triangles: np.ndarray, z: float) -> np.ndarray:
    """Segments (n, 2, 2) in which a level plane cuts a mesh."""
    corners = points[triangles]
    above = corners[:, :, 2] > z
    cut = corners[above.any(axis=1) & ~above.all(axis=1)]
    above = cut[:, :, 2] > z
    alone = np.where(above.sum(axis=1) == 1, np.argmax(above, axis=1), np.argmin(above, axis=1))
    order = (alone[:, None] + np.arange(3)) % 3
    p = np.take_along_axis(cut, order[:, :, None], axis=1)
    ends = []
    for k in (1, 2):
        t = (z - p[:, 0, 2]) / (p[:, k, 2] - p[:, 0, 2])
        ends.append(p[:, 0, :2] + t[:, None] * (p[:, k, :2] - p[:, 0, :2]))
    return np.stack(ends, axis=1)
