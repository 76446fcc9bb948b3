"""The setter's sheet on paper: A4 or letter, black and white, in mm or inch."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any, Literal
from xml.sax.saxutils import escape

import segno
from reportlab.graphics.shapes import Circle, Drawing, Group, Polygon, PolyLine, Rect, String
from reportlab.lib.colors import Color, black, white
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from wedgecraft.core.records.setup_sheet import SetupSheet, SheetFace

Paper = Literal["A4", "letter"]
Units = Literal["mm", "inch"]
_PAPERS = {"A4": A4, "letter": letter}
_MARGIN = 12 * mm
_TEXT = ParagraphStyle("text", fontName="Helvetica", fontSize=10.5, leading=13.5)
_SMALL = ParagraphStyle("small", parent=_TEXT, fontSize=8.5, leading=10.5)
_HEAD = ParagraphStyle(
    "head", parent=_TEXT, fontName="Helvetica-Bold", fontSize=13, leading=16, spaceBefore=9,
    spaceAfter=3, keepWithNext=1,
)  # fmt: skip
_TITLE = ParagraphStyle("title", parent=_HEAD, fontSize=20, leading=24, spaceBefore=0)
_MONO = ParagraphStyle("mono", parent=_TEXT, fontName="Courier")
#: What a page's frame keeps clear inside its margins.
_PAD = 6.0
_GREY, _LIGHT = Color(0.72, 0.72, 0.72), Color(0.9, 0.9, 0.9)
_INCH, _LB, _IN_LB = 25.4, 0.45359237, 8.850745767


def setup_pdf(sheet: SetupSheet, paper: Paper, units: Units, link: str) -> bytes:
    """The same bytes for the same sheet. ``link``: where its live page is, for the code on top."""
    out = io.BytesIO()
    says = _Says(units)
    document = SimpleDocTemplate(
        out, pagesize=_PAPERS[paper], leftMargin=_MARGIN, rightMargin=_MARGIN, topMargin=_MARGIN,
        bottomMargin=_MARGIN + 5 * mm, title=f"{sheet.job}, setup {sheet.setup}", invariant=1,
    )  # fmt: skip
    foot = _Foot(sheet)
    content = _content(sheet, says, document.width - 2 * _PAD, link)
    document.build(content, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


class _Foot:
    """On every page: of which job, which design, and where a person signs."""

    def __init__(self, sheet: SetupSheet) -> None:
        self.sheet = sheet

    def __call__(self, canvas: Canvas, document: Any) -> None:
        canvas.setFont("Helvetica", 8.5)
        sheet = self.sheet
        text = f"{sheet.job}, setup {sheet.setup}, design {sheet.version}, page {document.page}"
        canvas.drawString(_MARGIN, _MARGIN, _plain(text))
        canvas.drawRightString(
            document.pagesize[0] - _MARGIN, _MARGIN, "Set up by ______________  Date __________"
        )


class _Says:
    """Figures in the reader's units."""

    def __init__(self, units: Units) -> None:
        self.inch = units == "inch"

    @property
    def unit(self) -> str:
        return "in" if self.inch else "mm"

    def length(self, value: float, digits: int = 1) -> str:
        return f"{value / _INCH:.{digits + 1}f}" if self.inch else f"{value:.{digits}f}"

    def torque(self, value: float) -> str:
        return f"{value * _IN_LB:.0f} in·lb" if self.inch else f"{value:g} N·m"

    def mass(self, value: float) -> str:
        return f"{value / _LB:.1f} lb" if self.inch else f"{value:.1f} kg"


def _plain(text: str) -> str:
    """What the standard faces have letters for."""
    return text.encode("cp1252", "replace").decode("cp1252")


def _p(text: str, style: ParagraphStyle = _TEXT) -> Paragraph:
    return Paragraph(escape(_plain(text)), style)


def _content(sheet: SetupSheet, says: _Says, width: float, link: str) -> list[Flowable]:
    parts: list[Flowable] = [_top(sheet, width, link)]
    if not sheet.current:
        parts.append(_p("OUT OF DATE: the job was changed since it was planned.", _HEAD))
    if sheet.exceeded:
        said = ", ".join(sheet.exceeded)
        parts.append(_p(f"DO NOT RUN: beyond its limit: {said}.", _HEAD))
    parts += [_faces(sheet.faces, width), *_load(sheet, says, width)]
    parts += _zeros(sheet, says, width)
    parts += _tools(sheet, says, width)
    parts += _first(sheet, says, width)
    parts += _lifts(sheet, says, width)
    parts += [_p("Before the start", _HEAD), *_list(sheet.checks, box=True)]
    if sheet.cautions:
        parts += [_p("Cautions", _HEAD), *_list(sheet.cautions)]
    return parts


