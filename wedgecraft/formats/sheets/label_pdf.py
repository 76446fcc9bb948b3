"""A fixture's label: its number, what it is for, and a code that leads to its page."""

from __future__ import annotations

import io

import segno
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from wedgecraft.core.records.shelf import FixtureShown

#: As label printers take it, mm.
_WIDE, _HIGH, _CODE, _EDGE = 90.0, 38.0, 30.0, 4.0


def label_pdf(fixture: FixtureShown, link: str) -> bytes:
    """One label a page; the same bytes for the same label."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(_WIDE * mm, _HIGH * mm), invariant=1)
    canvas.setTitle(f"{fixture.number} {fixture.name}")
    rows = [list(row) for row in segno.make(link, error="m", micro=False).matrix]
    side = _CODE * mm / len(rows)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:
                left, low = _EDGE * mm + x * side, (_EDGE + _CODE) * mm - (y + 1) * side
                canvas.rect(left, low, side, side, stroke=0, fill=1)
    left = (2 * _EDGE + _CODE) * mm
    canvas.setFont("Helvetica-Bold", 22)
    canvas.drawString(left, (_HIGH - 12) * mm, fixture.number)
    canvas.setFont("Helvetica", 9)
    lines = [fixture.name, fixture.made.form, ", ".join(fixture.made.zeros)]
    lines += [f"design {fixture.made.version}", fixture.place]
    for k, line in enumerate(filter(None, lines)):
        canvas.drawString(left, (_HIGH - 17 - 4 * k) * mm, line[:34])
    canvas.showPage()
    canvas.save()
    return out.getvalue()
