"""The computations that can be asked for by name, each with its two documents."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from wedgecraft.core.model import Document


@dataclass(frozen=True)
class Computation:
    """Input and output document, and the function between them."""

    request: type[Document]
    result: type[Document]
    run: Callable[[Any], Document]


def computation(kind: str) -> Computation:
    """Look one up; imports only what it needs, so that starting stays quick. Raises KeyError."""
    if kind == "cutting":
        from wedgecraft.core.cutting.document import CuttingLoad, CuttingRequest
        from wedgecraft.core.cutting.load import cutting_load

        return Computation(CuttingRequest, CuttingLoad, cutting_load)
    if kind == "hold":
        from wedgecraft.core.contacts import HoldRequest, HoldResult
        from wedgecraft.core.hold import hold

        return Computation(HoldRequest, HoldResult, hold)
    if kind == "share":
        from wedgecraft.core.elastic import ShareRequest, ShareResult, share_out

        return Computation(ShareRequest, ShareResult, share_out)
    if kind == "row":
        from wedgecraft.core.row import RowRequest, RowResult, row

        return Computation(RowRequest, RowResult, row)
    if kind == "grip":
        from wedgecraft.core.vise.document import GripRequest, GripResult
        from wedgecraft.core.vise.grip import grip

        return Computation(GripRequest, GripResult, grip)
    if kind == "clamp":
        from wedgecraft.core.elements import ClampForces, ClampRequest, clamp_forces

        return Computation(ClampRequest, ClampForces, clamp_forces)
    if kind == "give":
        from wedgecraft.core.give import GiveRequest, GiveResult, give

        return Computation(GiveRequest, GiveResult, give)
    if kind == "vise":
        from wedgecraft.core.vise.document import InVise, InViseResult
        from wedgecraft.core.vise.in_vise import in_vise

        return Computation(InVise, InViseResult, in_vise)
    if kind == "locate":
        from wedgecraft.core.locate.freedoms import LocateRequest, LocateResult, locate

        return Computation(LocateRequest, LocateResult, locate)
    if kind == "fit":
        from wedgecraft.core.locate.fits import FitRequest, FitResult, fit

        return Computation(FitRequest, FitResult, fit)
    if kind == "tolerance":
        from wedgecraft.core.tolerance import ToleranceRequest, ToleranceResult, tolerance

        return Computation(ToleranceRequest, ToleranceResult, tolerance)
    if kind == "verdicts":
        from wedgecraft.core.locate.judgement import VerdictsRequest, VerdictsResult
        from wedgecraft.core.locate.report import verdicts

        return Computation(VerdictsRequest, VerdictsResult, verdicts)
    if kind == "layout":
        from wedgecraft.core.layout.document import LayoutRequest, LayoutResult
        from wedgecraft.core.layout.solve import layout

        return Computation(LayoutRequest, LayoutResult, layout)
    if kind == "plan":
        from wedgecraft.core.design import plan
        from wedgecraft.core.plan import PlanRequest, PlanResult

        return Computation(PlanRequest, PlanResult, partial(plan, alternatives=True))
    raise KeyError(kind)
