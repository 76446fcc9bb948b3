"""Soft jaws: what drops in never meets them, what is closed on touches, corners are really free."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from shapely.affinity import rotate, translate
from shapely.geometry import LineString, MultiPolygon, Point, Polygon, box

from tests.core.make.planned import planned
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.sources import Source
from wedgecraft.core.make.jaws import touching
from wedgecraft.core.make.pair import jaw_body, pair_of
from wedgecraft.core.make.pocket import _far_enough, best_cutting, cut_by, gripping, layers
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.workpiece.blank import FACED_MM
from wedgecraft.core.workpiece.body import Body, cylinder, prism, united


@pytest.fixture(scope="module")
def hub():
    """Op 20 of the float-arm hub is held in soft jaws."""
    return planned("Float-arm hub")


def _random_part(random: np.random.Generator) -> Body:
    """Boxes, rounds and a taper on top of one another: flanges above and below what they join."""
    pieces, z = [], 0.0
    for _ in range(random.integers(1, 4)):
        high = float(random.uniform(3, 9))
        x, y = (float(v) for v in random.uniform(-4, 4, 2))
        if random.random() < 0.5:
            pieces.append(cylinder((x, y, z), high, float(random.uniform(7, 14))))
        else:
            w, d = (float(v) for v in random.uniform(12, 30, 2))
            area = rotate(
                box(x - w / 2, y - d / 2, x + w / 2, y + d / 2), float(random.uniform(0, 90))
            )
            pieces.append(prism(area, z, z + high))
        z += high
    return united(pieces)


def _cut_out(part: Body, depth: float, clearance: float) -> Body:
    """A block with the layers milled out of it, as they are stated."""
    found = layers(part, depth, clearance)
    milled = [prism(layer.area, layer.low_mm, layer.high_mm) for layer in found]
    return prism(box(-60, -60, 60, 60), -5, depth) - united(milled)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 100_000), st.floats(0.01, 0.13))
def test_a_part_drops_in_without_meeting_anything_and_touches_when_pushed(seed, clearance):
    """Solid against solid, at a row of heights on its way down; pushed any way by a little more
    than the clearance it meets the wall.
    """
    random = np.random.default_rng(seed)
    part = _random_part(random)
    depth = float(random.uniform(0.3, 1.0)) * part.box[5]
    block = _cut_out(part, depth, clearance)
    for lift in np.linspace(0, part.box[5] + 1, 9):
        meets = part.moved(0, 0, float(lift)) & block
        assert meets.empty or meets.volume_mm3 < 1e-3
    angle = float(random.uniform(0, 2 * math.pi))
    way = clearance + 0.05
    pushed = part.moved(way * math.cos(angle), way * math.sin(angle), 0) & block
    assert pushed.volume_mm3 > 1e-4
    down = part.moved(0, 0, -0.02) & block
    assert down.volume_mm3 > 1e-3  # it sits on the floor


@settings(max_examples=80, deadline=None)
@given(st.floats(35, 150), st.sampled_from([3.0, 6.0, 8.0, 10.0, 16.0]), st.floats(0, 360))
def test_reliefs_clear_a_true_corner(angle, cutter, turn):
    """A wedge of any angle from 35° and any turn: a pin of the cutter's size, stepped along all the
    area that is said to be cut, really can be there, and the corner is in it.
    """
    half = math.radians(angle) / 2
    reach = 6 * cutter
    angles = np.linspace(-half, half, 24)
    wedge = Polygon([(0, 0), *((reach * math.cos(a), reach * math.sin(a)) for a in angles)])
    area = MultiPolygon([translate(rotate(wedge, turn, origin=(0, 0)), 5, -3)])
    walls = shapely.union_all(gripping(area, 5, 0.1))
    found = cut_by(area, cutter, walls, area.buffer(50))
    assert found.left.is_empty
    # the tip and a hair outside it all round are free but for rounding
    assert shapely.MultiPolygon(found.area).buffer(0.011).covers(Point(5, -3))
    for relief in found.reliefs:
        assert relief.radius_mm >= cutter / 2 - 1e-9
    # what is cut can be cut: opening by the cutter leaves it as it is
    radius = cutter / 2 - 0.02
    again = found.area.buffer(-radius, quad_segs=64).buffer(radius, quad_segs=64)
    assert found.area.difference(again.buffer(0.03)).area < 1e-3


def test_a_slot_narrower_than_the_cutter_is_left_and_said():
    area = MultiPolygon([box(0, 0, 40, 30), box(40, 13, 60, 16)])
    area = MultiPolygon([shapely.union_all(area)])
    walls = shapely.union_all(gripping(area, 20, 3.2))
    found = cut_by(area, 8.0, walls, area.buffer(30))
    assert found.left.area == pytest.approx(20 * 3, rel=0.15)
    assert cut_by(area, 3.0, walls, area.buffer(30)).left.area < 1e-6


def test_the_cutter_that_keeps_most_of_the_wall_is_taken():
    """Corners rounded to 6 mm: one of 12 needs no relief; sharp ones: small circles cost least."""
    rounded = MultiPolygon([box(-14, -9, 14, 9).buffer(6, quad_segs=32)])
    walls = shapely.union_all(gripping(rounded, 0.0, 3.2))
    found = best_cutting(rounded, 8.0, walls, rounded.buffer(30))
    assert (found.cutter_mm, found.reliefs) == (12.0, ())
    sharp = MultiPolygon([box(-20, -15, 20, 15)])
    walls = shapely.union_all(gripping(sharp, 0.0, 3.2))
    found = best_cutting(sharp, 8.0, walls, sharp.buffer(30))
    assert len(found.reliefs) == 4
    gone = shapely.union_all([relief.takes for relief in found.reliefs])
    assert walls.intersection(gone).length < 0.1  # along the walls that do not grip


def test_gripping_walls_in_closed_form():
    """A round grips a quarter of its circle on each jaw, a square its sides, less the gap."""
    for radius, gap in ((20.0, 3.2), (12.0, 1.0)):
        circle = MultiPolygon([Point(0, 0).buffer(radius, quad_segs=256)])
        for wall in gripping(circle, 0.0, gap):
            assert wall.length == pytest.approx(math.pi / 2 * radius, rel=0.01)
    square = MultiPolygon([box(-15, -10, 15, 10)])
    assert [wall.length for wall in gripping(square, 0.0, 3.2)] == [20.0, 20.0]
    diamond = MultiPolygon([rotate(box(-10, -10, 10, 10), 44)])
    left, right = gripping(diamond, 0.0, 3.0)
    # two of its four sides face within 45°: those at 44°; each loses what lies in the gap
    side = 20 * math.cos(math.radians(44))
    assert left.length == pytest.approx(right.length)
    assert 10 < left.length < 20 + side


def test_the_hubs_jaws_take_the_hub(hub):
    """The jaws a plan's piece is drawn from, as solids, against the workpiece of op 20."""
    view = views_of(setup_request(hub, 2))[0]
    worked = ready(view)
    pair = pair_of(worked)
    (piece,) = pieces_of(hub, 2).pieces
    jaws = jaw_body(pair, piece.thickness_mm)
    part = worked.sitting.before
    for lift in np.linspace(0, pair.depth_mm + 1, 7):
        assert (part.moved(0, 0, float(lift)) & jaws).volume_mm3 < 1e-2
    # closed by more than the clearance, the moving jaw is in the part
    for way in (-1, 1):
        assert (part.moved(way * (pair.clearance_mm + 0.05), 0, 0) & jaws).volume_mm3 > 1e-2
    # what the piece says is what the solid is
    density = piece.material.density_kg_m3 * 1e-9
    # less, by hand, two M8 screws a jaw: 9 mm through 62.42, 15 mm for all but 16 of it; and two
    # dowels of 6 mm, 12 deep in the fixed jaw, 17 in the moving one
    jaw = pair.fixed.bounds[2] - pair.fixed.bounds[0]
    screw, sunk = math.pi / 4 * 81 * jaw, math.pi / 4 * (225 - 81) * (jaw - 16)
    dowels = [2 * math.pi / 4 * 36 * deep for deep in (12, 17)]
    less = 4 * (screw + sunk) + sum(dowels)
    assert piece.mass_kg == pytest.approx((jaws.volume_mm3 - less) * density, rel=1e-4)
    turn = Rotation.from_euler("z", -90, degrees=True).as_matrix()[:2, :2]
    centre = turn @ np.array(jaws.centre_mm[:2])
    ends = np.array([turn @ np.array(jaws.box[k : k + 2]) for k in (0, 3)])
    x, y = centre - ends.min(axis=0)
    # screws are alike in both jaws; dowels are not
    deep = (dowels[0] * (jaw + 3.2 + 6) + dowels[1] * (jaw - 8.5)) / sum(dowels)
    left = jaws.volume_mm3 - less
    y = (y * jaws.volume_mm3 - (jaw + 1.6) * 4 * (screw + sunk) - deep * sum(dowels)) / left
    assert piece.centre_mm[:2] == pytest.approx((x, y), abs=2e-3)
    # from the gap's faces to the outside, no nearer to the pocket than 2 mm
    for row in piece.holes:
        assert row.side == ("front" if "fixed" in row.says else "back")
        assert row.begins_mm == pytest.approx(jaw + 3.2)
        for place in row.places:
            top = place.y_mm + row.widest_mm / 2
            aside = abs(place.x_mm - 50) - 24 - row.widest_mm / 2
            assert top <= piece.touching.floor_mm - 2 or aside >= 2 - 0.05
    # product's rules: never undersize, 0.025 to 0.13 mm all round; an eighth of an inch of gap
    assert 0.0249 <= piece.touching.clearance_mm <= 0.13
    assert piece.touching.gap_mm == pytest.approx(25.4 / 8, abs=0.05)
    assert piece.touching.fixed_mm == pytest.approx(math.pi / 2 * 24, rel=0.02)
    design = hub.result.setups[1].result.designs[0]
    assert piece.alike == len(design.stations)


