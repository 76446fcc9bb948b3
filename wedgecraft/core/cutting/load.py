"""The load of any cut."""

from __future__ import annotations

from wedgecraft.core.cutting.holes import hole_chart, hole_load
from wedgecraft.core.cutting.milling import milling_chart, milling_load
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import (
    CUTTERS_FOR,
    HOLE_KINDS,
    Cut,
    CutChart,
    CuttingLoad,
    CuttingRequest,
)


def cutting_load(request: CuttingRequest) -> CuttingLoad:
    """Forces, torque and power of the cut. Raises OutOfRange naming the field of the cut."""
    cut = request.cut
    _check_cutter(cut)
    return (
        hole_load(cut, request.material)
        if cut.kind in HOLE_KINDS
        else milling_load(cut, request.material)
    )


def cutting_chart(request: CuttingRequest) -> CutChart:
    """Force and torque over one turn. Raises OutOfRange."""
    cut = request.cut
    _check_cutter(cut)
    return (
        hole_chart(cut, request.material)
        if cut.kind in HOLE_KINDS
        else milling_chart(cut, request.material)
    )


def _check_cutter(cut: Cut) -> None:
    fitting = CUTTERS_FOR[cut.kind]
    if cut.tool.kind not in fitting:
        raise OutOfRange(
            "cut.tool.kind", cut.tool.kind, f"a {cut.kind} takes a {' or '.join(fitting)}"
        )
