"""A month as a person is shown it, what a minute of it is worth, the sheet, and a page of a long
log; the demo's jobs, as they are planned.
"""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from functools import partial

from wedgecraft.core.plan.logged import log_of
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.plan.running import run_of, worth_of
from wedgecraft.core.plan.sheets import setup_sheet
from wedgecraft.core.records.log import AnyEntry, CycleDone, Loaded, LogRequest
from wedgecraft.core.records.program import ProgramRequest
from wedgecraft.core.records.run import RunRequest
from wedgecraft.demo.shop import demo_documents
from wedgecraft.formats.logs.table import as_csv, read_log
from wedgecraft.formats.sheets.setup_pdf import setup_pdf

#: Bars, seconds.
BARS = {"run": 5.0, "worth": 10.0, "sheet": 5.0, "log page": 1.0, "log said": 5.0, "log read": 30.0}
_REPEATS = 100


def lines() -> Iterator[str]:
    """A heading, then a line for each."""
    yield f"{'run, sheet, log':<58}{'seconds':>9}{'bar':>5}"
    for document, _ in demo_documents():
        planned = plan_route(document, alternatives=False)
        asked = RunRequest(document=planned, repeats=_REPEATS)
        name = planned.job.name
        yield _line("run", f"{name}, {_REPEATS} repeats", partial(run_of, asked))
        yield _line("worth", f"{name}, what a minute is worth", partial(worth_of, asked))
        sheet = ProgramRequest(document=planned)

        def on_paper(sheet: ProgramRequest = sheet) -> None:
            setup_pdf(setup_sheet(sheet, 1), "A4", "mm", "http://127.0.0.1/jobs/1")

        yield _line("sheet", f"{name}, sheet", on_paper)
    entries = _entries(10_000)
    yield _line("log page", "10,000 entries as a table", lambda: as_csv(entries))
    long = _entries(100_000)
    asked_log = LogRequest(document=planned, entries=long)
    yield _line("log said", "100,000 entries, what they say", lambda: log_of(asked_log))
    text = as_csv(long).encode()
    yield _line("log read", "100,000 entries from a table", lambda: read_log(text, "bench"))


def _line(what: str, name: str, do: Callable[[], object]) -> str:
    start = time.perf_counter()
    do()
    took = time.perf_counter() - start
    return f"{name[:57]:<58}{took:>9.2f}{BARS[what]:>5.0f}"


def _entries(count: int) -> list[AnyEntry]:
    start = datetime(2026, 1, 5, 7, tzinfo=UTC)
    found: list[AnyEntry] = []
    for k in range(count // 2):
        at = start + timedelta(minutes=k)
        ident = uuid.uuid5(uuid.NAMESPACE_OID, f"bench {k}")
        found.append(CycleDone(id=ident.hex, at=at, seconds=300 + k % 17, good=2))
        other = uuid.uuid5(ident, "load")
        found.append(Loaded(id=other.hex, at=at, seconds=70 + k % 13, parts=2))
    return found
