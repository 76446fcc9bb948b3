"""One op as it is held in a setup: all that its load, hold and place are worked out from."""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.records.feature import Feature, judged_in
from wedgecraft.core.records.locating import Accuracy
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.plate import Datum, Plate
from wedgecraft.core.records.request import Arrangement, Block, Planned, PlanRequest
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.station import StopAndEdgeClamp


@dataclass(frozen=True)
class OpView:
    """``planned``: its place in the job; ``elsewhere``: where the other ops of the job are held,
    for what they leave behind on the part.
    """

    planned: Planned
    part: Part
    op: Op
    station: StopAndEdgeClamp
    machine: Machine
    plate: Plate
    block: Block
    datum: Datum
    accuracy: Accuracy
    rules: HouseRules
    arrangement: Arrangement
    elsewhere: tuple[Planned, ...]

    @property
    def judged(self) -> list[Feature]:
        """Features that this op cuts."""
        return [self.part.features[k] for k in judged_in(self.part.features, self.op.number)]


def views_of(request: PlanRequest) -> list[OpView]:
    """What each planned op of a request is worked out from, the first one first; to each the others
    are elsewhere.
    """
    return [
        OpView(
            planned=one.planned,
            part=one.part,
            op=one.part.ops[one.planned.op],
            station=one.station,
            machine=one.machine,
            plate=one.plate,
            block=one.block,
            datum=one.datum,
            accuracy=one.accuracy,
            rules=one.rules,
            arrangement=one.arrangement,
            elsewhere=tuple(one.elsewhere),
        )
        for one in request.alone
    ]


def op_path(view: OpView) -> str:
    """Where the op stands in a request."""
    return f"parts.{view.planned.part}.ops.{view.planned.op}"
