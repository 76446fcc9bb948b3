"""Holes, screws and dowels of plates against standards' tables, other geometry and brute force."""

from __future__ import annotations

import csv
import math
from dataclasses import replace
from fractions import Fraction
from importlib.resources import files
from itertools import product

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from shapely.affinity import rotate
from shapely.geometry import Point, Polygon

from tests.core.make.planned import planned
from wedgecraft.core.clamping.screw import screw_forces_n
from wedgecraft.core.make.fasteners import (
    DRILL_BELOW,
    INCH_LENGTHS,
    PICKED,
    SCREW_LENGTHS,
    THREADS,
    engagement_mm,
    screw_for,
)
from wedgecraft.core.make.plates import plate_pieces
from wedgecraft.core.make.stop_strength import stress_area_mm2
from wedgecraft.core.make.stops import stop_fixings
from wedgecraft.core.make.uneven import Holed, bolts_up, two_dowels
from wedgecraft.core.make.views import spread
from wedgecraft.core.make.webs import least_web_mm, thin_webs
from wedgecraft.core.plan.pieces import pieces_of, planned_setup
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.piece import HolePlace, Holes
from wedgecraft.core.records.screw import SCREWS, EdgeClamp


@pytest.fixture(scope="module")
def manifold():
    """Two setups, each with a plate of its own."""
    return planned("Manifold block, 8-port")


def _table(name):
    """A table of an open library of fasteners; its rows are the standards'."""
    text = (files("bd_warehouse") / "data" / name).read_text()
    return list(csv.DictReader(text.splitlines()))


def test_screws_are_those_of_the_standards():
    """ISO 273 medium, ISO 4762 heads (the library has them knurled, so up to 0.4 mm wider), keys
    and lengths, from the tables of bd_warehouse; tapping drills by the rule of ISO 2306.
    """
    clear = {row["Size"]: row["Normal"] for row in _table("clearance_hole_sizes.csv")}
    clear |= {"M12": "13.5", "M16": "17.5"}  # the library rounds these up to whole millimetres
    heads = {
        row["Size"].split("-")[0]: row
        for row in _table("socket_head_cap_parameters.csv")
        if row["iso4762:dk "]
    }
    rows = [list(row.values()) for row in _table("nominal_screw_lengths.csv")]
    listed = next(row[2] for row in rows if row[0] == "iso4762")
    lengths = {float(value) for value in listed.split(",")}
    assert set(SCREW_LENGTHS) <= lengths
    for thread in PICKED:
        name = thread.name
        assert thread.clear_mm == float(clear[name]), name
        assert 0 <= float(heads[name]["iso4762:dk "]) - thread.head_mm <= 0.4
        assert float(heads[name]["iso4762:k "]) == thread.head_high_mm
        assert float(heads[name]["iso4762:s "]) == thread.key_mm
        assert thread.drill_mm == pytest.approx(thread.nominal_mm - thread.pitch_mm, abs=0.06)
        assert thread.sink_mm >= thread.head_mm + 1
        # a wire insert adds a thread outside: its drill is a little over the nominal size
        assert 0 < thread.insert_mm - thread.nominal_mm < 0.8


def _inches(said: str) -> float:
    """ "11/32", "#7" and "F" as the table of drills has them."""
    drills = {row["Size"]: row["Diameter"] for row in _table("drill_sizes.csv")}
    return float(drills[said] if said in drills else Fraction(said))


