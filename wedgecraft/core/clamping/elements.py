"""Clamp elements beside the edge clamp: how the force of a screw, a handle or a pump reaches the
part, low and high.

On a station the screw, its torque and its scatter are the edge clamp's fields, the same for every
kind; an element says what becomes of the screw's force. Low: least torque, highest friction. High:
most torque, lowest friction.
"""

from __future__ import annotations

import math

from wedgecraft.core.clamping.screw import check_screw, edge_clamp_preload, screw_preload_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.element import (
    ClampForces,
    ClampRequest,
    Dovetail,
    EdgeToe,
    Element,
    ElementKind,
    ExpandingPin,
    PullStud,
    Strap,
    ToothedToe,
    Vacuum,
    ViseForce,
)
from wedgecraft.core.records.screw import SCREWS, EdgeClamp, Preload

#: The nut factor of the short form; the usual value for dry steel, from memory.
NUT_FACTOR = 0.2


def short_form_n(torque_nm: float, nominal_mm: float, nut_factor: float = NUT_FACTOR) -> float:
    """Axial force of a tightened screw, ``F = T / (K d)``. Source: any handbook of machine design;
    K lumps pitch and frictions.
    """
    return torque_nm * 1000 / (nut_factor * nominal_mm)


def clamp_forces(request: ClampRequest) -> ClampForces:
    """What an element gives. Raises OutOfRange above a rating, or for a vacuum without its area."""
    clamp = request.clamp
    if isinstance(clamp, ViseForce):
        low, high = vise_force_n(clamp)
        return ClampForces(
            low_n=low,
            high_n=high,
            seating_n=0,
            way="squeezes from both sides",
            formula="F = rated force x torque / rated torque",
        )
    edge = EdgeClamp(
        screw=clamp.screw,
        torque_nm=clamp.torque_nm,
        torque_scatter=clamp.torque_scatter,
        screw_friction_low=clamp.friction_low,
        screw_friction_high=clamp.friction_high,
        transmission=clamp.transmission,
        down_angle_deg=clamp.down_angle_deg,
    )
    if isinstance(clamp.element, Vacuum) and clamp.area_mm2 is None:
        raise OutOfRange("clamp.area_mm2", "nothing", "the area inside the seal, mm2")
    preload = element_preload(edge, clamp.element, clamp.area_mm2 or 0.0)
    way, formula = ACTS[clamp.element.kind]
    if isinstance(clamp.element, Vacuum):
        return ClampForces(
            low_n=preload.low_n, high_n=preload.high_n, seating_n=0, way=way, formula=formula
        )
    low, high = screw_forces_n(edge)
    return ClampForces(
        low_n=preload.low_n,
        high_n=preload.high_n,
        seating_n=preload.seating_n,
        way=way,
        formula=formula,
        screw_low_n=low,
        screw_high_n=high,
        short_form_n=short_form_n(edge.torque_nm, SCREWS[edge.screw].nominal_mm),
    )


def vise_force_n(vise: ViseForce) -> tuple[float, float]:
    """Low and high. Raises OutOfRange above the handle torque it is rated for."""
    if vise.torque_nm > vise.rated_torque_nm:
        raise OutOfRange(
            "clamp.torque_nm",
            vise.torque_nm,
            f"at most the vise's rating, {vise.rated_torque_nm:g} N·m",
        )
    force = vise.rated_force_n * vise.torque_nm / vise.rated_torque_nm
    return force * (1 - vise.scatter), force * (1 + vise.scatter)


def screw_forces_n(clamp: EdgeClamp) -> tuple[float, float]:
    """Axial force of the clamp's screw, low and high. Raises OutOfRange above its rating."""
    check_screw(clamp)
    screw = SCREWS[clamp.screw]
    return (
        screw_preload_n(
            screw, clamp.torque_nm * (1 - clamp.torque_scatter), clamp.screw_friction_high
        ),
        screw_preload_n(
            screw, clamp.torque_nm * (1 + clamp.torque_scatter), clamp.screw_friction_low
        ),
    )


