"""Pieces of a setup: what must be made and bought, drawings, all files in one pack."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, Literal

from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import OneSetup
from wedgecraft.api.jobs_api import found_job
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.piece import Made, Piece
from wedgecraft.formats.names import file_name
from wedgecraft.store import jobs

if TYPE_CHECKING:
    from wedgecraft.core.make.drawing import Title
    from wedgecraft.core.records.assembly import Assembly
    from wedgecraft.formats.piece_files import Kernel

blueprint = APIBlueprint("make", __name__, url_prefix="/api/jobs", tag="Make")

_SOLIDS = {"step": "model/step", "glb": "model/gltf-binary", "3mf": "model/3mf"}
_MIME = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf", "pdf": "application/pdf"}


class DrawingAsked(OneSetup):
    """The drawing of one piece, counted from 1 in its setup's list; ``sheet`` from 1 too.
    ``views_alone``: an SVG without frame and tables, ``touching`` where a part of this size does.
    ``run``: which run it is of, so that a browser
    never shows what it kept of another.
    """

    piece: Annotated[int, Field(ge=1, le=100)] = 1
    sheet: Annotated[int, Field(ge=1, le=100)] = 1
    format: Literal["svg", "dxf", "pdf"] = "svg"
    views_alone: bool = False
    touching: Literal["", "smallest", "nominal", "largest"] = ""
    run: Annotated[str, Field(max_length=40)] = ""
    units: Literal["mm", "inch"] = "mm"


class SolidAsked(OneSetup):
    """One piece, counted from 1 in its setup's list; ``run``: as of a drawing."""

    piece: Annotated[int, Field(ge=1, le=100)] = 1
    format: Literal["step", "glb", "3mf"] = "step"
    run: Annotated[str, Field(max_length=40)] = ""


class PackAsked(OneSetup):
    """All files of a setup's pieces."""

    units: Literal["mm", "inch"] = "mm"


class Pieces(Made):
    """What must be made; ``sheets``: how many each piece's drawing has."""

    sheets: list[int]


@lru_cache(maxsize=16)
def _made(document: str, number: int) -> Made:
    """Worked out once for as long as the job and its result stay as they are."""
    from wedgecraft.core.plan.pieces import pieces_of

    return pieces_of(JobDocument.model_validate_json(document), number)


@blueprint.post("/<job_id>/pieces")
@may("plan")
@blueprint.output({}, status_code=202)
def look_at_pieces(job_id: str) -> tuple[str, int]:
    """Look at the pieces of stations that a person placed, by and by: their count was answered
    before.
    """
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
    current_app.extensions["queue"].add_pieces(job_id)
    return "", 202


def _pieces(session: Any, job: Any, number: int) -> Made:
    """Of the layout as it stands. Raises ProblemRaised."""
    document = jobs.document(session, job)
    setups = document.route.setups if document.route is not None else []
    if number > len(setups):
        raise ProblemRaised(404, "No such setup", f"This job has {len(setups)} setups.")
    return _made(document.model_dump_json(), number)


def _asked(job_id: str, number: int) -> tuple[Made, Title]:
    from wedgecraft.core.make.drawing import Title

    with current_app.extensions["database"].session() as session:
        job = found_job(session, job_id)
        made, name = _pieces(session, job, number), job.name
    today = datetime.now(UTC).date().isoformat()
    return made, Title("", name, "", me().name, today)


def _together(job_id: str, number: int) -> Assembly | None:
    """A setup put together, of the layout as it stands."""
    from wedgecraft.core.plan.assembled import assembled

    with current_app.extensions["database"].session() as session:
        document = jobs.document(session, found_job(session, job_id))
    return assembled(document, number)


def _piece(made: Made, number: int) -> Piece:
    """One of a setup's pieces, counted from 1. Raises ProblemRaised."""
    if number > len(made.pieces):
        raise ProblemRaised(404, "No such piece", f"This setup has {len(made.pieces)} pieces.")
    return made.pieces[number - 1]


@blueprint.get("/<job_id>/make")
@lanes.engine
@blueprint.input(OneSetup, location="query", arg_name="asked")
@blueprint.output(Pieces)
def pieces(job_id: str, asked: OneSetup) -> Pieces:
    """What must be made and bought for a setup as it is laid out; why nothing, where it is not."""
    from wedgecraft.formats.piece_files import sheets_of

    made, title = _asked(job_id, asked.setup)
    sheets = [len(sheets_of(made, k, title, "mm")) for k in range(len(made.pieces))]
    return Pieces(**made.model_dump(), sheets=sheets)


