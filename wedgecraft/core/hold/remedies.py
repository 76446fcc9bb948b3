"""What would make a part hold: every remedy solved again, not guessed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.verdict import Holding
from wedgecraft.core.records.cut import CuttingRequest
from wedgecraft.core.records.hold import Remedy
from wedgecraft.core.records.material import TOOTHED_FRICTION
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.view import OpView, op_path
from wedgecraft.core.station.build import build_station


def remedies(holding: Holding, least_nm: float | None) -> list[Remedy]:
    """What would make it hold, each solved again: more torque, one more clamp, a double wedge,
    teeth, a lighter cut; what works first.
    """
    plan, kind, found = holding.plan, holding.plan.station, []

    def tried(
        what: str, field: str, value: float, other: OpView, loads: Sequence[CutLoad] | None = None
    ) -> None:
        try:
            sitting = replace(holding.sitting, asked=other.op)
            station = build_station(sitting, other.station)
            tried_as = Holding(other, station, sitting, loads or holding.loads)
            factor = tried_as.weakest.result.factor
        except OutOfRange:
            return
        found.append(
            Remedy(
                what=what, field=field, value=value, factor=factor, holds=factor >= holding.needed
            )
        )

    if least_nm is not None and least_nm > kind.clamp.torque_nm:
        tried(
            f"{least_nm - kind.clamp.torque_nm:.1f} N·m more on the screw",
            "station.clamp.torque_nm",
            least_nm,
            holding.at(least_nm).plan,
        )
    many = not kind.element.alone
    if (
        kind.clamps < 3
        and many
        and kind.sharing.how in ("a clamp each", "double wedge between two")
    ):
        more = replace(plan, station=kind.model_copy(update={"clamps": kind.clamps + 1}))
        tried("one more clamp", "station.clamps", kind.clamps + 1, more)
    smooth = kind.element.is_toe and not kind.element.bites
    if smooth and kind.clamp.toe_friction < TOOTHED_FRICTION:
        clamp = kind.clamp.model_copy(update={"toe_friction": TOOTHED_FRICTION})
        toothed = replace(plan, station=kind.model_copy(update={"clamp": clamp}))
        tried("a toothed toe", "station.clamp.toe_friction", TOOTHED_FRICTION, toothed)
    worst = holding.weakest.result
    index = next(
        (k for k, cut in enumerate(plan.op.cuts) if worst.load.name.startswith(cut.name)), None
    )
    if index is not None and not plan.op.cuts[index].of.hole:
        lighter = _lighter(holding, index)
        if lighter is not None:
            found.append(lighter)
    return sorted(found, key=lambda item: (not item.holds, -item.factor))


def _lighter(holding: Holding, index: int) -> Remedy | None:
    """The deepest share of its depth, in tenths, at which the cut that fails would be held."""
    cut, material = holding.plan.op.cuts[index], holding.plan.part.material
    for share in (0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1):
        less = cut.model_copy(update={"axial_depth_mm": cut.axial_depth_mm * share})
        loads = list(holding.loads)
        try:
            loads[index] = loads[index].model_copy(
                update={"load": cutting_load(CuttingRequest(material=material, cut=less))}
            )
            factor = replace(holding, loads=loads).weakest.result.factor
        except OutOfRange:
            return None
        if factor >= holding.needed:
            field = f"{op_path(holding.plan)}.cuts.{index}.axial_depth_mm"
            what = (
                f"{cut.name} {less.axial_depth_mm:.3g} mm deep a pass instead of"
                f" {cut.axial_depth_mm:g}, more passes"
            )
            return Remedy(
                what=what, field=field, value=less.axial_depth_mm, factor=factor, holds=True
            )
    return None