#: What each element does to the part, and how its force follows from the screw's.
ACTS: dict[ElementKind, tuple[str, str]] = {
    "edge clamp": ("pushes sideways and slightly down", "toe force = screw force x transmission"),
    "toothed insert": (
        "bites sideways and slightly down",
        "toe force = screw force x transmission",
    ),
    "strap": ("presses down at its nose", "nose force = screw force x heel / (heel + nose)"),
    "expanding pin": (
        "spreads in a hole, each of six segments",
        "force of a segment = screw force / (6 tan(angle + rho))",
    ),
    "dovetail": (
        "presses in and down on the flank",
        "flank force = screw force x transmission / (sin flank + mu cos flank)",
    ),
    "pull stud": ("pulls down", "pull = screw force x ratio"),
    "threaded rod": ("presses down round the hole", "washer force = screw force"),
    "vacuum": ("presses down all over", "force = area inside the seal x share sealed x vacuum"),
}
SEGMENTS = 6
#: What each element asks of people, besides what every screw does.
CAUTIONS: dict[ElementKind, str] = {
    "vacuum": (
        "Vacuum is stored energy: a leak or a stopped pump lets everything go at once. Interlock"
        " the pump with the machine as its builder says, and read the gauge before every cycle."
    ),
    "toothed insert": "Teeth mark the part: only on faces that are cut off later.",
    "strap": "A strap stands over the part: check every rapid against it in single block.",
    "expanding pin": "Spread only in the part: a sleeve spread in the open can be overstretched.",
    "pull stud": (
        "Studs wear: replace them by their maker's count, and look at the threads in the part."
    ),
    "threaded rod": (
        "Nut and rod stand over the part: check every rapid against them in single block."
    ),
}


def element_preload(clamp: EdgeClamp, element: Element, sealed_mm2: float = 0.0) -> Preload:
    """What each press of an element gets, normal to the part, low and high; ``sealed_mm2``: area
    inside a vacuum's seal.

    Strap: lever about its heel. Expanding pin: cone of half angle a with friction rho, shared by
    its segments. Dovetail: the pushed flank lies against the leaning side, friction on it hinders
    at the low end. Sources: statics of lever and wedge, any handbook of mechanics. Raises
    OutOfRange.
    """
    if isinstance(element, Vacuum):
        if element.low_kpa > element.high_kpa:
            raise OutOfRange("station.element.low_kpa", element.low_kpa, "at most high_kpa")
        area = sealed_mm2 * element.sealed_share
        return Preload(area * element.low_kpa / 1000, area * element.high_kpa / 1000, 0.0)
    if isinstance(element, EdgeToe | ToothedToe):
        return edge_clamp_preload(clamp)
    low, high = screw_forces_n(clamp)
    if isinstance(element, Strap):
        lever = element.to_heel_mm / (element.to_heel_mm + element.to_nose_mm)
        return Preload(low * lever, high * lever, low * lever)
    if isinstance(element, ExpandingPin):
        if element.cone_friction_low > element.cone_friction_high:
            raise OutOfRange(
                "station.element.cone_friction_low",
                element.cone_friction_low,
                "at most cone_friction_high",
            )
        angle = math.radians(element.cone_angle_deg)
        return Preload(
            low / (SEGMENTS * math.tan(angle + math.atan(element.cone_friction_high))),
            high / (SEGMENTS * math.tan(angle + math.atan(element.cone_friction_low))),
            0.0,
        )
    if isinstance(element, Dovetail):
        flank = math.radians(element.flank_deg)
        least = low * clamp.transmission / (math.sin(flank) + element.friction * math.cos(flank))
        return Preload(least, high * clamp.transmission / math.sin(flank), least * math.cos(flank))
    ratio = element.ratio if isinstance(element, PullStud) else 1.0
    return Preload(low * ratio, high * ratio, low * ratio)
