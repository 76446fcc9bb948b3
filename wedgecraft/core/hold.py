"""Hold: does an equilibrium exist with every contact inside its friction cone?

For each load case the largest factor on the cutting force for which locators (pushing back only), clamps (known preload)
and friction can still balance it, as a linear programme over generators of friction cones. The cones are linearised from
the inside, so the answer errs on the safe side, by at most 1 - cos(pi / sides) of the friction.

It is the limit factor: the most the set-up could carry, not how the force shares itself out. HiGHS solves one case and its basis
then answers every other case for which it stays feasible, so that a thousand cases need a few dozen programmes.
Theory: any text on robot grasping or fixturing, e.g. Murray, Li and Sastry, "A Mathematical Introduction to Robotic
Manipulation" (1994), chapter 5.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import highspy
import numpy as np
from numba import njit
from numpy.typing import NDArray

from wedgecraft.core.contacts import CaseResult, Contact, HoldRequest, HoldResult, Mode, Vector
from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.vectors import cross

Array = NDArray[np.float64]

#: Factors above this are reported as this: the cut cannot move the part.
FACTOR_CAP = 1000.0
_TOLERANCE = 1e-9


class NotSeated(OutOfRange):
    """The clamps and the weight alone already move the part: no equilibrium without any cutting."""


@dataclass(frozen=True)
class _Programme:
    """``A x + w * factor = b``, ``x >= 0``, factor to be maximised; rows scaled to about one."""

    columns: Array  # (rows, variables)
    target: Array  # (rows,)
    scale: Array  # (6,) what each equilibrium row was divided by


def hold(request: HoldRequest) -> HoldResult:
    """Give the factor of every load case and of the worst. Raises OutOfRange, and NotSeated when clamping alone fails."""
    programme = _programme(request)
    wrenches = (
        np.array([_wrench(load.point_mm, load.force_n, load.moment_nmm) for load in request.loads]).T / programme.scale[:, None]
    )
    if not np.any(wrenches, axis=0).all():
        raise OutOfRange("loads", "a force of nothing", "every load case needs a force")
    factors, duals = _largest_factors(programme, wrenches)
    worst = int(np.argmin(factors))
    motion = _at_centre(duals[worst] / programme.scale, request.centre_of_gravity_mm)
    load = request.loads[worst]
    mode, start = _mode(motion, _reach(request))
    if factors[worst] >= FACTOR_CAP:
        mode, sentence = "does not move", "No load case moves the part"
    else:
        sentence = f"{start} at {factors[worst]:.2f} times the cutting force: {load.name}{_wanting(request.contacts)}"
    return HoldResult(
        factor=float(factors[worst]),
        load=load,
        mode=mode,
        motion=(*map(float, motion),),
        sentence=sentence,
        cases=[CaseResult(name=item.name, factor=float(factor)) for item, factor in zip(request.loads, factors, strict=True)],
    )


def _wanting(contacts: list[Contact]) -> str:
    """What a set of contacts lacks that no torque makes up for, in the trade's words; nothing where it lacks none."""
    said = []
    points = np.array([contact.point_mm for contact in contacts])
    if np.linalg.matrix_rank(points - points.mean(axis=0), tol=1e-6) < 2:
        said.append("all contacts stand in one line, so nothing keeps the part from turning about it")
    if not any(contact.kind == "clamp" and contact.preload_n > 0 for contact in contacts):
        said.append("no clamp presses, only its weight keeps the part down")
    if all(contact.friction == 0 for contact in contacts):
        said.append("no contact has friction")
    return "".join(f"; {item}" for item in said)


def _wrench(point: Vector, force: Vector, moment: Vector = (0, 0, 0)) -> Array:
    return np.concatenate([force, cross(point, force) + moment])


def _span(contacts: list[Contact]) -> float:
    points = np.array([contact.point_mm for contact in contacts])
    return max(1.0, float(np.ptp(points, axis=0).max()))


def _reach(request: HoldRequest) -> float:
    points = np.array([contact.point_mm for contact in request.contacts])
    return float(np.linalg.norm(points - np.array(request.centre_of_gravity_mm), axis=1).max())


