"""How forces share themselves out: against closed forms, an independent convex solver, and what
must hold for any contacts at all.
"""

from __future__ import annotations

import math
from dataclasses import replace

import cvxpy as cp
import numpy as np
import pytest

from tests.core.station.test_station import _built, _request
from wedgecraft.core.clamping.pressure import SINKS_IN, hertz_line, patch_stiffness
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.share_out import _Springs, share_out
from wedgecraft.core.hold.torque_window import full_hold
from wedgecraft.core.hold.verdict import Holding, quick_hold
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.share import ShareRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.stood import stood

pytestmark = pytest.mark.usefixtures("as_drawn")

STEEL = {"youngs_mpa": 206_000, "yield_mpa": 350}


def _locator(name, point, normal, friction=0.2, area=50.0):
    return Contact(
        name=name, kind="locator", point_mm=point, normal=normal, friction=friction, area_mm2=area
    )


def _clamp(name, point, normal, preload, friction=0.2, area=50.0):
    return Contact(
        name=name,
        kind="clamp",
        point_mm=point,
        normal=normal,
        friction=friction,
        preload_n=preload,
        area_mm2=area,
    )


def _bed(friction=0.2, area=100.0):
    return [
        _locator(f"bed {k}", (x, y, 0), (0, 0, 1), friction, area)
        for k, (x, y) in enumerate([(0, 0), (60, 0), (60, 40), (0, 40)])
    ]


def test_a_block_under_a_strap_shares_its_force_by_the_levers():
    strap = _clamp("strap", (20, 20, 25), (0, 0, -1), 4000, friction=0)
    found = share_out(ShareRequest(contacts=[*_bed(friction=0), strap], **STEEL))
    forces = [item.clamped_n for item in found.contacts[:4]]
    # Springs alike in the corners: half of the lever each way.
    left, right = 4000 * 40 / 60 / 2, 4000 * 20 / 60 / 2
    assert forces == pytest.approx([left, right, right, left], rel=1e-4)
    assert not any(item.opens for item in found.contacts)
    assert found.settled


def test_what_stands_without_friction_between_clamp_and_stop_is_pressed_by_all_of_it():
    stop = _locator("stop", (0, 20, 10), (1, 0, 0), 0.2, 200)
    clamp = _clamp("clamp", (60, 20, 10), (-1, 0, 0), 5000)
    found = share_out(
        ShareRequest(
            contacts=[*_bed(friction=0), stop, clamp],
            high=1.5,
            weight_n=(0, 0, -10),
            centre_of_gravity_mm=(30, 20, 10),
            **STEEL,
        )
    )
    named = {item.name: item for item in found.contacts}
    assert named["stop"].clamped_n == pytest.approx(5000, rel=1e-4)
    assert named["stop"].most_n == pytest.approx(7500, rel=1e-4)
    assert named["stop"].pressure_mpa == pytest.approx(7500 / 200, rel=1e-4)
    assert named["clamp"].pressure_share == pytest.approx(7500 / 50 / 350, rel=1e-4)
    assert found.presses_most == "clamp"


def test_the_part_gives_by_the_force_over_the_stiffness_of_what_it_is_pressed_against():
    """A stiff flat punch of radius a sinks F (1 - v2) / (2 a E) into a half-space: Boussinesq, in
    any text on contact mechanics.
    """
    area = math.pi * 5**2
    assert patch_stiffness(area, 206_000, 1e15) == pytest.approx(2 * 5 * 206_000 / 0.91)
    assert patch_stiffness(area, 206_000, 206_000) == pytest.approx(5 * 206_000 / 0.91)
    stop, clamp = (
        _locator("stop", (0, 20, 10), (1, 0, 0), 0.0, area),
        _clamp("clamp", (60, 20, 10), (-1, 0, 0), 5000, friction=0),
    )
    push = LoadCase(name="push", point_mm=(60, 20, 10), force_n=(-1000, 0, 0))
    weight = {"weight_n": (0, 0, -10), "centre_of_gravity_mm": (30, 20, 10)}
    ends = [_locator(f"end {y}", (30, y, 10), (0, 1 if y == 0 else -1, 0), 0.0) for y in (0, 40)]
    found = share_out(
        ShareRequest(
            contacts=[*_bed(friction=0), *ends, stop, clamp], loads=[push], **weight, **STEEL
        )
    )
    assert found.moves_mm == pytest.approx(1000 * 0.91 / (5 * 206_000), rel=1e-2)
    named = {item.name: item for item in found.contacts}
    assert named["stop"].most_n == pytest.approx(6000, rel=1e-4)
    assert named["stop"].pressed == "fine"


