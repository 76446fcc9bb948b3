"""Rules that one word or sign would turn round and that show in no other figure: each by reasoning
from outside.
"""

from __future__ import annotations

import math
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest

from tests.core.clamping.test_elements import DRILL, _asked
from tests.core.clamping.test_sharing import _of
from wedgecraft.core.clamping.elements.edge_clamp import EdgeToe
from wedgecraft.core.clamping.jaw_row import row
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import state_of
from wedgecraft.core.hold.torque_window import full_hold
from wedgecraft.core.hold.verdict import Holding, quick_hold
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.records.machine import Machine, spindle_at
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.row import RowRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.run.cycle import OpTimes, cycle
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.release import release

pytestmark = pytest.mark.usefixtures("as_drawn")


def _holding(request: PlanRequest) -> Holding:
    view = views_of(request)[0]
    item = ready(view)
    return Holding(view, item.station, item.sitting, cut_loads(view, item.sitting))


def test_the_torque_window_counts_the_low_end_of_the_preload_up_to_the_most_torque():
    """A light part is held in proportion to the screw, by the low end everywhere: at the rating
    too, and just so at the least torque.
    """
    holding = _holding(_asked(EdgeToe(), torque=10))
    asked, found = quick_hold(holding).result.factor, full_hold(holding)
    assert holding.preload.low_n < 0.9 * holding.preload.high_n
    rated = found.curve[-1]
    assert rated.factor == pytest.approx(asked * rated.torque_nm / 10, rel=0.02)
    least = math.ceil(20 * holding.needed / asked) / 2
    assert found.least_torque_nm == pytest.approx(least, abs=0.51)


@pytest.mark.parametrize("which", [None, 0, 1, 2])
def test_one_interrupted_cut_wherever_it_comes_asks_more_of_the_whole_op(which):
    cuts = [DRILL | {"name": f"cut {k}", "interrupted": k == which} for k in range(3)]
    assert quick_hold(_holding(_asked(EdgeToe(), cuts=cuts))).needed == (
        2.0 if which is None else 2.5
    )


def test_a_clamp_opens_for_the_largest_blank_after_it_held_the_smallest():
    """Blanks of plus or minus 0.4 mm differ by 0.8 mm over the clamp, and 0.2 mm are needed to lift
    one out: 1.0 mm of stroke.
    """
    for opens, enough in ((0.99, False), (1.01, True)):
        request = _of("a clamp each", spread=0.4)
        clamp = request.station.clamp.model_copy(update={"opens_mm": opens})
        request = request.model_copy(
            update={"station": request.station.model_copy(update={"clamp": clamp})}
        )
        item = ready(views_of(request)[0])
        if enough:
            assert "1.00 mm are needed" in release(views_of(request)[0], item.sitting)[0]
        else:
            with pytest.raises(OutOfRange, match=r"at least 1\.00 mm"):
                release(views_of(request)[0], item.sitting)


def test_on_a_tombstone_a_part_turned_left_hangs_on_its_stop_and_turned_right_on_its_clamp():
    """Its stop stands at its left. Turned counter-clockwise by 90 degrees that side is below; by
    270 it is above.
    """
    document = starting_request("Heavy", 10).model_dump(mode="json")
    document["block"] |= {"faces": 4, "axis": "upright"}
    document["station"]["turns"] = [90, 270]
    holding = _holding(PlanRequest.model_validate(document))
    weights = {turn: weight for turn in (90, 270) for (_, weight), _ in _parts_at(holding, turn)}
    assert weights[90][0] < 0 < weights[270][0]
    assert weights[90][1] == weights[270][1] == 0


def _parts_at(holding: Holding, turn: int):
    only = holding.plan.station.model_copy(update={"turns": [turn]})
    return (
        Holding(
            replace(holding.plan, station=only), holding.station, holding.sitting, holding.loads
        )
        .parts()
        .items()
    )


