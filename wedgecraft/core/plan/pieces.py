"""The pieces of a planned setup."""

from __future__ import annotations

from collections import Counter

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.plan.settled import chosen, settled
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.plan.two_sizes import says_of_others
from wedgecraft.core.records.job import JobDocument, SetupResult
from wedgecraft.core.records.piece import Bought, Made, Piece
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.view import views_of


def with_making(document: JobDocument, found: SetupResult) -> SetupResult:
    """A setup's result with what its pieces come to; as it is where it has no design."""
    designs = found.result.designs
    if not designs:
        return found
    made = pieces_of(document, found.number, found.result)
    return found if made.reasons else found.model_copy(update={"making": made.short})


def pieces_looked_at(document: JobDocument) -> JobDocument:
    """The document with what the pieces of its setups come to, where that was not looked at yet."""
    if document.result is None:
        return document
    setups = [
        item if item.making is not None else with_making(document, item)
        for item in document.result.setups
    ]
    result = document.result.model_copy(update={"setups": setups})
    return document.model_copy(update={"result": result})


def _with_others(document: JobDocument, asked: Asked, pieces: list[Piece]) -> list[Piece]:
    """Soft jaws with what they could share with those of other setups in a vise alike."""
    setups = document.route.setups if document.route is not None else []
    vise = getattr(setups[asked.number - 1].form, "vise", None)
    others = [
        other
        for number, setup in enumerate(setups, 1)
        if number != asked.number and getattr(setup.form, "vise", None) == vise
        for other in [planned_setup(document, number)]
        if other is not None
    ]
    if vise is None or not others:
        return pieces
    says = says_of_others(asked, others, vise)
    return [
        piece.model_copy(update={"notes": [*piece.notes, *says.get(piece.ops[0], [])]})
        if piece.follows_part
        else piece
        for piece in pieces
    ]


def planned_setup(
    document: JobDocument, number: int, planned: PlanResult | None = None
) -> Asked | None:
    """A setup, counted from 1, as its first design has it; nothing without one. Raises
    OutOfRange.
    """
    setup = document.route.setups[number - 1] if document.route is not None else None
    request = setup_request(document, number) if setup is not None else None
    if planned is None and document.result is not None:
        planned = document.result.setups[number - 1].result
    design = planned.designs[0] if planned is not None and planned.designs else None
    if setup is None or request is None or planned is None or design is None:
        return None
    if any(view.station.by_planner for view in views_of(request)):
        request = chosen(request, planned.ways)
    request = settled(request, planned)
    kinds = tuple(ready(view) for view in views_of(request))
    verdicts = (planned.hold, *(item.hold for item in planned.others))
    return Asked(number, request, design, kinds, setup.copies, verdicts)


def pieces_of(document: JobDocument, number: int, planned: PlanResult | None = None) -> Made:
    """What must be made and bought for one setup, counted from 1: of the first design of what was
    planned, the document's own where nothing is given. Without a design there is nothing to make,
    and the reasons say so.
    """
    rules = document.job.rules
    none = Made(number=number, pieces=[], bought=[], minutes=0, money=None, currency=rules.currency)
    try:
        asked = planned_setup(document, number, planned)
        if asked is None or document.route is None:
            return none.model_copy(
                update={"reasons": ["nothing is planned here: its pieces follow from a layout"]}
            )
        form = document.route.setups[number - 1].form
        pieces, besides = form.pieces(asked), form.bought(asked)
        if any(piece.follows_part for piece in pieces):
            pieces = _with_others(document, asked, pieces)
    except OutOfRange as error:
        return none.model_copy(update={"reasons": [f"{error.field}: {error.allowed}"]})
    listed: Counter[tuple[str, str]] = Counter()
    for item in besides:
        listed[item.says, item.why] += item.count
    for piece in pieces:
        for item in piece.bought:
            listed[item.says, item.why] += item.count * piece.alike
    costs = [piece.money for piece in pieces]
    return Made(
        number=number,
        pieces=pieces,
        bought=[Bought(says=says, count=count, why=why) for (says, why), count in listed.items()],
        minutes=sum(piece.minutes for piece in pieces),
        money=None if any(cost is None for cost in costs) else sum(cost or 0 for cost in costs),
        currency=rules.currency,
    )
