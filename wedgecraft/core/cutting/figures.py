"""The story of every number of a cut: formula, inputs, source."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

from shapely.geometry import Polygon

from wedgecraft.core.cutting.load import cutting_chart, cutting_load
from wedgecraft.core.cutting.path import cut_path, cut_seconds
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.field_words import sentence
from wedgecraft.core.ground.limits import Figure, FigureInput
from wedgecraft.core.records.cut import Cut, CutChart, CuttingLoad, CuttingRequest
from wedgecraft.core.records.machine import Machine, spindle_at
from wedgecraft.core.records.material import Material

_TYPED = "this job"


class CutAnswer(Document):
    """What is known of one cut: its load, seconds, one turn of it, and the story of each number; or
    why there is none.

    ``spindle_torque_nm`` and ``spindle_power_kw``: what the machine has at this speed, nothing
    where no machine is known yet; ``over``: the cut asks for more.
    """

    name: str
    kind: str
    load: CuttingLoad | None = None
    seconds: float | None = None
    chart: CutChart | None = None
    figures: list[Figure] = []
    wrong_field: str | None = None
    wrong: str | None = None
    spindle_torque_nm: float | None = None
    spindle_power_kw: float | None = None
    over: str | None = None


@dataclass(frozen=True)
class _Asked:
    """What an answer depends on; told apart by how it is written down."""

    cut: Cut = field(compare=False)
    work: Material = field(compare=False)
    outline: Polygon = field(compare=False)
    machine: Machine | None = field(compare=False)
    written: tuple[str, str, bytes, str]


def cut_answer(cut: Cut, work: Material, outline: Polygon, machine: Machine | None) -> CutAnswer:
    """Never raises for a cut that cannot be: the answer says which field and why. Kept for as long
    as the same is asked.
    """
    written = (
        cut.model_dump_json(),
        work.model_dump_json(),
        outline.wkb,
        machine.model_dump_json() if machine is not None else "",
    )
    return _answered(_Asked(cut, work, outline, machine, written))


@lru_cache(maxsize=400)
def _answered(asked_of: _Asked) -> CutAnswer:
    cut, work, outline, machine = asked_of.cut, asked_of.work, asked_of.outline, asked_of.machine
    asked = CuttingRequest(material=work, cut=cut)
    try:
        load = cutting_load(asked)
        seconds = cut_seconds(cut, outline, load)
        figures = [*load_figures(cut, work, load), seconds_figure(cut, outline, load, seconds)]
    except OutOfRange as error:
        return cut_wrong(cut, error)
    answer = CutAnswer(
        name=cut.name,
        kind=cut.kind,
        load=load,
        seconds=seconds,
        chart=cutting_chart(asked),
        figures=figures,
    )
    if machine is None:
        return answer
    torque, power = spindle_at(machine, cut.spindle_rpm)
    over = _over(cut, load, machine, torque, power)
    spindle = {"spindle_torque_nm": torque, "spindle_power_kw": power, "over": over}
    return answer.model_copy(update=spindle)


def cut_wrong(cut: Cut, error: OutOfRange) -> CutAnswer:
    """The answer for a cut that cannot be."""
    why = OutOfRange(error.field.removeprefix("cut."), error.value, error.allowed)
    return CutAnswer(name=cut.name, kind=cut.kind, wrong_field=error.field, wrong=sentence(why))


def _over(
    cut: Cut, load: CuttingLoad, machine: Machine, torque_nm: float, power_kw: float
) -> str | None:
    """What the spindle does not have."""
    at = f"at {cut.spindle_rpm:g} 1/min"
    if cut.spindle_rpm > machine.spindle_rpm:
        return f"the spindle turns at most {machine.spindle_rpm:g} 1/min"
    if load.peak_torque_nm > torque_nm:
        return f"takes {load.peak_torque_nm:.1f} N·m, the spindle has {torque_nm:.3g} {at}"
    if load.mean_power_w / 1000 > power_kw:
        return f"takes {load.mean_power_w / 1000:.2f} kW, the spindle has {power_kw:.3g} {at}"
    return None


def _in(name: str, value: float, unit: str = "", source: str = _TYPED) -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)


def load_figures(cut: Cut, work: Material, load: CuttingLoad) -> list[Figure]:
    """Force, pull, push, twist, power, torque, chip, feed of one cut."""
    tool, kind = cut.tool, cut.of
    told = kind.stories
    kienzle = [
        _in("kc1.1", work.kc11_mpa, "MPa", work.source),
        _in("mc", work.mc, "", work.source),
        _in("wear factor", cut.wear_factor),
    ]
    chip = [
        *kienzle,
        _in("feed per tooth", cut.feed_per_tooth_mm, "mm"),
        _in("axial depth", cut.axial_depth_mm, "mm"),
        _in("radial width", cut.radial_width_mm, "mm"),
        _in("teeth", tool.teeth),
        _in("cutter diameter", tool.diameter_mm, "mm"),
        _in("entering angle", tool.entering_deg, "°"),
    ]
    pitch = [_in("thread pitch", tool.pitch_mm, "mm")] if kind.by_pitch else []
    chip += pitch
    helix = [_in("helix", tool.helix_deg, "°")]
    return [
        Figure(
            id="force",
            label="Peak force in the plane",
            value=load.in_plane_peak_n,
            unit="N",
            digits=0,
            formula=told.force,
            inputs=chip,
            source=told.source,
        ),
        Figure(
            id="pull",
            label="Peak pull on the part",
            value=load.pull_peak_n,
            unit="N",
            digits=0,
            formula=told.pull,
            inputs=[*helix, *chip],
            source=told.source,
        ),
        Figure(
            id="push",
            label="Peak push on the part",
            value=load.push_peak_n,
            unit="N",
            digits=0,
            formula=told.push,
            inputs=chip,
            source=told.source,
        ),
        Figure(
            id="power",
            label="Spindle power",
            value=load.mean_power_w / 1000,
            unit="kW",
            formula=told.power,
            inputs=[
                *chip,
                _in(
                    "cutting speed", load.cutting_speed_m_min, "m/min", "diameter and spindle speed"
                ),
            ],
            source=told.source,
        ),
        Figure(
            id="spindle_torque",
            label="Spindle torque",
            value=load.peak_torque_nm,
            unit="N·m",
            formula=told.torque,
            inputs=chip,
            source=told.source,
        ),
        Figure(
            id="chip",
            label="Mean chip thickness",
            value=load.mean_chip_mm,
            unit="mm",
            digits=3,
            formula=told.chip,
            inputs=chip[3:],
            source=told.chip_source,
        ),
        Figure(
            id="speed",
            label="Cutting speed",
            value=load.cutting_speed_m_min,
            unit="m/min",
            digits=0,
            formula="π x diameter x spindle speed",
            inputs=[
                _in("diameter", tool.diameter_mm, "mm"),
                _in("spindle speed", cut.spindle_rpm, "1/min"),
            ],
            source="arithmetic",
        ),
        Figure(
            id="feed",
            label="Feed rate",
            value=load.feed_rate_mm_min,
            unit="mm/min",
            digits=0,
            formula=told.feed,
            inputs=[
                *(pitch or [_in("feed per tooth", cut.feed_per_tooth_mm, "mm")]),
                _in("teeth", tool.teeth),
                _in("spindle speed", cut.spindle_rpm, "1/min"),
            ],
            source="arithmetic",
        ),
    ]


def seconds_figure(cut: Cut, outline: Polygon, load: CuttingLoad, seconds: float) -> Figure:
    """Where the seconds of a cut come from."""
    common = {
        "id": "seconds",
        "label": f"Seconds of {cut.name}"[:120],
        "value": seconds,
        "unit": "s",
        "digits": 1,
    }
    if cut.seconds is not None:
        return Figure(
            **common,
            formula="as typed",
            inputs=[_in("seconds", cut.seconds, "s")],
            source="this job",
        )
    typed = bool(cut.path_mm)
    path = _in(
        "path",
        cut.path_mm or cut_path(cut, outline).length_mm,
        "mm",
        _TYPED if typed else "outline, places and passes",
    )
    return Figure(
        **common,
        formula="path of the cutter's axis / feed rate; no rapids, no tool change",
        inputs=[
            path,
            _in("feed rate", load.feed_rate_mm_min, "mm/min", "feed per tooth x teeth x speed"),
        ],
        source="arithmetic",
    )
