"""Taking a part or an op out of a request: what names others by their place goes on naming the same
ones.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.request import Arrangement, Planned, PlanRequest

#: The new place of a part and an op, or nothing where it goes.
Places = Callable[[int, int], tuple[int, int] | None]


def without_part(request: PlanRequest, part: int) -> PlanRequest:
    """The request without one of its parts. Raises OutOfRange for one that is not there, or the
    last one.
    """
    _there("part", part, len(request.parts), least=1)
    rest = [item for index, item in enumerate(request.parts) if index != part]
    return _renamed(
        request,
        rest,
        lambda p, op: None if p == part else (p - (p > part), op),
        min(part, len(rest) - 1),
    )


def without_op(request: PlanRequest, part: int, op: int) -> PlanRequest:
    """The request without one op of one of its parts. Raises OutOfRange for one that is not there,
    or the part's last one.
    """
    _there("part", part, len(request.parts))
    ops = request.parts[part].ops
    _there("op", op, len(ops), least=1)
    changed = request.parts[part].model_copy(
        update={"ops": [item for index, item in enumerate(ops) if index != op]}
    )
    parts = [*request.parts[:part], changed, *request.parts[part + 1 :]]

    def place(p: int, o: int) -> tuple[int, int] | None:
        if p != part:
            return p, o
        return None if o == op else (p, o - (o > op))

    return _renamed(request, parts, place, part)


def _there(field: str, index: int, count: int, least: int = 0) -> None:
    if not 0 <= index < count:
        raise OutOfRange(field, index, f"there are {count}, counted from 0")
    if count <= least:
        raise OutOfRange(field, index, "the last one stays")


def _renamed(
    request: PlanRequest, parts: Sequence[Part], place: Places, nearest: int
) -> PlanRequest:
    """``nearest``: the part whose first op is laid out where what was laid out goes and nothing was
    planned beside it.
    """

    def kept(items: Sequence[Planned]) -> list[Planned]:
        places = [(item, place(item.part, item.op)) for item in items]
        return [
            item.model_copy(update={"part": new[0], "op": new[1]})
            for item, new in places
            if new is not None
        ]

    first, also = kept([request.planned]), kept(request.also)
    gone = len(first) + len(also) <= len(request.also)
    station = request.station
    if not first and also:  # what was planned beside it goes on, held as it was
        leads = also.pop(0)
        also = [item.model_copy(update={"station": item.station or station}) for item in also]
        station = leads.station or station
        first = [leads.model_copy(update={"station": None})]
    changed = request.model_copy(
        update={
            "parts": list(parts),
            "planned": first[0] if first else Planned(part=nearest, op=0),
            "also": also,
            "elsewhere": kept(request.elsewhere),
            "station": station,
            # Stations that a person placed belong to the ops that were laid out.
            "arrangement": Arrangement() if gone else request.arrangement,
        }
    )
    return PlanRequest.model_validate(changed.model_dump())
