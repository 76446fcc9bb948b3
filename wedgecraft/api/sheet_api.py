"""The setter's sheet of a setup, to read and on paper."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from apiflask import APIBlueprint
from flask import Response, current_app, request

from wedgecraft.api import lanes
from wedgecraft.api.description import files
from wedgecraft.api.documents import OneSetup
from wedgecraft.api.planned import planned_document
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.core.records.setup_sheet import SetupSheet
from wedgecraft.formats.names import file_name
from wedgecraft.store import programs

blueprint = APIBlueprint("sheet", __name__, url_prefix="/api/jobs", tag="Sheet")


class OnPaper(OneSetup):
    """Which paper, and in whose units."""

    paper: Literal["A4", "letter"] = "A4"
    units: Literal["mm", "inch"] = "mm"


@blueprint.get("/<job_id>/sheet")
@lanes.engine
@blueprint.input(OneSetup, location="query", arg_name="asked")
@blueprint.output(SetupSheet)
def shown(job_id: str, asked: OneSetup) -> SetupSheet:
    """What a setter works by: where parts go, torques, zeros, tools, what to measure and lift."""
    return sheet_of_job(job_id, asked.setup)


@blueprint.get("/<job_id>/sheet.pdf")
@lanes.engine
@blueprint.input(OnPaper, location="query", arg_name="asked")
@blueprint.doc(responses=files("application/pdf"))
def paper(job_id: str, asked: OnPaper) -> Response:
    """The same on A4 or letter, black and white, with a code that leads to its live page."""
    from wedgecraft.formats.sheets.setup_pdf import setup_pdf

    sheet = sheet_of_job(job_id, asked.setup)
    link = f"{request.host_url}jobs/{job_id}/sheet?setup={asked.setup}"
    body = setup_pdf(sheet, asked.paper, asked.units, link)
    name = file_name(f"{sheet.job} setup {asked.setup} sheet")
    headers = {"Content-Disposition": f'attachment; filename="{name}.pdf"'}
    return Response(body, mimetype="application/pdf", headers=headers)


def sheet_of_job(job_id: str, number: int) -> SetupSheet:
    """Of a setup, counted from 1, as it was planned last. Raises ProblemRaised."""
    with current_app.extensions["database"].session() as session:
        document, current = planned_document(session, job_id)
        texts = tuple((p.part, p.op, p.text) for p in programs.of_job(session, job_id))
    if document.route is None or number > len(document.route.setups):
        raise ProblemRaised(404, "No such setup", "This job has fewer setups.")
    try:
        return _worked(document.model_dump_json(), number, texts, current)
    except OutOfRange as error:
        raise ProblemRaised(
            409, "No sheet yet", f"It follows from a layout: {error.field}, {error.allowed}."
        ) from None


@lru_cache(maxsize=8)
def _worked(
    document: str, number: int, texts: tuple[tuple[str, int, str], ...], current: bool
) -> SetupSheet:
    from wedgecraft.core.plan.sheets import setup_sheet

    ops = [OpText(part=part, op=op, text=text) for part, op, text in texts]
    given = ProgramRequest(document=JobDocument.model_validate_json(document), ops=ops)
    return setup_sheet(given, number, current)
