"""Parts that share a clamp: the row between jaws against theory and an independent solver, the
wedge against statics, stations as they stand.
"""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize
from shapely.geometry import Point

from tests.core.independent import faults
from tests.core.station.test_station import _built, _request
from wedgecraft.core.clamping.jaw_row import blanks, row, row_forces
from wedgecraft.core.clamping.screw import edge_clamp_preload, screw_preload_n
from wedgecraft.core.clamping.sharing import Blanks, part_preload, wedge_force_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.layout import LayoutRequest
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.row import RowRequest
from wedgecraft.core.records.screw import SCREWS, EdgeClamp
from wedgecraft.core.records.sharing import Sharing
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.preload import blanks_of, row_places
from wedgecraft.core.station.stood import stood

pytestmark = pytest.mark.usefixtures("as_drawn")

FOUR = {"places_mm": [-60, -20, 20, 60], "force_n": 20_000, "screw_mm": 0, "stiffness_n_mm": 2e5}


def test_four_saw_cut_blanks_leave_one_loose_in_two_of_five_clampings_and_faced_ones_never():
    """Common practice, no source: saw-cut blanks pull out, the same blanks faced to one length
    hold.
    """
    assert row(RowRequest(**FOUR, spread_mm=0.05)).chance_loose == pytest.approx(0.4, abs=0.03)
    faced = row(RowRequest(**FOUR, spread_mm=0.005, needed_n=3000))
    assert faced.chance_loose == faced.chance_short == 0
    assert faced.least_n > 3500


@settings(max_examples=60)
@given(
    sizes=st.tuples(st.floats(-1, 1), st.floats(-1, 1)),
    screw=st.floats(0.1, 0.9),
    stiffness=st.floats(1e3, 1e7),
)
def test_a_free_jaw_balances_on_two_whatever_their_sizes(sizes, screw, stiffness):
    """The two-part rule; with the screw off the middle, the lever decides and nothing else."""
    request = RowRequest(
        places_mm=[0, 80],
        force_n=10_000,
        screw_mm=80 * screw,
        stiffness_n_mm=stiffness,
        spread_mm=1,
    )
    (forces,) = row_forces(request, np.array([sizes]))
    assert forces == pytest.approx([10_000 * (1 - screw), 10_000 * screw], rel=1e-6)


def test_a_jaw_that_cannot_tilt_is_a_bed_of_independent_springs():
    request = RowRequest(**FOUR, spread_mm=0.03, distribution="normal", tilt_stiffness_nmm=1e14)
    found = row_forces(request, blanks(request)[:400])
    for forces, e in zip(found, blanks(request), strict=False):
        # Springs between parallel plates: the shift at which those that touch carry the force, by
        # sorting.
        order = np.sort(e)[::-1]
        shifts = (20_000 / 2e5 - np.cumsum(order)) / np.arange(1, 5)
        shift = next(s for n, s in enumerate(shifts, 1) if n == 4 or s + order[n] <= 0)
        assert forces == pytest.approx(2e5 * np.maximum(0, shift + e), abs=2.0)


@pytest.mark.parametrize("seed", range(12))
def test_any_row_agrees_with_a_general_minimiser_and_balances(seed):
    """Independent: scipy's L-BFGS-B on the energy of a compress-only bed of springs."""
    rng = np.random.default_rng(seed)
    places = np.sort(rng.uniform(-100, 100, rng.integers(2, 9)))
    tilt = float(rng.choice([0, 1e7, 1e9]))
    request = RowRequest(
        places_mm=places.tolist(),
        force_n=float(rng.uniform(1e3, 5e4)),
        screw_mm=float(rng.uniform(places[0], places[-1])),
        stiffness_n_mm=float(10 ** rng.uniform(4, 6)),
        tilt_stiffness_nmm=tilt,
        spread_mm=0.1,
    )
    oversizes = blanks(request)[:3]
    k, force, screw = request.stiffness_n_mm, request.force_n, request.screw_mm
    for forces, e in zip(row_forces(request, oversizes), oversizes, strict=True):
        unit = force / k

        def energy(at, e=e, unit=unit):
            pressed = np.maximum(0, at[0] + at[1] * places / 100 + e)
            value = (
                0.5 * pressed @ pressed
                + 0.5 * tilt / k * (at[1] / 100) ** 2
                - unit * (at[0] + at[1] * screw / 100)
            )
            slope = [
                pressed.sum() - unit,
                pressed @ places / 100 + tilt / k * at[1] / 1e4 - unit * screw / 100,
            ]
            return value / unit**2, np.array(slope) / unit**2

        best = minimize(
            energy,
            [unit, 0.0],
            jac=True,
            method="L-BFGS-B",
            options={"ftol": 1e-16, "gtol": 1e-12, "maxiter": 5000},
        )
        assert forces == pytest.approx(
            k * np.maximum(0, best.x[0] + best.x[1] * places / 100 + e), abs=2e-3 * force
        )
        assert forces.sum() == pytest.approx(force, rel=1e-9)


