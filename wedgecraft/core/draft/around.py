"""A job drafted again round what a person set: the machine, ops whose cuts were changed, and setups
whose form was.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from wedgecraft.core.draft.bare import bare
from wedgecraft.core.draft.mends import rest_held
from wedgecraft.core.draft.proposal import drafted
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import JobDocument, Proposal, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part

Progress = Callable[[str, float], None]
#: A part and an op, by place.
Place = tuple[int, int]


def drafted_around(
    before: JobDocument,
    stores: Stores,
    unit: Literal["mm", "in"] = "mm",
    progress: Progress | None = None,
) -> JobDocument:
    """Everything that was proposed of a job, proposed anew; what a person set stays. Raises
    OutOfRange as ``drafted`` does.
    """
    job = bare(before).job
    fresh = drafted(
        job.name, job.quantity, job.parts, stores, _machine(before), job.rules, unit, progress
    )
    own: set[Place] = set()
    parts = []
    for p, (was, now) in enumerate(zip(before.job.parts, fresh.job.parts, strict=True)):
        ops, kept = _ops(before, p, was, now)
        own |= {(p, k) for k in kept}
        parts.append(now.model_copy(update={"ops": ops}))
    if not own and not _own_setups(before):
        return fresh
    setups, proposals = _setups(before, fresh, own, parts)
    document = fresh.model_copy(
        update={
            "job": fresh.job.model_copy(update={"parts": parts}),
            "route": Route(setups=setups) if setups else None,
            "proposals": proposals,
        }
    )
    try:
        return rest_held(document, stores, progress, _machine(before))
    except OutOfRange:  # every op is held, or planning says which is not
        return document


def _set(document: JobDocument, pointer: str) -> bool:
    """Whether a person set what stands there."""
    return all(item.pointer != pointer for item in document.proposals)


def _machine(document: JobDocument) -> Machine | None:
    """The machine that a person picked for the first setup."""
    setups = document.route.setups if document.route is not None else []
    return setups[0].machine if setups and _set(document, "/route/setups/0/machine") else None


def _ops(document: JobDocument, p: int, was: Part, now: Part) -> tuple[list[Op], list[int]]:
    """The ops of a part, and which of them stay as a person set them: all, where the same sides
    are not up in the same order any more.
    """
    own = [
        k for k, op in enumerate(was.ops) if op.cuts and _set(document, f"/job/parts/{p}/ops/{k}")
    ]
    if not own:
        return now.ops, []
    if [op.up for op in was.ops] != [op.up for op in now.ops]:
        return was.ops, list(range(len(was.ops)))
    return [was.ops[k] if k in own else op for k, op in enumerate(now.ops)], own


def _own_setups(document: JobDocument) -> dict[tuple[Place, ...], Setup]:
    """Setups whose form a person set, by what they hold."""
    setups = document.route.setups if document.route is not None else []
    return {
        _holds(setup): setup
        for number, setup in enumerate(setups)
        if _set(document, f"/route/setups/{number}/form")
    }


def _holds(setup: Setup) -> tuple[Place, ...]:
    return tuple((held.part, held.op) for held in setup.holds)


def _setups(
    before: JobDocument, fresh: JobDocument, own: set[Place], parts: Sequence[Part]
) -> tuple[list[Setup], list[Proposal]]:
    """Setups that a person set, and those drafted for ops that are as they were drafted."""
    there = {(p, k) for p, part in enumerate(parts) for k in range(len(part.ops))}
    kept = {holds: s for holds, s in _own_setups(before).items() if set(holds) <= there}
    taken = {place for holds in kept for place in holds} | own
    drafts = fresh.route.setups if fresh.route is not None else []
    found: list[tuple[tuple[Place, ...], Setup, int | None]] = [
        (holds, setup, None) for holds, setup in kept.items()
    ]
    found += [
        (_holds(setup), setup, number)
        for number, setup in enumerate(drafts)
        if not taken & set(_holds(setup))
    ]
    found.sort(key=lambda item: item[0])
    where = {number: place for place, (_, _, number) in enumerate(found) if number is not None}
    proposals = []
    for item in fresh.proposals:
        keys = item.pointer.strip("/").split("/")
        if keys[:2] == ["route", "setups"]:
            if int(keys[2]) not in where:
                continue
            keys[2] = str(where[int(keys[2])])
        elif keys[3:4] == ["ops"] and (int(keys[2]), int(keys[4])) in own:
            continue
        proposals.append(item.model_copy(update={"pointer": "/" + "/".join(keys)}))
    return [setup for _, setup, _ in found], proposals
