"""What touches in a pocket: flats, a V and a round against statics and quadrature, and turned."""

from __future__ import annotations

import math

import numpy as np
import pytest
import skfem
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.optimize import brentq, minimize
from scipy.sparse.linalg import splu
from shapely.affinity import rotate
from shapely.geometry import Point, Polygon, box
from skfem.models.elasticity import lame_parameters, linear_elasticity

from wedgecraft.core.locate.lies import lies, places, profile_of, settled, stiffness, turns_freely

_FORCE, _STIFF, _HIGH = 8000.0, 1500.0, 10.0


def test_two_flats_share_the_force_evenly_and_leave_the_part_where_it_was_put():
    """Pressure is force over area; the part comes against the fixed jaw by clearance and give."""
    gap = 0.03
    profile = profile_of(box(-20, -15, 20, 15), 0.0, 3.2)
    found = lies(profile, gap, _FORCE, _STIFF, _HIGH, start=(0.0, 0.01, 0.0))
    pressure = _FORCE / (30 * _HIGH)
    on = found.pressure_mpa > 1e-6
    assert found.pressure_mpa[on] == pytest.approx(pressure, rel=1e-3)
    give = pressure / _STIFF
    assert found.x_mm == pytest.approx(-gap - give, rel=1e-3)
    assert found.closed_mm == pytest.approx(2 * (gap + give), rel=1e-3)
    assert found.y_mm == pytest.approx(0.01, abs=1e-4)
    assert len(list(places(profile, found))) == 2
    # nothing decides where along the jaws: all of the play is left; against the jaw nothing is
    found = settled(profile, gap, _FORCE, _STIFF, _HIGH)
    assert found.half[1] == pytest.approx(gap, rel=0.02)
    assert found.half[0] < 1e-4
    assert 2 * gap * 0.98 < found.apart_mm < 2.2 * gap
    # friction along both flats holds a turn of friction x force x width against the foundation's
    # own: stiffness x height x length^3 / 12 on either side
    sticks = settled(profile, gap, _FORCE, _STIFF, _HIGH, friction=0.05)
    turn = 0.05 * 2 * _FORCE * 20 / (2 * _STIFF * _HIGH * 30**3 / 12)
    assert sticks.half[2] == pytest.approx(turn, rel=0.02)
    assert sticks.half[2] > 10 * found.half[2]
    # never farther than its play
    assert settled(profile, gap, _FORCE, _STIFF, _HIGH, friction=2.0).half[2] <= gap / 20 + 1e-9


@pytest.mark.parametrize("half", [30.0, 45.0, 60.0])
def test_a_v_holds_by_statics_and_centres(half):
    """A point towards the fixed jaw, flanks at ``half`` to the travel, a flat behind: each flank
    bears F / (2 sin half), and the part comes to lie in one place.
    """
    long = 20.0
    tip = long * math.cos(math.radians(half))
    side = long * math.sin(math.radians(half))
    part = Polygon([(-tip, 0), (0, -side), (12, -side), (12, side), (0, side)])
    profile = profile_of(part, 6.0, 1.0)
    found = lies(profile, 0.02, _FORCE, _STIFF, _HIGH, start=(0.0, 0.015, 0.0))
    flank = profile.normals[:, 0] < -0.1
    upper = flank & (profile.at[:, 1] > 0)
    borne = (found.pressure_mpa * profile.lengths * _HIGH)[upper].sum()
    assert borne == pytest.approx(_FORCE / (2 * math.sin(math.radians(half))), rel=0.01)
    assert abs(found.y_mm) < 1e-4
    assert settled(profile, 0.02, _FORCE, _STIFF, _HIGH).apart_mm < 1e-3


@pytest.mark.parametrize("gap", [0.0, 0.02, 0.1])
def test_a_round_in_a_slightly_larger_pocket_by_quadrature(gap):
    """An elastic foundation under a round: depth d cos phi - gap, integrated over where it is
    positive, balances the force (Johnson, section 4.3).
    """
    radius = 20.0
    profile = profile_of(Point(0, 0).buffer(radius, quad_segs=256), 0.0, 1e-6)
    found = lies(profile, gap, _FORCE, _STIFF, _HIGH)

    def borne(d):
        end = math.acos(min(1.0, gap / d))
        share = quad(lambda a: (d * math.cos(a) - gap) * math.cos(a), -end, end)[0]
        return _STIFF * _HIGH * radius * share - _FORCE

    deep = brentq(borne, gap + 1e-6, 5.0)
    assert -found.x_mm == pytest.approx(deep, rel=0.01)
    assert found.pressure_mpa.max() == pytest.approx(_STIFF * (deep - gap), rel=0.01)
    # less clearance, more of the wall touches
    assert turns_freely(profile, found)
    square = profile_of(box(-20, -15, 20, 15), 0.0, 3.2)
    assert not turns_freely(square, lies(square, 0.03, _FORCE, _STIFF, _HIGH))
    wide = profile.lengths[found.pressure_mpa > 0].sum() / 2
    assert wide == pytest.approx(2 * radius * math.acos(gap / deep), rel=0.02)


