"""The hold programme against closed forms and against two independent solvers on random
stations.
"""

from __future__ import annotations

import math

import cvxpy
import numpy as np
import pytest
from scipy.optimize import linprog

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.limit import FACTOR_CAP, NotSeated
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.hold import HoldRequest

F, MU = 1000.0, 0.2


def _locator(x, y, z, normal, friction=MU, **more):
    return Contact(
        name=f"locator {x:g} {y:g} {z:g} {normal}",
        kind="locator",
        point_mm=(x, y, z),
        normal=normal,
        friction=friction,
        **more,
    )


def _clamp(x, y, z, normal, preload=F, friction=MU):
    return Contact(
        name="clamp",
        kind="clamp",
        point_mm=(x, y, z),
        normal=normal,
        friction=friction,
        preload_n=preload,
    )


def _floor(width=60.0, depth=40.0, friction=MU):
    return [_locator(x, y, 0, (0, 0, 1), friction) for x in (0, width) for y in (0, depth)]


def _one(contacts, point, force, **more):
    load = LoadCase(name="cut", point_mm=point, force_n=force)
    return hold(HoldRequest(contacts=contacts, loads=[load], **more))


def test_block_under_one_strap_slips_at_twice_friction_times_force():
    result = _one([*_floor(), _clamp(30, 20, 20, (0, 0, -1))], (30, 20, 10), (1, 0, 0))
    assert result.factor == pytest.approx(2 * MU * F, rel=1e-6)
    assert result.mode == "slides"


def test_block_in_a_vise_pulls_out_at_twice_friction_times_force():
    jaw = [_locator(0, y, z, (1, 0, 0)) for y in (0, 40) for z in (2, 18)]
    result = _one([*jaw, _clamp(60, 20, 10, (-1, 0, 0))], (30, 20, 10), (0, 0, 1))
    assert result.factor == pytest.approx(2 * MU * F, rel=1e-6)
    assert result.mode == "lifts"


def test_two_straps_slip_at_twice_that_and_weight_adds_its_friction():
    straps = [_clamp(x, 20, 20, (0, 0, -1)) for x in (15, 45)]
    result = _one(
        [*_floor(), *straps],
        (30, 20, 0),
        (0, 1, 0),
        weight_n=(0, 0, -50),
        centre_of_gravity_mm=(30, 20, 10),
    )
    assert result.factor == pytest.approx(4 * MU * F + MU * 50, rel=2e-3)


@pytest.mark.parametrize(("height", "friction"), [(80.0, 0.9), (200.0, 0.6), (50.0, 0.9)])
def test_a_tall_block_tips_before_it_slides(height, friction):
    """Pushed at its top a block of weight W and width b tips at W b / 2 h, when that is under mu
    W.
    """
    weight = 30.0
    result = _one(
        _floor(friction=friction),
        (30, 20, height),
        (1, 0, 0),
        weight_n=(0, 0, -weight),
        centre_of_gravity_mm=(30, 20, height / 2),
    )
    assert result.factor == pytest.approx(
        min(weight * 60 / 2 / height, friction * weight), rel=1e-3
    )
    assert result.mode == "tips"


def test_pushed_straight_into_the_stops_nothing_moves_but_a_stop_gives_way_at_its_capacity():
    stops = [_locator(0, y, 10, (1, 0, 0)) for y in (10, 30)]
    assert (
        _one([*_floor(), *stops, _clamp(60, 20, 10, (-1, 0, 0))], (60, 20, 10), (-1, 0, 0)).factor
        == FACTOR_CAP
    )
    weak = [_locator(0, y, 10, (1, 0, 0), friction=0, capacity_n=900) for y in (10, 30)]
    result = _one([*weak, _clamp(60, 20, 10, (-1, 0, 0), friction=0)], (60, 20, 10), (-10, 0, 0))
    assert result.factor * 10 == pytest.approx(2 * 900 - F, rel=1e-6)


