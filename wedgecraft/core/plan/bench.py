"""Stations a person places: judged as they stand, where one more may go, and rows of them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from wedgecraft.core.explain.cautions import cautions_of
from wedgecraft.core.explain.facts import Worked
from wedgecraft.core.explain.reasons import of_count, of_standing, out_of_tolerance
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.planar import rings_of
from wedgecraft.core.layout import bound
from wedgecraft.core.layout.check import Fault, clear_room, faults, first_place
from wedgecraft.core.layout.joint import both, whole
from wedgecraft.core.layout.mix import by_kind, sets_of
from wedgecraft.core.layout.nofit import Area, Geometry, Variant, geometry_of
from wedgecraft.core.layout.search import FaceProblem
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.locate.ready import Ready, bare_kg, own_placements, ready
from wedgecraft.core.plan.one_design import design_of
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.plan.settled import settled
from wedgecraft.core.records.arranging import Room, RoomAsked, Row, RowAsked
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult, Placement
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import Arrangement, OwnStation, PlanRequest
from wedgecraft.core.records.view import views_of

_DIGITS = 3


@dataclass(frozen=True)
class Ground:
    """What a bench stands on, wherever its stations are: ops worked out, the packing problem, its
    geometry.
    """

    kinds: list[Ready]
    problem: LayoutRequest
    geometry: Geometry


def ground_of(request: PlanRequest) -> Ground:
    """Worked out once for all placings of a request: of those it knows only whether every station
    was measured. Raises OutOfRange.
    """
    own = request.arrangement
    measured = own.own and all(item.measured is not None for item in own.stations)
    known = own if measured else Arrangement(own=own.own)
    return _ground(request.model_copy(update={"arrangement": known}).model_dump_json())


@lru_cache(maxsize=12)
def _ground(asked: str) -> Ground:
    request = PlanRequest.model_validate_json(asked)
    kinds = [ready(view) for view in views_of(request)]
    problem = layout_request(request, kinds)
    return Ground(kinds, problem, geometry_of(problem.kinds))


class Bench:
    """One request's faces with the stations a person placed."""

    def __init__(self, request: PlanRequest) -> None:
        ground = ground_of(request)
        self.request = request
        self.kinds, self.problem, self.geometry = ground.kinds, ground.problem, ground.geometry
        self.placements = own_placements(request)

    def room(self, asked: RoomAsked) -> Room:
        """The go region of a station. An index that is not there leaves nothing out. Raises
        OutOfRange for a face or op that is not.
        """
        for name, value, most in (
            ("face", asked.face, len(self.problem.faces)),
            ("kind", asked.kind, len(self.problem.kinds)),
        ):
            if value >= most:
                raise OutOfRange(name, value, f"one of {most}, counted from 0")
        area = self._room(asked.face, Variant(asked.kind, asked.turn), asked.station)
        first, stations = first_place(area), []
        if first is not None:
            place = {"face": asked.face, "kind": asked.kind, "turn": asked.turn}
            there = Placement(x_mm=first[0], y_mm=first[1], **place)
            stations = [_own(item) for item in both(self.problem.joint, there)]
        areas = [rings_of(piece) for piece in _pieces(area)]
        return Room(areas=areas, first=first, stations=stations)

    def _room(self, face: int, variant: Variant, but: int | None = None) -> Area:
        return clear_room(self.problem, self.geometry, self.placements, face, variant, but)

    def row(self, asked: RowAsked) -> Row:
        """Copies of a station, one after another, until one does not stand clear. Raises OutOfRange
        for a station that is not there.
        """
        if asked.station >= len(self.placements):
            raise OutOfRange(
                "station", asked.station, f"one of the {len(self.placements)} stations"
            )
        start = self.placements[asked.station]
        towards = np.array(
            {"+X": (1, 0), "-X": (-1, 0), "+Y": (0, 1), "-Y": (0, -1)}[asked.towards], dtype=float
        )
        variant, geometry = Variant(start.kind, start.turn), self.geometry
        if self.problem.joint is not None:
            geometry = geometry_of(whole(self.problem).kinds)
            start = both(self.problem.joint, start)[0]
            variant = Variant(0, start.turn)
        own = geometry.nofit(variant, variant)
        pitch = asked.pitch_mm or _tightest(own, towards)
        room = self._room(start.face, variant)
        shapely.prepare(room)
        found: list[OwnStation] = []
        step = 1
        # A pitch tighter than the station would have each stand in the one before.
        while step <= asked.most and not shapely.contains_xy(own, *(pitch * towards)):
            x, y = np.round(np.array([start.x_mm, start.y_mm]) + step * pitch * towards, _DIGITS)
            if not shapely.intersects_xy(room, x, y):
                break
            there = start.model_copy(update={"x_mm": float(x), "y_mm": float(y)})
            found += [_own(item) for item in both(self.problem.joint, there)]
            step += 1
        return Row(stations=found, pitch_mm=pitch)

    def as_placed(
        self, limit: int | None = None, hand: int | None = None
    ) -> tuple[LayoutResult, list[Fault]]:
        """The stations as they stand, with what is wrong. ``limit`` and ``hand``: the bound and the
        hand grid's sets where known.
        """
        wrong = faults(self.problem, self.placements, self.geometry)
        faulty = {fault.station for fault in wrong}
        clear = [item for index, item in enumerate(self.placements) if index not in faulty]
        sets = sets_of(by_kind(clear, len(self.kinds)), self.problem.kinds)
        takes = {variant: bound.taken(self.geometry, variant) for variant in self.geometry.variants}
        faces = [FaceProblem(face, self.geometry) for face in self.problem.faces[:1]]
        if limit is None or hand is None:
            # Without effort: the bound and the hand grid need no search.
            known = layout(self.problem.model_copy(update={"effort": 0.0}))
            limit, hand = (
                known.bound if limit is None else limit,
                known.by_hand if hand is None else hand,
            )
        limit = max(limit, sets)
        proven = sets >= limit
        answer = LayoutResult(
            placements=self.placements,
            count=len(clear),
            sets=sets,
            bound=limit,
            proven=proven,
            by_hand=hand,
            method="as placed by hand",
            statement="proven largest" if proven else f"at most {limit}",
            usable_mm2=len(self.problem.faces) * bound.usable_area(faces[0]),
            used_mm2=sum(takes[Variant(item.kind, item.turn)] for item in self.placements),
        )
        return answer, wrong


