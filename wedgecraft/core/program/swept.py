"""Tools swept along moves, against what stands and against workpieces as they are cut: compiled.

A tool is a stack of rings that reaches up to its spindle, so what it meets is whatever stands
higher than the lowest of it there. Against what stands: exact for straight moves. Workpieces are
kept as the height of each cell of a grid: what a cutter passes is lowered, and what is not its
cutting edges, or is at rapid, must find nothing higher than it is.
"""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.workpiece.body import Body

Array = NDArray[np.float64]
Whole = NDArray[np.int64]
#: Where a workpiece has nothing.
NONE_MM = -1e9
#: Deeper than this in a workpiece is a hit; in a clamp, a stop, a plate; wider at the side, mm.
TOUCH_MM, _STANDS_MM, _BESIDE_MM = 0.02, 0.005, 0.02
#: Deeper than this under a finished face is a hit, mm.
SPOILT_MM = 0.05
#: How deep a hit goes is looked at in so many places of a way.
_PLACES = 100
#: Between two of them the end of it is found by so many halvings.
_HALVINGS = 12
#: So many kinds of hit on a workpiece, and what they are.
RAPID, SPOILT, RUBS, HOLDER_RAPID = range(4)


@dataclass(frozen=True)
class Grid:
    """Heights of a workpiece seen from the spindle, (rows of y, columns of x), in its own frame:
    ``low`` is the corner of the first cell.
    """

    low: tuple[float, float]
    step_mm: float
    heights: Array


def step_for(body: Body) -> float:
    """A grid's step: fine for small parts, never coarser than half a millimetre."""
    x0, y0, _, x1, y1, _ = body.box
    return float(np.clip(np.sqrt((x1 - x0) * (y1 - y0)) / 250, 0.1, 0.5))


def heights_of(body: Body, within: Body, step_mm: float) -> Grid:
    """The upper side of a body in the middle of each cell of a grid over another."""
    x0, y0, _, x1, y1, _ = within.box
    columns, rows = (max(1, int(np.ceil(d / step_mm - 1e-9))) for d in (x1 - x0, y1 - y0))
    heights = np.full((rows, columns), NONE_MM)
    if not body.empty:
        points, triangles = body.mesh
        _cast(np.ascontiguousarray(points), triangles, x0, y0, step_mm, heights)
    return Grid((x0, y0), step_mm, heights)


def lowest_near(heights: Array) -> Array:
    """Of each cell and its neighbours the lowest: what may be cut away at its edges."""
    wide = np.pad(heights, 1, mode="edge")
    rows, columns = heights.shape
    found: Array = np.min(
        [wide[i : i + rows, j : j + columns] for i in range(3) for j in range(3)], axis=0
    )
    return found


@numba.njit(cache=True)
def _cast(points, triangles, x0, y0, step, heights):  # type: ignore[no-untyped-def]
    rows, columns = heights.shape
    for n in range(triangles.shape[0]):
        a, b, c = points[triangles[n, 0]], points[triangles[n, 1]], points[triangles[n, 2]]
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if area <= 1e-12:  # it looks down, or sideways
            continue
        left = min(a[0], b[0], c[0])
        right = max(a[0], b[0], c[0])
        front = min(a[1], b[1], c[1])
        back = max(a[1], b[1], c[1])
        first = max(0, int(np.floor((left - x0) / step - 0.5)))
        last = min(columns - 1, int(np.ceil((right - x0) / step)))
        low = max(0, int(np.floor((front - y0) / step - 0.5)))
        high = min(rows - 1, int(np.ceil((back - y0) / step)))
        for i in range(low, high + 1):
            y = y0 + (i + 0.5) * step
            for j in range(first, last + 1):
                x = x0 + (j + 0.5) * step
                u = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / area
                v = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) / area
                if u >= -1e-9 and v >= -1e-9 and u + v <= 1 + 1e-9:
                    z = a[2] + v * (b[2] - a[2]) + u * (c[2] - a[2])
                    heights[i, j] = max(heights[i, j], z)


@numba.njit(cache=True)
def _over(value, slope, level):  # type: ignore[no-untyped-def]
    """Where in 0 to 1 ``value + slope t`` is below a level: from, to; from > to for nowhere."""
    if abs(slope) < 1e-12:
        return (0.0, 1.0) if value < level else (1.0, 0.0)
    t = (level - value) / slope
    if slope > 0:
        return 0.0, min(1.0, t)
    return max(0.0, t), 1.0


@numba.njit(cache=True)
def _inside(x, y, ring, first, last):  # type: ignore[no-untyped-def]
    found = False
    k = last - 1
    for n in range(first, last):
        if (ring[n, 1] > y) != (ring[k, 1] > y):
            at = ring[n, 0] + (y - ring[n, 1]) / (ring[k, 1] - ring[n, 1]) * (
                ring[k, 0] - ring[n, 0]
            )
            if x < at:
                found = not found
        k = n
    return found


