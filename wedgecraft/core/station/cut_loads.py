"""What the cuts of an op ask of the part."""

from __future__ import annotations

from shapely.geometry import Polygon

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.cutting.path import cut_seconds
from wedgecraft.core.ground.errors import under
from wedgecraft.core.records.cut import CuttingRequest
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.view import OpView, op_path
from wedgecraft.core.workpiece.sitting import Sitting


def guides_of(view: OpView, sitting: Sitting) -> list[Polygon]:
    """What each cut of the op follows. Raises OutOfRange naming the cut."""
    with under(f"{op_path(view)}.cuts.", instead_of="cuts."):
        return sitting.guides


def cut_loads(view: OpView, sitting: Sitting) -> list[CutLoad]:
    """Every cut of the op. Raises OutOfRange naming the cut."""
    found = []
    for index, (cut, guide) in enumerate(zip(sitting.cuts, guides_of(view, sitting), strict=True)):
        with under(f"{op_path(view)}.cuts.{index}.", instead_of="cut."):
            load = cutting_load(CuttingRequest(material=view.part.material, cut=cut))
            seconds = cut_seconds(cut, guide, load)
        found.append(CutLoad(name=cut.name, load=load, seconds=seconds))
    return found
