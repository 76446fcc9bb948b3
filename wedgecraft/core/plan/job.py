"""From a plan request to a design: load, hold, tolerance, layout, ledger."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from wedgecraft.core.explain import reasons
from wedgecraft.core.explain.cautions import cautions_of
from wedgecraft.core.explain.facts import Worked
from wedgecraft.core.explain.figures import common_figures
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.hold.torque_window import full_hold
from wedgecraft.core.hold.verdict import Holding, quick_hold
from wedgecraft.core.layout.check import faults
from wedgecraft.core.layout.solve import Report, hindrance, layout
from wedgecraft.core.layout.solve import alternatives as others
from wedgecraft.core.locate.ready import Ready, bare_kg, own_placements, ready
from wedgecraft.core.plan.bench import Bench, placed_result
from wedgecraft.core.plan.clamp_choice import ways
from wedgecraft.core.plan.datums import left_out, strategies
from wedgecraft.core.plan.one_design import design_of
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.plan.settled import chosen, with_datum
from wedgecraft.core.records.design import DatumStrategy, Design
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.layout import LayoutResult
from wedgecraft.core.records.plan import CutLoad, OpAnswer, PlanResult, Reason
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import OpView, views_of
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.release import release
from wedgecraft.core.station.stood import stood

Progress = Callable[[str, float], None]
Preview = Callable[[PlanResult], None]


def plan(
    request: PlanRequest,
    progress: Progress | None = None,
    preview: Preview | None = None,
    alternatives: bool = False,
) -> PlanResult:
    """Answer a request. A request that cannot work gives a result without designs and with reasons;
    it does not raise.

    ``preview`` gets a result with the first design as soon as there is one, and with each that is
    better. ``alternatives``: also designs that are easier to program or have more room.

    >>> from wedgecraft.core.shop.picks import starting_request
    >>> asked = starting_request("Block", 4)
    >>> result = plan(asked)
    >>> result.feasible, result.designs[0].count
    (True, 4)
    """
    tell: Progress = progress or (lambda step, share: None)
    if request.station.by_planner:
        return _chosen(request, tell, preview, alternatives)
    if request.rules.datum == "cheapest in tolerance":
        return _cheapest(request, tell, preview, alternatives)
    return _planned(request, tell, preview, alternatives)


def _planned(
    request: PlanRequest,
    tell: Progress,
    preview: Preview | None,
    alternatives: bool,
    compare: bool = True,
) -> PlanResult:
    """With clamps and datum settled. ``compare``: also what other datums would cost and let on."""
    done: list[Worked] = []
    view, verdict = views_of(request)[0], None
    loads: list[CutLoad] = []
    holdings: list[Holding] = []
    try:
        kinds: list[Ready] = []
        found: list[Reason] = []
        tell("cutting load", 0.05)
        for number, view in enumerate(views_of(request)):
            loads, verdict = [], None
            if not view.op.cuts:
                return _refused(request, [reasons.no_cuts(view)], done, (view, loads, verdict))
            sitting = stood(view)
            loads = cut_loads(view, sitting)
            kinds.append(ready(view))
            release(view, sitting)  # before anything long: a part that cannot come out is no plan
            tell("hold", 0.1 + 0.15 * number / len(views_of(request)))
            found += reasons.of_spindle(view, loads)
            found += [_placed(request, number, reason) for reason in reasons.of_grip(view)]
            holding = Holding(view, kinds[-1].station, sitting, loads)
            verdict = quick_hold(holding)
            if verdict.result.factor < verdict.needed:
                verdict = full_hold(holding)
            holdings.append(holding)
            found += [_placed(request, number, reason) for reason in reasons.of_hold(view, verdict)]
            missed = reasons.of_tolerance(view, kinds[-1].locating)
            found += missed
            done.append(Worked(kinds[-1], loads, verdict))
        bare = bare_kg(request.block, kinds[0].masses)
        set_kg = sum(
            each * item.masses.each_kg for each, item in zip(request.per_set, kinds, strict=True)
        )
        found += reasons.of_table_load(request, bare, set_kg)
        problem = layout_request(request, kinds)
        hindered = hindrance(problem)
        found = ([reasons.no_room(hindered)] if hindered else []) + found
        if found:
            return _refused(request, found, done)
        tell("layout", 0.3)
        if request.arrangement.own:
            bench = Bench(request)
            answer, wrong = bench.as_placed()
            found_strategies = (
                strategies(request, kinds, bench.placements) if compare and alternatives else []
            )
            known = _result(request, _in_full(done, holdings), []).model_copy(
                update={"strategies": found_strategies}
            )
            return placed_result(bench, known, answer, wrong)
        standing = own_placements(request)
        in_the_way = reasons.of_standing(request, standing, faults(problem, standing))
        if in_the_way:
            # Shown as they stand, for whoever must move them.
            bench = Bench(request)
            known = _result(request, _in_full(done, holdings), [])
            return placed_result(bench, known, *bench.as_placed())
        answer = layout(
            problem.model_copy(update={"fixed": standing}), _watch(request, done, tell, preview)
        )
        if not answer.sets:
            return _refused(request, [_nothing(request)], done)
        tell("ledger", 0.95)
        done = _in_full(done, holdings)
        out = left_out(request, kinds, answer.placements, answer.sets)
        designs = [design_of(request, done, answer).model_copy(update={"left_out": out})]
        tried: list[DatumStrategy] = []
        if alternatives and not standing:
            if preview is not None:
                preview(_result(request, done, designs))
            designs += [
                design_of(request, done, other.result).model_copy(
                    update={"name": other.name, "more_room_mm": other.more_room_mm}
                )
                for other in others(problem, answer)
            ]
        if alternatives and compare:
            tried = strategies(request, kinds, known=answer)
    except NotSeated:
        return _refused(
            request,
            [_placed(request, len(done), reasons.not_seated())],
            done,
            (view, loads, verdict),
        )
    except OutOfRange as error:
        return _refused(
            request,
            [_placed(request, len(done), reasons.out_of_range(request, view, error))],
            done,
            (view, loads, verdict),
        )
    return _result(request, done, designs).model_copy(update={"strategies": tried})


def _cheapest(
    request: PlanRequest, tell: Progress, preview: Preview | None, alternatives: bool
) -> PlanResult:
    """Planned with the cheapest datum that keeps the most stations in tolerance; what the others
    cost and let on comes with it.

    What is wrong besides, the plan with one datum for all says.
    """
    first = with_datum(request, "one for all")
    if not all(view.op.cuts for view in views_of(request)):
        return plan(first, tell, preview, alternatives)
    tell("datums", 0.05)
    try:
        kinds = [ready(view) for view in views_of(first)]
        standing = own_placements(first) if request.arrangement.own else None
        tried = strategies(first, kinds, standing)
    except OutOfRange:
        return plan(first, tell, preview, alternatives)
    best = next((item for item in tried if item.rank == 1), None)
    settled = with_datum(request, best.strategy if best else "one for all")
    result = _planned(settled, tell, preview, alternatives, compare=False)
    return result.model_copy(update={"strategies": tried})


def _chosen(
    request: PlanRequest, tell: Progress, preview: Preview | None, alternatives: bool
) -> PlanResult:
    """Planned with the clamps that the planner picks; what was tried comes with it."""
    if not views_of(request)[0].op.cuts:
        return plan(_by_hand(request), tell, preview, alternatives)
    tried = ways(request, lambda step, share: tell(step, 0.5 * share))
    without = set(range(len(views_of(request)))) - {way.kind for way in tried if way.rank}
    if without:
        found = [
            Reason(
                field="station.offered",
                what=f"{way.name} would not do"[:200],
                why=way.refused,
                nearest="offer other clamps, a larger screw, or lighten the cut",
            )
            for way in [way for way in tried if way.kind in without][:6]
        ]
        return plan(_by_hand(request), tell, None, False).model_copy(
            update={"feasible": False, "designs": [], "reasons": found, "ways": tried}
        )
    shown: Preview | None = None
    if preview is not None:

        def shown(result: PlanResult) -> None:
            preview(result.model_copy(update={"ways": tried}))

    result = plan(
        _by_hand(chosen(request, tried)),
        lambda step, share: tell(step, 0.5 + share / 2),
        shown,
        alternatives,
    )
    return result.model_copy(update={"ways": tried})


def _by_hand(request: PlanRequest) -> PlanRequest:
    return request.model_copy(
        update={"station": request.station.model_copy(update={"by_planner": False})}
    )


def _placed(request: PlanRequest, kind: int, reason: Reason) -> Reason:
    """The reason with the field where this op's station really stands."""
    if kind > len(request.also) or not reason.field.startswith("station."):
        return reason
    return reason.model_copy(
        update={"field": request.station_path(kind) + reason.field.removeprefix("station")}
    )


