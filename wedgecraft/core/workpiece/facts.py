"""What a part's page shows beside what was typed: sizes, round holes, mass, blank, and what does
not fit together yet.
"""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.cutting.figures import CutAnswer, cut_answer, cut_wrong
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.feature import Feature, judged_in
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import outline_polygon
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.stock import StockFacts
from wedgecraft.core.workpiece.blank import stock_facts
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.holes import RoundHole, round_holes
from wedgecraft.core.workpiece.pose import stands
from wedgecraft.core.workpiece.states import Scene


def feature_problems(features: list[Feature], ops: list[Op]) -> list[str]:
    """What does not fit together yet, in words; nothing here stops work on other things."""
    found = []
    known, numbers = {item.name: item for item in features}, {op.number for op in ops}
    for item in features:
        if item.op not in numbers:
            found.append(f"{item.name}: cut in op {item.op}, which is not among the ops")
        if item.measured_from == "feature":
            base = known.get(item.from_feature or "")
            if base is None:
                found.append(f"{item.name}: say which feature it is measured from")
            elif base.op > item.op:
                found.append(
                    f"{item.name}: measured from {base.name}, which is cut only later, in op"
                    f" {base.op}"
                )
        if item.measured_from == "face":
            cut_by = [other for other in features if item.from_face in other.takes]
            if item.from_face is None:
                found.append(f"{item.name}: say which face it is measured from")
            elif cut_by and min(other.op for other in cut_by) > item.op:
                found.append(
                    f"{item.name}: measured from face {item.from_face}, which is cut only later"
                )
    return found


class OpFacts(Document):
    """The cuts of one op, answered one by one; ``seconds`` is the sum of those that are known;
    ``judged``: see ``judged_in``.
    """

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


def part_facts(part: Part, kits: int, machines: Sequence[Machine | None]) -> PartFacts:
    """Facts of a part of which ``kits`` times ``per_kit`` are wanted, its cuts against the spindle
    of the machine that each op is held on; nothing for an op that no setup holds yet.

    Never raises for a part that is a valid document.
    """
    polygon = outline_polygon(part.outline)
    _, _, width, depth = polygon.bounds
    volume = finished_body(part).volume_mm3
    ops = [_op_facts(part, index, machine) for index, machine in enumerate(machines)]
    return PartFacts(
        width_mm=width,
        depth_mm=depth,
        area_mm2=polygon.area,
        perimeter_mm=float(polygon.exterior.length),
        volume_mm3=volume,
        mass_kg=volume * part.material.density_kg_m3 * 1e-9,
        round_holes=round_holes(polygon),
        stock=stock_facts(
            part.stock,
            (width, depth, part.height_mm),
            part.material.density_kg_m3,
            kits * part.per_kit,
        ),
        problems=feature_problems(part.features, part.ops),
        ops=ops,
    )


def _op_facts(part: Part, index: int, machine: Machine | None) -> OpFacts:
    op = part.ops[index]
    _, stood = stands(finished_body(part), op.up, op.turn_deg)
    scene = Scene(stood, stood)  # what a cut follows is said by the finished part alone
    answers = [_answer(cut, part, scene, machine) for cut in op.cuts]
    loads = [answer.load for answer in answers if answer.load]
    return OpFacts(
        number=op.number,
        judged=judged_in(part.features, op.number),
        cuts=answers,
        seconds=sum(answer.seconds or 0.0 for answer in answers),
        most_power_kw=max((load.mean_power_w / 1000 for load in loads), default=0.0),
        most_torque_nm=max((load.peak_torque_nm for load in loads), default=0.0),
    )


def _answer(cut: Cut, part: Part, scene: Scene, machine: Machine | None) -> CutAnswer:
    try:
        guide = cut.of.guide(cut, scene)
    except OutOfRange as error:
        return cut_wrong(cut, error)
    return cut_answer(cut, part.material, guide, machine)