def test_a_row_answers_for_one_clamping_in_a_hundred_not_for_the_usual_one():
    """Two parts between jaws that cannot tilt are two springs: F/2 + k (e1 - e2) / 2. With both
    blanks even over plus or minus s their difference is triangular: one in a hundred is under -(2 -
    sqrt 0.08) s for the one, and over (2 - 0.2) s either way for the worse.
    """
    force, k, s = 20_000.0, 2e5, 0.02
    found = row(
        RowRequest(
            places_mm=[-30, 30],
            force_n=force,
            screw_mm=0,
            stiffness_n_mm=k,
            tilt_stiffness_nmm=1e14,
            spread_mm=s,
            clampings=100_000,
        )
    )
    assert found.parts[0].low_n == pytest.approx(
        force / 2 - k * s / 2 * (2 - math.sqrt(0.08)), rel=0.01
    )
    assert found.parts[0].high_n == pytest.approx(
        force / 2 + k * s / 2 * (2 - math.sqrt(0.08)), rel=0.01
    )
    assert found.least_n == pytest.approx(force / 2 - k * s / 2 * 1.8, rel=0.01)


def test_a_torque_curve_never_gives_more_than_the_rated_power():
    machine = Machine.model_validate(
        starting_request("m", 1).machine.model_dump()
        | {
            "spindle_power_kw": 10,
            "torque_curve": [{"rpm": 500, "torque_nm": 120}, {"rpm": 3000, "torque_nm": 120}],
        }
    )
    torque, power = spindle_at(machine, 500)
    assert (torque, power) == pytest.approx((120, 120 * 2 * math.pi * 500 / 60_000))
    torque, power = spindle_at(machine, 2000)
    assert (torque, power) == pytest.approx((10_000 / (2 * math.pi * 2000 / 60), 10))


@pytest.mark.parametrize("pallets", [1, 2])
def test_loading_is_hidden_by_a_second_pallet_alone(pallets):
    machine = starting_request("m", 1).machine.model_copy(
        update={"pallets": pallets, "pallet_change_s": 12, "tool_change_s": 5}
    )
    found = cycle([OpTimes([("cut", "T1", 100)], [6])], machine, "by tool", handling_s=40)
    cutting, loading = 6 * 100 + 5, 6 * 40
    assert found.hidden == (pallets == 2)
    assert found.seconds == pytest.approx(cutting + (12 if pallets == 2 else loading))


def test_close_is_said_from_nine_tenths_and_over_from_the_limit():
    shares = np.array([0.5, 0.899, 0.9, 1.0, 1.001])
    assert [state_of(share) for share in shares] == ["within", "within", "close", "close", "over"]


def test_a_cutter_without_helix_also_pulls_sideways_alone():
    """Nothing lifts then, and nothing presses the part down while it is pushed: the worse of the
    two counts.
    """
    straight = {"kind": "contour", "name": "outside", "axial_depth_mm": 2, "radial_width_mm": 0.8}
    document = starting_request("Straight flutes", 10).model_dump(mode="json")
    cut = document["parts"][0]["ops"][0]["cuts"][0]
    document["parts"][0]["ops"][0]["cuts"] = [
        cut | straight | {"tool": cut["tool"] | {"helix_deg": 0}}
    ]
    holding = _holding(PlanRequest.model_validate(document))
    axial = {case.force_n[2] for case in holding.cases}
    assert max(axial) == 0
    assert min(axial) < 0
    level = [case for case in holding.cases if case.force_n[2] == 0]
    assert len(level) == len(holding.cases) / 2


def test_products_of_matrices_run_on_one_thread_whatever_the_machine_has():
    """Started anew: threads of the libraries show among the process's own."""
    asked = (
        "import os, wedgecraft.core.plan.job, numpy; a = numpy.ones((400, 400)); a @ a;"
        " print(len(os.listdir('/proc/self/task')))"
    )
    found = subprocess.run(
        [sys.executable, "-c", asked], capture_output=True, text=True, check=True
    )
    assert int(found.stdout.split()[-1]) == 1


def test_a_refusal_names_the_cut_it_is_about_and_no_other():
    given = starting_request("Block", 4).model_dump()
    first = given["parts"][0]["ops"][0]["cuts"][0]
    box = {"name": "T2 top", "kind": "face", "axial_depth_mm": 20, "passes": 3, "seconds": 5}
    given["parts"][0]["ops"][0]["cuts"] = [first, first | box]
    (reason,) = plan(PlanRequest.model_validate(given)).reasons
    assert reason.field == "parts.0.ops.0.cuts.1.axial_depth_mm"
    assert reason.what.startswith("T2 top: ")
