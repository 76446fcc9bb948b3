"""How a part's section gives between clamp and stop, and what that does to its bores: plane stress
by finite elements.

A bore cut while its part is squeezed is round only until the clamp lets go. Quadratic triangles of
scikit-fem (BSD-3) on the section as thick as it is high; forces are brought into balance, so that
nothing but the section's own stiffness holds it. Source: any text on finite elements.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import Delaunay, cKDTree
from shapely.geometry import Polygon

from wedgecraft.core.records.material import POISSON
from wedgecraft.core.workpiece.holes import round_hole

Array = NDArray[np.float64]
#: Elements are this many times smaller than the wall they stand in, and so many times larger a
#: step farther inside; none is smaller or larger than these shares of the section's size.
_PER_WALL, _GROWS, _FINEST, _COARSEST = 1.3, 0.6, 1 / 150, 1 / 9
#: Sections are simplified by this share of their finest element.
_SIMPLER = 0.06
#: A mesh that misses more of the section than this is made finer, so many times.
_MISSES, _TRIES = 2e-3, 4
#: Waves round a bore that are told apart.
_WAVES = 6
#: A bore has at least so many points to be one, in a mesh.
_LEAST_POINTS = 12


@dataclass(frozen=True)
class Push:
    """A force on the rim of a section: ``way`` is a unit vector into it; ``wide_mm``: over how much
    of the rim, nothing for a point.
    """

    at: tuple[float, float]
    way: tuple[float, float]
    force_n: float
    wide_mm: float = 0.0


@dataclass(frozen=True)
class Bore:
    """A round hole of a section: by how much a diameter of it changes most, mm."""

    middle: tuple[float, float]
    diameter_mm: float
    changes_mm: float


@dataclass(frozen=True)
class Squeezed:
    """``gives_mm``: how far each push moves into the section, the first of them against the
    others' mean."""

    gives_mm: tuple[float, ...]
    bores: tuple[Bore, ...]


def squeezed(
    section: Polygon, pushes: Sequence[Push], height_mm: float, youngs_mpa: float
) -> Squeezed:
    """Of a section so high under pushes that balance one another; what does not balance is taken by
    its own inertia. Raises ValueError for a section that cannot be meshed.
    """
    # only where a part is clamped from its sides: it takes a moment to load
    from scipy.sparse import csc_matrix
    from scipy.sparse.linalg import splu
    from skfem import Basis, BilinearForm, ElementTriP2, ElementVector, MeshTri
    from skfem.helpers import ddot, eye, sym_grad, trace

    points, triangles = mesh_of(section)
    mesh = MeshTri(np.ascontiguousarray(points.T), np.ascontiguousarray(triangles.T))
    basis = Basis(mesh, ElementVector(ElementTriP2()))
    shear = youngs_mpa / (2 * (1 + POISSON))
    spread = youngs_mpa * POISSON / (1 - POISSON**2)

    @BilinearForm  # type: ignore[untyped-decorator]
    def stiffness(u: Any, v: Any, w: Any) -> Any:
        strain = sym_grad(u)
        stress = 2 * shear * strain + spread * eye(trace(strain), 2)
        return ddot(stress, sym_grad(v))

    stiff = height_mm * stiffness.assemble(basis)
    places = basis.doflocs[:, ::2]
    loads = [_weights(mesh, basis, push) for push in pushes]
    force = np.zeros(basis.N)
    for push, (which, weights) in zip(pushes, loads, strict=True):
        for axis in (0, 1):
            force[2 * which + axis] += push.force_n * push.way[axis] * weights
    x, y = basis.doflocs
    even = np.arange(basis.N) % 2 == 0
    middle = places.mean(axis=1)
    rigid = np.stack([even * 1.0, ~even * 1.0, np.where(even, middle[1] - y, x - middle[0])])
    rigid /= np.linalg.norm(rigid, axis=1)[:, None]
    force -= rigid.T @ np.linalg.solve(rigid @ rigid.T, rigid @ force)
    far = int(np.argmax(((places.T - places[:, 0]) ** 2).sum(axis=1)))
    turns = 0 if abs(places[1, far] - places[1, 0]) > abs(places[0, far] - places[0, 0]) else 1
    free = np.setdiff1d(np.arange(basis.N), [0, 1, 2 * far + turns])
    solver = splu(
        csc_matrix(stiff)[free][:, free],
        permc_spec="MMD_AT_PLUS_A",
        diag_pivot_thresh=0.0,
        options={"SymmetricMode": True},
    )
    found = np.zeros(basis.N)
    found[free] = solver.solve(force[free])
    orthogonal, _ = np.linalg.qr(rigid.T)
    moved = (found - orthogonal @ (orthogonal.T @ found)).reshape(-1, 2)
    in_ways = [
        float((moved[which] @ np.array(push.way)) @ weights)
        for push, (which, weights) in zip(pushes, loads, strict=True)
    ]
    return Squeezed(
        tuple(in_ways),
        tuple(
            bore
            for ring in section.interiors
            if (bore := _bore(np.asarray(ring.coords)[:-1], places.T, moved))
        ),
    )