def test_unified_screws_are_those_of_the_standards():
    """ASME B18.3 heads and keys, B18.2.8 normal clearance and the usual tapping drills from the
    tables of bd_warehouse; pitch diameters and stress areas by the formulas of ASME B1.1; the areas
    themselves as printed there, from memory.
    """
    clear = {row["Size"]: row["Normal"] for row in _table("clearance_hole_sizes.csv")}
    heads = {row["Size"]: row for row in _table("socket_head_cap_parameters.csv")}
    drills = {row["Size"]: row["Soft"] for row in _table("tap_hole_sizes.csv")}
    printed_in2 = {
        "#10-32": 0.0200,
        "1/4-20": 0.0318,
        "5/16-18": 0.0524,
        "3/8-16": 0.0775,
        "1/2-13": 0.1419,
        "5/8-11": 0.226,
    }
    assert set(printed_in2) == set(THREADS) - {thread.name for thread in PICKED}
    for name, area in printed_in2.items():
        thread, screw, head = THREADS[name], SCREWS[name], heads[name]
        size, per_inch = name.split("-")
        assert thread.clear_mm == pytest.approx(25.4 * _inches(clear[size]), abs=0.01), name
        assert thread.head_mm == pytest.approx(25.4 * float(head["asme_b18.3:dk "]), abs=0.01)
        assert thread.head_high_mm == pytest.approx(25.4 * float(head["asme_b18.3:k "]), abs=0.01)
        assert thread.key_mm == pytest.approx(25.4 * _inches(head["asme_b18.3:s "]), abs=0.01)
        assert thread.drill_mm == pytest.approx(25.4 * _inches(drills[name]), abs=0.02), name
        assert thread.sink_mm >= thread.head_mm + 1
        assert 0 < thread.insert_mm - thread.nominal_mm < 0.8
        assert screw.pitch_mm == thread.pitch_mm == pytest.approx(25.4 / int(per_inch), abs=1e-4)
        basic = thread.nominal_mm - 0.649519 * thread.pitch_mm
        assert screw.pitch_diameter_mm == pytest.approx(basic, abs=1e-3)
        assert screw.head_mean_diameter_mm == pytest.approx(
            (thread.head_mm + thread.clear_mm) / 2, abs=0.01
        )
        assert stress_area_mm2(thread) / 25.4**2 == pytest.approx(area, rel=0.005)
    # Rated as metric ones: the same stress at the same friction, to a tenth.
    stress = {
        name: screw_forces_n(EdgeClamp(screw=name, torque_nm=s.rated_torque_nm,
            torque_scatter=0, screw_friction_low=0.12, screw_friction_high=0.12))[0]
        / stress_area_mm2(THREADS[name])
        for name, s in SCREWS.items()
    }  # fmt: skip
    metric = [stress[name] for name in ("M6", "M8", "M10", "M12")]
    assert all(0.9 * min(metric) < stress[name] < max(metric) for name in printed_in2), stress
    assert THREADS["5/8-11"].screw(2.5 * 25.4) == "Screw ASME B18.3 5/8-11 x 2 1/2 in"


@settings(max_examples=200, deadline=None)
@given(st.sampled_from(sorted(THREADS)), st.floats(0.5, 120), st.booleans(), st.booleans())
def test_a_screw_is_long_enough_and_never_bottoms(name, clamped, steel, insert):
    thread = THREADS[name]
    material = MATERIALS["steel-c45" if steel else "aluminium-6061"]
    pick = screw_for(thread, clamped, material, insert)
    lengths = INCH_LENGTHS if thread.inch else SCREW_LENGTHS
    shorter = [length for length in lengths if length < pick.length_mm]
    least = (1.0 if steel and not insert else 1.5) * thread.nominal_mm  # product's rule
    assert engagement_mm(thread, material, insert) == least
    assert pick.length_mm in lengths
    assert pick.engaged_mm >= least - 1e-9
    assert not shorter or max(shorter) - clamped < least
    assert pick.engaged_mm < pick.thread_depth_mm < pick.drill_depth_mm
    assert pick.drill_depth_mm - pick.thread_depth_mm >= DRILL_BELOW * thread.pitch_mm - 1e-9


def test_every_station_gets_its_holes_where_it_stands(manifold):
    """Screws of clamps by rotation matrices; screws and dowels of stops inside the stops drawn."""
    for number in (1, 2):
        made = pieces_of(manifold, number)
        (piece,) = made.pieces
        assert not [doubt for doubt in piece.doubts if doubt.wrong]
        design = manifold.result.setups[number - 1].result.designs[0]
        at = {
            what: np.array(
                [(p.x_mm, p.y_mm) for r in piece.holes for p in r.places if p.what == what]
            )
            for what in {p.what for r in piece.holes for p in r.places}
        }
        clamps, bars = [], []
        for station in design.stations:
            drawing = design.kinds[station.kind].drawing
            turn = Rotation.from_euler("z", station.turn, degrees=True).as_matrix()[:2, :2]
            place = np.array([station.x_mm, station.y_mm])
            clamps += [turn @ np.array(screw) + place for screw in drawing.screws]
            bars += [Polygon(np.array(ring) @ turn.T + place) for ring in drawing.stops]
        assert len(clamps) == len(at["edge clamp"]) == design.count
        apart = np.linalg.norm(np.array(clamps)[:, None] - at["edge clamp"][None], axis=2)
        assert apart.min(axis=1).max() < 1e-3
        grooves = [Polygon(pocket.outline[0]) for pocket in piece.pockets if pocket.corner_mm == 2]
        let_in = [sum(groove.buffer(1e-3).covers(bar) for groove in grooves) for bar in bars]
        assert set(let_in) == {0, 1}
        for what, each, radius in (("stop, screw", 2, 3.5), ("stop, dowel", 2, 1.5)):
            inside = [sum(bar.buffer(-radius).covers(Point(p)) for p in at[what]) for bar in bars]
            dowel = what.endswith("dowel")
            assert inside == [each * (not (dowel and held)) for held in let_in]
        # what is bought fits what is drilled: a screw a thread, a dowel a bore
        screws = sum(item.count for item in made.bought if "ISO 4762" in item.says)
        threads = sum(len(row.places) for row in piece.holes if row.thread or row.sink_mm)
        assert screws == threads
        dowels = sum(item.count for item in made.bought if "Dowel" in item.says)
        assert dowels == sum(len(row.places) for row in piece.holes if row.fit)


