"""Every figure on the screen with its formula, inputs and sources."""

from __future__ import annotations

from wedgecraft.core.cutting.figures import load_figures
from wedgecraft.core.explain.facts import Facts
from wedgecraft.core.explain.hold import hold_figures
from wedgecraft.core.ground.limits import Figure, given
from wedgecraft.core.locate.ready import bare_kg
from wedgecraft.core.records.hold import HoldVerdict
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import OpView

BUILDER = "machine builder's figure, as entered"


def common_figures(view: OpView, loads: list[CutLoad], hold: HoldVerdict | None) -> list[Figure]:
    """What is known before any layout: load and hold."""
    found = _load_figures(view, loads) if loads else []
    return found + (hold_figures(view, loads, hold) if loads and hold else [])


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
        factor = hold_figures(view, item.loads, item.hold)[0]
        label = (
            f"Clamping, {view.part.name + ', ' if facts.request.several_parts else ''}op"
            f" {view.op.number}"
        )
        found.append(
            factor.model_copy(update={"id": f"hold_factor_{number}", "label": label[:120]})
        )
    return found


def countedgiven(request: PlanRequest) -> str:
    return "kits" if request.several_parts else "complete parts" if request.also else "parts"


def _layout_figures(facts: Facts) -> list[Figure]:
    request, found = facts.request, facts.layout
    each = found.used_mm2 / max(1, len(found.placements))
    used = given(
        "area a station takes, half the gap round it included",
        each,
        "mm²",
        "body outlines of this station",
    )
    return [
        Figure(
            id="count",
            label=f"{countedgiven(request).capitalize()} per cycle",
            value=found.sets,
            digits=0,
            formula=(
                "stations placed: bodies keep the clearance, cutters keep off neighbours, every"
                " feature stays in tolerance"
                if len(facts.kinds) == 1
                else (
                    "least, over the ops planned, of stations / how many of it one needs; stations"
                    " beyond that are left out"
                )
            ),
            inputs=[
                *[
                    given(
                        f"stations, {item.ready.view.part.name}, op {item.ready.view.op.number}"[
                            :120
                        ],
                        count,
                        "",
                        "layout",
                    )
                    for item, count in zip(facts.kinds, facts.counts, strict=True)
                ],
                given(
                    "upper bound",
                    found.bound,
                    "",
                    "least of area, distance, grid-point, quantity and load bounds",
                ),
                given(
                    "bounding boxes spaced by hand",
                    found.by_hand,
                    "",
                    "straight grid from the datum corner",
                ),
                given("clearance", request.station.clearance_mm, "mm"),
            ],
            source=(
                f"no-fit regions and search ({found.method}); checked by an independent overlap"
                " test in the product's tests"
            ),
        ),
        Figure(
            id="bound",
            label="No layout holds more than",
            value=found.bound,
            digits=0,
            formula=(
                "least of: reachable face / area a station takes; grid points covered / points a"
                " station covers; quantity; table load"
            ),
            inputs=[
                used,
                given(
                    "usable face",
                    found.usable_mm2,
                    "mm²",
                    "plate inside its margin, without keep-outs",
                ),
            ],
            source=(
                "area bound; grid points as in Fekete and Schepers 2004 (dual feasible functions)"
            ),
        ),
        Figure(
            id="by_hand",
            label="Bounding boxes spaced by hand",
            value=found.by_hand,
            digits=0,
            formula=(
                "boxes round station and cutter path on a straight grid from the datum corner, best"
                " turn; those that hit something left out"
            ),
            inputs=[given("clearance", request.station.clearance_mm, "mm")],
            source="common practice, no source",
        ),
        Figure(
            id="cycles",
            label="Cycles for the batch",
            value=facts.cycles,
            digits=0,
            formula=f"quantity / {countedgiven(request)} per cycle, rounded up",
            inputs=[
                given("quantity", request.wanted),
                given(f"{countedgiven(request)} per cycle", found.sets, "", "layout"),
            ],
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
                given("stations", found.count, "", "layout"),
                given(
                    "usable face",
                    found.usable_mm2,
                    "mm²",
                    "plate inside its margin, without keep-outs",
                ),
            ],
            source="plane geometry",
        ),
    ]


def _load_figures(view: OpView, loads: list[CutLoad]) -> list[Figure]:
    """Of each number the cut in which it is largest."""
    every = [
        {figure.id: figure for figure in load_figures(cut, view.part.material, answer.load)}
        for cut, answer in zip(view.op.cuts, loads, strict=True)
    ]
    found = []
    for name in ("force", "pull", "power", "spindle_torque"):
        index = max(range(len(every)), key=lambda k, name=name: every[k][name].value)  # type: ignore[misc]
        figure = every[index][name]
        label = f"{figure.label}, {view.op.cuts[index].name}" if len(every) > 1 else figure.label
        found.append(figure.model_copy(update={"label": label[:120]}))
    return found


def _times(count: int, name: str) -> str:
    return f"{count} x {name}"[:120] if count > 1 else name[:120]


