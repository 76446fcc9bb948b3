"""Outlines from an SVG drawing: paths and shapes with their transforms.

The document is looked at for hostile content before it is read: no document type, no entities,
nothing endlessly nested or cloned. A width in real units with a view box gives the scale; otherwise
the caller says what one unit of the drawing is. Y is turned up.
"""

from __future__ import annotations

import io
import math
import re
from typing import Any

import defusedxml.ElementTree as SafeTree
import numpy as np
import svgelements
from defusedxml.common import DefusedXmlException

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
)
from wedgecraft.formats.svg_views import fitted, tag_of, view_box, write_out

_PIXELS_PER_INCH = 96.0  # CSS, px
_MM_PER_PIXEL = 25.4 / _PIXELS_PER_INCH
_MOST_DEPTH = 100
_REAL_LENGTH = re.compile(r"^\s*\+?(\d+\.?\d*|\.\d+)\s*(mm|cm|in|pt|pc|Q)\s*$")
_REAL_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "Q": 0.25}
_LAYER = re.compile(r"layer", re.IGNORECASE)
#: One unit of the drawing in mm, by what the caller says; "px" is the CSS pixel.
_SAID = {"mm": 1.0, "inch": 25.4, "px": _MM_PER_PIXEL}


def read_outlines(
    data: bytes,
    units: DrawingUnits | None = None,
    name: str = "drawing",
    layers: list[str] | None = None,
    join_mm: float = JOIN_MM,
) -> OutlinesFound:
    """Read all outlines on ``layers`` (groups with an id; all, when not given). Raises FileRefused,
    UnitsMissing.
    """
    check_size(data, "SVG")
    root = _looked_at(data)
    real = _unit_mm(root)
    pieces, known, notes = _pieces(
        _in_own_units(root), layers, CHORD_ERROR_MM / _coarsest_mm(units, real)
    )
    if layers is not None and not any(layer.used for layer in known):
        raise FileRefused(
            "none of the layers chosen has a curve",
            "choose one of " + ", ".join(layer.name for layer in known)[:300],
        )
    if not pieces:
        raise FileRefused(
            "no outline was found; the drawing holds no path or shape",
            "turn text and pictures into paths",
        )
    if units is None and real is None:
        points = np.concatenate(pieces)[:, :2]
        check_finite(points)
        raise UnitsMissing(float(np.ptp(points[:, 0])), float(np.ptp(points[:, 1])))
    across, down = real if units is None and real is not None else (_SAID[units or "px"],) * 2
    return found_in(
        [piece * (across, -down, 1) for piece in pieces],
        join_mm=join_mm,
        origin=f"SVG {name}",
        units=f"{units}, as chosen" if units else "from the file's width",
        layers=known,
        notes=notes,
    )


def _looked_at(data: bytes) -> Any:
    """The root element of a document that is safe to read. Raises FileRefused."""
    depth = count = 0
    root = None
    try:
        for event, element in SafeTree.iterparse(
            io.BytesIO(data), events=("start", "end"), forbid_dtd=True
        ):
            if event == "end":
                depth -= 1
                continue
            root = element if root is None else root
            depth, count = depth + 1, count + 1
            if depth > _MOST_DEPTH:
                raise FileRefused(
                    f"the drawing is nested more than {_MOST_DEPTH} deep",
                    "ungroup it and save again",
                )
            if count > MOST_ENTITIES:
                raise FileRefused(
                    f"the drawing has more than {MOST_ENTITIES:,} elements",
                    "export the outline's layer only",
                )
    except FileRefused:
        raise
    except DefusedXmlException:
        raise FileRefused(
            "the file declares a document type or entities, which no drawing needs",
            "save it as plain SVG",
        ) from None
    except (SafeTree.ParseError, ValueError, LookupError, RecursionError) as error:
        raise unreadable(
            "this is not an SVG drawing that can be read", "save it as plain SVG", error
        ) from None
    if root is None or tag_of(root) != "svg":
        raise FileRefused("this is XML, but not an SVG drawing", "save it as plain SVG")
    return root


def _unit_mm(root: Any) -> tuple[float, float] | None:
    """Millimetres to a unit of the drawing along x and y, where width or height say it in real
    units.
    """
    box = view_box(root)
    if box is None:
        return None
    found = [_REAL_LENGTH.match(root.get(key, "")) for key in ("width", "height")]
    width, height = (float(match[1]) * _REAL_MM[match[2]] if match else 0.0 for match in found)
    if width <= 0 and height <= 0:
        return None
    # A side that is not said goes with the other.
    across, down, _, _ = fitted(
        root, box[2:], width or height * box[2] / box[3], height or width * box[3] / box[2]
    )
    return across, down


def _in_own_units(root: Any) -> bytes:
    """The document written out and without its view: what the library then calls a pixel is one
    unit of the drawing.
    """
    write_out(root)
    for key in ("width", "height", "viewBox", "preserveAspectRatio"):
        root.attrib.pop(key, None)
    found: bytes = SafeTree.tostring(root)
    return found


