"""The load of any cut."""

from __future__ import annotations

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, CutChart, CuttingLoad, CuttingRequest


def cutting_load(request: CuttingRequest) -> CuttingLoad:
    """Forces, torque and power of the cut. Raises OutOfRange naming the field of the cut.

    >>> from wedgecraft.core.records.cut import Cutter
    >>> mill = Cutter(diameter_mm=10, teeth=3)
    >>> cut = Cut(tool=mill, axial_depth_mm=5, radial_width_mm=1, feed_per_tooth_mm=0.05,
    ...           spindle_rpm=8000)
    >>> load = cutting_load(CuttingRequest(material="aluminium-6061", cut=cut))
    >>> round(load.in_plane_peak_n), round(load.mean_power_w)
    (230, 255)
    """
    _check_cutter(request.cut)
    return request.cut.of.load(request.cut, request.material)


def cutting_chart(request: CuttingRequest) -> CutChart:
    """Force and torque over one turn. Raises OutOfRange."""
    _check_cutter(request.cut)
    return request.cut.of.chart(request.cut, request.material)


def _check_cutter(cut: Cut) -> None:
    fitting = cut.of.cutters
    if cut.tool.kind not in fitting:
        raise OutOfRange(
            "cut.tool.kind", cut.tool.kind, f"a {cut.kind} takes a {' or '.join(fitting)}"
        )
