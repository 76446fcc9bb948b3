"""Stations that stand two in one body: judged with polygons that are put where they stand by hand,
and counted in closed form.
"""

from __future__ import annotations

import cmath
import math
import re

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from tests.core import independent
from tests.core.layout.test_layout import _ring
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout.check import clear_room, faults
from wedgecraft.core.layout.joint import both, half_turned, whole
from wedgecraft.core.layout.nofit import Variant, geometry_of
from wedgecraft.core.layout.solve import alternatives, hindrance, layout
from wedgecraft.core.records.layout import Joint, LayoutRequest, Placement

SOME = settings(
    max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True
)
_BACK = 10.0


def _kind(outer, turns=(0, 90, 180, 270), gap=0.0, sweep=None) -> dict:
    """A part in front of its half of the body, which reaches ``_BACK`` behind it."""
    _, y0, _, y1 = Polygon(outer).bounds
    jaw = [(-_BACK, y0), (0, y0), (0, y1), (-_BACK, y1)]
    return {
        "name": "part",
        "turns": list(turns),
        "clearance_mm": gap,
        "layers": [
            {"role": "body", "name": "part", "outer": outer, "high_mm": 20},
            {"role": "body", "name": "stop", "outer": jaw, "high_mm": 10},
            *(
                [{"role": "sweep", "name": "cut", "outer": sweep, "low_mm": 5, "high_mm": 30}]
                if sweep
                else []
            ),
        ],
    }


def _request(kinds, width=200.0, depth=150.0, middle=None, **more) -> LayoutRequest:
    spans = [Polygon(kind["layers"][0]["outer"]).bounds for kind in kinds]
    y = sum((low + high) / 2 for _, low, _, high in (spans[0], spans[-1]))
    joint = Joint(second=len(kinds) - 1, x_mm=-_BACK, y_mm=y if middle is None else middle)
    faces = [{"name": "table", "outer": _ring(width, depth)}]
    return LayoutRequest.model_validate(
        {"faces": faces, "kinds": kinds, "joint": joint.model_dump(), "effort": 0.0, **more}
    )


def _between(request: LayoutRequest, placements: list[Placement]) -> list[str]:
    """Everything wrong but what two stations of one body, one after the other, have in common."""
    found = independent.faults(request, independent.as_result(placements))

    def own(said: str) -> bool:
        pair = re.match(r"(\d+) and (\d+) meet", said)
        return pair is not None and int(pair[1]) // 2 == int(pair[2]) // 2

    return [said for said in found if not own(said)]


def _partner(joint: Joint, item: Placement) -> tuple[float, float, int]:
    """Worked out as a turn of the plane of complex numbers."""
    spin = cmath.exp(1j * math.radians(item.turn))
    there = complex(item.x_mm, item.y_mm) + spin * complex(joint.x_mm, joint.y_mm)
    return there.real, there.imag, (item.turn + 180) % 360


_SHAPES = st.sampled_from(
    [
        [(0.0, 0.0), (30.0, 0.0), (30.0, 20.0), (0.0, 20.0)],
        [(0.0, 0.0), (26.0, 0.0), (26.0, 8.0), (10.0, 8.0), (10.0, 24.0), (0.0, 24.0)],
        [(0.0, 0.0), (34.0, 6.0), (20.0, 26.0), (0.0, 18.0)],
    ]
)


