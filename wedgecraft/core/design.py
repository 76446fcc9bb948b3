"""From a plan request to a design: load, hold, tolerance, layout, ledger."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core import reasons
from wedgecraft.core.clamps import SCREWS, EdgeClamp, edge_clamp_preload
from wedgecraft.core.contacts import HoldRequest, LoadCase
from wedgecraft.core.cutting.document import CuttingRequest
from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.cutting.path import cut_seconds
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.features import Feature
from wedgecraft.core.figures import Facts, common_figures, design_figures
from wedgecraft.core.hold import NotSeated, hold
from wedgecraft.core.layout.document import Face, LayoutRequest, LayoutResult, Obstacle, Region, StationKind
from wedgecraft.core.layout.nofit import turned
from wedgecraft.core.layout.solve import hindrance, layout
from wedgecraft.core.ledger import ledger
from wedgecraft.core.machine import Plate
from wedgecraft.core.part import part_mass_kg
from wedgecraft.core.plan import (
    CutLoad,
    Design,
    DirectionFactor,
    HoldVerdict,
    PlacedStation,
    PlanRequest,
    PlanResult,
    Reason,
    Rings,
    StationDrawing,
)
from wedgecraft.core.reasons import Masses
from wedgecraft.core.sitting import Sitting, sits
from wedgecraft.core.station import Station, build_station, station_contacts, station_loads
from wedgecraft.core.tolerance import Budget, PositionTolerance, StationTolerance, ToleranceRequest, growth_per_mm, tolerance

Progress = Callable[[str, float], None]
_GRAVITY = 9.80665
_STEEL_KG_MM3 = 7.85e-6
#: Recommended weight limit of one lift in ideal conditions: NIOSH, revised lifting equation (1994), 23 kg.
LIFT_LIMIT_KG = 23.0


def plan(request: PlanRequest, progress: Progress | None = None) -> PlanResult:
    """Answer a request. A request that cannot work gives a result without designs and with reasons; it does not raise."""
    tell: Progress = progress or (lambda step, share: None)
    loads: list[CutLoad] = []
    verdict: HoldVerdict | None = None
    try:
        if not request.op.cuts:
            return _refused(request, [reasons.no_cuts(request)], loads, verdict)
        tell("cutting load", 0.05)
        sitting = sits(request.part, request.op.up)
        loads = _loads(request, sitting)
        station = build_station(sitting, request.op.cuts, request.station)
        tell("hold", 0.1)
        found = reasons.of_spindle(request, loads)
        verdict = _judge_hold(request, station, sitting, loads)
        found += reasons.of_hold(request, verdict)
        masses = _masses(request, station)
        budgets = [(feature, Budget(_tolerance_request(request, feature, [(0.0, 0.0)]))) for feature in request.judged]
        found += reasons.of_tolerance(request, budgets) + reasons.of_table_load(request, masses)
        problem = None
        if not any(reason.field.startswith("parts") and reason.field.endswith("tolerance_mm") for reason in found):
            problem = layout_request(request, sitting, station, masses)
            hindered = hindrance(problem)
            found = ([reasons.no_room(hindered)] if hindered else []) + found
        if found or problem is None:
            return _refused(request, found, loads, verdict)
        tell("layout", 0.3)
        answer = layout(problem)
        if not answer.placements:
            return _refused(request, [reasons.no_room("no place was found")], loads, verdict)
        tell("ledger", 0.95)
        design = _design(request, sitting, station, loads, verdict, masses, answer)
    except NotSeated:
        return _refused(request, [reasons.not_seated()], loads, verdict)
    except OutOfRange as error:
        return _refused(request, [reasons.out_of_range(request, error)], loads, verdict)
    return PlanResult(
        feasible=True,
        designs=[design],
        reasons=[],
        figures=common_figures(request, loads, verdict),
        loads=loads,
        hold=verdict,
        cautions=_cautions(request, masses, design.count),
    )


def _loads(request: PlanRequest, sitting: Sitting) -> list[CutLoad]:
    """Every cut of the op. Raises OutOfRange naming the cut."""
    found = []
    for index, cut in enumerate(request.op.cuts):
        try:
            load = cutting_load(CuttingRequest(material=request.part.material, cut=cut))
            found.append(CutLoad(name=cut.name, load=load, seconds=cut_seconds(cut, sitting.outline, load)))
        except OutOfRange as error:
            raise OutOfRange(
                f"{reasons.op_path(request)}.cuts.{index}.{error.field.removeprefix('cut.')}", error.value, error.allowed
            ) from None
    return found


def layout_request(request: PlanRequest, sitting: Sitting, station: Station, masses: Masses) -> LayoutRequest:
    """The packing problem behind a plan: the plate inside its margin, keep-outs, the station with tolerance and travel as regions."""
    plate = request.plate
    margin = plate.margin_mm
    if min(plate.width_mm, plate.depth_mm) - 2 * margin < 1:
        raise OutOfRange("plate.margin_mm", margin, f"less than half the plate, {min(plate.width_mm, plate.depth_mm) / 2:g} mm")
    inside = box(margin, margin, plate.width_mm - margin, plate.depth_mm - margin)
    regions = [
        _region("tolerance", place, _allowed(request, feature))
        for feature, place in zip(request.judged, _feature_places(request, sitting), strict=True)
    ]
    x0, y0, x1, y1 = station.axis_bounds
    travel = _travel(request)
    regions += [_region("travel", point, travel) for point in ((x0, y0), (x1, y1))]
    kind = StationKind(
        name=request.part.name,
        layers=list(station.layers),
        turns=request.station.turns,
        clearance_mm=request.station.clearance_mm,
        regions=regions,
    )
    most = min(
        request.wanted, 5000, max(1, math.floor((request.machine.table_load_kg - masses.plate_kg) / masses.station_kg + 1e-9))
    )
    keepouts = [Obstacle(outer=_ring(polygon), height_mm=height) for polygon, height in keepout_polygons(plate)]
    return LayoutRequest(faces=[Face(name=plate.name, outer=_ring(inside), keepouts=keepouts)], kinds=[kind], most=most)


def _feature_places(request: PlanRequest, sitting: Sitting) -> list[tuple[float, float]]:
    """Where the judged features are on the part as it sits."""
    middle = request.part.height_mm / 2
    places = (sitting.place(item.x_mm, item.y_mm, middle if item.z_mm is None else item.z_mm) for item in request.judged)
    return [(x, y) for x, y, _ in places]


def keepout_polygons(plate: Plate) -> list[tuple[Polygon, float]]:
    """Keep-outs as polygons with heights; a round one as a polygon round the circle."""
    found = []
    for item in plate.keepouts:
        if item.shape == "round":
            sides = 24
            radius = item.width_mm / 2 / math.cos(math.pi / sides)
            found.append((Point(item.x_mm, item.y_mm).buffer(radius, quad_segs=sides // 4), item.height_mm))
        else:
            half_depth = (item.depth_mm or item.width_mm) / 2
            half_width = item.width_mm / 2
            area = box(item.x_mm - half_width, item.y_mm - half_depth, item.x_mm + half_width, item.y_mm + half_depth)
            found.append((area, item.height_mm))
    return found


def _ring(polygon: Polygon) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(polygon.exterior)[:-1]]


def _rings(polygon: Polygon) -> Rings:
    return [[(float(x), float(y)) for x, y in ring.coords[:-1]] for ring in (polygon.exterior, *polygon.interiors)]


def _region(name: str, point: tuple[float, float], area: Polygon) -> Region:
    return Region(name=name, point_mm=(float(point[0]), float(point[1])), outer=_ring(area))


def _travel(request: PlanRequest) -> Polygon:
    """Where the spindle's axis can go, the plate being centred on the table."""
    x, y = request.plate.width_mm / 2, request.plate.depth_mm / 2
    half_x, half_y = request.machine.travel_x_mm / 2, request.machine.travel_y_mm / 2
    return box(x - half_x, y - half_y, x + half_x, y + half_y)


