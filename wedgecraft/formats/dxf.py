"""Outlines from a DXF drawing.

Closed polylines with bulges, and chains of lines, arcs, circles, ellipses and splines become loops.
Blocks are taken apart. Units come from the header ($INSUNITS) or from the caller.
"""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

import ezdxf
import ezdxf.path
import numpy as np
from ezdxf import recover
from ezdxf.entities import DXFGraphic

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, arc, corners, curve
from wedgecraft.core.records.drawing import DrawingUnits, FoundLayer, OutlinesFound
from wedgecraft.formats.errors import FileRefused, UnitsMissing, unreadable
from wedgecraft.formats.outlines import (
    JOIN_MM,
    MOST_ENTITIES,
    Array,
    check_finite,
    check_size,
    found_in,
    without_collecting,
)

#: $INSUNITS codes of the DXF reference, in mm.
_HEADER_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 13: 0.001}
_UNIT_NAMES = {25.4: "inch", 304.8: "foot", 1.0: "mm", 10.0: "cm", 1000.0: "m", 0.001: "µm"}


@dataclass(frozen=True)
class Arc:
    """A circular arc from ``start`` through ``sweep``, radians; a negative one goes clockwise."""

    x: float
    y: float
    radius: float
    start: float
    sweep: float

    def __len__(self) -> int:
        return 1 if self.radius > 0 else 0

    def points(self, scale: float) -> Array:
        """In mm, as ``arcs`` has them."""
        x, y, radius = (scale * value for value in (self.x, self.y, self.radius))
        check_finite(np.array([(x - radius, y - radius), (x + radius, y + radius)]))
        return arc(x, y, radius, self.start, self.sweep)


#: The two ends of a line, a circular arc, a polyline of both, or a path with other curves.
Curve = Array | Arc | list[Array | Arc] | ezdxf.path.Path
_CURVES = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE"}
#: A damaged file can make a reader of someone else's fail in any way (fuzzing found assertions,
#: too): all of them mean "unreadable".
_UNREADABLE = (Exception,)
_MOST_INSERTS = 10_000


@without_collecting()
def read_outlines(
    data: bytes,
    units: DrawingUnits | None = None,
    name: str = "drawing",
    layers: list[str] | None = None,
    join_mm: float = JOIN_MM,
) -> OutlinesFound:
    """Read all outlines on ``layers`` (all that are on, when not given).

    Raises FileRefused, or UnitsMissing when neither header nor caller gives units.
    """
    if units == "px":
        raise FileRefused("a DXF drawing has no pixels", "say mm or inch")
    entities, plain, header_scale = _entities(data)
    curves, notes = _curves(entities, plain)
    known = Counter(layer for layer, _ in curves)
    chosen = set(layers) if layers is not None else set(known)
    if layers is not None and not chosen & set(known):
        raise FileRefused(
            "none of the layers chosen has a curve",
            "choose one of " + ", ".join(sorted(known))[:300],
        )
    used = [path for layer, path in curves if layer in chosen]
    scale = {"mm": 1.0, "inch": 25.4}[units] if units else header_scale
    if scale is None:
        low, high = _extent(used)
        raise UnitsMissing(float(high[0] - low[0]), float(high[1] - low[1]))
    return found_in(
        _all_flattened(used, scale),
        join_mm=join_mm,
        origin=f"DXF {name}",
        units=f"{units}, as chosen" if units else f"{_UNIT_NAMES[scale]}, from the file",
        layers=[
            FoundLayer(name=layer, curves=count, used=layer in chosen)
            for layer, count in sorted(known.items())
        ],
        notes=notes,
    )


def _entities(data: bytes) -> tuple[list[tuple[str, Any]], list[tuple[str, Curve]], float | None]:
    """What is in model space on layers that are on: entities of the library, curves read by
    ourselves, and the unit in mm.
    """
    check_size(data, "DXF")
    try:
        document, plain = _document(data)
        space = list(islice(document.modelspace(), MOST_ENTITIES + 1))
        units = _HEADER_UNITS.get(int(document.header.get("$INSUNITS", 0)))
    except _UNREADABLE as error:
        raise unreadable(
            "this is not a DXF drawing that can be read",
            "export it again as DXF R2000 or later",
            error,
        ) from None
    if not space and not plain:
        raise FileRefused(
            "the drawing's model space is empty", "draw the outline in model space, not on a sheet"
        )
    frozen = {layer.dxf.name for layer in document.layers if layer.is_frozen()}
    hidden = frozen | {layer.dxf.name for layer in document.layers if layer.is_off()}
    try:
        # A block may hold blocks, each many times over: taken apart one by one, so that none can
        # fill the memory.
        entities = list(islice(_taken_apart(space, frozen), MOST_ENTITIES + 1))
    except FileRefused:
        raise
    except _UNREADABLE as error:
        raise unreadable(
            "a block could not be taken apart", "explode the blocks and save again", error
        ) from None
    if len(entities) + len(plain) > MOST_ENTITIES or len(space) > MOST_ENTITIES:
        raise FileRefused(
            f"the drawing has more than {MOST_ENTITIES:,} entities",
            f"at most {MOST_ENTITIES:,} are read; export the outline's layer only",
        )
    shown = [item for item in entities if item[0] not in hidden]
    return shown, [item for item in plain if item[0] not in hidden], units