@numba.njit(cache=True)
def _to_segment(px, py, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    dx, dy = bx - ax, by - ay
    size = dx * dx + dy * dy
    t = 0.0
    if size > 0:
        t = min(1.0, max(0.0, ((px - ax) * dx + (py - ay) * dy) / size))
    return np.hypot(px - ax - t * dx, py - ay - t * dy)


@numba.njit(cache=True)
def _apart(ax, ay, bx, by, cx, cy, dx, dy):  # type: ignore[no-untyped-def]
    """How far two straight lines between points are apart, 0 where they cross."""
    one = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    two = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax)
    three = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx)
    four = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx)
    if one * two < 0 and three * four < 0:
        return 0.0
    return min(
        min(_to_segment(ax, ay, cx, cy, dx, dy), _to_segment(bx, by, cx, cy, dx, dy)),
        min(_to_segment(cx, cy, ax, ay, bx, by), _to_segment(dx, dy, ax, ay, bx, by)),
    )


@numba.njit(cache=True)
def _within(x, y, radius, rings, first, last):  # type: ignore[no-untyped-def]
    """Whether a place is nearer to an outline than a radius."""
    if _inside(x, y, rings, first, last):
        return True
    m = last - 1
    for i in range(first, last):
        if _to_segment(x, y, rings[m, 0], rings[m, 1], rings[i, 0], rings[i, 1]) < radius:
            return True
        m = i
    return False


@numba.njit(cache=True)
def _lowest(px, py, pz, qx, qy, qz, radius, rings, first, last):  # type: ignore[no-untyped-def]
    """How low it comes while it is within a radius of an outline: looked for at a few places of a
    way, from the lowest of them halved on to where it leaves.
    """
    # from the low end up: the first place that is within is the lowest
    lx, ly, lz, hx, hy, hz = px, py, pz, qx, qy, qz
    if qz < pz:
        lx, ly, lz, hx, hy, hz = qx, qy, qz, px, py, pz
    for n in range(_PLACES + 1):
        t = n / _PLACES
        if not _within(lx + t * (hx - lx), ly + t * (hy - ly), radius, rings, first, last):
            continue
        off = max(0.0, t - 1 / _PLACES)
        for _ in range(_HALVINGS):
            half = (off + t) / 2
            if _within(lx + half * (hx - lx), ly + half * (hy - ly), radius, rings, first, last):
                t = half
            else:
                off = half
        return lz + (t if n else 0.0) * (hz - lz)
    return max(pz, qz)


@numba.njit(cache=True)
def against_standing(ways, tools, radii, lows, rises, rings, starts, highs, boxes):  # type: ignore[no-untyped-def]
    """The first way of each tool's ring that meets each standing thing, -1 for none, and how deep:
    (things, tools, rings) both. ``ways`` (n, 6): the tip from and to; ``tools`` (n,): rows of
    ``radii``, ``lows``; ``rings``: all corners, those of thing k from ``starts[k]``; ``boxes``
    (things, 4): lowest x, y, highest x, y.
    """
    things, many, deep = len(highs), radii.shape[0], radii.shape[1]
    first = np.full((things, many, deep), -1, np.int64)
    depth = np.zeros((things, many, deep))
    for n in range(ways.shape[0]):
        ax, ay, az = ways[n, 0], ways[n, 1], ways[n, 2]
        bx, by, bz = ways[n, 3], ways[n, 4], ways[n, 5]
        tool = tools[n]
        low_z = min(az, bz)
        for k in range(things):
            if low_z >= highs[k] - _STANDS_MM:
                continue
            for s in range(deep):
                radius = radii[tool, s] - _BESIDE_MM
                if radius <= 0 or first[k, tool, s] >= 0:
                    continue
                if min(ax, bx) - radius >= boxes[k, 2] or max(ax, bx) + radius <= boxes[k, 0]:
                    continue
                if min(ay, by) - radius >= boxes[k, 3] or max(ay, by) + radius <= boxes[k, 1]:
                    continue
                up = lows[tool, s]
                begin, end = _over(az + up, bz - az, highs[k] - _STANDS_MM)
                if begin > end:
                    continue
                px, py = ax + begin * (bx - ax), ay + begin * (by - ay)
                qx, qy = ax + end * (bx - ax), ay + end * (by - ay)
                near = 1e9
                if _inside(px, py, rings, starts[k], starts[k + 1]):
                    near = 0.0
                else:
                    m = starts[k + 1] - 1
                    for i in range(starts[k], starts[k + 1]):
                        apart = _apart(
                            px, py, qx, qy, rings[m, 0], rings[m, 1], rings[i, 0], rings[i, 1]
                        )
                        near = min(near, apart)
                        m = i
                if near >= radius:
                    continue
                z = _lowest(
                    px,
                    py,
                    az + begin * (bz - az) + up,
                    qx,
                    qy,
                    az + end * (bz - az) + up,
                    radius,
                    rings,
                    starts[k],
                    starts[k + 1],
                )
                if s == 0:  # the end of a drill or a chamfer mill is higher beside its axis
                    z += near * rises[tool]
                if z < highs[k] - _STANDS_MM:
                    first[k, tool, s] = n
                    depth[k, tool, s] = highs[k] - z
    return first, depth


