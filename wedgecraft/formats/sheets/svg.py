"""A sheet as SVG, in real millimetres of paper."""

from __future__ import annotations

from xml.etree import ElementTree

from wedgecraft.core.records.sheet import Label, Round, Sheet
from wedgecraft.formats.sheets.marks import PENS, marks

_INK = "#1D262B"
_MARKED = "#23408E"
#: Capitals are this share of a type size.
CAPITALS = 0.7
_ROOM_MM = 16.0


def to_svg(sheet: Sheet, views_alone: bool = False) -> bytes:
    """Black on white, a group for each layer. ``views_alone``: of the views' size, without frame,
    tables and title block, to be looked at on a screen.
    """
    w, h = sheet.width_mm, sheet.height_mm
    shown = sheet.model_copy(update={"items": []}) if views_alone and sheet.views else sheet
    x0, y0, x1, y1 = _around(shown) if shown is not sheet else (0.0, 0.0, w, h)
    root = ElementTree.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "viewBox": f"{_n(x0)} {_n(h - y1)} {_n(x1 - x0)} {_n(y1 - y0)}",
            "width": f"{_n(x1 - x0)}mm",
            "height": f"{_n(y1 - y0)}mm",
        },
    )
    ElementTree.SubElement(root, "title").text = sheet.name
    ElementTree.SubElement(root, "rect", {"width": f"{w:g}", "height": f"{h:g}", "fill": "#FFFFFF"})
    groups = {}
    for layer, (pen, dashes) in PENS.items():
        ink = _MARKED if layer == "PRESSURE" else _INK
        look = {"id": layer.lower(), "fill": "none", "stroke": ink, "stroke-width": f"{pen:g}"}
        if dashes:
            look["stroke-dasharray"] = " ".join(f"{dash:g}" for dash in dashes)
        groups[layer] = ElementTree.SubElement(root, "g", look)
    for mark in marks(shown):
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


def _around(sheet: Sheet) -> tuple[float, float, float, float]:
    """What the views cover on the paper, with room for the text of their dimensions."""
    points: list[tuple[float, float]] = []
    for mark in marks(sheet):
        if isinstance(mark, Label):
            points.append((mark.x, mark.y))
        elif isinstance(mark, Round):
            points += [(mark.x - mark.radius, mark.y), (mark.x + mark.radius, mark.y)]
        else:
            points += mark.points
    xs, ys = zip(*points, strict=True)
    return min(xs) - _ROOM_MM, min(ys) - _ROOM_MM, max(xs) + _ROOM_MM / 2, max(ys) + _ROOM_MM / 2


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
