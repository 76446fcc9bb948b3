"""The computations that can be asked for by name, each with its two documents."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from wedgecraft.core.ground.documents import Document


@dataclass(frozen=True)
class Computation:
    """Input and output document, and the function between them."""

    request: type[Document]
    result: type[Document]
    run: Callable[[Any], Document]


def computation(kind: str) -> Computation:
    """Look one up; imports only what it needs, so that starting stays quick. Raises KeyError."""
    if kind == "cutting":
        from wedgecraft.core.cutting.load import cutting_load
        from wedgecraft.core.records.cut import CuttingLoad, CuttingRequest

        return Computation(CuttingRequest, CuttingLoad, cutting_load)
    if kind == "hold":
        from wedgecraft.core.hold.factor import hold
        from wedgecraft.core.records.hold import HoldRequest, HoldResult

        return Computation(HoldRequest, HoldResult, hold)
    if kind == "share":
        from wedgecraft.core.hold.share_out import share_out
        from wedgecraft.core.records.share import ShareRequest, ShareResult

        return Computation(ShareRequest, ShareResult, share_out)
    if kind == "row":
        from wedgecraft.core.clamping.jaw_row import row
        from wedgecraft.core.records.row import RowRequest, RowResult

        return Computation(RowRequest, RowResult, row)
    if kind == "grip":
        from wedgecraft.core.hold.grip_depth import grip
        from wedgecraft.core.records.vise import GripRequest, GripResult

        return Computation(GripRequest, GripResult, grip)
    if kind == "clamp":
        from wedgecraft.core.clamping.forces import clamp_forces
        from wedgecraft.core.records.clamp import ClampForces, ClampRequest

        return Computation(ClampRequest, ClampForces, clamp_forces)
    if kind == "give":
        from wedgecraft.core.hold.deflection import give
        from wedgecraft.core.records.deflection import GiveRequest, GiveResult

        return Computation(GiveRequest, GiveResult, give)
    if kind == "vise":
        from wedgecraft.core.hold.in_vise import in_vise
        from wedgecraft.core.records.vise import InVise, InViseResult

        return Computation(InVise, InViseResult, in_vise)
    if kind == "workpiece":
        from wedgecraft.core.records.workpiece import WorkpieceRequest, WorkpieceResult
        from wedgecraft.core.workpiece.report import workpiece_report

        return Computation(WorkpieceRequest, WorkpieceResult, workpiece_report)
    if kind == "locate":
        from wedgecraft.core.locate.freedoms import LocateRequest, LocateResult, locate

        return Computation(LocateRequest, LocateResult, locate)
    if kind == "fit":
        from wedgecraft.core.ground.fits import FitRequest, FitResult, fit

        return Computation(FitRequest, FitResult, fit)
    if kind == "tolerance":
        from wedgecraft.core.locate.plate_alone import tolerance
        from wedgecraft.core.records.tolerance import ToleranceRequest, ToleranceResult

        return Computation(ToleranceRequest, ToleranceResult, tolerance)
    if kind == "verdicts":
        from wedgecraft.core.locate.report import verdicts
        from wedgecraft.core.records.verdicts import VerdictsRequest, VerdictsResult

        return Computation(VerdictsRequest, VerdictsResult, verdicts)
    if kind == "layout":
        from wedgecraft.core.layout.solve import layout
        from wedgecraft.core.records.layout import LayoutRequest, LayoutResult

        return Computation(LayoutRequest, LayoutResult, layout)
    if kind == "plan":
        from wedgecraft.core.plan.route import plan_route
        from wedgecraft.core.records.job import JobDocument

        return Computation(JobDocument, JobDocument, plan_route)
    if kind == "make":
        from wedgecraft.core.plan.made import made_of
        from wedgecraft.core.records.job import JobDocument
        from wedgecraft.core.records.piece import JobMade

        return Computation(JobDocument, JobMade, made_of)
    if kind == "program":
        from wedgecraft.core.plan.programs import programs_of
        from wedgecraft.core.records.program import JobPrograms, ProgramRequest

        return Computation(ProgramRequest, JobPrograms, programs_of)
    if kind == "run-program":
        from wedgecraft.core.plan.programs import trial_of
        from wedgecraft.core.records.program import SetupProgram, TrialRequest

        return Computation(TrialRequest, SetupProgram, trial_of)
    if kind == "sheet":
        from wedgecraft.core.plan.sheets import sheet_asked
        from wedgecraft.core.records.setup_sheet import SetupSheet, SheetRequest

        return Computation(SheetRequest, SetupSheet, sheet_asked)
    if kind == "run":
        from wedgecraft.core.plan.running import run_of
        from wedgecraft.core.records.run import RunRequest, RunResult

        return Computation(RunRequest, RunResult, run_of)
    if kind in ("log", "learn"):
        from wedgecraft.core.plan.logged import learned_of, log_of
        from wedgecraft.core.records.log import LearnedValues, LogRequest, LogSaid

        if kind == "log":
            return Computation(LogRequest, LogSaid, log_of)
        return Computation(LogRequest, LearnedValues, learned_of)
    raise KeyError(kind)
