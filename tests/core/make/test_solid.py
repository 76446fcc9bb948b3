"""Meshed solids of pieces: every side's holes where the hole table has them, by casting points."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from wedgecraft.core.make.finish import finished
from wedgecraft.core.make.solid import bodies
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.piece import HolePlace, Holes, Piece, Pocket
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.shop.picks import named

_W, _D, _T = 90.0, 60.0, 50.0
#: Of each side: a place off every axis of symmetry, and the same place seen in space, with the way
#: in.
_SIDES = {
    "top": ((20, 12), (20, 12, _T), (0, 0, -1)),
    "bottom": ((70, 44), (70, 44, 0), (0, 0, 1)),
    "front": ((70, 20), (70, 0, 20), (0, 1, 0)),
    "back": ((25, 35), (25, _D, 35), (0, -1, 0)),
    "left": ((15, 30), (0, 15, 30), (1, 0, 0)),
    "right": ((45, 12), (_W, 45, 12), (-1, 0, 0)),
}


def _piece(**more: object) -> Piece:
    given = {"name": "block", "kind": "plate", "alike": 1, "ops": [10],
             "material": MATERIALS["aluminium-6061"], "width_mm": _W, "depth_mm": _D,
             "thickness_mm": _T, "datum_mm": (0, 0), "datum_says": "corner"}  # fmt: skip
    return Piece.model_validate(given | more)


def _row(side: str, **more: object) -> Holes:
    (x, y), _, _ = _SIDES[side]
    given = {"letter": "A", "says": "x", "side": side, "diameter_mm": 6, "depth_mm": 14,
             "sink_mm": 10, "sink_depth_mm": 4,
             "places": [HolePlace(x_mm=x, y_mm=y, what="x")]}  # fmt: skip
    return Holes.model_validate(given | more)


def _mesh(piece: Piece) -> trimesh.Trimesh:
    (found,) = bodies(piece)
    return trimesh.Trimesh(*found[1].mesh, process=True)


def _inside(mesh: trimesh.Trimesh, spots: list) -> list[bool]:
    """By the solid angle of all triangles (van Oosterom and Strackee, 1983): a full turn inside."""
    found = []
    for spot in spots:
        a, b, c = (
            mesh.vertices[mesh.faces[:, k]] - np.asarray(spot, dtype=float) for k in range(3)
        )
        na, nb, nc = (np.linalg.norm(item, axis=1) for item in (a, b, c))
        over = np.einsum("ij,ij->i", a, np.cross(b, c))
        under = na * nb * nc + (a * b).sum(1) * nc + (b * c).sum(1) * na + (c * a).sum(1) * nb
        found.append(bool(np.arctan2(over, under).sum() * 2 > 2 * math.pi))
    return found


@pytest.mark.parametrize("side", _SIDES)
def test_a_hole_on_any_side_goes_in_where_it_is_said_to(side):
    mesh = _mesh(_piece(holes=[_row(side)]))
    assert mesh.is_watertight
    _, start, way = (np.array(item, dtype=float) for item in _SIDES[side])
    across = np.roll(way, 1)
    # along its axis: free to its depth and no farther; beside it: free to the counterbore's foot
    for aside, deep in ((0.0, 14.0), (2.9, 14.0), (4.8, 4.0)):
        spots = [start + across * aside + way * at for at in (0.2, deep - 0.2, deep + 0.2)]
        assert _inside(mesh, spots) == [False, False, True]
    assert _inside(mesh, [start + across * 5.2 + way * 0.5]) == [True]
    gone = math.pi / 4 * (36 * 14 + (100 - 36) * 4)
    assert mesh.volume == pytest.approx(_W * _D * _T - gone, rel=1e-4)


@pytest.mark.parametrize("side", _SIDES)
def test_the_weight_and_centre_of_a_piece_are_its_solids(side):
    """What is counted row by row against the mesh: one through, one stepped, one begun inside."""
    through = _row(side, depth_mm=None, sink_mm=None, sink_depth_mm=None)
    stepped = _row(side, depth_mm=10, through_mm=3, sink_mm=None, sink_depth_mm=None)
    inner = _row(side, begins_mm=8, depth_mm=12)
    machine = Machine.model_validate(named("machine", "Vertical, 760 x 460 mm travel").model_dump())
    for row in (through, stepped, inner):
        piece = finished(_piece(holes=[row]), machine, HouseRules())
        mesh = _mesh(piece)
        density = piece.material.density_kg_m3 * 1e-9
        assert piece.mass_kg == pytest.approx(mesh.volume * density, rel=1e-5)
        assert piece.centre_mm == pytest.approx(mesh.center_mass, abs=1e-3)


def test_a_pocket_is_open_above_or_a_hollow_inside_and_several_bodies_are_apart():
    square = [[(30.0, 20.0), (60.0, 20.0), (60.0, 40.0), (30.0, 40.0)]]
    for floor, deep, free in ((30.0, 20.0, True), (20.0, 10.0, False)):
        pocket = Pocket(what="p", outline=square, depth_mm=deep, corner_mm=3, floor_mm=floor)
        mesh = _mesh(_piece(pockets=[pocket]))
        assert mesh.volume == pytest.approx(_W * _D * _T - 30 * 20 * deep)
        assert _inside(mesh, [(45, 30, _T - 0.1)]) == [not free]
        assert _inside(mesh, [(45, 30, floor + 0.1)]) == [False]
    halves = [
        [(0.0, 0.0), (_W, 0.0), (_W, 28.0), (0.0, 28.0)],
        [(0.0, 32.0), (_W, 32.0), (_W, _D), (0.0, _D)],
    ]
    across = _row("back", begins_mm=28, depth_mm=None, sink_mm=None, sink_depth_mm=None)
    found = dict(bodies(_piece(bodies=halves, holes=[across])))
    assert list(found) == ["block 1", "block 2"]
    meshes = [trimesh.Trimesh(*body.mesh) for body in found.values()]
    # begun in the gap it goes through the nearer half, and leaves the farther one whole
    bore = math.pi / 4 * 36 * 28
    assert meshes[0].volume == pytest.approx(_W * 28 * _T - bore, rel=2e-4)
    assert meshes[1].volume == pytest.approx(_W * 28 * _T, abs=1.0)