def _tolerance_request(request: PlanRequest, feature: Feature, places: list[tuple[float, float]]) -> ToleranceRequest:
    return ToleranceRequest(
        tolerance=PositionTolerance(feature=feature.name, zone_mm=feature.tolerance_mm, rule=request.rules.tolerance_rule),
        accuracy=request.accuracy,
        machine=request.machine,
        plate_material=request.plate.material,
        datum=request.datum,
        places=places,
    )


def _allowed(request: PlanRequest, feature: Feature) -> Polygon:
    reach = 2 * (request.plate.width_mm + request.plate.depth_mm + abs(request.datum.x_mm) + abs(request.datum.y_mm))
    return Budget(_tolerance_request(request, feature, [(0.0, 0.0)])).allowed_region(reach)


def _masses(request: PlanRequest, station: Station) -> Masses:
    part = part_mass_kg(request.part)
    stops = (station.long_stop.area + station.end_stop.area) * request.station.stops.height_mm
    clamps = sum(clamp.area for clamp in station.clamps) * request.station.clamp.height_mm
    plate = request.plate
    plate_kg = plate.width_mm * plate.depth_mm * plate.thickness_mm * plate.material.density_kg_m3 * 1e-9
    return Masses(part, part + (stops + clamps) * _STEEL_KG_MM3, plate_kg)