def _top(sheet: SetupSheet, width: float, link: str) -> Flowable:
    said = {True: "accepted by the stand-in", False: _not(sheet.wrong), None: "none yet"}
    about = [
        _p(sheet.job, _TITLE),
        _p(f"Setup {sheet.setup} of {sheet.setups} on {sheet.machine}, {sheet.form}"),
        _p(f"{sheet.parts_a_cycle} parts a cycle, {sheet.quantity} wanted"),
        _p(f"Program {sheet.program or 'none'}: {said[sheet.accepted]}"),
    ]
    return Table(
        [[about, _code(link)]], colWidths=[width - 30 * mm, 30 * mm], hAlign="LEFT",
        style=[("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (0, 0), 0)],
    )  # fmt: skip


def _not(wrong: int) -> str:
    if wrong:
        return f"NOT ACCEPTED, {wrong} wrong"
    return "NOT ACCEPTED YET, not everything was looked at"


def _code(link: str) -> Drawing:
    """The live page, to be photographed."""
    rows = [list(row) for row in segno.make(link, error="m", micro=False).matrix]
    side = 26 * mm / len(rows)
    drawing = Drawing(26 * mm, 26 * mm)
    for i, row in enumerate(rows):
        for j, dark in enumerate(row):
            if dark:
                y = 26 * mm - (i + 1) * side
                drawing.add(
                    Rect(j * side, y, side, side, fillColor=black, strokeColor=black, strokeWidth=0)
                )
    return drawing


def _faces(faces: Sequence[SheetFace], width: float) -> Flowable:
    """Two beside one another; one alone across the page."""
    across = 1 if len(faces) == 1 else 2
    each = width / across - 6
    most = (150 if len(faces) < 3 else 94) * mm
    heads = [_p(f"Face {f.name}" if len(faces) > 1 else "From above", _HEAD) for f in faces]
    cells = [[head, _face(face, each, most)] for head, face in zip(heads, faces, strict=True)]
    rows = [cells[k : k + across] for k in range(0, len(cells), across)]
    rows[-1] += [[]] * (across - len(rows[-1]))
    return Table(
        rows, colWidths=[width / across] * across, hAlign="LEFT",
        style=[("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)],
    )  # fmt: skip


def _face(face: SheetFace, width: float, most: float) -> Drawing:
    scale = min(width / face.width_mm, most / face.depth_mm)
    drawing = Drawing(face.width_mm * scale, face.depth_mm * scale)
    group = Group()
    group.transform = (scale, 0, 0, scale, 0, 0)
    thin = 0.6 / scale
    group.add(
        Rect(
            0, 0, face.width_mm, face.depth_mm, fillColor=white, strokeColor=black, strokeWidth=thin
        )
    )
    for station in face.stations:
        for ring, fill in (
            *((stop, _GREY) for stop in station.stops),
            *((clamp, _LIGHT) for clamp in station.clamps),
            *((part[0], white) for part in station.parts),
        ):
            points = [value for point in ring for value in point]
            group.add(Polygon(points, fillColor=fill, strokeColor=black, strokeWidth=thin))
        for x, y in station.screws_mm:
            group.add(Circle(x, y, 2.2, fillColor=black, strokeColor=None))
        for x, y in station.corners_mm:
            group.add(_wedge(x, y, 7 / scale))
    drawing.add(group)
    # the height of figures is points on paper, whatever the scale
    for station in face.stations:
        x, y = (value * scale for value in station.at_mm)
        number = String(x, y - 5, str(station.number), fontName="Helvetica-Bold", fontSize=14)
        number.textAnchor = "middle"
        drawing.add(number)
    return drawing


def _wedge(x: float, y: float, size: float) -> PolyLine:
    """The filled triangle at a part's datum corner."""
    return Polygon(
        [x, y, x + size, y, x, y + size], fillColor=black, strokeColor=black, strokeWidth=0.2
    )


_GRID = TableStyle(
    [
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, _GREY),
        ("LINEBELOW", (0, 0), (-1, 0), 0.8, black),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (0, -1), 0),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ]
)


def _table(heads: Sequence[str], rows: Sequence[Sequence[Any]], widths: Sequence[float]) -> Table:
    cells = [[_p(head, _SMALL) for head in heads]]
    cells += [[c if isinstance(c, list | Flowable) else _p(str(c)) for c in row] for row in rows]
    return Table(cells, colWidths=list(widths), style=_GRID, repeatRows=1, hAlign="LEFT")


def _list(items: Sequence[str], box: bool = False) -> list[Flowable]:
    return [_p(f"{'[  ]' if box else '-'} {item}") for item in items]


def _load(sheet: SetupSheet, says: _Says, width: float) -> list[Flowable]:
    rows = [
        (", ".join(map(str, item.ops)), item.what, item.key,
         says.torque(item.torque_nm) if item.torque_nm is not None else "",
         item.each_part, [_p(f"{k}. {step}") for k, step in enumerate(item.steps, 1)])
        for item in sheet.tightened
    ]  # fmt: skip
    share = (0.08, 0.2, 0.16, 0.14, 0.1, 0.32)
    table = _table(
        ("Op", "Clamp", "With", "Torque", "A part", "In this order"), rows,
        [width * part for part in share],
    )  # fmt: skip
    steps = [_p(f"{k}. {step}") for k, step in enumerate(sheet.loading, 1)]
    return [_p("Load", _HEAD), *steps, Spacer(1, 4), table]


def _zeros(sheet: SetupSheet, says: _Says, width: float) -> list[Flowable]:
    if not sheet.zeros:
        return []
    rows = [
        (_p(zero.name, _MONO), *(_p(says.length(v, 3), _MONO) for v in zero.at_mm),
         f"{zero.index_deg:g}°" if zero.face is not None else "",
         [_p(f"{k}. {step}", _SMALL) for k, step in enumerate(zero.steps, 1)])
        for zero in sheet.zeros
    ]  # fmt: skip
    share = (0.12, 0.14, 0.14, 0.14, 0.08, 0.38)
    table = _table(
        ("Offset", f"X {says.unit}", "Y", "Z", "Index", "Picked up"), rows,
        [width * part for part in share],
    )  # fmt: skip
    return [_p("Zeros", _HEAD), table, *(_p(note, _SMALL) for note in sheet.zero_notes)]


def _tools(sheet: SetupSheet, says: _Says, width: float) -> list[Flowable]:
    rows = [
        (_p(f"T{tool.number}", _MONO), tool.cutter, tool.holder or "not said",
         _p(says.length(tool.length_mm), _MONO) if tool.length_mm is not None else "measure",
         _p(says.length(tool.reach_mm), _MONO) if tool.reach_mm is not None else "",
         "in the table" if tool.there else "ADD")
        for tool in sheet.tools
    ]  # fmt: skip
    if not rows:
        return []
    share = (0.08, 0.32, 0.26, 0.12, 0.1, 0.12)
    heads = ("Tool", "Cutter", "Holder", f"Length {says.unit}", "Out", "")
    found = [_p("Tools", _HEAD), _table(heads, rows, [width * part for part in share])]
    if sheet.remove:
        found.append(_p(f"The magazine is full: take out {', '.join(sheet.remove)}."))
    return found


def _first(sheet: SetupSheet, says: _Says, width: float) -> list[Flowable]:
    rows = [
        (f"op {item.op}", item.feature,
         _p("" if item.tolerance_mm is None else says.length(item.tolerance_mm, 3), _MONO),
         _p(says.length(item.expected_mm, 3), _MONO), f"station {item.station}", item.with_what)
        for item in sheet.first_article
    ]  # fmt: skip
    if not rows:
        return []
    share = (0.08, 0.34, 0.13, 0.13, 0.13, 0.19)
    heads = ("Op", "Measure", f"Tolerance {says.unit}", "Expected", "Worst at", "With")
    return [
        KeepTogether(
            [_p("First article", _HEAD), _table(heads, rows, [width * part for part in share])]
        )
    ]


def _lifts(sheet: SetupSheet, says: _Says, width: float) -> list[Flowable]:
    rows = [
        (item.what, says.mass(item.kg), says.mass(item.limit_kg),
         "by hand" if item.by_hand else "WITH A HOIST, OR TWO PEOPLE",
         _p(", ".join(f"{name} {value:.2f}" for name, value in item.multipliers.items()), _SMALL))
        for item in sheet.heavy
    ]  # fmt: skip
    share = (0.24, 0.12, 0.12, 0.24, 0.28)
    heads = ("Lift", "Weighs", "Limit", "", "By the revised NIOSH equation")
    return [
        KeepTogether([_p("Lifts", _HEAD), _table(heads, rows, [width * part for part in share])])
    ]
