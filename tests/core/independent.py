"""What the layout tests judge by: built on shapely alone, from the documents, without the code that
placed the stations.
"""

from __future__ import annotations

from itertools import combinations

from shapely import affinity
from shapely.geometry import Polygon

from wedgecraft.core.records.layout import Layer, LayoutRequest, LayoutResult, Placement

#: Touching counts as clear; positions are given to hundredths or better.
HAIR_MM = 2e-3


def as_result(placements: list[Placement]) -> LayoutResult:
    """Placements as an answer, to be judged."""
    count = len(placements)
    return LayoutResult(
        placements=placements,
        count=count,
        sets=count,
        bound=9999,
        proven=False,
        by_hand=0,
        method="",
        statement="",
        usable_mm2=0,
        used_mm2=0,
    )


def placed(request: LayoutRequest, placement: Placement) -> list[tuple[Layer, Polygon]]:
    layers = request.kinds[placement.kind].layers
    return [
        (
            layer,
            affinity.translate(
                affinity.rotate(Polygon(layer.outer), placement.turn, origin=(0, 0)),
                placement.x_mm,
                placement.y_mm,
            ),
        )
        for layer in layers
    ]


def faults(request: LayoutRequest, result: LayoutResult) -> list[str]:
    """Everything wrong with a layout, in words; empty when it is sound."""
    found = []
    stations = [placed(request, placement) for placement in result.placements]
    for number, (placement, station) in enumerate(zip(result.placements, stations, strict=True)):
        face = request.faces[placement.face]
        room = Polygon(face.outer).buffer(HAIR_MM)
        kind = request.kinds[placement.kind]
        if placement.turn not in kind.turns:
            found.append(f"{number} stands at {placement.turn}, which is not allowed")
        for layer, polygon in station:
            if layer.role == "body" and not room.covers(polygon):
                found.append(f"{number} leaves the face")
            for keepout in face.keepouts:
                if _meets(
                    layer,
                    polygon,
                    Layer(role="body", name="o", outer=keepout.outer, high_mm=keepout.height_mm),
                    Polygon(keepout.outer),
                    0,
                ):
                    found.append(f"{number} meets a keep-out with its {layer.name}")
        for region in kind.regions:
            point = affinity.translate(
                affinity.rotate(Polygon([region.point_mm] * 3), placement.turn, origin=(0, 0)),
                placement.x_mm,
                placement.y_mm,
            )
            if Polygon(region.outer).distance(point) > HAIR_MM:
                found.append(f"{number} has its point outside {region.name}")
    for a, b in combinations(range(len(stations)), 2):
        if result.placements[a].face != result.placements[b].face:
            continue
        gap = max(request.kinds[result.placements[i].kind].clearance_mm for i in (a, b))
        for first, p in stations[a]:
            for second, q in stations[b]:
                if _meets(first, p, second, q, gap):
                    found.append(f"{a} and {b} meet: {first.name}, {second.name}")
    return found


def _meets(first: Layer, p: Polygon, second: Layer, q: Polygon, gap: float) -> bool:
    roles = {first.role, second.role}
    if "body" not in roles:
        return False
    if roles == {"body"}:
        return p.distance(q) < gap - HAIR_MM or (
            gap <= HAIR_MM and p.buffer(-HAIR_MM).intersects(q.buffer(-HAIR_MM))
        )
    if first.low_mm >= second.high_mm or second.low_mm >= first.high_mm:
        return False
    return bool(p.buffer(-HAIR_MM).intersects(q.buffer(-HAIR_MM)))


def boxes_by_hand(request: LayoutRequest) -> int:
    """The practice of the trade: a box round everything the station needs, on a straight grid from
    the face's corner.

    Boxes that meet a keep-out or leave the face are left out; the better of the turns counts.
    """
    best = 0
    face = request.faces[0]
    x0, y0, x1, y1 = Polygon(face.outer).bounds
    for kind in request.kinds:
        for turn in kind.turns:
            bodies = [
                affinity.rotate(Polygon(layer.outer), turn, origin=(0, 0))
                for layer in kind.layers
                if layer.role == "body"
            ]
            whole = [
                affinity.rotate(Polygon(layer.outer), turn, origin=(0, 0)) for layer in kind.layers
            ]
            left, low = min(p.bounds[0] for p in bodies), min(p.bounds[1] for p in bodies)
            right, high = max(p.bounds[2] for p in bodies), max(p.bounds[3] for p in bodies)
            spread = [
                f(p.bounds[i] for p in whole) for i, f in ((0, min), (1, min), (2, max), (3, max))
            ]
            width = max(right - left + kind.clearance_mm, spread[2] - spread[0])
            depth = max(high - low + kind.clearance_mm, spread[3] - spread[1])
            count = 0
            for row in range(int((y1 - y0) / depth) + 2):
                for column in range(int((x1 - x0) / width) + 2):
                    turn_placement = Placement(
                        face=0,
                        kind=request.kinds.index(kind),
                        x_mm=x0 - left + column * width,
                        y_mm=y0 - low + row * depth,
                        turn=turn,
                    )
                    alone = as_result([turn_placement])
                    count += not faults(request, alone)
            best = max(best, count)
    return best
