"""Taking a part or an op out of a job: what names others by their place goes on naming the same
ones.
"""

from __future__ import annotations

from collections.abc import Callable

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.route_edits import without_places
from wedgecraft.core.records.job import Held, JobDocument, Route, Setup
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.request import Arrangement

#: The new place of a part and an op, or nothing where it goes.
Places = Callable[[int, int], tuple[int, int] | None]


def without_part(document: JobDocument, part: int) -> JobDocument:
    """The document without one of its parts. Raises OutOfRange for one that is not there, or the
    last one.
    """
    parts = document.job.parts
    _there("part", part, len(parts), least=1)
    rest = [item for index, item in enumerate(parts) if index != part]
    return _renamed(
        document,
        rest,
        lambda p, op: None if p == part else (p - (p > part), op),
        min(part, len(rest) - 1),
    )


def without_op(document: JobDocument, part: int, op: int) -> JobDocument:
    """The document without one op of one of its parts. Raises OutOfRange for one that is not there,
    or the part's last one.
    """
    parts = document.job.parts
    _there("part", part, len(parts))
    ops = parts[part].ops
    _there("op", op, len(ops), least=1)
    changed = parts[part].model_copy(
        update={"ops": [item for index, item in enumerate(ops) if index != op]}
    )

    def place(p: int, o: int) -> tuple[int, int] | None:
        if p != part:
            return p, o
        return None if o == op else (p, o - (o > op))

    return _renamed(document, [*parts[:part], changed, *parts[part + 1 :]], place, part)


def _there(field: str, index: int, count: int, least: int = 0) -> None:
    if not 0 <= index < count:
        raise OutOfRange(field, index, f"there are {count}, counted from 0")
    if count <= least:
        raise OutOfRange(field, index, "the last one stays")


def _renamed(document: JobDocument, parts: list[Part], place: Places, nearest: int) -> JobDocument:
    """A setup that holds nothing any more goes; the last one holds the first op of the ``nearest``
    part then.
    """
    setups = document.route.setups if document.route else []
    kept = [left for setup in setups if (left := _left(setup, place)) is not None]
    if setups and not kept:
        held = Held(part=nearest, op=0, station=setups[0].holds[0].station)
        kept = [setups[0].model_copy(update={"holds": [held], "arrangement": Arrangement()})]
    changed = document.model_copy(
        update={
            "job": document.job.model_copy(update={"parts": parts}),
            "route": Route(setups=kept) if kept else None,
            "result": None,
        }
    )
    return JobDocument.model_validate(changed.model_dump())


def _left(setup: Setup, place: Places) -> Setup | None:
    """A setup with what of its ops is still there, under their new places."""
    gone = {(h.part, h.op) for h in setup.holds if place(h.part, h.op) is None}
    left = without_places(setup, gone)
    if left is None:
        return None
    holds = []
    for held in left.holds:
        part, op = place(held.part, held.op) or (held.part, held.op)
        holds.append(held.model_copy(update={"part": part, "op": op}))
    return left.model_copy(update={"holds": holds})
