"""Stations of several shapes: where stops, clamps and contacts stand, what the cutter sweeps, and
what stands in each other's way.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from wedgecraft.core.clamping.screw import edge_clamp_preload
from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.cutting.path import CUTTER_CLEARANCE_MM
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import CuttingRequest
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts, station_loads
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.states import workpiece

pytestmark = pytest.mark.usefixtures("as_drawn")

SHAPES = {
    "block": [(0, 0), (60, 0), (60, 40), (0, 40)],
    "disc": [
        (25 + 25 * math.cos(k * math.pi / 36), 25 + 25 * math.sin(k * math.pi / 36))
        for k in range(72)
    ],
    "ell": [(0, 0), (60, 0), (60, 18), (20, 18), (20, 50), (0, 50)],
    "yoke": [(0, 0), (70, 0), (70, 20), (26, 20), (26, 44), (70, 44), (70, 64), (0, 64)],
    "wedge": [(0, 0), (60, 0), (0, 45)],
    "far from zero": [(500, -300), (560, -300), (560, -260), (500, -260)],
}


def _request(shape="block", **station) -> PlanRequest:
    document = starting_request("part", 10).model_dump()
    document["parts"][0]["outline"] = {"outer": SHAPES[shape]}
    document["station"] |= station
    return PlanRequest.model_validate(document)


def _stood(request: PlanRequest):
    return stood(views_of(request)[0])


def _built(request: PlanRequest):
    return build_station(_stood(request), request.station)


@pytest.mark.parametrize("shape", SHAPES)
def test_stops_touch_the_part_from_outside_and_clamps_press_on_it(shape):
    request = _request(shape)
    station = _built(request)
    part = station.part
    assert part.bounds[:2] == pytest.approx((0, 0))
    assert part.area == pytest.approx(Polygon(SHAPES[shape]).area)
    for body in (station.long_stop, station.end_stop, *station.clamps):
        assert part.intersection(body).area < 1e-6
        assert part.distance(body) < 1e-6
    # The wedge's corner is where the stops' planes meet.
    assert station.long_stop.bounds[2] == 0
    assert station.end_stop.bounds[3] == 0


@pytest.mark.parametrize("shape", SHAPES)
def test_contacts_lie_on_the_outline_and_push_inwards(shape):
    request = _request(shape)
    station = _built(request)
    preload = edge_clamp_preload(request.station.clamp).low_n
    contacts = station_contacts(station, _stood(request), request.station, preload)
    assert sum(contact.kind == "clamp" for contact in contacts) == 1
    for contact in contacts:
        x, y, z = contact.point_mm
        point, normal = Point(x, y), np.array(contact.normal)
        assert np.linalg.norm(normal) == pytest.approx(1)
        if normal[2] == 1:
            assert z == 0
            assert station.part.convex_hull.distance(point) < 1e-6
            continue
        assert station.part.exterior.distance(point) < 1e-6
        assert 0 < z <= request.part.height_mm
        inwards = LineString([(x, y), (x + 5 * normal[0], y + 5 * normal[1])])
        assert station.part.intersection(inwards).length > 0.5
        body = {"lo": station.long_stop, "en": station.end_stop, "ed": station.clamps[0]}[
            contact.name[:2]
        ]
        assert body.distance(point) < 1e-6


def test_a_round_part_touches_each_stop_in_one_line_and_a_block_along_its_length():
    def touching(shape: str, name: str) -> set[tuple[float, float]]:
        request = _request(shape)
        contacts = station_contacts(_built(request), _stood(request), request.station, 1000)
        return {
            tuple(round(v, 6) for v in contact.point_mm[:2])
            for contact in contacts
            if contact.name.startswith(name)
        }

    assert touching("disc", "long stop") == {(0.0, 25.0)}
    assert touching("block", "long stop") == {(0.0, 0.0), (0.0, 40.0)}
    assert len(touching("block", "end stop")) == 2


def test_clamps_press_on_the_arms_of_a_fork_and_never_into_its_gap():
    one, two = _built(_request("yoke")), _built(_request("yoke", clamps=2))
    assert [y for _, y in one.clamp_points] == [10.0]
    assert [y for _, y in two.clamp_points] == [10.0, 54.0]
    with pytest.raises(OutOfRange, match="too little to press on"):
        _built(_request("yoke", clamps=3))


@pytest.mark.parametrize("clamps", [2, 3])
def test_several_clamps_share_the_side_without_touching(clamps):
    document = starting_request("part", 10).model_dump()
    document["parts"][0]["outline"] = {"outer": [(0, 0), (50, 0), (50, 110), (0, 110)]}
    document["station"]["clamps"] = clamps
    request = PlanRequest.model_validate(document)
    station = _built(request)
    places = sorted(y for _, y in station.clamp_points)
    assert len(places) == clamps
    assert (
        min(np.diff(places))
        >= max(request.station.clamp.width_mm, request.station.clamp.wrench_diameter_mm) - 1e-9
    )
    assert (places[0] + places[-1]) / 2 == pytest.approx(55)


@pytest.mark.parametrize(
    ("kind", "reach"), [("contour", 10 + CUTTER_CLEARANCE_MM), ("face", 5 + CUTTER_CLEARANCE_MM)]
)
def test_the_sweep_reaches_a_cutter_round_the_outline(kind, reach):
    document = starting_request("part", 10).model_dump()
    document["parts"][0]["ops"][0]["cuts"][0]["kind"] = kind
    station = _built(PlanRequest.model_validate(document))
    assert station.sweep.bounds == pytest.approx((-reach, -reach, 60 + reach, 40 + reach), abs=1e-6)
    layer = next(layer for layer in station.layers if layer.role == "sweep")
    assert layer.low_mm == pytest.approx(25 - 8 - CUTTER_CLEARANCE_MM)


def test_load_cases_cover_the_outline_both_depths_and_every_direction():
    request = _request("yoke")
    sitting = _stood(request)
    load = cutting_load(
        CuttingRequest(material=request.part.material, cut=views_of(request)[0].op.cuts[0])
    )
    cases = station_loads(sitting, sitting.cuts[0], sitting.guides[0], load)
    assert {case.point_mm[2] for case in cases} == {25.0, 17.0}
    angles = {
        round(math.degrees(math.atan2(case.force_n[1], case.force_n[0])) % 360, 1) for case in cases
    }
    assert len(angles) == 16
    for case in cases:
        assert math.hypot(*case.force_n[:2]) == pytest.approx(load.in_plane_peak_n)
        assert case.force_n[2] in (load.pull_peak_n, -load.push_peak_n)
        assert sitting.outline.exterior.distance(Point(case.point_mm[:2])) < 1e-6
    corners = {case.point_mm[:2] for case in cases}
    assert {(0.0, 0.0), (70.0, 0.0), (70.0, 64.0), (0.0, 64.0)} <= corners
    assert len({case.name for case in cases}) == len(cases)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"stops": {"height_mm": 17}}, "station.stops.height_mm"),
        ({"clamp": {"torque_nm": 14, "height_mm": 30}}, "station.clamp.height_mm"),
        ({"clamp": {"torque_nm": 14, "toe_height_mm": 13}}, "station.clamp.toe_height_mm"),
        ({"clamps": 3, "clamp": {"torque_nm": 14, "width_mm": 30}}, "station.clamps"),
    ],
)
def test_what_stands_in_the_way_is_named(change, field):
    with pytest.raises(OutOfRange) as caught:
        _built(_request(**change))
    assert caught.value.field == field


@settings(max_examples=40, deadline=None)
@given(st.floats(5, 300), st.floats(5, 300), st.floats(1, 200), st.floats(500, 20_000))
def test_the_mass_of_a_block_is_its_volume(width, depth, height, density):
    document = starting_request("part", 10).model_dump()["parts"][0]
    document |= {
        "outline": {"outer": [(0, 0), (width, 0), (width, depth), (0, depth)]},
        "height_mm": height,
    }
    document["material"] |= {"density_kg_m3": density}
    part = Part.model_validate(document)
    assert workpiece(part).finished.volume_mm3 * density * 1e-9 == pytest.approx(
        width * depth * height * density * 1e-9
    )


@pytest.mark.parametrize(
    ("ring", "said"),
    [
        ([(0, 0), (10, 10), (10, 0), (0, 10)], "crosses"),
        ([(0, 0), (10, 0), (20, 0)], "no area"),
        ([(0, 0), (0.5, 0), (0.5, 0.5), (0, 0.5)], "units right"),
        ([(0, 0), (6000, 0), (6000, 60), (0, 60)], "units right"),
        ([(0, 0), (10, 0)], "at least 3"),
        ([(0, 0), (10, 0), (float("nan"), 5)], "finite|number"),
    ],
)
def test_outlines_without_sense_are_refused(ring, said):
    with pytest.raises(ValueError, match=said):
        Outline.model_validate({"outer": ring})
