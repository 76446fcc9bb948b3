"""What stays of a jaw behind its pocket: beams by hand, finite elements of wall and base."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import skfem
from skfem.helpers import dot
from skfem.models.elasticity import linear_elasticity

from tests.core.make.planned import planned
from wedgecraft.core.make.behind import Behind, too_thin, wall
from wedgecraft.core.make.jaws import jaw_pieces
from wedgecraft.core.plan.pieces import pieces_of, planned_setup

E_MPA, NU = 69_000.0, 0.3


def _finite(high, thick, press):
    """How far the top of a wall on a large block gives, pressed evenly: plane stress, quadratic
    quadrilaterals.
    """
    step = min(high, thick) / 6
    base = 5 * max(high, thick)
    x = np.unique(np.concatenate([np.linspace(-base, 0, 24), np.arange(0, thick + 1e-9, step),
                                  np.linspace(thick, thick + base, 24)]))  # fmt: skip
    z = np.unique(np.concatenate([np.linspace(-base, 0, 24), np.linspace(0, high, 24)]))
    mesh = skfem.MeshQuad.init_tensor(x, z)
    middle = mesh.p[:, mesh.t].mean(axis=1)
    keep = (middle[1] < 0) | ((middle[0] > 0) & (middle[0] < thick))
    mesh = mesh.restrict(np.flatnonzero(keep))
    basis = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementQuad2()))
    # plane stress by its Lamé parameters
    lam, mu = E_MPA * NU / (1 - NU**2), E_MPA / (2 * (1 + NU))
    stiff = skfem.asm(linear_elasticity(lam, mu), basis)
    side = mesh.facets_satisfying(lambda p: (np.abs(p[0]) < 1e-9) & (p[1] > 0))
    edge = skfem.FacetBasis(mesh, basis.elem, facets=side)

    @skfem.LinearForm
    def push(v, w):
        return dot(np.array([press * np.ones_like(w.x[0]), 0 * w.x[0]]), v)

    load = skfem.asm(push, edge)
    foot = basis.get_dofs(mesh.facets_satisfying(lambda p: np.abs(p[1] + base) < 1e-9))
    given = skfem.solve(*skfem.condense(stiff, load, D=foot))
    top = np.flatnonzero((np.abs(mesh.p[1] - high) < 1e-9) & (np.abs(mesh.p[0]) < 1e-9))
    # against the base three thicknesses away: how the whole block drifts is not the wall's
    far = np.argmin(np.abs(mesh.p[1]) + np.abs(mesh.p[0] + 3 * thick))
    return float(given[basis.nodal_dofs[0, top[0]]] - given[basis.nodal_dofs[0, far]])


@pytest.mark.parametrize(("high", "thick"), [(20, 5), (12, 6), (10, 10), (8, 16)])
def test_a_wall_gives_as_finite_elements_of_it_and_its_base_say(high, thick):
    force = 2000.0
    found = wall(force, high, thick, 40.0, E_MPA)
    assert found.bends_mm == pytest.approx(_finite(high, thick, force / 40 / high), rel=0.15)


def test_a_slender_wall_is_a_cantilever_and_a_weak_one_is_named():
    """q h^4 / 8 E I for a slender one, any text; stress of its foot by M / W."""
    found = wall(100.0, 200, 4, 50, E_MPA)
    inertia = 50 * 4**3 / 12
    assert found.bends_mm == pytest.approx(0.5 * 200**4 / (8 * E_MPA * inertia), rel=0.06)
    assert found.stress_mpa == pytest.approx(100 * 100 / (50 * 4**2 / 6))
    weak, strong = Behind(3.0, 0.1, 300.0), Behind(20.0, 0.001, 20.0)
    (doubt,) = too_thin((weak, strong), 2.0, 9000)
    assert (doubt.what, doubt.wrong) == ("fixed jaw", True)
    # 3 mm at 300 MPa: twice clear of 275 wants 3 * sqrt(2 * 300 / 275) = 4.4
    assert "2 mm thicker" in doubt.remedy
    assert too_thin((strong, strong), 2.0, 9000) == []


def test_jaws_of_a_plan_say_what_stays_behind_their_pocket():
    for name in ("Float-arm hub", "Gland plate"):
        document = planned(name)
        (piece,) = pieces_of(document, 2).pieces
        touching = piece.touching
        held = document.result.setups[1].result.hold
        assert touching.force_n == held.preload_high_n
        ys = [y for pocket in piece.pockets for y in np.array(pocket.outline[0])[:, 1]]
        assert touching.behind_mm == pytest.approx([piece.depth_mm - max(ys), min(ys)], abs=0.01)
        assert all(0 < bends < 0.02 for bends in touching.bends_mm)
        # nobody knows the force: not green
        (bare,) = jaw_pieces(
            replace(planned_setup(document, 2), verdicts=()), document.route.setups[1].form.vise
        )
        assert any("not known" in doubt.says and not doubt.wrong for doubt in bare.doubts)