@settings(max_examples=80, deadline=None)
@given(st.floats(6, 120), st.floats(4, 30), st.floats(5, 40), st.floats(0, 360))
def test_a_stop_of_any_size_keeps_its_holes_inside_and_apart(long, across, height, turn):
    """Or says that it is too small; a dowel at least, and none but one where one screw must do."""
    bar = rotate(shapely.box(-long / 2, -across / 2, long / 2, across / 2), turn)
    found = stop_fixings(bar, height)
    if found[0].unknown:
        assert across < 6.5 or long < 12
        return
    holes = []
    for item in found:
        size = THREADS[item.thread].drill_mm if item.thread else item.diameter_mm
        holes.append(Point(item.x, item.y).buffer(size / 2, 64))
        if item.dowel_mm:  # it never bottoms, and ends below the top
            proud = item.dowel_mm - item.depth_mm
            assert proud < height
            assert item.depth_mm >= 1.5 * item.diameter_mm
    assert all(bar.buffer(-1.0).covers(hole) for hole in holes)
    for k, one in enumerate(holes):
        assert all(one.distance(other) >= 2.0 for other in holes[k + 1 :])


def test_a_plate_too_thin_for_its_threads_says_so(manifold):
    thin = manifold.model_dump(mode="json")
    thin["route"]["setups"][0]["form"]["plate"]["thickness_mm"] = 8
    (piece,) = pieces_of(JobDocument.model_validate(thin), 1).pieces
    said = {doubt.says for doubt in piece.doubts if doubt.wrong}
    assert "an M8 thread wants 12 mm of Aluminium 6061-T6; there are 8 mm" in said


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_thin_webs_are_those_another_geometry_finds(seed):
    """Every two upright holes as cylinders: discs by a polygon library, heights by hand."""
    random = np.random.default_rng(seed)
    thick = float(random.uniform(10, 30))
    rows = []
    for k in range(4):
        places = [
            HolePlace(x_mm=float(x), y_mm=float(y), what=f"{k}")
            for x, y in random.uniform(0, 100, (4, 2))
        ]
        depth = None if random.random() < 0.5 else float(random.uniform(3, thick))
        rows.append(
            Holes(
                letter="ABCD"[k],
                says="",
                side="top" if k < 3 else "bottom",
                diameter_mm=float(random.uniform(3, 14)),
                depth_mm=depth,
                places=places,
            )
        )
    least = least_web_mm(thick)
    holes = []
    for row in rows:
        deep = thick if row.depth_mm is None else row.depth_mm
        span = (thick - deep, thick) if row.side == "top" else (0.0, deep)
        holes += [
            (f"{row.letter}{n}", Point(p.x_mm, p.y_mm).buffer(row.diameter_mm / 2, 96), span)
            for n, p in enumerate(row.places, 1)
        ]
    wanted = set()
    for (a, one, s), (b, other, t) in product(holes, holes):
        if a < b and s[0] < t[1] + least and t[0] < s[1] + least:
            gap = one.distance(other)
            if gap < least - 2e-3:
                wanted.add((a, b))
    plate = shapely.box(0, 0, 100, 100)
    edges = {
        a
        for a, one, _ in holes
        if plate.exterior.distance(one) < least - 2e-3 or not plate.covers(one)
    }
    found = thin_webs(rows, 100, 100, thick)
    pairs = {
        tuple(w.split(",")[0] for w in d.what.split(" and ")) for d in found if " and " in d.what
    }
    assert {tuple(sorted(pair)) for pair in pairs} == wanted
    assert {d.what.split(",")[0] for d in found if " and " not in d.what} == edges


