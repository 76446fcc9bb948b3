"""Clamp elements: from what a person sets (screw torque) to the preload on the part, low and
high.
"""

from __future__ import annotations

import math

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.screw import SCREWS, EdgeClamp, Preload, Screw


def screw_preload_n(screw: Screw, torque_nm: float, friction: float) -> float:
    """Axial force of a tightened screw, the long form.

    ``T = F (P / 2 pi + mu d2 / (2 cos 30°) + mu Dkm / 2)``: lead, thread friction and head
    friction. Source: VDI 2230 part 1.
    """
    lead = screw.pitch_mm / (2 * math.pi)
    thread = friction * screw.pitch_diameter_mm / (2 * math.cos(math.radians(30)))
    head = friction * screw.head_mean_diameter_mm / 2
    return torque_nm * 1000 / (lead + thread + head)


def check_screw(clamp: EdgeClamp) -> None:
    """Raises OutOfRange for a torque above the screw's rating, or frictions the wrong way round."""
    screw = SCREWS[clamp.screw]
    if clamp.torque_nm > screw.rated_torque_nm:
        raise OutOfRange(
            "station.clamp.torque_nm",
            clamp.torque_nm,
            f"an {clamp.screw} screw of class 8.8 is rated for {screw.rated_torque_nm:g} N·m; take"
            " a larger screw",
        )
    if clamp.screw_friction_low > clamp.screw_friction_high:
        raise OutOfRange(
            "station.clamp.screw_friction_low",
            clamp.screw_friction_low,
            "at most screw_friction_high",
        )


def edge_clamp_preload(clamp: EdgeClamp) -> Preload:
    """Low: least torque, highest friction. High: most torque, lowest friction. Raises OutOfRange
    above the screw's rating.
    """
    down = math.radians(clamp.down_angle_deg)
    low, high = (force * clamp.transmission for force in screw_forces_n(clamp))
    return Preload(low * math.cos(down), high * math.cos(down), low * math.sin(down))


def screw_forces_n(clamp: EdgeClamp) -> tuple[float, float]:
    """Axial force of the clamp's screw, low and high. Raises OutOfRange above its rating."""
    check_screw(clamp)
    screw, (least, most) = SCREWS[clamp.screw], scattered(clamp.torque_nm, clamp.torque_scatter)
    return (
        screw_preload_n(screw, least, clamp.screw_friction_high),
        screw_preload_n(screw, most, clamp.screw_friction_low),
    )


def scattered(value: float, share: float) -> tuple[float, float]:
    """The least and the most a value comes to: a torque, a force, off by this share either way."""
    return value * (1 - share), value * (1 + share)


#: The nut factor of the short form; the usual value for dry steel, from memory.
NUT_FACTOR = 0.2


def short_form_n(torque_nm: float, nominal_mm: float, nut_factor: float = NUT_FACTOR) -> float:
    """Axial force of a tightened screw, ``F = T / (K d)``.

    Source: any handbook of machine design; K lumps pitch and frictions.
    """
    return torque_nm * 1000 / (nut_factor * nominal_mm)
