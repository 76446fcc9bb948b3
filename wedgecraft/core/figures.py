"""Every figure on the screen with its formula, inputs and sources."""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.cutting.figures import KIENZLE, load_figures
from wedgecraft.core.layout.document import LayoutResult
from wedgecraft.core.limits import Figure, FigureInput
from wedgecraft.core.plan import CutLoad, HoldVerdict, PlacedStation, PlanRequest

_TYPED = "this job"
BUILDER = "machine builder's figure, as entered"


@dataclass(frozen=True)
class Facts:
    """What the figures are made of."""

    request: PlanRequest
    loads: list[CutLoad]
    hold: HoldVerdict
    layout: LayoutResult
    stations: list[PlacedStation]
    plate_kg: float
    station_kg: float
    travel_mm: tuple[float, float]
    growth_per_mm: float
    cycles: int


def _in(name: str, value: float, unit: str = "", source: str = _TYPED) -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)


def common_figures(request: PlanRequest, loads: list[CutLoad], hold: HoldVerdict | None) -> list[Figure]:
    """What is known before any layout: load and hold."""
    found = _load_figures(request, loads) if loads else []
    return found + (_hold_figures(request, loads, hold) if loads and hold else [])


def design_figures(facts: Facts) -> list[Figure]:
    """What a design adds: layout, time, tolerance, machine."""
    return [*_layout_figures(facts), _time_figure(facts), *_tolerance_figures(facts), *_machine_figures(facts)]


def _layout_figures(facts: Facts) -> list[Figure]:
    request, found = facts.request, facts.layout
    used = _in(
        "area a station takes, half the gap round it included", found.used_mm2 / found.count, "mm²", "body outlines of this station"
    )
    return [
        Figure(
            id="count",
            label="Parts per cycle",
            value=found.count,
            digits=0,
            formula="stations placed: bodies keep the clearance, cutters keep off neighbours, every feature stays in tolerance",
            inputs=[
                _in("upper bound", found.bound, "", "least of area, grid-point, quantity and load bounds"),
                _in("bounding boxes spaced by hand", found.by_hand, "", "straight grid from the datum corner"),
                _in("clearance", request.station.clearance_mm, "mm"),
            ],
            source=f"no-fit regions and search ({found.method}); checked by an independent overlap test in the product's tests",
        ),
        Figure(
            id="bound",
            label="No layout holds more than",
            value=found.bound,
            digits=0,
            formula="least of: reachable face / area a station takes; grid points covered / points a station covers; quantity; table load",
            inputs=[used, _in("usable face", found.usable_mm2, "mm²", "plate inside its margin, without keep-outs")],
            source="area bound; grid points as in Fekete and Schepers 2004 (dual feasible functions)",
        ),
        Figure(
            id="by_hand",
            label="Bounding boxes spaced by hand",
            value=found.by_hand,
            digits=0,
            formula="boxes round station and cutter path on a straight grid from the datum corner, best turn; those that hit something left out",
            inputs=[_in("clearance", request.station.clearance_mm, "mm")],
            source="common practice, no source",
        ),
        Figure(
            id="cycles",
            label="Cycles for the batch",
            value=facts.cycles,
            digits=0,
            formula="quantity / parts per cycle, rounded up",
            inputs=[_in("quantity", request.wanted), _in("parts per cycle", found.count, "", "layout")],
            source="arithmetic",
        ),
        Figure(
            id="face_room",
            label="Face room",
            value=100 * found.used_mm2 / found.usable_mm2,
            unit="%",
            digits=0,
            formula="stations x area each / face that a station can cover",
            inputs=[
                used,
                _in("stations", found.count, "", "layout"),
                _in("usable face", found.usable_mm2, "mm²", "plate inside its margin, without keep-outs"),
            ],
            source="plane geometry",
        ),
    ]


def _load_figures(request: PlanRequest, loads: list[CutLoad]) -> list[Figure]:
    """Of each number the cut in which it is largest."""
    every = [
        {figure.id: figure for figure in load_figures(cut, request.part.material, answer.load)}
        for cut, answer in zip(request.op.cuts, loads, strict=True)
    ]
    found = []
    for name in ("force", "pull", "power", "spindle_torque"):
        index = max(range(len(every)), key=lambda k, name=name: every[k][name].value)  # type: ignore[misc]
        figure = every[index][name]
        label = f"{figure.label}, {request.op.cuts[index].name}" if len(every) > 1 else figure.label
        found.append(figure.model_copy(update={"label": label[:120]}))
    return found


def _time_figure(facts: Facts) -> Figure:
    return Figure(
        id="cut_seconds",
        label="Cutting time per part",
        value=sum(load.seconds for load in facts.loads),
        unit="s",
        digits=0,
        formula="sum over the op's cuts of path / feed rate, or seconds as typed; no rapids, no tool change",
        inputs=[_in(load.name, load.seconds, "s", "cuts of this op") for load in facts.loads],
        source="arithmetic",
    )


