"""Where a cut starts from when nobody has said: cutting speed, feed, depth and width by material
and cutter.

All of the order printed in handbooks and makers' tables for coated carbide in ordinary clamping,
from memory; what the maker of a tool states comes first.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, Cutter, CutterKind, CuttingLoad, CuttingRequest
from wedgecraft.core.records.machine import Machine, spindle_at
from wedgecraft.core.records.material import Material

#: Modulus of carbide, MPa, and how thick a mill is at its core, of its diameter; from memory.
_CARBIDE_MPA, _CORE = 580_000.0, 0.8
#: A mill that clears gives at most so much at its end, mm; from memory.
_GIVES_MM = 0.06
#: Of what the spindle has, so much is used.
_SHARE = 0.85
#: So often depth or feed are taken back before a cut is given up; each time by this much.
_TRIES, _LESS = 12, 0.75


@dataclass(frozen=True)
class Row:
    """Cutting speeds in m/min; feed of a mill a tooth and of a drill a turn, as shares of the
    diameter; ``insert_mm``: feed of an insert; ``deep``, ``wide``: of a clearing pass, in
    diameters.
    """

    mill: float
    tooth: float
    insert: float
    insert_mm: float
    drill: float
    turn: float
    ream: float
    tap: float
    deep: float
    wide: float


_ROWS: dict[str, Row] = {
    "aluminium-6061": Row(300, 0.008, 500, 0.15, 120, 0.020, 40, 20, 1.0, 0.4),
    "aluminium-7075": Row(280, 0.008, 450, 0.15, 110, 0.020, 40, 20, 1.0, 0.4),
    "steel-c45": Row(140, 0.006, 180, 0.15, 80, 0.015, 15, 12, 0.7, 0.3),
    "steel-42crmo4": Row(100, 0.005, 140, 0.12, 60, 0.012, 10, 8, 0.6, 0.25),
    "stainless-304": Row(80, 0.005, 120, 0.12, 40, 0.010, 8, 6, 0.5, 0.25),
    "brass-cz121": Row(200, 0.008, 300, 0.15, 120, 0.020, 30, 20, 1.0, 0.4),
    "cast-iron-250": Row(120, 0.007, 160, 0.18, 80, 0.018, 15, 12, 0.8, 0.35),
    "titanium-6al4v": Row(50, 0.005, 50, 0.10, 30, 0.008, 6, 4, 0.4, 0.2),
    "magnesium-az91": Row(400, 0.009, 700, 0.15, 150, 0.020, 50, 25, 1.0, 0.4),
    "acetal": Row(300, 0.010, 400, 0.15, 100, 0.020, 30, 20, 1.0, 0.4),
}
#: Mills of these are inserts in a body.
_INSERTS: tuple[CutterKind, ...] = ("face mill", "fly cutter")


def row_of(work: Material) -> Row:
    """Of a material, or of the one that cuts most like it, by its specific cutting force.

    >>> from wedgecraft.core.records.material import MATERIALS
    >>> row_of(MATERIALS["steel-c45"]).mill
    140
    """
    if work.id in _ROWS:
        return _ROWS[work.id]
    from wedgecraft.core.records.material import MATERIALS

    def off(ident: str) -> float:
        known = MATERIALS[ident]
        return abs(math.log(known.kc11_mpa / work.kc11_mpa)) + abs(
            math.log(known.density_kg_m3 / work.density_kg_m3)
        )

    return _ROWS[min(_ROWS, key=off)]


def speed_m_min(cutter: Cutter, work: Material) -> float:
    """Cutting speed to start from."""
    row = row_of(work)
    if cutter.kind in _INSERTS:
        return row.insert
    by_kind = {"drill": row.drill, "reamer": row.ream, "tap": row.tap, "boring bar": row.drill}
    return by_kind.get(cutter.kind, row.mill)


def feed_mm(cutter: Cutter, work: Material) -> float:
    """Feed a tooth to start from; of a tap nothing: it feeds by its pitch."""
    row = row_of(work)
    if cutter.kind == "tap":
        return 0.0
    if cutter.kind in _INSERTS:
        return row.insert_mm
    if cutter.kind == "drill":
        return row.turn * cutter.diameter_mm / cutter.teeth
    if cutter.kind == "reamer":
        return 2 * row.turn * cutter.diameter_mm / cutter.teeth
    if cutter.kind == "boring bar":
        return 0.08
    if cutter.kind == "slitting saw":
        return 0.01
    return row.tooth * min(cutter.diameter_mm, 20.0)


def turning(cutter: Cutter, work: Material, machine: Machine) -> float:
    """Spindle speed, 1/min, within what the machine has, to two digits, downwards."""
    wanted = min(
        1000 * speed_m_min(cutter, work) / (math.pi * cutter.diameter_mm), machine.spindle_rpm
    )
    grain = 10 ** (math.floor(math.log10(wanted)) - 1)
    return float(math.floor(wanted / grain + 1e-9) * grain)


def reach_mm(cutter: Cutter) -> float:
    """How far below a top it gets: its reach from the holder where that is known."""
    return max(cutter.flute_length_mm, cutter.reach_mm)


def started(cut: Cut, deep_mm: float, work: Material, machine: Machine) -> Cut:
    """The cut with speed, feed and passes to start from, ``deep_mm`` in all; depth or feed are
    taken back until power, torque, and what the cutter gives stay within limits. Raises OutOfRange
    where no depth does.
    """
    tool = cut.tool
    changes: dict[str, Any] = {
        "spindle_rpm": turning(tool, work, machine),
        "feed_per_tooth_mm": _tidy(feed_mm(tool, work)),
    }
    if cut.of.hole:
        found = cut.model_copy(update=changes | {"axial_depth_mm": deep_mm, "passes": 1})
        return _within(found, deep_mm, work, machine, shallower=False)
    deepest = min(deep_mm, tool.flute_length_mm)
    if not cut.of.facing and cut.of.clears:
        deepest = min(deepest, row_of(work).deep * tool.diameter_mm)
    if tool.kind in _INSERTS:
        deepest = min(deepest, 0.5 * tool.flute_length_mm)
    passes = math.ceil(deep_mm / deepest - 1e-9)
    found = cut.model_copy(update=changes | {"axial_depth_mm": deep_mm / passes, "passes": passes})
    return _within(found, deep_mm, work, machine, shallower=True)


def _within(cut: Cut, deep_mm: float, work: Material, machine: Machine, shallower: bool) -> Cut:
    for _ in range(_TRIES):
        if not _too_much(cut, cutting_load(CuttingRequest(material=work, cut=cut)), machine):
            return cut
        if shallower and cut.axial_depth_mm > 0.5:
            passes = math.ceil(deep_mm / (cut.axial_depth_mm * _LESS) - 1e-9)
            cut = cut.model_copy(update={"axial_depth_mm": deep_mm / passes, "passes": passes})
        else:
            cut = cut.model_copy(update={"feed_per_tooth_mm": cut.feed_per_tooth_mm * _LESS})
    raise OutOfRange(
        "cut.tool",
        cut.tool.name,
        f"a cutter that {work.name} can be cut with on {machine.name}: with this one not even"
        " light cuts stay within its power and torque",
    )


def _too_much(cut: Cut, load: CuttingLoad, machine: Machine) -> bool:
    torque, power = spindle_at(machine, cut.spindle_rpm)
    if load.peak_torque_nm > _SHARE * torque or load.mean_power_w > 1000 * _SHARE * power:
        return True
    return not cut.of.hole and gives_mm(cut, load) > _GIVES_MM


def gives_mm(cut: Cut, load: CuttingLoad) -> float:
    """How far a mill bends at its end: a round beam as thick as its core, held where it leaves the
    holder (closed form, any handbook of strength).
    """
    if cut.tool.kind in _INSERTS:
        return 0.0
    length = max(reach_mm(cut.tool), 2.0 * cut.tool.diameter_mm)
    inertia = math.pi * (_CORE * cut.tool.diameter_mm) ** 4 / 64
    return load.in_plane_peak_n * length**3 / (3 * _CARBIDE_MPA * inertia)


def _tidy(value: float) -> float:
    """To two digits."""
    return float(f"{value:.2g}")
