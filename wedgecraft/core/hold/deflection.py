"""How far things give: a plate on its screws, a tombstone, a bar.

Small deflections, linear elastic. Sections are square boxes, solid where the wall is nothing.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.polynomial import legendre
from numpy.typing import NDArray

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.deflection import BeamRequest, GiveRequest, GiveResult, PlateRequest
from wedgecraft.core.records.material import POISSON

Array = NDArray[np.float64]


def give(request: GiveRequest) -> GiveResult:
    """Deflection of a beam or a plate. Raises OutOfRange.

    A bar of 90 mm square steel, 400 mm long, with 800 N at its end: a sixtieth of a millimetre.

    >>> from wedgecraft.core.records.deflection import BeamGive
    >>> beam = BeamGive(length_mm=400, across_mm=90, youngs_mpa=206_000, force_n=800, at_mm=400)
    >>> round(give(GiveRequest(give=beam)).gives_mm, 4)
    0.0158
    """
    item = request.give
    return GiveResult(
        gives_mm=beam_give_mm(item) if isinstance(item, BeamRequest) else plate_give_mm(item)
    )


def box_section(across_mm: float, wall_mm: float) -> tuple[float, float]:
    """Second moment of area (mm4) and shear area (mm2) of a square, or of a square box whose two
    webs carry the shear.

    Raises OutOfRange for walls that meet.
    """
    if 2 * wall_mm >= across_mm:
        raise OutOfRange(
            "wall_mm", wall_mm, f"less than half of {across_mm:g} mm, or 0 for a solid one"
        )
    if wall_mm == 0:
        return across_mm**4 / 12, 5 / 6 * across_mm**2
    return (across_mm**4 - (across_mm - 2 * wall_mm) ** 4) / 12, 2 * wall_mm * across_mm


def beam_give_mm(beam: BeamRequest) -> float:
    """Deflection under the force: bending, shear and the joint's tilt; a tail support takes its
    share by equal deflection there.

    Source: Euler-Bernoulli with Timoshenko's shear, statically indeterminate case by superposition;
    any text. Raises OutOfRange.
    """
    if beam.at_mm > beam.length_mm:
        raise OutOfRange("at_mm", beam.at_mm, f"at most the length, {beam.length_mm:g} mm")
    inertia, shear_area = box_section(beam.across_mm, beam.wall_mm)
    bends = beam.youngs_mpa * inertia
    shears = beam.youngs_mpa / (2 * (1 + POISSON)) * shear_area if beam.shear else math.inf
    tilts = beam.joint_nmm_per_rad or math.inf

    def flexibility(x: float, y: float) -> float:
        """Deflection at one place for a unit force at the other."""
        near, far = min(x, y), max(x, y)
        return near**2 * (3 * far - near) / (6 * bends) + near / shears + near * far / tilts

    own = flexibility(beam.at_mm, beam.at_mm)
    if not beam.tail:
        return beam.force_n * own
    length = beam.length_mm
    return beam.force_n * (own - flexibility(beam.at_mm, length) ** 2 / flexibility(length, length))


#: Polynomials in each direction; the plate on its screws settles to 1 % with so many.
_TERMS = 16


def plate_give_mm(plate: PlateRequest) -> float:
    """Deflection of a thin plate under the force, by Ritz's method: Legendre polynomials, screws as
    springs, edges free.

    Source: Kirchhoff plate energy, Timoshenko and Woinowsky-Krieger, "Theory of Plates and Shells",
    1959. Raises OutOfRange when a place is off the plate, or all screws stand in one line.
    """
    for name, (x, y) in [
        *((f"screws_mm.{k}", at) for k, at in enumerate(plate.screws_mm)),
        ("at_mm", plate.at_mm),
    ]:
        if not (0 <= x <= plate.width_mm and 0 <= y <= plate.depth_mm):
            raise OutOfRange(
                name,
                f"{x:g}, {y:g}",
                f"on the plate, 0 to {plate.width_mm:g} and 0 to {plate.depth_mm:g} mm",
            )
    screws = np.array(plate.screws_mm)
    if np.linalg.matrix_rank(screws - screws.mean(axis=0), tol=1e-6) < 2:
        raise OutOfRange(
            "screws_mm", len(screws), "screws that do not stand in one line: the plate would tilt"
        )
    half_x, half_y = plate.width_mm / 2, plate.depth_mm / 2
    rigidity = plate.youngs_mpa * plate.thickness_mm**3 / (12 * (1 - POISSON**2))
    nodes, weights = legendre.leggauss(_TERMS + 2)
    shapes = [
        np.array([legendre.legval(nodes, legendre.legder(row, order)) for row in np.eye(_TERMS)])
        for order in range(3)
    ]
    gram = {(a, b): (shapes[a] * weights) @ shapes[b].T for a in range(3) for b in range(3)}

    def pair(in_x: tuple[int, int], in_y: tuple[int, int]) -> Array:
        scale = half_x ** (1 - sum(in_x)) * half_y ** (1 - sum(in_y))
        found: Array = scale * np.kron(gram[in_x], gram[in_y])
        return found

    stiff = (
        pair((2, 2), (0, 0))
        + pair((0, 0), (2, 2))
        + POISSON * (pair((2, 0), (0, 2)) + pair((0, 2), (2, 0)))
    )
    stiff = rigidity * (stiff + 2 * (1 - POISSON) * pair((1, 1), (1, 1)))
    at_screws = np.array([_shape_at(plate, at) for at in plate.screws_mm])
    at_load = _shape_at(plate, plate.at_mm)
    stiff = stiff + plate.screw_n_per_mm * at_screws.T @ at_screws
    return float(plate.force_n * at_load @ np.linalg.solve(stiff, at_load))


def _shape_at(plate: PlateRequest, at: tuple[float, float]) -> Array:
    x, y = 2 * at[0] / plate.width_mm - 1, 2 * at[1] / plate.depth_mm - 1
    identity = np.eye(_TERMS)
    return np.kron(legendre.legval(x, identity), legendre.legval(y, identity))
