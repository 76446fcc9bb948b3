"""From a plan request to a design: load, hold, tolerance, layout, ledger."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from wedgecraft.core.clamps import SCREWS, EdgeClamp, edge_clamp_preload
from wedgecraft.core.contacts import HoldRequest, LoadCase
from wedgecraft.core.cutting import CuttingLoad, CuttingRequest, cutting_load
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.figures import Facts, common_figures, design_figures
from wedgecraft.core.hold import NotSeated, hold
from wedgecraft.core.layout.document import Face, LayoutRequest, LayoutResult, Obstacle, Region, StationKind
from wedgecraft.core.layout.nofit import turned
from wedgecraft.core.layout.solve import hindrance, layout
from wedgecraft.core.ledger import ledger
from wedgecraft.core.machine import Plate
from wedgecraft.core.materials import material
from wedgecraft.core.part import part_mass_kg
from wedgecraft.core.plan import (
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
from wedgecraft.core.station import Station, build_station, station_contacts, station_loads
from wedgecraft.core.tolerance import Budget, ToleranceRequest, tolerance

Progress = Callable[[str, float], None]
_GRAVITY = 9.80665
_STEEL_KG_MM3 = 7.85e-6
#: Recommended weight limit of one lift in ideal conditions: NIOSH, revised lifting equation (1994), 23 kg.
LIFT_LIMIT_KG = 23.0


@dataclass(frozen=True)
class _Masses:
    part_kg: float
    station_kg: float
    plate_kg: float


def plan(request: PlanRequest, progress: Progress | None = None) -> PlanResult:
    """Answer a request. A request that cannot work gives a result without designs and with reasons; it does not raise."""
    tell: Progress = progress or (lambda step, share: None)
    load: CuttingLoad | None = None
    verdict: HoldVerdict | None = None
    try:
        tell("cutting load", 0.05)
        load = cutting_load(CuttingRequest(material=request.part.material, cut=request.cut))
        station = build_station(request.part, request.cut, request.station)
        tell("hold", 0.1)
        reasons = _spindle_reasons(request, load)
        verdict = _judge_hold(request, station, load)
        reasons += _hold_reasons(request, verdict)
        masses = _masses(request, station)
        budget = _budget(request)
        reasons += _tolerance_reasons(request, budget) + _load_reasons(request, masses)
        problem = None
        if not any(reason.field == "tolerance.zone_mm" for reason in reasons):
            problem = layout_request(request, station, masses.station_kg, masses.plate_kg)
            hindered = hindrance(problem)
            reasons = ([_room_reason(hindered)] if hindered else []) + reasons
        if reasons or problem is None:
            return _refused(request, reasons, load, verdict)
        tell("layout", 0.3)
        answer = layout(problem)
        if not answer.placements:
            return _refused(request, [_room_reason("no place was found")], load, verdict)
        tell("ledger", 0.95)
        design = _design(request, station, load, verdict, masses, budget, answer)
    except NotSeated:
        return _refused(request, [_unseated_reason()], load, verdict)
    except OutOfRange as error:
        reason = Reason(field=error.field, what=f"{error.value} is not possible", why=error.allowed, nearest="change this field")
        return _refused(request, [reason], load, verdict)
    return PlanResult(
        feasible=True,
        designs=[design],
        reasons=[],
        figures=common_figures(request, load, verdict),
        load=load,
        hold=verdict,
        cautions=_cautions(request, masses, design.count),
    )


def layout_request(request: PlanRequest, station: Station, station_kg: float, plate_kg: float) -> LayoutRequest:
    """The packing problem behind a plan: the plate inside its margin, keep-outs, the station with tolerance and travel as regions."""
    plate = request.plate
    margin = plate.margin_mm
    if min(plate.width_mm, plate.depth_mm) - 2 * margin < 1:
        raise OutOfRange("plate.margin_mm", margin, f"less than half the plate, {min(plate.width_mm, plate.depth_mm) / 2:g} mm")
    inside = box(margin, margin, plate.width_mm - margin, plate.depth_mm - margin)
    regions = [_region("tolerance", station.feature, _allowed(request))]
    x0, y0, x1, y1 = station.sweep.bounds
    # The spindle's axis stays half a cutter inside what the cutter sweeps.
    inset = request.cut.tool.diameter_mm / 2
    travel = _travel(request)
    for point in ((x0 + inset, y0 + inset), (x1 - inset, y1 - inset)):
        regions.append(_region("travel", point, travel))
    kind = StationKind(
        name=request.part.name,
        layers=list(station.layers),
        turns=request.station.turns,
        clearance_mm=request.station.clearance_mm,
        regions=regions,
    )
    most = min(request.quantity, 5000, max(1, math.floor((request.machine.table_load_kg - plate_kg) / station_kg + 1e-9)))
    keepouts = [Obstacle(outer=_ring(polygon), height_mm=height) for polygon, height in keepout_polygons(plate)]
    return LayoutRequest(faces=[Face(name=plate.name, outer=_ring(inside), keepouts=keepouts)], kinds=[kind], most=most)


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


def _budget(request: PlanRequest) -> Budget:
    return Budget(_tolerance_request(request, [(0.0, 0.0)]))


def _tolerance_request(request: PlanRequest, places: list[tuple[float, float]]) -> ToleranceRequest:
    return ToleranceRequest(
        tolerance=request.tolerance,
        accuracy=request.accuracy,
        machine=request.machine,
        plate_material=request.plate.material,
        datum=request.datum,
        places=places,
    )


def _allowed(request: PlanRequest) -> Polygon:
    reach = 2 * (request.plate.width_mm + request.plate.depth_mm + abs(request.datum.x_mm) + abs(request.datum.y_mm))
    return _budget(request).allowed_region(reach)


def _masses(request: PlanRequest, station: Station) -> _Masses:
    part = part_mass_kg(request.part, material(request.part.material, "part.material").density_kg_m3)
    stops = (station.long_stop.area + station.end_stop.area) * request.station.stops.height_mm
    clamps = sum(clamp.area for clamp in station.clamps) * request.station.clamp.height_mm
    plate = request.plate
    plate_kg = (
        plate.width_mm * plate.depth_mm * plate.thickness_mm * material(plate.material, "plate.material").density_kg_m3 * 1e-9
    )
    return _Masses(part, part + (stops + clamps) * _STEEL_KG_MM3, plate_kg)


def _needed(request: PlanRequest) -> float:
    rules = request.rules
    return rules.safety_factor_interrupted if request.cut.interrupted else rules.safety_factor


def _judge_hold(request: PlanRequest, station: Station, load: CuttingLoad) -> HoldVerdict:
    """Hold at the low end of the preload, and the least torque that reaches the factor needed."""
    preload = edge_clamp_preload(request.station.clamp)
    loads = station_loads(station, request.part, request.cut, load)
    judged = _hold_request(request, station, loads, preload.low_n)
    result = hold(judged)
    directions: dict[float, float] = {}
    for case, answer in zip(loads, result.cases, strict=True):
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
        least_torque_nm=_least_torque(request, station, loads, [case.factor for case in result.cases]),
    )


def _hold_request(request: PlanRequest, station: Station, loads: list[LoadCase], preload_n: float) -> HoldRequest:
    density = material(request.part.material, "part.material").density_kg_m3
    weight = part_mass_kg(request.part, density) * _GRAVITY
    centre = station.part.centroid
    return HoldRequest(
        contacts=station_contacts(station, request.part, request.station, preload_n),
        weight_n=(0, 0, -weight),
        centre_of_gravity_mm=(centre.x, centre.y, request.part.height_mm / 2),
        loads=loads,
    )


def _least_torque(request: PlanRequest, station: Station, loads: list[LoadCase], factors: list[float]) -> float | None:
    """Least torque, to half a newton metre upwards, at which every case holds; None when the screw's rating does not reach.

    By bisection on the cases that were worst, then checked on all of them.
    """
    order = np.argsort(factors, kind="stable")[:40]
    worst = [loads[index] for index in order]

    def holds(torque: float, cases: list[LoadCase]) -> bool:
        clamp = EdgeClamp.model_validate({**request.station.clamp.model_dump(), "torque_nm": torque})
        try:
            answer = hold(_hold_request(request, station, cases, edge_clamp_preload(clamp).low_n))
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


def _hold_reasons(request: PlanRequest, verdict: HoldVerdict) -> list[Reason]:
    result = verdict.result
    if result.factor >= verdict.needed:
        return []
    rated = SCREWS[request.station.clamp.screw].rated_torque_nm
    nearest = (
        f"it holds from {verdict.least_torque_nm:g} N·m"
        if verdict.least_torque_nm is not None
        else f"not even the screw's rated {rated:g} N·m is enough: a larger screw, one more clamp, or a lighter cut"
    )
    return [
        Reason(
            field="station.clamp.torque_nm",
            what=f"the part is not held: factor {result.factor:.2f}, needs {verdict.needed:g}",
            why=f"{result.sentence}, with {request.station.clamp.torque_nm:g} N·m on the clamp screw",
            nearest=nearest,
        )
    ]


def _spindle_reasons(request: PlanRequest, load: CuttingLoad) -> list[Reason]:
    machine, found = request.machine, []
    if load.mean_power_w / 1000 > machine.spindle_power_kw:
        found.append(
            Reason(
                field="cut",
                what=f"the cut takes {load.mean_power_w / 1000:.2f} kW",
                why=f"the spindle has {machine.spindle_power_kw:g} kW",
                nearest=f"the same cut at {100 * machine.spindle_power_kw * 1000 / load.mean_power_w:.0f} % of its width or depth",
            )
        )
    if load.peak_torque_nm > machine.spindle_torque_nm:
        found.append(
            Reason(
                field="cut",
                what=f"the cut takes {load.peak_torque_nm:.1f} N·m",
                why=f"the spindle has {machine.spindle_torque_nm:g} N·m",
                nearest="less depth, or a smaller cutter",
            )
        )
    return found


def _tolerance_reasons(request: PlanRequest, budget: Budget) -> list[Reason]:
    datum = np.array([[request.datum.x_mm, request.datum.y_mm]])
    if budget.share(datum)[0] <= 1:
        return []
    probable, worst = budget.used(datum)
    least = float(worst[0] if request.tolerance.rule == "worst case" else probable[0])
    return [
        Reason(
            field="tolerance.zone_mm",
            what=f"no station can meet {request.tolerance.zone_mm:g} mm",
            why=f"even at the datum the fixture and the machine use {least:.4f} mm ({request.tolerance.rule})",
            nearest=f"a zone of at least {math.ceil(least * 1000) / 1000:.3f} mm, or better station place, pick-up or machine",
        )
    ]


def _load_reasons(request: PlanRequest, masses: _Masses) -> list[Reason]:
    total = masses.plate_kg + masses.station_kg
    if total <= request.machine.table_load_kg:
        return []
    return [
        Reason(
            field="machine.table_load_kg",
            what=f"the plate with one station weighs {total:.1f} kg",
            why=f"the table carries {request.machine.table_load_kg:g} kg",
            nearest=f"a plate at most {max(0.0, request.machine.table_load_kg - masses.station_kg):.1f} kg heavy",
        )
    ]


def _unseated_reason() -> Reason:
    return Reason(
        field="station.stops.length_mm",
        what="clamping alone already moves the part",
        why="the clamps do not press it squarely against the long stop, so it turns or slides off before any cutting",
        nearest="longer stops, another side of the part against them, or clamps on both sides of the middle",
    )


def _room_reason(hindered: str) -> Reason:
    return Reason(
        field="plate",
        what="no station fits on the plate",
        why=hindered,
        nearest="a larger plate, a slimmer clamp, fewer keep-outs, or another datum",
    )


def _refused(request: PlanRequest, reasons: list[Reason], load: CuttingLoad | None, verdict: HoldVerdict | None) -> PlanResult:
    figures = common_figures(request, load, verdict)
    return PlanResult(feasible=False, designs=[], reasons=reasons, figures=figures, load=load, hold=verdict, cautions=[])


def _design(
    request: PlanRequest,
    station: Station,
    load: CuttingLoad,
    verdict: HoldVerdict,
    masses: _Masses,
    budget: Budget,
    answer: LayoutResult,
) -> Design:
    places = []
    for placement in answer.placements:
        x, y = turned(np.array(station.feature), placement.turn) + (placement.x_mm, placement.y_mm)
        places.append((float(x), float(y)))
    verdicts = tolerance(_tolerance_request(request, places)).places
    stations = [
        PlacedStation(
            number=number,
            x_mm=placement.x_mm,
            y_mm=placement.y_mm,
            turn=placement.turn,
            feature_x_mm=place[0],
            feature_y_mm=place[1],
            tolerance_share=judged.share,
            probable_mm=judged.probable_mm,
            worst_case_mm=judged.worst_case_mm,
            contributions=judged.contributions,
        )
        for number, (placement, place, judged) in enumerate(zip(answer.placements, places, verdicts, strict=True), 1)
    ]
    count = answer.count
    facts = Facts(
        request=request,
        load=load,
        hold=verdict,
        layout=answer,
        stations=stations,
        plate_kg=masses.plate_kg,
        station_kg=masses.station_kg,
        cut_path_mm=_cut_path(request, station),
        travel_mm=_travel_used(request, station, answer),
        growth_per_mm=budget.growth_per_mm,
        cycles=math.ceil(request.quantity / count),
    )
    own = design_figures(facts)
    story = {figure.id: figure for figure in [*common_figures(request, load, verdict), *own]}
    whole, region = box(0, 0, request.plate.width_mm, request.plate.depth_mm), _allowed(request)
    return Design(
        count=count,
        bound=answer.bound,
        proven=answer.proven,
        statement=answer.statement,
        by_hand=answer.by_hand,
        method=answer.method,
        cycles=facts.cycles,
        cut_seconds=story["cut_seconds"].value,
        stations=stations,
        drawing=_drawing(request, station),
        tolerance_region=None if region.covers(whole) else _rings(region.intersection(whole)),
        limits=ledger(facts, story),
        figures=own,
    )


def _drawing(request: PlanRequest, station: Station) -> StationDrawing:
    clamp = request.station.clamp
    return StationDrawing(
        part=_rings(station.part),
        stops=[_ring(station.long_stop), _ring(station.end_stop)],
        clamps=[_ring(body) for body in station.clamps],
        screws=list(station.screws),
        screw_diameter_mm=SCREWS[clamp.screw].nominal_mm * 1.5,
        wrench_diameter_mm=clamp.wrench_diameter_mm,
        sweep=_rings(station.sweep),
        feature=station.feature,
    )


def _cut_path(request: PlanRequest, station: Station) -> float:
    """Length the cutter's axis travels in one part, mm: once around, or in parallel passes across."""
    if request.cut.path == "around":
        return float(Polygon(station.part.exterior).buffer(request.cut.tool.diameter_mm / 2, quad_segs=16).exterior.length)
    x0, y0, x1, y1 = station.part.bounds
    long, short = max(x1 - x0, y1 - y0), min(x1 - x0, y1 - y0)
    return math.ceil(short / request.cut.radial_width_mm - 1e-9) * (long + request.cut.tool.diameter_mm)


def _travel_used(request: PlanRequest, station: Station, answer: LayoutResult) -> tuple[float, float]:
    """Stroke in X and Y from the outermost cutter paths, the plate centred on the table."""
    inset = request.cut.tool.diameter_mm / 2
    x0, y0, x1, y1 = station.sweep.bounds
    corners = np.array([(x0 + inset, y0 + inset), (x1 - inset, y1 - inset)])
    centre = np.array([request.plate.width_mm / 2, request.plate.depth_mm / 2])
    places = np.concatenate([turned(corners, item.turn) + (item.x_mm, item.y_mm) for item in answer.placements])
    used = 2 * np.abs(places - centre).max(axis=0)
    return float(used[0]), float(used[1])


def _cautions(request: PlanRequest, masses: _Masses, count: int) -> list[str]:
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
    if request.part.material == "titanium-6al4v":
        found.append("Titanium chips burn: keep them from piling up, and the right extinguisher at hand.")
    return found
