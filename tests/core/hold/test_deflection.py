"""What gives: beams against formulas and a frame package, shear against plane elasticity, plates
against Morley's elements.
"""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from Pynite import FEModel3D
from scipy.sparse.linalg import spsolve
from skfem import (
    Basis,
    BilinearForm,
    ElementQuad2,
    ElementTriMorley,
    ElementVector,
    MeshQuad,
    MeshTri,
)
from skfem.helpers import dd, ddot, eye, sym_grad, trace

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.deflection import beam_give_mm, box_section, plate_give_mm
from wedgecraft.core.records.deflection import BeamRequest, PlateRequest
from wedgecraft.core.records.material import POISSON

STEEL = 206_000.0


def _beam(**values) -> BeamRequest:
    return BeamRequest(
        **(
            {"length_mm": 400, "across_mm": 90, "youngs_mpa": STEEL, "force_n": 1000, "at_mm": 400}
            | values
        )
    )


@pytest.mark.parametrize(("wall", "inertia"), [(0, 90**4 / 12), (10, (90**4 - 70**4) / 12)])
def test_a_cantilever_bends_as_the_formula_says_and_shears_besides(wall, inertia):
    """``F L^3 / (3 E I)``; any text on strength of materials."""
    bending = 1000 * 400**3 / (3 * STEEL * inertia)
    assert beam_give_mm(_beam(wall_mm=wall, shear=False)) == pytest.approx(bending)
    shear_area = 5 / 6 * 90**2 if wall == 0 else 2 * 10 * 90
    shear = 1000 * 400 / (STEEL / (2 * (1 + POISSON)) * shear_area)
    assert beam_give_mm(_beam(wall_mm=wall)) == pytest.approx(bending + shear)
    tilt = 1000 * 400**2 / 5e9
    assert beam_give_mm(_beam(wall_mm=wall, joint_nmm_per_rad=5e9)) == pytest.approx(
        bending + shear + tilt
    )


@settings(max_examples=15, deadline=None)
@given(st.floats(0.1, 1.0), st.booleans(), st.booleans())
def test_a_bar_held_at_one_end_or_resting_in_a_tail_support_gives_as_in_a_frame_package(
    share, tail, hollow
):
    beam = _beam(at_mm=round(400 * share, 3), tail=tail, wall_mm=12 if hollow else 0, shear=False)
    inertia, _ = box_section(beam.across_mm, beam.wall_mm)
    model = FEModel3D()
    for name, x in (("root", 0.0), ("load", beam.at_mm), ("end", 400.0)):
        if name != "load" or beam.at_mm < 399.9:
            model.add_node(name, x, 0, 0)
    at = "load" if "load" in model.nodes else "end"
    model.add_material("steel", STEEL, STEEL / 2.6, 0.3, 7.85e-6)
    model.add_section("box", 5000, inertia, inertia, 2 * inertia)
    nodes = ["root", "load", "end"] if at == "load" else ["root", "end"]
    for k, (a, b) in enumerate(pairwise(nodes)):
        model.add_member(f"m{k}", a, b, "steel", "box")
    model.def_support("root", True, True, True, True, True, True)
    if tail:
        model.def_support("end", False, True, True, False, False, False)
    model.add_node_load(at, "FY", -beam.force_n)
    model.analyze_linear()
    assert beam_give_mm(beam) == pytest.approx(-model.nodes[at].DY["Combo 1"], rel=1e-4, abs=1e-9)


def test_a_short_solid_block_gives_as_plane_elasticity_has_it():
    """A stub 200 mm high and 100 mm across: shear is a good part of it. Quadratic elements, clamped
    foot, load along the top edge.
    """
    length, across = 200.0, 100.0
    mesh = MeshQuad.init_tensor(np.linspace(0, across, 13), np.linspace(0, length, 25))
    basis = Basis(mesh, ElementVector(ElementQuad2()))
    shear, first = STEEL / (2 * (1 + POISSON)), STEEL * POISSON / (1 - POISSON**2)

    @BilinearForm
    def stiffness(u, v, _):
        return ddot(2 * shear * sym_grad(u) + first * eye(trace(sym_grad(u)), 2), sym_grad(v))

    matrix = stiffness.assemble(basis)
    top, foot = (
        basis.get_dofs(lambda x: np.isclose(x[1], length)),
        basis.get_dofs(lambda x: np.isclose(x[1], 0)),
    )
    force = np.zeros(basis.N)
    pushed = np.concatenate([top.nodal["u^1"], top.facet["u^1"]])
    force[pushed] = 1000 / len(pushed)
    free = np.setdiff1d(np.arange(basis.N), foot.all())
    moved = np.zeros(basis.N)
    moved[free] = spsolve(matrix.tocsr()[free][:, free].tocsc(), force[free])
    # The plane is 1 mm thick, the beam 100 mm: a hundredth of the force.
    expected = float(moved[pushed].mean())
    ours = beam_give_mm(
        _beam(length_mm=length, across_mm=across, at_mm=length, force_n=1000 * across)
    )
    assert ours == pytest.approx(expected, rel=0.04)
    assert (
        beam_give_mm(
            _beam(
                length_mm=length, across_mm=across, at_mm=length, force_n=1000 * across, shear=False
            )
        )
        < 0.9 * expected
    )