def test_what_touches_goes_into_locate_in_place_of_the_nests_rule():
    """Not pushed into a corner, a part lies within its play along the jaws, where nothing but
    friction keeps it; across them the fixed jaw says where. Pushed, nothing is added.
    """
    document = planned("Gland plate")
    given = document.model_dump(mode="json")

    def play(**form: object) -> list[Source]:
        given["route"]["setups"][1]["form"] |= form
        changed = JobDocument.model_validate(given)
        worked = ready(views_of(setup_request(changed, 2))[0])
        sources = worked.locating.located[0].sources
        return [item for item in sources if item.name == "play in the nest"]

    assert play(pushed=True) == []
    for clearance in (0.05, 0.2):
        found = play(pushed=False, clearance_mm=clearance)
        half = np.abs([item.shift for item in found if not item.turn.any()]).max(axis=0)
        assert half[0] < 0.1 * clearance / 2
        assert half[1] <= clearance / 2 + FACED_MM / 2 + 1e-9
        # and as Make says it of the same pocket: reliefs there take little of the wall
        document = JobDocument.model_validate(given)
        worked = ready(views_of(setup_request(document, 2))[0])
        pair, nest = pair_of(worked), worked.view.station.element.nest
        rests = touching(pair, worked, nest).rests
        made = max(item.settled.half[1] for item in rests)
        assert half[1] == pytest.approx(made, rel=0.25)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 100_000), st.floats(1.5, 8.0))
