"""The job as a whole, from the results of its setups: complete parts a cycle and a day, which setup
limits, the work between.
"""

from __future__ import annotations

import math
from itertools import pairwise

from pydantic import ValidationError

from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.plan.setup_view import in_document
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.feature import opposite
from wedgecraft.core.records.job import JobDocument, JobResult, Setup, SetupResult
from wedgecraft.core.records.plan import PlanResult, Reason
from wedgecraft.core.records.workpiece import Doubt


def with_results(
    document: JobDocument, found: list[SetupResult], doubts: list[Doubt] | None = None
) -> JobDocument:
    """The document with what was worked out for its setups, as far as that is; ``doubts``: of its
    parts' states, nothing where those were not looked at yet.
    """
    result = _whole(document, found)
    burrs = sum(doubt.by_hand for doubt in doubts or [])
    figures = [*result.figures, *([_by_hand(document, burrs)] if burrs else [])]
    result = result.model_copy(update={"doubts": doubts, "figures": figures})
    return document.model_copy(update={"result": result})


def _by_hand(document: JobDocument, burrs: int) -> Figure:
    """What burrs cost that no cut takes off."""
    each = document.job.rules.burr_seconds
    return Figure(
        id="deburring",
        label="Deburring by hand, a part",
        value=burrs * each,
        unit="s",
        digits=0,
        formula="burrs that no cut takes off x seconds each",
        inputs=[
            given("burrs", burrs, "", "holes that cross, from the cuts' order"),
            given("seconds each", each, "s", "house rule"),
        ],
        source="arithmetic",
    )


def of_version_2(document: JobDocument, result: object) -> JobResult | None:
    """A stored result of version 2, taken along: it answers a route of one setup. Nothing where it
    does not, or cannot be read any more: planned again.
    """
    if document.route is None or len(document.route.setups) != 1:
        return None
    if document.route.setups[0].form.carrier(document.route.setups[0].machine) is None:
        return None
    try:
        known = PlanResult.model_validate(result)
    except ValidationError:
        return None
    placed = SetupResult(number=1, result=in_document(document.route.setups[0], 1, known))
    return with_results(document, [placed]).result


def without_route() -> JobResult:
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


def _whole(document: JobDocument, found: list[SetupResult]) -> JobResult:
    """Complete parts a cycle and a day, which setup limits, the work between."""
    job, setups = document.job, document.route.setups if document.route else []
    missing = _missing(document)
    designs = [item.result.designs[0] if item.result.feasible else None for item in found]
    kits = len(job.parts) > 1
    whole = JobResult(
        feasible=bool(found) and all(item.result.feasible for item in found),
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
    if missing or len(found) < len(setups) or any(design is None for design in designs):
        return whole
    known = [design for design in designs if design is not None]
    counts = [
        sets_a_cycle(document, setup, design) for setup, design in zip(setups, known, strict=True)
    ]
    fewest = min(range(len(counts)), key=lambda k: (counts[k], k))
    seconds = [design.cycle.seconds / count for design, count in zip(known, counts, strict=True)]
    by_machine: dict[str, float] = {}
    for setup, each in zip(setups, seconds, strict=True):
        by_machine[setup.machine.name] = by_machine.get(setup.machine.name, 0.0) + each
    slowest = max(by_machine, key=lambda name: by_machine[name])
    hours = job.rules.hours_a_day
    a_day = hours * 3600 / by_machine[slowest]
    alone = max(
        design.cycle.unattended_seconds * setup.copies / 3600
        for setup, design in zip(setups, known, strict=True)
    )
    return whole.model_copy(
        update={
            "complete_a_cycle": math.floor(counts[fewest]),
            "limits": fewest + 1 if len(counts) > 1 else None,
            "a_day": a_day,
            "unattended_hours": alone,
            "figures": _figures(setups, counts, seconds, slowest, hours, a_day, alone),
        }
    )


def _ops(document: JobDocument) -> int:
    return sum(len(part.ops) for part in document.job.parts)


def sets_a_cycle(document: JobDocument, setup: Setup, design: Design) -> float:
    """Kits, or parts of a job of one part, that one cycle of this setup makes its share of; less
    than one where a kit takes several cycles.
    """
    if design.counted == "kits" or len(document.job.parts) == 1:
        return design.count
    part = document.job.parts[setup.holds[0].part]
    return design.count / part.per_kit


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
    counts: list[float],
    seconds: list[float],
    slowest: str,
    hours: float,
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
            value=math.floor(min(counts)),
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
                given("hours of a day", hours, "h", "house rule"),
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
