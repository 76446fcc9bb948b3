"""Which datum: one for all, one for each face, or one for each station. What each costs, what it
lets on, and which is the cheapest.

A dearer datum takes contributors away (how faces and stations stand to one another, the distance
over which the plate grows), and costs probing time and work offsets. Counts are found by laying out
again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely.geometry import Polygon, box

from wedgecraft.core.explain import reasons
from wedgecraft.core.layout.check import clear_room, first_place
from wedgecraft.core.layout.nofit import Geometry, Variant, geometry_of
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.locate.standing import locating_of
from wedgecraft.core.locate.verdicts import judged, known_places
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.plan.settled import with_datum
from wedgecraft.core.records.design import DatumStrategy, LeftOut
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult, Placement
from wedgecraft.core.records.machine import offsets_free, offsets_used
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import STRATEGIES, Strategy
from wedgecraft.core.records.view import views_of

#: So many stations are looked for beside those placed.
_MOST_LEFT_OUT = 8
#: As many work offsets as any control has.
_PLENTY = 400


def under(
    request: PlanRequest, kinds: Sequence[Ready], strategy: Strategy
) -> tuple[PlanRequest, list[Ready]]:
    """The same with another datum. Raises OutOfRange."""
    other = with_datum(request, strategy)
    found = []
    for view, item in zip(views_of(other), kinds, strict=True):
        locating = locating_of(view, item.sitting, item.station, dict(item.gives_mm))
        found.append(replace(item, view=view, locating=locating))
    return other, found


def strategies(
    request: PlanRequest,
    kinds: Sequence[Ready],
    placements: Sequence[Placement] | None = None,
    known: LayoutResult | None = None,
) -> list[DatumStrategy]:
    """All that make a difference here, cheapest first, with their counts; the one with rank 1 has
    the most parts for the least.

    ``placements``: stations a person placed, which are counted where they stand; ``known``: the
    layout for the datum of the request.
    """
    options = [item for item in STRATEGIES if item != "one per face" or request.block.faces > 1]
    found: list[DatumStrategy] = []
    bound = binds(request, kinds)
    solved: dict[str, tuple[int, list[tuple[int, int]]]] = {}
    for strategy in options:
        other, views = under(request, kinds, strategy)
        missed = [
            reason
            for view, item in zip(views_of(other), views, strict=True)
            for reason in reasons.of_tolerance(view, item.locating)
        ]
        if missed:
            found.append(_told(other, strategy, 0, [], f"{missed[0].what}: {missed[0].why}"))
            continue
        if placements is not None:
            count, parts = _as_placed(other, views, placements)
            found.append(_told(other, strategy, count, parts, ""))
            continue
        problem = layout_request(other, views)
        key = problem.model_dump_json()
        if key not in solved and known is not None and not bound:
            # Where no tolerance keeps a station off, a dearer datum lets none on: only work offsets
            # can tell.
            sets = min(known.sets, problem.most)
            solved[key] = sets, _parts(known, views)[: sets * sum(request.per_set)]
        if key not in solved:
            answer = (
                known if known is not None and strategy == request.rules.datum else layout(problem)
            )
            solved[key] = answer.sets, _parts(answer, views)
        count, parts = solved[key]
        found.append(
            _told(
                other,
                strategy,
                count,
                parts,
                "" if count else "there are not enough work offsets, or no place is left",
            )
        )
    ranked = _ranked(found)
    if placements is None and bound:
        ranked = [
            _with_more_offsets(request, kinds, item, max(each.count for each in ranked))
            for item in ranked
        ]
    return ranked


def _parts(answer: LayoutResult, kinds: Sequence[Ready]) -> list[tuple[int, int]]:
    """Face and turn of every part."""
    return [(p.face, p.turn) for p in answer.placements for _ in kinds[p.kind].station.members]


def _with_more_offsets(
    request: PlanRequest, kinds: Sequence[Ready], item: DatumStrategy, most: int
) -> DatumStrategy:
    """What a datum would let on if the control had as many work offsets as it takes; said where
    that is more than any lets on now.
    """
    other, views = under(request, kinds, item.strategy)
    free = offsets_free(request.machine)
    if item.count > free or (item.refused and not item.offsets) or item.strategy == "one for all":
        return item
    answer = layout(layout_request(other, views, offsets=_PLENTY))
    if answer.sets <= most:
        return item
    takes = offsets_used(item.strategy, _parts(answer, views))
    return item.model_copy(
        update={
            "says": (
                f"{answer.sets} a cycle, if the control had {takes} work offsets for it; {free} are"
                " free"
            )
        }
    )


def _as_placed(
    request: PlanRequest, kinds: Sequence[Ready], placements: Sequence[Placement]
) -> tuple[int, list[tuple[int, int]]]:
    """How many of the stations that stand there are in, and where their parts are."""
    known = known_places(request.arrangement.stations, placements)
    inside = 0
    parts: list[tuple[int, int]] = []
    for kind, item in enumerate(kinds):
        mine = [k for k, placement in enumerate(placements) if placement.kind == kind]
        corners = np.array([(placements[k].x_mm, placements[k].y_mm) for k in mine]).reshape(-1, 2)
        each = judged(
            item.locating, corners, [placements[k].turn for k in mine], [known[k] for k in mine]
        )
        shares = [one.share for one in each if not one.problem]
        most = np.max(shares, axis=0) if shares else np.zeros(len(mine))
        inside += int((most <= 1 + 1e-9).sum())
        parts += [
            (placements[k].face, placements[k].turn) for k in mine for _ in item.station.members
        ]
    return inside, parts


def _told(
    request: PlanRequest, strategy: Strategy, count: int, parts: list[tuple[int, int]], refused: str
) -> DatumStrategy:
    offsets = offsets_used(strategy, parts) if parts else 0
    free = offsets_free(request.machine)
    if not refused and offsets > free:
        refused = f"it takes {offsets} work offsets, and {free} are free"
    return DatumStrategy(
        strategy=strategy,
        count=count,
        offsets=offsets,
        seconds=offsets * request.rules.pickup_seconds,
        refused=refused[:300],
        rank=0,
    )


def _ranked(found: Sequence[DatumStrategy]) -> list[DatumStrategy]:
    able = sorted(
        (item for item in found if not item.refused),
        key=lambda item: (-item.count, STRATEGIES.index(item.strategy)),
    )
    ranks = {item.strategy: number for number, item in enumerate(able, 1)}
    cheapest = next((item for item in found if not item.refused), None)
    return [
        item.model_copy(update={"rank": ranks.get(item.strategy, 0), "says": _buys(item, cheapest)})
        for item in found
    ]


def _buys(item: DatumStrategy, cheapest: DatumStrategy | None) -> str:
    """What a dearer datum gives for its price, in words."""
    if cheapest is None or item.refused or item is cheapest:
        return ""
    more = item.count - cheapest.count
    price = (
        f"{item.offsets - cheapest.offsets} more work offsets,"
        f" {(item.seconds - cheapest.seconds) / 60:.1f} min more each time it is set"
    )
    if more > 0:
        return f"{more} more a cycle, for {price}"
    return (
        f"no more parts, for {price}"
        if more == 0
        else f"{-more} fewer a cycle: work offsets run out first"
    )


def binds(request: PlanRequest, kinds: Sequence[Ready]) -> bool:
    """Does the tolerance of anything keep stations off a part of the plate?"""
    whole = box(0, 0, request.plate.width_mm, request.plate.depth_mm)
    problem = layout_request(request, kinds)
    return any(
        not Polygon(region.outer).buffer(1e-6).covers(whole)
        for kind in problem.kinds
        for region in kind.regions
        if region.name == "tolerance"
    )


def left_out(
    request: PlanRequest, kinds: Sequence[Ready], placements: Sequence[Placement], sets: int
) -> list[LeftOut]:
    """Where more stations have room, but for what a feature would use of its tolerance there: by
    what, and by how much.
    """
    problem = layout_request(request, kinds)
    if not binds(request, kinds) or sets >= problem.most:
        return []
    free = _without_mask(problem)
    geometry = geometry_of(free.kinds)
    standing = list(placements)
    found: list[LeftOut] = []
    for face in range(len(free.faces)):
        for kind, item in enumerate(kinds):
            while len(found) < _MOST_LEFT_OUT:
                place = _next(free, geometry, standing, face, kind, item)
                if place is None:
                    break
                standing.append(place)
                told = _why_out(item, place)
                if told is not None:
                    found.append(told)
    return found


def _without_mask(problem: LayoutRequest) -> LayoutRequest:
    kinds = [
        kind.model_copy(
            update={"regions": [region for region in kind.regions if region.name != "tolerance"]}
        )
        for kind in problem.kinds
    ]
    return problem.model_copy(update={"kinds": kinds})


def _next(
    problem: LayoutRequest,
    geometry: Geometry,
    standing: Sequence[Placement],
    face: int,
    kind: int,
    item: Ready,
) -> Placement | None:
    """The nearest place to the datum where a station still has room."""
    datum = item.locating.surroundings.datum
    places = []
    for turn in item.view.station.turns:
        at = first_place(clear_room(problem, geometry, standing, face, Variant(kind, turn)))
        if at is not None:
            places.append((np.hypot(at[0] - datum[0], at[1] - datum[1]), turn, at))
    if not places:
        return None
    _, turn, at = min(places)
    return Placement(face=face, kind=kind, x_mm=at[0], y_mm=at[1], turn=turn)


def _why_out(item: Ready, place: Placement) -> LeftOut | None:
    """The feature that uses most there; nothing where all are in."""
    found = judged(item.locating, np.array([[place.x_mm, place.y_mm]]), [place.turn])
    able: list[tuple[float, Feature, float]] = [
        (
            float(one.share[0]),
            one.feature,
            float((one.worst_mm if item.locating.rule == "worst case" else one.probable_mm)[0]),
        )
        for one in found
        if not one.problem
    ]
    share, feature, uses = max(able, key=lambda each: each[0])
    if share <= 1:
        return None
    return LeftOut(
        face=place.face,
        kind=place.kind,
        x_mm=place.x_mm,
        y_mm=place.y_mm,
        turn=place.turn,
        feature=feature.name,
        share=share,
        uses_mm=uses,
        tolerance_mm=feature.tolerance_mm,
    )
