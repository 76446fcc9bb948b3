"""Taking parts and ops out: every reference that is left names what it named before, however many
there are and wherever they stand.
"""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.removal import without_op, without_part
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.shop.picks import starting_request


@st.composite
def _kits(draw) -> PlanRequest:
    base = starting_request("Kit", 40).model_dump()
    part = base["parts"][0]
    sizes = draw(st.lists(st.integers(1, 3), min_size=1, max_size=3))
    parts = [
        part
        | {
            "name": f"Part {p}",
            "features": [],
            "ops": [part["ops"][0] | {"number": 10 * (o + 1)} for o in range(count)],
        }
        for p, count in enumerate(sizes)
    ]
    every = draw(st.permutations([(p, o) for p, count in enumerate(sizes) for o in range(count)]))
    laid_out = every[: draw(st.integers(1, min(4, len(every))))]
    own = {
        torque: base["station"] | {"clamp": base["station"]["clamp"] | {"torque_nm": torque}}
        for torque in range(5, 12)
    }

    def named(places):
        return [
            {"part": p, "op": o, "station": draw(st.sampled_from([None, *own.values()]))}
            for p, o in places
        ]

    first, *also = named(laid_out)
    stations = [{"x_mm": 60, "y_mm": 60, "kind": draw(st.integers(0, len(also)))}]
    return PlanRequest.model_validate(
        base
        | {
            "parts": parts,
            "planned": first | {"station": None},
            "also": also,
            "elsewhere": named(every[:2]),
            "arrangement": {"own": True, "stations": stations},
        }
    )


def _told(request: PlanRequest, items) -> list[tuple[str, int, object]]:
    """References by what they name and how it is held."""
    parts = request.parts
    return [
        (parts[item.part].name, parts[item.part].ops[item.op].number, item.station)
        for item in items
    ]


def _laid_out(request: PlanRequest) -> list[tuple[str, int, object]]:
    return _told(
        request,
        [
            item.model_copy(update={"station": item.station or request.station})
            for item in [request.planned, *request.also]
        ],
    )


@settings(max_examples=150)
@given(_kits(), st.data())
def test_what_is_left_names_what_it_named(request, data):
    part = data.draw(st.integers(0, len(request.parts) - 1))
    op = data.draw(st.none() | st.integers(0, len(request.parts[part].ops) - 1))
    name = request.parts[part].name
    number = None if op is None else request.parts[part].ops[op].number
    if (len(request.parts) if op is None else len(request.parts[part].ops)) == 1:
        with pytest.raises(OutOfRange, match="the last one stays"):
            without_part(request, part) if op is None else without_op(request, part, op)
        return
    left = without_part(request, part) if op is None else without_op(request, part, op)

    def stays(item) -> bool:
        return item[0] != name or (number is not None and item[1] != number)

    before = _laid_out(request)
    still = [item for item in before if stays(item)]
    assert _told(left, left.elsewhere) == [
        item for item in _told(request, request.elsewhere) if stays(item)
    ]
    assert (
        _laid_out(left) == still if still else len(_laid_out(left)) == 1
    )  # something is always laid out, held as it was
    # Placed stations stay as long as every op they may be for does.
    assert (
        left.arrangement == request.arrangement
        if still == before
        else not left.arrangement.stations
    )
    names = [(item.name, [o.number for o in item.ops]) for item in request.parts]
    kept = [
        (n, [o for o in ops if (n, o) != (name, number)])
        for n, ops in names
        if op is not None or n != name
    ]
    assert [(item.name, [o.number for o in item.ops]) for item in left.parts] == kept
