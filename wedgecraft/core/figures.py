"""Every figure on the screen with its formula, inputs and sources."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.cutting.figures import KIENZLE, load_figures
from wedgecraft.core.cycle import Cycle
from wedgecraft.core.elastic import HOLDER_YIELD_MPA
from wedgecraft.core.layout.document import LayoutResult
from wedgecraft.core.limits import Figure, FigureInput
from wedgecraft.core.placing import bare_kg
from wedgecraft.core.plan import CutLoad, HoldVerdict, PlacedStation, PlanRequest

if TYPE_CHECKING:
    from wedgecraft.core.answer import Worked

_TYPED = "this job"
BUILDER = "machine builder's figure, as entered"


@dataclass(frozen=True)
class Facts:
    """What the figures are made of."""

    request: PlanRequest
    kinds: Sequence[Worked]
    counts: list[int]
    layout: LayoutResult
    stations: list[PlacedStation]
    travel_mm: tuple[float, float]
    growth_per_mm: float
    cycles: int
    cycle: Cycle
    offsets: int


def _in(name: str, value: float, unit: str = "", source: str = _TYPED) -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)


def common_figures(request: PlanRequest, loads: list[CutLoad], hold: HoldVerdict | None) -> list[Figure]:
    """What is known before any layout: load and hold."""
    found = _load_figures(request, loads) if loads else []
    return found + (_hold_figures(request, loads, hold) if loads and hold else [])


def design_figures(facts: Facts) -> list[Figure]:
    """What a design adds: layout, time, tolerance, machine, and how its other ops are held."""
    found = [
        *_layout_figures(facts),
        _time_figure(facts),
        *_cycle_figures(facts),
        *_tolerance_figures(facts),
        *_machine_figures(facts),
    ]
    for number, item in enumerate(facts.kinds[1:], 1):
        view = item.ready.view
        factor = _hold_figures(view, item.loads, item.hold)[0]
        label = f"Clamping, {view.part.name + ', ' if facts.request.several_parts else ''}op {view.op.number}"
        found.append(factor.model_copy(update={"id": f"hold_factor_{number}", "label": label[:120]}))
    return found


def counted_in(request: PlanRequest) -> str:
    return "kits" if request.several_parts else "complete parts" if request.also else "parts"


def _layout_figures(facts: Facts) -> list[Figure]:
    request, found = facts.request, facts.layout
    each = found.used_mm2 / max(1, len(found.placements))
    used = _in("area a station takes, half the gap round it included", each, "mm²", "body outlines of this station")
    return [
        Figure(
            id="count",
            label=f"{counted_in(request).capitalize()} per cycle",
            value=found.sets,
            digits=0,
            formula="stations placed: bodies keep the clearance, cutters keep off neighbours, every feature stays in tolerance"
            if len(facts.kinds) == 1
            else "least, over the ops planned, of stations / how many of it one needs; stations beyond that are left out",
            inputs=[
                *[
                    _in(f"stations, {item.ready.view.part.name}, op {item.ready.view.op.number}"[:120], count, "", "layout")
                    for item, count in zip(facts.kinds, facts.counts, strict=True)
                ],
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
            formula=f"quantity / {counted_in(request)} per cycle, rounded up",
            inputs=[_in("quantity", request.wanted), _in(f"{counted_in(request)} per cycle", found.sets, "", "layout")],
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
    each = list(zip(facts.kinds, facts.request.per_set, strict=True))
    several = len(each) > 1
    inputs = [
        _in(f"{f'{times} x ' if times > 1 else ''}{f'op {item.ready.view.op.number}, ' if several else ''}{load.name}"[:120],
            times * load.seconds, "s", "cuts of this op")
        for item, times in each for load in item.loads
    ]  # fmt: skip
    return Figure(
        id="cut_seconds",
        label=f"Cutting time per {'kit' if facts.request.several_parts else 'part'}",
        value=sum(times * load.seconds for item, times in each for load in item.loads),
        unit="s",
        digits=0,
        formula="sum over the cuts of all ops planned of path / feed rate, or seconds as typed; no rapids, no tool change",
        inputs=inputs,
        source="arithmetic",
    )


def _cycle_figures(facts: Facts) -> list[Figure]:
    found, machine, request = facts.cycle, facts.request.machine, facts.request

    def sum_of(what: str) -> float:
        return sum(item.seconds for item in found.segments if item.what == what)

    whole = Figure(
        id="cycle_seconds",
        label="A cycle",
        value=found.seconds,
        unit="s",
        digits=0,
        formula="cutting + tool changes + index moves + pallet change + door open; no rapids between stations",
        inputs=[
            _in("cutting", sum_of("cut"), "s", "cuts of all stations"),
            _in(f"{found.tool_changes} tool changes, {found.order}", sum_of("tool change"), "s", BUILDER),
            _in(f"{found.index_moves} index moves", sum_of("index"), "s", BUILDER),
            _in("pallet change", sum_of("pallet change"), "s", BUILDER),
            _in("door open", sum_of("door open"), "s", "house rule, handling a part"),
            _in("loading in all" + (", hidden behind cutting" if found.hidden else ""), found.loading_seconds, "s", "house rule"),
        ],
        source="arithmetic",
    )
    each = whole.model_copy(
        update={
            "id": "part_seconds", "label": f"Time per {'kit' if request.several_parts else 'part'}",
            "value": found.seconds / max(1, facts.layout.sets), "formula": f"a cycle / {counted_in(request)} per cycle",
            "inputs": [_in("a cycle", found.seconds, "s", "this design"), _in(counted_in(request), facts.layout.sets, "", "layout")],
        }
    )  # fmt: skip
    alone = whole.model_copy(
        update={
            "id": "unattended", "label": "Runs unattended", "value": found.unattended_seconds / 3600, "unit": "h", "digits": 1,
            "formula": "pallets loaded x (a cycle without door and waiting)" if found.hidden else "a cycle with the door shut",
            "inputs": [_in("pallets", machine.pallets, "", BUILDER), _in("a cycle", found.seconds, "s", "this design")],
        }
    )  # fmt: skip
    return [whole, each, alone]


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
        *_pressure_figure(request, hold),
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


def _pressure_figure(request: PlanRequest, hold: HoldVerdict) -> list[Figure]:
    """Under the contact that presses hardest."""
    if hold.share is None:
        return []
    item = next(item for item in hold.share.contacts if item.name == hold.share.presses_most)
    area = item.most_n / item.pressure_mpa if item.pressure_mpa > 0 else 0.0
    return [
        Figure(
            id="pressure",
            label=f"Pressure, {item.name}"[:120],
            value=item.pressure_mpa,
            unit="MPa",
            digits=0,
            formula="most normal force under any cut, preload at its high end / patch that touches; a round on a flat: Hertz width",
            inputs=[
                _in("normal force, high end", item.most_n, "N", "share-out over the contacts as springs"),
                _in("patch that touches", area, "mm²", "sizes of toe, stop and part"),
                _in("yield of the part", request.part.material.yield_mpa, "MPa", request.part.material.source),
                _in("yield of stops and toes", HOLDER_YIELD_MPA, "MPa", "hardened steel, from memory"),
            ],
            source="Johnson, Contact Mechanics, 1985; marks from yield on, sinks in at 2.8 times it (Tabor 1951)",
        )
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
    worst = max(facts.stations, key=lambda station: station.tolerance_share)
    if not worst.feature:
        return []
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
    request, first = facts.request, facts.kinds[0].ready
    kinds = list(zip(facts.kinds, facts.counts, strict=True))
    total = bare_kg(request, first.masses) + sum(count * item.ready.masses.station_kg for item, count in kinds)
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
            formula="faces x plate + block + stations x (part + stops + clamps)",
            inputs=[
                _in("plate", first.masses.plate_kg, "kg", "size x density"),
                _in("faces", request.block.faces),
                _in("block without plates", request.block.body_kg, "kg"),
                *[
                    _in(name, value, unit, source)
                    for item, count in kinds
                    for name, value, unit, source in (
                        (
                            f"one station, op {item.ready.view.op.number}",
                            item.ready.masses.station_kg,
                            "kg",
                            "outline x height x density",
                        ),
                        (f"stations, op {item.ready.view.op.number}", count, "", "layout"),
                    )
                ],
            ],
            source="volumes and handbook densities",
        ),
        Figure(
            id="offsets",
            label="Work offsets",
            value=facts.offsets,
            digits=0,
            formula={
                "one for all": "one for each turn that parts stand at; the pattern is in the program",
                "one per face": "one for each turn on each face",
                "one per station": "one for each part",
            }[request.rules.datum],
            inputs=[_in("parts a cycle", sum(len(item.ready.station.members) * count for item, count in kinds), "", "layout")],
            source=f"house rule: datum {request.rules.datum}",
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