def test_any_part_comes_to_lie_where_a_general_optimiser_puts_it():
    """Random outlines, turned, on a jaw that tilts: the same least energy, and forces balance."""
    random = np.random.default_rng(4)
    for _ in range(6):
        angles = np.sort(random.uniform(0, 2 * math.pi, 7))
        part = Polygon([(18 * math.cos(a), 14 * math.sin(a)) for a in angles]).convex_hull
        part = rotate(part, float(random.uniform(0, 180)))
        if part.area < 300:
            continue
        split, tilt = float(part.centroid.x), 4e6
        profile = profile_of(part, split, 2.0)
        gap = float(random.uniform(0.0, 0.06))
        found = lies(profile, gap, _FORCE, _STIFF, _HIGH, tilt)
        push = found.pressure_mpa * profile.lengths * _HIGH
        total = (profile.normals * push[:, None]).sum(axis=0)
        assert np.abs(total).max() < 1.0  # of 8000 N
        arm = profile.at - profile.at.mean(axis=0)
        moment = (
            push * (profile.normals[:, 1] * arm[:, 0] - profile.normals[:, 0] * arm[:, 1])
        ).sum()
        assert abs(moment) < 20.0
        moving = push[profile.moving] @ profile.normals[profile.moving, 0]
        assert moving == pytest.approx(_FORCE, rel=1e-3)

        def energy(q, profile=profile, gap=gap, tilt=tilt):
            n, mid = profile.normals, profile.at.mean(axis=0)
            arm = profile.at - mid
            jaw = profile.at - profile.at[profile.moving].mean(axis=0)
            own = n[:, 0] * (q[0] - q[2] * arm[:, 1]) + n[:, 1] * (q[1] + q[2] * arm[:, 0])
            wall = n[:, 0] * (-q[3] - q[4] * jaw[:, 1]) + n[:, 1] * q[4] * jaw[:, 0]
            deep = np.maximum(own - np.where(profile.moving, wall, 0) - gap, 0)
            spring = _STIFF * _HIGH * (profile.lengths * deep**2).sum() / 2
            return spring - _FORCE * q[3] + tilt * q[4] ** 2 / 2

        mine = [found.x_mm, found.y_mm, found.turn_rad, found.closed_mm, found.tilt_rad]
        best = minimize(energy, mine, method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-9})
        assert energy(mine) <= best.fun + 1e-3 * abs(best.fun)


def _strip(radius, gap, thick, modulus):
    """A rigid round with clearance pressed into an elastic strip on a rigid base by finite elements
    (skfem): half of what touches, and the highest pressure. Plane stress, 40 mm to either side.
    """
    mesh = skfem.MeshQuad.init_tensor(np.linspace(-40, 40, 97), np.linspace(0, thick, 13))
    basis = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementQuad2()))
    lam, mu = lame_parameters(modulus, 0.33)
    stiff = linear_elasticity(2 * lam * mu / (lam + 2 * mu), mu).assemble(basis)
    fixed = basis.get_dofs(lambda x: np.abs(x[1]) < 1e-9).all()
    top = basis.get_dofs(lambda x: np.abs(x[1] - thick) < 1e-9).all("u^2")
    top = top[np.argsort(basis.doflocs[0, top])]
    at = basis.doflocs[0, top]
    free = np.setdiff1d(np.arange(stiff.shape[0]), fixed)
    mine = np.searchsorted(free, top)
    push = np.zeros((len(free), len(top)))
    push[mine, np.arange(len(top))] = 1.0
    gives = splu(stiff[free][:, free].tocsc()).solve(push)[mine]

    def forces(deep):
        wanted = deep * np.cos(at / radius) - gap
        on, found = wanted > 0, np.zeros(len(at))
        for _ in range(80):
            rows = np.flatnonzero(on)
            own = np.linalg.solve(gives[np.ix_(rows, rows)], wanted[rows])
            if (own < 0).any():
                on[rows[own < 0]] = False
                continue
            found[:] = 0.0
            found[rows] = own
            more = (gives @ found < wanted - 1e-12) & ~on
            if not more.any():
                break
            on |= more
        return found

    def short(deep):
        return float((forces(deep) * np.cos(at / radius)).sum()) * _HIGH - _FORCE

    found = forces(brentq(short, gap + 1e-6, gap + 2.0, xtol=1e-5))
    pressure = np.convolve(found / np.gradient(at), [0.25, 0.5, 0.25], "same")
    return float(at[found > 0].max()), float(pressure.max())


