"""A job's programs: the zeros of every setup, and one program out of those of its ops."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.program.envelope import envelope
from wedgecraft.core.program.frame import chained, frame
from wedgecraft.core.program.ops import OpProgram, called_number, read_op
from wedgecraft.core.program.play import played
from wedgecraft.core.program.trial import judged, ran, tried
from wedgecraft.core.program.words import ProgramRefused, read
from wedgecraft.core.program.zeros import as_g10, zero_table
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.program import (
    JobPrograms,
    OpText,
    OwnTried,
    PartZero,
    Played,
    ProgramRequest,
    SetupProgram,
    TrialRequest,
    ZeroTable,
)

#: A part of a job and one of its ops, both counted from 0.
Place = tuple[int, int]


def programs_of(request: ProgramRequest) -> JobPrograms:
    """Of all setups; a job without a result is planned first. Raises OutOfRange for a program of no
    op, or one that is not understood.
    """
    document = _planned(request.document)
    texts = _by_op(document, request.ops)
    count = len(document.route.setups) if document.route is not None else 0
    return JobPrograms(setups=[_setup(document, k + 1, texts, request) for k in range(count)])


def setup_program(request: ProgramRequest, number: int) -> SetupProgram:
    """Of one setup, counted from 1, of a job that was planned. Raises OutOfRange."""
    return _setup(request.document, number, _by_op(request.document, request.ops), request)


def trial_of(request: TrialRequest) -> SetupProgram:
    """Anyone's program, run for one setup. Raises OutOfRange, with the line a control would stop
    at.
    """
    asked, table, ops = _trial(request, _planned(request.document))
    return SetupProgram(
        number=request.setup,
        table=table,
        g10=as_g10(table),
        tried=tried(asked, table, ops, request.text),
    )


def own_tried(request: TrialRequest) -> OwnTried:
    """The same, of a job that was planned, with how it goes. Raises ProgramRefused."""
    asked, table, ops = _trial(request, request.document)
    blocks = read(request.text)
    went = ran(asked, table, ops, blocks)
    return OwnTried(
        text=request.text,
        tried=judged(asked, table, ops, blocks, went),
        played=played(asked, went[1]),
    )


def _trial(
    request: TrialRequest, document: JobDocument
) -> tuple[Asked, ZeroTable, dict[int, OpProgram]]:
    """The setup, its zeros, the programs of its ops as far as they are known."""
    asked = _asked(document, request.setup)
    texts = _by_op(document, request.ops)
    ops = {k: texts[place] for k, place in enumerate(_held(asked)) if place in texts}
    return asked, zero_table(asked), ops


def _planned(document: JobDocument) -> JobDocument:
    return document if document.result is not None else plan_route(document, alternatives=False)


def _asked(document: JobDocument, number: int) -> Asked:
    count = len(document.route.setups) if document.route is not None else 0
    if not 1 <= number <= count:
        raise OutOfRange("setup", number, f"one of the {count} setups of this job")
    asked = planned_setup(document, number)
    if asked is None:
        raise OutOfRange("setup", number, "a setup that has a layout")
    return asked


def _held(asked: Asked) -> list[Place]:
    """Which op each kind of station of a setup is for."""
    return [(kind.planned.part, kind.planned.op) for kind in asked.design.kinds]


def _by_op(document: JobDocument, ops: Sequence[OpText]) -> dict[Place, OpProgram]:
    """Those whose program is there; not those of which only the number is known."""
    found: dict[Place, OpProgram] = {}
    for number, item in enumerate(ops):
        place = _place(document, item, number)
        if called_number(item.text) is not None:
            continue
        try:
            found[place] = read_op(item.text)
        except ProgramRefused as refused:
            where = f"ops.{number}.text, {refused.field}"
            raise OutOfRange(where, refused.word or "it", refused.allowed) from None
    return found


def _numbers(asked: Asked, document: JobDocument, ops: Sequence[OpText]) -> dict[int, int]:
    """By kind of station, numbers of programs that are in the control alone."""
    known = {
        _place(document, item, k): number
        for k, item in enumerate(ops)
        if (number := called_number(item.text)) is not None
    }
    return {k: known[place] for k, place in enumerate(_held(asked)) if place in known}


def _place(document: JobDocument, item: OpText, number: int) -> Place:
    parts = document.job.parts
    names = {part.name: k for k, part in enumerate(parts)}
    part = names.get(str(item.part))
    if part is None and str(item.part).isdigit() and 1 <= int(item.part) <= len(parts):
        part = int(item.part) - 1
    if part is None:
        said = ", ".join(f"“{part.name}”" for part in parts)
        raise OutOfRange(f"ops.{number}.part", item.part, f"one of {said}, or its number")
    there = {op.number: k for k, op in enumerate(parts[part].ops)}
    if item.op not in there:
        raise OutOfRange(
            f"ops.{number}.op", item.op, f"one of its ops: {', '.join(map(str, there))}"
        )
    return part, there[item.op]


def played_setup(request: ProgramRequest, number: int) -> Played:
    """How the program of one setup goes, counted from 1. Raises OutOfRange where there is none."""
    texts = _by_op(request.document, request.ops)
    asked = _asked(request.document, number)
    table = zero_table(asked)
    given = _some(_ops(asked, texts)[0], request.tools)
    ops = {k: op.instead(request.instead) for k, op in given.items()}
    program = frame(asked, table, ops, request.order, _there(table, request), request.raised_mm)
    return played(asked, ran(asked, table, ops, read(program.text))[1])


def _setup(
    document: JobDocument, number: int, texts: dict[Place, OpProgram], request: ProgramRequest
) -> SetupProgram:
    asked = planned_setup(document, number)
    if asked is None:
        return SetupProgram(number=number, reasons=["nothing is planned here"])
    table = zero_table(asked)
    answer = SetupProgram(
        number=number, table=table, g10=as_g10(table), planned_s=_at_work_s(asked)
    )
    ops, envelopes = _ops(asked, texts)
    reasons = [
        f"no program yet for {name}: what its cuts sweep is looked at instead" for name in envelopes
    ]
    numbers = _numbers(asked, document, request.ops)
    ops = {k: op.instead(request.instead) for k, op in _some(ops, request.tools).items()}
    program = frame(asked, table, ops, request.order, _there(table, request), request.raised_mm)
    program = program.model_copy(update={"sisters": _sisters(asked, program.tools)})
    there = [part for part in table.parts if part.number in program.parts]
    table_there = table.model_copy(update={"parts": there})
    raised = [] if request.raised_mm is None else [_up(part, request.raised_mm) for part in there]
    again = request.tools is not None
    found = tried(asked, table_there, ops, program.text, envelopes, again, raised)
    if envelopes:  # there is no text whose lines could be looked up
        bare = [item.model_copy(update={"line": None}) for item in found.findings]
        found = found.model_copy(update={"findings": bare, "lines": 0})
    offered = None if envelopes else program
    if len(numbers) == len(asked.design.kinds):
        offered = chained(asked, table, numbers, _there(table, request))
        reasons = [
            f"what {_called(numbers)} in the control does is not known here: what cuts sweep is"
            " looked at instead"
        ]
    update = {"program": offered, "tried": found, "reasons": reasons}
    return answer.model_copy(update=update)


def _called(numbers: dict[int, int]) -> str:
    return " and ".join(f"O{number:04d}" for number in sorted(set(numbers.values())))


def _sisters(asked: Asked, used: Sequence[int]) -> list[tuple[int, int]]:
    """Of each tool that is used, others of the table that are the same cutter."""
    table = asked.request.machine.tools
    bare = {t.number: t.cutter.model_copy(update={"shop_id": None}) for t in table}
    return [
        (tool, other.number)
        for tool in dict.fromkeys(used)
        if tool in bare
        for other in table
        if other.number != tool and bare[other.number] == bare[tool]
    ]


def _there(table: ZeroTable, request: ProgramRequest) -> list[int] | None:
    """Numbers of the parts that are there. Raises OutOfRange for one that never was."""
    known = [part.number for part in table.parts]
    wrong = next((n for n in (*request.missing, *(request.only or [])) if n not in known), None)
    if wrong is not None:
        raise OutOfRange("parts", wrong, f"1 to {len(known)}: this setup has no other part")
    if request.only is None and not request.missing:
        return None
    return [n for n in request.only or known if n not in request.missing]


def _some(ops: dict[int, OpProgram], tools: Sequence[int] | None) -> dict[int, OpProgram]:
    """Only what some tools do. Raises OutOfRange where that is nothing."""
    if tools is None:
        return ops
    found = {
        kind: OpProgram(tuple(piece for piece in op.pieces if piece.tool in tools))
        for kind, op in ops.items()
    }
    if not any(op.pieces for op in found.values()):
        known = sorted({tool for op in ops.values() for tool in op.tools})
        raise OutOfRange(
            "tools", ", ".join(map(str, tools)), f"some of {', '.join(f'T{n}' for n in known)}"
        )
    return found


def _up(part: PartZero, by_mm: float) -> PartZero:
    x, y, z = part.at_mm
    return part.model_copy(update={"at_mm": (x, y, z + by_mm)})


def _at_work_s(asked: Asked) -> float:
    """Of a cycle as it is planned, what a program takes: no loading, no pallet change."""
    work = ("cut", "rapids", "tool change", "index")
    return sum(s.seconds for s in asked.design.cycle.segments if s.what in work)


def _ops(asked: Asked, texts: dict[Place, OpProgram]) -> tuple[dict[int, OpProgram], list[str]]:
    """By kind of station; the names of those of which only what their cuts sweep is known."""
    found: dict[int, OpProgram] = {}
    envelopes = []
    for k, place in enumerate(_held(asked)):
        known = texts.get(place)
        if known is None:
            envelopes.append(asked.design.kinds[k].name)
            known = envelope(asked.kinds[k], asked.request.machine)
        found[k] = known
    return found, envelopes
