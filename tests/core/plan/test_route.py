"""The job document: old ones come over whole, every op is held once, and a route is counted by its
slowest and smallest setup.
"""

from __future__ import annotations

import json
import random
from pathlib import Path

import pytest

from tests.core.plan.test_any_plan import _request
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.setup_view import address, setup_request
from wedgecraft.core.records.form import FORMS
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.shop.picks import named, starting_request
from wedgecraft.demo.by_hand import demo_requests


def _document(request: PlanRequest) -> JobDocument:
    return JobDocument.model_validate(request.model_dump(mode="json"))


def _corpus() -> list[PlanRequest]:
    odd = [_request(random.Random(seed)) for seed in range(60)]
    return [*(request for request, _ in demo_requests()), *odd]


def _seen(request: PlanRequest) -> list[dict]:
    """What each planned op of a request comes to, ops elsewhere that nobody said how to hold left
    out, and with the form that version 2 stored and nobody read.
    """
    found = []
    for alone in request.alone:
        document = alone.model_dump(mode="json")
        document["elsewhere"] = [item for item in document["elsewhere"] if item["station"]]
        document["planned"].pop("station")
        found.append(document)
    return found


def test_every_request_of_version_two_comes_over_whole_and_back():
    for request in _corpus():
        document = _document(request)
        assert _seen(setup_request(document, 1)) == _seen(request)
        again = JobDocument.model_validate(json.loads(document.model_dump_json()))
        assert again == document
        assert len(document.route.setups) == 1 + sum(
            item.station is not None for item in request.elsewhere
        )


def test_version_one_and_plan_documents_come_over_too():
    old = json.loads((Path(__file__).parents[1] / "plan_request_v1.json").read_text())
    document = JobDocument.model_validate(old)
    assert document.route.setups[0].form.kind == "plate"
    whole = {"format": "wedgecraft plan", "version": 2, "request": old, "result": None}
    assert JobDocument.model_validate(whole) == document


@pytest.mark.parametrize("seed", [None, 3, 11, 23])
def test_an_old_document_opens_is_planned_exported_and_opens_again_the_same(seed):
    """As each older version wrote it: a request of version 1, requests and plan documents of 2."""
    if seed is None:
        old = json.loads((Path(__file__).parents[1] / "plan_request_v1.json").read_text())
    else:
        old = _request(random.Random(seed)).model_dump(mode="json")
        for part in old["parts"]:  # stored by version 2, and read by nothing
            for op in part["ops"]:
                op["form"] = "fixture plate"
        if seed % 2:
            old = {"format": "wedgecraft plan", "version": 2, "request": old, "result": None}
    planned = plan_route(JobDocument.model_validate(old), alternatives=False)
    exported = json.loads(planned.model_dump_json())
    again = JobDocument.model_validate(exported)
    assert again == planned
    assert plan_route(again, alternatives=False) == planned


def _at(document: dict, path: str):
    for key in path.split("."):
        document = document[int(key) if key.isdigit() else key]
    return document


def test_a_field_of_a_setup_is_found_again_in_the_document():
    """What is asked of a setup stands, with the same value, where its address says."""
    kit = next(request for request, _ in demo_requests() if request.several_parts)
    block = next(request for request, _ in demo_requests() if request.block.faces > 1)
    for request in (kit, block):
        document = _document(request)
        asked, whole = setup_request(document, 1), document.model_dump()
        setup = document.route.setups[0]
        for field in (
            "quantity",
            "parts.0.height_mm",
            "parts.0.ops.0.cuts.0.axial_depth_mm",
            "plate.width_mm",
            "machine.travel_x_mm",
            "datum.x_mm",
            "station.clamp.torque_nm",
            "rules.safety_factor",
            "accuracy.temperature_k",
            "arrangement.own",
            *(f"also.{k}.part" for k in range(len(request.also))),
            *(["block.across_mm", "block.faces"] if request.block.faces > 1 else []),
        ):
            assert _at(whole, address(setup, 1, field)) == _at(asked.model_dump(), field), field


def _two_setups(form: dict | None = None) -> JobDocument:
    """Op 10 on a plate; op 20, turned over, in another setup."""
    given = starting_request("Block", 300).model_dump(mode="json")
    given["plate"] |= {"width_mm": 240, "depth_mm": 200}
    given["parts"][0]["ops"].append(given["parts"][0]["ops"][0] | {"number": 20, "up": "-Z"})
    document = _document(PlanRequest.model_validate(given)).model_dump(mode="json")
    (first,) = document["route"]["setups"]
    second = json.loads(json.dumps(first))
    second["holds"][0]["op"] = 1
    second["machine"] = named("machine", "Vertical, 500 x 400 mm travel").model_dump(mode="json")
    second["form"]["plate"] |= {"width_mm": 200, "depth_mm": 160}
    if form is not None:
        second["form"] = form
    document["route"]["setups"].append(second)
    return JobDocument.model_validate(document)


