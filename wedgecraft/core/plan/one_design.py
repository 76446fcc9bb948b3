"""From a layout to a design: every station judged, the limits, the drawing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from shapely.geometry import box

from wedgecraft.core.explain.facts import Facts, Worked
from wedgecraft.core.explain.figures import common_figures, design_figures
from wedgecraft.core.explain.ledger import ledger
from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.ground.planar import ring_of, rings_of, turned
from wedgecraft.core.hold.station_deflection import feature_places
from wedgecraft.core.layout.check import Fault
from wedgecraft.core.layout.joint import joined
from wedgecraft.core.layout.mix import by_kind
from wedgecraft.core.locate.ready import Ready, plate_reach
from wedgecraft.core.locate.verdicts import Judged, judged, known_places
from wedgecraft.core.plan.packing import joint_of
from wedgecraft.core.program.motion import Pace
from wedgecraft.core.records.cycle import Cycle
from wedgecraft.core.records.design import (
    Design,
    MemberPlace,
    PlacedStation,
    PlannedKind,
    StationDrawing,
)
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.layout import LayoutResult, Placement
from wedgecraft.core.records.machine import offsets_used
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.screw import SCREWS
from wedgecraft.core.records.tolerance import Contribution
from wedgecraft.core.records.view import OpView
from wedgecraft.core.run.cycle import OpTimes, cycle
from wedgecraft.core.run.rapids import rapid_seconds
from wedgecraft.core.station.build import Station
from wedgecraft.core.workpiece.sitting import Sitting


def _partners(
    request: PlanRequest, kinds: Sequence[Worked], answer: LayoutResult
) -> dict[int, int]:
    """The other station of the same body, by index."""
    pairs, _ = joined(joint_of(request, [item.ready for item in kinds]), answer.placements)
    return {a: b for one, other in pairs for a, b in ((one, other), (other, one))}


def _stations(
    request: PlanRequest, kinds: Sequence[Worked], answer: LayoutResult, wrong: Sequence[Fault]
) -> list[PlacedStation]:
    """Every placement with the verdict on the feature that uses most of its tolerance there, and
    what is wrong with it.
    """
    worst: list[tuple[float, Judged, int] | None] = [None] * len(answer.placements)
    known = known_places(request.arrangement.stations, answer.placements)
    partners = _partners(request, kinds, answer)
    for kind, item in enumerate(kinds):
        mine = [
            index for index, placement in enumerate(answer.placements) if placement.kind == kind
        ]
        corners = np.array(
            [(answer.placements[k].x_mm, answer.placements[k].y_mm) for k in mine]
        ).reshape(-1, 2)
        turns = [answer.placements[k].turn for k in mine]
        for feature in judged(item.ready.locating, corners, turns, [known[k] for k in mine]):
            for row, index in enumerate(mine):
                best = worst[index]
                if not feature.problem and (best is None or feature.share[row] > best[0]):
                    worst[index] = float(feature.share[row]), feature, row
    machine = request.machine
    travel = (machine.travel_x_mm, machine.travel_y_mm)
    reach = (_strokes(request.plate, kinds, answer.placements) / travel).max(axis=1)
    stations = []
    for number, (placement, found) in enumerate(zip(answer.placements, worst, strict=True), 1):
        told: dict[str, Any] = {
            "feature": "",
            "feature_x_mm": placement.x_mm,
            "feature_y_mm": placement.y_mm,
        } | dict.fromkeys(("tolerance_share", "probable_mm", "worst_case_mm"), 0.0)
        told["contributions"] = []
        if found is not None:
            share, feature, row = found
            place = feature.place[row]
            told = {
                "feature": feature.feature.name,
                "feature_x_mm": float(place[0]),
                "feature_y_mm": float(place[1]),
                "tolerance_share": share,
                "probable_mm": float(feature.probable_mm[row]),
                "worst_case_mm": float(feature.worst_mm[row]),
                "contributions": [
                    Contribution(
                        name=name,
                        x_mm=float(pair[0]),
                        y_mm=float(pair[-1]) if len(pair) > 1 else 0.0,
                    )
                    for name, pair in feature.contributions(row)
                ],
            }
        stations.append(
            PlacedStation(
                number=number,
                face=placement.face,
                kind=placement.kind,
                x_mm=placement.x_mm,
                y_mm=placement.y_mm,
                turn=placement.turn,
                hold_factor=_factor_at(kinds[placement.kind].hold, placement.turn),
                reach_share=float(reach[number - 1]),
                **told,
                locked=placement.fixed,
                with_station=partners[number - 1] + 1 if number - 1 in partners else None,
                faults=[_said(fault) for fault in wrong if fault.station == number - 1],
                nearest_mm=next(
                    (fault.nearest_mm for fault in wrong if fault.station == number - 1), None
                ),
            )
        )
    return stations


def _said(fault: Fault) -> str:
    return (
        fault.says
        if fault.other is None
        else fault.says.replace("another", f"station {fault.other + 1}")
    )


def design_of(
    request: PlanRequest, kinds: Sequence[Worked], answer: LayoutResult, wrong: Sequence[Fault] = ()
) -> Design:
    """A layout with every station judged; ``wrong``: faults of stations that a person placed."""
    stations = _stations(request, kinds, answer, wrong)
    first = kinds[0]
    counts = by_kind(answer.placements, len(kinds))
    facts = Facts(
        request=request,
        kinds=kinds,
        counts=counts,
        layout=answer,
        stations=stations,
        travel_mm=_travel_used(request, kinds, answer),
        offsets=offsets_used(
            request.rules.datum,
            [(s.face, s.turn) for s in stations for _ in kinds[s.kind].ready.station.members],
        ),
        growth_per_mm=first.ready.locating.surroundings.growth_per_mm,
        cycles=math.ceil(request.wanted / max(1, answer.sets)),
        cycle=_cycle(request, kinds, answer),
    )
    own = design_figures(facts)
    story = {
        figure.id: figure
        for figure in [*common_figures(first.ready.view, first.loads, first.hold), *own]
    }
    return Design(
        form=_form(request),
        counted="kits"
        if request.several_parts
        else "complete parts"
        if len(kinds) > 1
        else "parts",
        faces=request.face_names,
        kinds=[
            _kind(item, count, each)
            for item, count, each in zip(kinds, counts, request.per_set, strict=True)
        ],
        count=answer.sets,
        bound=answer.bound,
        proven=answer.proven,
        statement=answer.statement,
        by_hand=answer.by_hand,
        method=answer.method,
        cycles=facts.cycles,
        cut_seconds=story["cut_seconds"].value,
        cycle=facts.cycle,
        turns=sorted({station.turn for station in stations}),
        rows=len({(station.face, round(station.y_mm, 1)) for station in stations}),
        offsets=facts.offsets,
        datum=first.ready.locating.surroundings.strategy,
        stations=stations,
        limits=ledger(facts, story),
        figures=own,
    )


def _form(request: PlanRequest) -> str:
    """In words: what carries the parts and what holds them."""
    kind, block = request.station, request.block
    if kind.element.setup_said:
        return kind.element.setup_said
    on = (
        "fixture plate"
        if block.faces == 1
        else f"{'tombstone' if block.axis == 'upright' else 'rotary bar'}, {block.faces} faces"
    )
    held = kind.element.kind if kind.sharing.how == "a clamp each" else kind.sharing.how
    return f"{on}, {'stops, ' if kind.stopped else ''}{held}"


def _cycle(request: PlanRequest, kinds: Sequence[Worked], answer: LayoutResult) -> Cycle:
    ops = []
    machine = request.machine
    pace = Pace(1000 * machine.rapid_m_min, 1000 * machine.acceleration_m_s2)
    for number, item in enumerate(kinds):
        holds = len(item.ready.station.members)
        on = [
            holds * sum(p.kind == number and p.face == face for p in answer.placements)
            for face in range(request.block.faces)
        ]
        cuts = zip(item.ready.view.op.cuts, item.loads, strict=True)
        screws = len(item.ready.station.screws) * sum(on) // holds
        if item.ready.view.station.element.back_mm is not None:  # one screw for two stations
            screws = screws // 2 if len(kinds) == 1 else screws * (number == 0)
        screws -= sum(on)
        places = [
            [(p.x_mm, p.y_mm) for p in answer.placements if (p.kind, p.face) == (number, face)]
            for face in range(request.block.faces)
        ]
        rapids = [rapid_seconds([at], [1], pace) for at in places]
        named = [(cut.name, cut.tool.name, load.seconds) for cut, load in cuts]
        ops.append(OpTimes(named, on, screws, rapids))
    return cycle(
        ops,
        request.machine,
        request.rules.order,
        request.rules.handling_seconds,
        request.rules.screw_seconds,
    )


def _kind(item: Worked, stations: int, per_set: int) -> PlannedKind:
    view = item.ready.view
    return PlannedKind(
        planned=view.planned,
        name=f"{view.part.name}, op {view.op.number}",
        op_number=view.op.number,
        per_set=per_set,
        stations=stations,
        drawing=_drawing(view, item.ready.sitting, item.ready.station),
        tolerance_region=_tightest_region(item.ready),
    )


def _tightest_region(item: Ready) -> Rings | None:
    """Where on the plate the tightest checked feature of the station's first part stays in
    tolerance; nothing when everywhere.
    """
    view, locating = item.view, item.locating
    whole = box(0, 0, view.plate.width_mm, view.plate.depth_mm)
    reach = plate_reach(view.plate, view.datum)
    regions = [
        region
        for check in locating.checks
        if (region := locating.allowed_region(check, view.station.turns, reach)) is not None
    ]
    if not regions:
        return None
    region = min(regions, key=lambda each: each.intersection(whole).area)
    return None if region.covers(whole) else rings_of(region.intersection(whole))


def _drawing(view: OpView, sitting: Sitting, station: Station) -> StationDrawing:
    clamp = view.station.clamp
    return StationDrawing(
        height_mm=sitting.height_mm,
        stop_height_mm=view.station.stops.height_mm,
        clamp_height_mm=max(
            (body.high_mm for body in station.clamp_bodies), default=clamp.height_mm
        ),
        part=rings_of(sitting.outline),
        parts=[rings_of(part) for part in station.parts] if len(station.parts) > 1 else [],
        finished=[
            rings_of(piece)
            for member in station.members
            for piece in member.put(sitting.finished.seen()).geoms
        ],
        places=[
            MemberPlace(x_mm=member.x_mm, y_mm=member.y_mm, half_turn=member.half_turn)
            for member in station.members
        ],
        stops=[ring_of(stop) for stop in station.stops],
        clamps=[ring_of(body.polygon) for body in station.clamp_bodies if body.high_mm > 0],
        under=[ring_of(body.polygon) for body in station.clamp_bodies if body.high_mm <= 0],
        screws=list(station.screws),
        screw_diameter_mm=SCREWS[clamp.screw].nominal_mm * 1.5,
        wrench_diameter_mm=clamp.wrench_diameter_mm,
        sweep=[
            ring
            for piece in getattr(station.sweep, "geoms", [station.sweep])
            if not piece.is_empty
            for ring in rings_of(piece)
        ],
        features=[
            (float(x), float(y))
            for member in station.members
            for x, y in map(member.put, map(np.array, feature_places(view, sitting)))
        ],
        bodies=[layer for layer in station.layers if layer.role == "body"],
    )


def _travel_used(
    request: PlanRequest, kinds: Sequence[Worked], answer: LayoutResult
) -> tuple[float, float]:
    """Stroke in X and Y from the outermost cutter paths, the plate centred on the table."""
    used = _strokes(request.plate, kinds, answer.placements).max(axis=0)
    return float(used[0]), float(used[1])


def _strokes(plate: Plate, kinds: Sequence[Worked], placements: Sequence[Placement]) -> np.ndarray:
    """Of each station, (n, 2): twice as far as its cuts go from the plate's middle, in X and Y."""
    cuts = {
        (item.kind, item.turn): turned(
            np.array(kinds[item.kind].ready.station.axis_bounds).reshape(2, 2), item.turn
        )
        for item in placements
    }
    middle = np.array([plate.width_mm / 2, plate.depth_mm / 2])
    from_middle = np.array([(item.x_mm, item.y_mm) for item in placements]).reshape(-1, 2) - middle
    corners = np.array([cuts[item.kind, item.turn] for item in placements]).reshape(-1, 2, 2)
    found: np.ndarray = 2 * np.abs(corners + from_middle[:, None]).max(axis=1)
    return found


def _factor_at(verdict: HoldVerdict, turn: int) -> float:
    return next(
        (item.factor for item in verdict.by_turn if item.turn == turn), verdict.result.factor
    )