def _in_full(done: Sequence[Worked], holdings: Sequence[Holding]) -> list[Worked]:
    """What a first design need not wait for: the window of torque of every op."""
    return [
        item if item.hold.gives else replace(item, hold=full_hold(holding))
        for item, holding in zip(done, holdings, strict=True)
    ]


def _watch(
    request: PlanRequest, done: list[Worked], tell: Progress, preview: Preview | None
) -> Report:
    def report(answer: LayoutResult) -> None:
        tell(
            f"layout: {answer.sets} so far",
            0.3 + 0.6 * min(1.0, answer.sets / max(1, answer.bound)),
        )
        if preview is not None and answer.sets:
            preview(_result(request, done, [design_of(request, done, answer)]))

    return report


def _nothing(request: PlanRequest) -> Reason:
    if not request.also:
        return reasons.no_room("no place was found")
    return reasons.no_room("not even one of every op that is planned has a place on the faces")


def _result(request: PlanRequest, done: Sequence[Worked], designs: list[Design]) -> PlanResult:
    first = done[0]
    counts = [item.stations for item in designs[0].kinds] if designs else [0] * len(done)
    return PlanResult(
        feasible=True,
        designs=designs,
        reasons=[],
        figures=common_figures(first.ready.view, first.loads, first.hold),
        loads=first.loads,
        hold=first.hold,
        others=[_other(item) for item in done[1:]],
        cautions=cautions_of(request, [item.ready for item in done], counts) if designs else [],
    )


def _other(item: Worked) -> OpAnswer:
    view = item.ready.view
    return OpAnswer(
        planned=view.planned,
        loads=item.loads,
        hold=item.hold,
        figures=common_figures(view, item.loads, item.hold),
    )


#: An op as far as it was worked out when it turned out not to work.
_UnderWay = tuple[OpView, list[CutLoad], HoldVerdict | None]


def _refused(
    request: PlanRequest,
    found: list[Reason],
    done: Sequence[Worked],
    under_way: _UnderWay | None = None,
) -> PlanResult:
    """No design; with load and hold of the ops that were ``done``, or of the first as far as it
    got.
    """
    if done:
        under_way = done[0].ready.view, done[0].loads, done[0].hold
    assert under_way is not None, "either an op was done or one is under way"  # noqa: S101
    view, loads, verdict = under_way
    return PlanResult(
        feasible=False,
        designs=[],
        reasons=found,
        figures=common_figures(view, loads, verdict),
        loads=loads,
        hold=verdict,
        others=[_other(item) for item in done[1:]],
        cautions=[],
    )
