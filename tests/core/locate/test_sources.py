"""Each contributor by itself, in closed form: index and radius, pallets, faces, datums, distances
on stations that are turned.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.plan.test_job import _with
from wedgecraft.core.locate.judge import along, ranges, sampled, used
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.scaling import scaled, share_of
from wedgecraft.core.locate.sources import Stack
from wedgecraft.core.locate.verdicts import judged
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import STRATEGIES
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import named, starting_request

pytestmark = pytest.mark.usefixtures("as_drawn")

_SECOND = math.pi / 180 / 3600


def _block(**changes) -> PlanRequest:
    base = starting_request("Block", 100)
    changes = {"block__faces": 4, "block__across_mm": 200} | changes
    return _with(
        base,
        machine=named("machine", "Horizontal, 400 mm pallet").model_dump(),
        plate__thickness_mm=30,
        datum__x_mm=200,
        datum__y_mm=175,
        **changes,
    )


def _stack(
    request: PlanRequest, feature: int = 0, corner=(60.0, 80.0), turn: int = 0
) -> tuple[Stack, np.ndarray | None]:
    locating = ready(views_of(request)[0]).locating
    return locating.stack(locating.checks[feature], np.array([corner]), [turn])


def _adds(request: PlanRequest, **where) -> dict[str, np.ndarray]:
    stack, ways = _stack(request, **where)
    return {name: values[0] for name, values in ranges(stack, ways).items()}


def _distance(request: PlanRequest, **feature) -> PlanRequest:
    known = {
        "name": "Depth",
        "kind": "distance",
        "x_mm": 30,
        "y_mm": 20,
        "z_mm": 25,
        "tolerance_mm": 0.2,
        "takes": ["+Z"],
    }
    return _with(request, parts__0__features=[known | feature])


@pytest.mark.parametrize(("axis", "along_face"), [("upright", 0), ("lying", 1)])
def test_the_index_moves_a_bore_by_its_angle_times_its_distance_from_the_axis(axis, along_face):
    request = _block(block__axis=axis, machine__index_arcsec=6)
    radius = (
        100 + 30 + request.part.height_mm / 2
    )  # half the block, the plate on it, half way up the part
    moved = _adds(request)["rotary index"]
    assert moved[along_face] == pytest.approx(6 * _SECOND * radius)
    assert moved[1 - along_face] == 0
    # A height goes by how far the place stands from the axis, across it.
    up = _distance(request)
    across = (60 + 30 - 200) if axis == "upright" else (80 + 20 - 175)
    assert _adds(up)["rotary index"][0] == pytest.approx(6 * _SECOND * abs(across))
    over_the_axis = (
        170.0,
        155.0,
    )  # the feature of the station then stands over the axis of either block
    assert _adds(up, corner=over_the_axis)["rotary index"][0] == pytest.approx(0, abs=1e-12)


def test_a_block_without_a_size_is_taken_for_a_regular_prism_of_its_plates():
    request = _block(block__across_mm=0, block__faces=6, machine__index_arcsec=10)
    apothem = 400 / (2 * math.tan(math.pi / 6))
    moved = _adds(request)["rotary index"][0]
    assert moved == pytest.approx(10 * _SECOND * (apothem + 30 + request.part.height_mm / 2))


def test_each_datum_leaves_out_what_it_measures_by_itself():
    """Per face: how the faces stand, and all of the index but its repeatability. Per station: its
    own place, and most of the distance.
    """
    request = _block(machine__index_arcsec=6, machine__index_repeat_arcsec=2)
    found = {datum: _adds(_with(request, rules__datum=datum)) for datum in STRATEGIES}
    assert "faces to one another" in found["one for all"]
    assert "faces to one another" not in found["one per face"]
    assert found["one per face"]["rotary index"] == pytest.approx(
        found["one for all"]["rotary index"] / 3
    )
    assert "station place" in found["one per face"]
    assert "station place" not in found["one per station"]
    growth = (
        request.plate.material.expansion_per_k - request.machine.scale_expansion_per_k
    ) * request.accuracy.temperature_k
    hot = f"temperature, ±{request.accuracy.temperature_k:g} K"
    assert found["one per station"][hot] == pytest.approx(
        growth * np.array([30, 20])
    )  # from its own corner
    assert found["one for all"][hot] == pytest.approx(
        growth * np.abs(np.array([60 + 30 - 200, 80 + 20 - 175]))
    )
    shares = [
        share_of(*_stack(_with(request, rules__datum=datum)), 0.1, "probable")[0]
        for datum in STRATEGIES
    ]
    assert shares == sorted(shares, reverse=True)


def test_pallets_and_jaws_that_are_bolted_on_again_count_where_there_are_any():
    request = _block()
    assert _adds(request)["pallet repeatability"] == pytest.approx([0.005, 0.005])
    assert "pallet repeatability" not in _adds(starting_request("Block", 1))
    loose = _adds(_with(request, accuracy__rebolted_mm=0.01))["bolted on again"]
    assert loose == pytest.approx(
        [0.01, 0.01]
    )  # an even spread counts to its ends, and no farther than they are
    assert "bolted on again" not in _adds(request)


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_a_distance_turns_with_its_station(turn):
    """Along the part's X: on a station a quarter round that is along the plate's Y, and grows with
    the distance there.
    """
    base = starting_request("Block", 10)
    request = _distance(base, takes=[], x_mm=50, y_mm=5, z_mm=12)
    adds = _adds(request, corner=(150.0, 90.0), turn=turn)
    growth = (
        base.plate.material.expansion_per_k - base.machine.scale_expansion_per_k
    ) * base.accuracy.temperature_k
    place = {0: 150 + 50, 90: 90 + 50, 180: 150 - 50, 270: 90 - 50}[turn]
    assert adds[f"temperature, ±{base.accuracy.temperature_k:g} K"][0] == pytest.approx(
        growth * place
    )
    machine = base.machine
    assert adds["machine positioning"][0] == pytest.approx(
        machine.positioning_mm + machine.positioning_per_m_mm * place / 1000
    )
    assert adds["station place"][0] == base.accuracy.station_place_mm
    assert "height of plate and rests" not in adds or adds["height of plate and rests"][0] == 0


def test_both_parts_of_a_double_wedge_are_judged_where_they_are():
    """The second part is turned half round: the same station twice, once from each side, when the
    datum is in the wedge's middle.
    """
    base = starting_request("Block", 10)
    request = _with(
        base,
        station__sharing={"how": "double wedge between two"},
        parts__0__features=[{"name": "Bore", "x_mm": 12, "y_mm": 9, "tolerance_mm": 0.1}],
    )
    item = ready(views_of(request)[0])
    first, second = item.station.members
    middle = ((second.x_mm + first.x_mm) / 2, (second.y_mm + first.y_mm) / 2)
    shares = [
        item.locating.shares(
            item.locating.checks[0], np.array([[-middle[0], -middle[1]]]), [0], number
        )[0]
        for number in (0, 1)
    ]
    assert shares[0] == pytest.approx(shares[1])
    worst = judged(item.locating, np.array([[150.0, 150.0]]), [0])[0]
    assert worst.member(0) == 1  # farther from the datum
    assert worst.share[0] >= shares[0]


@settings(max_examples=20, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.floats(-0.02, 0.02), st.floats(-0.02, 0.02), st.sampled_from(["uniform", "fixed"])
        ),
        min_size=1,
        max_size=7,
    ),
    st.booleans(),
)
def test_without_a_tail_no_part_passes_the_worst_case_and_less_of_a_source_is_never_worse(
    sources, zone
):
    moves = np.array([[(x, y, 0.0) for x, y, _ in sources]])
    spreads = tuple(kind for _, _, kind in sources)
    names = tuple(f"source {k}" for k in range(len(sources)))
    stack, ways = Stack(names, spreads, names, moves), None if zone else np.array([[0.6, 0.8, 0.0]])
    worst, probable = used(stack, ways)
    assert probable[0] <= worst[0] + 1e-12
    if worst[0] > 1e-9:
        drawn = sampled([(stack, ways, float(worst[0]) * (1 + 1e-4))], 20_000)[0]
        assert drawn.out_share[0] == 0
        assert drawn.within_mm[0] <= worst[0] * (1 + 1e-4)
    varying = [k for k, kind in enumerate(spreads) if kind == "uniform"]
    if varying:
        less = used(scaled(stack, (names[varying[0]],), 0.5), ways)
        assert less[0][0] <= worst[0] + 1e-12
        assert less[1][0] <= probable[0] + 1e-12
    parts = along(stack, ways)
    assert parts.shape == (1, len(sources), 2 if zone else 1)