def test_a_push_is_taken_by_friction_until_it_slides_and_the_end_stop_takes_the_rest():
    """Clamped with 3,000 N between faces of friction 0.2: 1,200 N hold it; 2,000 N of push leave
    800 N to the end stop.
    """
    contacts = [
        _locator("stop a", (0, 10, 10), (1, 0, 0)),
        _locator("stop b", (0, 30, 10), (1, 0, 0)),
        *_bed(friction=0),
        _locator("end", (30, 0, 10), (0, 1, 0), 0.0),
        _clamp("clamp", (60, 20, 10), (-1, 0, 0), 3000),
    ]
    push = LoadCase(name="push", point_mm=(30, 20, 10), force_n=(0, -2000, 0))
    base = {
        "contacts": contacts,
        "weight_n": (0, 0, -10),
        "centre_of_gravity_mm": (30, 20, 10),
    } | STEEL
    slid = {item.name: item for item in share_out(ShareRequest(loads=[push], **base)).contacts}
    assert [slid[name].slip_share for name in ("stop a", "clamp")] == pytest.approx(
        [1.0, 1.0], abs=1e-3
    )
    assert slid["end"].most_n == pytest.approx(800, rel=0.02)
    half = push.model_copy(update={"force_n": (0, -500.0, 0)})
    held = {item.name: item for item in share_out(ShareRequest(loads=[half], **base)).contacts}
    assert held["stop a"].slip_share < 0.6


def _anything(rng, friction):
    """Contacts all over a block, pushing inwards, with two clamps and a weight."""
    contacts = []
    for k in range(rng.integers(6, 12)):
        axis, sign = rng.integers(3), rng.choice([-1.0, 1.0])
        point, normal = rng.uniform(0, 50, 3), np.zeros(3)
        point[axis], normal[axis] = (0.0 if sign > 0 else 50.0), sign
        contacts.append(
            _locator(f"l{k}", tuple(point), tuple(normal), friction, float(rng.uniform(20, 400)))
        )
    for k in range(2):
        contacts.append(
            _clamp(
                f"c{k}",
                tuple(rng.uniform(0, 50, 3)),
                tuple(rng.normal(size=3)),
                float(rng.uniform(500, 3000)),
                friction,
                60,
            )
        )
    # Corners all round, so that whatever pushes meets something.
    for axis in range(3):
        for sign in (-1.0, 1.0):
            for a, b in ((5, 5), (45, 10), (20, 45)):
                point, normal = np.array([a, b, a], dtype=float), np.zeros(3)
                point[axis], normal[axis] = (0.0 if sign > 0 else 50.0), sign
                contacts.append(
                    _locator(f"w{axis}{sign}{a}{b}", tuple(point), tuple(normal), friction, 80)
                )
    return contacts


@pytest.mark.parametrize("seed", range(15))
def test_without_friction_it_is_the_state_of_least_complementary_energy(seed):
    """Independent: the quadratic programme over forces, solved by Clarabel."""
    rng = np.random.default_rng(seed)
    contacts = _anything(rng, 0.0)
    request = ShareRequest(
        contacts=contacts, weight_n=(0, 0, -20), centre_of_gravity_mm=(25, 25, 25), **STEEL
    )
    given = zip(share_out(request).contacts, contacts, strict=True)
    mine = np.array([item.clamped_n for item, contact in given if contact.kind == "locator"])
    locators = [c for c in contacts if c.kind == "locator"]
    arms = np.array([[*c.normal, *np.cross(c.point_mm, c.normal)] for c in locators]).T
    load = np.array([0, 0, -20.0, *np.cross((25, 25, 25), (0, 0, -20.0))])
    for clamp in (c for c in contacts if c.kind == "clamp"):
        push = clamp.preload_n * np.array(clamp.normal) / np.linalg.norm(clamp.normal)
        load = load + [*push, *np.cross(clamp.point_mm, push)]
    stiff = np.array([patch_stiffness(c.area_mm2, 206_000, 206_000) for c in locators])
    force = cp.Variable(len(locators), nonneg=True)
    scale = np.array([1, 1, 1, 1 / 50, 1 / 50, 1 / 50])
    energy = cp.sum_squares(cp.multiply(force, 1e3 / np.sqrt(stiff)))
    problem = cp.Problem(cp.Minimize(energy), [(arms @ force + load) * 1e-3 @ np.diag(scale) == 0])
    problem.solve(solver=cp.CLARABEL)
    assert problem.status == "optimal"
    assert mine == pytest.approx(force.value, abs=2e-2 * float(np.linalg.norm(load[:3])))


@pytest.mark.parametrize("seed", range(15))
def test_any_share_out_balances_only_pushes_and_keeps_to_coulomb(seed):
    rng = np.random.default_rng(100 + seed)
    contacts = _anything(rng, float(rng.uniform(0.05, 0.4)))
    request = ShareRequest(
        contacts=contacts, weight_n=(0, 0, -20), centre_of_gravity_mm=(25, 25, 25), **STEEL
    )
    springs = _Springs(request, 1.0)
    push = rng.normal(size=(20, 3)) * 400
    wrenches = np.hstack([push, np.cross(rng.uniform(0, 50, (20, 3)), push)])
    for state, cut in zip(
        springs.clamped_and_cut(wrenches), (np.zeros((1, 6)), wrenches), strict=True
    ):
        assert state.settled
        back = np.einsum("kcx,cxi->ki", state.forces, springs.arms)
        off = np.abs(back + [0, 0, -20, *np.cross((25, 25, 25), (0, 0, -20))] + cut) / [
            1,
            1,
            1,
            50,
            50,
            50,
        ]
        assert off.max() < 2e-3 * springs.size
        assert state.forces[..., 0].min() >= 0
        rub = np.linalg.norm(state.forces[..., 1:], axis=-1)
        assert (
            rub <= springs.friction * state.forces[..., 0] * (1 + 1e-3) + 1e-3 * springs.size
        ).all()


