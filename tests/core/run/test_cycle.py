"""The cycle's time line against arithmetic of the trade (common practice, no source) and against
every move counted one by one.
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedgecraft.core.records.machine import offsets_free, offsets_used
from wedgecraft.core.run.cycle import OpTimes, cycle
from wedgecraft.core.shop.picks import named, starting_request

MACHINE = named("machine", "Horizontal, 400 mm pallet")
BARE = MACHINE.model_copy(update={"tool_change_s": 0, "index_s": 0, "pallet_change_s": 0})


def test_seconds_a_part_from_a_cycle_clock():
    """28 parts in 21 min 51 s is 46.8 s each."""
    found = cycle(
        [OpTimes([("all", "T1", 1311 / 28)], [28])],
        BARE.model_copy(update={"pallets": 0}),
        "by tool",
        0,
    )
    assert found.seconds == pytest.approx(21 * 60 + 51)
    assert found.seconds / 28 == pytest.approx(46.8, abs=0.05)


def test_loading_hides_behind_cutting_only_where_pallets_change():
    """7 min cut and 4 min change on one table: 11 min. 6 min cut with the change hidden: 6 min."""
    table = cycle(
        [OpTimes([("all", "T1", 420)], [1])], BARE.model_copy(update={"pallets": 0}), "by tool", 240
    )
    assert (table.seconds, table.hidden, table.segments[-1].what) == (660, False, "door open")
    pallets = cycle(
        [OpTimes([("all", "T1", 360)], [1])], BARE.model_copy(update={"pallets": 2}), "by tool", 240
    )
    assert (pallets.seconds, pallets.hidden, pallets.unattended_seconds) == (360, True, 720)
    slow = cycle(
        [OpTimes([("all", "T1", 100)], [1])], BARE.model_copy(update={"pallets": 2}), "by tool", 240
    )
    assert (slow.seconds, slow.segments[-1].label) == (240, "waits for loading")


@given(
    st.lists(
        st.lists(st.tuples(st.sampled_from("ABC"), st.floats(1, 90)), min_size=1, max_size=5),
        min_size=1,
        max_size=3,
    ),
    st.lists(st.integers(0, 5), min_size=1, max_size=6),
    st.sampled_from(["by tool", "by station"]),
)
def test_every_second_is_counted_once_and_ops_keep_their_order(cuts, stations, order):
    stations = [stations] + [stations[::-1]] * (len(cuts) - 1)
    if not any(map(sum, stations)):
        return
    ops = [
        OpTimes([(f"T{tool}", tool, seconds) for tool, seconds in op], on, 0, [0.5 * n for n in on])
        for op, on in zip(cuts, stations, strict=True)
    ]
    found = cycle(ops, MACHINE, order, 30)
    cutting = sum(
        sum(on) * seconds for op, on in zip(cuts, stations, strict=True) for _, seconds in op
    )
    of = {
        what: sum(item.seconds for item in found.segments if item.what == what)
        for what in ("cut", "rapids", "tool change", "index")
    }
    # every cut of every station is gone to once
    visits = sum(sum(on) * len(op) for op, on in zip(cuts, stations, strict=True))
    assert of["rapids"] == pytest.approx(0.5 * visits)
    assert of["cut"] == pytest.approx(cutting)
    assert of["tool change"] == pytest.approx(found.tool_changes * MACHINE.tool_change_s)
    assert found.seconds == pytest.approx(sum(item.seconds for item in found.segments))
    spindle, by_station = None, 0
    for face in range(len(stations[0])):  # as one walks: part after part, each with all its cuts
        for op, on in zip(cuts, stations, strict=True):
            for tool, _ in op * on[face]:
                by_station += tool != spindle
                spindle = tool
    assert by_station in (found.tool_changes, found.tool_changes_other)
    # Turning from face to face, one after another, is what the index moves are.
    faces, at = len(stations[0]), 0
    for item in found.segments:
        if item.what == "index":
            steps = min((item.face - at) % faces, (at - item.face) % faces)
            assert item.seconds == pytest.approx(MACHINE.index_s * 4 * steps / faces)
            at = item.face
        elif item.what == "cut":
            assert item.face == at or faces == 1
    if order == "by tool":
        runs = [item.label for item in found.segments if item.what == "tool change"]
        for op in cuts:
            wanted = [
                f"T{tool}" for k, (tool, _) in enumerate(op) if k == 0 or op[k - 1][0] != tool
            ]
            ahead = iter(runs)
            assert all(any(label == run for run in ahead) for label in wanted)


def test_a_tool_that_two_ops_share_is_changed_in_once_where_their_order_allows():
    ops = [
        OpTimes([("T1", "A", 10), ("T2", "B", 10)], [2, 0]),
        OpTimes([("T1", "A", 10), ("T2", "B", 10)], [0, 2]),
    ]
    together = cycle(ops, MACHINE, "by tool", 0)
    assert (together.tool_changes, together.tool_changes_other) == (2, 8)
    # There and back: the second tool begins on the face where the first one ended.
    assert together.index_moves == 2
    crossed = [
        OpTimes([("T1", "A", 10), ("T2", "B", 10)], [2, 0]),
        OpTimes([("T2", "B", 10), ("T1", "A", 10)], [0, 2]),
    ]
    assert cycle(crossed, MACHINE, "by tool", 0).tool_changes == 3


def test_a_block_turns_the_shorter_way_round():
    ops = [OpTimes([("T1", "A", 10)], [1, 0, 0, 1])]
    found = cycle(ops, MACHINE, "by tool", 0)
    (turn,) = [item for item in found.segments if item.what == "index"]
    assert (turn.label, turn.seconds) == ("index 90°", MACHINE.index_s)
    six = cycle([OpTimes([("T1", "A", 10)], [1, 0, 1, 0, 0, 0])], MACHINE, "by tool", 0)
    (turn,) = [item for item in six.segments if item.what == "index"]
    assert turn.seconds == pytest.approx(MACHINE.index_s * 120 / 90)


def test_work_offsets_by_the_house_rule():
    """Common practice, no source: G54 to G59, some taken; a program runs turned only from a zero of
    its own.
    """
    parts = [(0, 0), (0, 0), (0, 180), (1, 0), (1, 180)]
    assert [
        offsets_used(rule, parts) for rule in ("one for all", "one per face", "one per station")
    ] == [2, 4, 5]
    machine = starting_request("any", 1).machine
    assert offsets_free(machine) == 6
    assert offsets_free(machine.model_copy(update={"offsets_taken": ["G59", "G59", "G99"]})) == 5