def _brute(pattern, over):
    """All turns by whole degrees about every middle of two holes, and turned over."""
    at = np.array([(h.x, h.y) for h in pattern])
    kinds = [h.kind for h in pattern]
    for flip, degrees in product((False, True) if over else (False,), range(360)):
        turn = Rotation.from_euler("z", degrees, degrees=True).as_matrix()[:2, :2]
        own = (at * (-1, 1) if flip else at) @ turn.T
        for target in at:
            moved = own - own[0] + target
            if not flip and np.abs(moved - at).max() < 1.0:
                continue
            near = np.linalg.norm(moved[:, None] - at[None], axis=2)
            meets = [
                any(near[i, j] <= 0.2 and kinds[i] == kinds[j] for j in range(len(at)))
                for i in range(len(at))
            ]
            if all(meets):
                return True
    return False


@pytest.mark.parametrize("over", [False, True])
def test_a_pattern_that_bolts_up_otherwise_is_found_by_brute_force_too(over):
    random = np.random.default_rng(5 + over)
    seen = set()
    for _ in range(14):
        w, d = (float(v) for v in random.choice([60.0, 80.0, 100.0], 2))
        corners = [(0, 0), (w, 0), (w, d), (0, d)]
        pattern = [Holed(x, y, "screw") for x, y in corners[: random.integers(2, 5)]]
        if random.random() < 0.6:
            x, y = random.choice([10.0, 20.0, 30.0, 40.0], 2)
            pattern.append(Holed(float(x), float(y), "dowel"))
        found = bool(bolts_up(pattern, over))
        assert found == _brute(pattern, over), pattern
        seen.add(found)
    assert seen == {False, True}


def test_dowels_are_put_where_only_one_way_is_left():
    square = [Holed(x, y, "screw") for x in (20.0, 180.0) for y in (20.0, 180.0)]
    assert {round(way.turn_deg) for way in bolts_up(square)} == {90, 180, 270}
    places = [(10.0, 10.0), (10.0, 100.0), (190.0, 100.0), (190.0, 190.0), (190.0, 150.0)]
    pair = two_dowels(square, places, over=True)
    held = [*square, *(Holed(x, y, "dowel") for x, y in pair)]
    assert not _brute(held, over=True)
    # corner to corner is farther apart, and goes on half turned
    assert set(pair) != {(10.0, 10.0), (190.0, 190.0)}
    assert two_dowels(square, [(10.0, 100.0), (190.0, 100.0)]) is None


@settings(max_examples=100, deadline=None)
@given(st.lists(st.floats(0, 100), min_size=1, max_size=12).map(sorted), st.floats(0.5, 10))
def test_labels_keep_their_room_and_stay_near(wanted, room):
    """Against a quadratic program's conditions: no pair nearer than room, and moving any run of
    touching labels either way makes the squares larger.
    """
    found = np.array(spread(wanted, room))
    assert (np.diff(found) >= room - 1e-6).all()
    off = found - np.array(wanted)
    start = 0
    for k in range(1, len(found) + 1):
        if k == len(found) or found[k] - found[k - 1] > room + 1e-6:
            assert abs(off[start:k].mean()) < 1e-6
            start = k


def test_hours_are_those_of_the_trade(manifold):
    """A fixture plate is about an hour and a half of machining (common practice, no source)."""
    (piece,) = pieces_of(manifold, 1).pieces
    bench = {"program", "inserts and dowels, on the bench"}
    machining = sum(step.minutes for step in piece.steps if step.what not in bench)
    assert 60 < machining < 120
    assert piece.minutes == pytest.approx(sum(step.minutes for step in piece.steps))
    # weight by hand: the blank less every hole
    thick = piece.thickness_mm
    holes = 0.0
    for row in piece.holes:
        deep = row.depth_mm or thick
        squares = row.diameter_mm**2 * deep + (row.through_mm or 0) ** 2 * (thick - deep)
        if row.sink_mm:
            squares += (row.sink_mm**2 - row.diameter_mm**2) * row.sink_depth_mm
        holes += math.pi / 4 * squares * len(row.places)
    milled = sum(Polygon(item.outline[0]).area * item.depth_mm for item in piece.pockets)
    volume = piece.width_mm * piece.depth_mm * piece.thickness_mm - holes - milled
    assert piece.mass_kg == pytest.approx(volume * 2700e-9, rel=1e-5)


def test_holes_from_both_sides_meet_only_where_their_heights_do():
    """In a plate of 20: 8 deep from above and from below leave 4 between them, 9.5 leave 1."""
    for deep, thin in ((8.0, False), (9.5, True)):
        rows = [
            Holes(
                letter=letter,
                says="",
                side=side,
                diameter_mm=8,
                depth_mm=deep,
                places=[HolePlace(x_mm=x, y_mm=30, what="")],
            )
            for letter, side, x in (("A", "top", 30.0), ("B", "bottom", 33.0))
        ]
        assert bool(thin_webs(rows, 60, 60, 20)) == thin


