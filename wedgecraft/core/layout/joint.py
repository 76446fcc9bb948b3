"""Stations that stand two in one body, as in a vise whose fixed jaw is in the middle: placed as
one, told of one by one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from wedgecraft.core.records.layout import (
    Joint,
    Layer,
    LayoutRequest,
    LayoutResult,
    Placement,
    Region,
    StationKind,
    Turn,
)

#: Two stations stand in one body when they are this near to where they would, mm.
_SAME_MM = 0.02


def whole(request: LayoutRequest) -> LayoutRequest:
    """The request with one kind, the body with both its stations; as it is without a joint.

    Fixed stations that stand alone are left out.
    """
    joint = request.joint
    if joint is None:
        return request
    first, second = request.kinds[0], request.kinds[joint.second]
    pairs, _ = joined(joint, request.fixed)
    body = StationKind(
        name=first.name,
        layers=[*first.layers, *(_moved(layer, joint) for layer in second.layers)],
        turns=first.turns,
        clearance_mm=max(first.clearance_mm, second.clearance_mm),
        regions=[
            *first.regions,
            *(
                Region(name=item.name, point_mm=put(item.point_mm, joint), outer=item.outer)
                for item in second.regions
            ),
        ],
        per_set=first.per_set,
        holds=first.holds * (1 if joint.second else 2),
        faces=first.faces,
    )
    fixed = [body_of(request.fixed, pair) for pair in pairs]
    return request.model_copy(update={"kinds": [body], "joint": None, "fixed": fixed})


def apart(request: LayoutRequest, answer: LayoutResult) -> LayoutResult:
    """What was found for bodies, with both stations of each, one after the other."""
    joint = request.joint
    if joint is None:
        return answer
    placements = [item for body in answer.placements for item in (body, _partner(body, joint))]
    return answer.model_copy(update={"placements": placements, "count": 2 * answer.count})


def joined(
    joint: Joint | None, placements: Sequence[Placement]
) -> tuple[list[tuple[int, int]], list[int]]:
    """Which stations stand in one body, the first of kind 0; and those that stand alone."""
    pairs: list[tuple[int, int]] = []
    left = list(range(len(placements))) if joint is not None else []
    while joint is not None and any(placements[index].kind == 0 for index in left):
        one = next(index for index in left if placements[index].kind == 0)
        left.remove(one)
        wanted = _partner(placements[one], joint)
        other = next((k for k in left if _stands(placements[k], wanted)), None)
        if other is None:
            pairs.append((one, -1))
            continue
        left.remove(other)
        pairs.append((one, other))
    alone = [one for one, other in pairs if other < 0] + left
    return [pair for pair in pairs if pair[1] >= 0], sorted(alone)


def body_of(placements: Sequence[Placement], pair: tuple[int, int]) -> Placement:
    """The body that two stations stand in, where its first one is."""
    one, other = (placements[index] for index in pair)
    return one.model_copy(update={"fixed": one.fixed or other.fixed})


def beside(joint: Joint, turn: int) -> tuple[float, float]:
    """How far the second station is from the first of a body so turned, in X and Y."""
    angle = math.radians(turn)
    c, s = round(math.cos(angle)), round(math.sin(angle))
    return c * joint.x_mm - s * joint.y_mm, s * joint.x_mm + c * joint.y_mm


def both(joint: Joint | None, item: Placement) -> list[Placement]:
    """A station with the other of its body, the one of kind 0 first."""
    if joint is None:
        return [item]
    if item.kind == 0:
        return [item, _partner(item, joint)]
    dx, dy = beside(joint, turn := half_turned(item.turn))
    place = {"kind": 0, "x_mm": _exact(item.x_mm - dx), "y_mm": _exact(item.y_mm - dy)}
    return [item.model_copy(update={**place, "turn": turn}), item]


def half_turned(turn: Turn) -> Turn:
    """Half a turn more."""
    turns: tuple[Turn, ...] = (0, 90, 180, 270)
    return turns[(turns.index(turn) + 2) % 4]


def _partner(first: Placement, joint: Joint) -> Placement:
    dx, dy = beside(joint, first.turn)
    place = {"kind": joint.second, "x_mm": _exact(first.x_mm + dx), "y_mm": _exact(first.y_mm + dy)}
    return first.model_copy(update={**place, "turn": half_turned(first.turn)})


def _exact(value: float) -> float:
    return round(value, 6) + 0.0


def _stands(item: Placement, wanted: Placement) -> bool:
    alike = (item.face, item.kind, item.turn) == (wanted.face, wanted.kind, wanted.turn)
    return alike and math.dist((item.x_mm, item.y_mm), (wanted.x_mm, wanted.y_mm)) <= _SAME_MM


def put(point: tuple[float, float], joint: Joint) -> tuple[float, float]:
    """A point of the second station in the frame of the first."""
    return joint.x_mm - point[0], joint.y_mm - point[1]


def _moved(layer: Layer, joint: Joint) -> Layer:
    outer = [put(point, joint) for point in layer.outer]
    low, high = layer.low_mm + joint.up_mm, layer.high_mm + joint.up_mm
    return layer.model_copy(update={"outer": outer, "low_mm": low, "high_mm": high})
