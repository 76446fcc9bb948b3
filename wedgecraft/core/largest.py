"""The largest factor a load may grow to: ``A x + w * factor = b``, ``x >= 0``, factor as large as can be, for thousands of loads ``w``.

The programmes differ in one column, and nothing of it is there at factor nothing: one feasible basis, found by HiGHS, starts them all.
From it the simplex method climbs in compiled code (Dantzig's rule, Bland's once it stands still). Each optimum is worked out anew from
its basis and checked: forces not below nothing, equations met, no force worth bringing in. What fails any of these goes to HiGHS.
"""

from __future__ import annotations

from dataclasses import dataclass

import highspy
import numpy as np
from numba import njit
from numpy.typing import NDArray

from wedgecraft.core.errors import OutOfRange

Array = NDArray[np.float64]
Whole = NDArray[np.int64]

#: Factors above this are reported as this: the cut cannot move the part.
FACTOR_CAP = 1000.0
_TOLERANCE = 1e-9
_LEAST_PIVOT, _MOST_PIVOTS, _STANDING_STILL = 1e-9, 500, 30


class NotSeated(OutOfRange):
    """The clamps and the weight alone already move the part: no equilibrium without any cutting."""


@dataclass(frozen=True)
class Programme:
    """Columns of the forces and what they have to add up to; rows scaled to about one."""

    columns: Array  # (rows, variables)
    target: Array  # (rows,)
    scale: Array  # (6,) what each equilibrium row was divided by


def largest_factors(programme: Programme, wrenches: Array) -> tuple[Array, Array]:
    """Solve all cases; ``wrenches`` (6, cases) scaled. Returns factors (cases,) and duals of the equilibrium rows (cases, 6).

    Raises NotSeated for a case that has no equilibrium at any factor.
    """
    rows, count = programme.columns.shape
    cases = wrenches.shape[1]
    loads = np.zeros((rows, cases))
    loads[:6] = wrenches
    factors, duals = np.full(cases, np.nan), np.zeros((cases, 6))
    solver = _solver(programme)
    basis = _start(programme, solver)
    if basis is not None:
        # What stands for a row alone is never brought in, and leaves where it can: it has to be nothing.
        columns = np.concatenate([programme.columns, np.eye(rows)], axis=1)
        _climb_all(np.ascontiguousarray(columns.T), count, programme.target, loads.T.copy(), basis, factors, duals)
    for case in np.flatnonzero(np.isnan(factors)):
        factors[case], duals[case] = _by_solver(solver, count, loads[:6, case])
    return factors, duals


def _solver(programme: Programme) -> highspy.Highs:
    """The programme without a load yet."""
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


def _start(programme: Programme, solver: highspy.Highs) -> Whole | None:
    """A basis of the clamping alone, shape (rows,): numbers of columns, from their count on of rows. Nothing where it has none."""
    rows, count = programme.columns.shape
    solver.changeColBounds(count, 0.0, 0.0)
    solver.run()
    found = None
    if solver.getModelStatus() == highspy.HighsModelStatus.kOptimal:
        basic, basis = highspy.HighsBasisStatus.kBasic, solver.getBasis()
        forces, alone = basis.col_status, basis.row_status  # each look copies the whole list
        columns = [j for j in range(count) if forces[j] == basic] + [count + i for i in range(rows) if alone[i] == basic]
        if len(columns) == rows:  # else the factor is among them
            found = np.array(columns)
    solver.changeColBounds(count, 0.0, FACTOR_CAP)
    return found


def _by_solver(solver: highspy.Highs, count: int, wrench: Array) -> tuple[float, Array]:
    for row in range(6):
        solver.changeCoeff(row, count, float(wrench[row]))
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise NotSeated("contacts", "the clamping", "clamps and weight alone already move the part off its locators")
    solution = solver.getSolution()
    return float(solution.col_value[count]), np.array(solution.row_dual[:6])


@njit(cache=True, nogil=True)
def _climb_all(columns: Array, count: int, target: Array, loads: Array, start: Whole, factors: Array, duals: Array) -> None:
    """Every case that can be answered, in place. ``columns`` (variables and rows, rows), ``loads`` (cases, rows)."""
    rows = len(target)
    matrix = np.zeros((rows, rows))
    for i in range(rows):
        matrix[:, i] = columns[start[i]]
    inverse = np.linalg.inv(matrix)
    for case in range(len(loads)):
        factor, dual = _climb(columns, count, target, loads[case], start.copy(), inverse.copy())
        factors[case] = factor
        if factor < FACTOR_CAP:
            duals[case] = dual[:6]


@njit(cache=True, nogil=True)
def _climb(columns: Array, count: int, target: Array, load: Array, basis: Whole, inverse: Array) -> tuple[float, Array]:
    """The largest factor of one case and what it would be worth to lighten each row; not a number where no basis proves it."""
    rows = len(target)
    place = -1  # of the factor in the basis
    values = inverse @ target
    still = 0
    for _ in range(_MOST_PIVOTS):
        entering, best = -1, -1e-11  # the factor itself first
        if place < 0:
            change = inverse @ load
        else:
            worth = columns[:count] @ inverse[place]
            for j in range(count):
                if worth[j] < best:
                    entering = j
                    if still > _STANDING_STILL:
                        break
                    best = worth[j]
            if entering < 0:
                return _proved(columns, count, target, load, basis, place)
            change = inverse @ columns[entering]
        leaving, step, pivot = -1, np.inf, 0.0
        for i in range(rows):
            if i == place:
                continue
            size = change[i]
            if basis[i] >= count:
                size = abs(size)
            if size <= _LEAST_PIVOT:
                continue
            ratio = 0.0 if basis[i] >= count else max(values[i], 0.0) / size
            if ratio < step - 1e-12 or (ratio < step + 1e-12 and size > pivot):
                leaving, step, pivot = i, ratio, size
        if leaving < 0:
            return FACTOR_CAP, np.zeros(rows)
        still = still + 1 if step < 1e-12 else 0
        values -= step * change
        values[leaving] = step
        row = inverse[leaving] / change[leaving]
        for i in range(rows):
            if i != leaving:
                inverse[i] -= change[i] * row
        inverse[leaving] = row
        basis[leaving] = entering
        if place < 0:
            place = leaving
        if values[place] >= FACTOR_CAP:
            return FACTOR_CAP, np.zeros(rows)
    return np.nan, np.zeros(rows)


@njit(cache=True, nogil=True)
def _proved(columns: Array, count: int, target: Array, load: Array, basis: Whole, place: int) -> tuple[float, Array]:
    """The factor of this basis from its equations, if it is an optimum; else not a number."""
    rows = len(target)
    matrix = np.zeros((rows, rows))
    for i in range(rows):
        matrix[:, i] = load if i == place else columns[basis[i]]
    unit = np.zeros(rows)
    unit[place] = 1.0
    values = np.linalg.solve(matrix, target)
    dual = np.linalg.solve(matrix.T.copy(), unit).astype(np.float64)
    missed = np.abs(matrix @ values - target).max()
    for i in range(rows):
        if values[i] < -_TOLERANCE or (basis[i] >= count and values[i] > _TOLERANCE):
            missed = np.inf
    largest = np.abs(dual).max()
    if missed < _TOLERANCE and (columns[:count] @ dual).min() >= -_TOLERANCE * max(1.0, largest):
        return min(max(float(values[place]), 0.0), FACTOR_CAP), dual
    return np.nan, dual