@pytest.mark.parametrize(("thick", "gap"), [(10.0, 0.025), (40.0, 0.025), (40.0, 0.1)])
def test_a_round_presses_as_finite_elements_of_a_strip_and_hertz_say(thick, gap):
    radius, modulus = 20.0, 68_900.0
    half, most = _strip(radius, gap, thick, modulus)
    profile = profile_of(Point(0, 0).buffer(radius, quad_segs=256), 0.0, 1e-6)
    stiff = stiffness(profile, gap, _FORCE, _HIGH, [(thick, modulus)])
    found = lies(profile, gap, _FORCE, stiff, _HIGH)
    assert found.pressure_mpa.max() == pytest.approx(most, rel=0.06)
    wide = float(profile.lengths[found.pressure_mpa > 0].sum()) / 4
    assert half <= wide < 1.3 * half
    # as thick as it was, walls would be far too soft where little touches
    if gap == 0.1:
        soft = lies(profile, gap, _FORCE, modulus / thick, _HIGH)
        assert soft.pressure_mpa.max() < 0.7 * most
        # Hertz, a round in a slightly larger one, half spaces (Johnson, section 4.2 (c))
        closer = radius * (radius + gap) / gap
        line = _FORCE / _HIGH
        hertz = math.sqrt(4 * line * closer / (math.pi * modulus))
        assert half == pytest.approx(hertz, rel=0.12)
        assert wide == pytest.approx(hertz, rel=0.12)
        assert found.pressure_mpa.max() == pytest.approx(2 * line / (math.pi * hertz), rel=0.15)


def _random_profile(seed):
    random = np.random.default_rng(seed)
    angles = np.sort(random.uniform(0, 2 * math.pi, 9))
    part = Polygon([(20 * math.cos(a), 15 * math.sin(a)) for a in angles]).convex_hull
    return profile_of(part, float(part.centroid.x), 2.0), random


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 100_000))
def test_where_a_part_settles_lies_within_its_play_and_more_friction_never_narrows_it(seed):
    profile, random = _random_profile(seed)
    size = float(np.ptp(profile.at, axis=0).max()) / 2
    gap = float(random.uniform(0.005, 0.08))
    without, little, much = (
        settled(profile, gap, _FORCE, _STIFF, _HIGH, friction=mu) for mu in (0.0, 0.1, 0.4)
    )
    for less, more in ((without, little), (little, much)):
        assert all(a <= b + 1e-9 for a, b in zip(less.half, more.half, strict=True))
        assert less.apart_mm <= more.apart_mm + 1e-9
    assert without.free == much.free
    # friction keeps it no farther off than the play lets it be; walls alone may, by how they give
    for way, most in enumerate((gap, gap, gap / size)):
        assert much.half[way] <= max(most, without.half[way]) + 1e-9


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 100_000), st.floats(1.05, 4.0))
def test_softer_walls_touch_wider_and_press_less(seed, softer):
    """Of one foundation to another; and walls are no stiffer than as thick as they are wide."""
    profile, random = _random_profile(seed)
    gap = float(random.uniform(0.0, 0.05))
    hard = lies(profile, gap, _FORCE, _STIFF, _HIGH)
    soft = lies(profile, gap, _FORCE, _STIFF / softer, _HIGH)
    wide = [float(profile.lengths[item.pressure_mpa > 1e-9].sum()) for item in (hard, soft)]
    assert wide[0] <= wide[1] + 1e-6
    # what it bears is the same: half a turn of the walls pushes, half holds
    for item in (hard, soft):
        push = item.pressure_mpa * profile.lengths * _HIGH
        assert (push[profile.moving] @ profile.normals[profile.moving, 0]) == pytest.approx(
            _FORCE, rel=5e-3
        )
    walls = [(40.0, 68_900.0), (15.0, 205_000.0)]
    found = stiffness(profile, gap, _FORCE, _HIGH, walls)
    bars = 1 / sum(thick / modulus for thick, modulus in walls)
    assert found >= bars - 1e-9
    assert found <= 1 / sum(min(thick, 0.1) / modulus for thick, modulus in walls)
