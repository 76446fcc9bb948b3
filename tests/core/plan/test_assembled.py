"""A setup put together: what is screwed to what lines up, and no two bodies are in one another."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest
from shapely.geometry import Polygon

from tests.core.make.planned import planned
from wedgecraft.core.make.sides import frame, section
from wedgecraft.core.make.solid import bodies
from wedgecraft.core.plan.assembled import assembled
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.workpiece.body import prism, united

PALLET = "Manifold block, by the pallet"


def _of(faces: int = 4, **changes: float):
    """The pallet's job with another block: planned for four, put round as many faces."""
    document = planned(PALLET)
    if faces == 4 and not changes:
        return document
    given = document.model_dump(mode="json")
    form = given["route"]["setups"][0]["form"]
    form |= {"faces": faces} | changes
    design = given["result"]["setups"][0]["result"]["designs"][0]
    design["faces"] = [f"B{360 * k / faces:g}°" for k in range(faces)]
    return JobDocument.model_validate(given)


def _axes(piece, pose, wanted):
    """Middles and ways of holes, where they stand."""
    turn, move = np.array(pose)[:, :3], np.array(pose)[:, 3]
    for row in piece.holes:
        for place in row.places:
            if wanted(row, place):
                side = frame(piece, row.side)
                yield turn @ side.at(place.x_mm, place.y_mm) + move, turn @ side.into, place.what


@pytest.mark.parametrize("faces", [4, 3, 5, 6, 2])
def test_every_plate_lines_up_with_what_it_is_screwed_to(faces):
    """Axes of screws and dowels of every plate against those of threads and bores of the block,
    round any number of faces; a block turned the other way would not have them.
    """
    across = {2: 280, 3: 560, 4: 280, 5: 420, 6: 500}[faces]
    document = _of(faces, across_mm=across) if faces != 4 else _of()
    whole = assembled(document, 1)
    named = [(item, whole.solids[item.solid].piece) for item in whole.stands]
    block, own = next((item, piece) for item, piece in named if piece and piece.kind == "block")
    bored = list(_axes(own, block.pose, lambda row, place: place.what != "lifting"))
    plates = [(item, piece) for item, piece in named if piece and piece.kind == "plate"]
    assert len(plates) == faces
    count = 0
    for item, piece in plates:
        for at, way, _ in _axes(
            piece, item.pose,
            lambda row, place: place.what == "hold-down screw" or row.side == "bottom",
        ):  # fmt: skip
            count += 1
            off = [
                np.linalg.norm(np.cross(there - at, way))
                for there, along, _ in bored
                if abs(abs(along @ way) - 1) < 1e-9 and abs((there - at) @ way) < 40
            ]
            assert min(off, default=99) < 1e-3, (faces, item.name)
    assert count == len(bored) == 6 * faces
    # the sides it names are where the plates are, in the order in which they come
    (said,) = (note for note in own.notes if note.startswith("Faces, as they come"))
    sides = [item.split(" ", 1)[1] for item in said.rstrip(".").split(": ")[1].split(", ")]
    turn = np.array(block.pose)[:, :3]
    for (item, _), side in zip(plates, sides, strict=True):
        outward = np.array(item.pose)[:, 2]
        assert turn @ frame(own, side).into == pytest.approx(-outward, abs=1e-9)


def test_a_block_of_any_number_of_faces_is_cut_as_it_is_weighed():
    """Solid and hollow: weight against the meshed solid, section against the area of a regular
    polygon, n / 4 w^2 tan(pi / n); walls enough to go round.
    """
    for faces, across in ((3, 560), (5, 420), (6, 500)):
        ring = Polygon(section(faces, across))
        assert ring.area == pytest.approx(faces / 4 * across**2 * math.tan(math.pi / faces))
        assert ring.exterior.is_ccw
        assert np.ptp(np.array(ring.exterior.coords)[:2, 1]) == pytest.approx(0, abs=1e-9)
        for wall in (0, 30):
            made = pieces_of(_of(faces, across_mm=across, wall_mm=wall), 1)
            piece = made.pieces[-1]
            assert not [doubt for doubt in piece.doubts if doubt.wrong]
            ((_, body),) = bodies(piece)
            density = piece.material.density_kg_m3 * 1e-9
            assert piece.mass_kg == pytest.approx(body.volume_mm3 * density, rel=1e-4)
            assert piece.minutes < 600  # nobody mills what is welded round
            walls = [item for item in piece.bought if "walls" in item.why]
            assert [item.count for item in walls] == ([faces] if wall else [])


@pytest.mark.parametrize(
    ("name", "number"), [(PALLET, 1), ("Float-arm hub", 2), ("Staff-gauge cover", 1)]
)
def test_no_two_bodies_of_a_setup_are_in_one_another(name, number):
    """Solids of a face's first stations, all of them, by an open library's intersections; parts of
    soft jaws and their pockets too.
    """
    whole = assembled(planned(name), number)
    shapes = []
    for solid in whole.solids:
        if solid.piece is not None:
            shapes.append(united([body for _, body in bodies(solid.piece)]))
            continue
        slabs = [
            prism(Polygon(rings[0], rings[1:]), slab.low_mm, slab.high_mm)
            for slab in solid.slabs
            for rings in slab.areas
        ]
        shapes.append(united(slabs))
    kept = [
        item
        for item in whole.stands
        if "station" not in item.name or item.name.split("station ")[1].split(".")[0] in ("1", "2")
    ]
    placed = []
    for item in kept:
        pose = np.array(item.pose)
        assert np.linalg.det(pose[:, :3]) == pytest.approx(1)
        moved = shapes[item.solid].turned(pose[:, :3], tuple(map(float, pose[:, 3])))
        placed.append((item.name, moved))
    assert len(placed) > 4
    for (one, a), (other, b) in combinations(placed, 2):
        both = a & b
        of_a_vise = name == "Staff-gauge cover" and "part" not in one + other
        if both.empty or of_a_vise:
            continue  # bed and middle jaw are those of both stations of a vise
        # films of chords and of what is pressed together; a clamp that is shut bites nothing
        assert both.thickness_mm < 0.06, (one, other, both.volume_mm3)
