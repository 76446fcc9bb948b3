"""What clamps are let into, what a vacuum and pull studs want in a plate; pockets, holes and edges
that come too near one another.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from tests.core.make.planned import planned
from wedgecraft.core.clamping.elements.edge_clamp import EdgeToe
from wedgecraft.core.clamping.elements.pull_stud import PullStud
from wedgecraft.core.clamping.elements.vacuum import Vacuum
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.make.plate_pockets import near_pockets
from wedgecraft.core.make.plates import plate_pieces
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.records.element import Body
from wedgecraft.core.records.piece import HolePlace, Holes, Pocket
from wedgecraft.core.records.screw import EdgeClamp


def _with_element(asked, element):
    """A planned setup, its clamps another kind of the same size."""
    (ready,) = asked.kinds
    station = ready.view.station.model_copy(update={"element": element})
    view = replace(ready.view, station=station)
    return replace(asked, kinds=(replace(ready, view=view),))


@settings(max_examples=40, deadline=None)
@given(st.floats(12, 60), st.floats(12, 60), st.floats(2, 40))
def test_what_a_clamp_is_let_into_takes_its_corners_and_its_cutter(wide, long, deep):
    """The body goes in with room all round, sharp corners and all; and a round cutter of the corner
    radius makes all of it, four diameters deep at most.
    """
    body = Body(shapely.box(0, 0, long, wide), 0, 12)
    (pocket,) = EdgeToe(let_in_mm=deep).let_in([body])
    # room of 0.2 mm all round but for a hair at the chords of its corners
    assert pocket.area.covers(body.polygon.buffer(0.19, join_style="mitre"))
    assert pocket.deep_mm == deep
    assert deep <= 4 * 2 * pocket.corner_mm + 1e-9
    made = pocket.area.buffer(-pocket.corner_mm * 0.995).buffer(pocket.corner_mm * 0.995)
    assert pocket.area.difference(made.buffer(0.05)).area < 0.05
    assert EdgeToe().let_in([body]) == ()


def test_clamps_of_a_plan_that_are_let_in():
    """Each stands in a pocket of its own; its screw begins on the floor and is as much longer."""
    asked = planned_setup(planned("Manifold block, 8-port"), 1)
    plain = plate_pieces(asked)[0]
    piece = plate_pieces(_with_element(asked, EdgeToe(let_in_mm=5)))[0]
    pockets = [item for item in piece.pockets if "edge clamp" in item.what]
    assert len(pockets) == len(asked.design.stations)
    drawn = [
        Polygon(np.array(body.outer) @ _turn(station.turn).T + (station.x_mm, station.y_mm))
        for station in asked.design.stations
        for body in asked.design.kinds[station.kind].drawing.bodies
        if body.name == "clamp"
    ]
    areas = [Polygon(item.outline[0]) for item in pockets]
    assert all(any(area.covers(body.buffer(0.15)) for area in areas) for body in drawn)
    (row,) = (r for r in piece.holes if r.places[0].what == "edge clamp")
    (before,) = (r for r in plain.holes if r.places[0].what == "edge clamp")
    assert (row.begins_mm, before.begins_mm) == (5, 0)
    long = {item.says for item in piece.bought if item.why == "edge clamp"}
    assert long == {"Screw ISO 4762 M8 x 30"}  # 12 + 5 of clamp, 12 in the thread: 29
    lost = sum(area.area for area in areas) * 5
    deep, was = row.depth_mm or 25 - 5, before.depth_mm or 25
    drilled = np.pi / 4 * row.diameter_mm**2 * len(row.places) * (deep - was)
    less = (plain.mass_kg - piece.mass_kg) / (2700e-9)
    assert less == pytest.approx(lost + drilled, rel=0.01)


def _turn(degrees: float) -> np.ndarray:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s], [s, c]])


def test_a_vacuum_has_its_groove_where_it_seals_and_a_port_inside():
    floor = shapely.box(0, 0, 80, 50)
    vacuum = Vacuum(border_mm=6, cord_mm=4)
    (groove,), (port,) = vacuum.under(floor)
    line = shapely.box(6, 6, 74, 44).exterior
    assert groove.area.area == pytest.approx(4 * line.length, rel=0.01)
    assert groove.area.buffer(0.01).covers(line)
    assert len(groove.area.interiors) == 1
    assert groove.deep_mm < 4  # the cord stands proud
    inner = Polygon(groove.area.interiors[0])
    assert inner.contains(shapely.Point(port.x, port.y).buffer(port.diameter_mm / 2))
    assert floor.buffer(-1).covers(groove.area)


def test_a_receiver_is_bored_once_somebody_says_how_wide():
    clamp = EdgeClamp(torque_nm=14)
    (unknown,) = PullStud().fixings(clamp, 12)
    assert unknown.unknown
    (bore,) = PullStud(receiver_mm=32, receiver_deep_mm=14).fixings(clamp, 12)
    assert (bore.diameter_mm, bore.fit, bore.depth_mm, bore.unknown) == (32, "H7", 14, "")


def test_receivers_stand_under_every_stud_of_every_station():
    """Where a station's studs pull, turned as it stands."""
    asked = planned_setup(planned("Manifold block, 8-port"), 1)
    view = asked.kinds[0].view
    element = PullStud(receiver_mm=25, receiver_deep_mm=14, seat_mm=20)
    changed = view.station.model_copy(update={"element": element, "clamps": 2})
    with_studs = ready(replace(view, station=changed))
    piece = plate_pieces(replace(asked, kinds=(with_studs,)))[0]
    (row,) = (r for r in piece.holes if r.places[0].what == "pull stud's receiver")
    assert (row.fit, row.diameter_mm, row.depth_mm) == ("H7", 25, 14)
    (member,) = with_studs.station.members
    own = np.array([(press.x, press.y) for press in member.presses])
    assert len(own) == 2
    wanted = np.concatenate(
        [own @ _turn(s.turn).T + (s.x_mm, s.y_mm) for s in asked.design.stations]
    )
    drilled = np.array([(place.x_mm, place.y_mm) for place in row.places])
    apart = np.linalg.norm(wanted[:, None] - drilled[None], axis=2)
    assert len(drilled) == len(wanted)
    assert apart.min(axis=1).max() < 1e-3
    # a drill comes out where one stands: said with the numbers, not drawn over
    assert any("receiver" in doubt.what and doubt.wrong for doubt in piece.doubts)
    # a vacuum has a groove and a port under every part, the port inside the groove
    held = view.station.model_copy(update={"element": Vacuum(), "clamps": 1})
    piece = plate_pieces(replace(asked, kinds=(ready(replace(view, station=held)),)))[0]
    grooves = [item for item in piece.pockets if item.what.startswith("groove for the seal")]
    (ports,) = (r for r in piece.holes if r.places[0].what == "vacuum port")
    assert len(grooves) == len(ports.places) == len(asked.design.stations)
    for groove, port in zip(grooves, ports.places, strict=True):
        assert Polygon(groove.outline[1]).contains(shapely.Point(port.x_mm, port.y_mm))


