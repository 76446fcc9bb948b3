"""A part's outline from a DXF drawing.

Closed polylines with bulges, and chains of lines, arcs and circles (ellipses and splines too) become loops; the largest is the
outline, loops inside it are holes. Units come from the header ($INSUNITS) or from the caller.
"""

from __future__ import annotations

import io
import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

import ezdxf
import ezdxf.path
import numpy as np
import shapely
from ezdxf import recover
from ezdxf.entities import DXFGraphic
from numpy.typing import NDArray
from shapely.geometry import Polygon

from wedgecraft.core.part import Outline, check_outline
from wedgecraft.formats.errors import FileRefused, UnitsMissing

Units = Literal["mm", "inch"]
Array = NDArray[np.float64]

MOST_BYTES = 25_000_000
MOST_ENTITIES = 50_000
CHORD_ERROR_MM = 0.01
#: Ends closer than this belong together.
JOIN_MM = 0.01
#: $INSUNITS codes of the DXF reference, in mm.
_HEADER_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 13: 0.001}
_CURVES = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE"}


@dataclass(frozen=True)
class DxfOutline:
    """The outline, and what was found and left out on the way."""

    outline: Outline
    notes: list[str] = field(default_factory=list)


def read_outline(data: bytes, units: Units | None = None, name: str = "drawing") -> DxfOutline:
    """Read the outline. Raises FileRefused, or UnitsMissing when neither header nor caller gives units."""
    entities, header_scale = _entities(data)
    curves, notes = _curves(entities)
    scale = {"mm": 1.0, "inch": 25.4}[units] if units else header_scale
    if scale is None:
        low, high = _extent(curves)
        raise UnitsMissing(high[0] - low[0], high[1] - low[1])
    loops, open_chains = _loops(curves, scale)
    if open_chains and not loops:
        nearest = min(open_chains, key=lambda chain: float(np.linalg.norm(chain[-1] - chain[0])))
        gap = float(np.linalg.norm(nearest[-1] - nearest[0]))
        raise FileRefused(
            f"the outline is open: {len(open_chains)} chain(s) of curves do not close, the nearest to closing has a gap of "
            f"{gap:.3g} mm at X{nearest[0][0]:.3f} Y{nearest[0][1]:.3f}",
            f"close the gap in the drawing; ends up to {JOIN_MM:g} mm apart are joined by themselves",
        )
    if open_chains:
        notes.append(f"{len(open_chains)} open chain(s) were left out")
    outer, holes = _nest(loops)
    ring = [(float(x), float(y)) for x, y in outer]
    try:
        outline = Outline(
            outer=ring, holes=[[(float(x), float(y)) for x, y in hole] for hole in holes],
            chord_error_mm=CHORD_ERROR_MM, origin=f"DXF {name}"[:200],
        )  # fmt: skip
    except ValueError as error:
        raise FileRefused(str(error), "mend the drawing and load it again") from None
    return DxfOutline(outline, notes)


def _entities(data: bytes) -> tuple[list[DXFGraphic], float | None]:
    if len(data) == 0:
        raise FileRefused("the file is empty", "export the outline again as DXF")
    if len(data) > MOST_BYTES:
        raise FileRefused(
            f"the file has {len(data) / 1e6:.1f} MB", f"at most {MOST_BYTES / 1e6:.0f} MB are read; export the part's outline only"
        )
    try:
        document, auditor = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, TypeError, AttributeError, IndexError) as error:
        raise FileRefused(
            f"this is not a DXF drawing that can be read ({str(error)[:120] or type(error).__name__})",
            "export it again as DXF R2000 or later",
        ) from None
    del auditor
    entities = list(document.modelspace())
    if not entities:
        raise FileRefused("the drawing's model space is empty", "draw the outline in model space, not on a sheet or in a block")
    if len(entities) > MOST_ENTITIES:
        raise FileRefused(
            f"the drawing has {len(entities)} entities", f"at most {MOST_ENTITIES} are read; export the outline's layer only"
        )
    return entities, _HEADER_UNITS.get(int(document.header.get("$INSUNITS", 0)))


def _curves(entities: Iterable[DXFGraphic]) -> tuple[list[ezdxf.path.Path], list[str]]:
    curves: list[ezdxf.path.Path] = []
    other: dict[str, int] = {}
    for entity in entities:
        kind = entity.dxftype()
        if kind not in _CURVES:
            other[kind] = other.get(kind, 0) + 1
            continue
        try:
            path = ezdxf.path.make_path(entity)
        except (TypeError, ValueError, ezdxf.DXFError) as error:
            raise FileRefused(f"a {kind} could not be read ({str(error)[:80]})", "redraw it") from None
        if len(path):
            curves.append(path)
    if not curves:
        found = ", ".join(f"{count} {kind}" for kind, count in sorted(other.items())) or "nothing"
        raise FileRefused(f"no outline was found; the drawing holds {found}", "draw it with lines, arcs, circles or polylines")
    notes = [f"{count} {kind} left out" for kind, count in sorted(other.items())]
    return curves, notes


