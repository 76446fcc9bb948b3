"""From a file to a plan: against routes worked out by hand, and looked at in 3-D by other code."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.draft.conftest import FACTS
from tests.core.solids import overlaps, untouched
from wedgecraft.core.draft.around import drafted_around
from wedgecraft.core.draft.assumed import answered, assumed_shown, without_touched
from wedgecraft.core.draft.bare import bare, is_bare
from wedgecraft.core.draft.blanks import blank_of, kept_in
from wedgecraft.core.draft.proposal import drafted
from wedgecraft.core.draft.shape import part_of_outline
from wedgecraft.core.draft.sides import cells_of, sides_of
from wedgecraft.core.draft.tolerances import general_mm, thread_of
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.feature import DIRECTIONS, Feature, opposite
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.stock import Stock, StockDimension, StockSizes
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.pose import turn_of
from wedgecraft.core.workpiece.report import not_as_drawn
from wedgecraft.core.workpiece.states import workpiece

#: Ops and round holes, counted by hand from the drawings: two sides of every blank are cut, and
#: what lies on other sides takes an op each.
BY_HAND = {
    "ring_flange": (2, 8), "port_body": (4, 6), "rocker_lever": (2, 2), "flange_bush": (2, 1),
    "hex_standoff": (3, 2), "tooth_wheel": (2, 1), "angle_bracket": (3, 6), "clevis": (3, 2),
    "housing": (2, 4), "counterbored_plate": (2, 8), "chamfered_cover": (2, 4),
}  # fmt: skip


_BLOCK = Outline.model_validate({"shape": {"kind": "rectangle", "width_mm": 60, "depth_mm": 40}})


def _at(document: object, pointer: str) -> object:
    for key in pointer.strip("/").split("/"):
        document = document[int(key)] if isinstance(document, list) else document[key]
    return document


@pytest.mark.parametrize("name", BY_HAND)
def test_a_file_becomes_a_plan_that_holds_and_makes_the_part(name, read, stores):
    part, (ops, holes) = read(name), BY_HAND[name]
    body, facts = finished_body(part), FACTS.get(name, {})
    if "volume_mm3" in facts:
        size = np.subtract(body.box[3:], body.box[:3])
        assert body.volume_mm3 == pytest.approx(facts["volume_mm3"], rel=3e-3)
        assert sorted(size) == pytest.approx(sorted(facts["box_mm"]), abs=0.03)
    quantity = facts.get("quantity", 100)
    planned = plan_route(drafted(name, quantity, [part], stores), alternatives=False)
    answer = answered(planned)
    assert answer.feasible, answer.reasons
    made = planned.job.parts[0]
    assert [len(made.ops), len(made.features)] == [ops, holes]
    found = workpiece(made)
    assert answer.left_over_mm3 <= found.finished.surface_mm2 * found.finished.chord_error_mm
    assert not [gouge for op in found.ops for cut in op.cuts for gouge in cut.gouges]
    for item in planned.result.setups:
        request = setup_request(planned, item.number)
        assert overlaps(request, item.result.designs[0]) == []
        touching = untouched(request)
        # a hexagon's edge lies against the side stop
        assert [said for said in touching if "side stop" not in said] == []
        verdict = item.result.hold
        assert verdict.result.factor >= verdict.needed
    written = planned.model_dump(mode="json")
    for proposal in planned.proposals:
        assert _at(written, proposal.pointer) is not None
    assert 3 <= len(answer.assumed) <= 10
    doubts = [proposal.doubt for proposal in answer.assumed]
    assert doubts == sorted(doubts, reverse=True)


@pytest.mark.parametrize("name", ["port_body", "rocker_lever"])
def test_a_metric_part_is_made_whole_in_a_shop_that_thinks_in_inches(name, read, stores):
    """Inch cutters first; what only a metric one makes is cut with that."""
    made = drafted(name, 60, [read(name)], stores, unit="in").job.parts[0]
    assert [doubt.says for doubt in not_as_drawn([made]) if doubt.wrong] == []
    inch = {item.name for item in stores.cutters_in("in")[0]}
    used = {cut.tool.name for op in made.ops for cut in op.cuts}
    assert used & inch
    assert used - inch


def test_what_leans_against_every_side_is_refused_for_that(read, stores):
    planned = plan_route(drafted("w", 50, [read("sloped_wedge")], stores), alternatives=False)
    answer = answered(planned)
    assert not answer.feasible
    assert answer.left_over_mm3 > 1000
    assert any("are left that no cut takes" in said for said in answer.reasons)
    # 16 mm over 60 mm leans by 14.9° to the part's base; it was tilted by some degrees besides
    assert "leans by" in answer.assumed[0].why


def test_sides_agree_with_rays_through_the_solid(read):
    """Where the grid says a tool gets in from a side, a ray does, and the other way round."""
    rng = np.random.default_rng(5)
    for name in ("port_body", "clevis", "angle_bracket"):
        body = finished_body(read(name))
        _, pitch = cells_of(body)
        low, high = np.array(body.box[:3]), np.array(body.box[3:])
        first = sides_of(body)[0]
        for point in rng.uniform(low, high, (300, 3)):
            near = [point + pitch * step for step in (*np.eye(3), *-np.eye(3))]
            inside = [body.holds_ray(p - 1e-4, p + 1e-4) for p in (point, *near)]
            solid = _inside(body, point)
            if any(inside) or solid or any(_inside(body, p) for p in near):
                continue  # in the part, or at its skin
            ways = [turn_of(side)[2] for side in first.every]
            assert any(not body.holds_ray(point, point + 500 * way) for way in ways), (name, point)


def _inside(body, point) -> bool:
    area = body.slice(float(point[2]))
    from shapely.geometry import Point

    return bool(area.contains(Point(point[0], point[1])))


def test_fewest_sides_of_parts_worked_out_by_hand(read):
    expected = {"ring_flange": 0, "port_body": 2, "hex_standoff": 1, "clevis": 1, "housing": 0}
    for name, others in expected.items():
        best = sides_of(finished_body(read(name)))[0]
        assert len(best.others) == others, name
        assert best.out_of_reach_mm3 == 0
        assert len(set(best.every)) == 2 + others
        assert opposite(best.first) in best.every
        assert set(best.every) <= set(DIRECTIONS)


def test_the_next_standard_blank_holds_part_and_allowances(read, stores):
    """A ring of 110 x 110 x 14: 1 mm over, 5 mm held and 1.5 mm free under it ask for 21.5 mm, the
    next plate has 22. A lever of 117 x 32 x 16: the next bar over 35 x 23.5. A bush of 50 x 30: the
    next round over 53.
    """
    kept, inches = kept_in(stores.stock, "mm"), kept_in(stores.stock, "in")
    plate = blank_of(finished_body(read("ring_flange")), "+Z", 5.0, kept).stock
    assert plate.kind == "saw-cut plate"
    assert plate.z.sides_mm == pytest.approx((7.0, 1.0), abs=0.01)
    bar = blank_of(finished_body(read("rocker_lever")), "+Z", 5.0, kept).stock
    assert (bar.kind, bar.along, bar.gripped) == ("saw-cut bar", "x", "y")
    assert 32 + sum(bar.y.sides_mm) == pytest.approx(35, abs=0.03)
    assert 16 + sum(bar.z.sides_mm) == pytest.approx(25)
    inch = blank_of(finished_body(read("rocker_lever")), "+Z", 5.0, inches).stock
    assert (16 + sum(inch.z.sides_mm)) / 25.4 * 8 == pytest.approx(8)  # an inch, in eighths
    bush = finished_body(read("flange_bush"))
    rod, inch = (blank_of(bush, "+Z", 5.0, table).stock for table in (kept, inches))
    assert (rod.kind, rod.along) == ("round bar", "z")
    assert 50 + 2 * rod.x.allowance_mm == pytest.approx(55)
    assert 50 + 2 * inch.x.allowance_mm == pytest.approx(2.125 * 25.4)
    assert rod.z.sides_mm == (6.5, 1.0)
    hexagon = blank_of(finished_body(read("hex_standoff")), "-Y", 5.0, kept)
    assert (hexagon.stock.kind, hexagon.stock.along) == ("hexagon bar", "y")
    assert hexagon.finished_walls
    large = finished_body(read("clevis")).turned(4 * np.eye(3))
    with pytest.raises(OutOfRange, match="no standard bar"):
        blank_of(large.turned(2 * np.eye(3)), "+Z", 5.0, kept)
    own = [StockSizes(name="ours", form="flat bar", sizes=["27 mm", "40 mm"])]
    bar = blank_of(finished_body(read("rocker_lever")), "+Z", 5.0, kept_in(own, "mm")).stock
    assert 16 + sum(bar.z.sides_mm) == pytest.approx(27)  # what the shop keeps comes first


def test_what_a_person_set_stays_when_it_is_drafted_again(read, stores):
    document = drafted("bush", 500, [read("flange_bush")], stores)
    assert not is_bare(document)
    again = bare(document)
    assert is_bare(again)
    assert again.job.parts[0].stock == Stock()
    assert again.job.parts[0].features == []
    # what a person touches is no longer proposed, what stands beside it still is
    touched = without_touched(document, "job.parts.0.stock.x.allowance_mm")
    assert {p.pointer for p in document.proposals} - {p.pointer for p in touched.proposals} == {
        "/job/parts/0/stock"
    }
    stock = Stock(x=StockDimension(allowance_mm=4), z=StockDimension(allowance_mm=1, low_mm=8))
    own = Feature(name="bore", x_mm=25, y_mm=25, z_mm=31, tolerance_mm=0.05)
    part = again.job.parts[0].model_copy(update={"stock": stock, "features": [own]})
    second = drafted("bush", 500, [part], stores)
    made = second.job.parts[0]
    assert made.stock == stock
    assert made.features == [own]  # the general tolerance of that hole is not asked besides
    assert "/job/parts/0/stock" not in {item.pointer for item in second.proposals}
    assert all(item.step in ("part", "cuts", "hold", "method") for item in assumed_shown(second))


def _edited(document: JobDocument, *edits: tuple[str, object]) -> JobDocument:
    """As the service does: the value is set, and what it touches is no longer proposed."""
    given = document.model_dump(mode="json")
    for path, value in edits:
        *keys, last = path.split(".")
        _at(given, "/".join(keys))[last] = value
    changed = JobDocument.model_validate(given)
    for path, _ in edits:
        changed = without_touched(changed, path)
    return changed


def test_ops_forms_and_a_machine_that_a_person_set_stay_when_it_is_drafted_again(stores):
    block = part_of_outline(_BLOCK, 18.0, MATERIALS["aluminium-6061"], "Block")
    document = drafted("Block", 60, [block], stores)
    again = drafted_around(document, stores)
    assert again == document  # nothing was set: it is all proposed as it was
    larger = max(stores.machines, key=lambda item: item.travel_x_mm)
    rpm, torque = "job.parts.0.ops.0.cuts.0.spindle_rpm", "route.setups.1.form.torque_nm"
    edited = _edited(
        document,
        (rpm, 1234.0),
        (torque, 55.0),
        ("route.setups.0.machine", larger.model_dump(mode="json")),
    )
    again = drafted_around(edited, stores)
    given = again.model_dump(mode="json")
    assert _at(given, rpm.replace(".", "/")) == 1234
    assert _at(given, torque.replace(".", "/")) == 55
    assert again.job.parts[0].ops[0] == edited.job.parts[0].ops[0]
    assert again.job.parts[0].ops[1] == document.job.parts[0].ops[1]
    assert again.route.setups[0].machine == larger
    said = {item.pointer for item in again.proposals}
    assert "/job/parts/0/ops/0" not in said
    assert "/route/setups/1/form" not in said
    assert {"/job/parts/0/stock", "/job/parts/0/ops/1", "/route/setups/0/form"} <= said
    assert plan_route(again, alternatives=False).result.complete_a_cycle
    # the sides in another order: a person's ops stay as they are, and are held anew
    part = edited.job.parts[0]
    ops = [part.ops[k].model_copy(update={"number": 20 - 10 * k}) for k in (1, 0)]
    swapped = part.model_copy(update={"ops": ops})
    job = edited.job.model_copy(update={"parts": [swapped]})
    turned = edited.model_copy(update={"job": job, "route": None, "proposals": []})
    found = drafted_around(turned, stores)
    assert found.job.parts[0].ops == swapped.ops


def test_general_tolerances_are_those_of_the_standard():
    """ISO 2768-1, class m, plus or minus, from memory; threads of tapping holes, ISO 261."""
    printed = {3: 0.1, 6: 0.1, 6.1: 0.2, 30: 0.2, 120: 0.3, 121: 0.5, 400: 0.5, 1000: 0.8}
    assert {length: general_mm(length) for length in printed} == printed
    assert [thread_of(size) for size in (3.3, 5.0, 6.8, 10.2, 9.0)] == [
        "M4",
        "M6",
        "M8",
        "M12",
        None,
    ]
