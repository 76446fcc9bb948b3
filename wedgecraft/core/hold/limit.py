"""The largest factor a load may grow to: ``forces + w * factor = b``, every force in its friction
cone, for thousands of loads ``w``.

The programmes differ in one column, and nothing of it is there at factor nothing: one feasible
basis of the clamping alone, found by HiGHS with inscribed cones, starts them all. From it the
simplex method climbs in compiled code; the force that is brought in next is the best of the true
cone, in closed form (column generation: Dantzig and Wolfe, 1960), until none is worth bringing in.
So the answer lies below the true one by less than ``_GAP`` of it. Each is worked out anew from its
basis and checked: forces not below nothing, equations met, nothing left to gain. What fails any of
these goes to HiGHS.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import highspy
import numpy as np
from numba import njit
from numpy.typing import NDArray

from wedgecraft.core.ground.errors import OutOfRange

Array = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]

#: Factors above this are reported as this: the cut cannot move the part.
FACTOR_CAP = 1000.0
_TOLERANCE = 1e-9
_LEAST_PIVOT, _LEAST_GAIN, _MOST_PIVOTS, _STANDING_STILL = 1e-9, 1e-11, 500, 30
#: By how much of itself the factor may lie below that of the true cones.
_GAP = 1e-7


class NotSeated(OutOfRange):
    """The clamps and the weight alone already move the part: no equilibrium without any cutting."""


_NOT_SEATED = NotSeated(
    "contacts", "the clamping", "clamps and weight alone already move the part off its locators"
)


@dataclass(frozen=True)
class Programme:
    """Every contact's cone in the balance: ``base + c * first + s * second`` a unit of normal
    force, c² + s² = 1; each (contacts, rows).

    ``slacks`` (their number, rows): what is left of limited forces. Rows are scaled to about one,
    ``scale`` (6,) says by how much.
    """

    base: Array
    first: Array
    second: Array
    slacks: Array
    target: Array
    scale: Array

    def columns(self, sides: int = 16) -> Array:
        """With cones of so many sides inscribed, shape (variables, rows); contacts without friction
        have one.
        """
        angles = 2 * np.pi * np.arange(sides) / sides
        rays = (
            self.base[:, None]
            + np.cos(angles)[:, None] * self.first[:, None]
            + np.sin(angles)[:, None] * self.second[:, None]
        )
        rubs = np.any(self.first, axis=1) | np.any(self.second, axis=1)
        each = [rays[k] if rubs[k] else self.base[k : k + 1] for k in range(len(rubs))]
        return np.concatenate([*each, self.slacks])


def largest_factors(
    programme: Programme, wrenches: Array, enough: float = FACTOR_CAP
) -> tuple[Array, Array]:
    """Solve all cases; ``wrenches`` (6, cases) scaled. Returns factors (cases,) and duals of the
    equilibrium rows (cases, 6). Factors above ``enough`` are given as that.

    Raises NotSeated where the clamping alone has no equilibrium.
    """
    columns = programme.columns()
    count, rows = columns.shape
    cases = wrenches.shape[1]
    loads = np.zeros((cases, rows))
    loads[:, :6] = wrenches.T
    factors, duals = np.full(cases, np.nan), np.zeros((cases, 6))
    solver = _solver(columns, programme.target)
    basis = _start(columns, solver)
    if basis is not None:
        # What stands for a row alone is never brought in, and leaves where it can: it has to be
        # nothing.
        start = np.concatenate([columns, np.eye(rows)])[basis]
        cones = (programme.base, programme.first, programme.second)
        slacks, target = programme.slacks, programme.target
        alone = basis >= count
        _climb_all(*cones, slacks, target, loads, start, alone, enough, factors, duals)
    for case in np.flatnonzero(np.isnan(factors)):
        factors[case], duals[case] = _by_solver(solver, count, loads[case, :6])
        factors[case] = min(factors[case], enough)
    return factors, duals


def _solver(columns: Array, target: Array) -> highspy.Highs:
    """The programme with inscribed cones, without a load yet."""
    count, rows = columns.shape
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
        # The factor's column is written even where it is zero now, so that changing it later keeps
        # the pattern.
        used = np.flatnonzero(columns[:, row])
        solver.addRow(
            float(target[row]),
            float(target[row]),
            len(used),
            used.astype(np.int32),
            columns[used, row],
        )
    return solver


def _start(columns: Array, solver: highspy.Highs) -> Whole | None:
    """A basis of the clamping alone, shape (rows,): numbers of columns, from their count on of
    rows; nothing where HiGHS gives none.

    Raises NotSeated.
    """
    count, rows = columns.shape
    solver.changeColBounds(count, 0.0, 0.0)
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise _NOT_SEATED
    basic, basis = highspy.HighsBasisStatus.kBasic, solver.getBasis()
    forces, alone = basis.col_status, basis.row_status  # each look copies the whole list
    found = [j for j in range(count) if forces[j] == basic] + [
        count + i for i in range(rows) if alone[i] == basic
    ]
    solver.changeColBounds(count, 0.0, FACTOR_CAP)
    return np.array(found) if len(found) == rows else None  # else the factor is among them


def _by_solver(solver: highspy.Highs, count: int, wrench: Array) -> tuple[float, Array]:
    for row in range(6):
        solver.changeCoeff(row, count, float(wrench[row]))
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise _NOT_SEATED
    solution = solver.getSolution()
    return float(solution.col_value[count]), np.array(solution.row_dual[:6])


@njit(cache=True, nogil=True)
def _climb_all(
    base: Array,
    first: Array,
    second: Array,
    slacks: Array,
    target: Array,
    loads: Array,
    start: Array,
    alone: Flags,
    enough: float,
    factors: Array,
    duals: Array,
) -> None:
    """Every case that can be answered, in place. ``start`` (rows, rows): the columns of the first
    basis; ``alone``: which are of rows.
    """
    inverse = np.linalg.inv(start.T)
    for case in range(len(loads)):
        factor, dual = _climb(
            base,
            first,
            second,
            slacks,
            target,
            loads[case],
            start.copy(),
            alone.copy(),
            inverse.copy(),
            enough,
        )
        factors[case] = factor
        if factor < enough:
            duals[case] = dual[:6]


@njit(cache=True, nogil=True)
def _climb(
    base: Array,
    first: Array,
    second: Array,
    slacks: Array,
    target: Array,
    load: Array,
    basis: Array,
    alone: Flags,
    inverse: Array,
    enough: float,
) -> tuple[float, Array]:
    """The largest factor of one case and what it would be worth to lighten each row; not a number
    where no basis proves it.
    """
    rows = len(target)
    place = -1  # of the factor in the basis
    values = inverse @ target
    still = 0
    entering = load
    for _ in range(_MOST_PIVOTS):
        if place >= 0:
            worth, entering = _best(
                base, first, second, slacks, inverse[place], still > _STANDING_STILL
            )
            if worth >= -_LEAST_GAIN or _little(worth, values, place):
                return _proved(base, first, second, slacks, target, basis, alone, place, enough)
        change = inverse @ entering
        leaving, step, pivot = -1, np.inf, 0.0
        for i in range(rows):
            size = abs(change[i]) if alone[i] else change[i]
            if i == place or size <= _LEAST_PIVOT:
                continue
            ratio = 0.0 if alone[i] else max(values[i], 0.0) / size
            if ratio < step - 1e-12 or (ratio < step + 1e-12 and size > pivot):
                leaving, step, pivot = i, ratio, size
        if leaving < 0:
            return enough, np.zeros(rows)
        still = still + 1 if step < 1e-12 else 0
        values -= step * change
        values[leaving] = step
        for j in range(rows):
            inverse[leaving, j] /= change[leaving]
        for i in range(rows):
            if i != leaving and change[i] != 0.0:
                for j in range(rows):
                    inverse[i, j] -= change[i] * inverse[leaving, j]
        basis[leaving] = entering
        alone[leaving] = False
        if place < 0:
            place = leaving
        if values[place] >= enough:
            return enough, np.zeros(rows)
    return np.nan, np.zeros(rows)


@njit(cache=True, nogil=True)
def _best(
    base: Array, first: Array, second: Array, slacks: Array, dual: Array, any_will_do: bool
) -> tuple[float, Array]:
    """The force most worth bringing in, and its worth (below nothing where it is any);
    ``any_will_do``: the first that is.
    """
    best, which, along, across = 0.0, -1, 0.0, 0.0
    rows = len(dual)
    for k in range(len(base)):  # quicker than calling for products of so few
        straight, one, other = 0.0, 0.0, 0.0
        for i in range(rows):
            straight += base[k, i] * dual[i]
            one += first[k, i] * dual[i]
            other += second[k, i] * dual[i]
        slope = math.sqrt(one * one + other * other)
        if straight - slope < best:
            best, which = straight - slope, k
            along, across = (-one / slope, -other / slope) if slope > 0 else (0.0, 0.0)
            if any_will_do and best < -_LEAST_GAIN:
                return best, base[k] + along * first[k] + across * second[k]
    for k in range(len(slacks)):
        left = 0.0
        for i in range(rows):
            left += slacks[k, i] * dual[i]
        if left < best:
            best, which = left, len(base) + k
    if which >= len(base):
        return best, slacks[which - len(base)]
    if which < 0:
        return 0.0, dual
    return best, base[which] + along * first[which] + across * second[which]


@njit(cache=True, nogil=True)
def _little(worth: float, values: Array, place: int) -> bool:
    """Whether all forces together could gain less than the gap, were each of them as well placed as
    the best.
    """
    return -worth * (values.sum() - values[place]) < _GAP * values[place]


@njit(cache=True, nogil=True)
def _proved(
    base: Array,
    first: Array,
    second: Array,
    slacks: Array,
    target: Array,
    basis: Array,
    alone: Flags,
    place: int,
    most: float,
) -> tuple[float, Array]:
    """The factor of this basis from its equations, if it is an optimum; else not a number."""
    rows = len(target)
    unit = np.zeros(rows)
    unit[place] = 1.0
    values = np.linalg.solve(basis.T.copy(), target)
    dual = np.linalg.solve(basis, unit).astype(np.float64)
    missed = np.abs(basis.T @ values - target).max()
    for i in range(rows):
        if values[i] < -_TOLERANCE or (alone[i] and values[i] > _TOLERANCE):
            missed = np.inf
    worth, _ = _best(base, first, second, slacks, dual, False)
    enough = worth >= -_TOLERANCE * max(1.0, np.abs(dual).max()) or _little(
        worth / 2, values, place
    )
    if missed < _TOLERANCE and enough:
        return min(max(float(values[place]), 0.0), most), dual
    return np.nan, dual