def _hold_figures(request: PlanRequest, loads: list[CutLoad], hold: HoldVerdict) -> list[Figure]:
    clamp = request.station.clamp
    return [
        Figure(
            id="hold_factor",
            label="Clamping, worst case",
            value=hold.result.factor,
            formula="largest factor on the cutting force for which stops, plate, clamps and friction still balance it; lowest of all cases",
            inputs=[
                _in("preload at the toe, low end", hold.preload_low_n, "N", "screw torque"),
                _in("friction at the toe", clamp.toe_friction),
                _in("friction at the stops", request.station.stops.friction),
                _in("friction on the plate", request.station.floor_friction),
                _in("peak force in the plane", max(item.load.in_plane_peak_n for item in loads), "N", KIENZLE),
                _in("peak pull", max(item.load.pull_peak_n for item in loads), "N", KIENZLE),
            ],
            source="limit equilibrium with friction cones as a linear programme (Murray, Li and Sastry 1994, chapter 5)",
        ),
        Figure(
            id="preload",
            label="Preload at the toe, low end",
            value=hold.preload_low_n,
            unit="N",
            digits=0,
            formula="T (1 - scatter) / (P/2π + μ d2 / (2 cos 30°) + μ Dkm / 2) x transmission x cos(down angle), μ at its high end",
            inputs=[
                _in("screw torque", clamp.torque_nm, "N·m"),
                _in("torque scatter", clamp.torque_scatter),
                _in("screw friction, high", clamp.screw_friction_high),
                _in("pitch", SCREWS[clamp.screw].pitch_mm, "mm", "ISO 261"),
                _in("transmission", clamp.transmission, "", "clamp maker's figure, as entered"),
            ],
            source="VDI 2230 part 1, long form",
        ),
        Figure(
            id="preload_high",
            label="Preload at the toe, high end",
            value=hold.preload_high_n,
            unit="N",
            digits=0,
            formula="as the low end, with T (1 + scatter) and μ at its low end",
            inputs=[
                _in("screw torque", clamp.torque_nm, "N·m"),
                _in("torque scatter", clamp.torque_scatter),
                _in("screw friction, low", clamp.screw_friction_low),
            ],
            source="VDI 2230 part 1, long form",
        ),
        Figure(
            id="seating",
            label="Pressing down, low end",
            value=hold.seating_n,
            unit="N",
            digits=0,
            formula="toe force, low end, x tan(down angle); it seats the part, hold counts only the friction it leaves",
            inputs=[
                _in("preload at the toe, low end", hold.preload_low_n, "N", "screw torque"),
                _in("down angle", clamp.down_angle_deg, "°"),
            ],
            source="statics of the toe",
        ),
        *_least_torque_figure(request, hold),
        Figure(
            id="screw",
            label="Screw torque",
            value=clamp.torque_nm,
            unit="N·m",
            digits=1,
            formula="as set",
            inputs=[_in("screw torque", clamp.torque_nm, "N·m")],
            source="this job",
        ),
    ]


def _least_torque_figure(request: PlanRequest, hold: HoldVerdict) -> list[Figure]:
    if hold.least_torque_nm is None:
        return []
    return [
        Figure(
            id="least_torque",
            label="Holds from",
            value=hold.least_torque_nm,
            unit="N·m",
            digits=1,
            formula="least screw torque, to half a newton metre, at which every load case reaches the factor needed; found by bisection",
            inputs=[
                _in("factor needed", hold.needed, "", "house rule"),
                _in("torque scatter", request.station.clamp.torque_scatter),
            ],
            source="the hold check itself, solved again at each torque",
        )
    ]


def _tolerance_figures(facts: Facts) -> list[Figure]:
    request = facts.request
    if not request.judged:
        return []
    worst = max(facts.stations, key=lambda station: station.tolerance_share)
    probable = request.rules.tolerance_rule == "probable"
    inputs = [
        _in(f"{item.name}, {axis}", getattr(item, f"{axis.lower()}_mm"), "mm", "plus or minus, at this station")
        for item in worst.contributions
        for axis in ("X", "Y")
    ]
    inputs.append(
        _in("growth per mm from the datum", facts.growth_per_mm * 1e6, "µm/m", "expansion of plate less scales x temperature")
    )
    return [
        Figure(
            id="tolerance",
            label=f"{worst.feature}, station {worst.number}"[:120],
            digits=3,
            unit="mm",
            value=worst.probable_mm if probable else worst.worst_case_mm,
            formula="2 x √(Σx² + Σy²), each Σ the root of the sum of squares" if probable else "2 x √((Σ|x|)² + (Σ|y|)²)",
            inputs=inputs,
            source="zone as a diameter: ISO 1101, ASME Y14.5; root-sum-square: usual rule for independent contributors",
        )
    ]


def _machine_figures(facts: Facts) -> list[Figure]:
    total = facts.plate_kg + facts.layout.count * facts.station_kg
    machine = facts.request.machine
    shares = (facts.travel_mm[0] / machine.travel_x_mm, facts.travel_mm[1] / machine.travel_y_mm)
    axis = 0 if shares[0] >= shares[1] else 1
    return [
        Figure(
            id="load",
            label="Table load",
            value=total,
            unit="kg",
            digits=1,
            formula="plate + stations x (part + stops + clamps)",
            inputs=[
                _in("plate", facts.plate_kg, "kg", "size x density"),
                _in("one station", facts.station_kg, "kg", "outline x height x density"),
                _in("stations", facts.layout.count, "", "layout"),
            ],
            source="volumes and handbook densities",
        ),
        Figure(
            id="travel",
            label=f"Travel {'XY'[axis]}",
            value=facts.travel_mm[axis],
            unit="mm",
            digits=0,
            formula="twice the farthest the cutter's axis goes from the plate's middle, the plate centred on the table",
            inputs=[_in("stroke X", facts.travel_mm[0], "mm", "layout"), _in("stroke Y", facts.travel_mm[1], "mm", "layout")],
            source="plane geometry",
        ),
    ]
