"""Programs: of ops as they are loaded, and of a setup as it is put together and tried."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, Literal, NamedTuple

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import OneSetup
from wedgecraft.api.jobs_api import found_job
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.explain.steps import StepState, program_state
from wedgecraft.core.ground.documents import Document, FieldError
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.program import (
    OpText,
    OwnTried,
    Played,
    ProgramRequest,
    SetupProgram,
    TrialRequest,
)
from wedgecraft.formats.names import file_name
from wedgecraft.store import jobs, programs
from wedgecraft.store.models import ACTIVE

if TYPE_CHECKING:
    from wedgecraft.core.program.words import ProgramRefused

blueprint = APIBlueprint("program", __name__, url_prefix="/api/jobs", tag="Program")

#: As many characters as a program for one op may have.
_MOST = 20_000_000
_MIME = {"nc": "text/plain", "zeros.nc": "text/plain", "zeros.csv": "text/csv"}
Order = Literal["by tool", "by station"]


#: Numbers of parts or tools in an address, as a person lists them.
Numbers = Annotated[str, Field(max_length=400, pattern=r"^\s*(\d{1,4}(\s*[, ]\s*\d{1,4})*)?\s*$")]
Sisters = Annotated[str, Field(max_length=200, pattern=r"^(\d{1,5}:\d{1,5}(,\d{1,5}:\d{1,5})*)?$")]
#: So high over the work a first article is gone through before.
_FIRST_MM = 30.0


Texts = tuple[tuple[str, int, str], ...]


class ProgramAsked(OneSetup):
    """``order``: the house rule where nothing is said. ``missing``: numbers of parts that are not
    there; ``first``: the part that is made as a first article; ``tools``: only what these do, to
    parts that go in again; ``instead``: sister tools, as 2:12,5:15.
    """

    order: Order | None = None
    missing: Numbers = ""
    first: Annotated[int, Field(ge=1, le=9999)] | None = None
    tools: Numbers = ""
    instead: Annotated[
        str, Field(max_length=200, pattern=r"^(\d{1,5}:\d{1,5}(,\d{1,5}:\d{1,5})*)?$")
    ] = ""


class TextAsked(ProgramAsked):
    """Which of a setup's files."""

    format: Literal["nc", "zeros.nc", "zeros.csv"] = "nc"


class WhichOp(Document):
    """The program of which op: of the part by its name, by the op's number."""

    part: Annotated[str, Field(min_length=1, max_length=120)]
    op: Annotated[int, Field(ge=1, le=100_000)]


class OpLoaded(Document):
    """An op that a setup holds, and its program: the file's ``name`` and how many lines it has, its
    tools in their order; nothing where none was loaded. ``wrong``: why it does not do, with the
    line.
    """

    part: str
    op: int
    name: str | None = None
    lines: int = 0
    tools: list[int] = []
    wrong: str = ""
    line: int | None = None


class ProgramShown(SetupProgram):
    """One setup's programs; ``ops`` in the order in which it holds them; the ``step`` as it was
    tried.
    """

    ops: list[OpLoaded]
    step: StepState


@blueprint.get("/<job_id>/program")
@lanes.engine
@blueprint.input(ProgramAsked, location="query", arg_name="asked")
@blueprint.output(ProgramShown)
def shown(job_id: str, asked: ProgramAsked) -> ProgramShown:
    """Zeros of a setup, and its program where every op it holds has one, tried on the stand-in."""
    return _shown(job_id, asked)


@blueprint.post("/<job_id>/program/ops")
@may("plan")
@lanes.files
@blueprint.input(WhichOp, location="query", arg_name="asked")
@blueprint.output(OpLoaded)
def load(job_id: str, asked: WhichOp) -> OpLoaded:
    """Load an op's program (field ``file``), in place of the one before. What is not understood is
    refused with its line, and nothing changes.
    """
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise _refused("No file was sent", "choose an NC file")
    text = _text(sent.stream.read(_MOST + 1))
    found = _read(asked.part, asked.op, sent.filename[:200], text)
    if found.wrong:
        raise _refused(found.wrong, "mend that line, and load it again")
    with current_app.extensions["database"].session() as session:
        job = found_job(session, job_id)
        _check_op(jobs.document(session, job), asked)
        programs.keep(
            session, job_id, asked.part, asked.op,
            name=sent.filename[:200].replace("\0", ""), text=text, person=me().id,
        )  # fmt: skip
    return found