def _random_station(rng: np.random.Generator) -> HoldRequest:
    width, depth, height = rng.uniform(20, 120, 3)
    floor = [
        _locator(x, y, 0, (0, 0, 1), rng.uniform(0.05, 0.5)) for x in (0, width) for y in (0, depth)
    ]
    stops = [
        _locator(0, y, z, (1, 0, 0), rng.uniform(0.05, 0.5))
        for y in (0.1 * depth, 0.9 * depth)
        for z in (1, height / 2)
    ]
    end = [
        _locator(
            width * rng.uniform(0.2, 0.8),
            0,
            height / 3,
            (0, 1, 0),
            rng.uniform(0.05, 0.5),
            capacity_n=rng.uniform(3e3, 2e4),
        )
    ]
    clamps = [
        _clamp(
            width,
            depth * rng.uniform(0.3, 0.7),
            height * 0.3,
            (-1, 0, 0),
            rng.uniform(500, 9000),
            rng.uniform(0.05, 0.5),
        )
    ]
    if rng.random() < 0.5:
        clamps.append(_clamp(width * 0.5, depth * 0.5, height, (0, 0, -1), rng.uniform(100, 5000)))
    loads = [
        LoadCase(
            name=f"case {k}",
            point_mm=tuple(rng.uniform(0, (width, depth, height))),
            force_n=tuple(rng.normal(0, 300, 3)),
        )
        for k in range(12)
    ]
    return HoldRequest(
        contacts=[*floor, *stops, *end, *clamps],
        loads=loads,
        weight_n=(0, 0, -5),
        centre_of_gravity_mm=(20, 20, 20),
    )


def _wrench(point, force):
    return np.concatenate([force, np.cross(point, force)])


def _edges(contact: Contact, sides: int, reach: float) -> np.ndarray:
    """Rays of a cone of so many sides about the contact's normal, ``reach`` times as wide as
    friction makes it.
    """
    normal = np.array(contact.normal, dtype=float)
    across = np.linalg.svd(normal[None, :])[2][1:]
    angles = 2 * math.pi * np.arange(sides) / sides
    return normal + reach * contact.friction * (
        np.cos(angles)[:, None] * across[0] + np.sin(angles)[:, None] * across[1]
    )


def _by_linprog(request: HoldRequest, load: LoadCase, sides: int = 48, reach: float = 1.0) -> float:
    """As a linear programme, without scaling or sharing, for scipy: cones inscribed, or about the
    true ones where they reach farther.
    """
    columns, rows, limits = [], [], []
    for contact in request.contacts:
        edges = _edges(contact, sides, reach)
        rows.append((len(columns), len(edges), contact))
        columns += [_wrench(contact.point_mm, edge) for edge in edges]
    balance = np.array([*columns, _wrench(load.point_mm, load.force_n)]).T
    target = -_wrench(request.centre_of_gravity_mm, request.weight_n)
    equal, given, upper = [], [], []
    for start, count, contact in rows:
        row = np.zeros(balance.shape[1])
        row[start : start + count] = 1
        if contact.kind == "clamp":
            equal.append(row)
            given.append(contact.preload_n)
        elif contact.capacity_n:
            upper.append(row)
            limits.append(contact.capacity_n)
    cost = np.zeros(balance.shape[1])
    cost[-1] = -1
    answer = linprog(
        cost,
        A_eq=np.vstack([balance, equal]),
        b_eq=np.concatenate([target, given]),
        A_ub=np.array(upper),
        b_ub=limits,
        bounds=[(0, None)] * (len(cost) - 1) + [(0, FACTOR_CAP)],
        options={"primal_feasibility_tolerance": 1e-10, "dual_feasibility_tolerance": 1e-10},
    )
    return float(-answer.fun) if answer.status == 0 else math.nan


def _by_cones(request: HoldRequest, load: LoadCase) -> float:
    """True friction cones, by a second-order cone solver."""
    forces = [cvxpy.Variable(3) for _ in request.contacts]
    factor = cvxpy.Variable(nonneg=True)
    total = _wrench(request.centre_of_gravity_mm, request.weight_n) + factor * _wrench(
        load.point_mm, load.force_n
    )
    limits = [factor <= FACTOR_CAP]
    for contact, force in zip(request.contacts, forces, strict=True):
        normal = np.array(contact.normal, dtype=float)
        arm = np.cross(np.array(contact.point_mm)[None, :], np.eye(3)).T
        total = total + np.vstack([np.eye(3), arm]) @ force
        along = normal @ force
        limits.append(cvxpy.norm(force - along * normal) <= contact.friction * along)
        limits += [along == contact.preload_n] if contact.kind == "clamp" else []
        limits += [along <= contact.capacity_n] if contact.capacity_n else []
    problem = cvxpy.Problem(
        cvxpy.Maximize(factor), [cvxpy.multiply(total, [1, 1, 1, 0.02, 0.02, 0.02]) == 0, *limits]
    )
    problem.solve(solver="CLARABEL")
    return float(factor.value)


def test_random_stations_lie_between_an_independent_linear_solver_inside_and_about_the_true_cones():
    rng = np.random.default_rng(7)
    checked = 0
    about = 1 / math.cos(math.pi / 48)
    for _ in range(10):
        request = _random_station(rng)
        try:
            result = hold(request)
        except NotSeated:
            still = request.loads[0].model_copy(
                update={"force_n": (0.0, 0.0, 0.0)}
            )  # clamped, and not cut
            assert math.isnan(_by_linprog(request, still, 16))
            continue
        for case, load in list(zip(result.cases, request.loads, strict=True))[:10]:
            assert _by_linprog(request, load) * (1 - 1e-5) - 1e-9 <= case.factor
            assert case.factor <= _by_linprog(request, load, reach=about) * (1 + 1e-6) + 1e-9
            checked += 1
        assert result.factor == min(case.factor for case in result.cases)
    assert checked > 80


