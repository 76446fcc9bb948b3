"""What the strip of steps says: green only where a limit of that step was judged, and refusals in
the words of the trade.
"""

from __future__ import annotations

import pytest

from tests.core.plan.test_job import _with, answer, base  # noqa: F401  (fixtures)
from wedgecraft.core.explain.steps import STEPS, changed, limit_step, step_states
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.field_words import sentence, worded
from wedgecraft.core.ground.limits import Figure, limit
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of


def _planned(request: PlanRequest) -> PlanResult:
    """As a job of one setup."""
    document = JobDocument.model_validate(request.model_dump())
    return plan_route(document, alternatives=False).result.setups[0].result


def _by_step(result) -> dict[str, str]:
    return {item.step: item.state for item in step_states(result, doubts=[])}


def test_what_was_never_judged_is_never_green(base, answer):  # noqa: F811
    assert set(_by_step(None).values()) == {"not checked"}
    assert {item.state for item in changed()} == {"changed"}
    states = _by_step(answer)
    assert list(states) == list(STEPS)
    assert states["part"] == "not checked"  # nothing about the part alone is judged
    assert states["hold"] in ("within", "close")
    loose = _planned(_with(base, station__clamp__torque_nm=1))
    states = _by_step(loose)
    assert (loose.feasible, states["hold"]) == (False, "over")
    assert {states[step] for step in STEPS if step != "hold"} == {"not checked"}
    assert next(item for item in step_states(loose) if item.step == "hold").fields == [
        "route.setups.0.holds.0.station.clamp.torque_nm"
    ]
    unjudged = base.model_copy(
        update={"parts": [part.model_copy(update={"features": []}) for part in base.parts]}
    )
    assert _by_step(_planned(unjudged))["locate"] == "not checked"


def test_cuts_are_green_only_where_they_make_the_part(base):  # noqa: F811
    """A cut 3 mm too deep, one that leaves half the part, and a planner that did not look."""
    document = JobDocument.model_validate(base.model_dump())
    result = plan_route(document, alternatives=False).result
    states = {
        known: {item.step: item for item in step_states(result.setups[0].result, doubts=doubts)}
        for known, doubts in (("not", None), ("found", result.doubts), ("none", []))
    }
    assert states["not"]["cuts"].state == "not checked"
    assert states["none"]["cuts"].state == "within"
    left = [item for item in result.doubts if item.wrong]
    assert left, "the one contour of this job leaves the blank's top and floor"
    assert states["found"]["cuts"].state == "over"
    assert left[0].says in states["found"]["cuts"].why
    assert set(states["found"]["cuts"].fields) >= {item.field for item in left}
    assert {key: item for key, item in states["found"].items() if key != "cuts"} == {
        key: item for key, item in states["none"].items() if key != "cuts"
    }


@pytest.mark.parametrize(
    ("name", "step"),
    [
        ("pressure", "hold"),
        ("squeeze", "hold"),
        ("screw", "hold"),
        ("hold_factor", "hold"),
        ("hold_factor_1", "hold"),
        ("tolerance", "locate"),
        ("power", "cuts"),
        ("spindle_torque", "cuts"),
        ("load", "method"),
        ("travel", "method"),
        ("offsets", "method"),
        ("face_room", "layout"),
        ("vises", "method"),
    ],
)
def test_every_limit_of_the_ledger_marks_its_step(answer, name, step):  # noqa: F811
    """Each in turn is exceeded by half: 1,258 of 770 MPa once left every mark green."""
    design = answer.designs[0]
    assert len(design.limits) >= 8
    assert all(limit_step(item.id) for item in design.limits)  # none marks nothing
    figure = Figure(id=name, label="Something", value=150, formula="", source="")
    worse = design.model_copy(update={"limits": [*design.limits, limit(figure, 100, "a rule")]})
    found = next(
        item
        for item in step_states(answer.model_copy(update={"designs": [worse]}))
        if item.step == step
    )
    assert (found.state, found.why) == ("over", "Something: 150 % of the limit")


@pytest.mark.parametrize(
    ("field", "value", "allowed", "said"),
    [
        (
            "station.clamp.torque_nm",
            60.0,
            "an M8 screw of class 8.8 is rated for 28 N·m; take a larger screw",
            (
                "clamp: torque of 60 N·m is not possible",
                "an M8 screw of class 8.8 is rated for 28 N·m",
                "take a larger screw",
            ),
        ),
        (
            "station.clamp.toe_height_mm",
            12.0,
            "at most the height of clamp and part, 10 mm",
            (
                "clamp: height it presses at of 12 mm is not possible",
                "",
                "at most the height of clamp and part, 10 mm",
            ),
        ),
        (
            "parts.0.ops.0.cuts.0.axial_depth_mm",
            30,
            "at most the cutting length, 22 mm",
            (
                "{cut}: depth of cut of 30 mm is not possible",
                "",
                "at most the cutting length, 22 mm",
            ),
        ),
        (
            "station.sharing.row",
            3,
            "two: the house rule is strict",
            ("jaw row: parts in a row of 3 is not possible", "the house rule is strict", "two"),
        ),
        (
            "station.locating.kind",
            "V",
            "stops: only a round part finds it",
            ("locating: kind “V” is not possible", "only a round part finds it", "stops"),
        ),
    ],
)
def test_a_refusal_names_the_field_its_value_and_unit_and_what_would_work(
    base: PlanRequest,  # noqa: F811
    field,
    value,
    allowed,
    said,
):
    cut = views_of(base)[0].op.cuts[0].name
    assert worded(OutOfRange(field, value, allowed), base) == tuple(
        part.format(cut=cut) for part in said
    )
    assert sentence(OutOfRange(field, value, allowed), base)[0].isupper()