@blueprint.delete("/<job_id>/program/ops")
@may("plan")
@blueprint.input(WhichOp, location="query", arg_name="asked")
@blueprint.output({}, status_code=204)
def forget(job_id: str, asked: WhichOp) -> tuple[str, int]:
    """Take an op's program off."""
    with current_app.extensions["database"].session() as session:
        found_job(session, job_id)
        programs.remove(session, job_id, asked.part, asked.op)
    return "", 204


@blueprint.get("/<job_id>/program/text")
@lanes.engine
@blueprint.input(TextAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files(*sorted(set(_MIME.values()))))
def text(job_id: str, asked: TextAsked) -> Response:
    """A setup's program, or its zeros as a control reads them, or as a table."""
    from wedgecraft.formats.program_files import zeros_csv

    found = _shown(job_id, asked)
    if asked.format == "nc":
        body = found.program.text if found.program is not None else None
    else:
        lines = "\n".join(found.g10) + "\n"
        body = None if found.table is None else lines
        if found.table is not None and asked.format == "zeros.csv":
            body = zeros_csv(found.table)
    if body is None:
        why = (found.reasons or ["nothing is planned here"])[0]
        raise ProblemRaised(409, "No program yet", f"{why[:1].upper()}{why[1:]}.")
    with current_app.extensions["database"].session() as session:
        name = file_name(f"{found_job(session, job_id).name} setup {asked.setup}")
    headers = {"Content-Disposition": f'attachment; filename="{name}.{asked.format}"'}
    return Response(body, mimetype=_MIME[asked.format], headers=headers)


@blueprint.get("/<job_id>/program/moves")
@lanes.engine
@blueprint.input(ProgramAsked, location="query", arg_name="asked")
@blueprint.output(Played)
def moves(job_id: str, asked: ProgramAsked) -> Played:
    """How a setup's program goes, place by place, for playing it."""
    document, _, texts, _ = _held(job_id, asked.setup)
    try:
        return _played(document.model_dump_json(), texts, asked.model_dump_json())
    except OutOfRange as error:
        raise ProblemRaised(
            409, "Nothing to play yet", f"{error.field}: {error.allowed}."
        ) from None


@blueprint.post("/<job_id>/program/own")
@lanes.engine
@blueprint.input(OneSetup, location="query", arg_name="asked")
@blueprint.output(OwnTried)
def own(job_id: str, asked: OneSetup) -> OwnTried:
    """Run somebody's own program for a whole setup (field ``file``) on the stand-in. Nothing of it
    is kept; what is not understood is refused with its line.
    """
    from wedgecraft.core.plan.programs import own_tried
    from wedgecraft.core.program.words import ProgramRefused

    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise _refused("No file was sent", "choose an NC file")
    text = _text(sent.stream.read(_MOST + 1))
    document, _, texts, _ = _held(job_id, asked.setup)
    ops = [OpText(part=part, op=op, text=text) for part, op, text in texts]
    try:
        return own_tried(TrialRequest(document=document, setup=asked.setup, text=text, ops=ops))
    except ProgramRefused as refused:
        raise _refused(_said(refused), "mend that line, and try it again") from None
    except OutOfRange as error:
        raise ProblemRaised(
            409, "Nothing to try it on yet", f"{error.field}: {error.allowed}."
        ) from None


def _said(refused: ProgramRefused) -> str:
    said = f"{refused.word} is not understood; it takes" if refused.word else "there must be"
    return f"Line {refused.line}: {said} {refused.allowed}"


def _refused(what: str, remedy: str) -> ProblemRaised:
    error = FieldError(field="file", value="", message=remedy)
    return ProblemRaised(422, "Program not used", f"{what}; {remedy}.", [error])


def _text(data: bytes) -> str:
    if len(data) > _MOST:
        raise _refused("The file has more than 20 MB", "split it")
    if b"\0" in data:
        raise _refused("The file is no text", "choose the NC file that the control would read")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


@lru_cache(maxsize=32)
def _read(part: str, op: int, name: str, text: str) -> OpLoaded:
    """What an op's program is, or why it does not do."""
    from wedgecraft.core.program.ops import called_number, read_op
    from wedgecraft.core.program.words import ProgramRefused

    found = OpLoaded(part=part, op=op, name=name, lines=text.count("\n") + 1)
    if (number := called_number(text)) is not None:
        return found.model_copy(update={"name": f"O{number:04d}", "lines": 0})
    try:
        return found.model_copy(update={"tools": list(read_op(text).tools)})
    except ProgramRefused as refused:
        return found.model_copy(update={"wrong": _said(refused), "line": refused.line})


