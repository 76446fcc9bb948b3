"""Kits of several kinds: in their numbers, round what stands already, within a bound that holds;
small ones against every sharing there is.
"""

from __future__ import annotations

from itertools import product

import pytest

from tests.core.independent import faults
from tests.core.layout.test_layout import _optimum, _ring
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest, Placement


def _kit(sizes, face, per_set, faces=1, turns=(0, 90), **more) -> LayoutRequest:
    return LayoutRequest.model_validate(
        {
            "faces": [{"name": f"F{k}", "outer": _ring(*face)} for k in range(faces)],
            "kinds": [
                {
                    "name": f"k{n}",
                    "turns": list(turns),
                    "per_set": each,
                    "layers": [{"role": "body", "name": "b", "outer": _ring(*size)}],
                }
                for n, (size, each) in enumerate(zip(sizes, per_set, strict=True))
            ],
        }
        | more
    )


def _counts(request, result) -> list[int]:
    return [
        sum(item.kind == kind for item in result.placements) for kind in range(len(request.kinds))
    ]


@pytest.mark.parametrize("per_set", [(1, 1, 1), (1, 2, 4), (3, 1, 1)])
def test_three_kinds_come_in_the_numbers_of_the_kit(per_set):
    request = _kit([(40, 30), (22, 22), (12, 18)], (200, 160), per_set)
    result = layout(request)
    assert faults(request, result) == []
    assert _counts(request, result) == [result.sets * each for each in per_set]
    assert 0 < result.by_hand <= result.sets <= result.bound
    area = sum(
        each * w * d for each, (w, d) in zip(per_set, [(40, 30), (22, 22), (12, 18)], strict=True)
    )
    assert result.bound <= 200 * 160 // area


def test_what_stands_already_counts_and_stays():
    stands = [
        Placement(face=0, kind=1, x_mm=90, y_mm=70, turn=0, fixed=True),
        Placement(face=0, kind=0, x_mm=5, y_mm=5, turn=0),
    ]
    request = _kit([(40, 30), (22, 22)], (200, 160), (1, 1)).model_copy(update={"fixed": stands})
    result = layout(request)
    assert faults(request, result) == []
    kept = {(item.kind, item.x_mm, item.y_mm) for item in result.placements if item.fixed}
    assert kept == {(1, 90.0, 70.0), (0, 5.0, 5.0)}
    counts = _counts(request, result)
    assert result.sets == min(counts)
    assert max(counts) <= max(result.sets, 1)


def test_one_kind_that_goes_in_pairs_is_counted_in_pairs():
    request = _kit([(30, 20)], (100, 90), (2,))
    single = layout(_kit([(30, 20)], (100, 90), (1,)))
    pairs = layout(request)
    assert pairs.sets == single.sets // 2
    assert pairs.count == 2 * pairs.sets
    assert pairs.bound >= pairs.sets


def test_no_more_sets_than_wanted_and_none_where_one_kind_has_no_place():
    request = _kit([(40, 30), (22, 22)], (200, 160), (1, 1)).model_copy(update={"most": 3})
    result = layout(request)
    assert (result.sets, result.bound, result.proven) == (3, 3, True)
    assert _counts(request, result) == [3, 3]
    hopeless = layout(_kit([(40, 30), (400, 22)], (200, 160), (1, 1)))
    assert (hopeless.sets, hopeless.count) == (0, 0)


@pytest.mark.parametrize(("small", "large"), [((1, 1), (2, 2)), ((2, 1), (3, 2)), ((1, 1), (3, 1))])
def test_small_kits_against_every_sharing_of_the_rows(small, large):
    """A face of whole units cut across at every height: the best of all such sharings is never
    missed by more than one set.
    """
    width, depth = 6, 5
    request = _kit([large, small], (width, depth), (1, 1))
    result = layout(request)
    assert faults(request, result) == []
    best = 0
    for cut, order in product(range(depth + 1), (0, 1)):
        parts = (
            [(cut, large), (depth - cut, small)] if order else [(cut, small), (depth - cut, large)]
        )
        counts = [
            _optimum(width, high, max(size), min(size)) if high else 0 for high, size in parts
        ]
        best = max(best, min(counts))
    assert best <= result.bound
    assert result.sets >= best - 1