@numba.njit(cache=True)
def through_part(heights, least, x0, y0, step, ways, rapid, tools, radii, lows, rises, whole):  # type: ignore[no-untyped-def]
    """Cuts a workpiece and finds what meets it: of each tool's ring and each kind of hit the first
    way, -1 for none, how deep, and the cell: (tools, rings, kinds), the last (…, 2). ``heights`` is
    lowered; ``least``: what must stay.
    """
    many, deep = radii.shape
    first = np.full((many, deep, 4), -1, np.int64)
    depth = np.zeros((many, deep, 4))
    place = np.zeros((many, deep, 4, 2))
    rows, columns = heights.shape
    top = heights.max()
    for n in range(ways.shape[0]):
        ax, ay, az = ways[n, 0], ways[n, 1], ways[n, 2]
        vx, vy, vz = ways[n, 3] - ax, ways[n, 4] - ay, ways[n, 5] - az
        tool = tools[n]
        low_z = min(az, az + vz)
        flat = vx * vx + vy * vy
        reach = 0.0
        for s in range(deep):
            if radii[tool, s] > 0 and low_z + lows[tool, s] < top:
                reach = max(reach, radii[tool, s])
        if reach == 0.0:
            continue
        i0 = max(0, int(np.floor((min(ay, ay + vy) - reach - y0) / step - 0.5)))
        i1 = min(rows - 1, int(np.ceil((max(ay, ay + vy) + reach - y0) / step - 0.5)))
        j0 = max(0, int(np.floor((min(ax, ax + vx) - reach - x0) / step - 0.5)))
        j1 = min(columns - 1, int(np.ceil((max(ax, ax + vx) + reach - x0) / step - 0.5)))
        cutting = not rapid[n]
        for i in range(i0, i1 + 1):
            y = y0 + (i + 0.5) * step - ay
            for j in range(j0, j1 + 1):
                height = heights[i, j]
                if height <= low_z:
                    continue
                x = x0 + (j + 0.5) * step - ax
                near = 0.0
                if flat > 1e-18:
                    near = min(1.0, max(0.0, (x * vx + y * vy) / flat))
                off = np.hypot(x - near * vx, y - near * vy)
                if off > reach:
                    continue
                for s in range(deep):
                    radius = radii[tool, s]
                    if not (cutting and s == 0):
                        radius -= _BESIDE_MM
                    if radius <= 0 or off > radius:
                        continue
                    begin, end = 0.0, 1.0
                    if flat > 1e-18:
                        # how far along it stays within the radius of this cell
                        beside = (x * vy - y * vx) ** 2 / flat
                        half = np.sqrt(max(0.0, radius * radius - beside) / flat)
                        at = (x * vx + y * vy) / flat
                        begin, end = max(0.0, at - half), min(1.0, at + half)
                    z = az + lows[tool, s]
                    lowest = min(z + begin * vz, z + end * vz)
                    if s == 0 and rises[tool] > 0:
                        rise = rises[tool]
                        t = near
                        if flat > 1e-18:  # where slope of the way and of the cone are the same
                            steep = -vz / (rise * np.sqrt(flat))
                            t = at + np.sign(steep) * 1e9
                            if abs(steep) < 1:
                                t = at + steep * np.sqrt(beside / (1 - steep * steep) / flat)
                            t = min(end, max(begin, t))
                        elif vz < 0:
                            t = 1.0
                        lowest = z + t * vz + rise * np.hypot(x - t * vx, y - t * vy)
                    if lowest >= height:
                        continue
                    if cutting and s == 0:
                        if not whole[tool]:
                            continue
                        kind, over = SPOILT, least[i, j] - lowest - SPOILT_MM
                        heights[i, j] = lowest
                        height = lowest
                    else:
                        kind, over = RUBS, height - lowest - TOUCH_MM
                        if not cutting:
                            kind = RAPID if s == 0 else HOLDER_RAPID
                    if over <= 0:
                        continue
                    known = first[tool, s, kind]
                    if known >= 0 and known != n:
                        continue
                    first[tool, s, kind] = n
                    if over > depth[tool, s, kind]:
                        depth[tool, s, kind] = over
                        place[tool, s, kind, 0] = x + ax
                        place[tool, s, kind, 1] = y + ay
    return first, depth, place