@settings(max_examples=80)
@given(angle=st.floats(3, 60), friction=st.floats(0.0, 0.5), pull=st.floats(1, 1e5))
def test_a_double_wedge_balances_flank_by_flank(angle, friction, pull):
    """Forces on the wedge, resolved: two flanks, each pressing with N and rubbing upwards, carry
    the screw's pull.
    """
    side = wedge_force_n(pull, angle, friction)
    a = math.radians(angle)
    normal = side / (math.cos(a) - friction * math.sin(a))
    assert 2 * normal * (math.sin(a) + friction * math.cos(a)) == pytest.approx(pull)
    assert wedge_force_n(pull, angle, 0) >= side


def _of(how, shape="block", row=3, spread=None, rule="computed", **station) -> PlanRequest:
    station = {"clearance_mm": 3} | station
    document = _request(shape, sharing={"how": how, "row": row}, **station).model_dump()
    document["rules"]["two_part_vise"] = rule
    document["quantity"] = 300
    if spread is not None:
        document["parts"][0]["stock"] = {"x": {"variation": {"kind": "range", "value_mm": spread}}}
    return PlanRequest.model_validate(document)


WIDE = EdgeClamp(torque_nm=14, width_mm=40)
UNITS = [
    ("double wedge between two", "block"),
    ("double wedge between two", "yoke"),
    ("one clamp for two", "block"),
    ("row between jaws", "ell"),
]


@pytest.mark.parametrize(("how", "shape"), UNITS)
def test_parts_that_share_stand_clear_of_one_another_and_are_all_pressed(how, shape):
    request = _of(how, shape, clamp=WIDE)
    station = _built(request)
    assert len(station.parts) == request.station.sharing.parts == len(station.members)
    for a, b in combinations([*station.parts, *station.stops], 2):
        assert a.intersection(b).area < 1e-6
    for member, part in zip(station.members, station.parts, strict=True):
        assert not any(part.intersection(clamp).area > 1e-6 for clamp in station.clamps)
        assert sum(press.share for press in member.presses) == pytest.approx(1)
        for x, y, *_ in member.presses:
            at = member.put(np.array([x, y]))
            near = [clamp.distance(Point(*at)) for clamp in station.clamps]
            assert min(near) < 1e-6
            assert part.exterior.distance(Point(*at)) < 1e-6


@pytest.mark.parametrize(("how", "shape"), UNITS)
def test_a_face_is_filled_with_them_counted_in_parts_and_stands_an_independent_check(how, shape):
    request = _of(how, shape, spread=0.005, clamp=WIDE)
    problem = layout_request(request, [ready(view) for view in views_of(request)])
    assert problem.kinds[0].holds == request.station.sharing.parts
    found = layout(problem.model_copy(update={"effort": 0.2}))
    assert found.sets == len(found.placements) * problem.kinds[0].holds > 0
    assert faults(problem, found) == []
    assert found.bound >= found.sets >= found.by_hand