def test_true_cones_are_met_from_below_within_a_two_hundredth_by_a_second_order_cone_solver():
    rng = np.random.default_rng(11)
    checked = 0
    for _ in range(12):
        request = _random_station(rng)
        try:
            result = hold(request)
        except NotSeated:
            continue
        for case, load in list(zip(result.cases, request.loads, strict=True))[:5]:
            true = _by_cones(request, load)
            assert case.factor <= true * (1 + 1e-5)
            assert case.factor >= true * (1 - 0.005)
            checked += 1
    assert checked > 25


def test_what_no_torque_makes_up_for_is_said():
    line = [_locator(x, 0, 0, (0, 0, 1)) for x in (0, 60)]
    assert (
        "all contacts stand in one line"
        in _one([*line, _clamp(30, 0, 0, (0, 0, -1))], (30, 20, 0), (0, 0, 1)).sentence
    )
    loose = _one(
        _floor(), (30, 20, 0), (1, 0, 0), weight_n=(0, 0, -20), centre_of_gravity_mm=(30, 20, 10)
    ).sentence
    assert "no clamp presses" in loose
    slick = _one(
        [*_floor(friction=0), _clamp(30, 20, 20, (0, 0, -1), friction=0)], (30, 20, 10), (1, 0, 0)
    )
    assert slick.factor == pytest.approx(0)
    assert "no contact has friction" in slick.sentence


def test_clamps_that_push_the_part_off_its_stops_and_forces_of_nothing_are_refused():
    with pytest.raises(NotSeated, match="already move"):
        _one(
            [*_floor(friction=0.1), _clamp(0, 20, 10, (1, 0, 0), preload=5000)],
            (30, 20, 10),
            (0, 0, -1),
        )
    with pytest.raises(OutOfRange, match="needs a force"):
        _one(_floor(), (0, 0, 0), (0, 0, 0))


def _moved(
    request: HoldRequest, rotation: np.ndarray, shift: np.ndarray, force: float
) -> HoldRequest:
    """The same set-up elsewhere, turned, with every force scaled."""

    def at(point):
        return tuple(rotation @ np.array(point) + shift)

    def along(vector, by=1.0):
        return tuple(by * (rotation @ np.array(vector)))

    return HoldRequest(
        contacts=[
            contact.model_copy(
                update={
                    "point_mm": at(contact.point_mm),
                    "normal": along(contact.normal),
                    "preload_n": force * contact.preload_n,
                    "capacity_n": force * contact.capacity_n if contact.capacity_n else None,
                }
            )
            for contact in request.contacts
        ],
        loads=[
            LoadCase(name=load.name, point_mm=at(load.point_mm), force_n=along(load.force_n, force))
            for load in request.loads
        ],
        weight_n=along(request.weight_n, force),
        centre_of_gravity_mm=at(request.centre_of_gravity_mm),
    )


def test_where_the_setup_stands_and_in_which_units_does_not_matter():
    rng = np.random.default_rng(21)
    for _ in range(6):
        request = _random_station(rng)
        angle = rng.uniform(0, 2 * math.pi)
        rotation = np.array(
            [
                [math.cos(angle), -math.sin(angle), 0],
                [math.sin(angle), math.cos(angle), 0],
                [0, 0, 1],
            ]
        )
        try:
            here = hold(request)
        except NotSeated:
            continue
        there = hold(_moved(request, rotation, rng.uniform(-500, 500, 3), 7.5))
        for a, b in zip(here.cases, there.cases, strict=True):
            assert a.factor == pytest.approx(b.factor, rel=1e-4)


def test_more_friction_and_more_preload_never_hold_less_against_lifting():
    def factor(friction: float, preload: float) -> float:
        jaw = [_locator(0, y, z, (1, 0, 0), friction) for y in (0, 40) for z in (2, 18)]
        contacts = [*_floor(), *jaw, _clamp(60, 20, 10, (-1, 0, 0), preload, friction)]
        loads = [LoadCase(name="up", point_mm=(40, 25, 20), force_n=(30, 20, 100))]
        return hold(HoldRequest(contacts=contacts, loads=loads)).factor

    base = factor(0.2, 1000)
    assert factor(0.3, 1000) > base
    assert factor(0.2, 1500) == pytest.approx(1.5 * base, rel=1e-4)  # no weight: all forces scale
