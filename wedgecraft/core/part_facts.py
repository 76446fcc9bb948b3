"""What a part's page shows beside what was typed: sizes, round holes, mass, blank, and what does not fit together yet."""

from __future__ import annotations

import math

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.cutting.figures import CutAnswer, cut_answer
from wedgecraft.core.features import feature_problems, judged_in
from wedgecraft.core.machine import Machine
from wedgecraft.core.model import Document
from wedgecraft.core.part import Part, outline_polygon, part_mass_kg, part_volume_mm3
from wedgecraft.core.sitting import sits
from wedgecraft.core.stock import StockFacts, stock_facts

#: A ring whose points all lie this near to one circle, over at least eight points, is a round hole.
_ROUND_MM = 0.02


class RoundHole(Document):
    """A round hole of the outline, from the datum corner."""

    x_mm: float
    y_mm: float
    diameter_mm: float


class OpFacts(Document):
    """The cuts of one op, answered one by one; ``seconds`` is the sum of those that are known; ``judged``: see ``judged_in``."""

    number: int
    judged: list[int]
    cuts: list[CutAnswer]
    seconds: float
    most_power_kw: float
    most_torque_nm: float


class PartFacts(Document):
    """Worked out from the part."""

    width_mm: float
    depth_mm: float
    area_mm2: float
    perimeter_mm: float
    volume_mm3: float
    mass_kg: float
    round_holes: list[RoundHole]
    stock: StockFacts
    problems: list[str]
    ops: list[OpFacts]


def part_facts(part: Part, kits: int, machine: Machine) -> PartFacts:
    """Facts of a part of which ``kits`` times ``per_kit`` are wanted, its cuts against this machine's spindle.

    Never raises for a part that is a valid document.
    """
    polygon = outline_polygon(part.outline)
    _, _, width, depth = polygon.bounds
    rings = [np.asarray(ring.coords)[:-1] for ring in polygon.interiors]
    ops = [_op_facts(part, index, machine) for index in range(len(part.ops))]
    return PartFacts(
        width_mm=width,
        depth_mm=depth,
        area_mm2=polygon.area,
        perimeter_mm=float(polygon.exterior.length),
        volume_mm3=part_volume_mm3(part),
        mass_kg=part_mass_kg(part),
        round_holes=[hole for hole in map(round_hole, rings) if hole is not None],
        stock=stock_facts(part.stock, (width, depth, part.height_mm), part.material.density_kg_m3, kits * part.per_kit),
        problems=feature_problems(part.features, part.ops),
        ops=ops,
    )


def _op_facts(part: Part, index: int, machine: Machine) -> OpFacts:
    op = part.ops[index]
    outline = sits(part, op.up).outline
    answers = [cut_answer(cut, part.material, outline, machine) for cut in op.cuts]
    loads = [answer.load for answer in answers if answer.load]
    return OpFacts(
        number=op.number,
        judged=judged_in(part.features, op.number),
        cuts=answers,
        seconds=sum(answer.seconds or 0.0 for answer in answers),
        most_power_kw=max((load.mean_power_w / 1000 for load in loads), default=0.0),
        most_torque_nm=max((load.peak_torque_nm for load in loads), default=0.0),
    )


def round_hole(ring: np.ndarray) -> RoundHole | None:
    """The circle a ring of chords lies on, or nothing. The diameter is the circle's, through the points."""
    if len(ring) < 8:
        return None
    circle = Polygon(ring)
    centre = np.array([circle.centroid.x, circle.centroid.y])
    radii = np.linalg.norm(ring - centre, axis=1)
    radius = float(radii.mean())
    chord = float(np.linalg.norm(np.diff(np.vstack([ring, ring[:1]]), axis=0), axis=1).max())
    if np.ptp(radii) > 2 * _ROUND_MM or chord > radius or radius == 0 or circle.area < 0.8 * math.pi * radius**2:
        return None
    return RoundHole(x_mm=float(centre[0]), y_mm=float(centre[1]), diameter_mm=2 * radius)