def _weights(mesh: Any, basis: Any, push: Push) -> tuple[NDArray[np.int64], Array]:
    """Which points of the rim carry a push, and how much of it each."""
    places = basis.doflocs[:, ::2].T
    ends = mesh.facets[:, mesh.boundary_facets()]
    rim = np.unique(np.concatenate([ends.ravel(), mesh.nvertices + mesh.boundary_facets()]))
    along = np.array([-push.way[1], push.way[0]])
    off = places[rim] - np.array(push.at)
    reach = max(push.wide_mm / 2, 1e-9)
    near = (np.abs(off @ along) <= reach * 1.001) & (np.abs(off @ np.array(push.way)) < 0.05)
    if push.wide_mm <= 0 or not near.any():
        best = rim[np.argsort((off**2).sum(axis=1))[:1]]
        return best, np.ones(1)
    which = rim[near]
    order = np.argsort(off[near] @ along)
    which, s = which[order], (off[near] @ along)[order]
    if len(which) == 1:
        return which, np.ones(1)
    weights = np.zeros(len(which))
    weights[:-1] += np.diff(s) / 2
    weights[1:] += np.diff(s) / 2
    # brought to the push's own middle, so that it does not turn the part
    weights /= weights.sum()
    lean = float(weights @ s)
    spread = float(weights @ (s - lean) ** 2)
    if spread > 1e-12:
        weights *= 1 - lean * (s - lean) / spread
    return which, weights


def _bore(ring: Array, places: Array, moved: Array) -> Bore | None:
    """How a round ring of a section changes, from where its points go."""
    found = round_hole(ring) if len(ring) >= _LEAST_POINTS else None
    if found is None:
        return None
    off = places - (found.x_mm, found.y_mm)
    radius = found.diameter_mm / 2
    out = np.hypot(off[:, 0], off[:, 1])
    there = np.abs(out - radius) < max(0.03 * radius, 0.05)
    if there.sum() < _LEAST_POINTS:
        return None
    unit = off[there] / out[there][:, None]
    angles = np.arctan2(unit[:, 1], unit[:, 0])
    grows = (moved[there] * unit).sum(axis=1)
    waves = np.arange(1, _WAVES + 1)
    shape = np.column_stack(
        [np.ones(len(angles)), np.cos(np.outer(angles, waves)), np.sin(np.outer(angles, waves))]
    )
    sizes = np.linalg.lstsq(shape, grows, rcond=None)[0]
    sizes[[1, 1 + _WAVES]] = 0.0  # where it goes as a whole
    turn = np.linspace(0, 2 * math.pi, 180, endpoint=False)
    every = np.column_stack(
        [np.ones(180), np.cos(np.outer(turn, waves)), np.sin(np.outer(turn, waves))]
    )
    return Bore((found.x_mm, found.y_mm), found.diameter_mm, 2 * float(np.abs(every @ sizes).max()))


def mesh_of(section: Polygon) -> tuple[Array, NDArray[np.int64]]:
    """Points (n, 2) and triangles (m, 3) that fill a section, small in its thin walls. Raises
    ValueError where it does not come out.
    """
    size = math.sqrt(section.area)
    for fine in range(_TRIES):
        finest = size * _FINEST / 2**fine
        rough = shapely.simplify(section, max(_SIMPLER * 4 * finest, 1e-4))
        found = _meshed(rough, finest, size * _COARSEST, 1 / 2**fine)
        if found is not None:
            return found
    raise ValueError("the section has walls too thin to be meshed")


