"""Milling: contour, facing, fly cutting, slotting, sawing.

Kienzle's model, tooth by tooth: tangential force on an element of edge at rotation angle phi is
``Ft = kc1.1 * b * h**(1 - mc)`` with uncut chip thickness ``h = fz * sin(phi) * sin(kappa)`` and
edge length ``b = ap / sin(kappa)``. Source: O. Kienzle, "Die Bestimmung von Kräften und Leistungen
an spanenden Werkzeugen", VDI-Z 94 (1952); also in every machining handbook. A fly cutter is a face
mill of one tooth; a slitting saw a thin side mill of many.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, CutChart, CutKind, CuttingLoad, Stories
from wedgecraft.core.records.material import Material

Array = NDArray[np.float64]

_TURN_STEPS = 360
#: Fine enough that the edges of a slice entering and leaving the cut move the peak by well under a
#: percent.
_SLICES = 160
_GAUSS = np.polynomial.legendre.leggauss(64)

KIENZLE = "Kienzle's cutting force model (VDI-Z 94, 1952)"
#: Force normal to the edge per tangential force, sharp edge: of the order 0.3 to 0.5 in handbooks,
#: from memory.
RADIAL_RATIO = 0.4
#: Downward share of the tangential force from a worn or radiused corner; from memory, on the safe
#: side.
PUSH_RATIO = 0.1


@dataclass(frozen=True)
class Arc:
    """Rotation angles between which a tooth cuts, radians; the chip is thickest at a quarter
    turn.
    """

    start: float
    end: float


class Milling(CutKind):
    """What all milling cuts have in common."""

    stories: ClassVar[Stories] = Stories(
        source=KIENZLE,
        force=(
            "largest resultant over one turn of Ft = kc1.1 b h^(1-mc) and Fr = 0.4 Ft, summed over"
            " the teeth engaged"
        ),
        pull="peak tangential force x tan(helix)",
        push="peak tangential force x the larger of 0.1 and 0.4 cos κ",
        power="mean tangential force over one turn x cutting speed",
        torque="peak tangential force x cutter radius",
        chip="feed per tooth x sin κ x (cos φ1 - cos φ2) / (φ2 - φ1) on the arc engaged",
        chip_source="mean of the sine over the arc",
    )

    def width_mm(self, cut: Cut) -> float:
        """Width engaged."""
        return cut.radial_width_mm

    def edge(self, cut: Cut) -> tuple[float, str]:
        """The deepest pass its cutter can take, mm, and what says so."""
        return cut.tool.flute_length_mm, "the cutting length"

    def straight(self, cut: Cut) -> bool:
        """Its teeth enter over their whole height at once."""
        return cut.tool.helix_deg == 0

    def load(self, cut: Cut, work: Material) -> CuttingLoad:
        return milling_load(self, cut, work)

    def chart(self, cut: Cut, work: Material) -> CutChart:
        return milling_chart(self, cut, work)

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        """The ends of the outline in eight directions."""
        return ends_of(shapely.get_coordinates(outline.exterior)[:-1])


def ends_of(ring: Array) -> dict[tuple[float, float], str]:
    """The points of a ring that lie farthest in eight directions, named."""
    angles = 2 * math.pi * np.arange(8) / 8
    ends = np.argmax(ring @ np.stack([np.cos(angles), np.sin(angles)]), axis=0)
    names = ["right", "far right", "far", "far left", "left", "near left", "near", "near right"]
    places: dict[tuple[float, float], str] = {}
    for name, index in zip(names, ends, strict=True):
        at = (float(ring[index][0]), float(ring[index][1]))
        places.setdefault(at, f"at the {name} {'corner' if ' ' in name else 'end'}")
    return places


def arc_of(kind: Milling, cut: Cut) -> Arc:
    """Facing is centred on its width, everything else enters from one side. Raises OutOfRange."""
    width, diameter = kind.width_mm(cut), cut.tool.diameter_mm
    if width > diameter * (1 + 1e-12):
        raise OutOfRange(
            "cut.radial_width_mm", cut.radial_width_mm, f"at most the cutter's {diameter:g} mm"
        )
    if width <= 0:
        raise OutOfRange(
            "cut.radial_width_mm",
            cut.radial_width_mm,
            "more than nothing: how wide the cutter is engaged",
        )
    if kind.facing:
        half = math.asin(min(1.0, width / diameter))
        return Arc(math.pi / 2 - half, math.pi / 2 + half)
    return Arc(0.0, math.acos(max(-1.0, 1 - 2 * width / diameter)))


def milling_load(kind: Milling, cut: Cut, work: Material) -> CuttingLoad:
    """Sum Kienzle's forces over the engaged teeth at every rotation angle. Raises OutOfRange."""
    tool = cut.tool
    longest, said = kind.edge(cut)
    if cut.axial_depth_mm > longest * (1 + 1e-12):
        raise OutOfRange(
            "cut.axial_depth_mm", cut.axial_depth_mm, f"at most {said}, {longest:g} mm"
        )
    if cut.feed_per_tooth_mm <= 0:
        raise OutOfRange("cut.feed_per_tooth_mm", cut.feed_per_tooth_mm, "more than nothing")
    arc = arc_of(kind, cut)
    tangential, force_x, force_y = _over_one_pitch(kind, cut, arc, work)
    peak = float(tangential.max())
    kappa = math.radians(tool.entering_deg)
    speed_mm_s = math.pi * tool.diameter_mm * cut.spindle_rpm / 60
    feed_mm_min = cut.feed_per_tooth_mm * tool.teeth * cut.spindle_rpm
    return CuttingLoad(
        in_plane_peak_n=float(np.hypot(force_x, force_y).max()),
        pull_peak_n=peak * math.tan(math.radians(tool.helix_deg)),
        push_peak_n=peak * max(PUSH_RATIO, RADIAL_RATIO * math.cos(kappa)),
        mean_power_w=_mean_tangential(cut, arc, work) * speed_mm_s / 1000,
        peak_torque_nm=peak * tool.diameter_mm / 2000,
        removal_rate_mm3_min=kind.width_mm(cut) * cut.axial_depth_mm * feed_mm_min,
        feed_rate_mm_min=feed_mm_min,
        cutting_speed_m_min=speed_mm_s * 60 / 1000,
        mean_chip_mm=cut.feed_per_tooth_mm
        * math.sin(kappa)
        * (math.cos(arc.start) - math.cos(arc.end))
        / (arc.end - arc.start),
    )