def _own(item: Placement) -> OwnStation:
    place = item.model_dump(include={"face", "kind", "x_mm", "y_mm", "turn"})
    return OwnStation.model_validate(place)


def _tightest(own: Area, towards: np.ndarray) -> float:
    """Least distance at which a station clears its copy, upwards to a hundredth."""
    far = max(map(abs, own.bounds)) + 1
    crossed = shapely.intersection(own, shapely.LineString([(0, 0), tuple(far * towards)]))
    reach = float(np.abs(np.array(crossed.bounds)).max()) if not crossed.is_empty else 1.0
    return math.ceil(reach * 100 - 1e-6) / 100


def _pieces(area: Area) -> list[shapely.Polygon]:
    return [piece for piece in getattr(area, "geoms", [area]) if not piece.is_empty]


def comparable(request: PlanRequest, other: PlanRequest) -> bool:
    """Do two requests differ in nothing but where a person placed stations? Then load and hold of
    one answer the other.
    """
    return request.model_copy(update={"arrangement": other.arrangement}) == other


def rearranged(request: PlanRequest, before: PlanRequest, result: PlanResult) -> PlanResult | None:
    """The result for stations as placed, from one that differs in nothing but the placing: quick,
    as load and hold stay.

    Nothing where that result does not help: it answers another request, or a part that is not held.
    """
    if not request.arrangement.own or not comparable(request, before) or result.hold is None:
        return None
    if len(result.others) != len(request.also) or any(item.hold is None for item in result.others):
        return None
    if any("arrangement" not in reason.field.split(".") for reason in result.reasons):
        return None
    bench = Bench(settled(request, result))
    design = result.designs[0] if result.designs else None
    whole = design is not None and (before.arrangement.own or not before.arrangement.stations)
    answer, wrong = bench.as_placed(
        design.bound if design and whole else None, design.by_hand if design and whole else None
    )
    return placed_result(bench, result.model_copy(update={"strategies": []}), answer, wrong)


def placed_result(
    bench: Bench, known: PlanResult, answer: LayoutResult, wrong: list[Fault]
) -> PlanResult:
    """A result for stations as placed; load and hold come from ``known``. With faults it is not
    feasible, and says which and why.
    """
    request = bench.request
    worked = [Worked(bench.kinds[0], known.loads, _held(known.hold))]
    worked += [
        Worked(item, other.loads, _held(other.hold))
        for item, other in zip(bench.kinds[1:], known.others, strict=True)
    ]
    designs = [design_of(request, worked, answer, wrong)] if answer.placements else []
    counts = by_kind(answer.placements, len(worked))
    stations_kg = sum(
        count * item.masses.station_kg for count, item in zip(counts, bench.kinds, strict=True)
    )
    found = of_standing(request, answer.placements, wrong)
    faulty = {fault.station + 1 for fault in wrong}
    for station in designs[0].stations if designs else []:
        if station.tolerance_share > 1 + 1e-9 and station.number not in faulty:
            found.append(out_of_tolerance(station))
    found += of_count(
        request, len(answer.placements), bare_kg(request.block, bench.kinds[0].masses), stations_kg
    )
    return known.model_copy(
        update={
            "feasible": not found,
            "designs": designs,
            "reasons": found,
            "cautions": cautions_of(request, bench.kinds, counts),
        }
    )


def _held(verdict: HoldVerdict | None) -> HoldVerdict:
    if verdict is None:
        raise ValueError("a result without a verdict on hold says nothing about a placing")
    return verdict