@blueprint.get("/<job_id>/make/drawing")
@lanes.engine
@blueprint.input(DrawingAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files(*_MIME.values()))
def piece_drawing(job_id: str, asked: DrawingAsked) -> Response:
    """A sheet of a piece's drawing; as PDF all its sheets."""
    from wedgecraft.core.make.views import pressed
    from wedgecraft.formats.piece_files import numbered, sheets_of
    from wedgecraft.formats.sheets.dxf import to_dxf
    from wedgecraft.formats.sheets.pdf import to_pdf
    from wedgecraft.formats.sheets.svg import to_svg

    made, title = _asked(job_id, asked.setup)
    piece = _piece(made, asked.piece)
    sheets = sheets_of(made, asked.piece - 1, title, asked.units)
    if asked.sheet > len(sheets):
        raise ProblemRaised(404, "No such sheet", f"This drawing has {len(sheets)} sheets.")
    sheet = sheets[asked.sheet - 1]
    if asked.format == "svg":
        if asked.views_alone and asked.touching and piece.touching is not None and sheet.views:
            view = sheet.views[0]
            more = pressed(piece.touching, asked.touching, sheet.scale)
            first = view.model_copy(update={"items": [*view.items, *more]})
            sheet = sheet.model_copy(update={"views": [first, *sheet.views[1:]]})
        body = to_svg(sheet, asked.views_alone)
    else:
        body = to_pdf(sheets, piece.name) if asked.format == "pdf" else to_dxf(sheet)
    name = file_name(f"{numbered(made, asked.piece - 1)} {piece.name}")
    shown = "inline" if asked.format == "svg" else "attachment"
    headers = {"Content-Disposition": f'{shown}; filename="{name}.{asked.format}"'}
    return Response(body, mimetype=_MIME[asked.format], headers=headers)


@blueprint.get("/<job_id>/make/solid")
@lanes.engine
@blueprint.input(SolidAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files(*_SOLIDS.values()))
def solid(job_id: str, asked: SolidAsked) -> Response:
    """A piece as a solid: meshed, or as STEP by the CAD kernel, which takes some seconds, the first
    more.
    """
    from wedgecraft.core.make.solid import bodies
    from wedgecraft.formats.glb import bodies_3mf, bodies_glb

    made, _ = _asked(job_id, asked.setup)
    piece = _piece(made, asked.piece)
    if asked.format == "glb":
        return Response(bodies_glb(bodies(piece)), mimetype=_SOLIDS["glb"])
    if asked.format == "3mf":
        body = bodies_3mf(bodies(piece))
    else:
        with _kernel() as kernel:
            body = kernel.pieces([piece.model_dump_json()])
    name = file_name(f"S{asked.setup}-{asked.piece} {piece.name}")
    headers = {"Content-Disposition": f'attachment; filename="{name}.{asked.format}"'}
    return Response(body, mimetype=_SOLIDS[asked.format], headers=headers)


@contextmanager
def _kernel() -> Iterator[Kernel]:
    """What writes STEP: a process of its own, kept for as long as one answer needs it, as the
    kernel is large.
    """
    from wedgecraft.formats.child import Readers
    from wedgecraft.formats.errors import FileRefused
    from wedgecraft.formats.piece_files import Kernel
    from wedgecraft.formats.step.reader import LIMITS
    from wedgecraft.formats.step.writer import write_assembly, write_step

    kernel = Readers(LIMITS)

    def asked(write: Callable[..., bytes]) -> Callable[..., bytes]:
        return lambda given: kernel.call(write, given)

    try:
        yield Kernel(asked(write_step), asked(write_assembly))
    except FileRefused as error:
        raise ProblemRaised(503, "No solid was written", f"{error.what}; ask again.") from None
    finally:
        kernel.close()


@blueprint.get("/<job_id>/make/pack")
@lanes.engine
@blueprint.input(PackAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files("application/zip"))
def pack(job_id: str, asked: PackAsked) -> Response:
    """Drawings, hole tables and lists of all pieces of a setup as one ZIP, with a manifest."""
    from wedgecraft.formats.piece_files import solids_of, zipped

    made, title = _asked(job_id, asked.setup)
    if made.reasons:
        raise ProblemRaised(409, "Nothing to make yet", f"{made.reasons[0].capitalize()}.")
    name = file_name(f"{title.job} setup {asked.setup} pieces")
    headers = {"Content-Disposition": f'attachment; filename="{name}.zip"'}
    with _kernel() as kernel:
        solids = solids_of(made, _together(job_id, asked.setup), kernel)
    body = zipped(made, title, asked.units, solids)
    return Response(body, mimetype="application/zip", headers=headers)
