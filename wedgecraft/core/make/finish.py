"""What follows from a piece's holes and pockets: its weight, its hours, its money."""

from __future__ import annotations

import math

from shapely.geometry import Polygon, box

from wedgecraft.core.ground.bends import bends_of, measured
from wedgecraft.core.make.hours import money, steps
from wedgecraft.core.make.sides import frame
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.piece import Holes, Piece
from wedgecraft.core.records.rules import HouseRules


def solid_plan(piece: Piece) -> list[Polygon]:
    """What it is cut from, seen from above: one block, or several."""
    if piece.bodies:
        return [Polygon(ring) for ring in piece.bodies]
    if piece.section:
        return [Polygon(piece.section)]
    return [box(0, 0, piece.width_mm, piece.depth_mm)]


def finished(piece: Piece, machine: Machine, rules: HouseRules) -> Piece:
    """The same with mass and centre of gravity, steps, minutes and money for all of it."""
    removed = [
        (body.area * piece.thickness_mm, body.centroid.x, body.centroid.y, piece.thickness_mm / 2)
        for body in solid_plan(piece)
    ]
    removed += [item for row in piece.holes if not row.in_pocket for item in _drilled(piece, row)]
    for pocket in piece.pockets:
        high = pocket.floor_mm + pocket.depth_mm / 2
        for number, ring in enumerate(pocket.outline):  # the first, less what stands in it
            area, x, y = measured(bends_of(ring))
            taken = area * pocket.depth_mm
            removed.append((taken if number else -taken, x, y, high))
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


def _drilled(piece: Piece, row: Holes) -> list[tuple[float, float, float, float]]:
    """What a row of holes takes, less than nothing, with where its middles are: the hole, its
    counterbore round it, and the hole that goes on below it.
    """
    side = frame(piece, row.side)
    through = side.through_mm
    begins = row.begins_mm
    deep = min(begins + (row.depth_mm or through), through)
    steps = [(row.diameter_mm**2, begins, deep)]
    if row.sink_mm is not None and row.sink_depth_mm is not None:
        wider = row.sink_mm**2 - row.diameter_mm**2
        steps.append((wider, begins, begins + row.sink_depth_mm))
    if row.through_mm is not None:
        steps.append((row.through_mm**2, deep, through))
    found = []
    for place in row.places:
        for square, start, end in steps:
            at = side.at(place.x_mm, place.y_mm) + (start + end) / 2 * side.into
            x, y, z = map(float, at)
            found.append((-math.pi * square / 4 * (end - start), x, y, z))
    return found