def _meshed(
    section: Polygon, finest: float, coarsest: float, scale: float
) -> tuple[Array, NDArray[np.int64]] | None:
    rims = [np.asarray(ring.coords) for ring in (section.exterior, *section.interiors)]
    rough = [_divided(ring, np.full(len(ring) - 1, coarsest)) for ring in rims]
    walls = [_wall_mm(section, ring) for ring in rough]
    sizes = [np.clip(scale * wall / _PER_WALL, finest, coarsest) for wall in walls]
    tree = cKDTree(np.concatenate(rough))
    field = np.concatenate(sizes)
    edges = [_divided(ring, field[tree.query((ring[:-1] + ring[1:]) / 2)[1]]) for ring in rims]
    rim = np.concatenate(edges)
    points = np.concatenate([rim, _inside(section, rim, tree, field, coarsest)])
    triangles = Delaunay(points).simplices
    corners = points[triangles]
    middle = corners.mean(axis=1)
    twice = _twice(corners)
    shapely.prepare(section)
    kept = shapely.contains_xy(section, middle[:, 0], middle[:, 1]) & (np.abs(twice) > 1e-9)
    triangles, twice = triangles[kept], twice[kept]
    if abs(np.abs(twice).sum() / 2 - section.area) > _MISSES * section.area:
        return None
    triangles[twice < 0] = triangles[twice < 0][:, ::-1]
    used, numbered = np.unique(triangles, return_inverse=True)
    return points[used], numbered.reshape(-1, 3).astype(np.int64)


def _twice(corners: Array) -> Array:
    """Twice the signed areas of triangles (n, 3, 2), (n,)."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    found: Array = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (
        c[:, 0] - a[:, 0]
    )
    return found


def _divided(ring: Array, longest: Array) -> Array:
    """A closed ring's points with others between, no farther apart than that; the last not
    repeated.
    """
    found = []
    for a, b, most in zip(ring[:-1], ring[1:], longest, strict=True):
        count = max(1, math.ceil(float(np.linalg.norm(b - a)) / most))
        found.append(a + (b - a) * (np.arange(count) / count)[:, None])
    return np.concatenate(found)


def _wall_mm(section: Polygon, rim: Array) -> Array:
    """How thick the section is inwards from each point of a rim that goes round it, (n,)."""
    way = np.roll(rim, -1, axis=0) - np.roll(rim, 1, axis=0)
    inward = np.column_stack([-way[:, 1], way[:, 0]])
    inward /= np.maximum(np.linalg.norm(inward, axis=1), 1e-12)[:, None]
    probe = rim + 1e-4 * inward
    shapely.prepare(section)
    if not shapely.contains_xy(section, probe[:, 0], probe[:, 1]).mean() > 0.5:
        inward = -inward
    far = 2 * max(section.bounds[2] - section.bounds[0], section.bounds[3] - section.bounds[1])
    start = rim + 1e-4 * inward
    rays = shapely.linestrings(np.stack([start, rim + far * inward], axis=1))
    met = shapely.intersection(rays, section.boundary)
    away = shapely.distance(shapely.points(rim), met)
    return np.where(np.isnan(away), far, away)


def _inside(section: Polygon, rim: Array, tree: Any, field: Array, coarsest: float) -> Array:
    """Points of triangular grids inside, as far apart as walls and their distance from the rim
    ask for.
    """
    x0, y0, x1, y1 = section.bounds
    edge = cKDTree(rim)
    found = []
    step = float(field.min())
    while step < 2 * coarsest:
        rows = np.arange(y0 + step / 2, y1, step * math.sqrt(3) / 2)
        across = np.arange(x0 + step / 4, x1, step)
        grid = np.stack(np.meshgrid(across, rows), axis=-1)
        grid[1::2, :, 0] += step / 2
        places = grid.reshape(-1, 2)
        off, _ = edge.query(places)
        wanted = np.minimum(field[tree.query(places)[1]] + _GROWS * off, coarsest)
        last = 2 * step >= 2 * coarsest
        mine = (wanted >= step) & ((wanted < 2 * step) | last) & (off > 0.55 * wanted)
        places = places[mine]
        if len(places):
            found.append(places[shapely.contains_xy(section, places[:, 0], places[:, 1])])
        step *= 2
    return np.concatenate(found) if found else np.empty((0, 2))
