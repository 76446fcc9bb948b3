"""Pieces of a setup beyond its stops and clamps: pins, inserts, lifting, marking, blocks, money."""

from __future__ import annotations

import itertools
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
from wedgecraft.core.records.piece import HolePlace, Holes
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
    assert (found == ()) == element.by_form
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
    assert pieces_of(manifold, 1).money is None
    given = manifold.model_dump(mode="json")
    given["job"]["rules"]["person_rate_an_hour"] = 45
    given["route"]["setups"][0]["machine"]["rate_an_hour"] = 55
    made = pieces_of(JobDocument.model_validate(given), 1)
    assert made.money == pytest.approx(made.minutes / 60 * 100)


def test_faces_alike_are_one_piece_and_a_block_is_walls_or_solid():
    """Two and two of four faces; a hollow body as a cut list, its weight by hand."""
    document = planned("Manifold block, by the pallet")
    faces = pieces_of(document, 1).pieces
    assert [piece.alike for piece in faces] == [2, 2]
    block = {"across_mm": 240, "wall_mm": 20}
    given = document.model_dump(mode="json")
    given["route"]["setups"][0]["form"] |= block
    hollow = pieces_of(JobDocument.model_validate(given), 1).pieces[-1]
    assert hollow.kind == "block"
    density = hollow.material.density_kg_m3 * 1e-9
    assert hollow.mass_kg == pytest.approx((240**2 - 200**2) * 440 * density)
    walls = {item.says: item.count for item in hollow.bought}
    assert walls == {"Plate 20: 246 x 446": 2, "Plate 20: 200 x 446": 2, "Plate 20: 200 x 200": 1}
    given["route"]["setups"][0]["form"] |= {"wall_mm": 0}
    solid = pieces_of(JobDocument.model_validate(given), 1).pieces[-1]
    assert solid.mass_kg == pytest.approx(240**2 * 440 * density)
    given["route"]["setups"][0]["form"] |= {"wall_mm": 120}
    (doubt,) = pieces_of(JobDocument.model_validate(given), 1).pieces[-1].doubts
    assert doubt.wrong
    assert "leave nothing between them" in doubt.says


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
