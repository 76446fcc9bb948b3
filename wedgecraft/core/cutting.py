"""Cutting load of a milling cut (engine: cutting load).

Kienzle's model, tooth by tooth: tangential force on an element of edge of height db at rotation angle phi is
``Ft = kc1.1 * db * h**(1 - mc)`` with uncut chip thickness ``h = fz * sin(phi) * sin(kappa)``. Source: O. Kienzle, "Die
Bestimmung von Kräften und Leistungen an spanenden Werkzeugen", VDI-Z 94 (1952); also in every machining handbook.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.materials import material
from wedgecraft.core.model import Document, Text
from wedgecraft.core.units import Length

_TURN_STEPS = 360
#: Fine enough that the edges of a slice entering and leaving the cut move the peak by well under a percent.
_SLICES = 160
_GAUSS = np.polynomial.legendre.leggauss(64)


class EndMill(Document):
    """A cylindrical cutter with straight entering angle (kappa 90 degrees)."""

    diameter_mm: Annotated[Length, Field(gt=0, le=200)]
    teeth: Annotated[int, Field(ge=1, le=24)]
    helix_deg: Annotated[float, Field(ge=0, le=60)] = 30
    flute_length_mm: Annotated[Length, Field(gt=0, le=300)] = 30


class MillingCut(Document):
    """One cut: where it goes, how deep, how wide, how fast.

    ``path``: ``around`` follows the outline on the outside, ``across`` faces the top. ``radial_width_mm`` is the engagement
    ae, ``axial_depth_mm`` the engagement ap.
    """

    name: Text = "T1 contour"
    path: Literal["around", "across"] = "around"
    tool: EndMill
    axial_depth_mm: Annotated[Length, Field(gt=0, le=200)]
    radial_width_mm: Annotated[Length, Field(gt=0, le=200)]
    feed_per_tooth_mm: Annotated[Length, Field(gt=0, le=2)]
    spindle_rpm: Annotated[float, Field(gt=0, le=60_000)]
    wear_factor: Annotated[float, Field(ge=1, le=2.5)] = 1.3
    interrupted: bool = False


class CuttingRequest(Document):
    """Input of ``compute cutting``: a cut in a material."""

    material: Text
    cut: MillingCut


class CuttingLoad(Document):
    """What a cut puts on the part and the spindle.

    ``in_plane_peak_n`` is the largest resultant in the plate's plane over one turn; ``pull_peak_n`` lifts the part towards the
    spindle (right-hand helix), ``push_peak_n`` presses it down.
    """

    in_plane_peak_n: float
    pull_peak_n: float
    push_peak_n: float
    mean_power_w: float
    peak_torque_nm: float
    removal_rate_mm3_min: float
    feed_rate_mm_min: float
    cutting_speed_m_min: float
    mean_chip_mm: float


#: Radial to tangential force, sharp edge: of the order 0.3 to 0.5 in handbooks, from memory.
RADIAL_RATIO = 0.4
#: Downward share of the tangential force from a worn or radiused corner; from memory, on the safe side.
PUSH_RATIO = 0.1


@dataclass(frozen=True)
class _Engagement:
    start: float
    end: float


def cutting_load(request: CuttingRequest) -> CuttingLoad:
    """Sum Kienzle's forces over the engaged teeth at every rotation angle. Raises OutOfRange."""
    cut, tool = request.cut, request.cut.tool
    work = material(request.material)
    if cut.radial_width_mm > tool.diameter_mm:
        raise OutOfRange("cut.radial_width_mm", cut.radial_width_mm, f"at most the cutter's {tool.diameter_mm:g} mm")
    if cut.axial_depth_mm > tool.flute_length_mm:
        raise OutOfRange("cut.axial_depth_mm", cut.axial_depth_mm, f"at most the flute length, {tool.flute_length_mm:g} mm")
    arc = _Engagement(0.0, math.acos(max(-1.0, 1 - 2 * cut.radial_width_mm / tool.diameter_mm)))
    kc = work.kc11_mpa * cut.wear_factor
    tangential, force_x, force_y = _over_one_turn(cut, arc, kc, work.mc)
    speed_mm_s = math.pi * tool.diameter_mm * cut.spindle_rpm / 60
    feed_mm_min = cut.feed_per_tooth_mm * tool.teeth * cut.spindle_rpm
    helix = math.radians(tool.helix_deg)
    return CuttingLoad(
        in_plane_peak_n=float(np.hypot(force_x, force_y).max()),
        pull_peak_n=float(tangential.max() * math.tan(helix)),
        push_peak_n=float(tangential.max() * PUSH_RATIO),
        mean_power_w=_mean_tangential(cut, arc, kc, work.mc) * speed_mm_s / 1000,
        peak_torque_nm=float(tangential.max() * tool.diameter_mm / 2000),
        removal_rate_mm3_min=cut.radial_width_mm * cut.axial_depth_mm * feed_mm_min,
        feed_rate_mm_min=feed_mm_min,
        cutting_speed_m_min=speed_mm_s * 60 / 1000,
        mean_chip_mm=cut.feed_per_tooth_mm * (1 - math.cos(arc.end)) / arc.end,
    )


def _over_one_turn(
    cut: MillingCut, arc: _Engagement, kc_mpa: float, mc: float
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Tangential sum and the two in-plane components (N) at ``_TURN_STEPS`` rotation angles over one tooth pitch."""
    tool = cut.tool
    slices = 1 if tool.helix_deg == 0 else _SLICES
    heights = (np.arange(slices) + 0.5) * cut.axial_depth_mm / slices
    lag = heights * math.tan(math.radians(tool.helix_deg)) / (tool.diameter_mm / 2)
    pitch = 2 * math.pi / tool.teeth
    rotation = np.linspace(0, pitch, _TURN_STEPS, endpoint=False)
    phi = (rotation[:, None, None] + pitch * np.arange(tool.teeth)[None, :, None] - lag[None, None, :]) % (2 * math.pi)
    chip = np.where(phi <= arc.end, cut.feed_per_tooth_mm * np.sin(np.clip(phi, 0, math.pi)), 0.0)
    tangential = kc_mpa * (cut.axial_depth_mm / slices) * chip ** (1 - mc)
    radial = RADIAL_RATIO * tangential
    force_x = -tangential * np.cos(phi) - radial * np.sin(phi)
    force_y = tangential * np.sin(phi) - radial * np.cos(phi)
    axes = (1, 2)
    return tangential.sum(axis=axes), force_x.sum(axis=axes), force_y.sum(axis=axes)


def _mean_tangential(cut: MillingCut, arc: _Engagement, kc_mpa: float, mc: float) -> float:
    """Mean over one turn, by Gauss quadrature on the engaged arc: exact for mc = 0, where it must equal kc * removal rate.

    The helix only shifts when each slice cuts, so it leaves the mean alone.
    """
    nodes, weights = _GAUSS
    half = (arc.end - arc.start) / 2
    phi = arc.start + half * (nodes + 1)
    chip = cut.feed_per_tooth_mm * np.sin(phi)
    one_tooth = float(np.sum(weights * chip ** (1 - mc)) * half)
    return kc_mpa * cut.axial_depth_mm * one_tooth * cut.tool.teeth / (2 * math.pi)