def test_a_route_makes_what_its_smallest_setup_makes_and_a_day_is_its_slowest_machines():
    document = plan_route(_two_setups(), alternatives=False)
    result = document.result
    designs = [item.result.designs[0] for item in result.setups]
    assert result.feasible
    assert result.complete_a_cycle == min(design.count for design in designs)
    assert designs[result.limits - 1].count == result.complete_a_cycle
    part_seconds = [design.cycle.seconds / design.count for design in designs]
    assert result.a_day == pytest.approx(8 * 3600 / max(part_seconds))
    assert result.between == [
        "Setup 1 to 2: Block turned over, deburred where it stands, to Vertical, 500 x 400 mm"
        " travel."
    ]
    # On one machine both take their turn.
    one = _two_setups().model_dump(mode="json")
    one["route"]["setups"][1]["machine"] = one["route"]["setups"][0]["machine"]
    together = plan_route(JobDocument.model_validate(one), alternatives=False).result
    seconds = sum(
        item.result.designs[0].cycle.seconds / item.result.designs[0].count
        for item in together.setups
    )
    assert together.a_day == pytest.approx(8 * 3600 / seconds)
    # Each setup by itself is planned as before; read again, the document is the same.
    assert JobDocument.model_validate(json.loads(document.model_dump_json())) == document


def test_a_kit_that_takes_several_cycles_of_a_setup_is_counted_by_its_share():
    """Forty feet a kit, and fewer than that on a plate: no whole kit a cycle, and a kit's hours are
    its bodies' and its feet's, on two machines the longer.
    """
    given = _two_setups().model_dump(mode="json")
    body = given["job"]["parts"][0]
    body["ops"] = body["ops"][:1]
    given["job"]["parts"].append({**body, "name": "Foot", "per_kit": 40})
    given["route"]["setups"][1]["holds"][0] |= {"part": 1, "op": 0}
    result = plan_route(JobDocument.model_validate(given), alternatives=False).result
    bodies, feet = (item.result.designs[0] for item in result.setups)
    assert 1 < feet.count < 40
    assert (result.counted, result.complete_a_cycle, result.limits) == ("kits", 0, 2)
    hours = max(bodies.cycle.seconds / bodies.count, feet.cycle.seconds / feet.count * 40)
    assert result.a_day == pytest.approx(8 * 3600 / hours)
    told = next(figure for figure in result.figures if figure.id == "complete_a_cycle")
    assert [item.value for item in told.inputs] == [bodies.count, feet.count / 40]
    assert told.value == 0


def test_a_setup_counts_what_the_one_before_left_behind_with_the_errors_there():
    """A bore of op 20 measured from one of op 10, all faces raw: what op 10's locators, machine and
    plate do to it is what those of its own setup do.
    """
    given = _two_setups().model_dump(mode="json")
    part, (first, second) = given["job"]["parts"][0], given["route"]["setups"]
    drill = part["ops"][0]["cuts"][0] | {
        "kind": "drill",
        "at": [[30, 20]],
        "axial_depth_mm": 10,
        "tool": named("cutter", "Drill 5 mm").model_dump(mode="json"),
    }
    bore = part["features"][0] | {"tolerance_mm": 0.9}
    back = {"name": "Back bore", "op": 20, "directions": ["-Z"]}
    from_bore = {"measured_from": "feature", "from_feature": "Bore"}
    part["features"] = [bore, bore | back | from_bore]
    for op in part["ops"]:
        op["cuts"] = [drill]

    def back_bore() -> float:
        result = plan_route(JobDocument.model_validate(given), alternatives=False).result
        return result.setups[1].result.designs[0].stations[0].probable_mm

    as_it_is = back_bore()
    first["accuracy"]["locator_mm"] = 0.05
    assert back_bore() > as_it_is
    first["accuracy"] = second["accuracy"]
    assert back_bore() == as_it_is
    first["machine"]["positioning_mm"] = 0.04
    assert back_bore() > as_it_is


def test_a_form_that_cannot_be_planned_is_refused_by_name_and_never_planned_as_another():
    result = plan_route(_two_setups({"kind": "tiers"}), alternatives=False).result
    assert not result.feasible
    assert result.setups[0].result.feasible
    (reason,) = result.setups[1].result.reasons
    assert reason.field == "route.setups.1.form"
    assert reason.what == f"{FORMS['tiers'].said} cannot be planned yet"
    assert result.complete_a_cycle is None
    # So is what version 2 stored as "held in" and nothing read.
    given = starting_request("Block", 40).model_dump(mode="json")
    given["parts"][0]["ops"][0]["form"] = "plain vise"
    held = JobDocument.model_validate(given)
    assert (held.route.setups[0].form.kind, held.route.setups[0].form.jaws) == ("vises", "hard")
    assert "vises" in plan_route(held).result.setups[0].result.designs[0].form


def test_an_op_is_held_once_and_one_that_is_held_nowhere_is_said():
    twice = _two_setups().model_dump(mode="json")
    twice["route"]["setups"][1]["holds"][0]["op"] = 0
    with pytest.raises(ValueError, match="op 10 is held twice"):
        JobDocument.model_validate(twice)
    lone = _two_setups().model_dump(mode="json")
    del lone["route"]["setups"][1]
    result = plan_route(JobDocument.model_validate(lone), alternatives=False).result
    assert result.reasons[0].what == "Block, op 20 is held in no setup"
    assert result.complete_a_cycle is None
    refused = twice | {"route": {"setups": [twice["route"]["setups"][0]]}}
    refused["route"]["setups"][0]["form"] = {"kind": "hammock"}
    with pytest.raises(ValueError, match="hammock"):
        JobDocument.model_validate(refused)
