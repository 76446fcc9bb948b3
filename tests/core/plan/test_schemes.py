"""The fewest ops of a part on each form: against parts solved by hand and every sequence tried."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.workpiece.test_parts import _feature, _part
from wedgecraft.core.plan.schemes import _clampings, fewest, setups
from wedgecraft.core.records.feature import DIRECTIONS, Feature, opposite
from wedgecraft.core.records.part import Part
from wedgecraft.core.workpiece.facts import feature_problems


def _count(features: list[Feature], reach: str, stock_on: set[str] = frozenset()) -> int | None:
    chain, left = fewest(features, _clampings(reach), set(stock_on))
    return None if left else len(chain)


SIDES = [_feature(f"hole {side}", side) for side in DIRECTIONS]


@pytest.mark.parametrize(
    ("features", "vise", "rotary", "five_axis"),
    [
        ([_feature("a"), _feature("b", "+Z", "-Z")], 1, 1, 1),
        # Common practice, no source: rotary or five-axis access to the sides of a part turns five
        # setups into two.
        ([SIDES[0], *SIDES[2:]], 5, 2, 2),
        (SIDES, 6, 2, 2),
        ([_feature("top", "+Z"), _feature("under", "-Z")], 2, 1, 1),
        ([_feature("through", "+X", "-X"), _feature("top", "+Z")], 2, 1, 1),
        # A face milled while sitting on it, or clamped over it, cannot be.
        ([_feature("floor", "+X", "-X", takes=["-Z"])], 1, 1, 1),
    ],
)
def test_fewest_setups_of_parts_solved_by_hand(features, vise, rotary, five_axis):
    assert _count(features, "up") == vise
    assert _count(features, "up and two sides") == rotary
    assert _count(features, "up and four sides") == five_axis


def test_taking_every_side_needs_stock_to_hold_and_a_later_datum_waits():
    round_about = _feature("outside", takes=["+X", "-X", "+Y", "-Y"])
    assert _count([round_about], "up") is None
    assert _count([round_about], "up", {"-Z"}) == 1
    under = _feature("underside", "-Z", takes=["-Z"])
    assert _count([round_about, under], "up", {"-Z"}) == 2
    assert (
        _count([under, round_about], "up", {"+Z"}) is None
    )  # the stock that could be held is on the wrong side
    late = _feature("bore", "+Z", measured_from="face", from_face="-Z")
    chain, left = fewest([late, under], _clampings("up"), set())
    assert left == []
    assert [clamping.up for clamping, _ in chain] == ["-Z", "+Z"]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.sets(st.sampled_from(DIRECTIONS), min_size=1, max_size=3), min_size=1, max_size=5),
    st.sampled_from(["up", "up and two sides"]),
)
def test_fewest_against_trying_every_sequence(directions, reach):
    """The slow way: every choice of clampings, shortest first; features without faces or datums, so
    only the sides matter.
    """
    features = [_feature(f"f{k}", *sorted(sides)) for k, sides in enumerate(directions)]
    reached = sorted({frozenset(clamping.reached) for clamping in _clampings(reach)}, key=sorted)
    expected = next(
        length
        for length in range(1, 7)
        if any(
            all(any(set(item.directions) & one for one in choice) for item in features)
            for choice in itertools.combinations(reached, length)
        )
    )
    assert _count(features, reach) == expected


def test_schemes_cost_their_ops_and_what_is_picked_fits_the_part():
    part = _part(features=[item.model_dump() for item in SIDES[:3]])
    schemes = setups(part, 200, 45, 30)
    assert [scheme.minutes for scheme in schemes] == sorted(scheme.minutes for scheme in schemes)
    for scheme in schemes:
        assert scheme.minutes == pytest.approx(len(scheme.ops) * (45 + 200 * 30 / 60))
        assert sorted(name for op in scheme.ops for name in op.features) == sorted(
            item.name for item in part.features
        )
        again = Part.model_validate(
            {**part.model_dump(), "ops": scheme.picked, "features": scheme.features}
        )
        assert feature_problems(again.features, again.ops) == []
        for op in scheme.ops:
            assert op.sits_on == opposite(op.up)
            assert not set(op.clamp_on) & {op.up, op.sits_on}
            assert op.locate_on[0] == op.sits_on
    vise = next(scheme for scheme in schemes if scheme.form == "vises")
    assert vise.ops[0].up == "+Z"
    assert (
        vise.picked[0].cuts == part.ops[0].cuts
    )  # op 10 still stands the same way up and keeps its cuts