def _needed(request: PlanRequest) -> float:
    """The factor the house asks for; one interrupted cut asks it of the whole op."""
    rules = request.rules
    return rules.safety_factor_interrupted if any(cut.interrupted for cut in request.op.cuts) else rules.safety_factor


def _judge_hold(request: PlanRequest, station: Station, sitting: Sitting, loads: list[CutLoad]) -> HoldVerdict:
    """Hold at the low end of the preload, and the least torque that reaches the factor needed."""
    preload = edge_clamp_preload(request.station.clamp)
    cases = [
        case
        for cut, load in zip(request.op.cuts, loads, strict=True)
        for case in station_loads(station, sitting.height_mm, cut, load.load)
    ]
    judged = _hold_request(request, station, sitting, cases, preload.low_n)
    result = hold(judged)
    directions: dict[float, float] = {}
    for case, answer in zip(cases, result.cases, strict=True):
        if case.force_n[0] == 0 and case.force_n[1] == 0:
            continue  # straight down a hole: no direction in the plane
        angle = round(math.degrees(math.atan2(case.force_n[1], case.force_n[0])) % 360, 3) % 360
        directions[angle] = min(directions.get(angle, math.inf), answer.factor)
    return HoldVerdict(
        result=result.model_copy(update={"cases": []}),
        needed=_needed(request),
        preload_low_n=preload.low_n,
        preload_high_n=preload.high_n,
        seating_n=preload.seating_n,
        contacts=judged.contacts,
        by_direction=[DirectionFactor(angle_deg=angle, factor=factor) for angle, factor in sorted(directions.items())],
        least_torque_nm=_least_torque(request, station, sitting, cases, [case.factor for case in result.cases]),
    )


def _hold_request(request: PlanRequest, station: Station, sitting: Sitting, loads: list[LoadCase], preload_n: float) -> HoldRequest:
    centre = station.part.centroid
    return HoldRequest(
        contacts=station_contacts(station, sitting.height_mm, request.station, preload_n),
        weight_n=(0, 0, -part_mass_kg(request.part) * _GRAVITY),
        centre_of_gravity_mm=(centre.x, centre.y, sitting.height_mm / 2),
        loads=loads,
    )


def _least_torque(
    request: PlanRequest, station: Station, sitting: Sitting, loads: list[LoadCase], factors: list[float]
) -> float | None:
    """Least torque, to half a newton metre upwards, at which every case holds; None when the screw's rating does not reach.

    By bisection on the cases that were worst, then checked on all of them.
    """
    order = np.argsort(factors, kind="stable")[:40]
    worst = [loads[index] for index in order]

    def holds(torque: float, cases: list[LoadCase]) -> bool:
        clamp = EdgeClamp.model_validate({**request.station.clamp.model_dump(), "torque_nm": torque})
        try:
            answer = hold(_hold_request(request, station, sitting, cases, edge_clamp_preload(clamp).low_n))
        except NotSeated:
            return False
        return answer.factor >= _needed(request)

    steps = math.floor(SCREWS[request.station.clamp.screw].rated_torque_nm * 2)
    if not holds(steps / 2, worst):
        return None
    low, high = 0, steps
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if holds(middle / 2, worst) else (middle, high)
    while high <= steps and not holds(high / 2, loads):
        high += 1
    return high / 2 if high <= steps else None


def _refused(request: PlanRequest, found: list[Reason], loads: list[CutLoad], verdict: HoldVerdict | None) -> PlanResult:
    figures = common_figures(request, loads, verdict)
    return PlanResult(feasible=False, designs=[], reasons=found, figures=figures, loads=loads, hold=verdict, cautions=[])


