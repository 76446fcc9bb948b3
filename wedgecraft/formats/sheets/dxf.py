"""A sheet as DXF at true size: the piece as large as it is, frame and text enlarged round it, real
dimensions in layers.
"""

from __future__ import annotations

import io

import ezdxf
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts import Modelspace

from wedgecraft.core.ground.bends import bends_of
from wedgecraft.core.records.sheet import Item, Label, Layer, Linear, Ordinate, Round, Sheet
from wedgecraft.formats.sheets.marks import placed

_COLOURS: dict[Layer, int] = {
    "OUTLINE": 7,
    "HIDDEN": 8,
    "CENTRE": 1,
    "PART": 5,
    "DIMENSIONS": 3,
    "TEXT": 7,
    "MARKING": 6,
    "FRAME": 7,
    "HATCH": 9,
    "PRESSURE": 5,
}
_TYPES: dict[Layer, str] = {"HIDDEN": "DASHED", "CENTRE": "CENTER", "PART": "PHANTOM"}
_WIDTHS: dict[Layer, int] = {"OUTLINE": 50, "FRAME": 35}
_ANCHORS = {
    "start": TextEntityAlignment.LEFT,
    "middle": TextEntityAlignment.CENTER,
    "end": TextEntityAlignment.RIGHT,
}
_STYLE = "WEDGECRAFT"


def to_dxf(sheet: Sheet) -> bytes:
    """R2010, in the sheet's units; the origin is the datum of the first view."""
    unit = 1.0 if sheet.units == "mm" else 25.4
    # no dates and no serial numbers: the same piece makes the same file
    ezdxf.options.write_fixed_meta_data_for_testing = True
    document = ezdxf.new("R2010", setup=True)
    document.header["$INSUNITS"] = 4 if sheet.units == "mm" else 1
    document.header["$MEASUREMENT"] = int(sheet.units == "mm")
    for name, colour in _COLOURS.items():
        layer = document.layers.add(name, color=colour, linetype=_TYPES.get(name, "Continuous"))
        layer.dxf.lineweight = _WIDTHS.get(name, 18)
    paper = 1 / (sheet.scale * unit)  # from mm of paper to units of the drawing
    _dimension_style(document, sheet, paper)
    origin = (0.0, 0.0)
    if sheet.views:
        (x, y), (dx, dy) = sheet.views[0].at_mm, sheet.datum_mm
        origin = (x + dx * sheet.scale, y + dy * sheet.scale)
    space = document.modelspace()
    items = [*sheet.items, *(item for view in sheet.views for item in placed(view, sheet.scale))]
    for item in items:
        _write(space, item, _To(origin, paper, unit))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


class _To:
    """From the paper to the drawing's own units."""

    def __init__(self, origin: tuple[float, float], paper: float, unit: float) -> None:
        self.origin, self.size, self.unit = origin, paper, unit

    def __call__(self, point: tuple[float, float]) -> tuple[float, float]:
        (x, y), (x0, y0) = point, self.origin
        return (x - x0) * self.size, (y - y0) * self.size


def _dimension_style(document: ezdxf.document.Drawing, sheet: Sheet, paper: float) -> None:
    style = document.dimstyles.duplicate_entry("EZDXF", _STYLE)
    style.dxf.dimtxt = 2.5 * paper
    style.dxf.dimasz = 2.5 * paper
    style.dxf.dimexe = 1.0 * paper
    style.dxf.dimexo = 0.0
    style.dxf.dimgap = 0.8 * paper
    style.dxf.dimdec = 2 if sheet.units == "mm" else 4
    style.dxf.dimzin = 0
    style.dxf.dimlfac = 1.0
    style.dxf.dimscale = 1.0


def _write(space: Modelspace, item: Item, to: _To) -> None:
    look = {"layer": item.layer}
    if isinstance(item, Round):
        space.add_circle(to((item.x, item.y)), item.radius * to.size, dxfattribs=look)
    elif isinstance(item, Label):
        look_of_text = look | {"rotation": item.turn_deg}
        text = space.add_text(item.text, height=item.high * to.size, dxfattribs=look_of_text)
        text.set_placement(to((item.x, item.y)), align=_ANCHORS[item.anchor])
    elif isinstance(item, Ordinate):
        feature, end = to(item.feature), to(item.end)
        offset = (end[0] - feature[0], end[1] - feature[1])
        add = space.add_ordinate_x_dim if item.axis == "x" else space.add_ordinate_y_dim
        made = add(feature, offset, dimstyle=_STYLE, dxfattribs=look)
        made.render()
        k = 0 if item.axis == "x" else 1
        made.dimension.dxf.actual_measurement = feature[k]
    elif isinstance(item, Linear):
        upright = item.axis == "y"
        base = to((item.line, item.first[1]) if upright else (item.first[0], item.line))
        made = space.add_linear_dim(
            base=base,
            p1=to(item.first),
            p2=to(item.second),
            angle=90 if upright else 0,
            dimstyle=_STYLE,
            dxfattribs=look,
        )
        made.render()
        k = 1 if upright else 0
        long = abs(to(item.second)[k] - to(item.first)[k])
        made.dimension.dxf.actual_measurement = long
    else:
        points = [to(point) for point in item.points]
        if item.closed and not item.filled:
            # what the chords of a curve stand for: a cam system follows arcs
            bends = bends_of([(x * to.unit, y * to.unit) for x, y in points])
            bent = [(x / to.unit, y / to.unit, bulge) for x, y, bulge in bends]
            space.add_lwpolyline(bent, format="xyb", close=True, dxfattribs=look)
            return
        space.add_lwpolyline(points, close=item.closed, dxfattribs=look)
        if item.filled:
            space.add_solid(points, dxfattribs=look)