def test_a_dowel_is_no_screw_to_a_pattern():
    """A square of three screws and a dowel goes on one way; of four screws, four."""
    corners = [(0.0, 0.0), (80.0, 0.0), (80.0, 80.0), (0.0, 80.0)]
    for k in range(4):
        kinds = ["dowel" if n == k else "screw" for n in range(4)]
        pattern = [Holed(x, y, kind) for (x, y), kind in zip(corners, kinds, strict=True)]
        assert bolts_up(pattern) == []
    assert len(bolts_up([Holed(x, y, "screw") for x, y in corners])) == 3


def test_plates_are_relieved_where_drills_and_cutters_come_out_below(manifold):
    """Places by rotation matrices; as deep as the drill's point by plain trigonometry, and 1 mm
    more. A square pocket right through is relieved as a pocket, and neither hole nor mark is in it.
    """
    (piece,) = pieces_of(manifold, 1).pieces
    (row,) = [row for row in piece.holes if "relief" in row.says]
    point = 13.6 / 2 / math.tan(math.radians(140 / 2))
    assert row.diameter_mm == 16.0
    assert row.depth_mm == pytest.approx(math.ceil(2 * (point + 1)) / 2)
    (design,) = [s.result.designs[0] for s in manifold.result.setups if s.number == 1]
    want = set()
    for station in design.stations:
        turn = Rotation.from_euler("z", station.turn, degrees=True)
        x, y, _ = turn.apply([27, 33, 0]) + [station.x_mm, station.y_mm, 0]
        want.add((round(x, 2), round(y, 2)))
    assert {(round(p.x_mm, 2), round(p.y_mm, 2)) for p in row.places} == want
    asked = planned_setup(manifold, 1)
    cut = asked.kinds[0].sitting.op.cuts[1].model_copy(
        update={
            "name": "T2 window", "kind": "pocket", "axial_depth_mm": 16.0, "passes": 2,
            "at": [(10, 10), (44, 10), (44, 24), (10, 24)],
        }
    )  # fmt: skip
    sitting = replace(
        asked.kinds[0].sitting, asked=asked.kinds[0].sitting.op.model_copy(update={"cuts": [cut]})
    )
    kinds = (replace(asked.kinds[0], sitting=sitting),)
    whole = plate_pieces(replace(asked, kinds=kinds))[0]
    whole.pockets[:] = [item for item in whole.pockets if item.what.startswith("relief")]
    assert len(whole.pockets) == len(design.stations)
    areas = [Polygon(pocket.outline[0]) for pocket in whole.pockets]
    # 34 x 14, a millimetre wider all round, less its corners of 6 mm; 1 mm through and 1 more
    assert areas[0].area == pytest.approx(36 * 16 - (4 - math.pi) * 6**2, rel=2e-3)
    assert whole.pockets[0].depth_mm == pytest.approx(2.0)
    for mark in whole.marks:
        x0, y0 = mark.x_mm, mark.y_mm
        assert not any(area.contains(Point(x0, y0)) for area in areas)
    beside = [d for d in whole.doubts if d.what.startswith("relief,")]
    near = [
        hole
        for row in whole.holes
        if row.side == "top"
        for hole in row.places
        if min(a.distance(Point(hole.x_mm, hole.y_mm)) for a in areas)
        < row.widest_mm / 2 + least_web_mm(whole.thickness_mm)
    ]
    assert sum(len(doubt.places) for doubt in beside) == len(near)


def test_two_reliefs_may_run_together_and_a_relief_keeps_off_a_thread():
    def row(letter, what, x):
        place = HolePlace(x_mm=x, y_mm=40, what=what)
        return Holes(letter=letter, says="", diameter_mm=10, depth_mm=3, places=[place])

    relief, thread = "relief under a hole", "clamp, screw"
    beside = [row("A", relief, 40), row("B", relief, 48)]
    assert thin_webs(beside, 100, 80, 25) == []
    (found,) = thin_webs([row("A", relief, 40), row("B", thread, 48)], 100, 80, 25)
    assert "run into one another" in found.says
    # no demo plate is spoilt by its reliefs
    for name in ("Float-arm hub", "Manifold block, 8-port"):
        for piece in pieces_of(planned(name), 1).pieces:
            assert not [doubt for doubt in piece.doubts if doubt.wrong]
