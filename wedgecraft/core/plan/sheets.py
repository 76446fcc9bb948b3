"""A job's sheets for the setter."""

from __future__ import annotations

from wedgecraft.core.floor.sheet import sheet_of
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.plan.programs import setup_program
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.program import ProgramRequest
from wedgecraft.core.records.setup_sheet import SetupSheet, SheetRequest


def sheet_asked(request: SheetRequest) -> SetupSheet:
    """Of one setup; a job without a result is planned first. Raises OutOfRange."""
    document = request.document
    if document.result is None:
        document = plan_route(document, alternatives=False)
    return setup_sheet(request.model_copy(update={"document": document}), request.setup)


def setup_sheet(request: ProgramRequest, number: int, current: bool = True) -> SetupSheet:
    """Of one setup, counted from 1, of a job that was planned. Raises OutOfRange."""
    document = request.document
    asked = planned_setup(document, number)
    if asked is None or document.result is None or document.route is None:
        raise OutOfRange("setup", number, "a setup that has a layout")
    return sheet_of(
        asked,
        setup_program(request, number),
        job=document.job.name,
        quantity=document.job.quantity,
        setups=len(document.route.setups),
        current=current,
        cautions=document.result.setups[number - 1].result.cautions,
    )
