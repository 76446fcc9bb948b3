"""Soft jaws: what both halves of a pocket press on, in closed form and on the solids."""

from __future__ import annotations

import math

import numpy as np
import pytest
from shapely.geometry import Point

from tests.core.workpiece.test_states import _FACE, _part
from wedgecraft.core.forms.vises import Vises
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.stock import Stock, StockDimension, Variation
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.nest import nest_contacts, touches
from wedgecraft.core.workpiece.sitting import sits

FORCE_N, RADIUS, DEPTH = 10_000.0, 20.0, 8.0
_NONE = StockDimension(variation=Variation(kind="range", value_mm=0))
_EXACT = Stock(kind="forged", x=_NONE, y=_NONE, z=_NONE)


def _round(**form):
    """A disc of 40 mm, 20 mm high, in soft jaws."""
    part = _part([Op(number=10, cuts=[_FACE])])
    outline = Outline.model_validate({"shape": {"kind": "round", "diameter_mm": 2 * RADIUS}})
    blank = {"outline": outline, "height_mm": 20.0, "stock": _EXACT}
    part = part.model_copy(update=blank)
    jaws = Vises(jaws="soft", depth_mm=DEPTH, **form)
    station = jaws.station(StopAndEdgeClamp(clamp=EdgeClamp(torque_nm=10)))
    return sits(part, part.ops[0], DEPTH), station


def test_a_round_is_pressed_as_the_closing_shares_itself_out():
    """Pressure goes with the cosine, so that together they press with the jaws' force, evenly up
    and down; beyond 45° nothing presses. With p the pressure amid the arc, the forces add up to
    F (integral of cos) / (integral of cos²) over ±45° = F · √2 / (π/4 + 1/2).
    """
    sitting, station = _round()
    contacts = nest_contacts(sitting, station, station.element.nest, FORCE_N)
    moving = [item for item in contacts if item.kind == "clamp"]
    forces = np.array([item.preload_n for item in moving])
    ways = np.array([item.normal for item in moving])
    pressed = forces @ ways
    assert pressed[0] == pytest.approx(-FORCE_N)
    assert abs(pressed[1]) < 0.02 * FORCE_N  # pieces are cut where the ring begins
    assert forces.sum() == pytest.approx(FORCE_N * math.sqrt(2) / (math.pi / 4 + 0.5), rel=0.02)
    disc = sitting.at(DEPTH / 2)
    for item in contacts:
        x, y, z = item.point_mm
        assert 0 < z < DEPTH
        assert disc.exterior.distance(Point(x, y)) < 0.01
        facing = np.array([x - RADIUS, y - RADIUS]) / RADIUS
        assert np.array(item.normal[:2]) @ facing < -0.99
        assert abs(facing[0]) > 0.7
    area = sum(item.area_mm2 for item in moving)
    assert area == pytest.approx(math.pi / 2 * RADIUS * DEPTH, rel=0.08)


def test_pulled_up_it_holds_by_friction_on_both_jaws_alone():
    """Friction times what both jaws press: between 2 mu F, were both flat, and that over cos 45°,
    were all of it at the ends of the arc.
    """
    sitting, station = _round()
    contacts = nest_contacts(sitting, station, station.element.nest, FORCE_N)
    middle = (RADIUS, RADIUS, DEPTH / 2)
    pull = LoadCase(name="up", point_mm=middle, force_n=(0, 0, 1000))
    found = hold(HoldRequest(contacts=contacts, loads=[pull], centre_of_gravity_mm=middle))
    mu = station.stops.friction
    flat = 2 * mu * FORCE_N / 1000
    assert flat < found.factor < flat / math.cos(math.pi / 4)


def test_the_jaws_leave_the_part_room_and_a_gap_between_them():
    sitting, station = _round()
    built = build_station(sitting, station)
    part = sitting.at(DEPTH / 2)
    fixed, moving = built.long_stop, built.clamp_bodies[0].polygon
    for jaw in (fixed, moving):
        assert jaw.intersection(part).area == 0
        assert jaw.distance(part) < 0.1
    assert moving.bounds[0] - fixed.bounds[2] == pytest.approx(station.element.gap_mm)
    assert len(touches(sitting, station, station.element.nest, "fixed")) >= 6


def test_parts_of_a_row_in_soft_jaws_have_a_pocket_each_and_do_not_touch():
    jaws = Vises(jaws="soft", row=2, touching=True)
    with pytest.raises(OutOfRange, match="a pocket for each") as raised:
        jaws.station(StopAndEdgeClamp(clamp=EdgeClamp(torque_nm=10)))
    assert raised.value.field == "form.touching"


def test_a_pocket_wider_than_the_jaws_is_refused_with_the_width_that_does():
    sitting, station = _round()
    narrow = station.element.model_copy(update={"width_mm": 45.0})
    with pytest.raises(OutOfRange, match="at least 52 mm wide"):
        build_station(sitting, station.model_copy(update={"element": narrow}))
