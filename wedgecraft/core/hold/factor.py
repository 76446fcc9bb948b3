"""Hold: does an equilibrium exist with every contact inside its friction cone?

For each load case the largest factor on the cutting force for which locators (pushing back only),
clamps (known preload) and friction can still balance it, with true friction cones, to a hair on the
safe side. It is the limit factor: the most the set-up could carry, not how the force shares itself
out. The programmes are solved in ``largest``. Theory: any text on robot grasping or fixturing, e.g.
Murray, Li and Sastry, "A Mathematical Introduction to Robotic Manipulation" (1994), chapter 5.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.hold.limit import FACTOR_CAP, Programme, largest_factors
from wedgecraft.core.records.contact import Contact, Vector
from wedgecraft.core.records.hold import CaseResult, HoldRequest, HoldResult, Mode

Array = NDArray[np.float64]


def hold(request: HoldRequest, enough: float = FACTOR_CAP) -> HoldResult:
    """Give the factor of every load case and of the worst. Raises OutOfRange, and NotSeated when
    clamping alone fails. ``enough``: factors above this are given as this, and found quicker.

    A block under one strap, pushed sideways: nose and plate rub, ``2 mu F``, so 2 x 0.2 x 5,000 N.

    >>> from wedgecraft.core.records.contact import Contact, LoadCase
    >>> contacts = [
    ...     Contact(name=f"rest {x} {y}", kind="locator", point_mm=(x, y, 0), normal=(0, 0, 1),
    ...             friction=0.2)
    ...     for x in (0, 60) for y in (0, 40)
    ... ]
    >>> contacts.append(
    ...     Contact(name="strap", kind="clamp", point_mm=(30, 20, 20), normal=(0, 0, -1),
    ...             friction=0.2, preload_n=5000)
    ... )
    >>> push = LoadCase(name="sideways", point_mm=(30, 20, 20), force_n=(1000, 0, 0))
    >>> round(hold(HoldRequest(contacts=contacts, loads=[push])).factor, 3)
    2.0
    """
    programme = _programme(request)
    forces, moments = (
        np.array([getattr(load, name) for load in request.loads], dtype=float)
        for name in ("force_n", "moment_nmm")
    )
    moments += cross(np.array([load.point_mm for load in request.loads], dtype=float), forces)
    wrenches = np.concatenate([forces, moments], axis=1).T / programme.scale[:, None]
    if not np.any(wrenches, axis=0).all():
        raise OutOfRange("loads", "a force of nothing", "every load case needs a force")
    factors, duals = largest_factors(programme, wrenches, enough)
    worst = int(np.argmin(factors))
    motion = _at_centre(duals[worst] / programme.scale, request.centre_of_gravity_mm)
    load = request.loads[worst]
    mode, start = _mode(motion, _reach(request))
    if factors[worst] >= min(enough, FACTOR_CAP):
        mode, sentence = "does not move", "No load case moves the part"
    else:
        sentence = (
            f"{start} at {factors[worst]:.2f} times the cutting force:"
            f" {load.name}{_wanting(request.contacts)}"
        )
    return HoldResult(
        factor=float(factors[worst]),
        load=load,
        mode=mode,
        motion=(*map(float, motion),),
        sentence=sentence,
        cases=[
            CaseResult(name=item.name, factor=float(factor))
            for item, factor in zip(request.loads, factors, strict=True)
        ],
    )


def _wanting(contacts: list[Contact]) -> str:
    """What a set of contacts lacks that no torque makes up for, in the trade's words; nothing where
    it lacks none.
    """
    said = []
    points = np.array([contact.point_mm for contact in contacts])
    if np.linalg.matrix_rank(points - points.mean(axis=0), tol=1e-6) < 2:
        said.append(
            "all contacts stand in one line, so nothing keeps the part from turning about it"
        )
    if not any(contact.kind == "clamp" and contact.preload_n > 0 for contact in contacts):
        said.append("no clamp presses, only its weight keeps the part down")
    if all(contact.friction == 0 for contact in contacts):
        said.append("no contact has friction")
    return "".join(f"; {item}" for item in said)


def _span(contacts: list[Contact]) -> float:
    points = np.array([contact.point_mm for contact in contacts])
    return max(1.0, float(np.ptp(points, axis=0).max()))


def _reach(request: HoldRequest) -> float:
    points = np.array([contact.point_mm for contact in request.contacts])
    return float(np.linalg.norm(points - np.array(request.centre_of_gravity_mm), axis=1).max())


def _at_centre(motion: Array, centre: Vector) -> Array:
    """The motion of the dual, given at the frame's origin, as velocity of the centre of gravity and
    rotation.
    """
    return np.concatenate([motion[:3] + cross(motion[3:], centre), motion[3:]])


def _mode(motion: Array, reach: float) -> tuple[Mode, str]:
    """How the motion would look, in the trade's words; ``reach`` is the farthest contact from the
    centre of gravity, mm.
    """
    (vx, vy, vz), (wx, wy, wz) = motion[:3], motion[3:]
    # Tipping about an edge carries the centre along too, so turning is looked for first.
    if np.linalg.norm(motion[3:]) * reach > 0.35 * np.linalg.norm(motion[:3]):
        if abs(wz) > math.hypot(wx, wy):
            return "turns", "Turns on the plate"
        # Turning about (wx, wy) throws the top of the part towards (wy, -wx).
        return "tips", "Tips " + _towards(wy, -wx)
    if math.hypot(vx, vy) >= abs(vz):
        return "slides", "Slides " + _towards(vx, vy)
    return "lifts", "Lifts off the plate"


def _towards(x: float, y: float) -> str:
    names = ["X+", "X+ Y+", "Y+", "X- Y+", "X-", "X- Y-", "Y-", "X+ Y-"]
    return "towards " + names[round(math.atan2(y, x) / (math.pi / 4)) % 8]


def _programme(request: HoldRequest) -> Programme:
    contacts = request.contacts
    forces_n = max([c.preload_n for c in contacts] + [float(np.linalg.norm(request.weight_n)), 1.0])
    arm = _span(contacts)
    scale = np.array([forces_n] * 3 + [forces_n * arm] * 3)
    limited = [
        k
        for k, contact in enumerate(contacts)
        if contact.kind == "clamp" or contact.capacity_n is not None
    ]
    rows = 6 + len(limited)
    cones = np.zeros((3, len(contacts), rows))
    for k, contact in enumerate(contacts):
        for axis, direction in enumerate(_axes(contact)):
            cones[axis, k, :6] = (
                np.concatenate([direction, cross(contact.point_mm, direction)]) * forces_n / scale
            )
    target = np.zeros(rows)
    target[:6] = (
        -np.concatenate([request.weight_n, cross(request.centre_of_gravity_mm, request.weight_n)])
        / scale
    )
    slacks = []
    for row, k in enumerate(limited, start=6):
        contact = contacts[k]
        cones[0, k, row] = 1
        limit = contact.preload_n if contact.kind == "clamp" else contact.capacity_n or 0
        target[row] = limit / forces_n
        if contact.kind == "locator":
            slacks.append(np.eye(rows)[row])
    return Programme(
        cones[0], cones[1], cones[2], np.array(slacks).reshape(-1, rows), target, scale
    )


def _axes(contact: Contact) -> tuple[Array, Array, Array]:
    """The unit normal, and two directions across it as long as friction makes them."""
    normal = np.array(contact.normal, dtype=float)
    length = np.linalg.norm(normal)
    if length == 0:
        raise OutOfRange(
            f"contacts.{contact.name}.normal", contact.normal, "a direction other than zero"
        )
    normal /= length
    helper = np.eye(3)[int(np.argmin(np.abs(normal)))]
    first = cross(normal, helper)
    first /= np.linalg.norm(first)
    return normal, contact.friction * first, contact.friction * cross(normal, first)
