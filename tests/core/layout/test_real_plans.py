"""Plans as users ask them, with stops, clamps, sweeps and screws: sound by solids, never below the
hand's grid nor above a bound, the same bytes on one core and on all.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from functools import cache
from itertools import combinations, islice

import manifold3d
import numpy as np
import pytest

from tests.core.independent import boxes_by_hand, faults
from tests.core.layout.test_layout import _ring
from tests.core.layout.test_outlines import _wheel
from wedgecraft.bench.layouts import (
    drafted_packings,
    packing_of,
    seeded_plan,
    shape_request,
    turned_plan,
)
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult, Placement

#: One of each way to be held, box and round; one whose tolerance leaves part of the plate.
SEEDS = (0, 1, 2, 3, 4, 5, 6, 7, 9, 36)
#: Solids are taken smaller by as much all round: touching is clear.
_HAIR = 4e-3


@cache
def _answer(seed: int) -> tuple[LayoutRequest, LayoutResult]:
    request = packing_of(seeded_plan(seed))
    return request, layout(request)


def _solid(request: LayoutRequest, placed: Placement, role: str) -> manifold3d.Manifold:
    """All layers of a role as extruded polygons, where the station stands."""
    parts = []
    for layer in request.kinds[placed.kind].layers:
        if layer.role == role:
            section = manifold3d.CrossSection([np.array(layer.outer)]).offset(
                -_HAIR, manifold3d.JoinType.Miter
            )
            high = max(layer.high_mm - layer.low_mm, 1e-3)
            parts.append(section.extrude(high).translate([0, 0, layer.low_mm]))
    whole = manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)
    return whole.rotate([0, 0, placed.turn]).translate([placed.x_mm, placed.y_mm, 0])


@pytest.mark.parametrize("seed", SEEDS)
def test_stations_are_clear_of_each_other_as_solids(seed):
    """Bodies against bodies, and against what is swept or reached at their height, by a library of
    solids; every pair that is near.
    """
    request, answer = _answer(seed)
    assert answer.sets > 3
    assert faults(request, answer) == []
    stations = answer.placements
    roles = sorted({layer.role for kind in request.kinds for layer in kind.layers} - {"body"})
    solids = {
        role: [_solid(request, placed, role) for placed in stations] for role in ("body", *roles)
    }
    spans = np.array([solid.bounding_box() for solid in solids["body"]])
    reach = max(np.ptp(spans[:, [0, 3]], axis=1).max(), np.ptp(spans[:, [1, 4]], axis=1).max()) * 2
    looked = 0
    for a, b in combinations(range(len(stations)), 2):
        if np.hypot(*(spans[a, :2] - spans[b, :2])) > reach:
            continue
        looked += 1
        for role in ("body", *roles):
            for one, other in ((a, b), (b, a)):
                assert (solids["body"][one] ^ solids[role][other]).volume() < 1e-3, (a, b, role)
    assert looked >= len(stations) - 1


@pytest.mark.parametrize("seed", SEEDS)
def test_never_below_the_hand_nor_above_the_bound(seed):
    request, answer = _answer(seed)
    assert boxes_by_hand(request) <= answer.sets <= answer.bound
    assert answer.by_hand <= answer.sets
    assert answer.used_mm2 <= answer.usable_mm2 * (1 + 1e-9)


@pytest.mark.parametrize("teeth", [12, 31])
def test_never_below_the_hand_for_gears(teeth):
    wheel = _wheel(teeth, 40 * teeth)
    outer = [(float(x), float(y)) for x, y in wheel.exterior.coords[:-1]]
    request = shape_request(outer, _ring(420, 300), [0, 90, 180, 270])
    request = request.model_copy(
        update={"kinds": [request.kinds[0].model_copy(update={"clearance_mm": 2.0})]}
    )
    answer = layout(request)
    assert boxes_by_hand(request) <= answer.sets <= answer.bound
    assert answer.sets >= 0.75 * answer.bound
    assert faults(request, answer) == []


@pytest.mark.parametrize(("seed", "before", "least"), [(1, 27, 29), (6, 25, 28), (13, 37, 39)])
def test_turned_parts_are_pressed_in_as_rounds_round_screws(seed, before, least):
    """More than every other method found on these plans, and near what there can be."""
    request = packing_of(turned_plan(seed))
    answer = layout(request)
    assert faults(request, answer) == []
    assert before < least <= answer.count <= answer.bound
    assert answer.count >= 0.87 * answer.bound


def test_strangers_drafts_fill_what_the_shop_has():
    """As drafted with the shop that ships: no setup below the hand, none that meets anything."""
    many = 0
    for name, request in islice(drafted_packings(), 12):
        answer = layout(request)
        assert faults(request, answer) == [], name
        assert 1 <= answer.by_hand <= answer.sets <= answer.bound, name
        many += 1
    assert many == 12


@pytest.mark.skipif(not hasattr(os, "sched_setaffinity"), reason="cores cannot be chosen here")
def test_the_same_bytes_on_one_core_and_on_all(tmp_path):
    request, _ = _answer(2)
    asked = tmp_path / "asked.json"
    asked.write_text(request.model_dump_json())
    given = []
    for cores in ({min(os.sched_getaffinity(0))}, os.sched_getaffinity(0)):
        run = subprocess.run(
            [sys.executable, "-m", "wedgecraft.cli", "compute", "layout", str(asked)],
            capture_output=True,
            check=True,
            preexec_fn=lambda cores=cores: os.sched_setaffinity(0, cores),
        )
        given.append(run.stdout)
    assert given[0] == given[1]
    assert LayoutResult.model_validate(json.loads(given[0])).sets == _answer(2)[1].sets