def _taken_apart(
    space: Iterable[Any], frozen: set[str], inherited: str = "0", left: list[int] | None = None
) -> Iterator[tuple[str, Any]]:
    """Entities with the layer they are seen on: what a block has on layer 0 is on the layer of its
    insert; a frozen insert shows nothing.

    Source: the DXF reference, on layers and blocks. Raises FileRefused for blocks in blocks without
    end.
    """
    left = [_MOST_INSERTS] if left is None else left
    for entity in space:
        layer = entity.dxf.get("layer", "0")
        layer = inherited if layer == "0" else layer
        if entity.dxftype() != "INSERT":
            yield layer, entity
            continue
        if layer in frozen:
            continue
        for insert in entity.multi_insert() if entity.mcount > 1 else [entity]:
            left[0] -= 1
            if left[0] < 0:
                raise FileRefused(
                    f"the drawing inserts blocks more than {_MOST_INSERTS:,} times",
                    "export the outline's layer only",
                )
            yield from _taken_apart(insert.virtual_entities(), frozen, layer, left)


def _document(data: bytes) -> tuple[Any, list[tuple[str, Curve]]]:
    """A sound text file the quick way, its plain curves apart; anything else the forgiving way,
    whole.
    """
    if not data.startswith(b"AutoCAD Binary DXF"):
        try:
            rest, plain = plain_curves(data.decode("utf-8").replace("\r\n", "\n"))
            return ezdxf.read(io.StringIO(rest)), plain
        except _UNREADABLE:
            pass
    document, _ = recover.read(io.BytesIO(data))
    return document, []


def plain_curves(text: str) -> tuple[str, list[tuple[str, Curve]]]:
    """Lines, circles and arcs of model space with their layers, and the drawing without them.

    Most entities of most drawings are of these three, and the library takes ten times as long over
    each. What is out of the ordinary in any way (an extrusion, a value missing or not a number,
    paper space) stays in the drawing for the library. Source of the group codes: the published DXF
    reference.
    """
    lines = text.split("\n")
    codes, values = [code.strip() for code in lines[0::2]], lines[1::2]
    zeros = [index for index, code in enumerate(codes[: len(values)]) if code == "0"]
    start = next(
        (
            n
            for n, k in enumerate(zeros)
            if values[k].strip() == "SECTION" and values[k + 1].strip() == "ENTITIES"
        ),
        None,
    )
    if start is None:
        return text, []
    curves: list[tuple[str, Curve]] = []
    kept, copied = (
        [],
        0,
    )  # pieces of the drawing; pairs up to ``copied`` are in them, or were taken out
    for at, following in zip(zeros[start + 1 :], zeros[start + 2 :], strict=False):
        name = values[at].strip()
        if name == "ENDSEC":
            break
        if name not in _PLAIN:
            continue
        tags = dict(zip(codes[at + 1 : following], values[at + 1 : following], strict=True))
        found = None if _UNUSUAL & tags.keys() else _plain_curve(name, tags)
        if found is not None:
            curves.append((tags.get("8", "0").strip(), found))
            kept += lines[2 * copied : 2 * at]
            copied = following
    return "\n".join(kept + lines[2 * copied :]), curves


_PLAIN = {"LINE", "CIRCLE", "ARC"}
#: Group codes of paper space and of the extrusion.
_UNUSUAL = {"67", "210", "220", "230"}


def _plain_curve(name: str, tags: dict[str, str]) -> Curve | None:
    """Nothing when a value is missing or is not a number."""
    try:
        x, y = float(tags["10"]), float(tags["20"])
        if name == "LINE":
            return np.array([(x, y), (float(tags["11"]), float(tags["21"]))])
        radius = float(tags["40"])
        if name == "CIRCLE":
            return _arc_of(x, y, radius, 0.0, 360.0)
        return _arc_of(x, y, radius, float(tags["50"]), float(tags["51"]))
    except (KeyError, ValueError):
        return None


def _curves(
    entities: Iterable[tuple[str, DXFGraphic]], plain: list[tuple[str, Curve]]
) -> tuple[list[tuple[str, Curve]], list[str]]:
    curves = [item for item in plain if len(item[1])]
    other: Counter[str] = Counter()
    for layer, entity in entities:
        kind = entity.dxftype()
        if kind not in _CURVES:
            other[kind] += 1
            continue
        try:
            found = _curve(kind, entity)
        except _UNREADABLE as error:
            raise unreadable(
                f"a {kind} on layer {layer} could not be read", "redraw it", error
            ) from None
        if len(found):
            curves.append((layer, found))
    if not curves:
        held = (
            ", ".join(f"{count} {kind}" for kind, count in sorted(other.items()))
            or "nothing on a layer that is on"
        )
        raise FileRefused(
            f"no outline was found; the drawing holds {held}",
            "draw it with lines, arcs, circles or polylines",
        )
    return curves, [f"{count} {kind} left out" for kind, count in sorted(other.items())]


