"""The setter's sheet of one setup: pictures, loading, torques, zeros, tools, what to measure, what
to lift, what to look at before the start.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.floor.lift import Lift, multipliers, weight_limit_kg
from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.ground.planar import turned
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.fasteners import THREADS
from wedgecraft.core.program.tooling import cutters_of, out_mm
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.program import SetupProgram
from wedgecraft.core.records.setup_sheet import (
    Heavy,
    Measure,
    SetupSheet,
    SheetFace,
    SheetStation,
    SheetTool,
    Tightened,
)

#: Below these tolerances a part is measured with better than a caliper, than a micrometer, mm;
#: common practice, from memory.
_CALIPER_MM, _MICROMETER_MM = 0.1, 0.02
#: How things are lifted where nobody has said: 40 cm in front, at 75 cm, by 25 cm, seldom.
_USUAL = Lift()
_CHECKS = (
    "Stops, jaws, plate and what they stand on are clean; the plate lies as its marks say.",
    "Every tool is measured after it went in, and its length read back against this sheet.",
    "Offsets are read back from the control against this sheet, every digit of Z first.",
    "First part: single block, rapid turned down, a hand at feed hold, clear of the part first.",
    "Doors shut, coolant aimed, chips of the last job gone.",
)
#: A wrench is right within so much: ISO 6789 allows 4 % or 6 % by its class, from memory.
_WRENCH = 0.06


def sheet_of(
    asked: Asked,
    found: SetupProgram,
    *,
    job: str,
    quantity: int,
    setups: int,
    current: bool,
    cautions: Sequence[str],
) -> SetupSheet:
    """``found``: its zeros and its program as it was tried; ``current``: the job is as planned."""
    design, request = asked.design, asked.request
    tried, program = found.tried, found.program
    return SetupSheet(
        job=job,
        setup=asked.number,
        setups=setups,
        version=design.mark,
        current=current,
        machine=request.machine.name,
        form=design.form,
        parts_a_cycle=design.count,
        quantity=quantity,
        copies=asked.copies,
        faces=[_face(asked, face) for face in range(request.block.faces)],
        loading=_loading(asked),
        tightened=all_tightened(asked),
        zeros=found.table.zeros if found.table is not None else [],
        zero_notes=[*found.table.notes, *found.table.doubts] if found.table is not None else [],
        tools=_tools(asked, found),
        remove=_removed(asked, found),
        program=program.text.split("\n", 2)[1] if program is not None else "",
        lines=program.text.count("\n") if program is not None else 0,
        seconds=found.programmed_s,
        accepted=tried.accepted if program is not None and tried is not None else None,
        wrong=sum(f.stands is False for f in tried.findings) if program and tried else 0,
        exceeded=[item.label for item in design.limits if item.state == "over"],
        first_article=_measures(asked),
        heavy=_heavy(asked),
        checks=list(_CHECKS),
        cautions=list(cautions),
    )


def _face(asked: Asked, face: int) -> SheetFace:
    plate, names = asked.request.plate, asked.design.faces
    return SheetFace(
        name=names[face] if face < len(names) else "",
        width_mm=plate.width_mm,
        depth_mm=plate.depth_mm,
        stations=[_station(asked, station) for station in asked.on_face(face)],
    )


def _station(asked: Asked, station: PlacedStation) -> SheetStation:
    kind = asked.design.kinds[station.kind]
    drawing = kind.drawing

    def put(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
        found = turned(np.asarray(points, dtype=float), station.turn)
        return [
            (round(float(x) + station.x_mm, 2), round(float(y) + station.y_mm, 2)) for x, y in found
        ]

    parts: list[Rings] = drawing.parts or [drawing.part]
    middles = np.array([Polygon(part[0]).centroid.coords[0] for part in parts]).mean(axis=0)
    return SheetStation(
        number=station.number,
        op=kind.op_number,
        turn=station.turn,
        at_mm=put([(float(middles[0]), float(middles[1]))])[0],
        parts=[[put(ring) for ring in part] for part in parts],
        corners_mm=put([(place.x_mm, place.y_mm) for place in drawing.places]),
        stops=[put(ring) for ring in drawing.stops],
        clamps=[put(ring) for ring in drawing.clamps],
        screws_mm=put(drawing.screws) if drawing.screws else [],
    )


def _loading(asked: Asked) -> list[str]:
    numbers: dict[int, list[int]] = {}
    for station in asked.design.stations:
        numbers.setdefault(station.kind, []).append(station.number)
    found = ["Blow chips off stops, clamps and what parts stand on; wipe them by hand."]
    for kind, own in numbers.items():
        op = asked.design.kinds[kind].op_number
        name = asked.kinds[kind].sitting.part.name
        where = f"station {own[0]}" if len(own) == 1 else f"stations {_ranges(own)}"
        found.append(
            f"{name}, op {op}: {where}, in the order of their numbers. Datum corner to the filled"
            " wedge: onto the floor first, then to both stops."
        )
    found.append("Press on each part by hand: none rocks, no stop shows light.")
    return found


def _ranges(numbers: Sequence[int]) -> str:
    found: list[list[int]] = []
    for number in sorted(numbers):
        if found and number == found[-1][-1] + 1:
            found[-1].append(number)
        else:
            found.append([number])
    return ", ".join(str(r[0]) if len(r) == 1 else f"{r[0]} to {r[-1]}" for r in found)


def all_tightened(asked: Asked) -> list[Tightened]:
    """Ops that are tightened alike on one line."""
    found: list[Tightened] = []
    for kind in range(len(asked.kinds)):
        own = _tightened(asked, kind)
        same = next((k for k, i in enumerate(found) if _bare(i) == _bare(own)), None)
        if same is None:
            found.append(own)
        else:
            ops = sorted({*found[same].ops, *own.ops})
            found[same] = found[same].model_copy(update={"ops": ops})
    return found


def _bare(item: Tightened) -> Tightened:
    return item.model_copy(update={"ops": []})


def _tightened(asked: Asked, kind: int) -> Tightened:
    station = asked.kinds[kind].view.station
    element, clamp = station.element, station.clamp
    screw = element.turned(clamp)
    thread = THREADS.get(screw or "")
    each = max(1, len(asked.kinds[kind].station.screws) // len(asked.kinds[kind].station.members))
    torque = clamp.torque_nm if element.driven else None
    steps = ["all by hand until they touch"]
    if torque is not None:
        steps += [
            "then each to its torque with the wrench, in the order of the numbers",
            "then every one once more: the first ones give as the last are tightened",
        ]
    return Tightened(
        ops=[asked.kinds[kind].sitting.op.number],
        what=", ".join(filter(None, (element.kind, screw))),
        key=f"hexagon key {thread.key_mm:g}" if thread is not None else element.drive,
        torque_nm=torque,
        window_nm=None if torque is None else (torque * (1 - _WRENCH), torque * (1 + _WRENCH)),
        each_part=each,
        steps=steps,
    )


def _tools(asked: Asked, found: SetupProgram) -> list[SheetTool]:
    numbers = found.program.tools if found.program is not None else []
    table = {tool.number: tool for tool in asked.request.machine.tools}
    cutters = cutters_of(asked)
    tools = []
    for number in sorted(set(numbers)):
        tool, cutter = table.get(number), cutters.get(number)
        reach = None if cutter is None else out_mm(cutter)
        holder = tool.holder if tool is not None else None
        length = None if holder is None or reach is None else holder.gauge_length_mm + reach
        tools.append(
            SheetTool(
                number=number,
                cutter=(cutter.name or f"{cutter.kind} {cutter.diameter_mm:g}") if cutter else "",
                holder=holder.name if holder is not None else "",
                length_mm=length,
                reach_mm=reach,
                there=tool is not None,
            )
        )
    return tools


def _removed(asked: Asked, found: SetupProgram) -> list[str]:
    """Which to take out where the magazine has no room for those that are missing."""
    machine = asked.request.machine
    needed = set(found.program.tools) if found.program is not None else set()
    stored = {tool.number for tool in machine.tools}
    over = len(stored | needed) - machine.magazine
    spare = [tool for tool in machine.tools if tool.number not in needed]
    return [f"T{tool.number} {tool.cutter.name}".strip() for tool in spare[: max(0, over)]]


def _measures(asked: Asked) -> list[Measure]:
    """Of each op what uses most of its tolerance, station by station the worst."""
    found: dict[tuple[int, str], Measure] = {}
    share: dict[tuple[int, str], float] = {}
    for station in asked.design.stations:
        if not station.feature:
            continue
        ready = asked.kinds[station.kind]
        key = station.kind, station.feature
        if station.tolerance_share <= share.get(key, -1.0):
            continue
        share[key] = station.tolerance_share
        tolerance = next(
            (f.tolerance_mm for f in ready.sitting.part.features if f.name == station.feature), None
        )
        found[key] = Measure(
            op=ready.sitting.op.number,
            feature=station.feature,
            tolerance_mm=tolerance,
            expected_mm=station.probable_mm,
            station=station.number,
            with_what=_with_what(tolerance),
        )
    return list(found.values())


def _with_what(tolerance_mm: float | None) -> str:
    if tolerance_mm is None or tolerance_mm >= _CALIPER_MM:
        return "caliper"
    return "micrometer or bore gauge" if tolerance_mm >= _MICROMETER_MM else "measuring machine"


def _heavy(asked: Asked) -> list[Heavy]:
    """What is heavier than a part."""
    masses = asked.kinds[0].masses
    block = asked.request.block
    stations = len(asked.on_face(0))
    things = [("a part", max(kind.masses.part_kg for kind in asked.kinds))]
    if not asked.request.station.element.up_mm:
        things.append(("the plate, bare", masses.plate_kg))
        things.append(("the plate, loaded", masses.plate_kg + stations * masses.station_kg))
    if block.body_kg:
        things.append(("the block, without plates", block.body_kg))
    limit, factors = weight_limit_kg(_USUAL), multipliers(_USUAL)
    return [
        Heavy(what=what, kg=kg, limit_kg=limit, multipliers=factors, by_hand=kg <= limit)
        for what, kg in things
    ]