def _extent(curves: list[ezdxf.path.Path]) -> tuple[Array, Array]:
    points = np.array([(v.x, v.y) for path in curves for v in path.control_vertices()])
    return points.min(axis=0), points.max(axis=0)


def _flattened(path: ezdxf.path.Path, scale: float) -> Array:
    points = np.array([(v.x, v.y) for v in path.flattening(CHORD_ERROR_MM / scale, segments=8)]) * scale
    if not np.isfinite(points).all() or np.abs(points).max() > 1e6:
        raise FileRefused("a curve has coordinates that are not finite or beyond 1 km", "check the drawing, and its units")
    keep = np.concatenate([[True], np.any(np.abs(np.diff(points, axis=0)) > 1e-9, axis=1)])
    return points[keep]


def _loops(curves: list[ezdxf.path.Path], scale: float) -> tuple[list[Array], list[Array]]:
    """Join ends into chains; give closed loops and open chains."""
    loops, pieces = [], []
    for path in curves:
        points = _flattened(path, scale)
        if len(points) >= 3 and np.linalg.norm(points[0] - points[-1]) <= JOIN_MM:
            loops.append(points[:-1])
        elif len(points) >= 2:
            pieces.append(points)
    chains: list[Array] = []
    ends: dict[tuple[int, int], list[int]] = {}
    for index, piece in enumerate(pieces):
        for end in (piece[0], piece[-1]):
            ends.setdefault(_cell(end), []).append(index)
    unused = set(range(len(pieces)))
    while unused:
        chain = pieces[min(unused)]
        unused.discard(min(unused))
        for _ in range(2):
            while (found := _next(chain[-1], pieces, ends, unused)) is not None:
                index, piece = found
                unused.discard(index)
                chain = np.concatenate([chain, piece[1:]])
            chain = chain[::-1]
        if len(chain) >= 4 and np.linalg.norm(chain[0] - chain[-1]) <= JOIN_MM:
            loops.append(chain[:-1])
        else:
            chains.append(chain)
    return loops, chains


def _cell(point: Array) -> tuple[int, int]:
    return math.floor(point[0] / JOIN_MM), math.floor(point[1] / JOIN_MM)


def _next(end: Array, pieces: list[Array], ends: dict[tuple[int, int], list[int]], unused: set[int]) -> tuple[int, Array] | None:
    """The unused piece that starts or ends nearest to here, turned to start here."""
    column, row = _cell(end)
    best: tuple[float, int, Array] | None = None
    for dx in (-1, 0, 1):
        for dy in (-1, 0, 1):
            for index in ends.get((column + dx, row + dy), ()):
                if index not in unused:
                    continue
                for piece in (pieces[index], pieces[index][::-1]):
                    gap = float(np.linalg.norm(piece[0] - end))
                    if gap <= JOIN_MM and (best is None or (gap, index) < best[:2]):
                        best = (gap, index, piece)
    return None if best is None else (best[1], best[2])


def _nest(loops: list[Array]) -> tuple[Array, list[Array]]:
    polygons = []
    for loop in loops:
        polygon = Polygon(loop) if len(loop) >= 3 else Polygon()
        if polygon.is_empty or polygon.convex_hull.area < 1e-6:
            continue
        if not polygon.is_valid:
            raise FileRefused(f"a loop crosses itself: {shapely.is_valid_reason(polygon)}", "draw it as one simple loop")
        polygons.append(polygon)
    if not polygons:
        raise FileRefused("the loops found have no area", "draw the outline as a closed loop around the part")
    polygons.sort(key=lambda p: -p.area)
    outer, rest = polygons[0], polygons[1:]
    try:
        check_outline(outer)
    except ValueError as error:
        raise FileRefused(str(error), "check the drawing, and its units") from None
    holes: list[Polygon] = []
    for loop in rest:
        if any(loop.equals(known) for known in (outer, *holes)):
            continue  # drawn twice
        if not outer.contains(loop):
            where = loop.representative_point()
            raise FileRefused(
                f"a second loop lies outside the outline or crosses it, near X{where.x:.2f} Y{where.y:.2f}",
                "leave only one part in the drawing",
            )
        if not any(hole.contains(loop) for hole in holes):
            holes.append(loop)
    for index, hole in enumerate(holes):
        if any(hole.intersects(other) for other in holes[:index]):
            raise FileRefused("two holes cross or touch each other", "draw them as separate loops")
    return shapely.get_coordinates(outer.exterior)[:-1], [shapely.get_coordinates(hole.exterior)[:-1] for hole in holes]
