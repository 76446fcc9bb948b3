"""Sheets as one PDF, a page each, at the size they are on paper."""

from __future__ import annotations

import io
from collections.abc import Sequence

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from wedgecraft.core.records.sheet import Label, Round, Sheet
from wedgecraft.formats.sheets.marks import PENS, Mark, marks
from wedgecraft.formats.sheets.svg import CAPITALS

#: The standard faces every reader has; they know Latin letters, Ø, ±, ° and no more.
_TEXT, _FIGURES = "Helvetica", "Courier"


def to_pdf(sheets: Sequence[Sheet], title: str) -> bytes:
    """The same bytes for the same sheets."""
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    canvas.setTitle(title)
    for sheet in sheets:
        canvas.setPageSize((sheet.width_mm * mm, sheet.height_mm * mm))
        canvas.scale(mm, mm)
        for mark in marks(sheet):
            _draw(canvas, mark)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw(canvas: Canvas, mark: Mark) -> None:
    pen, dashes = PENS[mark.layer]
    if isinstance(mark, Label):
        _text(canvas, mark)
        return
    canvas.setLineWidth(pen)
    canvas.setDash(list(dashes))
    if isinstance(mark, Round):
        canvas.circle(mark.x, mark.y, mark.radius)
        return
    path = canvas.beginPath()
    (x, y), *others = mark.points
    path.moveTo(x, y)
    for x, y in others:
        path.lineTo(x, y)
    if mark.closed:
        path.close()
    canvas.drawPath(path, stroke=1, fill=int(mark.filled))


def _text(canvas: Canvas, mark: Label) -> None:
    canvas.saveState()
    canvas.translate(mark.x, mark.y)
    canvas.rotate(mark.turn_deg)
    canvas.setFont(_FIGURES if mark.figures else _TEXT, mark.high / CAPITALS)
    text = mark.text.encode("cp1252", "replace").decode("cp1252")
    {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[
        mark.anchor
    ](0, 0, text)
    canvas.restoreState()