def _at_centre(motion: Array, centre: Vector) -> Array:
    """The motion of the dual, given at the frame's origin, as velocity of the centre of gravity and rotation."""
    return np.concatenate([motion[:3] + cross(motion[3:], centre), motion[3:]])


def _mode(motion: Array, reach: float) -> tuple[Mode, str]:
    """How the motion would look, in the trade's words; ``reach`` is the farthest contact from the centre of gravity, mm."""
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


def cone_generators(contact: Contact, sides: int) -> Array:
    """Edges of the cone inscribed in the friction cone, normal component one; shape (sides, 3)."""
    normal = np.array(contact.normal, dtype=float)
    length = np.linalg.norm(normal)
    if length == 0:
        raise OutOfRange(f"contacts.{contact.name}.normal", contact.normal, "a direction other than zero")
    normal /= length
    if contact.friction == 0:
        return normal[None, :]
    helper = np.eye(3)[int(np.argmin(np.abs(normal)))]
    first = cross(normal, helper)
    first /= np.linalg.norm(first)
    second = cross(normal, first)
    angles = 2 * math.pi * np.arange(sides) / sides
    return normal + contact.friction * (np.cos(angles)[:, None] * first + np.sin(angles)[:, None] * second)


def _programme(request: HoldRequest) -> _Programme:
    contacts = request.contacts
    limited = [c for c in contacts if c.kind == "clamp" or c.capacity_n is not None]
    blocks = [cone_generators(contact, request.cone_sides) for contact in contacts]
    forces_n = max([c.preload_n for c in contacts] + [float(np.linalg.norm(request.weight_n)), 1.0])
    arm = _span(contacts)
    scale = np.array([forces_n] * 3 + [forces_n * arm] * 3)
    count = sum(len(block) for block in blocks)
    slacks = sum(1 for c in limited if c.kind == "locator")
    columns = np.zeros((6 + len(limited), count + slacks))
    target = np.zeros(6 + len(limited))
    target[:6] = -_wrench(request.centre_of_gravity_mm, request.weight_n) / scale
    start, slack, row = 0, count, 6
    for contact, block in zip(contacts, blocks, strict=True):
        end = start + len(block)
        moments = cross(np.array(contact.point_mm), block)
        columns[:6, start:end] = np.concatenate([block, moments], axis=1).T * forces_n / scale[:, None]
        if contact.kind == "clamp" or contact.capacity_n is not None:
            columns[row, start:end] = 1
            if contact.kind == "clamp":
                target[row] = contact.preload_n / forces_n
            else:
                target[row] = float(contact.capacity_n or 0) / forces_n
                columns[row, slack] = 1
                slack += 1
            row += 1
        start = end
    return _Programme(columns, target, scale)


def _largest_factors(programme: _Programme, wrenches: Array) -> tuple[Array, Array]:
    """Solve all cases; ``wrenches`` (6, cases) scaled. Returns factors (cases,) and duals of the equilibrium rows (cases, 6).

    A basis optimal for one case is optimal for every case for which it is feasible: the cases differ in the factor's column
    alone, which only scales the reduced costs.
    """
    rows, count = programme.columns.shape
    cases = wrenches.shape[1]
    loads = np.zeros((rows, cases))
    loads[:6] = wrenches
    solver = _solver(programme)
    factors = np.full(cases, np.nan)
    duals = np.zeros((cases, 6))
    for case in range(cases):
        if not math.isnan(factors[case]):
            continue
        for row in range(6):
            solver.changeCoeff(row, count, float(loads[row, case]))
        solver.run()
        if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            raise NotSeated("contacts", "the clamping", "clamps and weight alone already move the part off its locators")
        solution = solver.getSolution()
        factors[case] = solution.col_value[count]
        duals[case] = np.array(solution.row_dual[:6])
        if factors[case] < FACTOR_CAP:
            _share(programme, loads, solver.getBasis(), factors, duals)
    return factors, duals


