"""Choice among positions found: the largest set of positions that do not clash, by a constraint
solver.

Positions come from every layout tried and, for plain boxes, from the corner lattice on which an
optimum is known to lie (sums of whole boxes from the edges; Herz, "Recursive computational
procedure for two-dimensional stock cutting", 1972). Over that lattice the solver's bound is a bound
on the problem itself.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from wedgecraft.core.layout.nofit import TOUCH_MM
from wedgecraft.core.layout.search import Array, FaceProblem, Layout, Spot, compatible

_MOST_POSITIONS = 900


def choose(
    problem: FaceProblem, layouts: Sequence[Layout], incumbent: Layout, effort: float
) -> tuple[Layout, int | None]:
    """Improve on the incumbent. Returns the better layout and, where the positions suffice for an
    optimum, a bound.
    """
    spots, complete = _corner_lattice(problem)
    if not complete:
        spots = _pool(layouts, incumbent)
    if len(spots) <= len(incumbent.spots) or len(spots) > 4 * _MOST_POSITIONS:
        return incumbent, None
    variants = np.array([spot[0] for spot in spots])
    points = np.array([spot[1:] for spot in spots])
    from ortools.sat.python import cp_model  # a hundred megabytes, and only plans need it

    model = cp_model.CpModel()
    chosen = [model.new_bool_var("") for _ in spots]
    for clique in _cliques(problem, variants, points):
        model.add_at_most_one(chosen[i] for i in clique)
    model.maximize(sum(chosen))
    taken = {(v, round(x, 3), round(y, 3)) for v, x, y in incumbent.spots}
    for variable, (v, x, y) in zip(chosen, spots, strict=True):
        model.add_hint(variable, (v, round(x, 3), round(y, 3)) in taken)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = 0.15 * effort
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return incumbent, None
    bound = int(solver.best_objective_bound + 1e-6) if complete else None
    picked = [spot for spot, variable in zip(spots, chosen, strict=True) if solver.value(variable)]
    # Cliques were built with a tolerance; what is returned was checked station by station.
    picked = compatible(problem, picked)
    if len(picked) <= len(incumbent.spots):
        return incumbent, bound
    return Layout("chosen among positions", tuple(picked)), bound


def _pool(layouts: Sequence[Layout], incumbent: Layout) -> list[Spot]:
    """Positions of the best layouts, best first, without repeats."""
    pool: dict[tuple[int, float, float], Spot] = {}
    ranked = [incumbent, *sorted(layouts, key=lambda layout: -len(layout.spots))]
    for layout in ranked:
        if len(pool) > _MOST_POSITIONS:
            break
        for spot in layout.spots:
            pool.setdefault((spot[0], round(spot[1], 2), round(spot[2], 2)), spot)
    return list(pool.values())


def _corner_lattice(problem: FaceProblem) -> tuple[list[Spot], bool]:
    """All corner positions of plain boxes on a plain rectangle, if that is what this is and they
    are few.
    """
    bodies = [problem.geometry.body(variant) for variant in problem.variants]
    plain = all(
        abs(body.area - shapely.box(*body.bounds).area) < 1e-9 * body.area for body in bodies
    )
    single = all(layer.role == "body" for kind in problem.geometry.kinds for layer in kind.layers)
    outline = shapely.Polygon(problem.face.outer)
    rectangle = abs(outline.area - shapely.box(*outline.bounds).area) < 1e-9 * outline.area
    free = problem.plain and not any(kind.regions for kind in problem.geometry.kinds)
    if not (
        plain and single and rectangle and free and len({v.kind for v in problem.variants}) == 1
    ):
        return [], False
    gap = problem.geometry.kinds[problem.variants[0].kind].clearance_mm
    sizes = {
        (round(b.bounds[2] - b.bounds[0], 6), round(b.bounds[3] - b.bounds[1], 6)) for b in bodies
    }
    left, low, right, high = outline.bounds
    across = _sums([w + gap for w, _ in sizes], right - left + gap)
    along = _sums([d + gap for _, d in sizes], high - low + gap)
    spots: list[Spot] = []
    seen = set()
    for index, body in enumerate(bodies):
        x0, y0, x1, y1 = body.bounds
        size = (round(x1 - x0, 6), round(y1 - y0, 6))
        if size in seen:
            continue
        seen.add(size)
        spots += [
            (index, left + x - x0, low + y - y0)
            for x in across
            for y in along
            if x + size[0] <= right - left + TOUCH_MM and y + size[1] <= high - low + TOUCH_MM
        ]
    return (spots, True) if len(spots) <= 4 * _MOST_POSITIONS else ([], False)


def _sums(sizes: list[float], length: float) -> list[float]:
    """All sums of whole sizes within a length."""
    found = {0.0}
    front = [0.0]
    while front:
        step = {
            round(at + size, 6) for at in front for size in sizes if at + size <= length + 1e-9
        } - found
        found |= step
        front = sorted(step)
        if len(found) > 3000:
            break
    return sorted(found)


Index = NDArray[np.intp]
Mask = NDArray[np.bool_]


def _cliques(problem: FaceProblem, variants: Index, points: Array) -> list[list[int]]:
    """Cover every clash by cliques: stations over a common point first, then what pairs are left,
    grown greedily.
    """
    clash = _clashes(problem, variants, points)
    covered = np.zeros_like(clash)
    cliques = []
    for members in _over_common_points(problem, variants, points):
        inside = clash[np.ix_(members, members)]
        if len(members) > 1 and inside.sum() == len(members) * (len(members) - 1):
            cliques.append(members.tolist())
            covered[np.ix_(members, members)] = True
    open_pairs = clash & ~covered
    for i in range(len(points)):
        while True:
            rest = np.flatnonzero(open_pairs[i])
            if not len(rest):
                break
            clique = [i]
            common = clash[i].copy()
            for j in rest:
                if common[j]:
                    clique.append(int(j))
                    common &= clash[j]
            index = np.array(clique)
            open_pairs[np.ix_(index, index)] = False
            cliques.append(clique)
    return cliques


def _clashes(problem: FaceProblem, variants: Index, points: Array) -> Mask:
    count = len(points)
    clash = np.zeros((count, count), dtype=bool)
    for a in np.unique(variants):
        ia = np.flatnonzero(variants == a)
        for b in np.unique(variants):
            ib = np.flatnonzero(variants == b)
            left, low, right, high = problem.nofit(a, b).bounds
            dx = points[ib, 0][None, :] - points[ia, 0][:, None]
            dy = points[ib, 1][None, :] - points[ia, 1][:, None]
            near = np.argwhere((dx > left) & (dx < right) & (dy > low) & (dy < high))
            if len(near):
                hit = problem.clashes(
                    a, b, np.stack([dx[near[:, 0], near[:, 1]], dy[near[:, 0], near[:, 1]]], axis=1)
                )
                clash[ia[near[hit, 0]], ib[near[hit, 1]]] = True
    clash |= clash.T
    np.fill_diagonal(clash, False)
    return clash


def _over_common_points(problem: FaceProblem, variants: Index, points: Array) -> list[Index]:
    """Groups of positions whose bodies all cover one point of a fine grid."""
    left, low, right, high = shapely.Polygon(problem.face.outer).bounds
    bodies = {v: problem.geometry.body(problem.variants[v]) for v in np.unique(variants)}
    step = (
        min(min(b.bounds[2] - b.bounds[0], b.bounds[3] - b.bounds[1]) for b in bodies.values()) / 5
    )
    step = max(step, (right - left) / 60, (high - low) / 60)
    grid = [
        (x, y)
        for x in np.arange(left + step / 3, right, step)
        for y in np.arange(low + step / 3, high, step)
    ]
    groups = []
    for x, y in grid:
        over = np.zeros(len(points), dtype=bool)
        for v, body in bodies.items():
            mine = np.flatnonzero(variants == v)
            over[mine] = shapely.contains_xy(body, x - points[mine, 0], y - points[mine, 1])
        groups.append(np.flatnonzero(over))
    unique = {group.tobytes(): group for group in groups if len(group) > 1}
    return list(unique.values())