@SOME
@given(first=_SHAPES, second=st.none() | _SHAPES, gap=st.sampled_from([0.0, 2.5]))
def test_two_of_a_body_stand_back_to_back_and_bodies_stand_clear(first, second, gap):
    kinds = [_kind(first, gap=gap), *([] if second is None else [_kind(second, gap=gap)])]
    request = _request(kinds)
    told = []
    found = layout(request, told.append)
    assert hindrance(request) is None
    assert found.count == len(found.placements) >= 4
    assert found.sets == (found.count if second is None else found.count // 2)
    assert found.sets <= found.bound
    for answer in (found, *told[:2], *(other.result for other in alternatives(request, found))):
        assert _between(request, answer.placements) == []
        assert faults(request, answer.placements) == []
        for one, other in zip(answer.placements[::2], answer.placements[1::2], strict=True):
            assert (one.kind, other.kind) == (0, len(kinds) - 1)
            x, y, turn = _partner(request.joint, one)
            assert (other.x_mm, other.y_mm) == pytest.approx((x, y), abs=1e-4)
            assert (other.turn, other.face) == (turn, one.face)
    # one of them moved away stands alone, and its body no more
    moved = [*found.placements]
    moved[1] = moved[1].model_copy(update={"x_mm": moved[1].x_mm + 1})
    alone = {fault.station for fault in faults(request, moved) if "without the other" in fault.says}
    assert alone == {0, 1}


@pytest.mark.parametrize(("width", "depth"), [(200, 150), (169, 40), (140, 121)])
def test_as_many_stand_as_their_bodies_have_room_in_rows(width, depth):
    """Of boxes 30 x 20 back to back over 10 mm, 70 x 20, turned alike: whole ones along and
    across, two stations each.
    """
    request = _request([_kind(_ring(30, 20), turns=(0, 180))], width, depth)
    found = layout(request)
    assert found.count == 2 * (width // 70) * (depth // 20)
    assert found.proven
    few = layout(request.model_copy(update={"most": 3}))
    assert few.sets <= max(3, 2)


def test_a_station_may_be_where_its_body_stands_clear_and_nowhere_else():
    """Points scattered over the face, in the room or not, against the polygons put there by
    hand; for either station of the body, and for one that is moved.
    """
    kinds = [_kind(_ring(30, 20)), _kind(_ring(24, 30), sweep=_ring(40, 30))]
    request = _request(kinds, 180, 120)
    standing = layout(request.model_copy(update={"most": 2})).placements
    geometry, rng = geometry_of(request.kinds), np.random.default_rng(7)
    for kind, turn, but in ((0, 0, None), (1, 90, None), (0, 270, 2), (1, 180, 3)):
        room = clear_room(request, geometry, standing, 0, Variant(kind, turn), but)
        left = [item for k, item in enumerate(standing) if but is None or k // 2 != but // 2]
        seen = {True: 0, False: 0}
        for x, y in rng.uniform((-20, -20), (200, 140), (150, 2)):
            inside = room.contains(Point(x, y))
            if room.boundary.distance(Point(x, y)) < 0.05:
                continue  # rounding decides there
            item = Placement(face=0, kind=kind, x_mm=x, y_mm=y, turn=turn)
            pair = both(request.joint, item)
            assert [each.kind for each in pair] == [0, 1]
            assert (not _between(request, [*left, *pair])) == inside
            seen[inside] += 1
        assert min(seen.values()) > 5


def test_what_stands_already_stays_two_by_two():
    request = _request([_kind(_ring(30, 20))])
    first = Placement(face=0, kind=0, x_mm=60, y_mm=40, turn=0, fixed=True)
    pair = both(request.joint, first)
    fixed = request.model_copy(update={"fixed": pair})
    found = layout(fixed)
    assert [item for item in found.placements if item.fixed] == pair
    assert _between(request, found.placements) == []
    assert both(request.joint, pair[1])[0].kind == 0
    with pytest.raises(OutOfRange, match="without the other station"):
        layout(request.model_copy(update={"fixed": pair[:1]}))
    crossed = both(request.joint, first.model_copy(update={"x_mm": 75}))
    with pytest.raises(OutOfRange, match="too near another"):
        layout(request.model_copy(update={"fixed": [*pair, *crossed]}))


def test_a_body_is_what_both_its_stations_are():
    request = _request([_kind(_ring(30, 20)), _kind(_ring(24, 30), gap=3)])
    up = request.model_copy(update={"joint": request.joint.model_copy(update={"up_mm": 4})})
    (body,) = whole(up).kinds
    assert len(body.layers) == 4
    assert (body.clearance_mm, body.holds, whole(up).joint) == (3, 1, None)
    assert [(layer.low_mm, layer.high_mm) for layer in body.layers] == [
        (0, 20), (0, 10), (4, 24), (4, 14),
    ]  # fmt: skip
    there = Polygon(body.layers[2].outer)
    assert there.symmetric_difference(box(-34, -5, -10, 25)).area == pytest.approx(0, abs=1e-9)
    assert [half_turned(turn) for turn in (0, 90, 180, 270)] == [180, 270, 0, 90]
    alone = request.model_copy(update={"joint": None})
    assert whole(alone) is alone
