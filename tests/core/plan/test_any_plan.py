"""Any sound request, however odd, is answered: a design that an independent test finds sound, or
reasons that say what would work.
"""

from __future__ import annotations

import math
import random

import pytest
from shapely.affinity import rotate, translate
from shapely.geometry import Point, Polygon, box

from tests.core.plan.test_job import _sound
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request


def _outline(roll: random.Random) -> list[tuple[float, float]]:
    w, d = roll.uniform(20, 90), roll.uniform(20, 70)
    c = roll.uniform(0.1, 0.4) * min(w, d)
    shapes = {
        "box": [(0, 0), (w, 0), (w, d), (0, d)],
        "chamfered": [
            (c, 0),
            (w - c, 0),
            (w, c),
            (w, d - c),
            (w - c, d),
            (c, d),
            (0, d - c),
            (0, c),
        ],
        "ell": [(0, 0), (w, 0), (w, d - c), (c, d - c), (c, d), (0, d)],
        "notched": [
            (0, 0),
            (w, 0),
            (w, d),
            (w / 2 + c / 2, d),
            (w / 2 + c / 2, d - c),
            (w / 2 - c / 2, d - c),
            (w / 2 - c / 2, d),
            (0, d),
        ],
        "round": [
            (w / 2 * math.cos(k * math.pi / 20), w / 2 * math.sin(k * math.pi / 20))
            for k in range(40)
        ],
    }
    if roll.randint(0, 5):
        return shapes[roll.choice(sorted(shapes))]
    angles = [2 * math.pi * (k + roll.uniform(0, 0.6)) / 9 for k in range(9)]
    return [(w * math.cos(a), w * math.sin(a)) for a in angles]


def _request(roll: random.Random) -> PlanRequest:
    """Mostly ordinary jobs, with an odd value here and there."""
    document = starting_request("anything", roll.randint(1, 3000)).model_dump()
    odd = roll.randint(0, 3) == 0
    hard = roll.choice([False, False, True])
    height = roll.uniform(14, 60)
    low = roll.uniform(4, 8)
    document["parts"][0] |= {
        "outline": {"outer": _outline(roll)},
        "height_mm": height,
        "material": roll.choice(sorted(MATERIALS)) if hard else "aluminium-6061",
    }
    document["parts"][0]["ops"][0]["cuts"][0] |= {
        "kind": roll.choice(["contour", "face"]),
        "axial_depth_mm": roll.uniform(0.3, 20) if odd else roll.uniform(0.5, 4),
        "radial_width_mm": roll.uniform(0.2, 9) if odd else roll.uniform(0.2, 1.5),
        "interrupted": roll.random() < 0.5,
    }
    document["plate"] |= {
        "width_mm": roll.uniform(60 if odd else 160, 320),
        "depth_mm": roll.uniform(60 if odd else 140, 280),
        "margin_mm": roll.uniform(0, 15),
        "keepouts": [
            {
                "shape": roll.choice(["round", "box"]),
                "x_mm": roll.uniform(0, 320),
                "y_mm": roll.uniform(0, 280),
                "width_mm": roll.uniform(3, 60),
                "height_mm": roll.uniform(0, 60),
            }
            for _ in range(roll.randint(0, 3))
        ],
    }
    zone = roll.uniform(0.02, 0.06) if odd else roll.uniform(0.05, 0.3)
    document["parts"][0]["features"][0]["tolerance_mm"] = zone
    document["rules"] |= {"tolerance_rule": roll.choice(["probable", "worst case"])}
    document["datum"] = {"x_mm": roll.uniform(-20, 240), "y_mm": roll.uniform(-20, 200)}
    document["station"] |= {
        "clamps": roll.randint(1, 3) if odd else 1,
        "clearance_mm": roll.uniform(0, 15),
    }
    document["station"]["stops"] |= {"height_mm": low, "length_mm": roll.uniform(5, 60)}
    document["station"]["clamp"] |= {
        "torque_nm": roll.uniform(1, 30) if odd else roll.uniform(12, 22),
        "height_mm": low,
        "toe_height_mm": roll.uniform(2, 12) if odd else low * 0.7,
    }
    document["machine"] |= {
        "travel_x_mm": roll.uniform(100, 900) if odd else 900,
        "table_load_kg": roll.uniform(5, 400),
    }
    return PlanRequest.model_validate(document)


def _nearest_to_datum(request: PlanRequest, design) -> float:
    """How near anything of a station comes to where the zero is: to the middle of its bore."""
    datum = Point(request.datum.x_mm, request.datum.y_mm)
    if not box(0, 0, request.plate.width_mm, request.plate.depth_mm).contains(datum):
        return math.inf
    kinds = layout_request(request, [ready(view) for view in views_of(request)]).kinds
    return min(
        translate(
            rotate(Polygon(layer.outer), station.turn, origin=(0, 0)), station.x_mm, station.y_mm
        ).distance(datum)
        for station in design.stations
        for layer in kinds[station.kind].layers
        if layer.role == "body"
    )


@pytest.mark.parametrize("half", range(2))  # both cores have one
def test_any_request_is_answered(half):
    tally = {True: 0, False: 0}
    for seed in range(half, 12, 2):
        request = _request(random.Random(seed))
        result = plan(request)
        tally[result.feasible] += 1
        assert result.feasible == bool(result.designs) == (not result.reasons), seed
        assert all(reason.field and reason.what and reason.nearest for reason in result.reasons), (
            seed
        )
        for design in result.designs:
            assert 0 < design.count <= design.bound, seed
            assert design.by_hand <= design.count, seed
            _sound(request, design)
            assert _nearest_to_datum(request, design) >= 5 + 2 - 1e-3, seed
            assert result.hold.result.factor >= result.hold.needed, seed
            # A part pressed too hard is held all the same: that it will be marked is shown, not
            # refused.
            assert [
                item for item in design.limits if item.state == "over" and item.id != "pressure"
            ] == [], seed
            assert all(placed.tolerance_share <= 1 + 1e-6 for placed in design.stations), seed
    assert min(tally.values()) >= 2, tally  # either kind of answer proves something