def _curve(kind: str, entity: Any) -> Curve:
    flat = not entity.dxf.hasattr("extrusion") or entity.dxf.extrusion.isclose((0, 0, 1))
    if kind == "LINE":
        start, end = entity.dxf.start, entity.dxf.end
        return np.array([(start.x, start.y), (end.x, end.y)])
    if kind in ("CIRCLE", "ARC") and flat:
        centre, radius = entity.dxf.center, entity.dxf.radius
        whole = kind == "CIRCLE"
        return _arc_of(
            centre.x,
            centre.y,
            radius,
            *((0.0, 360.0) if whole else (entity.dxf.start_angle, entity.dxf.end_angle)),
        )
    if kind == "LWPOLYLINE" and flat:
        return _run([tuple(point) for point in entity.get_points("xyb")], entity.closed)
    if kind == "POLYLINE" and flat and entity.is_2d_polyline and not entity.dxf.flags & 0b110:
        points = [
            (v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0.0)) for v in entity.vertices
        ]
        return _run(points, entity.is_closed)
    return ezdxf.path.make_path(entity)


def _run(points: list[tuple[float, float, float]], closed: bool) -> list[Array | Arc]:
    """The lines and arcs of a polyline; the bulge is the tangent of a quarter of the arc's angle
    (the DXF reference).
    """
    found: list[Array | Arc] = []
    for (x1, y1, bulge), (x2, y2, _) in zip(
        points, points[1:] + points[:1] if closed else points[1:], strict=False
    ):
        across = math.hypot(x2 - x1, y2 - y1)
        if across == 0:
            continue
        if abs(bulge) < 1e-9:
            found.append(np.array([(x1, y1), (x2, y2)]))
            continue
        sweep = 4 * math.atan(bulge)
        off = (
            across / 2 * (1 - bulge * bulge) / (2 * bulge)
        )  # of the centre from the chord, to its left
        x, y = (x1 + x2) / 2 - off * (y2 - y1) / across, (y1 + y2) / 2 + off * (x2 - x1) / across
        found.append(Arc(x, y, math.hypot(x1 - x, y1 - y), math.atan2(y1 - y, x1 - x), sweep))
    return found


def _arc_of(x: float, y: float, radius: float, start: float, end: float) -> Arc:
    """Between two angles in degrees, counter-clockwise; the same angle twice is a full circle."""
    return Arc(x, y, radius, math.radians(start), math.radians((end - start) % 360) or 2 * math.pi)


def _extent(curves: list[Curve]) -> tuple[Array, Array]:
    points = np.concatenate([_control(path) for path in curves])
    check_finite(points)
    return points.min(axis=0), points.max(axis=0)


def _control(path: Curve) -> Array:
    if isinstance(path, list):
        return np.concatenate([_control(item) for item in path])
    if isinstance(path, Arc):
        reach = path.radius
        return np.array([(path.x - reach, path.y - reach), (path.x + reach, path.y + reach)])
    return (
        path
        if isinstance(path, np.ndarray)
        else np.array([(v.x, v.y) for v in path.control_vertices()])
    )


def _all_flattened(curves: list[Curve], scale: float) -> list[Array]:
    """Curves as chords, in mm. Raises FileRefused when they would take millions of points, as with
    units a thousand times too big.
    """
    found, points = [], 0
    for path in curves:
        found.append(_flattened(path, scale))
        points += len(found[-1])
        if points > _MOST_POINTS:
            low, high = _extent(curves)
            across = float((high - low).max()) * scale
            raise FileRefused(
                f"to {CHORD_ERROR_MM:g} mm its curves would take over {_MOST_POINTS:,} points; it"
                f" is {across / 1000:.4g} m across",
                "check the units, or export the outline's layer only",
            )
    return found


_MOST_POINTS = 1_000_000


def _flattened(path: Curve, scale: float) -> Array:
    """Points in mm, as ``arcs`` has them."""
    if isinstance(path, Arc):
        return path.points(scale)
    if isinstance(path, list):
        runs = [_flattened(item, scale) for item in path]
        return np.concatenate([runs[0], *[run[1:] for run in runs[1:]]])
    control = _control(path)
    if isinstance(path, np.ndarray) or not path.has_curves:
        return corners(control * scale)
    check_finite(control * scale)
    if float(np.ptp(control, axis=0).max()) * scale < 1e-9:
        return corners(control[:1] * scale)
    try:
        found = (
            np.array([(v.x, v.y) for v in path.flattening(CHORD_ERROR_MM / scale, segments=4)])
            * scale
        )
    except _UNREADABLE as error:
        raise unreadable("a curve could not be followed", "redraw it", error) from None
    return curve(found) if math.isfinite(float(found.sum())) else corners(found[:1])
