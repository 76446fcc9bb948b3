"""Every figure of a design with its formula, inputs and sources, and the limits they are judged against."""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.cutting import CuttingLoad
from wedgecraft.core.layout import LayoutResult
from wedgecraft.core.limits import Figure, FigureInput, Limit, limit
from wedgecraft.core.materials import material
from wedgecraft.core.plan import HoldVerdict, PlacedStation, PlanRequest

_TYPED = "this job"
_BUILDER = "machine builder's figure, as entered"
_KIENZLE = "Kienzle's cutting force model (VDI-Z 94, 1952)"


@dataclass(frozen=True)
class Facts:
    """What the figures are made of."""

    request: PlanRequest
    load: CuttingLoad
    hold: HoldVerdict
    layout: LayoutResult
    stations: list[PlacedStation]
    plate_kg: float
    station_kg: float
    cut_path_mm: float
    travel_mm: tuple[float, float]
    growth_per_mm: float
    cycles: int


def _in(name: str, value: float, unit: str = "", source: str = _TYPED) -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)


def figures(facts: Facts) -> dict[str, Figure]:
    """All figures by id."""
    made = [
        *_layout_figures(facts),
        *_load_figures(facts),
        *_hold_figures(facts),
        *_tolerance_figures(facts),
        *_machine_figures(facts),
    ]
    return {figure.id: figure for figure in made}


def _layout_figures(facts: Facts) -> list[Figure]:
    request, found = facts.request, facts.layout
    used = _in(
        "area a station takes, half the gap round it included",
        found.used_mm2 / found.count,
        "mm²",
        "body outlines of this station",
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
            id="cycles",
            label="Cycles for the batch",
            value=facts.cycles,
            digits=0,
            formula="quantity / parts per cycle, rounded up",
            inputs=[_in("quantity", request.quantity), _in("parts per cycle", found.count, "", "layout")],
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


def _load_figures(facts: Facts) -> list[Figure]:
    request, load = facts.request, facts.load
    cut, work = request.cut, material(request.part.material)
    chip = [
        _in("kc1.1", work.kc11_mpa, "MPa", work.source),
        _in("mc", work.mc, "", work.source),
        _in("wear factor", cut.wear_factor),
        _in("feed per tooth", cut.feed_per_tooth_mm, "mm"),
        _in("axial depth", cut.axial_depth_mm, "mm"),
        _in("radial width", cut.radial_width_mm, "mm"),
        _in("teeth", cut.tool.teeth),
        _in("cutter diameter", cut.tool.diameter_mm, "mm"),
    ]
    return [
        Figure(
            id="force",
            label="Peak force in the plane",
            value=load.in_plane_peak_n,
            unit="N",
            digits=0,
            formula="largest resultant over one turn of Ft = kc1.1 b h^(1-mc) and Fr = 0.4 Ft, summed over the teeth engaged",
            inputs=chip,
            source=_KIENZLE,
        ),
        Figure(
            id="pull",
            label="Peak pull on the part",
            value=load.pull_peak_n,
            unit="N",
            digits=0,
            formula="peak tangential force x tan(helix)",
            inputs=[_in("helix", cut.tool.helix_deg, "°"), *chip[:3]],
            source=_KIENZLE,
        ),
        Figure(
            id="power",
            label="Spindle power",
            value=load.mean_power_w / 1000,
            unit="kW",
            formula="mean tangential force over one turn x cutting speed",
            inputs=[*chip, _in("cutting speed", load.cutting_speed_m_min, "m/min", "diameter and spindle speed")],
            source=_KIENZLE,
        ),
        Figure(
            id="spindle_torque",
            label="Spindle torque",
            value=load.peak_torque_nm,
            unit="N·m",
            formula="peak tangential force x cutter radius",
            inputs=chip,
            source=_KIENZLE,
        ),
        Figure(
            id="cut_seconds",
            label="Cutting time per part",
            value=60 * facts.cut_path_mm / load.feed_rate_mm_min,
            unit="s",
            digits=0,
            formula="path of the cutter's axis / feed rate; this one cut, no rapids, no tool change",
            inputs=[
                _in("path", facts.cut_path_mm, "mm", "outline"),
                _in("feed rate", load.feed_rate_mm_min, "mm/min", "feed per tooth x teeth x speed"),
            ],
            source="arithmetic",
        ),
    ]


def _hold_figures(facts: Facts) -> list[Figure]:
    request, hold, clamp = facts.request, facts.hold, facts.request.station.clamp
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
                _in("peak force in the plane", facts.load.in_plane_peak_n, "N", _KIENZLE),
                _in("peak pull", facts.load.pull_peak_n, "N", _KIENZLE),
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


def _tolerance_figures(facts: Facts) -> list[Figure]:
    request = facts.request
    worst = max(facts.stations, key=lambda station: station.tolerance_share)
    probable = request.tolerance.rule == "probable"
    inputs = [
        _in(f"{item.name}, {axis}", getattr(item, f"{axis.lower()}_mm"), "mm", "plus or minus, at this station")
        for item in worst.contributions
        for axis in ("X", "Y")
    ]
    inputs.append(
        _in(
            "growth per mm from the datum",
            facts.growth_per_mm * 1e6,
            "µm/m",
            "expansion of plate less scales x temperature",
        )
    )
    return [
        Figure(
            id="tolerance",
            label=f"Tolerance, station {worst.number}",
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


def ledger(facts: Facts, story: dict[str, Figure]) -> list[Limit]:
    """Limits: what keeps one more part out first, then the tightest."""
    full_table = facts.plate_kg + (facts.layout.count + 1) * facts.station_kg > facts.request.machine.table_load_kg
    full_batch = facts.layout.count >= facts.request.quantity
    request, machine = facts.request, facts.request.machine
    travel = machine.travel_x_mm if story["travel"].label.endswith("X") else machine.travel_y_mm
    rule = "house rule, interrupted cut" if request.cut.interrupted else "house rule"
    lines = [
        limit(story["face_room"], 100, "the plate inside its margin", binds=not full_table and not full_batch),
        limit(story["hold_factor"], facts.hold.needed, rule, at_least=True),
        limit(story["tolerance"], request.tolerance.zone_mm, f"drawing: {request.tolerance.feature}"),
        limit(story["load"], machine.table_load_kg, _BUILDER, binds=full_table),
        limit(story["travel"], travel, _BUILDER),
        limit(
            story["screw"],
            SCREWS[request.station.clamp.screw].rated_torque_nm,
            "screw of class 8.8, from memory of the usual tables",
        ),
        limit(story["power"], machine.spindle_power_kw, _BUILDER),
        limit(story["spindle_torque"], machine.spindle_torque_nm, _BUILDER),
    ]
    return sorted(lines, key=lambda line: (not line.binds, -line.share))
