"""What a job's log says against what was planned, and what can be learned from it."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import TypeVar

from wedgecraft.core.floor.charts import capability, individuals, share_between, stands_out
from wedgecraft.core.floor.learning import (
    Posterior,
    edge_life,
    far_out,
    place,
    pooled_scatter,
    ratio,
)
from wedgecraft.core.floor.sheet import all_tightened
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.plan.running import stages_of
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.log import (
    Against,
    Chart,
    CycleDone,
    Entry,
    Learned,
    LearnedValues,
    Loaded,
    LogRequest,
    LogSaid,
    NewEdge,
    Outlier,
    PartMeasured,
    StationShare,
    Stop,
    Tightened,
    TorqueSeen,
)
from wedgecraft.core.records.run import Stage

E = TypeVar("E", bound=Entry)
#: With fewer cases nothing is said to contradict what was assumed.
_ENOUGH = 5
#: More charts than this nobody looks at.
_CHARTS = 24


def log_of(request: LogRequest) -> LogSaid:
    """Entries in any order; the same one twice counts once."""
    document = request.document
    entries = sorted({entry.id: entry for entry in request.entries}.values(), key=lambda e: e.at)
    try:
        stages = {s.number: s for s in stages_of(document, request.programmed_s)}
    except OutOfRange:
        stages = {}
    cycles, loads = _of(entries, CycleDone), _of(entries, Loaded)
    measured = _of(entries, PartMeasured)
    stations = _stations(document, stages, cycles)
    learned = [
        *_loading(document, stages, loads),
        *_cutting(document, stages, cycles),
        *_edges(document, _of(entries, NewEdge)),
        *_places(document, measured),
    ]
    stops: defaultdict[str, list[float]] = defaultdict(list)
    for stop in _of(entries, Stop):
        stops[stop.reason].append(stop.seconds)
    return LogSaid(
        entries=len(entries),
        complete=_complete(stages, cycles),
        good=sum(cycle.good for cycle in cycles),
        scrapped=sum(len(cycle.scrapped) for cycle in cycles),
        quantity=document.job.quantity,
        says=_says(stations, learned),
        against=_against(stages, cycles, loads),
        stations=stations,
        charts=_charts(document, cycles, measured, _standing_out(stations, learned)),
        torques=_torques(document, _of(entries, Tightened)),
        stops=sorted(((why, len(s), sum(s)) for why, s in stops.items()), key=lambda row: -row[2]),
        learned=learned,
    )


def learned_of(request: LogRequest) -> LearnedValues:
    """Only what can be learned from it."""
    return LearnedValues(learned=log_of(request).learned)


def _complete(stages: dict[int, Stage], cycles: Sequence[CycleDone]) -> int:
    """What came through the setup that has the fewest."""
    done = [
        sum(c.good for c in cycles if c.setup == number) * stage.sets / stage.pieces
        for number, stage in stages.items()
    ]
    return math.floor(min(done) + 1e-9) if done else sum(c.good for c in cycles)


def _of(entries: Sequence[Entry], kind: type[E]) -> list[E]:
    return [entry for entry in entries if isinstance(entry, kind)]


def _without_far(
    entries: Sequence[E], values: Sequence[float], unit: str
) -> tuple[list[float], list[Outlier]]:
    """What counts, and what is too far from the others to be one of them."""
    far = set(far_out(values))
    kept = [value for k, value in enumerate(values) if k not in far]
    middle = sorted(kept)[len(kept) // 2] if kept else 0.0
    out = [
        Outlier(
            id=entries[k].id,
            at=entries[k].at,
            value=values[k],
            why=f"{values[k]:.3g} {unit} where the others are about {middle:.3g} {unit}".replace(
                "  ", " "
            ),
        )
        for k in sorted(far)
    ]
    return kept, out


def _learned(
    ident: str,
    label: str,
    field: str | None,
    unit: str,
    digits: int,
    in_use: float,
    found: Posterior,
    out: list[Outlier],
    source: str,
) -> Learned:
    against = found.cases >= _ENOUGH and not found.low <= in_use <= found.high
    word = "but" if against else "and"
    return Learned(
        id=ident,
        label=label,
        field=field,
        unit=unit,
        digits=digits,
        in_use=in_use,
        value=found.mean,
        low=found.low,
        high=found.high,
        cases=found.cases,
        left_out=out,
        contradicts=against,
        says=(
            f"{label}: {in_use:.{digits}f} {unit} in use, {word} the log shows"
            f" {found.mean:.{digits}f} ({found.low:.{digits}f} to {found.high:.{digits}f})"
            f" {unit}, n = {found.cases}"
        )
        .replace("  ", " ")
        .replace(" ,", ","),
        source=source,
    )


def _loading(
    document: JobDocument, stages: dict[int, Stage], loads: Sequence[Loaded]
) -> list[Learned]:
    """Seconds a part and its first screw; further screws in the same proportion."""
    in_use = document.job.rules.handling_seconds
    used = [load for load in loads if load.setup in stages and stages[load.setup].load_s > 0]
    if not used or in_use <= 0:
        return []
    ratios = []
    for load in used:
        stage = stages[load.setup]
        ratios.append(load.seconds / load.parts / (stage.load_s / stage.pieces))
    a_part = [in_use * r for r in ratios]
    kept, out = _without_far(used, a_part, "s")
    found = _scaled(ratio([value / in_use for value in kept]), in_use)
    where = "job.rules.handling_seconds"
    why = "normal, spread unknown; what is assumed weighs as a tenth of a case"
    return [_learned("loading", "Handling a part", where, "s", 1, in_use, found, out, why)]


def _cutting(
    document: JobDocument, stages: dict[int, Stage], cycles: Sequence[CycleDone]
) -> list[Learned]:
    in_use = document.running.cutting_factor
    used = [cycle for cycle in cycles if cycle.setup in stages]
    if not used:
        return []
    values = [in_use * cycle.seconds / stages[cycle.setup].run_s for cycle in used]
    kept, out = _without_far(used, values, "")
    found = _scaled(ratio([value / in_use for value in kept]), in_use)
    label, where = "Cycle, real over reckoned", "running.cutting_factor"
    why = "normal, spread unknown; what is assumed weighs as a tenth of a case"
    return [_learned("cutting", label, where, "", 3, in_use, found, out, why)]


def _scaled(found: Posterior, by: float) -> Posterior:
    return Posterior(found.mean * by, found.low * by, found.high * by, found.cases)


def _edges(document: JobDocument, edges: Sequence[NewEdge]) -> list[Learned]:
    if not edges:
        return []
    running = document.running
    worn = [edge for edge in edges if edge.worn]
    kept, out = _without_far(worn, [edge.minutes for edge in worn], "min")
    before = [edge.minutes for edge in edges if not edge.worn]
    found = edge_life(kept, before, running.edge_minutes, running.edge_spread)
    label, where = "Life of an edge", "running.edge_minutes"
    why = "Weibull of the spread in use; edges that were changed before they were worn count too"
    return [_learned("edge", label, where, "min", 1, running.edge_minutes, found, out, why)]


def _places(document: JobDocument, measured: Sequence[PartMeasured]) -> list[Learned]:
    """How far a station stands off its drawing: parts of it are cut off the other way."""
    groups: defaultdict[tuple[int, int, str], list[PartMeasured]] = defaultdict(list)
    for item in measured:
        if item.axis:
            groups[item.setup, item.station, item.axis].append(item)
    setups = document.route.setups if document.route is not None else []
    scatter = pooled_scatter([[m.off_mm for m in group] for group in groups.values()])
    found = []
    for (setup, station, axis), group in sorted(groups.items()):
        if setup > len(setups) or scatter is None:
            continue
        within = max(setups[setup - 1].accuracy.station_place_mm, 1e-4)
        kept, out = _without_far(group, [-m.off_mm for m in group], "mm")
        where = place(kept, within, scatter)
        if where.cases >= _ENOUGH and not where.low <= 0 <= where.high:
            ident = f"place {setup} {station} {axis}"
            label = f"Station {station} of setup {setup} stands off in {axis}"
            why = f"normal about the drawing, ±{within:g} mm; scatter {scatter:.4f} mm from the log"
            said = _learned(ident, label, None, "mm", 4, 0.0, where, out, why)
            low, high = sorted((abs(where.low), abs(where.high)))
            says = (
                f"Station {station} of setup {setup} stands {abs(where.mean):.3f} mm off in {axis}"
                f" ({low:.3f} to {high:.3f} mm), n = {where.cases}: look at its stop"
            )
            found.append(said.model_copy(update={"says": says}))
    return [*_pick_ups(document, groups), *found]


def _pick_ups(
    document: JobDocument, groups: dict[tuple[int, int, str], list[PartMeasured]]
) -> list[Learned]:
    """How far all stations of a setup stand off alike: its zero, or the machine."""
    setups = document.route.setups if document.route is not None else []
    together: defaultdict[tuple[int, str], list[float]] = defaultdict(list)
    for (setup, _, axis), group in groups.items():
        together[setup, axis].append(-sum(m.off_mm for m in group) / len(group))
    found = []
    for (setup, axis), means in sorted(together.items()):
        far = set(far_out(means))
        kept = [mean for k, mean in enumerate(means) if k not in far]
        if len(kept) < _ENOUGH or setup > len(setups):
            continue
        scatter = pooled_scatter([kept]) or 1e-6
        within = max(setups[setup - 1].accuracy.datum_pickup_mm, 1e-4)
        where = place(kept, within, scatter)
        if where.low <= 0 <= where.high:
            continue
        label = f"All stations of setup {setup} stand off in {axis}"
        why = f"normal about the zero, ±{within:g} mm; {len(kept)} stations"
        item = _learned(f"zero {setup} {axis}", label, None, "mm", 4, 0.0, where, [], why)
        says = (
            f"{label} by {abs(where.mean):.3f} mm: pick the zero up again, or look at the machine"
        )
        found.append(item.model_copy(update={"says": says}))
    return found


def _stations(
    document: JobDocument, stages: dict[int, Stage], cycles: Sequence[CycleDone]
) -> list[StationShare]:
    """Of cycles that were full: which part came from which station is known only there."""
    found = []
    for number, stage in stages.items():
        design = document.result.setups[number - 1].result.designs[0] if document.result else None
        if design is None:
            continue
        each = {s.number: len(design.kinds[s.kind].drawing.places) for s in design.stations}
        full = [c for c in cycles if c.setup == number and c.good + len(c.scrapped) == stage.pieces]
        bad = Counter(station for c in full for station in c.scrapped if station in each)
        total_bad, total = bad.total(), len(full) * sum(each.values())
        for station, parts in sorted(each.items()):
            made = parts * len(full)
            if not made:
                continue
            b = min(bad[station], made)
            low, high = share_between(b, made)
            out = stands_out(b, made, total_bad - b, total - made, len(each))
            found.append(
                StationShare(
                    setup=number,
                    station=station,
                    made=made,
                    scrapped=b,
                    share=b / made,
                    low=low,
                    high=high,
                    stands_out=out,
                )
            )
    return found


def _against(
    stages: dict[int, Stage], cycles: Sequence[CycleDone], loads: Sequence[Loaded]
) -> list[Against]:
    found = []
    for number, stage in stages.items():
        ran = [c.seconds for c in cycles if c.setup == number]
        if ran:
            found.append(_one("A cycle", "s", stage.run_s, ran, number))
        took = [x.seconds / x.parts * stage.pieces for x in loads if x.setup == number]
        if took:
            found.append(_one("Loading a fixture", "s", stage.load_s, took, number))
        own = [c for c in cycles if c.setup == number]
        if own:
            good = [float(c.good) for c in own]
            found.append(_one("Good parts a cycle", "", float(stage.pieces), good, number))
    return found


def _one(what: str, unit: str, planned: float, real: Sequence[float], setup: int) -> Against:
    mean = sum(real) / len(real)
    return Against(what=what, unit=unit, planned=planned, real=mean, cases=len(real), setup=setup)


def _standing_out(
    stations: Sequence[StationShare], learned: Sequence[Learned]
) -> set[tuple[int, int]]:
    """Setup and station of those that are worth a chart of their own."""
    found = {(item.setup, item.station) for item in stations if item.stands_out}
    # what all stations have alike is no station's own
    alike = {item.id.removeprefix("zero "): item.value for item in learned if "zero " in item.id}
    for item in learned:
        if item.contradicts and item.id.startswith("place "):
            _, setup, station, axis = item.id.split()
            if not item.low <= alike.get(f"{setup} {axis}", 0.0) <= item.high:
                found.add((int(setup), int(station)))
    return found


def _charts(
    document: JobDocument,
    cycles: Sequence[CycleDone],
    measured: Sequence[PartMeasured],
    own: set[tuple[int, int]],
) -> list[Chart]:
    found = []
    by_setup: defaultdict[int, list[CycleDone]] = defaultdict(list)
    for cycle in cycles:
        by_setup[cycle.setup].append(cycle)
    for setup, ran in sorted(by_setup.items()):
        if len(ran) > 1:
            values = [c.seconds for c in ran]
            found.append(_chart("Cycle", setup, None, "s", ran, values, None))
    groups: defaultdict[tuple[int, str, str], list[PartMeasured]] = defaultdict(list)
    for item in measured:
        groups[item.setup, item.feature, item.axis].append(item)
    for (setup, feature, axis), items in sorted(groups.items()):
        if len(items) > 1:
            what = f"{feature}, {axis}" if axis else feature
            off = [m.off_mm for m in items]
            tolerance = _tolerance(document, feature)
            found.append(_chart(what, setup, None, "mm", items, off, tolerance))
            for station in sorted(s for where, s in own if where == setup):
                mine = [m for m in items if m.station == station]
                if len(mine) > 1:
                    values = [m.off_mm for m in mine]
                    found.append(_chart(what, setup, station, "mm", mine, values, tolerance))
    return found[:_CHARTS]


def _chart(
    what: str,
    setup: int,
    station: int | None,
    unit: str,
    entries: Sequence[Entry],
    values: list[float],
    tolerance_mm: float | None,
) -> Chart:
    seen = individuals(values)
    able: tuple[float | None, float | None, float | None] = (None, None, None)
    if tolerance_mm is not None and len(values) >= _ENOUGH and len(set(values)) > 1:
        able = capability(values, -tolerance_mm / 2, tolerance_mm / 2)
    return Chart(
        what=what,
        setup=setup,
        station=station,
        unit=unit,
        values=values,
        at=[entry.at for entry in entries],
        centre=seen.centre,
        low=seen.low,
        high=seen.high,
        sigma=seen.sigma,
        signals=seen.signals,
        tolerance_mm=tolerance_mm,
        cpk=able[0],
        cpk_low=able[1],
        cpk_high=able[2],
    )


def _tolerance(document: JobDocument, name: str) -> float | None:
    known: list[Feature] = [f for part in document.job.parts for f in part.features]
    return next((f.tolerance_mm for f in known if f.name == name), None)


def _torques(document: JobDocument, seen: Sequence[Tightened]) -> list[TorqueSeen]:
    found = []
    for setup in sorted({item.setup for item in seen}):
        count = len(document.route.setups) if document.route is not None else 0
        asked = planned_setup(document, setup) if setup <= count else None
        tightened = all_tightened(asked) if asked is not None else []
        wanted = next((t for t in tightened if t.torque_nm is not None), None)
        if wanted is None or wanted.torque_nm is None or wanted.window_nm is None:
            continue
        least, most = wanted.window_nm
        own = [item for item in seen if item.setup == setup]
        off = [(t.station, t.torque_nm) for t in own if not least <= t.torque_nm <= most]
        found.append(
            TorqueSeen(
                setup=setup,
                asked_nm=wanted.torque_nm,
                least_nm=least,
                most_nm=most,
                within=len(own) - len(off),
                off=off,
            )
        )
    return found


def _says(stations: Sequence[StationShare], learned: Sequence[Learned]) -> list[str]:
    said = []
    for item in stations:
        if item.stands_out:
            rest = [s for s in stations if s.setup == item.setup and s.station != item.station]
            said.append(
                f"Station {item.station} of setup {item.setup} stands out: {item.scrapped} of"
                f" {item.made} scrapped; of all the others {sum(s.scrapped for s in rest)} of"
                f" {sum(s.made for s in rest)}."
            )
    said += [f"{item.says}." for item in learned if item.contradicts]
    return said
