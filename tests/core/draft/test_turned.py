"""A part put in at another angle: its cuts stay where they are on it, whatever they are."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.make.planned import planned
from wedgecraft.core.draft.turned import op_turned
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.pose import stands
from wedgecraft.core.workpiece.states import workpiece


def _left(document: JobDocument, part: int) -> list:
    """What each op leaves, in the part's own frame."""
    worked = workpiece(document.job.parts[part])
    return [state.pose.back(state.after) for state in worked.ops]


@pytest.mark.parametrize("name", ["Gland plate", "Vane yoke", "Anchor lug"])
@pytest.mark.parametrize("angle", [90.0, 180.0, 33.0, -71.5])
def test_every_op_leaves_the_same_part_however_it_is_turned(name, angle):
    """Solid against solid: faces, contours, pockets by a ring, holes at places."""
    document = planned(name)
    part = document.job.parts[0]
    before = _left(document, 0)
    for place, op in enumerate(part.ops):
        turned = op_turned(part, op, (op.turn_deg + angle) % 360)
        job = document.job.with_op(0, place, turned)
        after = _left(document.model_copy(update={"job": job}), 0)
        for was, now in zip(before, after, strict=True):
            apart = (was - now).volume_mm3 + (now - was).volume_mm3
            assert apart < 2e-4 * was.volume_mm3, (op.number, angle)


@settings(max_examples=30, deadline=None)
@given(st.floats(-359, 359), st.floats(-359, 359))
def test_turning_twice_is_turning_once(first, second):
    part = planned("Anchor lug").job.parts[0]
    op = part.ops[0]
    once = op_turned(part, op, second)
    twice = op_turned(part, op_turned(part, op, first), second)
    assert once.turn_deg == twice.turn_deg
    for one, other in zip(once.cuts, twice.cuts, strict=True):
        for a, b in zip(one.at, other.at, strict=True):
            assert math.dist(a, b) < 1e-4


def test_places_of_a_quarter_turn_by_hand():
    """Counter-clockwise by 90°: (x, y) goes to (depth - y, x) of a part that deep."""
    part = planned("Float-arm hub").job.parts[0]
    op = next(op for op in part.ops if any(cut.at for cut in op.cuts) and op.up == "+Z")
    stood = stands(finished_body(part), op.up, op.turn_deg)[1]
    deep = stood.box[4] - stood.box[1]
    turned = op_turned(part, op, (op.turn_deg + 90) % 360)
    for was, now in zip(op.cuts, turned.cuts, strict=True):
        for (x, y), found in zip(was.at, now.at, strict=True):
            assert found == pytest.approx((deep - y, x), abs=1e-3)
