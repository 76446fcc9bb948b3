"""A setup of a job as a request of its own, and its fields and answers where they stand in the
job's document.
"""

from __future__ import annotations

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Limit
from wedgecraft.core.records.job import JobDocument, Route, Setup
from wedgecraft.core.records.plan import OpAnswer, PlanResult
from wedgecraft.core.records.request import Planned, PlanRequest, There
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.verdicts import VerdictsResult


def setup_request(document: JobDocument, number: int) -> PlanRequest | None:
    """What is asked of one setup, counted from 1; nothing where its form cannot be planned yet, or
    not as it is set.

    The ops of other setups are known to it for what they leave behind on the part.
    """
    route = document.route or Route(setups=[])
    setup = route.setups[number - 1]
    carrier = setup.form.carrier(setup.machine)
    if carrier is None:
        return None
    others = [
        Planned(
            part=held.part,
            op=held.op,
            station=_held_in(other, held.station or other.holds[0].station, number),
            there=_there(other, setup),
        )
        for other in route.setups
        if other is not setup
        for number, held in enumerate(other.holds)
    ]
    if refusal_of(setup) is not None:
        return None
    rules = document.job.rules
    if setup.zeros.strategy is not None:
        rules = rules.model_copy(update={"datum": setup.zeros.strategy})
    first, *also = [_planned(setup, number) for number in range(len(setup.holds))]
    station = setup.form.station(_of_first(setup))
    return PlanRequest(
        name=document.job.name,
        quantity=document.job.quantity,
        parts=document.job.parts,
        planned=first.model_copy(update={"station": None}),
        also=also,
        elsewhere=others,
        block=carrier.block,
        accuracy=setup.accuracy,
        plate=carrier.plate,
        datum={
            "x_mm": setup.zeros.x_mm,
            "y_mm": setup.zeros.y_mm,
            "picked_up": setup.zeros.picked_up,
        },
        machine=setup.machine,
        station=station,
        rules=rules,
        arrangement=setup.arrangement,
    )


def refusal_of(setup: Setup) -> OutOfRange | None:
    """Why a form that can be planned cannot be as it is set; nothing where it can."""
    try:
        for number, held in enumerate(setup.holds):
            if held.station is not None or setup.form.own_of(number):
                setup.form.station(held.station or _of_first(setup), number)
    except OutOfRange as error:
        return error
    return None


def _there(other: Setup, here: Setup) -> There | None:
    """Where another setup's ops are held; nothing where that is as here, or nobody knows."""
    carrier, own = other.form.carrier(other.machine), here.form.carrier(here.machine)
    if carrier is None or own is None:
        return None
    there = There(machine=other.machine, plate=carrier.plate, accuracy=other.accuracy)
    same = There(machine=here.machine, plate=own.plate, accuracy=here.accuracy)
    return there if there != same else None


def _of_first(setup: Setup) -> StopAndEdgeClamp:
    station = setup.holds[0].station
    if station is None:
        raise ValueError("the first op of a setup says how it is held")
    return station


def _held_in(
    setup: Setup, station: StopAndEdgeClamp | None, number: int
) -> StopAndEdgeClamp | None:
    """How an op is held in another setup, as far as its form knows."""
    if station is None:
        return None
    try:
        return setup.form.station(station, number)
    except OutOfRange:  # planning that setup says so
        return station


def _planned(setup: Setup, number: int) -> Planned:
    held, station = setup.holds[number], None
    if held.station is not None or setup.form.own_of(number):
        station = setup.form.station(held.station or _of_first(setup), number)
    return Planned(part=held.part, op=held.op, station=station)


def address(setup: Setup, which: int, field: str) -> str:
    """Where in the document a field of a setup's request stands; ``which`` counts from 1. What is
    no field of the request stays as it is.
    """
    at = f"route.setups.{which - 1}"
    head, _, rest = field.partition(".")
    if head in ("", "job", "route"):  # nothing to set, or it was said before
        return field
    if head in ("name", "quantity", "parts"):
        return f"job.{field}"
    if field == "rules.datum" and setup.zeros.strategy is not None:
        return f"{at}.zeros.strategy"
    if head == "rules":
        return f"job.{field}"
    if head == "datum":
        return f"{at}.zeros.{rest}"
    number, inside = 0, field
    if head == "also" and rest:
        index, _, inner = rest.partition(".")
        number, inside = int(index) + 1, inner.removeprefix("station.")
    own = _of_form(setup, inside, number)
    if own is not None:
        return f"{at}.{own}"
    if head == "station":
        return f"{at}.holds.0.{field}"
    if head == "planned":
        return f"{at}.holds.0.{rest}"
    if head == "also":
        return f"{at}.holds.{number}.{rest.partition('.')[2]}" if rest else f"{at}.holds"
    return f"{at}.{field}" if head in Setup.model_fields else field


def _of_form(setup: Setup, field: str, op: int) -> str | None:
    """Where a field stands in the setup's form; nothing for one that is not the form's."""
    inside = field if field.startswith(("station.", "plate", "block")) else f"station.{field}"
    for known, own in setup.form.fields_of(op).items():
        if inside == known or inside.startswith(f"{known}."):
            inner, value = (
                inside[len(known) + 1 :],
                getattr(setup.form, own, None) if own else setup,
            )
            if own and inner.split(".")[0] not in getattr(type(value), "model_fields", ()):
                inner = ""
            return ".".join(part for part in ("form", own, inner) if part)
    return None


def address_in(document: JobDocument, number: int, field: str) -> str:
    """As ``address``, of a document's setup."""
    setups = document.route.setups if document.route is not None else []
    return address(setups[number - 1], number, field)


def verdicts_in_document(
    document: JobDocument, number: int, found: VerdictsResult
) -> VerdictsResult:
    """Verdicts with what would help where it stands in the document."""
    if found.detail is None:
        return found
    remedies = [
        item.model_copy(update={"field": address_in(document, number, item.field)})
        for item in found.detail.remedies
    ]
    detail = found.detail.model_copy(update={"remedies": remedies})
    return found.model_copy(update={"detail": detail})


def in_document(setup: Setup, number: int, result: PlanResult) -> PlanResult:
    """The result with every field where it stands in the document."""

    def there(field: str) -> str:
        return address(setup, number, field)

    def op(answer: OpAnswer) -> OpAnswer:
        if answer.hold is None:
            return answer
        remedies = [
            item.model_copy(update={"field": there(item.field)}) for item in answer.hold.remedies
        ]
        return answer.model_copy(
            update={"hold": answer.hold.model_copy(update={"remedies": remedies})}
        )

    def moved(line: Limit) -> Limit:
        if line.set_by is None:
            return line
        there_by = line.set_by.model_copy(update={"field": there(line.set_by.field)})
        return line.model_copy(update={"set_by": there_by})

    changed = {
        "designs": [
            item.model_copy(update={"limits": [moved(line) for line in item.limits]})
            for item in result.designs
        ],
        "reasons": [
            item.model_copy(update={"field": there(item.field)}) for item in result.reasons
        ],
        "others": [op(item) for item in result.others],
    }
    if result.hold is not None:
        remedies = [
            item.model_copy(update={"field": there(item.field)}) for item in result.hold.remedies
        ]
        changed["hold"] = result.hold.model_copy(update={"remedies": remedies})
    return result.model_copy(update=changed)
