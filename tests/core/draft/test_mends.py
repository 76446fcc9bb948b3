"""What is offered where an op is not held was tried, and holds when it is planned."""

from __future__ import annotations

import json

import pytest

from tests.core.forms.test_vises import _document
from tests.core.solids import overlaps, untouched
from tests.core.workpiece.test_states import _cut
from wedgecraft.core.draft.mends import mends, rest_held
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument
from wedgecraft.demo import drafts
from wedgecraft.demo.by_hand import by_hand
from wedgecraft.demo.shop import demo_documents


def _heavy() -> JobDocument:
    """5 mm of stock under the block, and a first cut that pulls it out of there."""
    given = _document().model_dump(mode="json")
    part = given["job"]["parts"][0]
    part["stock"]["z"]["low_mm"] = 5.5
    part["ops"][0]["cuts"] = [
        {**part["ops"][0]["cuts"][1], "radial_width_mm": 5, "feed_per_tooth_mm": 0.2}
    ]
    del part["ops"][1:], given["route"]["setups"][1:]
    given["route"]["setups"][0]["form"]["depth_mm"] = 4
    return JobDocument.model_validate(given)


def _undercut() -> JobDocument:
    """A slot into both sides that jaws hold, across the block and below their top."""
    given = _document().model_dump(mode="json")
    slot = _cut("slot", "T4 slot", 6, 17, 0, at=[(-8, 15), (48, 15)])
    part = given["job"]["parts"][0]
    part["ops"][0]["cuts"].append(slot.model_dump(mode="json"))
    del part["ops"][1:], given["route"]["setups"][1:]
    return JobDocument.model_validate(given)


@pytest.mark.parametrize(
    ("document", "words"),
    [
        (_document(torque_nm=1), ["between hard jaws"]),
        (_heavy(), ["of stock under the part"]),
        (_undercut(), ["jaws"]),
    ],
)
def test_what_is_offered_holds_when_it_is_planned(document, words, stores):
    before = plan_route(document, alternatives=False).result.setups[0].result
    assert not before.feasible
    found = mends(document, 1, stores)
    assert found
    said = " | ".join(item.what for item in found)
    assert all(word in said for word in words), said
    for item in found:
        planned = plan_route(item.document, alternatives=False).result
        first = planned.setups[0].result
        assert first.feasible, (item.what, first.reasons)
        request = setup_request(item.document, 1)
        assert overlaps(request, first.designs[0]) == []
        assert untouched(request) == []
        # everything else stays as it was set
        assert item.document.job.quantity == document.job.quantity
        assert item.document.job.rules == document.job.rules
        assert len(item.document.route.setups) >= len(document.route.setups)


def test_a_setup_is_proposed_for_every_op_that_none_holds(stores):
    document = _document()
    alone = document.model_copy(
        update={"route": document.route.model_copy(update={"setups": document.route.setups[1:]})}
    )
    found = rest_held(alone, stores)
    assert [held.op for setup in found.route.setups for held in setup.holds] == [0, 1]
    assert found.route.setups[1] == document.route.setups[1]
    assert {item.pointer.split("/")[3] for item in found.proposals} == {"0"}
    assert plan_route(found, alternatives=False).result.complete_a_cycle
    with pytest.raises(OutOfRange, match="every op with cuts is held"):
        rest_held(found, stores)


def test_what_the_demo_keeps_is_what_the_planner_proposes():
    """Proposed anew from the file, a typed shape and what a person set, byte for byte."""
    kept = json.loads(drafts._KEPT.read_text())
    anew = json.loads(json.dumps(drafts.propose([item for item, _ in by_hand()], ["Vane yoke"])))
    assert anew["rest"] == kept["rest"]
    assert len(anew["drafted"]) == 3
    assert anew["drafted"].items() <= kept["drafted"].items()
    # all of them hold every op, and say where a person left them alone
    for document, _ in demo_documents():
        first = drafts.first_draft(document.job.name)
        ops = [(p, k) for p, part in enumerate(first.job.parts) for k, _ in enumerate(part.ops)]
        held = [(hold.part, hold.op) for setup in first.route.setups for hold in setup.holds]
        assert sorted(held) == ops
        assert bool(document.proposals) != (document.job.name == "Manifold block, by the pallet")
