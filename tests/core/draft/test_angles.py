"""A part between soft jaws at other angles: what is offered is what a plan then finds."""

from __future__ import annotations

import math

import pytest
import shapely
from shapely.affinity import rotate
from shapely.geometry import Polygon, box

from tests.core.make.planned import planned
from wedgecraft.core.draft.angles import _mirrored, _worth, angles
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.states import workpiece


def test_an_angle_that_is_offered_holds_and_grips_as_a_plan_then_says():
    document = planned("Gland plate")
    now, *others = angles(document, 2)
    assert (now.tried.why, now.document) == ("as it stands", document)
    assert others
    # the outline turned by another library is as wide
    op = document.job.parts[0].ops[1]
    outline = finished_body(document.job.parts[0]).seen().convex_hull
    for item in others:
        more = item.tried.turn_deg - op.turn_deg
        # seen from below the part is mirrored: a turn goes the other way
        x0, y0, x1, y1 = rotate(outline, -more).bounds
        assert (item.tried.across_mm, item.tried.along_mm) == pytest.approx(
            (x1 - x0, y1 - y0), abs=0.1
        )
    best = others[0]
    solved = plan_route(best.document, alternatives=False).result.setups[1]
    assert solved.result.feasible
    station = solved.result.designs[0].stations[0]
    assert station.hold_factor == pytest.approx(best.tried.factor, rel=0.02)
    piece = solved.making
    assert piece.pieces
    # cuts stay where they are on the part: as much of it is left
    left = [workpiece(item.job.parts[0]).last.volume_mm3 for item in (document, best.document)]
    assert left[1] == pytest.approx(left[0], rel=1e-4)


def test_what_is_worth_trying_by_hand():
    """A right triangle's long side goes along the jaws and against one; a square is as good as it
    stands but for its corners; a round has no angles at all.
    """
    triangle = Polygon([(0, 0), (30, 0), (0, 40)])
    turns = [turn for turn, _ in _worth(triangle)]
    laid = math.degrees(math.atan2(40, 30))
    for wanted in (laid, laid - 90):
        assert min(abs((turn - wanted + 90) % 180 - 90) for turn in turns) < 0.6
    assert min(abs(turn) for turn in turns) > 0.4  # not as it stands already
    square = [why for _, why in _worth(box(0, 0, 30, 30))]
    assert any("greatest width, 42.43" in why for why in square)
    assert _worth(shapely.Point(0, 0).buffer(20, quad_segs=64)) == []


@pytest.mark.parametrize("angle", [0.0, 17.0, 73.5])
def test_an_axis_of_symmetry_is_found_however_it_lies(angle):
    kite = rotate(Polygon([(-10, 0), (0, -12), (30, 0), (0, 12)]), angle, origin=(0, 0))
    found = _mirrored(kite)
    assert abs((found - angle + 90) % 180 - 90) < 0.5
    lopsided = rotate(Polygon([(0, 0), (30, 0), (30, 8), (6, 20)]), angle, origin=(0, 0))
    assert _mirrored(lopsided) is None
