"""Features at stations: what is measured from what, what ops before left behind, and what would
help; each tried, not told.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon

from tests.core.locate.test_locating import _moved
from tests.core.plan import test_ops
from tests.core.plan.test_job import _with
from tests.core.plan.test_ops import DRILL
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout.check import faults
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.report import verdicts
from wedgecraft.core.plan.job import plan
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.layout import Placement
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.request import Arrangement, Measured, OwnStation, PlanRequest
from wedgecraft.core.records.verdicts import VerdictsRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import named, starting_request
from wedgecraft.core.workpiece.blank import spread

#: To the finished top, from above it.
FACE = test_ops.FACE | {"from_top_mm": -test_ops.FACE["axial_depth_mm"]}
pytestmark = pytest.mark.usefixtures("as_drawn")

CONTOUR = views_of(starting_request("x", 1))[0].op.cuts[0].model_dump()


def _feature(name: str, x: float = 20, y: float = 12, tolerance: float = 0.2, **rest) -> dict:
    return {"name": name, "x_mm": x, "y_mm": y, "tolerance_mm": tolerance, **rest}


def _two_ops(features: list[dict], op: int = 1, **changes) -> PlanRequest:
    """Op 10 faces the top and goes round the outside; op 20 has it upside down, against the same
    sides mirrored.
    """
    ops = [
        {"number": 10, "cuts": [FACE, CONTOUR, DRILL | {"at": [(20, 12)]}]},
        {"number": 20, "up": "-Z", "reached": ["-Z"], "cuts": [FACE, DRILL | {"at": [(25, 20)]}]},
    ]
    base = starting_request("Block", 400)
    return _with(base, parts__0__features=features, parts__0__ops=ops, planned__op=op, **changes)


def _checks(request: PlanRequest) -> dict:
    return {check.feature.name: check for check in ready(views_of(request)[0]).locating.checks}


def _at(request: PlanRequest, *places: tuple[float, ...], **asked):
    """At places in mm, and turns where they are given."""
    stations = [
        OwnStation(x_mm=x, y_mm=y, turn=int(turn[0]) if turn else 0)
        for x, y, *turn in places or [(40.0, 40.0)]
    ]
    own = request.model_copy(update={"arrangement": Arrangement(own=True, stations=stations)})
    return verdicts(VerdictsRequest(request=own, samples=20_000, **asked))


def test_sampled_parts_come_out_as_parts_moved_exactly_on_their_locators_do():
    """A thousand parts put on six locators that are each off, moved exactly (no first order), the
    cutter gone astray on its own.
    """
    steel = MATERIALS["steel-c45"].model_dump()
    request = _with(
        starting_request("Block", 10),
        parts__0__features=[_feature("Bore", 45, 33, 0.05)],
        parts__0__material=steel,
    )
    item = ready(views_of(request)[0])
    found = item.locating.located[0]
    accuracy, machine, rng = request.accuracy, request.machine, np.random.default_rng(5)
    away = np.array([45 + 200 - request.datum.x_mm, 33 + 150 - request.datum.y_mm])
    warm = rng.normal(0, accuracy.temperature_k / 3, 1000)
    corner = np.array([200.0 - request.datum.x_mm, 150.0 - request.datum.y_mm])
    plate, part_grows = (
        m.expansion_per_k - machine.scale_expansion_per_k
        for m in (request.plate.material, request.part.material)
    )
    grown = plate * corner + part_grows * np.array(
        [45, 33]
    )  # the plate carries the corner away, the part grows from there
    point = np.array([45, 33, request.part.height_mm / 2])
    moved = np.empty((1000, 2))
    for k in range(1000):
        off = rng.normal(0, accuracy.locator_mm / 3, 6)
        off[3:] += rng.uniform(-accuracy.wear_mm, accuracy.wear_mm, 3)
        off[:3] += rng.uniform(-0.02, 0.02, 3)  # the underside stays as the mill left it
        shift, turn = _moved(found.locators, off)
        moves = (shift + turn.apply(point) - point)[:2]
        reach = (machine.positioning_mm + machine.positioning_per_m_mm * np.abs(away) / 1000) / 3
        tool = (
            rng.normal(0, reach)
            + rng.normal(0, accuracy.datum_pickup_mm / 3, 2)
            + rng.normal(0, accuracy.station_place_mm / 3, 2)
        )
        moved[k] = moves + tool + warm[k] * grown + rng.uniform(-1, 1, 2) * item.gives_mm["Bore"]
    answer = _at(request, (200.0, 150.0), station=0, feature="Bore")
    detail, line = answer.detail, answer.columns[0].verdicts[0]
    assert 2 * 3 * math.sqrt((moved.std(axis=0) ** 2).sum()) == pytest.approx(
        detail.probable_mm, rel=0.06
    )
    for limit in (0.02, 0.026, 0.032):
        tighter = _with(request, parts__0__features=[_feature("Bore", 45, 33, limit)])
        out = float((2 * np.linalg.norm(moved, axis=1) > limit).mean())
        said = _at(tighter, (200.0, 150.0)).columns[0].verdicts[0].out_share
        assert said == pytest.approx(out, abs=4.5 * math.sqrt(max(out, 0.002) / 1000))
    assert line.within_mm == pytest.approx(
        float(np.quantile(2 * np.linalg.norm(moved, axis=1), 0.997)), rel=0.12
    )
    assert sum(detail.counts) == 20_000


def test_what_one_clamping_cuts_owes_nothing_to_the_fixture():
    request = _two_ops(
        [_feature("Bore"), _feature("Port", 40, 30, from_feature="Bore", measured_from="feature")],
        op=0,
    )
    check = _checks(request)["Port"]
    assert check.relative
    machine = request.machine
    sizes = [
        abs(source.shift[:2]).max()
        for source in check.chain
        if source.name == "machine positioning"
    ][:2]
    assert sizes == pytest.approx(
        [machine.positioning_mm + machine.positioning_per_m_mm * d / 1000 for d in (20, 18)]
    )
    # Wherever it stands, and however badly the station does.
    near, far = _at(request, (30, 30), (300, 250)).columns[1].verdicts
    assert near.share == far.share
    worse = _with(request, accuracy__station_place_mm=0.5, accuracy__locator_mm=0.2)
    assert _at(worse).columns[1].verdicts[0].share == pytest.approx(near.share, rel=1e-6)


def test_op_20_carries_what_op_10_left_behind_and_a_base_that_is_its_datum_leaves_nothing():
    mine = [
        _feature("Bore"),
        _feature("Hole", 25, 20, 0.4, op=20, measured_from="feature", from_feature="Bore"),
    ]
    check = _checks(_two_ops(mine))["Hole"]
    assert not check.relative
    # The sides that op 20 stands against were cut with the bore: only that clamping's positioning
    # lies between, along X and along Y.
    assert {source.name for source in check.chain} == {"op 10: machine positioning"}
    assert "cut in op 10" in check.said
    # Held by raw sides that op 10 left alone, everything op 10 was off comes along.
    ops = _two_ops(mine).part.model_dump()["ops"]
    ops[0]["cuts"] = [FACE, DRILL | {"at": [(20, 12)]}]
    raw = _checks(_with(_two_ops(mine), parts__0__ops=ops))["Hole"]
    names = {source.name for source in raw.chain}
    assert {"op 10: station place", "op 10: locators' place", "op 10: datum pick-up"} <= names
    alone = _two_ops([_feature("Hole", 25, 20, 0.4, op=20)])
    assert (
        _at(_with(_two_ops(mine), parts__0__ops=ops)).columns[-1].verdicts[0].share
        > _at(alone).columns[-1].verdicts[0].share
    )
    # Upside down the part stands on its X+ side: from there to the bore the blank's own size counts
    # too, as raw as it is.
    deviation, _ = spread(alone.part.stock, "x")
    blank = [source for source in raw.chain if source.name == "size of the blank"]
    assert [source.shift[0] for source in blank] == pytest.approx([deviation * math.sqrt(3)])


def test_an_op_before_counts_as_it_was_held_itself_where_it_is_off_most_and_with_its_give():
    """In its own station, where that is planned beside or given as elsewhere; by hand, from the
    sizes of what is off.
    """
    mine = [
        _feature("Bore"),
        _feature("Hole", 25, 20, 0.4, op=20, measured_from="feature", from_feature="Bore"),
    ]
    ops = _two_ops(mine).part.model_dump()["ops"]
    ops[0]["cuts"] = [FACE, DRILL | {"at": [(20, 12)]}]
    base = _with(_two_ops(mine), parts__0__ops=ops)
    short = base.station.model_copy(
        update={"stops": base.station.stops.model_copy(update={"length_mm": 6})}
    )
    own = {"part": 0, "op": 0, "station": short.model_dump()}

    def carried(request: PlanRequest, kind: int = 0) -> dict[str, float]:
        check = next(
            c for c in ready(views_of(request)[kind]).locating.checks if c.feature.name == "Hole"
        )
        return {source.name: float(source.shift[1]) for source in check.chain if source.shift[1]}

    like, given = carried(base), carried(_with(base, elsewhere=[own]))
    said = [
        [op.held for op in ready(views_of(request)[0]).locating.before]
        for request in (base, _with(base, elsewhere=[own]))
    ]
    assert said == [["held in a station like this one's"], ["held in a station of its own"]]
    # A short stop lets op 10's part swing; what plate and machine did is the same.
    assert given["op 10: locators' place"] > 2 * like["op 10: locators' place"]
    beside = _with(
        base,
        planned={"part": 0, "op": 0},
        also=[{"part": 0, "op": 1, "station": base.station.model_dump()}],
    )
    assert carried(beside, 1) == pytest.approx(like)
    assert carried(_with(beside, station=short.model_dump()), 1) == pytest.approx(given)
    # The far corner of the plate, not its middle: growth of the plate less the scales', over the
    # whole of its depth.
    growth = (
        base.plate.material.expansion_per_k - base.machine.scale_expansion_per_k
    ) * base.accuracy.temperature_k
    far = max(base.datum.y_mm, base.plate.depth_mm - base.datum.y_mm)
    assert like["op 10: temperature, ±2 K"] == pytest.approx(growth * far)
    machine = base.machine
    assert like["op 10: machine positioning"] == pytest.approx(
        machine.positioning_mm + machine.positioning_per_m_mm * far / 1000
    )
    first = base.model_copy(update={"planned": base.planned.model_copy(update={"op": 0})})
    there = ready(views_of(first)[0])
    assert like["op 10: give under the cut"] == pytest.approx(there.gives_mm["Bore"])


def test_out_of_square_is_carried_from_the_op_that_made_the_base():
    """Over two clampings the turns of both count; where this op stands on the base, or one clamping
    cut both, those of one, or none.
    """
    lean = {
        "kind": "orientation",
        "op": 20,
        "takes": ["-Z"],
        "measured_from": "feature",
        "from_feature": "Bore",
    }
    bore = _feature("Bore")
    names = {
        name.name for name in _checks(_two_ops([_feature("Square", **lean), bore]))["Square"].chain
    }
    assert "locators' place" in names
    assert not any(name.startswith("op 10") for name in names)  # op 10 cut bore and datum faces
    ops = _two_ops([bore]).part.model_dump()["ops"]
    ops[0]["cuts"] = [DRILL | {"at": [(20, 12)]}]
    chain = _checks(_with(_two_ops([_feature("Square", **lean), bore]), parts__0__ops=ops))[
        "Square"
    ].chain
    assert len([source for source in chain if source.name == "op 10: locators' place"]) >= 3
    # Both ops rest on three corners of the same rectangle, one over the other: over one of its
    # diagonals or the other they swing alike.
    item = ready(
        views_of(_with(_two_ops([_feature("Square", **lean), bore]), parts__0__ops=ops))[0]
    )
    swings = [
        [
            sum(s.shift[2] ** 2 for s in check.chain if s.name == f"{op}locators' place")
            for op in ("", "op 10: ")
        ]
        for check in item.locating.checks
        if check.feature.name == "Square"
    ]
    (mine, theirs), (across, theirs_across) = swings
    error = item.view.accuracy.locator_mm
    # A corner between the other two: over the diagonal it is not on, 1 + 1 + 2²; over its own, 1 +
    # 1.
    assert sorted([mine, across]) == pytest.approx([2 * error**2, 6 * error**2])
    assert sorted([theirs, theirs_across]) == pytest.approx([2 * error**2, 6 * error**2])


def test_a_bore_square_to_the_station_leans_both_ways_and_by_what_the_block_is_indexed_off():
    lean = [_feature("Upright", kind="orientation", tolerance=0.1)]
    flat = ready(views_of(_two_ops(lean, op=0))[0]).locating.checks
    assert [tuple(check.way) for check in flat] == [(1, 0, 0), (0, 1, 0)]
    block = {"faces": 4, "axis": "upright"}
    request = _two_ops(lean, op=0, block=block)
    checks = ready(views_of(request)[0]).locating.checks
    angle = math.radians(request.machine.index_arcsec / 3600)
    for check in checks:
        indexed = [source for source in check.chain if source.name == "rotary index"]
        assert [np.linalg.norm(source.shift) for source in indexed] == pytest.approx(
            [angle * request.part.height_mm]
        )


def test_a_thickness_over_two_ops_is_the_sum_of_both_by_hand():
    """Underside cut in op 20 with the part on its top face: measured from that face, only op 20's
    own errors, along Z.
    """
    thick = [
        _feature(
            "Thick",
            kind="distance",
            tolerance=0.1,
            op=20,
            takes=["-Z"],
            measured_from="face",
            from_face="+Z",
        )
    ]
    request = _two_ops(thick)
    check = _checks(request)["Thick"]
    assert tuple(np.abs(check.way)) == (0, 0, 1)
    assert check.chain == ()
    adds = {add.name: add for add in _at(request, station=0, feature="Thick").detail.adds}
    assert adds["height of plate and rests"].x_mm == request.accuracy.height_mm
    assert "station place" not in adds
    # From the underside's own clamping mate it would be another story: a shoulder that op 10 cut
    # from its raw underside.
    steps = {
        "kind": "distance",
        "op": 20,
        "takes": ["-Z"],
        "measured_from": "feature",
        "from_feature": "Bore",
    }
    step = [_feature("Step", tolerance=0.5, **steps), _feature("Bore", z_mm=20)]
    carried = _checks(_two_ops(step))["Step"].chain
    assert {source.name for source in carried} == {"op 10: machine positioning"}


@pytest.mark.parametrize(
    ("features", "said"),
    [
        ([_feature("A", measured_from="feature", from_feature="nowhere")], "say which feature"),
        (
            [_feature("A", measured_from="feature", from_feature="B"), _feature("B", op=20)],
            "cut only later",
        ),
        ([_feature("A", measured_from="face")], "say which face"),
        (
            [
                _feature("A", measured_from="face", from_face="-Z"),
                _feature("B", op=20, takes=["-Z"]),
            ],
            "cut only later",
        ),
    ],
)
def test_a_missing_link_in_the_chain_is_named_and_the_rest_is_judged(features, said):
    answer = _at(_two_ops([*features, _feature("Good")], op=0))
    columns = {column.feature: column for column in answer.columns}
    assert said in columns["A"].problem
    assert columns["A"].verdicts == []
    assert columns["Good"].verdicts[0].share > 0
    assert [line.feature for line in answer.first_article] == ["Good"]


def test_circles_and_machines_that_cannot_are_said_first():
    with pytest.raises(ValueError, match="in a circle"):
        _two_ops(
            [
                _feature(a, measured_from="feature", from_feature=b)
                for a, b in (("A", "B"), ("B", "A"))
            ]
        )
    both = [
        _feature("Fixture's", tolerance=0.02),
        _feature("Machine's", 30, 30, 0.005, measured_from="feature", from_feature="Fixture's"),
    ]
    found = plan(_two_ops(both, op=0)).reasons
    assert "less than the machine itself is good for" in found[0].what
    assert "Machine's" in found[0].what
    assert "no station can meet Fixture's" in found[1].what
    with pytest.raises(OutOfRange, match="counted from 0"):
        _at(starting_request("x", 1), station=7, feature="Bore")


def test_leaning_and_profiles_follow_the_rests_and_the_corners():
    features = [
        _feature("Top", kind="orientation", tolerance=0.1, takes=["+Z"]),
        _feature(
            "Flat to bore",
            kind="orientation",
            tolerance=0.1,
            takes=["+Z"],
            measured_from="feature",
            from_feature="Bore",
        ),
        _feature("Outside", kind="profile", tolerance=0.3),
        _feature("Bore"),
    ]
    request = _two_ops(features, op=0)
    columns = {column.feature: column.verdicts[0] for column in _at(request).columns}
    assert columns["Top"].share > columns["Flat to bore"].share
    tilted = {
        c.feature: c.verdicts[0] for c in _at(_with(request, accuracy__locator_mm=0.03)).columns
    }
    assert tilted["Top"].probable_mm > 3 * columns["Top"].probable_mm
    assert tilted["Flat to bore"].probable_mm == pytest.approx(
        columns["Flat to bore"].probable_mm, rel=1e-6
    )
    # A profile of width 2 t holds what a place of plus or minus t along its worst normal holds.
    corners = [_feature("Corner", 60, 40, 0.15, kind="distance")]
    corner = _at(_two_ops(corners, op=0)).columns[0].verdicts[0]
    assert columns["Outside"].share >= corner.share - 1e-9


@pytest.mark.parametrize("place", [(40.0, 40.0), (280.0, 240.0)])
def test_every_remedy_that_can_be_set_gives_what_it_says_once_it_is_set(place):
    tight = _with(
        starting_request("Block", 10),
        parts__0__features=[_feature("Bore", 45, 33, 0.026)],
        station__stops__length_mm=14,
    )
    answer = _at(tight, place, station=0, feature="Bore")
    assert answer.columns[0].verdicts[0].share > 1
    remedies = answer.detail.remedies
    assert [item.brings_in for item in remedies] == sorted(
        (item.brings_in for item in remedies), reverse=True
    )
    tried = 0
    for item in remedies:
        if not item.field:
            continue
        changed = (
            _at(_with(tight, **{item.field.replace(".", "__"): item.value}), place)
            .columns[0]
            .verdicts[0]
        )
        assert changed.share == pytest.approx(item.share, abs=0.012), item.what
        assert (changed.share <= 1 + 1e-9) == item.brings_in
        tried += 1
    assert tried >= 3


def test_a_pair_of_fixtures_may_differ_by_just_what_is_said():
    request = _with(
        starting_request("Block", 10), parts__0__features=[_feature("Bore", 45, 33, 0.06)]
    )
    places = [(40.0, 40.0), (280.0, 240.0)]
    lines = {line.what.split(",")[0]: line for line in _at(request, *places).pair}
    for what, field in (
        ("Stations to one another", "station_place_mm"),
        ("Zero on its dowels", "datum_pickup_mm"),
    ):
        within = lines[what].within_mm
        most = [
            max(
                verdict.share
                for verdict in (
                    _at(_with(request, **{f"accuracy__{field}": within * k}), *places)
                    .columns[0]
                    .verdicts
                )
            )
            for k in (1.0, 1.02)
        ]
        assert most[0] <= 1 + 1e-6 < most[1]
    assert (
        lines["Rests' height over the base"].within_mm is None
    )  # a bore's place in the plane does not ask for it


def test_measured_places_replace_the_drawn_and_what_is_only_known_counts_with_its_sign():
    request = _with(
        starting_request("Block", 10), parts__0__features=[_feature("Bore", 45, 33, 0.06)]
    )
    station = OwnStation(
        x_mm=200, y_mm=150, measured=Measured(x_mm=200.012, y_mm=149.995, within_mm=0.002)
    )
    own = request.model_copy(update={"arrangement": Arrangement(own=True, stations=[station])})

    def adds(asked):
        detail = verdicts(
            VerdictsRequest(request=asked, samples=5000, station=0, feature="Bore")
        ).detail
        return {add.name: (add.x_mm, add.y_mm) for add in detail.adds}, detail

    drawn = adds(
        own.model_copy(
            update={"arrangement": Arrangement(own=True, stations=[OwnStation(x_mm=200, y_mm=150)])}
        )
    )
    known, after = adds(own)
    assert drawn[0]["station place"] == (0.008, 0.008)
    assert known["station place"] == (0.002, 0.002)
    assert after.probable_mm < drawn[1].probable_mm
    only, as_drawn = adds(_with(own, accuracy__measured_are="only known"))
    assert only["station off the drawing"] == pytest.approx((0.012, 0.005))
    assert as_drawn.worst_mm == pytest.approx(
        2 * math.hypot(0.012 + _ends(known, 0), 0.005 + _ends(known, 1)), rel=0.35
    )
    assert as_drawn.probable_mm > drawn[1].probable_mm
    # A layout of one's own is judged by what was measured, and refused where that is out.
    off = OwnStation(x_mm=200, y_mm=150, measured=Measured(x_mm=200.08, y_mm=150))
    bad = _with(
        request.model_copy(update={"arrangement": Arrangement(own=True, stations=[off])}),
        accuracy__measured_are="only known",
    )
    refused = plan(bad)
    assert not refused.feasible
    assert "would not hold Bore" in refused.reasons[0].what


def _ends(adds: dict, axis: int) -> float:
    return sum(abs(pair[axis]) for name, pair in adds.items() if name != "station off the drawing")


@settings(max_examples=6, deadline=None)
@given(st.floats(0.034, 0.06), st.integers(0, 1000))
def test_no_station_is_placed_where_it_would_be_scrapped_and_those_left_out_would_be(zone, seed):
    rng = np.random.default_rng(seed)
    request = _with(
        starting_request("Block", 400),
        parts__0__features=[_feature("Bore", 45, 33, zone)],
        datum__x_mm=float(rng.uniform(0, 100)),
        datum__y_mm=float(rng.uniform(0, 100)),
        accuracy__temperature_k=float(rng.uniform(2, 6)),
    )
    result = plan(request)
    if not result.feasible:
        assert any("no station" in reason.what for reason in result.reasons)
        return
    design = result.designs[0]
    asked = _at(request, *[(s.x_mm, s.y_mm, s.turn) for s in design.stations])
    assert all(verdict.share <= 1 + 1e-9 for column in asked.columns for verdict in column.verdicts)
    problem = layout_request(request, [ready(view) for view in views_of(request)])
    free = [
        kind.model_copy(update={"regions": [r for r in kind.regions if r.name != "tolerance"]})
        for kind in problem.kinds
    ]
    standing = [
        Placement(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
        for s in design.stations
    ]
    for item in design.left_out:
        standing.append(
            Placement(
                face=item.face, kind=item.kind, x_mm=item.x_mm, y_mm=item.y_mm, turn=item.turn
            )
        )
        assert item.share > 1
        assert item.uses_mm > item.tolerance_mm == zone
        region = next(Polygon(r.outer) for r in problem.kinds[0].regions if r.name == "tolerance")
        assert not region.contains(Point(item.x_mm, item.y_mm).buffer(0)) or item.turn
    assert faults(problem.model_copy(update={"kinds": free}), standing) == []


def test_the_datum_that_is_picked_is_the_cheapest_with_the_most_and_what_others_buy_is_so():
    block = _with(
        starting_request("Block", 400),
        block__faces=4,
        block__body_kg=40,
        machine=named("machine", "Horizontal, 400 mm pallet").model_dump(),
        plate__width_mm=180,
        plate__depth_mm=200,
        plate__keepouts=[],
        datum__x_mm=90,
        datum__y_mm=100,
        station__turns=[0],
        parts__0__features=[_feature("Bore", 45, 33, 0.044)],
    )
    counts = {}
    for datum in ("one for all", "one per face", "one per station"):
        result = plan(_with(block, rules__datum=datum))
        counts[datum] = result.designs[0].count if result.designs else 0
    picked = plan(_with(block, rules__datum="cheapest in tolerance"), alternatives=True)
    told = {item.strategy: item for item in picked.strategies}
    assert {name: item.count for name, item in told.items()} == counts
    assert (
        counts["one for all"] < counts["one per face"]
    )  # faces to one another and the index take too much of so tight a zone
    assert picked.designs[0].datum == "one per face"
    assert told["one per face"].rank == 1
    assert told["one per face"].seconds == told["one per face"].offsets * block.rules.pickup_seconds
    assert picked.designs[0].count == counts["one per face"]
    assert counts["one per station"] <= 6  # work offsets