def _stations(request: PlanRequest, sitting: Sitting, answer: LayoutResult) -> list[PlacedStation]:
    """Every placement with the verdict on the feature that uses most of its tolerance there."""
    verdicts: list[list[tuple[str, tuple[float, float], StationTolerance]]] = [[] for _ in answer.placements]
    for feature, at in zip(request.judged, _feature_places(request, sitting), strict=True):
        places = []
        for placement in answer.placements:
            x, y = turned(np.array(at), placement.turn) + (placement.x_mm, placement.y_mm)
            places.append((float(x), float(y)))
        for found, place, judged in zip(
            verdicts, places, tolerance(_tolerance_request(request, feature, places)).places, strict=True
        ):
            found.append((feature.name, place, judged))
    stations = []
    for number, (placement, found) in enumerate(zip(answer.placements, verdicts, strict=True), 1):
        nothing = StationTolerance(probable_mm=0, worst_case_mm=0, share=0, contributions=[])
        name, place, judged = max(found, key=lambda item: item[2].share, default=("", (placement.x_mm, placement.y_mm), nothing))
        stations.append(
            PlacedStation(
                number=number,
                x_mm=placement.x_mm,
                y_mm=placement.y_mm,
                turn=placement.turn,
                feature=name,
                feature_x_mm=place[0],
                feature_y_mm=place[1],
                tolerance_share=judged.share,
                probable_mm=judged.probable_mm,
                worst_case_mm=judged.worst_case_mm,
                contributions=judged.contributions,
            )
        )
    return stations


def _design(
    request: PlanRequest,
    sitting: Sitting,
    station: Station,
    loads: list[CutLoad],
    verdict: HoldVerdict,
    masses: Masses,
    answer: LayoutResult,
) -> Design:
    stations = _stations(request, sitting, answer)
    facts = Facts(
        request=request,
        loads=loads,
        hold=verdict,
        layout=answer,
        stations=stations,
        plate_kg=masses.plate_kg,
        station_kg=masses.station_kg,
        travel_mm=_travel_used(request, station, answer),
        growth_per_mm=growth_per_mm(request.plate.material, request.machine, request.accuracy),
        cycles=math.ceil(request.wanted / answer.count),
    )
    own = design_figures(facts)
    story = {figure.id: figure for figure in [*common_figures(request, loads, verdict), *own]}
    return Design(
        count=answer.count,
        bound=answer.bound,
        proven=answer.proven,
        statement=answer.statement,
        by_hand=answer.by_hand,
        method=answer.method,
        cycles=facts.cycles,
        cut_seconds=story["cut_seconds"].value,
        stations=stations,
        drawing=_drawing(request, sitting, station),
        tolerance_region=_tightest_region(request),
        limits=ledger(facts, story),
        figures=own,
    )


def _tightest_region(request: PlanRequest) -> Rings | None:
    """Where on the plate the tightest judged feature stays in tolerance; nothing when that is everywhere."""
    tightest = min(request.judged, key=lambda feature: feature.tolerance_mm, default=None)
    if tightest is None:
        return None
    whole, region = box(0, 0, request.plate.width_mm, request.plate.depth_mm), _allowed(request, tightest)
    return None if region.covers(whole) else _rings(region.intersection(whole))


def _drawing(request: PlanRequest, sitting: Sitting, station: Station) -> StationDrawing:
    clamp = request.station.clamp
    return StationDrawing(
        part=_rings(station.part),
        stops=[_ring(station.long_stop), _ring(station.end_stop)],
        clamps=[_ring(body) for body in station.clamps],
        screws=list(station.screws),
        screw_diameter_mm=SCREWS[clamp.screw].nominal_mm * 1.5,
        wrench_diameter_mm=clamp.wrench_diameter_mm,
        sweep=[ring for piece in getattr(station.sweep, "geoms", [station.sweep]) if not piece.is_empty for ring in _rings(piece)],
        features=_feature_places(request, sitting),
    )


def _travel_used(request: PlanRequest, station: Station, answer: LayoutResult) -> tuple[float, float]:
    """Stroke in X and Y from the outermost cutter paths, the plate centred on the table."""
    x0, y0, x1, y1 = station.axis_bounds
    corners = np.array([(x0, y0), (x1, y1)])
    centre = np.array([request.plate.width_mm / 2, request.plate.depth_mm / 2])
    places = np.concatenate([turned(corners, item.turn) + (item.x_mm, item.y_mm) for item in answer.placements])
    used = 2 * np.abs(places - centre).max(axis=0)
    return float(used[0]), float(used[1])


def _cautions(request: PlanRequest, masses: Masses, count: int) -> list[str]:
    found = [
        "First article in single block with reduced rapid, door shut; nothing runs unattended before that.",
        "Screws not above their rated torque. The machine builder's manual, local codes and licensed practice come first.",
    ]
    total = masses.plate_kg + count * masses.station_kg
    if total > LIFT_LIMIT_KG:
        found.append(
            f"The loaded plate weighs {total:.1f} kg, above the {LIFT_LIMIT_KG:g} kg (51 lb) recommended for one person in ideal "
            "conditions: use lifting gear."
        )
    if request.part.material.chips_burn:
        found.append(
            f"Chips of {request.part.material.name} can burn: keep them from piling up, and the right extinguisher at hand."
        )
    return found