def _check_op(document: JobDocument, asked: WhichOp) -> None:
    part = next((part for part in document.job.parts if part.name == asked.part), None)
    if part is None or asked.op not in [op.number for op in part.ops]:
        raise ProblemRaised(404, "No such op", "This job has no such op; look at Cuts.")


class Held(NamedTuple):
    """The job, the ops that a setup of it holds, the texts of their programs; ``key`` of the run
    and those programs, nothing while it is under way.
    """

    document: JobDocument
    ops: list[OpLoaded]
    texts: Texts
    key: str | None


def _held(job_id: str, number: int) -> Held:
    with current_app.extensions["database"].session() as session:
        job = found_job(session, job_id)
        document = jobs.document(session, job)
        loaded = {
            (item.part, item.op): (item.name, item.text)
            for item in programs.of_job(session, job_id)
        }
        mark = jobs.latest_mark(session, job)
        done = mark is not None and mark.status not in ACTIVE
        key = programs.key_of(session, job_id, mark.id) if mark is not None and done else None
    setups = document.route.setups if document.route is not None else []
    if number > len(setups):
        raise ProblemRaised(404, "No such setup", f"This job has {len(setups)} setups.")
    held = [
        (document.job.parts[item.part].name, document.job.parts[item.part].ops[item.op].number)
        for item in setups[number - 1].holds
    ]
    ops = [
        _read(part, op, *loaded[part, op]) if (part, op) in loaded else OpLoaded(part=part, op=op)
        for part, op in held
    ]
    texts = tuple((part, op, loaded[part, op][1]) for part, op in held if (part, op) in loaded)
    return Held(document, ops, texts, key)


def try_programs(job_id: str) -> None:
    """Those that were loaded and not tried as they are now: what they take is known from then
    on.
    """
    with current_app.extensions["database"].session() as session:
        document = jobs.document(session, found_job(session, job_id))
        loaded = {(item.part, item.op) for item in programs.of_job(session, job_id)}
        latest = jobs.newest_done(session, job_id)
        known = programs.tried(session, job_id, latest.id) if latest is not None else {}
    if not loaded or document.result is None or document.route is None:
        return
    for number, setup in enumerate(document.route.setups, 1):
        parts = [(document.job.parts[held.part], held.op) for held in setup.holds]
        if number not in known and any((p.name, p.ops[op].number) in loaded for p, op in parts):
            _shown(job_id, ProgramAsked(setup=number))


def _shown(job_id: str, asked: ProgramAsked) -> ProgramShown:
    document, ops, texts, key = _held(job_id, asked.setup)
    plain = ProgramAsked.model_validate(asked.model_dump(include=set(ProgramAsked.model_fields)))
    found = _worked(document.model_dump_json(), texts, plain.model_dump_json())
    shown = ProgramShown(**found.model_dump(), ops=ops, step=program_state(found))
    if key is not None and found.tried is not None and plain == ProgramAsked(setup=plain.setup):
        seconds = found.programmed_s
        step = shown.step.model_dump(mode="json")
        with current_app.extensions["database"].session() as session:
            programs.note_tried(session, job_id, plain.setup, key=key, step=step, seconds=seconds)
    return shown


@lru_cache(maxsize=8)
def _worked(document: str, texts: Texts, asked: str) -> SetupProgram:
    """Worked out once for as long as the job, its result and its programs stay as they are."""
    from wedgecraft.core.plan.programs import setup_program

    given = ProgramAsked.model_validate_json(asked)
    try:
        return setup_program(_request(document, texts, given), given.setup)
    except OutOfRange as error:
        return SetupProgram(number=given.setup, reasons=[f"{error.field}: {error.allowed}"])


@lru_cache(maxsize=4)
def _played(document: str, texts: Texts, asked: str) -> Played:
    from wedgecraft.core.plan.programs import played_setup

    given = ProgramAsked.model_validate_json(asked)
    return played_setup(_request(document, texts, given), given.setup)


def _request(document: str, texts: Texts, asked: ProgramAsked) -> ProgramRequest:
    tools = _listed(asked.tools)
    request: dict[str, Any] = {
        "document": JobDocument.model_validate_json(document),
        "ops": [OpText(part=part, op=op, text=text) for part, op, text in texts],
        "order": asked.order,
        "missing": _listed(asked.missing),
        "only": None if asked.first is None else [asked.first],
        "raised_mm": None if asked.first is None else _FIRST_MM,
        "tools": tools or None,
        "instead": dict(pair.split(":") for pair in asked.instead.split(",") if pair),
    }
    return ProgramRequest.model_validate(request)


def _listed(text: str) -> list[int]:
    return [int(number) for number in text.replace(",", " ").split()]
