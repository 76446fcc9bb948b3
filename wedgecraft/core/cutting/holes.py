"""Hole cuts: drilling, reaming, tapping, boring, with Kienzle's specific cutting force.

Torque of a drill ``M = kc f D² / 8``, of a reamer ``M = kc f (D² - d²) / 8``, of a tap ``M = kc P²
D / 8``, boring force ``Fc = kc ap f``: the usual handbook formulas (Tabellenbuch Metall; Paucksch,
Zerspantechnik; from memory). kc = kc1.1 h^-mc at the chip thickness h of one edge. Thrust and pull
are ratios from memory, named below.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from wedgecraft.core.cutting.milling import RADIAL_RATIO
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, CutChart, CuttingLoad
from wedgecraft.core.records.material import Material

#: Thrust of a drill per (kc D f / 2) sin κ: edges about 0.5 to 0.6, the chisel edge as much again;
#: from memory, on the high side.
DRILL_THRUST = 1.0
#: A drill, reamer or tap can screw itself into the part as it breaks through: share of the thrust;
#: from memory.
BREAKTHROUGH = 0.3
#: Feed force per cutting force of a single edge (reaming, boring): 0.3 to 0.5 in handbooks, from
#: memory.
FEED_RATIO = 0.5
#: Axial pull and push of a tap per tangential force at its diameter, synchronised spindle; from
#: memory.
TAP_AXIAL = 0.2
#: Threads in the lead of a tap, common form; share of the pitch that is thread depth (ISO 68: 5/8
#: of 0.866 P).
TAP_LEAD_THREADS, THREAD_DEPTH = 4.0, 0.5413


@dataclass(frozen=True)
class _Hole:
    torque_nmm: float
    chip_mm: float
    push_n: float
    pull_n: float
    in_plane_n: float
    area_mm2: float


def hole_load(cut: Cut, work: Material) -> CuttingLoad:
    """Torque, thrust and, for boring, the turning radial force. Raises OutOfRange."""
    tool = cut.tool
    if cut.axial_depth_mm > tool.flute_length_mm * (1 + 1e-12):
        raise OutOfRange(
            "cut.axial_depth_mm",
            cut.axial_depth_mm,
            f"at most the cutting length, {tool.flute_length_mm:g} mm",
        )
    if cut.kind != "tap" and cut.feed_per_tooth_mm <= 0:
        raise OutOfRange("cut.feed_per_tooth_mm", cut.feed_per_tooth_mm, "more than nothing")
    if cut.kind in ("ream", "bore") and not 0 < cut.radial_width_mm < tool.diameter_mm / 2:
        raise OutOfRange(
            "cut.radial_width_mm",
            cut.radial_width_mm,
            "the stock left on the radius: more than nothing, less than the radius,"
            f" {tool.diameter_mm / 2:g} mm",
        )
    found = {"drill": _drill, "ream": _ream, "tap": _tap, "bore": _bore}[cut.kind](cut, work)
    feed = _feed_per_turn(cut) * cut.spindle_rpm
    return CuttingLoad(
        in_plane_peak_n=found.in_plane_n,
        pull_peak_n=found.pull_n,
        push_peak_n=found.push_n,
        twist_nm=found.torque_nmm / 1000,
        mean_power_w=found.torque_nmm / 1000 * 2 * math.pi * cut.spindle_rpm / 60,
        peak_torque_nm=found.torque_nmm / 1000,
        removal_rate_mm3_min=found.area_mm2 * feed,
        feed_rate_mm_min=feed,
        cutting_speed_m_min=math.pi * tool.diameter_mm * cut.spindle_rpm / 1000,
        mean_chip_mm=found.chip_mm,
    )


def hole_chart(cut: Cut, work: Material) -> CutChart:
    """A hole cut pulls evenly: the same at every angle."""
    load = hole_load(cut, work)
    angles = [3.0 * k for k in range(120)]
    return CutChart(
        angle_deg=angles,
        in_plane_n=[load.in_plane_peak_n] * 120,
        torque_nm=[load.peak_torque_nm] * 120,
    )


def _feed_per_turn(cut: Cut) -> float:
    return cut.tool.pitch_mm if cut.kind == "tap" else cut.feed_per_tooth_mm * cut.tool.teeth


def _kc(cut: Cut, work: Material, chip_mm: float) -> float:
    return work.kc11_mpa * cut.wear_factor * chip_mm**-work.mc


def _drill(cut: Cut, work: Material) -> _Hole:
    diameter, feed = cut.tool.diameter_mm, _feed_per_turn(cut)
    kappa = math.radians(cut.tool.point_deg / 2)
    chip = feed / cut.tool.teeth * math.sin(kappa)
    kc = _kc(cut, work, chip)
    push = DRILL_THRUST * kc * diameter * feed / 2 * math.sin(kappa)
    return _Hole(
        kc * feed * diameter**2 / 8, chip, push, BREAKTHROUGH * push, 0.0, math.pi * diameter**2 / 4
    )


def _ream(cut: Cut, work: Material) -> _Hole:
    outer, feed = cut.tool.diameter_mm, _feed_per_turn(cut)
    inner = outer - 2 * cut.radial_width_mm
    chip = feed / cut.tool.teeth * math.sin(math.radians(45))
    kc = _kc(cut, work, chip)
    push = FEED_RATIO * kc * cut.radial_width_mm * feed
    torque = kc * feed * (outer**2 - inner**2) / 8
    return _Hole(torque, chip, push, BREAKTHROUGH * push, 0.0, math.pi * (outer**2 - inner**2) / 4)


def _tap(cut: Cut, work: Material) -> _Hole:
    diameter, pitch = cut.tool.diameter_mm, cut.tool.pitch_mm
    chip = THREAD_DEPTH * pitch / (TAP_LEAD_THREADS * cut.tool.teeth)
    torque = _kc(cut, work, chip) * pitch**2 * diameter / 8
    axial = TAP_AXIAL * 2 * torque / diameter
    return _Hole(torque, chip, axial, axial, 0.0, math.pi * diameter * THREAD_DEPTH * pitch / 2)


def _bore(cut: Cut, work: Material) -> _Hole:
    feed = _feed_per_turn(cut)
    kappa = math.radians(cut.tool.entering_deg)
    chip = feed / cut.tool.teeth * math.sin(kappa)
    force = _kc(cut, work, chip) * cut.radial_width_mm * feed
    in_plane = force / cut.tool.teeth * math.hypot(1, RADIAL_RATIO)
    area = math.pi * cut.radial_width_mm * (cut.tool.diameter_mm - cut.radial_width_mm)
    return _Hole(
        force * cut.tool.diameter_mm / 2,
        chip,
        FEED_RATIO * force,
        0.0,
        in_plane if cut.tool.teeth == 1 else 0.0,
        area,
    )
