"""A route planned: every setup by itself, and the job as a whole."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.feature import opposite
from wedgecraft.core.records.job import Held, JobDocument, JobResult, Route, Setup, SetupResult
from wedgecraft.core.records.plan import OpAnswer, PlanResult, Reason
from wedgecraft.core.records.request import Planned, PlanRequest

Progress = Callable[[str, float], None]
#: How long a shop's day is, until its shifts are known.
HOURS_A_DAY = 8.0


def setup_request(document: JobDocument, number: int) -> PlanRequest | None:
    """What is asked of one setup, counted from 1; nothing where its form cannot be planned yet.

    The ops of other setups are known to it for what they leave behind on the part.
    """
    route = document.route or Route(setups=[])
    setup = route.setups[number - 1]
    carrier = setup.form.carrier()
    if carrier is None:
        return None
    others = [
        Planned(part=held.part, op=held.op, station=held.station or other.holds[0].station)
        for other in route.setups
        if other is not setup
        for held in other.holds
    ]
    rules = document.job.rules
    if setup.zeros.strategy is not None:
        rules = rules.model_copy(update={"datum": setup.zeros.strategy})
    first, *also = [_planned(held) for held in setup.holds]
    station = setup.holds[0].station
    if station is None:
        raise ValueError("the first op of a setup says how it is held")
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
        datum={"x_mm": setup.zeros.x_mm, "y_mm": setup.zeros.y_mm},
        machine=setup.machine,
        station=station,
        rules=rules,
        arrangement=setup.arrangement,
    )


def _planned(held: Held) -> Planned:
    return Planned(part=held.part, op=held.op, station=held.station)


def address(setup: Setup, number: int, field: str) -> str:
    """Where in the document a field of a setup's request stands; ``number`` counts from 1."""
    at = f"route.setups.{number - 1}"
    head, _, rest = field.partition(".")
    if head in ("name", "quantity", "parts"):
        return f"job.{field}"
    if field == "rules.datum" and setup.zeros.strategy is not None:
        return f"{at}.zeros.strategy"
    if head == "rules":
        return f"job.{field}"
    if head == "datum":
        return f"{at}.zeros.{rest}"
    if head == "station":
        return f"{at}.holds.0.{field}"
    if head == "planned":
        return f"{at}.holds.0.{rest}"
    if head == "also":
        index, _, inner = rest.partition(".")
        return f"{at}.holds.{int(index) + 1}.{inner}"
    for known, own in setup.form.fields.items():
        if field == known or field.startswith(f"{known}."):
            inner = field[len(known) + 1 :]
            return ".".join(part for part in (at, "form", own, inner) if part)
    return f"{at}.{field}"


def plan_route(
    document: JobDocument, progress: Progress | None = None, alternatives: bool = True
) -> JobDocument:
    """The document with its result. A setup that cannot work says why in its own result, with the
    fields where they stand in this document; it does not raise.

    >>> from wedgecraft.core.shop.picks import starting_request
    >>> asked = JobDocument.model_validate(starting_request("Block", 40).model_dump())
    >>> asked = asked.model_copy(update={"route": None})
    >>> plan_route(asked).result.reasons[0].field
    'route'
    """
    tell: Progress = progress or (lambda step, share: None)
    if document.route is None:
        return document.model_copy(update={"result": _without_route()})
    setups = document.route.setups
    found = []
    for number, setup in enumerate(setups, 1):

        def told(step: str, share: float, number: int = number) -> None:
            tell(f"setup {number}: {step}", (number - 1 + share) / len(setups))

        asked = setup_request(document, number)
        result = _unplanned(setup) if asked is None else plan(asked, told, None, alternatives)
        found.append(SetupResult(number=number, result=_placed(setup, number, result)))
    return document.model_copy(update={"result": _whole(document, found)})


def _without_route() -> JobResult:
    return JobResult(
        feasible=False,
        setups=[],
        complete_a_cycle=None,
        counted="parts",
        limits=None,
        a_day=None,
        unattended_hours=None,
        between=[],
        reasons=[
            Reason(
                field="route",
                what="the job has no route",
                why="nothing says on which machine and in what its ops are held",
                nearest="at least one setup: a machine, a form, an op",
            )
        ],
        figures=[],
    )


def _unplanned(setup: Setup) -> PlanResult:
    """A form that is known, and cannot be planned yet: refused by name."""
    reason = Reason(
        field="form",
        what=f"{setup.form.said} cannot be planned yet",
        why="no rule here says where parts stand in it and how it holds them",
        nearest="a plate, a tombstone or a bar for this setup",
    )
    return PlanResult(
        feasible=False, designs=[], reasons=[reason], figures=[], loads=[], hold=None, cautions=[]
    )


