"""Pieces of a setup beyond its stops and clamps: pins, inserts, lifting, marking, blocks, money."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import pytest
from shapely.geometry import box

from tests.core.make.planned import planned
from wedgecraft.core.make.fasteners import THREADS
from wedgecraft.core.make.holes import Placed, table_of
from wedgecraft.core.make.room import marked
from wedgecraft.core.make.strokes import text_width_mm
from wedgecraft.core.plan.made import made_of
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.records.element import ELEMENTS
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.piece import HolePlace, Holes, Piece
from wedgecraft.core.records.screw import EdgeClamp


def _changed(document: JobDocument, path: str, value) -> JobDocument:
    """The planned job with one field of its route or rules changed, its result kept."""
    given = document.model_dump(mode="json")
    *way, last = path.split(".")
    node = given
    for key in way:
        node = node[int(key)] if isinstance(node, list) else node[key]
    node[last] = value
    return JobDocument.model_validate(given)


@pytest.fixture(scope="module")
def manifold():
    return planned("Manifold block, 8-port")


@pytest.mark.parametrize("kind", [item.model_fields["kind"].default for item in ELEMENTS])
def test_every_element_says_what_its_screws_want(kind):
    """A thread of its own screw, a bore with its class, or that only its maker knows; what comes
    with a vise wants nothing of a plate.
    """
    element = ELEMENTS[kind]()
    clamp = EdgeClamp(screw="M10", torque_nm=20)
    found = element.fixings(clamp, 30.0)
    under = element.under(box(0, 0, 90, 90))[1]
    assert (found + under == ()) == element.by_form
    for item in found:
        assert item.what
        if item.thread:
            assert item.thread == "M10"
            assert item.clamped_mm >= 30.0
        else:
            assert bool(item.fit) != bool(item.unknown)
            assert bool(item.fit) == (item.diameter_mm > 0)


def test_inserts_are_drilled_larger_run_in_by_hand_and_bought(manifold):
    direct, inserts = (
        pieces_of(_changed(manifold, "job.rules.threads", threads), 1)
        for threads in ("direct", "inserts")
    )
    for made, insert in ((direct, False), (inserts, True)):
        for row in made.pieces[0].holes:
            if row.thread:
                thread = THREADS[row.thread]
                assert row.insert == insert
                assert row.diameter_mm == (thread.insert_mm if insert else thread.drill_mm)
    threads = sum(len(row.places) for row in direct.pieces[0].holes if row.thread)
    assert sum(item.count for item in inserts.bought if "insert" in item.says) == threads
    bench = [
        next(step.count for step in made.pieces[0].steps if "bench" in step.what)
        for made in (direct, inserts)
    ]
    assert bench[1] - bench[0] == threads


def test_a_plate_too_heavy_for_one_is_lifted_at_its_middle(manifold):
    """23 kg, the published limit for one person under ideal conditions: aluminium of 400 x 350 x 61
    is just over it, of 60 under.
    """
    for thick, lifted in ((60.0, False), (61.0, True)):
        document = _changed(manifold, "route.setups.0.form.plate.thickness_mm", thick)
        piece = pieces_of(document, 1).pieces[0]
        rows = [row for row in piece.holes if row.places[0].what == "lifting"]
        assert bool(rows) == lifted
        assert {row.side for row in rows} == ({"front", "back"} if lifted else set())
        for row in rows:
            assert row.places[0].x_mm == pytest.approx(piece.centre_mm[0], abs=1.0)


def test_a_zero_on_the_plate_is_a_bore_and_all_is_measured_from_it(manifold):
    given = manifold.model_dump(mode="json")
    given["route"]["setups"][0]["zeros"] |= {"x_mm": 200.0, "y_mm": 130.0}
    piece = pieces_of(JobDocument.model_validate(given), 1).pieces[0]
    (row,) = [row for row in piece.holes if row.places[0].what == "datum bore"]
    assert (row.fit, row.places[0].x_mm, row.places[0].y_mm) == ("H7", 200.0, 130.0)
    assert piece.datum_mm == (200.0, 130.0)


def test_money_needs_both_rates_and_counts_machine_and_person(manifold):
    given = manifold.model_dump(mode="json")
    given["job"]["rules"]["person_rate_an_hour"] = 0
    given["route"]["setups"][0]["machine"]["rate_an_hour"] = 0
    assert pieces_of(JobDocument.model_validate(given), 1).money is None
    given["job"]["rules"]["person_rate_an_hour"] = 45
    given["route"]["setups"][0]["machine"]["rate_an_hour"] = 55
    made = pieces_of(JobDocument.model_validate(given), 1)
    assert made.money == pytest.approx(made.minutes / 60 * 100)


def test_faces_alike_are_one_piece_and_a_block_is_walls_or_solid():
    """Four faces, two of them alike; a hollow body as a cut list, its weight by hand; what its
    plates are screwed and dowelled by goes round it as its faces do.
    """
    document = planned("Manifold block, by the pallet")
    *faces, hollow = pieces_of(document, 1).pieces
    assert sum(piece.alike for piece in faces) == 4
    assert len(faces) < 4
    assert hollow.kind == "block"
    density = hollow.material.density_kg_m3 * 1e-9
    drilled = sum(
        len(row.places) * math.pi / 4 * row.diameter_mm**2 * row.depth_mm for row in hollow.holes
    )
    whole = 280**2 * 440 - 220**2 * 410  # its lid is as thick as its walls
    assert hollow.mass_kg == pytest.approx((whole - drilled) * density, rel=1e-6)
    walls = {item.says: item.count for item in hollow.bought if "Plate" in item.says}
    assert walls == {"Plate 30: 286 x 446": 2, "Plate 30: 220 x 446": 2, "Plate 30: 220 x 220": 1}
    # every plate's screws and dowels, turned about the block's axis, a quarter a face
    wanted = {
        (place.x_mm, place.y_mm)
        for row in faces[0].holes
        if row.side == "bottom" or row.sink_mm
        for place in row.places
    }
    assert len(wanted) == 6
    for quarter, side in enumerate(("front", "left", "back", "right")):
        angle = math.radians(-90 * quarter)
        c, s = math.cos(angle), math.sin(angle)
        turned = {(c * (x - 140) - s * -140 + 140, s * (x - 140) + c * -140 + 140, y)
                  for x, y in wanted}  # fmt: skip
        axis = 0 if side in ("front", "back") else 1
        own = sorted(
            (round(place.x_mm, 3), round(place.y_mm, 3))
            for row in hollow.holes
            if row.side == side
            for place in row.places
        )
        assert own == sorted((round(p[axis], 3), round(p[2], 3)) for p in turned)
    given = document.model_dump(mode="json")
    form = given["route"]["setups"][0]["form"]

    def block(**changes: float) -> Piece:
        given["route"]["setups"][0]["form"] = form | changes
        return pieces_of(JobDocument.model_validate(given), 1).pieces[-1]

    solid = block(wall_mm=0)
    assert solid.mass_kg == pytest.approx(280**2 * 440 * density, rel=1e-3)
    eye = next(item.says for item in solid.bought if "Eye bolt" in item.says)
    assert eye == "Eye bolt DIN 580 M12"  # 340 kg, for 282 with its plates
    assert "leave nothing between them" in next(
        d.says for d in block(wall_mm=140).doubts if d.wrong
    )
    # narrower than its plates' screws: nothing is behind them
    assert any("no block behind it" in d.says for d in block(across_mm=240).doubts if d.wrong)
    # screws near the edges of the plates meet in the corners
    for keepout in form["plate"]["keepouts"]:
        keepout["x_mm"] = 14 if keepout["x_mm"] < 140 else 266
    (corner,) = (d for d in block().doubts if d.wrong)
    assert (corner.what, "meet" in corner.says) == ("corner", True)


def test_marking_keeps_off_every_hole_and_gets_smaller_before_it_is_left_out():
    lines = ["PART OP 10", "SETUP 1  X0 Y0 THIS CORNER"]
    wide = max(text_width_mm(line, 1.0) for line in lines)
    rows = [
        Holes(
            letter="A",
            says="",
            diameter_mm=8,
            depth_mm=10,
            places=[
                HolePlace(x_mm=x, y_mm=y, what="")
                for x, y in itertools.product(range(20, 200, 40), range(20, 120, 50))
            ],
        )
    ]
    found = marked(lines, 200, 120, rows, 5.0)
    assert [mark.text for mark in found] == lines[::-1]
    for mark, place in itertools.product(found, rows[0].places):
        text = box(
            mark.x_mm,
            mark.y_mm,
            mark.x_mm + text_width_mm(mark.text, mark.high_mm),
            mark.y_mm + mark.high_mm,
        )
        hole = box(place.x_mm, place.y_mm, place.x_mm, place.y_mm).centroid.buffer(4)
        assert text.distance(hole) > 0.4
    narrow = marked(lines, wide * 3.6 + 10, 40, [], 5.0)
    assert narrow[0].high_mm == 3.5
    assert marked(lines, 30, 12, [], 5.0) == []


def test_a_job_that_was_not_planned_is_planned_for_its_pieces():
    bare = planned("Vane yoke").model_copy(update={"result": None})
    found = made_of(bare)
    assert found.feasible
    assert [bool(setup.pieces) for setup in found.setups] == [True, False]  # hard jaws need none
    empty = bare.model_copy(update={"route": None})
    assert not made_of(empty).feasible


def test_a_thread_below_a_bore_is_as_deep_as_if_it_began_there():
    """An expanding pin's foot is let 5 mm in; its thread's depth counts from the face."""
    foot, screw = ELEMENTS["expanding pin"]().fixings(EdgeClamp(screw="M8", torque_nm=20), 10.0)
    metal = planned("Vane yoke").route.setups[0].form.plate.material
    (bore, thread) = table_of([Placed(foot, 50, 50), Placed(screw, 50, 50)], 60, metal, False).rows
    assert bore.depth_mm == 5
    plain = replace(screw, starts_mm=0.0)
    (above,) = table_of([Placed(plain, 50, 50)], 60, metal, False).rows
    assert thread.thread_depth_mm == pytest.approx(above.thread_depth_mm + 5)
    assert thread.depth_mm == pytest.approx(above.depth_mm + 5)
