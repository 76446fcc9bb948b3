"""The planner's choice of clamps: every way that is offered, planned in short, with what it costs
in room and in loading time.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from wedgecraft.core.explain.facts import Worked
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.hold.torque_window import least_torque_of, marks_from
from wedgecraft.core.hold.verdict import Holding, quick_hold
from wedgecraft.core.layout.solve import hindrance, layout
from wedgecraft.core.locate.ready import Ready, ready
from wedgecraft.core.plan.one_design import design_of
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.records.clamp_choice import Way
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.element import ELEMENTS, Element
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.screw import at_torque
from wedgecraft.core.records.sharing import SHARED, How, Sharing
from wedgecraft.core.records.station import Offered
from wedgecraft.core.records.view import views_of
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.release import release
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.holes import fitting_hole

#: Rods and pins are offered for holes up to this size; wider ones are bored out, not clamped
#: through.
_WIDEST_HOLE_MM = 60.0
_LONGEST_ROW = 8
#: How parts that share one clamp are called, and how they share it.
_SHARED_SAID: dict[str, tuple[str, How]] = {
    "double wedge": ("double wedge between two", "double wedge between two"),
    "one clamp for two": ("one rocking toe for two", "one clamp for two"),
}


@dataclass(frozen=True)
class _Trial:
    name: str
    element: Element
    sharing: Sharing
    clamps: int


def ways(request: PlanRequest, told: Callable[[str, float], None] | None = None) -> list[Way]:
    """All ways that are offered for every planned op, its best first, those that would not do last
    with the reason.

    Each op is laid out by itself, on all faces. The most parts a cycle first, then the least time a
    part; counts are those of a short search. A clamp that already holds without marks is not tried
    in greater numbers, and a row no longer once blanks make one of its parts loose. Stations keep
    what they have of an element's sizes.
    """
    alone, found = request.alone, []
    for number, one in enumerate(alone):

        def tell(step: str, share: float, number: int = number) -> None:
            if told:
                told(step, (number + share) / len(alone))

        found += [
            way.model_copy(update={"kind": number})
            for way in _ways_of(one, request.station.offered, tell)
        ]
    return found


def _ways_of(
    request: PlanRequest, offers: Sequence[Offered], told: Callable[[str, float], None]
) -> list[Way]:
    bare = request.model_copy(update={"arrangement": type(request.arrangement)()})
    found: list[Way] = []
    offered = list(dict.fromkeys(offers))
    for number, kind in enumerate(offered):
        told(f"clamps: {kind}", number / len(offered))
        for trial in _trials(bare, kind):
            way = _planned(bare, trial)
            found.append(way)
            enough = not way.refused if kind != "row between jaws" else bool(way.refused)
            if enough:
                break
    rows = [way for way in found if way.sharing.how == "row between jaws" and not way.refused]
    found = [way for way in found if way not in rows[:-1]]  # of rows that hold, the longest
    found.sort(key=lambda way: (bool(way.refused), -way.count, way.part_seconds, way.screws))
    return [
        way.model_copy(update={"rank": 0 if way.refused else rank})
        for rank, way in enumerate(found, 1)
    ]


def _trials(request: PlanRequest, kind: Offered) -> Iterator[_Trial]:
    """What one kind offers, in the order in which it would be tried."""
    own, shared, plain = (
        request.station.element,
        request.station.sharing,
        request.station.sharing.model_copy(update={"how": "a clamp each"}),
    )
    (view,) = views_of(request)
    outline = stood(view).outline
    hole = fitting_hole(outline, 0, _WIDEST_HOLE_MM)

    if kind not in SHARED:
        fitted = ELEMENTS[kind].fitted(hole, request.part.height_mm)
        element = own if own.kind == kind else fitted
        if element.alone:
            yield _Trial(element.said, element, plain, 1)
            return
        for count in range(1, element.most + 1):
            many = "s" if count > 1 else ""
            yield _Trial(f"{count} {element.said}{many} a part", element, plain, count)
        return
    toe = ELEMENTS["edge clamp"]()
    if kind == "row between jaws":
        for length in range(2, _LONGEST_ROW + 1):
            sharing = shared.model_copy(update={"how": kind, "row": length})
            yield _Trial(f"row of {length} between jaws", toe, sharing, 1)
        return
    name, how = _SHARED_SAID[kind]
    yield _Trial(name, toe, shared.model_copy(update={"how": how}), 1)


def _planned(request: PlanRequest, trial: _Trial) -> Way:
    """One way: its torque, whether it holds, how many parts it gives. Never raises for a way that
    does not work: it says why.
    """
    station = request.station.model_copy(
        update={"element": trial.element, "sharing": trial.sharing, "clamps": trial.clamps}
    )
    asked = request.model_copy(
        update={"station": station, "planned": request.planned.model_copy(update={"station": None})}
    )
    way = Way(
        name=trial.name,
        element=trial.element,
        sharing=trial.sharing,
        clamps=trial.clamps,
        torque_nm=None,
        factor=0,
        count=0,
        bound=0,
        screws=0,
        loading_seconds=0,
        part_seconds=0,
        rank=0,
    )
    try:
        holdings: list[Holding] = []
        for view in views_of(asked):
            sitting = stood(view)
            loads = cut_loads(view, sitting)
            kind = ready(view)
            release(view, sitting)
            holdings.append(Holding(view, kind.station, sitting, loads))
        torque, why = _torque(holdings)
        if why:
            return way.model_copy(update={"refused": why, "torque_nm": torque})
        if torque is not None:
            asked = asked.model_copy(
                update={
                    "station": station.model_copy(
                        update={"clamp": at_torque(station.clamp, torque)}
                    )
                }
            )
            holdings = [holding.at(torque) for holding in holdings]
        verdicts = [quick_hold(holding) for holding in holdings]
        worst = min(verdicts, key=lambda verdict: verdict.result.factor / verdict.needed)
        way = way.model_copy(update={"torque_nm": torque, "factor": worst.result.factor})
        if worst.result.factor < worst.needed:
            return way.model_copy(
                update={"refused": f"not held: {worst.result.sentence}, needs {worst.needed:g}"}
            )
        if worst.indexing is not None and worst.indexing < worst.needed:
            return way.model_copy(
                update={
                    "refused": (
                        f"not held while the bar indexes: {worst.indexing:.2f} times its weight"
                    )
                }
            )
        kinds = [ready(view) for view in views_of(asked)]
        return _counted(
            asked,
            way,
            kinds,
            [
                Worked(kind, list(holding.loads), verdict)
                for kind, holding, verdict in zip(kinds, holdings, verdicts, strict=True)
            ],
        )
    except OutOfRange as error:
        return way.model_copy(update={"refused": error.allowed})


def _counted(request: PlanRequest, way: Way, kinds: list[Ready], worked: list[Worked]) -> Way:
    problem = layout_request(request, kinds).model_copy(update={"effort": 0.0})
    hindered = hindrance(problem)
    if hindered:
        return way.model_copy(update={"refused": f"no room: {hindered}"})
    answer = layout(problem)
    if not answer.sets:
        return way.model_copy(update={"refused": "no room for even one complete set"})
    design = design_of(request, worked, answer)
    screws = sum(len(kinds[item.kind].station.screws) for item in answer.placements)
    return way.model_copy(
        update={
            "count": design.count,
            "bound": design.bound,
            "screws": screws,
            "loading_seconds": design.cycle.loading_seconds,
            "part_seconds": design.cycle.seconds / design.count,
            "figures": _figures(request, way, design, screws, worked),
        }
    )


def _figures(
    request: PlanRequest, way: Way, design: Design, screws: int, worked: list[Worked]
) -> list[Figure]:
    """Where the numbers of one way come from."""
    rules, parts = (
        request.rules,
        sum(
            len(item.ready.station.members) * kind.stations
            for item, kind in zip(worked, design.kinds, strict=True)
        ),
    )
    seconds = next(figure for figure in design.figures if figure.id == "part_seconds")
    return [
        Figure(
            id="way_count",
            label=f"{way.name}: a cycle"[:120],
            value=design.count,
            digits=0,
            formula="layout of these stations, a short search",
            inputs=[
                given("at most", design.bound, "", design.statement),
                given("factor", way.factor, "", "hold check, low end of the preload"),
            ],
            source=design.method,
        ),
        Figure(
            id="way_loading",
            label=f"{way.name}: loading"[:120],
            value=design.cycle.loading_seconds,
            unit="s",
            digits=0,
            formula="parts x handling + (screws - parts) x each further screw",
            inputs=[
                given("parts on the faces", parts, "", "layout"),
                given("handling a part", rules.handling_seconds, "s", "house rule"),
                given("screws", screws, "", "layout"),
                given("each further screw", rules.screw_seconds, "s", "house rule"),
            ],
            source="house rules",
        ),
        seconds.model_copy(update={"id": "way_seconds"}),
    ]


def _torque(holdings: list[Holding]) -> tuple[float | None, str]:
    """Torque that holds all ops: the least, rounded up to a whole newton metre where the marks
    leave room for it; or why there is none.

    Nothing for a vacuum. Where the house wants smooth grip, a torque that marks is none.
    """
    if not holdings[0].driven:
        return None, ""
    least = [least_torque_of(holding) for holding in holdings]
    if any(item is None for item in least):
        worst = holdings[least.index(None)].at(holdings[0].rated_nm)
        result = quick_hold(worst).result
        return (
            worst.rated_nm,
            (
                f"not even at the screw's rated {worst.rated_nm:g} N·m: {result.sentence}, needs"
                f" {worst.needed:g}"
            ),
        )
    needed = max(item for item in least if item is not None)
    if holdings[0].plan.station.element.bites:
        if holdings[0].plan.rules.grip == "smooth":
            return needed, "the house rule is smooth grip: teeth leave marks"
        return min(math.ceil(needed), holdings[0].rated_nm), ""
    marks = min((item for item in map(marks_from, holdings) if item is not None), default=None)
    if marks is not None and needed > marks and holdings[0].plan.rules.grip == "smooth":
        return (
            needed,
            (
                f"holds from {needed:g} N·m but marks the part from {marks:g} N·m, and the house"
                " rule is smooth grip"
            ),
        )
    rounded = min(math.ceil(needed), holdings[0].rated_nm)
    return (rounded if marks is None or rounded <= marks else needed), ""