def _time_figure(facts: Facts) -> Figure:
    each = list(zip(facts.kinds, facts.request.per_set, strict=True))
    several = len(each) > 1
    inputs = [
        given(
            _times(times, f"op {item.ready.view.op.number}, {load.name}" if several else load.name),
            times * load.seconds,
            "s",
            "cuts of this op",
        )
        for item, times in each
        for load in item.loads
    ]
    return Figure(
        id="cut_seconds",
        label=f"Cutting time per {'kit' if facts.request.several_parts else 'part'}",
        value=sum(times * load.seconds for item, times in each for load in item.loads),
        unit="s",
        digits=0,
        formula=(
            "sum over the cuts of all ops planned of path / feed rate, or seconds as typed; no"
            " rapids, no tool change"
        ),
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
        formula=(
            "cutting + rapids + tool changes + index moves + pallet change + door open; a program"
            " that was accepted says it better"
        ),
        inputs=[
            given("cutting", sum_of("cut"), "s", "cuts of all stations"),
            given("rapids", sum_of("rapids"), "s", "between stations, up and down at each"),
            given(
                f"{found.tool_changes} tool change{'s' * (found.tool_changes != 1)}, {found.order}",
                sum_of("tool change"),
                "s",
                BUILDER,
            ),
            given(f"{found.index_moves} index moves", sum_of("index"), "s", BUILDER),
            given("pallet change", sum_of("pallet change"), "s", BUILDER),
            given("door open", sum_of("door open"), "s", "house rule, handling a part"),
            given(
                "loading in all" + (", hidden behind cutting" if found.hidden else ""),
                found.loading_seconds,
                "s",
                "house rule",
            ),
        ],
        source="arithmetic",
    )
    each = whole.model_copy(
        update={
            "id": "part_seconds",
            "label": f"Time per {'kit' if request.several_parts else 'part'}",
            "value": found.seconds / max(1, facts.layout.sets),
            "formula": f"a cycle / {countedgiven(request)} per cycle",
            "inputs": [
                given("a cycle", found.seconds, "s", "this design"),
                given(countedgiven(request), facts.layout.sets, "", "layout"),
            ],
        }
    )
    alone = whole.model_copy(
        update={
            "id": "unattended",
            "label": "Runs unattended",
            "value": found.unattended_seconds / 3600,
            "unit": "h",
            "digits": 1,
            "formula": (
                "pallets loaded x (a cycle without door and waiting)"
                if found.hidden
                else "a cycle with the door shut"
            ),
            "inputs": [
                given("pallets", machine.pallets, "", BUILDER),
                given("a cycle", found.seconds, "s", "this design"),
            ],
        }
    )
    return [whole, each, alone]


def _tolerance_figures(facts: Facts) -> list[Figure]:
    request = facts.request
    worst = max(facts.stations, key=lambda station: station.tolerance_share)
    if not worst.feature:
        return []
    probable = request.rules.tolerance_rule == "probable"
    feature = next(
        item for item in facts.kinds[worst.kind].ready.view.judged if item.name == worst.feature
    )
    zone = feature.of.zone
    inputs = [
        given(
            f"{item.name}{f', {axis}' if zone else ''}"[:120],
            getattr(item, f"{axis.lower()}_mm"),
            "mm",
            "plus or minus, at this station",
        )
        for item in worst.contributions
        for axis in ("XY" if zone else "X")
    ]
    inputs.append(
        given(
            "growth per mm from the datum",
            facts.growth_per_mm * 1e6,
            "µm/m",
            "expansion of plate less scales x temperature",
        )
    )
    formula = {
        (True, True): "2 x √(Σx² + Σy²), each Σ the root of the sum of squares",
        (True, False): "2 x √((Σ|x|)² + (Σ|y|)²)",
        (False, True): "root of the sum of squares, and fixed ones with their sign",
        (False, False): "plain sum",
    }[zone, probable]
    return [
        Figure(
            id="tolerance",
            label=f"{worst.feature}, station {worst.number}"[:120],
            digits=3,
            unit="mm",
            value=worst.probable_mm if probable else worst.worst_case_mm,
            formula=(
                f"{formula}; at three standard deviations, never more than the worst"
                if probable
                else formula
            ),
            inputs=inputs,
            source=(
                "zone as a diameter: ISO 1101, ASME Y14.5; root-sum-square: usual rule for"
                " independent contributors"
            ),
        )
    ]


def _machine_figures(facts: Facts) -> list[Figure]:
    request, first = facts.request, facts.kinds[0].ready
    kinds = list(zip(facts.kinds, facts.counts, strict=True))
    total = bare_kg(request.block, first.masses) + sum(
        count * item.ready.masses.station_kg for item, count in kinds
    )
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
                given("plate", first.masses.plate_kg, "kg", "size x density"),
                given("faces", request.block.faces),
                given("block without plates", request.block.body_kg, "kg"),
                *[
                    given(name, value, unit, source)
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
                "one for all": (
                    "one for each turn that parts stand at; the pattern is in the program"
                ),
                "one per face": "one for each turn on each face",
                "one per station": "one for each part",
            }[request.rules.datum],
            inputs=[
                given(
                    "parts a cycle",
                    sum(len(item.ready.station.members) * count for item, count in kinds),
                    "",
                    "layout",
                )
            ],
            source=f"house rule: datum {request.rules.datum}",
        ),
        Figure(
            id="travel",
            label=f"Travel {'XY'[axis]}",
            value=facts.travel_mm[axis],
            unit="mm",
            digits=0,
            formula=(
                "twice the farthest the cutter's axis goes from the plate's middle, the plate"
                " centred on the table"
            ),
            inputs=[
                given("stroke X", facts.travel_mm[0], "mm", "layout"),
                given("stroke Y", facts.travel_mm[1], "mm", "layout"),
            ],
            source="plane geometry",
        ),
    ]
