"""A sheet as SVG, in real millimetres of paper."""

from __future__ import annotations

from xml.etree import ElementTree

from wedgecraft.core.records.sheet import Label, Round, Sheet
from wedgecraft.formats.sheets.marks import PENS, marks

_INK = "#1D262B"
#: Capitals are this share of a type size.
CAPITALS = 0.7


def to_svg(sheet: Sheet) -> bytes:
    """Black on white, a group for each layer."""
    w, h = sheet.width_mm, sheet.height_mm
    root = ElementTree.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "viewBox": f"0 0 {w:g} {h:g}",
            "width": f"{w:g}mm",
            "height": f"{h:g}mm",
        },
    )
    ElementTree.SubElement(root, "title").text = sheet.name
    ElementTree.SubElement(root, "rect", {"width": f"{w:g}", "height": f"{h:g}", "fill": "#FFFFFF"})
    groups = {}
    for layer, (pen, dashes) in PENS.items():
        look = {"id": layer.lower(), "fill": "none", "stroke": _INK, "stroke-width": f"{pen:g}"}
        if dashes:
            look["stroke-dasharray"] = " ".join(f"{dash:g}" for dash in dashes)
        groups[layer] = ElementTree.SubElement(root, "g", look)
    for mark in marks(sheet):
        group = groups[mark.layer]
        if isinstance(mark, Label):
            _text(group, mark, h)
        elif isinstance(mark, Round):
            place = {"cx": _n(mark.x), "cy": _n(h - mark.y), "r": _n(mark.radius)}
            ElementTree.SubElement(group, "circle", place)
        else:
            kind = "polygon" if mark.closed else "polyline"
            points = " ".join(f"{_n(x)},{_n(h - y)}" for x, y in mark.points)
            look = {"points": points} | ({"fill": _INK} if mark.filled else {})
            ElementTree.SubElement(group, kind, look)
    return ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)


def _text(group: ElementTree.Element, mark: Label, height: float) -> None:
    x, y = _n(mark.x), _n(height - mark.y)
    face = "'IBM Plex Mono', monospace" if mark.figures else "Barlow, sans-serif"
    look = {
        "x": x,
        "y": y,
        "font-size": _n(mark.high / CAPITALS),
        "font-family": face,
        "text-anchor": mark.anchor,
        "fill": _INK,
        "stroke": "none",
    }
    if mark.turn_deg:
        look["transform"] = f"rotate({-mark.turn_deg:g} {x} {y})"
    ElementTree.SubElement(group, "text", look).text = mark.text


def _n(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".")
