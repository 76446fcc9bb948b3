"""A layout as a drawing: DXF and SVG in layers, to make the plate from and to look at elsewhere."""

from __future__ import annotations

import io
from collections.abc import Iterator
from xml.etree import ElementTree

import ezdxf
import numpy as np
from ezdxf.enums import TextEntityAlignment

from wedgecraft.core.ground.planar import ring_of, turned
from wedgecraft.core.plan.packing import keepout_polygons
from wedgecraft.core.records.design import Design, PlacedStation
from wedgecraft.core.records.request import PlanRequest

#: Layer name, colour index of the DXF reference.
LAYERS = {
    "PLATE": 7,
    "KEEPOUTS": 8,
    "PARTS": 5,
    "STOPS": 3,
    "CLAMPS": 6,
    "SWEEPS": 9,
    "HOLES": 1,
    "TEXT": 7,
}
_INK = {
    "PLATE": "#1D262B",
    "KEEPOUTS": "#8A949A",
    "PARTS": "#23408E",
    "STOPS": "#1D262B",
    "CLAMPS": "#5C686F",
    "SWEEPS": "#B96A00",
}
_TEXT_MM = 6.0
_BETWEEN_MM = 40.0

Ring = list[tuple[float, float]]
#: Layer, ring (closed), or a circle's centre and radius.
Shape = tuple[str, Ring | tuple[float, float, float]]


def shapes(request: PlanRequest, design: Design) -> Iterator[Shape]:
    """Everything of the layout, mm from the first plate's corner; several faces unrolled side by
    side.
    """
    plate = request.plate
    corners = [
        (0.0, 0.0),
        (plate.width_mm, 0.0),
        (plate.width_mm, plate.depth_mm),
        (0.0, plate.depth_mm),
    ]
    for face in range(request.block.faces):
        aside = face * _pitch(request)
        yield "PLATE", [(x + aside, y) for x, y in corners]
        for item, (polygon, _) in zip(plate.keepouts, keepout_polygons(plate), strict=True):
            ring = [(x + aside, y) for x, y in ring_of(polygon)]
            yield (
                "KEEPOUTS",
                (item.x_mm + aside, item.y_mm, item.width_mm / 2)
                if item.shape == "round"
                else ring,
            )
    for station in design.stations:
        drawing = design.kinds[station.kind].drawing
        aside = station.face * _pitch(request)
        for layer, rings in (
            ("PARTS", [ring for part in drawing.parts or [drawing.part] for ring in part]),
            ("STOPS", drawing.stops),
            ("CLAMPS", drawing.clamps),
            ("SWEEPS", drawing.sweep),
        ):
            for ring in rings:
                yield layer, _placed(ring, station, aside)
        for x, y in _placed(drawing.screws, station, aside):
            yield "HOLES", (x, y, drawing.screw_diameter_mm / 2)


def _pitch(request: PlanRequest) -> float:
    """From one face to the next, unrolled side by side."""
    return request.plate.width_mm + _BETWEEN_MM


def _placed(points: list[tuple[float, float]], station: PlacedStation, aside: float) -> Ring:
    if not points:
        return []
    found = turned(np.array(points, dtype=float), station.turn) + (
        station.x_mm + aside,
        station.y_mm,
    )
    return [(float(x), float(y)) for x, y in found]


def to_dxf(request: PlanRequest, design: Design, scale: float = 1.0) -> bytes:
    """R2010, in mm, or in inches where ``scale`` is 25.4."""
    document = ezdxf.new("R2010", setup=False)
    document.header["$INSUNITS"] = 4 if scale == 1.0 else 1
    for name, colour in LAYERS.items():
        document.layers.add(name, color=colour)
    space = document.modelspace()
    for layer, shape in shapes(request, design):
        if isinstance(shape, tuple):
            x, y, radius = shape
            space.add_circle((x / scale, y / scale), radius / scale, dxfattribs={"layer": layer})
        else:
            space.add_lwpolyline(
                [(x / scale, y / scale) for x, y in shape], close=True, dxfattribs={"layer": layer}
            )
    for label, (x, y) in _labels(request, design):
        text = space.add_text(label, height=_TEXT_MM / scale, dxfattribs={"layer": "TEXT"})
        text.set_placement((x / scale, y / scale), align=TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _labels(request: PlanRequest, design: Design) -> Iterator[tuple[str, tuple[float, float]]]:
    """Station numbers amid their parts; names of faces below them where there are several."""
    for station in design.stations:
        outer = np.array(design.kinds[station.kind].drawing.part[0])
        middle = (outer.min(axis=0) + outer.max(axis=0)) / 2
        at = _placed(
            [(float(middle[0]), float(middle[1]))], station, station.face * _pitch(request)
        )[0]
        yield str(station.number), at
    if len(design.faces) > 1:
        for face, name in enumerate(design.faces):
            yield name, (face * _pitch(request) + request.plate.width_mm / 2, -2 * _TEXT_MM)


def to_svg(request: PlanRequest, design: Design) -> bytes:
    """In real millimetres, Y up; a group for each layer."""
    width, depth = (
        request.plate.width_mm + (request.block.faces - 1) * _pitch(request),
        request.plate.depth_mm,
    )
    pad = 5.0 if request.block.faces == 1 else 3 * _TEXT_MM
    size = {"width": f"{width + 2 * pad:g}mm", "height": f"{depth + 2 * pad:g}mm"}
    box = f"{-pad:g} {-pad:g} {width + 2 * pad:g} {depth + 2 * pad:g}"
    root = ElementTree.Element(
        "svg", {"xmlns": "http://www.w3.org/2000/svg", "viewBox": box, **size}
    )
    ElementTree.SubElement(
        root, "title"
    ).text = f"{request.name}: {design.count} {design.counted}, {len(design.stations)} stations"
    up = ElementTree.SubElement(
        root,
        "g",
        {"transform": f"translate(0 {depth:g}) scale(1 -1)", "fill": "none", "stroke-width": "0.5"},
    )
    groups = {
        name: ElementTree.SubElement(
            up, "g", {"id": name.lower(), "stroke": _INK.get(name, "#1D262B")}
        )
        for name in LAYERS
        if name != "TEXT"
    }
    for layer, shape in shapes(request, design):
        if isinstance(shape, tuple):
            x, y, radius = shape
            ElementTree.SubElement(
                groups[layer], "circle", {"cx": f"{x:.4f}", "cy": f"{y:.4f}", "r": f"{radius:.4f}"}
            )
        elif shape:
            points = " ".join(f"{x:.4f},{y:.4f}" for x, y in shape)
            ElementTree.SubElement(groups[layer], "polygon", {"points": points})
    text = ElementTree.SubElement(
        root,
        "g",
        {
            "id": "text",
            "font-size": f"{_TEXT_MM:g}",
            "text-anchor": "middle",
            "font-family": "sans-serif",
        },
    )
    for label, (x, y) in _labels(request, design):
        place = {"x": f"{x:.4f}", "y": f"{depth - y + _TEXT_MM / 3:.4f}"}
        ElementTree.SubElement(text, "text", place).text = label
    return ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)