def test_how_far_a_relief_goes_is_what_halving_finds(seed, radius):
    """Of every way the least distance at which the circle, drawn along it, takes all corners."""
    random = np.random.default_rng(seed)
    points = random.uniform(-1, 1, (5, 2)) * radius + random.uniform(-0.5, 1.5, 2) * radius
    angles = random.uniform(0, 2 * math.pi, 6)
    ways = np.column_stack([np.cos(angles), np.sin(angles)])
    for way, far in zip(ways, _far_enough(points, ways, radius), strict=True):

        def takes(at: float, way: np.ndarray = way) -> bool:
            line = LineString([(0, 0), tuple(at * way)]) if at else Point(0, 0)
            apart = [line.distance(Point(point)) for point in points]
            return max(apart) <= radius + 0.0025

        most = 2.5 * radius
        if not takes(most):
            assert far == np.inf or far == pytest.approx(most, abs=1e-6)
            continue
        low, high = 0.0, most
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (low, middle) if takes(middle) else (middle, high)
        assert far == pytest.approx(high, abs=1e-6)


def _two_hubs(hub: JobDocument, row: int, jaw_mm: float) -> JobDocument:
    given = hub.model_dump(mode="json")
    form = given["route"]["setups"][1]["form"]
    form |= {"row": row, "torque_nm": 60}
    form["vise"] |= {"jaw_width_mm": jaw_mm, "opening_mm": 200}
    return JobDocument.model_validate(given)


