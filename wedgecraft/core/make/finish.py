"""What follows from a piece's holes and pockets: its weight, its hours, its money."""

from __future__ import annotations

import math

from shapely.geometry import Polygon, box

from wedgecraft.core.make.hours import money, steps
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.piece import Piece
from wedgecraft.core.records.rules import HouseRules


def solid_plan(piece: Piece) -> list[Polygon]:
    """What it is cut from, seen from above: one block, or several."""
    if piece.bodies:
        return [Polygon(ring) for ring in piece.bodies]
    return [box(0, 0, piece.width_mm, piece.depth_mm)]


def finished(piece: Piece, machine: Machine, rules: HouseRules) -> Piece:
    """The same with mass and centre of gravity, steps, minutes and money for all of it."""
    removed = [
        (body.area * piece.thickness_mm, body.centroid.x, body.centroid.y, piece.thickness_mm / 2)
        for body in solid_plan(piece)
    ]
    for row in piece.holes:
        if row.side not in ("top", "bottom") or row.in_pocket:
            continue
        deep = min(row.depth_mm or piece.thickness_mm, piece.thickness_mm)
        low = piece.thickness_mm - deep / 2 if row.side == "top" else deep / 2
        for place in row.places:
            volume = math.pi * row.diameter_mm**2 / 4 * deep
            removed.append((-volume, place.x_mm, place.y_mm, low))
    for pocket in piece.pockets:
        shape = Polygon(pocket.outline[0], pocket.outline[1:])
        at = shape.centroid
        high = pocket.floor_mm + pocket.depth_mm / 2
        removed.append((-shape.area * pocket.depth_mm, at.x, at.y, high))
    left = sum(item[0] for item in removed)
    centre = tuple(sum(item[0] * item[k] for item in removed) / left for k in (1, 2, 3))
    counted = steps(piece, rules)
    minutes = sum(step.minutes for step in counted)
    return piece.model_copy(
        update={
            "mass_kg": left * piece.material.density_kg_m3 * 1e-9,
            "centre_mm": centre,
            "steps": counted,
            "minutes": minutes,
            "money": money(minutes, machine.rate_an_hour, rules),
        }
    )