def _placed(setup: Setup, number: int, result: PlanResult) -> PlanResult:
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

    changed = {
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


def _whole(document: JobDocument, found: list[SetupResult]) -> JobResult:
    """Complete parts a cycle and a day, which setup limits, the work between."""
    job, setups = document.job, document.route.setups if document.route else []
    missing = _missing(document)
    designs = [item.result.designs[0] if item.result.feasible else None for item in found]
    kits = len(job.parts) > 1
    whole = JobResult(
        feasible=all(item.result.feasible for item in found),
        setups=found,
        complete_a_cycle=None,
        counted="kits" if kits else "parts" if _ops(document) == 1 else "complete parts",
        limits=None,
        a_day=None,
        unattended_hours=None,
        between=_between(document),
        reasons=missing,
        figures=[],
    )
    if missing or any(design is None for design in designs):
        return whole
    known = [design for design in designs if design is not None]
    counts = [_sets(document, setup, design) for setup, design in zip(setups, known, strict=True)]
    fewest = min(range(len(counts)), key=lambda k: (counts[k], k))
    seconds = [design.cycle.seconds / count for design, count in zip(known, counts, strict=True)]
    by_machine: dict[str, float] = {}
    for setup, each in zip(setups, seconds, strict=True):
        by_machine[setup.machine.name] = by_machine.get(setup.machine.name, 0.0) + each
    slowest = max(by_machine, key=lambda name: by_machine[name])
    a_day = HOURS_A_DAY * 3600 / by_machine[slowest]
    alone = max(
        design.cycle.unattended_seconds * setup.copies / 3600
        for setup, design in zip(setups, known, strict=True)
    )
    return whole.model_copy(
        update={
            "complete_a_cycle": counts[fewest],
            "limits": fewest + 1 if len(counts) > 1 else None,
            "a_day": a_day,
            "unattended_hours": alone,
            "figures": _figures(setups, counts, seconds, slowest, a_day, alone),
        }
    )


def _ops(document: JobDocument) -> int:
    return sum(len(part.ops) for part in document.job.parts)


def _sets(document: JobDocument, setup: Setup, design: Design) -> int:
    """Kits, or parts of a job of one part, that one cycle of this setup makes its share of."""
    if design.counted == "kits" or len(document.job.parts) == 1:
        return design.count
    part = document.job.parts[setup.holds[0].part]
    return design.count // part.per_kit


def _missing(document: JobDocument) -> list[Reason]:
    """Ops that no setup holds."""
    held = {
        (item.part, item.op)
        for setup in (document.route.setups if document.route else [])
        for item in setup.holds
    }
    return [
        Reason(
            field=f"job.parts.{p}.ops.{o}",
            what=f"{part.name}, op {op.number} is held in no setup",
            why="parts come off complete when every op is held somewhere",
            nearest="a setup that holds it, or take the op out",
        )
        for p, part in enumerate(document.job.parts)
        for o, op in enumerate(part.ops)
        if (p, o) not in held
    ]


def _between(document: JobDocument) -> list[str]:
    """What a part goes through from one setup to the next."""
    setups = document.route.setups if document.route else []
    found = []
    for number, (before, after) in enumerate(pairwise(setups), 1):
        turned = []
        for held in after.holds:
            part = document.job.parts[held.part]
            ups = {part.ops[item.op].up for item in before.holds if item.part == held.part}
            up = part.ops[held.op].up
            if ups and up not in ups:
                over = "turned over" if opposite(up) in ups else f"set with {up} up"
                turned.append(f"{part.name} {over}")
        way = ", ".join(turned) or "set again"
        machine = "" if before.machine == after.machine else f", to {after.machine.name}"
        found.append(f"Setup {number} to {number + 1}: {way}, deburred where it stands{machine}.")
    return found


def _figures(
    setups: list[Setup],
    counts: list[int],
    seconds: list[float],
    slowest: str,
    a_day: float,
    alone: float,
) -> list[Figure]:
    each = [
        given(f"setup {number}"[:120], count, "", "its design")
        for number, count in enumerate(counts, 1)
    ]
    return [
        Figure(
            id="complete_a_cycle",
            label="Complete parts a cycle",
            value=min(counts),
            digits=0,
            formula="the fewest that any setup makes its share of in one cycle",
            inputs=each,
            source="designs of the setups",
        ),
        Figure(
            id="a_day",
            label="Complete parts a day",
            value=a_day,
            digits=0,
            formula=(
                "hours of a day / seconds a part on the machine that has the most to do, its setups"
                " added; machines work side by side"
            ),
            inputs=[
                given("hours of a day", HOURS_A_DAY, "h", "usual single shift; from memory"),
                *(
                    given(f"setup {number}, {setup.machine.name}"[:120], value, "s", "its design")
                    for number, (setup, value) in enumerate(zip(setups, seconds, strict=True), 1)
                    if setup.machine.name == slowest
                ),
            ],
            source="arithmetic",
        ),
        Figure(
            id="unattended_hours",
            label="Cuts by itself",
            value=alone,
            unit="h",
            digits=2,
            formula="longest of all setups: cutting of one fixture x identical fixtures",
            inputs=[
                given(f"setup {number}, copies"[:120], setup.copies)
                for number, setup in enumerate(setups, 1)
            ],
            source="designs of the setups",
        ),
    ]