def test_pockets_that_leave_too_little_are_named():
    """25 mm of plate want webs of 2: beside holes, between pockets, to an edge, below."""
    plate = planned_setup(planned("Manifold block, 8-port"), 1).request.plate
    assert plate.thickness_mm == 25

    def pocket(x0, y0, x1, y1, deep=5.0, what="pocket, station 1"):
        ring = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        return Pocket(what=what, outline=[ring], depth_mm=deep, corner_mm=2, floor_mm=25 - deep)

    def hole(x, y):
        place = HolePlace(x_mm=x, y_mm=y, what="screw")
        return Holes(letter="A", says="", diameter_mm=6, depth_mm=10, places=[place])

    first = pocket(100, 100, 120, 120)
    cases = [
        ([first], [hole(124, 110)], "holes leave less"),
        ([first], [hole(126, 110)], None),
        ([first], [hole(110, 110)], None),  # on its floor
        ([first, pocket(121, 100, 140, 120)], [], "1.0 mm are left to pocket"),
        ([first, pocket(123, 100, 140, 120)], [], None),
        ([first, pocket(121, 100, 140, 120, what="relief, station 2")], [], None),
        ([pocket(1, 100, 20, 120)], [], "plate's edge"),
        ([pocket(100, 100, 120, 120, 24)], [], "1.0 mm are left below it"),
    ]
    for pockets, rows, says in cases:
        found = near_pockets(pockets, rows, plate)
        assert [says in doubt.says for doubt in found] == ([] if says is None else [True])