def milling_chart(kind: Milling, cut: Cut, work: Material) -> CutChart:
    """One turn, in steps of three degrees. Raises OutOfRange."""
    tangential, force_x, force_y = _over_one_pitch(
        kind, cut, arc_of(kind, cut), work, whole_turn=True
    )
    in_plane, torque = np.hypot(force_x, force_y), tangential * cut.tool.diameter_mm / 2000
    steps = len(in_plane)
    return CutChart(
        angle_deg=[360 * k / steps for k in range(steps)],
        in_plane_n=in_plane.round(2).tolist(),
        torque_nm=torque.round(4).tolist(),
    )


def _over_one_pitch(
    kind: Milling, cut: Cut, arc: Arc, work: Material, whole_turn: bool = False
) -> tuple[Array, Array, Array]:
    """Tangential sum and the two in-plane components (N) over one tooth pitch, or over a whole turn
    in 120 steps.
    """
    tool = cut.tool
    straight = kind.straight(cut)
    slices = 1 if straight else 80 if whole_turn else _SLICES
    heights = (np.arange(slices) + 0.5) * cut.axial_depth_mm / slices
    lag = (
        heights
        * (0.0 if straight else math.tan(math.radians(tool.helix_deg)))
        / (tool.diameter_mm / 2)
    )
    pitch = 2 * math.pi / tool.teeth
    if whole_turn:
        rotation = np.linspace(0, 2 * math.pi, 120, endpoint=False)
    else:
        rotation = np.linspace(0, pitch, _TURN_STEPS if tool.teeth <= 24 else 60, endpoint=False)
    # A slice of a tooth cuts while its angle lies on the arc: only the teeth that can be there are
    # looked at.
    phi = (
        rotation[:, None, None] + pitch * np.arange(tool.teeth)[None, :, None] - lag[None, None, :]
    ) % (2 * math.pi)
    sin_kappa = math.sin(math.radians(tool.entering_deg))
    cutting = (phi >= arc.start) & (phi <= arc.end)
    step, _, _ = np.nonzero(cutting)
    there = phi[cutting]
    sine, cosine = np.sin(there), np.cos(there)
    chip = cut.feed_per_tooth_mm * np.maximum(sine, 0.0) * sin_kappa
    edge = cut.axial_depth_mm / sin_kappa / slices
    tangential = work.kc11_mpa * cut.wear_factor * edge * chip ** (1 - work.mc)
    radial = RADIAL_RATIO * sin_kappa * tangential

    def summed(parts: Array) -> Array:
        found: Array = np.bincount(step, parts, minlength=len(rotation)).astype(float)
        return found

    return (
        summed(tangential),
        summed(-tangential * cosine - radial * sine),
        summed(tangential * sine - radial * cosine),
    )


def _mean_tangential(cut: Cut, arc: Arc, work: Material) -> float:
    """Mean over one turn, by Gauss quadrature on the engaged arc: exact for mc = 0, where it must
    equal kc * removal rate.

    The helix only shifts when each slice cuts, so it leaves the mean alone.
    """
    nodes, weights = _GAUSS
    half = (arc.end - arc.start) / 2
    phi = arc.start + half * (nodes + 1)
    sin_kappa = math.sin(math.radians(cut.tool.entering_deg))
    chip = cut.feed_per_tooth_mm * np.sin(phi) * sin_kappa
    one_tooth = float(np.sum(weights * chip ** (1 - work.mc)) * half)
    return (
        work.kc11_mpa
        * cut.wear_factor
        * cut.axial_depth_mm
        / sin_kappa
        * one_tooth
        * cut.tool.teeth
        / (2 * math.pi)
    )