def test_an_odd_number_wanted_takes_one_station_more_and_kits_count_parts():
    request = _of("double wedge between two")
    problem = layout_request(request, [ready(view) for view in views_of(request)]).model_copy(
        update={"most": 5, "effort": 0.0}
    )
    found = layout(problem)
    assert (found.sets, len(found.placements), found.statement) == (5, 3, "proven largest")
    one, two = problem.kinds[0].model_copy(update={"holds": 1}), problem.kinds[0]
    mixed = layout(LayoutRequest(faces=problem.faces, kinds=[one, two], effort=0.0, most=200))
    counts = [sum(item.kind == kind for item in mixed.placements) for kind in (0, 1)]
    assert counts[0] >= mixed.sets > 0
    assert 2 * counts[1] >= mixed.sets
    assert faults(problem.model_copy(update={"kinds": [one, two]}), mixed) == []


def test_what_each_part_gets_of_the_screw():
    clamp = EdgeClamp(torque_nm=12)
    whole = edge_clamp_preload(clamp)
    half = part_preload(clamp, Sharing(how="one clamp for two"), Blanks())
    assert (half.low_n, half.high_n) == (whole.low_n / 2, whole.high_n / 2)
    wedge = part_preload(clamp, Sharing(how="double wedge between two"), Blanks())
    assert wedge.low_n == pytest.approx(
        wedge_force_n(screw_preload_n(SCREWS["M8"], 12 * 0.9, 0.16), 15, 0.16)
    )
    places = (0.0, 40.0, 80.0, 120.0)
    row_of = Sharing(how="row between jaws", row=4)
    even = part_preload(clamp, row_of, Blanks(0.05, True, "off"), places)
    assert even.low_n == whole.low_n / 4
    faced = part_preload(clamp, row_of, Blanks(0.001, True, "computed"), places)
    assert 0.7 * even.low_n < faced.low_n < even.low_n
    assert faced.high_n > even.high_n
    for rule, words in (("strict", "two: the house rule"), ("computed", "one part is loose")):
        with pytest.raises(OutOfRange, match=words):
            part_preload(clamp, row_of, Blanks(0.1, True, rule), places)
    assert (
        part_preload(clamp, row_of, Blanks(0.1, True, "strict"), places[:2]).low_n
        == whole.low_n / 2
    )


def test_a_row_of_saw_cut_blanks_is_refused_with_the_reason_and_faced_ones_are_planned():
    refused = plan(_of("row between jaws", spread=0.2))
    assert not refused.feasible
    assert "of 100 clampings one part is loose" in refused.reasons[0].why
    good = plan(_of("row between jaws", spread=0.003, clamp=EdgeClamp(screw="M12", torque_nm=70)))
    assert good.feasible, good.reasons
    design = good.designs[0]
    assert design.count == 3 * len(design.stations)
    assert len(design.kinds[0].drawing.parts) == 3
    # A screw for three parts saves the turning of two.
    assert design.cycle.loading_seconds == pytest.approx(
        40 * design.count - 8 * (design.count - len(design.stations))
    )
    load = next(item for item in design.figures if item.id == "load")
    plates = next(item.value for item in load.inputs if item.name == "plate")
    part = ready(views_of(_of("row between jaws"))[0]).masses.part_kg
    assert load.value > plates + design.count * part


def test_blanks_are_as_raw_as_the_op_that_grips_them():
    first = _of("row between jaws", spread=0.2)
    view = views_of(first)[0]
    assert blanks_of(view, stood(view)).spread_mm == pytest.approx(0.2)
    document = first.model_dump()
    turned = document["parts"][0]["ops"][0] | {"number": 20, "up": "-Z"}
    document["parts"][0]["ops"].append(turned)
    document["planned"]["op"] = 1
    (second,) = views_of(PlanRequest.model_validate(document))
    assert blanks_of(second, stood(second)).spread_mm == 0.005
    assert len(row_places(stood(views_of(first)[0]), first.station, _built(first))[0]) == 3


def test_what_cannot_be_shared_is_said():
    with pytest.raises(OutOfRange, match=r"at least .* mm, so that the toe presses on both"):
        _built(_of("one clamp for two", clamp=EdgeClamp(torque_nm=14, width_mm=14)))
    with pytest.raises(OutOfRange, match="share it"):
        _built(_of("row between jaws", clamps=2))
    document = _of(
        "double wedge between two", clamp=EdgeClamp(torque_nm=14, length_mm=8, wrench_diameter_mm=8)
    ).model_dump()
    with pytest.raises(OutOfRange, match="would run into the next part"):
        _built(PlanRequest.model_validate(document))
