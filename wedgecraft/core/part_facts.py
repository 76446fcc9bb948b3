"""What a part's page shows beside what was typed: sizes, round holes, mass, blank, and what does not fit together yet."""

from __future__ import annotations

from wedgecraft.core.cutting.figures import CutAnswer, cut_answer
from wedgecraft.core.features import feature_problems, judged_in
from wedgecraft.core.machine import Machine
from wedgecraft.core.model import Document
from wedgecraft.core.part import Part, outline_polygon, part_mass_kg, part_volume_mm3
from wedgecraft.core.sitting import sits
from wedgecraft.core.stock import StockFacts, stock_facts
from wedgecraft.core.workpiece.holes import RoundHole, round_holes


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
    ops = [_op_facts(part, index, machine) for index in range(len(part.ops))]
    return PartFacts(
        width_mm=width,
        depth_mm=depth,
        area_mm2=polygon.area,
        perimeter_mm=float(polygon.exterior.length),
        volume_mm3=part_volume_mm3(part),
        mass_kg=part_mass_kg(part),
        round_holes=round_holes(polygon),
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
