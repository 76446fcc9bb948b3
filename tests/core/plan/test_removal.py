"""Taking parts, ops and setups out, and holding ops elsewhere: every reference that is left names
what it named before and is held as it was, however many there are and wherever they stand.
"""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.removal import without_op, without_part
from wedgecraft.core.plan.route_edits import held_in, with_form, with_scheme, without_setup
from wedgecraft.core.plan.schemes import setups
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.shop.picks import named, starting_job

PLATE = named("plate", "Plate 400 x 350 x 25")


@st.composite
def _kits(draw) -> JobDocument:
    """Parts with ops, some held in setups of one op or several, some in none."""
    base = starting_job("Kit", 40).model_dump(exclude={"result"})
    part, setup = base["job"]["parts"][0], base["route"]["setups"][0]
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
    held = every[: draw(st.integers(1, len(every)))]
    station = setup["holds"][0]["station"]
    own = [station | {"clamp": station["clamp"] | {"torque_nm": torque}} for torque in range(5, 12)]
    made = []
    while held:
        here, held = held[: (size := draw(st.integers(1, 3)))], held[size:]
        holds = [
            {"part": p, "op": o, "station": draw(st.sampled_from([None, *own] if k else own))}
            for k, (p, o) in enumerate(here)
        ]
        placed = [{"x_mm": 60, "y_mm": 60, "kind": draw(st.integers(0, len(holds) - 1))}]
        made.append(setup | {"holds": holds, "arrangement": {"own": True, "stations": placed}})
    base["job"]["parts"] = parts
    return JobDocument.model_validate(base | {"route": {"setups": made}})


def _told(document: JobDocument) -> list[list[tuple[str, int, object]]]:
    """Of every setup what it holds, by name, and how."""
    parts = document.job.parts
    return [
        [
            (
                parts[held.part].name,
                parts[held.part].ops[held.op].number,
                held.station or setup.holds[0].station,
            )
            for held in setup.holds
        ]
        for setup in document.route.setups
    ]


def _placed_still(before: JobDocument, after: JobDocument) -> bool:
    """Stations a person placed stay exactly where what is held stayed."""
    kept = {
        str([item[:2] for item in held])
        for held, setup in zip(_told(before), before.route.setups, strict=True)
        if setup.arrangement.own
    }
    return all(
        setup.arrangement.own == (str([item[:2] for item in held]) in kept)
        for held, setup in zip(_told(after), after.route.setups, strict=True)
    )


@settings(max_examples=80)
@given(_kits(), st.data())
def test_what_is_left_names_what_it_named(document, data):
    parts = document.job.parts
    part = data.draw(st.integers(0, len(parts) - 1))
    op = data.draw(st.none() | st.integers(0, len(parts[part].ops) - 1))
    name = parts[part].name
    number = None if op is None else parts[part].ops[op].number
    if (len(parts) if op is None else len(parts[part].ops)) == 1:
        with pytest.raises(OutOfRange, match="the last one stays"):
            without_part(document, part) if op is None else without_op(document, part, op)
        return
    left = without_part(document, part) if op is None else without_op(document, part, op)

    def stays(item) -> bool:
        return item[0] != name or (number is not None and item[1] != number)

    expected = [[item for item in held if stays(item)] for held in _told(document)]
    expected = [held for held in expected if held]
    if expected:
        assert _told(left) == expected
        assert _placed_still(document, left)
    else:  # something is always held, as the first was
        ((item,),) = _told(left)
        assert item[2] == document.route.setups[0].holds[0].station


@settings(max_examples=80)
@given(_kits(), st.data())
def test_an_op_is_held_where_it_is_put_and_all_others_as_they_were(document, data):
    parts, count = document.job.parts, len(document.route.setups)
    part = data.draw(st.integers(0, len(parts) - 1))
    op = data.draw(st.integers(0, len(parts[part].ops) - 1))
    number = data.draw(st.none() | st.integers(1, count + 1))
    mine = (parts[part].name, parts[part].ops[op].number)
    before = _told(document)
    alone = before == [[item for item in before[0] if item[:2] == mine]]
    if alone and number is None:
        with pytest.raises(OutOfRange, match="holds one op at least"):
            held_in(document, part, op, number)
        return
    after = _told(held_in(document, part, op, number))
    was = next((k for k, held in enumerate(before) if any(i[:2] == mine for i in held)), None)
    now = [k for k, held in enumerate(after) if any(item[:2] == mine for item in held)]
    assert len(now) == (number is not None)
    others = [[item for item in held if item[:2] != mine] for held in before]
    assert [
        [i for i in held if i[:2] != mine] for held in after if held[0][:2] != mine or held[1:]
    ] == [held for held in others if held]
    if number is not None and was is not None and number > count:  # held as it was, by itself
        assert after[now[0]] == [item for item in before[was] if item[:2] == mine]


def test_a_setup_goes_but_not_the_last_and_a_form_takes_along_what_both_have():
    one = starting_job("Block", 40)
    part = one.job.parts[0]
    two_ops = part.model_copy(
        update={"ops": [part.ops[0], part.ops[0].model_copy(update={"number": 20})]}
    )
    two = one.model_copy(update={"job": one.job.model_copy(update={"parts": [two_ops]})})
    with pytest.raises(OutOfRange, match="only setup"):
        without_setup(two, 1)
    apart = held_in(two, 0, 1, 2)
    assert [len(setup.holds) for setup in apart.route.setups] == [1, 1]
    assert _told(without_setup(apart, 1)) == _told(apart)[1:]

    block = with_form(two, 1, "tombstone", None)
    (setup,) = block.route.setups
    assert setup.form.kind == "tombstone"
    assert setup.form.plate == one.route.setups[0].form.plate
    heavy = setup.model_copy(update={"form": setup.form.model_copy(update={"body_kg": 90.0})})
    block = block.model_copy(update={"route": block.route.model_copy(update={"setups": [heavy]})})
    bar = with_form(block, 1, "bar", None).route.setups[0].form
    assert (bar.kind, bar.body_kg, bar.faces) == ("bar", 90.0, setup.form.faces)
    vises = with_form(block, 1, "vises", None)
    assert with_form(vises, 1, "plate", PLATE).route.setups[0].form.plate == PLATE
    with pytest.raises(OutOfRange, match="one of"):
        with_form(block, 1, "hammock", None)


def test_a_scheme_gives_each_of_its_ops_a_setup_of_its_form_and_leaves_other_parts_alone():
    one = starting_job("Block", 40)
    part = one.job.parts[0].model_dump(mode="json")
    part["features"] = [
        part["features"][0] | {"name": "Top bore", "directions": ["+Z"]},
        part["features"][0] | {"name": "Under", "directions": ["-Z"]},
    ]
    given = one.model_dump(mode="json", exclude={"result"})
    given["job"]["parts"] = [part, part | {"name": "Cap"}]
    given["route"]["setups"][0]["holds"].append({"part": 1, "op": 0})
    document = JobDocument.model_validate(given)
    scheme = next(
        item for item in setups(document.job.parts[0], 40, 30, 20) if item.form == "vises"
    )
    assert len(scheme.ops) == 2
    taken = with_scheme(document, 0, scheme, PLATE)
    told = [[item[:2] for item in held] for held in _told(taken)]
    assert told == [[("Cap", 10)], [("Block", 10)], [("Block", 20)]]
    assert [setup.form.kind for setup in taken.route.setups] == ["plate", "vises", "vises"]
    station = one.route.setups[0].holds[0].station
    assert all(item[2] == station for held in _told(taken) for item in held)
    assert taken.job.parts[0].features == scheme.features