def _solver(programme: _Programme) -> highspy.Highs:
    rows, count = programme.columns.shape
    solver = highspy.Highs()
    solver.setOptionValue("output_flag", False)
    solver.setOptionValue("presolve", "off")
    solver.setOptionValue("threads", 1)
    solver.setOptionValue("primal_feasibility_tolerance", _TOLERANCE)
    solver.setOptionValue("dual_feasibility_tolerance", _TOLERANCE)
    solver.addVars(count, np.zeros(count), np.full(count, highspy.kHighsInf))
    solver.addVar(0.0, FACTOR_CAP)
    solver.changeColCost(count, 1.0)
    solver.changeObjectiveSense(highspy.ObjSense.kMaximize)
    for row in range(rows):
        # The factor's column is written even where it is zero now, so that changing it later keeps the pattern.
        used = np.flatnonzero(programme.columns[row])
        target = float(programme.target[row])
        solver.addRow(target, target, len(used), used.astype(np.int32), programme.columns[row, used])
    return solver


def _share(programme: _Programme, loads: Array, basis: highspy.HighsBasis, factors: Array, duals: Array) -> None:
    """Answer all open cases for which ``basis`` is feasible, in place."""
    rows, count = programme.columns.shape
    basic = highspy.HighsBasisStatus.kBasic
    statuses, row_statuses = basis.col_status, basis.row_status  # each look copies the whole list
    inside = [j for j in range(count) if statuses[j] == basic]
    slack = [i for i in range(rows) if row_statuses[i] == basic]
    if statuses[count] != basic or len(inside) + len(slack) + 1 != rows:
        return
    left = np.concatenate([programme.columns[:, inside], np.eye(rows)[:, slack]], axis=1)
    answer_by_basis(left, len(inside), programme.columns, programme.target, loads, factors, duals)


@njit(cache=True)
def answer_by_basis(left: Array, inside: int, columns: Array, target: Array, loads: Array, factors: Array, duals: Array) -> None:
    """Answer every open case (``factors`` not a number) that has its optimum in one basis, in place.

    ``left`` (rows, rows - 1): the basic columns but the factor's, ``inside`` of them forces, the rest slacks of rows, which have to be
    nothing; ``columns``, ``target``, ``loads`` (rows, cases) as in the programme; ``duals`` (cases, 6). With d at right angles to all of
    ``left``, the factor of a case is d·target / d·load; the others follow by its QR factors. Columns that hang together answer nothing.
    """
    rows, others = left.shape
    turned, triangle = np.zeros((others, rows)), np.zeros((others, others))
    for j in range(others):
        column = left[:, j].copy()
        for _ in range(2):  # twice is enough
            for i in range(j):
                part = np.dot(turned[i], column)
                triangle[i, j] += part
                column -= part * turned[i]
        triangle[j, j] = np.sqrt(np.dot(column, column))
        if triangle[j, j] < 1e-10:
            return
        turned[j] = column / triangle[j, j]
    lengths = np.zeros(rows)
    for j in range(others):
        lengths += turned[j] * turned[j]
    direction = np.zeros(rows)
    direction[np.argmin(lengths)] = 1.0
    for _ in range(2):
        for i in range(others):
            direction -= np.dot(turned[i], direction) * turned[i]
    direction /= np.sqrt(np.dot(direction, direction))
    reach = np.dot(direction, target)
    # The dual must make the cut do positive work: same sign as at the case the basis came from.
    prices = np.dot(direction, columns)
    dearest, cheapest = prices.max(), prices.min()
    for case in range(loads.shape[1]):
        if not np.isnan(factors[case]):
            continue
        load = loads[:, case].copy()
        work = np.dot(direction, load)
        if abs(work) <= _TOLERANCE or (cheapest if work > 0 else dearest) / work < -1e-7:
            continue
        factor = reach / work
        if not 0 <= factor < FACTOR_CAP:
            continue
        rest = target - factor * load
        values = np.zeros(others)
        for i in range(others):
            values[i] = np.dot(turned[i], rest)
            rest -= values[i] * turned[i]
        sound = np.abs(rest).max() < _TOLERANCE
        for i in range(others - 1, -1, -1):
            for j in range(i + 1, others):
                values[i] -= triangle[i, j] * values[j]
            values[i] /= triangle[i, i]
            sound = sound and (values[i] >= -_TOLERANCE if i < inside else abs(values[i]) < _TOLERANCE)
        if sound:
            factors[case] = factor
            duals[case] = direction[:6] / work
