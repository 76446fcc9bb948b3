"""The force of one clamp by itself: an element with its screw, or a vise."""

from __future__ import annotations

from wedgecraft.core.clamping.screw import scattered, screw_forces_n, short_form_n
from wedgecraft.core.ground.errors import OutOfRange, under
from wedgecraft.core.records.clamp import ClampForces, ClampRequest, ViseForce
from wedgecraft.core.records.screw import SCREWS, EdgeClamp


def clamp_forces(request: ClampRequest) -> ClampForces:
    """What an element gives. Raises OutOfRange above a rating, or for a vacuum without its area.

    >>> strap = {"kind": "screw", "screw": "M8", "torque_nm": 14, "element": {"kind": "strap"}}
    >>> found = clamp_forces(ClampRequest.model_validate({"clamp": strap}))
    >>> round(found.low_n), round(found.high_n), found.way
    (3615, 6615, 'presses down at its nose')
    """
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
    element = clamp.element
    if not element.driven and clamp.area_mm2 is None:
        raise OutOfRange("clamp.area_mm2", "nothing", "the area inside the seal, mm2")
    with (
        under("clamp.", instead_of="station."),
        under("clamp.", instead_of="station.clamp."),
        under("station.clamp.friction_", instead_of="station.clamp.screw_friction_"),
    ):
        preload = element.preload(edge, clamp.area_mm2 or 0.0)
    found = ClampForces(
        low_n=preload.low_n,
        high_n=preload.high_n,
        seating_n=preload.seating_n,
        way=element.acts,
        formula=element.formula,
    )
    if not element.driven:
        return found
    low, high = screw_forces_n(edge)
    return found.model_copy(
        update={
            "screw_low_n": low,
            "screw_high_n": high,
            "short_form_n": short_form_n(edge.torque_nm, SCREWS[edge.screw].nominal_mm),
        }
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
    return scattered(force, vise.scatter)
