"""From any triangles to one body: welded, wound outwards, its pieces told apart; or refused, with
what would work.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from manifold3d import Error, Manifold, Mesh64
from numpy.typing import NDArray

from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.workpiece.body import Body, united

Array = NDArray[np.float64]
#: Corners this near are one, tried one after another; the first is rounding, the others a mend.
_WELDS_MM = (1e-5, 1e-3, 1e-2)
#: A piece smaller than this is a speck, mm3.
_SPECK_MM3 = 1e-3
#: Thinner than this a part is a surface, mm.
_LEAST_THICK_MM = 0.02


class NotABody(ValueError):
    """Triangles that make no body: what was found, and what to do."""

    def __init__(self, what: str, remedy: str) -> None:
        super().__init__(f"{what}; {remedy}")
        self.what, self.remedy = what, remedy


@dataclass(frozen=True)
class Mended:
    """Bodies that do not touch one another, the largest first, and what was mended, in words."""

    bodies: list[Body]
    notes: list[str] = field(default_factory=list)


def one_body(points: Array, triangles: NDArray[np.int64], chord_error_mm: float) -> Mended:
    """The only body of a mesh. Raises NotABody, with names and sizes where there are several."""
    found = mended(points, triangles, chord_error_mm)
    if len(found.bodies) > 1:
        sizes = "; ".join(
            f"body {number}: {' x '.join(f'{side:.4g}' for side in _size(body))} mm"
            for number, body in enumerate(found.bodies[:6], 1)
        )
        raise NotABody(
            f"the file holds {len(found.bodies)} bodies that do not touch ({sizes})",
            "export the part alone, or pick one of them",
        )
    return found


def mended(points: Array, triangles: NDArray[np.int64], chord_error_mm: float) -> Mended:
    """All bodies of a mesh. ``points`` (n, 3) in mm, ``triangles`` (m, 3).

    Raises NotABody for an open or tangled surface, and for one that encloses nothing.
    """
    if not len(triangles) or not np.isfinite(points).all():
        raise NotABody(
            "the file holds no surface that can be followed", "export the part as a solid body"
        )
    notes: list[str] = []
    solid = None
    for weld in _WELDS_MM:
        corners, sides = _welded(points, triangles, weld)
        solid = Manifold(Mesh64(corners, sides.astype(np.uint64)))
        if solid.status() != Error.NoError:
            turned = _wound_alike(sides)
            if turned is not None:
                solid = Manifold(Mesh64(corners, turned.astype(np.uint64)))
        if solid.status() == Error.NoError and not solid.is_empty():
            if weld > _WELDS_MM[0]:
                notes.append(f"corners up to {weld:g} mm apart were joined")
            break
    if solid is None or solid.status() != Error.NoError or solid.is_empty():
        raise NotABody(
            _why_not(points, triangles), "mend the solid where it was drawn, export it again"
        )
    shells = [shell for shell in solid.decompose() if abs(shell.volume()) > _SPECK_MM3]
    if not shells:
        raise NotABody(
            "the surface encloses no volume", "export the part as a solid body, not as a sheet"
        )
    bodies, said = _told_apart(shells, chord_error_mm)
    thin = min(bodies, key=lambda body: body.thickness_mm)
    if thin.thickness_mm < _LEAST_THICK_MM:
        raise NotABody(
            f"a body of the file is only {thin.thickness_mm:.3g} mm thick",
            "give sheets a thickness, or check the units",
        )
    return Mended(sorted(bodies, key=lambda body: -body.volume_mm3), notes + said)


def _welded(
    points: Array, triangles: NDArray[np.int64], weld_mm: float
) -> tuple[Array, NDArray[np.int64]]:
    """Corners that are one made one; triangles that are then no triangles, or there twice, left
    out.
    """
    cells = np.round(points / weld_mm).astype(np.int64)
    _, first, same = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    sides = same.reshape(-1)[triangles]
    whole = (
        (sides[:, 0] != sides[:, 1]) & (sides[:, 1] != sides[:, 2]) & (sides[:, 2] != sides[:, 0])
    )
    sides = sides[whole]
    _, once = np.unique(np.sort(sides, axis=1), axis=0, return_index=True)
    return points[first], sides[np.sort(once)]


def _edges(triangles: NDArray[np.int64]) -> NDArray[np.int64]:
    return np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])


def _wound_alike(triangles: NDArray[np.int64]) -> NDArray[np.int64] | None:
    """The same triangles wound so that neighbours agree; nothing where an edge has not two."""
    edges = np.sort(_edges(triangles), axis=1)
    _, edge_of, count = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    if (count != 2).any():
        return None
    number = len(triangles)
    order = np.argsort(edge_of.reshape(-1), kind="stable") % number
    pairs = order.reshape(-1, 2)
    near: list[list[int]] = [[] for _ in range(number)]
    for a, b in pairs.tolist():
        near[a].append(b)
        near[b].append(a)
    found = triangles.copy()
    seen = np.zeros(number, dtype=bool)
    for start in range(number):
        if seen[start]:
            continue
        seen[start], edge = True, [start]
        while edge:
            one = edge.pop()
            ways = {(int(found[one][k]), int(found[one][(k + 1) % 3])) for k in range(3)}
            for other in near[one]:
                if seen[other]:
                    continue
                seen[other] = True
                if any(
                    (int(found[other][k]), int(found[other][(k + 1) % 3])) in ways for k in range(3)
                ):
                    found[other] = found[other][::-1]
                edge.append(other)
    return found


def _why_not(points: Array, triangles: NDArray[np.int64]) -> str:
    _, sides = _welded(points, triangles, _WELDS_MM[0])
    if not len(sides):
        return "the file holds no surface that can be followed"
    edges = np.sort(_edges(sides), axis=1)
    _, count = np.unique(edges, axis=0, return_counts=True)
    open_, shared = int((count == 1).sum()), int((count > 2).sum())
    if open_:
        return f"the surface is open along {open_} edges"
    if shared:
        return f"the surface touches itself along {shared} edges"
    return "the surface is tangled"


def _told_apart(shells: list[Manifold], chord_error_mm: float) -> tuple[list[Body], list[str]]:
    """Bodies from shells: what lies in another is its hollow, what overlaps is one."""
    notes: list[str] = []
    outward = [shell if shell.volume() > 0 else _inside_out(shell) for shell in shells]
    order = sorted(range(len(shells)), key=lambda k: -outward[k].volume())
    depth: dict[int, int] = {}
    parent: dict[int, int] = {}
    for k in order:
        inside = [j for j in depth if _lies_in(outward[k], outward[j])]
        depth[k] = len(inside)
        if inside:
            parent[k] = min(inside, key=lambda j: outward[j].volume())
    hollow = [k for k in order if depth[k] % 2 and shells[k].volume() < 0]
    stray = [k for k in order if depth[k] % 2 and shells[k].volume() > 0]
    wrong = [k for k in order if depth[k] % 2 == 0 and shells[k].volume() < 0]
    if wrong:
        notes.append("the surface was inside out and was turned")
    if hollow:
        notes.append(f"{len(hollow)} hollow{'s' if len(hollow) > 1 else ''} inside the body kept")
    if stray:
        notes.append("a body that lies inside another was taken as part of it")
    bodies: list[Body] = []
    for k in order:
        if depth[k] % 2:
            continue
        body = Body(outward[k], chord_error_mm)
        for j in hollow:
            if parent[j] == k:
                body = body - Body(outward[j], chord_error_mm)
        bodies.append(body)
    return _joined(bodies, notes), notes


def _joined(bodies: list[Body], notes: list[str]) -> list[Body]:
    """Those that overlap or touch made one."""
    if len(bodies) < 2:
        return bodies
    whole = united(bodies)
    found = whole.pieces()
    if len(found) < len(bodies):
        notes.append(f"{len(bodies)} bodies that overlap or touch were joined")
        return found
    return bodies


def _inside_out(shell: Manifold) -> Manifold:
    points, triangles = Body(shell).mesh
    turned = np.ascontiguousarray(triangles[:, ::-1]).astype(np.uint64)
    return Manifold(Mesh64(np.array(points, order="C"), turned))


def _lies_in(inner: Manifold, outer: Manifold) -> bool:
    low, high = np.array(outer.bounding_box()).reshape(2, 3)
    own = np.array(inner.bounding_box()).reshape(2, 3)
    if (own[0] < low - 1e-9).any() or (own[1] > high + 1e-9).any():
        return False
    return _winding(Body(inner).mesh[0][0], outer) > 0.5


def _winding(point: Array, solid: Manifold) -> float:
    """How often a closed surface winds round a point: 1 inside, 0 outside (van Oosterom and
    Strackee, 1983).
    """
    corners, triangles = Body(solid).mesh
    a, b, c = (corners[triangles[:, k]] - point for k in range(3))
    la, lb, lc = (np.linalg.norm(way, axis=1) for way in (a, b, c))
    top = np.einsum("ij,ij->i", a, cross(b, c))
    low = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(np.arctan2(top, low).sum() / (2 * np.pi))


def _size(body: Body) -> tuple[float, float, float]:
    x0, y0, z0, x1, y1, z1 = body.box
    return x1 - x0, y1 - y0, z1 - z0
