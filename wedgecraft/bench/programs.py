"""A setup's program as a planner's press makes it: framed from its ops', run on the stand-in,
swept against all that stands. Also with programs as long as a fine finish makes them.
"""

from __future__ import annotations

import math
import time
from collections.abc import Iterator
from itertools import pairwise

from wedgecraft.core.plan.programs import setup_program
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.demo.shop import demo_documents
from wedgecraft.demo.tooling import op_programs

#: Bars, seconds, by the lines of the whole setup: all of it, collisions among it.
BARS = ((10_000, 5.0), (60_000, 5.0), (250_000, 15.0))
_JOB = "Manifold block, by the pallet"
#: A part's share of lines, for a setup of about fifty.
_FINE = (0, 900, 3900)


def lines() -> Iterator[str]:
    """A heading, then a line for each length."""
    yield f"{'program of a whole setup':<44}{'lines':>9}{'seconds':>9}{'bar':>5}{'wrong':>7}"
    document = next(item for item, _ in demo_documents() if item.job.name == _JOB)
    planned = plan_route(document, alternatives=False)
    for moves in _FINE:
        ops = [
            OpText(part=part, op=op, text=_finer(text, moves))
            for part, op, _, text in op_programs(document)
        ]
        request = ProgramRequest(document=planned, ops=ops)
        start = time.perf_counter()
        answer = setup_program(request, 1)
        took = time.perf_counter() - start
        if answer.tried is None:
            raise RuntimeError(f"nothing was tried: {answer.reasons}")
        bar = next(bar for most, bar in BARS if answer.tried.lines <= most)
        wrong = sum(item.stands is not True for item in answer.tried.findings)
        name = f"{_JOB}" + (f", {moves} fine moves a part" if moves else "")
        yield f"{name[:43]:<44}{answer.tried.lines:>9}{took:>9.2f}{bar:>5.0f}{wrong:>7}"


def _finer(text: str, moves: int) -> str:
    """With a spiral of short moves round the outside, after the end mill's own rounds."""
    if not moves:
        return text
    low, high = (-4.5, 58.5) if "OP 10)" in text.splitlines()[1] else (-5.5, 57.5)
    ring = [(low, low), (high, low), (high, high + 12), (low, high + 12), (low, low)]
    whole = sum(math.dist(a, b) for a, b in pairwise(ring))
    found = [f"G0 X{low:.3f} Y{low:.3f}", "Z2."]
    for n in range(moves):
        at = 4 * whole * n / moves % whole
        for a, b in pairwise(ring):
            side = math.dist(a, b)
            if at <= side:
                x, y = (p + (q - p) * at / side for p, q in zip(a, b, strict=True))
                break
            at -= side
        found.append(f"G1 X{x:.3f} Y{y:.3f} Z{-10 * n / moves:.4f} F1500.")
    found.append("G0 Z40. M9")
    begin = text.index("T2 M6")
    end = text.index("G0 Z40. M9", begin)
    return text[:end] + "\n".join(found) + text[end + len("G0 Z40. M9") :]
