"""Stiffness and pressure of a touching patch: a punch on a half-space, a line of contact by
Hertz.
"""

from __future__ import annotations

import math

from wedgecraft.core.records.material import POISSON

#: Average pressure, as a multiple of yield, at which a surface gives way in full under a blunt
#: body: Tabor, "The Hardness of Metals", 1951.
SINKS_IN = 2.8


def patch_stiffness(area_mm2: float, youngs_mpa: float, other_mpa: float) -> float:
    """Of a patch between two bodies, N/mm."""
    together = 1 / ((1 - POISSON**2) / youngs_mpa + (1 - POISSON**2) / other_mpa)
    return 2 * math.sqrt(area_mm2 / math.pi) * together


def hertz_line(
    force_n: float, length_mm: float, radius_mm: float, youngs_mpa: float, other_mpa: float
) -> tuple[float, float]:
    """Half the width (mm) and the peak pressure (MPa) where a cylinder lies on a flat. Source:
    Hertz 1882; Johnson 1985, 4.2.
    """
    together = 1 / ((1 - POISSON**2) / youngs_mpa + (1 - POISSON**2) / other_mpa)
    half = math.sqrt(4 * force_n * radius_mm / (math.pi * length_mm * together))
    return half, 2 * force_n / (math.pi * half * length_mm)