def _plate_elements(plate: PlateRequest) -> float:
    """Morley's triangles, refined; screws as springs at nodes."""
    places = [*plate.screws_mm, plate.at_mm]
    grid = [
        np.unique(np.concatenate([np.linspace(0, side, 9), [p[axis] for p in places]]))
        for axis, side in ((0, plate.width_mm), (1, plate.depth_mm))
    ]
    basis = Basis(MeshTri.init_tensor(*grid).refined(2), ElementTriMorley())
    rigidity = plate.youngs_mpa * plate.thickness_mm**3 / 12 / (1 - POISSON**2)

    @BilinearForm
    def bending(u, v, _):
        return ddot(rigidity * ((1 - POISSON) * dd(u) + POISSON * eye(trace(dd(u)), 2)), dd(v))

    matrix = bending.assemble(basis).tolil()

    def node(x: float, y: float) -> int:
        return int(
            basis.nodal_dofs[0, np.argmin(np.hypot(basis.mesh.p[0] - x, basis.mesh.p[1] - y))]
        )

    for at in plate.screws_mm:
        matrix[node(*at), node(*at)] += plate.screw_n_per_mm
    force = np.zeros(basis.N)
    force[node(*plate.at_mm)] = plate.force_n
    return float(spsolve(matrix.tocsc(), force)[node(*plate.at_mm)])


CORNERS = [(20, 20), (380, 20), (20, 330), (380, 330)]


@pytest.mark.parametrize(
    ("screws", "at", "thickness"),
    [
        (CORNERS, (200, 175), 25),
        (CORNERS, (300, 100), 12),
        ([*CORNERS, (200, 175)], (120, 90), 20),
        (CORNERS[:3], (150, 120), 25),
    ],
)
def test_a_plate_on_its_screws_gives_as_finite_elements_have_it(screws, at, thickness):
    plate = PlateRequest(
        width_mm=400,
        depth_mm=350,
        thickness_mm=thickness,
        youngs_mpa=69_000,
        screws_mm=screws,
        at_mm=at,
        force_n=1000,
        screw_n_per_mm=2e5,
    )
    assert plate_give_mm(plate) == pytest.approx(_plate_elements(plate), rel=0.04)


def test_a_strip_between_two_pairs_of_screws_bends_as_a_beam():
    """``F L^3 / (48 E I)`` for a beam on two supports, any text; a narrow plate of some width is a
    little stiffer.
    """
    plate = PlateRequest(
        width_mm=400,
        depth_mm=20,
        thickness_mm=10,
        youngs_mpa=69_000,
        at_mm=(200, 10),
        force_n=100,
        screw_n_per_mm=1e9,
        screws_mm=[(0, 0), (0, 20), (400, 0), (400, 20)],
    )
    assert plate_give_mm(plate) == pytest.approx(
        100 * 400**3 / (48 * 69_000 * 20 * 10**3 / 12), rel=0.02
    )


@pytest.mark.parametrize(
    ("make", "field"),
    [
        (lambda: beam_give_mm(_beam(at_mm=401)), "at_mm"),
        (lambda: beam_give_mm(_beam(wall_mm=45)), "wall_mm"),
        (
            lambda: plate_give_mm(
                PlateRequest(
                    width_mm=100,
                    depth_mm=100,
                    thickness_mm=10,
                    youngs_mpa=STEEL,
                    at_mm=(50, 50),
                    force_n=1,
                    screws_mm=[(10, 10), (50, 50), (90, 90)],
                )
            ),
            "screws_mm",
        ),
        (
            lambda: plate_give_mm(
                PlateRequest(
                    width_mm=100,
                    depth_mm=100,
                    thickness_mm=10,
                    youngs_mpa=STEEL,
                    at_mm=(50, 150),
                    force_n=1,
                    screws_mm=[(10, 10), (50, 90), (90, 10)],
                )
            ),
            "at_mm",
        ),
    ],
)
def test_what_cannot_be_is_refused_with_its_field(make, field):
    with pytest.raises(OutOfRange) as caught:
        make()
    assert caught.value.field == field
    assert not math.isnan(beam_give_mm(_beam(force_n=0)))