def test_several_parts_in_one_pair_of_jaws_each_drop_into_a_pocket_of_their_own(hub):
    """Solid against solid for both, and by hand: the wall between two pockets and at the jaws'
    ends, half of the force for each of two (statics), twice the wall that grips.
    """
    alone, asked = ready(views_of(setup_request(hub, 2))[0]), _two_hubs(hub, 2, 125)
    worked = ready(views_of(setup_request(asked, 2))[0])
    pair, one = pair_of(worked), pair_of(alone)
    first, second = worked.station.members
    assert (first.y_mm, pair.along) == (0.0, (0.0, second.y_mm))
    jaws, part = jaw_body(pair, 42.0), worked.sitting.before
    for member in (first, second):
        stood = part.moved(0, member.y_mm, 0)
        for lift in np.linspace(0, pair.depth_mm + 1, 5):
            assert (stood.moved(0, 0, float(lift)) & jaws).volume_mm3 < 1e-2
        for way in (-1, 1):
            pressed = stood.moved(way * (pair.clearance_mm + 0.05), 0, 0) & jaws
            assert pressed.volume_mm3 > 1e-2
    # seen from above: as they stand in the layout, jaws round both parts, and in neither
    band = worked.sitting.band(0.0, pair.depth_mm)
    moving = max(worked.station.clamp_bodies, key=lambda body: body.high_mm).polygon
    for jaw in (worked.station.long_stop, moving):
        for member in (first, second):
            assert jaw.intersection(translate(band, 0, member.y_mm)).area < 1e-6
            assert jaw.distance(translate(band, 0, member.y_mm)) < 0.06
    pockets = sorted(pair.cuttings[0].area.geoms, key=lambda item: item.bounds[1])
    (_, y0, _, y1), (_, y2, _, y3) = (item.bounds for item in pockets)
    assert y2 - y1 >= 6 - 2 * pair.clearance_mm
    assert y0 - pair.fixed.bounds[1] == pytest.approx(pair.fixed.bounds[3] - y3)
    assert pair.kept(0) == pytest.approx(2 * one.kept(0))
    force = worked.view.station.element.preload(worked.view.station.clamp)
    each = preload_of(worked.view, worked.sitting, worked.station)
    assert each.low_n == pytest.approx(force.low_n / 2, rel=1e-6)
    (piece,) = pieces_of(plan_route(asked, alternatives=False), 2).pieces
    assert f"2 pockets alike, {second.y_mm:g} mm apart" in " ".join(piece.notes)
    with pytest.raises(OutOfRange, match="at most 2: jaws 125 mm wide"):
        ready(views_of(setup_request(_two_hubs(hub, 3, 125), 2))[0])
