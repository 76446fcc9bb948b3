"""A route planned: every setup by itself, and the job as a whole."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.field_words import worded
from wedgecraft.core.plan.bench import rearranged
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.pieces import with_making
from wedgecraft.core.plan.settled import chosen, with_way
from wedgecraft.core.plan.setup_view import in_document, refusal_of, setup_request
from wedgecraft.core.plan.whole import with_results, without_route
from wedgecraft.core.records.clamp_choice import Way
from wedgecraft.core.records.job import JobDocument, Route, Setup, SetupResult
from wedgecraft.core.records.plan import PlanResult, Reason
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.workpiece.report import not_as_drawn

Progress = Callable[[str, float], None]
#: Gets the document with what is found so far.
Preview = Callable[[JobDocument], None]


def plan_route(
    document: JobDocument,
    progress: Progress | None = None,
    alternatives: bool = True,
    preview: Preview | None = None,
) -> JobDocument:
    """The document with its result. A setup that cannot work says why in its own result, with the
    fields where they stand in this document; it does not raise. ``preview``: as of ``plan``.

    >>> from wedgecraft.core.shop.picks import starting_request
    >>> asked = JobDocument.model_validate(starting_request("Block", 40).model_dump())
    >>> asked = asked.model_copy(update={"route": None})
    >>> plan_route(asked).result.reasons[0].field
    'route'
    """
    tell: Progress = progress or (lambda step, share: None)
    if document.route is None:
        return document.model_copy(update={"result": without_route()})
    setups = document.route.setups
    found: list[SetupResult] = []
    for number, setup in enumerate(setups, 1):

        def told(step: str, share: float, number: int = number) -> None:
            said = step if len(setups) == 1 else f"setup {number}: {step}"
            tell(said, (number - 1 + share) / len(setups))

        def so_far(result: PlanResult, number: int = number, setup: Setup = setup) -> None:
            if preview is not None:
                shown = SetupResult(number=number, result=in_document(setup, number, result))
                preview(with_results(document, [*found, shown]))

        asked = setup_request(document, number)
        shown = so_far if preview is not None else None
        result = (
            _unplanned(setup, number) if asked is None else plan(asked, told, shown, alternatives)
        )
        found.append(SetupResult(number=number, result=in_document(setup, number, result)))
    tell("pieces", 1.0)
    found = [with_making(document, item) for item in found]
    return with_results(document, found, not_as_drawn(document.job.parts))


def placed_again(document: JobDocument, number: int, before: JobDocument) -> JobDocument | None:
    """The document with stations as a person placed them in one setup, judged with the load and
    hold that are known from ``before``; nothing where those do not answer it. Its pieces are not
    looked at: see ``pieces.pieces_looked_at``.
    """
    results = before.result.setups if before.result is not None else []
    setups = document.route.setups if document.route is not None else []
    if len(results) != len(setups) or not before.route or len(before.route.setups) != len(setups):
        return None
    if any(
        setup_request(document, other) != setup_request(before, other)
        for other in range(1, len(setups) + 1)
        if other != number
    ):
        return None
    asked, known = setup_request(document, number), setup_request(before, number)
    if asked is None or known is None:
        return None
    try:
        placed = rearranged(asked, known, results[number - 1].result)
    except OutOfRange:  # planning it will say that in full
        return None
    if placed is None:
        return None
    own = SetupResult(number=number, result=in_document(setups[number - 1], number, placed))
    doubts = before.result.doubts if before.result is not None else None
    if before.job.parts != document.job.parts:
        doubts = None
    return with_results(document, [*results[: number - 1], own, *results[number:]], doubts)


def clamped(document: JobDocument, number: int, ways: Sequence[Way]) -> JobDocument:
    """The document with the stations of a setup clamped in these ways."""
    asked = setup_request(document, number)
    if asked is None:
        return document
    for way in ways:
        asked = with_way(asked, way)
    return _with_stations(document, number, asked)


def as_chosen(document: JobDocument) -> JobDocument:
    """The document with the clamps that planning it chose."""
    for item in document.result.setups if document.result is not None else []:
        asked = setup_request(document, item.number)
        if asked is not None and any(way.rank for way in item.result.ways):
            taken = chosen(asked, item.result.ways)
            document = _with_stations(document, item.number, taken)
    return document


def _with_stations(document: JobDocument, number: int, asked: PlanRequest) -> JobDocument:
    """The document with how a setup's request holds its ops."""
    route = document.route or Route(setups=[])
    setup = route.setups[number - 1]
    stations = [asked.station, *(item.station for item in asked.also)]
    holds = [
        held.model_copy(update={"station": station})
        for held, station in zip(setup.holds, stations, strict=True)
    ]
    changed = list(route.setups)
    changed[number - 1] = setup.model_copy(update={"holds": holds})
    return document.model_copy(update={"route": route.model_copy(update={"setups": changed})})


def _unplanned(setup: Setup, number: int) -> PlanResult:
    """A form that is known, and cannot be planned yet, or not as it is set: refused by name."""
    refused = refusal_of(setup)
    if refused is not None:
        what, why, nearest = worded(refused, setup)
        reason = Reason(
            field=f"route.setups.{number - 1}.{refused.field}", what=what, why=why, nearest=nearest
        )
        return PlanResult(
            feasible=False,
            designs=[],
            reasons=[reason],
            figures=[],
            loads=[],
            hold=None,
            cautions=[],
        )
    reason = Reason(
        field="form",
        what=f"{setup.form.said} cannot be planned yet",
        why="no rule here says where parts stand in it and how it holds them",
        nearest="a plate, a tombstone or a bar for this setup",
    )
    return PlanResult(
        feasible=False, designs=[], reasons=[reason], figures=[], loads=[], hold=None, cautions=[]
    )
