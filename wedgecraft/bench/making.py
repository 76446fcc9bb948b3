"""Pieces of every demo job, as a planner's press makes them: worked out, drawn, as solids."""

from __future__ import annotations

import time
from collections.abc import Iterator

from wedgecraft.core.make.drawing import Title
from wedgecraft.core.plan.assembled import assembled
from wedgecraft.core.plan.pieces import pieces_of
from wedgecraft.core.plan.route import plan_route
from wedgecraft.demo.shop import demo_documents
from wedgecraft.formats.child import Readers
from wedgecraft.formats.piece_files import sheets_of
from wedgecraft.formats.sheets.dxf import to_dxf
from wedgecraft.formats.sheets.pdf import to_pdf
from wedgecraft.formats.sheets.svg import to_svg
from wedgecraft.formats.step.reader import LIMITS
from wedgecraft.formats.step.writer import write_assembly, write_step

#: Bars, seconds: the pieces of a setup, jaws with what touches among them; a drawing in all its
#: files; solids, of pieces and of the setup put together, by a kernel that is warm.
PIECES, DRAWING, SOLIDS = 5.0, 2.0, 20.0


def lines() -> Iterator[str]:
    """A heading, then a line for each setup that has pieces."""
    kernel = Readers(LIMITS)
    yield (
        f"{'setup':<44}{'pieces':>7}{'made s':>8}{'bar':>5}{'drawn s':>9}{'bar':>5}{'STEP s':>8}"
        f"{'bar':>5}{'holes':>7}{'hours':>7}"
    )
    try:
        warm = False
        for document, _ in demo_documents():
            planned = plan_route(document, alternatives=False)
            for number in range(1, len(planned.route.setups if planned.route else []) + 1):
                start = time.perf_counter()
                made = pieces_of(planned, number)
                done = time.perf_counter()
                if not made.pieces:
                    continue
                drawn = []
                for place, piece in enumerate(made.pieces):
                    begun = time.perf_counter()
                    sheets = sheets_of(made, place, Title("", "", "", "", ""), "mm")
                    to_pdf(sheets, piece.name)
                    for sheet in sheets:
                        to_svg(sheet)
                        to_dxf(sheet)
                    drawn.append(time.perf_counter() - begun)
                texts = [piece.model_dump_json() for piece in made.pieces]
                if not warm:
                    kernel.call(write_step, texts[:1])
                    warm = True
                begun = time.perf_counter()
                kernel.call(write_step, texts)
                together = assembled(planned, number)
                if together is not None:
                    kernel.call(write_assembly, together.model_dump_json())
                solids = time.perf_counter() - begun
                holes = sum(len(row.places) for piece in made.pieces for row in piece.holes)
                yield (
                    f"{f'{document.job.name}, setup {number}'[:43]:<44}{len(made.pieces):>7}"
                    f"{done - start:>8.2f}{PIECES:>5.0f}{max(drawn):>9.2f}{DRAWING:>5.0f}"
                    f"{solids:>8.2f}{SOLIDS:>5.0f}{holes:>7}{made.minutes / 60:>7.1f}"
                )
    finally:
        kernel.close()
