"""Posts of soft jaws in a part's openings: solid against solid, what they touch by hand, what they
keep from turning.
"""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from shapely.geometry import Point, Polygon

from tests.core.make.planned import planned
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.make.behind import posts_give, weak_posts
from wedgecraft.core.make.jaws import touching
from wedgecraft.core.make.pair import jaw_body, pair_of
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.nest import posts_in, profile, touches

BOLT, BORE = 3.6, 6.0


def _ring(x, y, radius):
    angles = np.linspace(0, 2 * math.pi, 73)[:-1]
    return [[x + radius * math.cos(a), y + radius * math.sin(a)] for a in angles]


def _hub(posts: bool) -> JobDocument:
    """The demo's hub with a smaller bore and wider holes on its bolt circle."""
    given = json.loads(planned("Float-arm hub").model_dump_json())
    part = given["job"]["parts"][0]
    at = [(38, 24), (24, 38), (10, 24), (24, 10)]
    part["outline"]["holes"] = [_ring(24, 24, BORE), *(_ring(x, y, BOLT) for x, y in at)]
    for cut in part["ops"][0]["cuts"]:
        size = {"T3": 2 * BORE - 0.3, "T4": 2 * BORE, "T8": 2 * BOLT}.get(cut["name"][:2])
        if size:
            cut["tool"]["diameter_mm"] = size
    given["result"] = None
    given["route"]["setups"][1]["form"]["posts"] = posts
    return JobDocument.model_validate(given)


@pytest.fixture(scope="module")
def worked():
    return {on: ready(views_of(setup_request(_hub(on), 2))[0]) for on in (False, True)}


def test_a_part_goes_down_over_its_posts_and_meets_them_when_pushed(worked):
    """Two of the four holes lie in one jaw alone; the others and the bore lie over the gap."""
    plain, posted = pair_of(worked[False]), pair_of(worked[True])
    assert (len(plain.posts), len(posted.posts)) == (0, 2)
    part = worked[True].sitting.before
    jaws, none = jaw_body(posted, 42.0), jaw_body(plain, 42.0)
    high = posted.depth_mm
    size = 2 * math.pi * (BOLT - posted.clearance_mm) ** 2 * high
    assert jaws.volume_mm3 - none.volume_mm3 == pytest.approx(size, rel=0.01)
    for lift in np.linspace(0, high + 1, 5):
        assert (part.moved(0, 0, float(lift)) & jaws).volume_mm3 < 1e-2
    turned = part.moved(-24, -24, 0)
    c, s = math.cos(0.02), math.sin(0.02)
    turned = turned.turned(np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]), (0.0, 0.0, 0.0))
    turned = turned.moved(24, 24, 0)
    assert (turned & jaws).volume_mm3 > 1e-2
    assert (turned & none).volume_mm3 < 1e-2


def test_a_post_grips_on_the_far_side_of_its_opening(worked):
    """The fixed jaw stands at low X and pushes towards high X: its post presses on the wall of the
    hole that is nearer to the middle, within 45° either way, a quarter of its round.
    """
    stood, kind = worked[True].sitting, worked[True].view.station
    nest, held = kind.element.nest, profile(stood, kind)
    posts = posts_in(held, nest)
    for jaw, sign in (("fixed", 1.0), ("moving", -1.0)):
        mine = [post for post in posts if sign * (post.centroid.x - nest.split_mm(held)) < 0]
        (post,) = mine
        on = [
            touch for touch in touches(stood, kind, nest, jaw)
            if post.exterior.distance(Point(touch.at[:2])) < 0.05
        ]  # fmt: skip
        assert on
        assert all(sign * (touch.at[0] - post.centroid.x) > 0 for touch in on)
        assert all(-sign * touch.faces[0] > 0.7 for touch in on)
        low = {touch.at[2] for touch in on}
        assert sum(touch.length_mm for touch in on) / len(low) == pytest.approx(
            math.pi / 2 * BOLT, rel=0.06
        )


def test_posts_keep_a_round_from_turning_and_say_what_they_bear(worked):
    for on in (False, True):
        pair, nest = pair_of(worked[on]), worked[on].view.station.element.nest
        rests = touching(pair, worked[on], nest).rests
        assert all(item.settled.free is not on for item in rests)
    pair = pair_of(worked[True])
    (first, second) = posts_give(pair, 8000.0)
    # a quarter of the post's round of all that grips: a quarter of the hub's, and the post's own
    share = BOLT / (24 + BOLT)
    assert first.force_n == pytest.approx(8000 * share, rel=0.05)
    thick = 2 * (BOLT - pair.clearance_mm)
    bent = first.force_n * pair.depth_mm / 2 / (math.pi / 4 * thick**3 / 6)
    assert first.stress_mpa == pytest.approx(bent, rel=0.02)
    assert second.stress_mpa == pytest.approx(first.stress_mpa, rel=0.02)
    (weak, _) = weak_posts([first._replace(stress_mpa=400.0), second._replace(stress_mpa=200.0)], 2)
    assert "0.69 times from yielding" in weak.says


def test_a_plan_with_posts_says_so_and_no_longer_that_it_may_turn():
    document = plan_route(_hub(posts=True), alternatives=False)
    (piece,) = pieces_of(document, 2).pieces
    assert not [doubt for doubt in piece.doubts if doubt.what == "turn"]
    assert any(note.startswith("2 posts stand") for note in piece.notes)
    pocket = next(item for item in piece.pockets if len(item.outline) > 1)
    posts = [Polygon(ring).area for item in piece.pockets for ring in item.outline[1:]]
    assert posts == pytest.approx([math.pi * (BOLT - 0.025) ** 2] * len(posts), rel=0.02)
    assert pocket.depth_mm > 0