def _coarsest_mm(units: DrawingUnits | None, real: tuple[float, float] | None) -> float:
    """What a unit of the drawing is at most: chords are taken fine enough for that."""
    return _SAID[units] if units else max(real) if real is not None else 25.4


def _pieces(
    data: bytes, layers: list[str] | None, chord: float
) -> tuple[list[Array], list[FoundLayer], list[str]]:
    try:
        drawing = svgelements.SVG.parse(io.BytesIO(data), ppi=_PIXELS_PER_INCH, reify=True)
        found: dict[str, list[Array]] = {}
        other: dict[str, int] = {}
        _walk(drawing, "drawing", found, other, chord)
    except FileRefused:
        raise
    except Exception as error:
        raise unreadable(
            "the drawing could not be followed", "save it as plain SVG", error
        ) from None
    chosen = set(layers) if layers is not None else set(found)
    known = [
        FoundLayer(name=layer, curves=len(curves), used=layer in chosen)
        for layer, curves in sorted(found.items())
    ]
    notes = [f"{count} {kind} left out" for kind, count in sorted(other.items())]
    return (
        [piece for layer, curves in found.items() if layer in chosen for piece in curves],
        known,
        notes,
    )


def _walk(
    node: Any, layer: str, found: dict[str, list[Array]], other: dict[str, int], chord: float
) -> None:
    for item in node:
        if item.values.get("display") == "none" or item.values.get("visibility") == "hidden":
            continue
        if isinstance(item, svgelements.Group):
            name = _layer_name(item)
            _walk(item, name or layer, found, other, chord)
        elif isinstance(item, svgelements.Shape):
            found.setdefault(layer, []).extend(_flattened(abs(svgelements.Path(item)), chord))
            if sum(map(len, found.values())) > MOST_ENTITIES:
                raise FileRefused(
                    f"the drawing has more than {MOST_ENTITIES:,} curves",
                    "export the outline's layer only",
                )
        elif isinstance(item, (svgelements.Text, svgelements.Image)):
            kind = type(item).__name__.lower()
            other[kind] = other.get(kind, 0) + 1


def _layer_name(group: Any) -> str | None:
    """A group that calls itself a layer, or has an id at all."""
    for key, value in group.values.items():
        if key.endswith("label") and isinstance(value, str) and value:
            return value[:120]
    ident = group.values.get("id")
    return str(ident)[:120] if ident and _LAYER.search(str(ident)) else None


def _flattened(path: Any, chord: float) -> list[Array]:
    """Each subpath as points, in units of the drawing."""
    pieces = []
    for sub in path.as_subpaths():
        points: list[Array] = []
        for segment in svgelements.Path(sub):
            if (
                isinstance(segment, svgelements.Move)
                or segment.start is None
                or segment.end is None
            ):
                continue
            points.append(_segment(segment, not points, chord))
        if points:
            piece = np.concatenate(points)
            check_finite(piece)
            pieces.append(piece)
    return pieces


def _segment(segment: Any, first: bool, chord_error: float) -> Array:
    """Points in units of the drawing, as ``arcs`` has them; without the first where the segment
    goes on from another.
    """
    start, end = (segment.start.x, segment.start.y), (segment.end.x, segment.end.y)
    if isinstance(segment, (svgelements.Line, svgelements.Close)):
        points = corners(np.array([start, end], dtype=float))
    elif isinstance(segment, svgelements.Arc) and _is_round(segment):
        x, y = segment.center.x, segment.center.y
        points = arc(
            x, y, segment.rx, math.atan2(start[1] - y, start[0] - x), segment.sweep, chord_error
        )
        points[0, :2], points[-1, :2] = start, end
    else:
        points = curve(_followed(segment, chord_error))
    return points if first else points[1:]


def _is_round(segment: Any) -> bool:
    sizes = segment.rx, segment.ry, segment.sweep, segment.center.x, segment.center.y
    return (
        all(map(math.isfinite, sizes))
        and 0 < segment.rx < 1e9
        and abs(segment.rx - segment.ry) < 1e-9 * segment.rx
        and segment.sweep != 0
    )


def _followed(segment: Any, chord_error: float) -> Array:
    steps = 8
    points = _at(segment, steps)
    check_finite(points)
    while steps < 1024:
        finer = _at(segment, 2 * steps)
        chord = (points[:-1] + points[1:]) / 2
        stray = float(np.abs(np.linalg.norm(finer[1::2] - chord, axis=1)).max())
        points, steps = finer, 2 * steps
        if not math.isfinite(stray) or stray < chord_error:
            break
    return points


def _at(segment: Any, steps: int) -> Array:
    return np.asarray(segment.npoint(np.linspace(0, 1, steps + 1)), dtype=float).reshape(-1, 2)