def test_hertz_line_contact_against_a_handbook_example():
    """Two steel bodies, cylinder of 10 mm radius on a flat, 100 N/mm, E 206,000, v 0.3.

    p0 = 0.418 sqrt(F E / (L R)), the usual form for steel in handbooks (Roark, Formulas for Stress
    and Strain, table 14.1), from memory.
    """
    half, peak = hertz_line(1000, 10, 10, 206_000, 206_000)
    assert peak == pytest.approx(0.418 * math.sqrt(100 * 206_000 / 10), rel=2e-3)
    assert half == pytest.approx(1.52 * math.sqrt(100 * 10 / 206_000), rel=3e-3)
    # The load is the half ellipse of pressure.
    assert math.pi / 2 * half * peak * 10 == pytest.approx(1000)


def _holding(shape="block", **station) -> Holding:
    request = _request(shape, **station)
    (view,) = views_of(request)
    sitting = stood(view)
    return Holding(view, _built(request), sitting, cut_loads(view, sitting))


def test_the_window_of_torque_is_where_it_holds_without_marking():
    verdict = full_hold(_holding(clamp={"torque_nm": 14}))
    least, marks = verdict.least_torque_nm, verdict.marks_from_nm
    at = {
        torque: quick_hold(_holding(clamp={"torque_nm": torque})) for torque in (least - 0.5, least)
    }
    assert at[least - 0.5].result.factor < verdict.needed <= at[least].result.factor
    assert marks is None or marks > least
    for point in verdict.curve:
        exact = quick_hold(_holding(clamp={"torque_nm": point.torque_nm}))
        assert (
            point.factor >= exact.result.factor - 1e-9
        )  # of some of the cases, so never under the lowest of all
        assert point.factor == pytest.approx(exact.result.factor, rel=0.05)
    factors = [point.factor for point in verdict.curve]
    torques = [point.torque_nm for point in verdict.curve]
    slopes = np.diff(factors) / np.diff(torques)
    assert (
        np.diff(slopes) < 1e-6
    ).all()  # concave: straight lines between points are on the safe side


def test_a_round_is_marked_by_a_flat_toe_long_before_a_block():
    block, disc = full_hold(_holding("block")), full_hold(_holding("disc"))
    assert (block.marks_from_nm or 99) > 3 * disc.marks_from_nm
    assert disc.sinks_from_nm is None or disc.sinks_from_nm > disc.marks_from_nm * SINKS_IN
    assert disc.share.presses_most.startswith("edge clamp")


def test_cuts_that_move_the_part_are_not_asked_how_they_are_shared():
    """Under those it never rests: what the others press is shared as if they were alone, and that
    it slides is said.
    """
    weak = _holding(clamp={"torque_nm": 2})
    found = weak.weakest
    held = [
        case for case, item in zip(weak.cases, found.result.cases, strict=True) if item.factor >= 1
    ]
    assert 0 < len(held) < len(weak.cases)
    preload = weak.preload
    alone = share_out(found.part.sharing(held, preload.low_n, preload.high_n))
    shared = quick_hold(weak).share
    assert not shared.settled
    assert shared.contacts == alone.contacts
    strong = quick_hold(_holding(clamp={"torque_nm": 20}))
    assert strong.result.factor >= 1
    assert strong.share.settled


def test_what_would_make_it_hold_does_when_it_is_done():
    weak = _holding(clamp={"torque_nm": 2})
    verdict = full_hold(weak)
    assert verdict.result.factor < verdict.needed
    assert [item.holds for item in verdict.remedies] == sorted(
        (item.holds for item in verdict.remedies), reverse=True
    )
    by_field = {item.field.rsplit(".", 1)[-1]: item for item in verdict.remedies}
    assert {"torque_nm", "clamps", "toe_friction"} <= set(by_field)
    assert quick_hold(
        _holding(clamp={"torque_nm": by_field["torque_nm"].value})
    ).result.factor == pytest.approx(by_field["torque_nm"].factor)
    twice = quick_hold(_holding(clamp={"torque_nm": 2}, clamps=2)).result.factor
    assert twice == pytest.approx(by_field["clamps"].factor)
    if "axial_depth_mm" in by_field:
        first, *others = weak.plan.op.cuts
        less = first.model_copy(update={"axial_depth_mm": by_field["axial_depth_mm"].value})
        op = weak.plan.op.model_copy(update={"cuts": [less, *others]})
        lighter, sitting = replace(weak.plan, op=op), replace(weak.sitting, asked=op)
        found = hold(
            HoldRequest(
                contacts=verdict.contacts,
                loads=Holding(lighter, weak.station, sitting, cut_loads(lighter, sitting)).cases,
            )
        )
        assert found.factor > verdict.result.factor
