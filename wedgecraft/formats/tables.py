"""Tables as files: CSV with commas or semicolons, and JSON lists of shop entries."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from wedgecraft.core.shop.document import KINDS, KindName, ShopEntry
from wedgecraft.core.shop.table import MOST_ROWS, ReadRows, from_rows, to_rows
from wedgecraft.formats.errors import FileRefused, unreadable

MOST_BYTES = 5_000_000
_FORMAT = "wedgecraft shop"
#: A cell that begins like this would be taken for a formula by a spreadsheet.
_FORMULA = ("=", "+", "-", "@")


def to_csv(kind: KindName, entries: list[ShopEntry]) -> str:
    """UTF-8 with a mark, so that spreadsheets read the units right."""
    out = io.StringIO()
    csv.writer(out).writerows([[_plain(cell) for cell in row] for row in to_rows(kind, entries)])
    return "\ufeff" + out.getvalue()


def _plain(cell: str) -> str:
    """Text that looks like a formula gets an apostrophe before it; numbers stay."""
    if not cell.startswith(_FORMULA):
        return cell
    try:
        float(cell)
    except ValueError:
        return "'" + cell
    return cell


def to_json(entries: list[ShopEntry]) -> str:
    return json.dumps(
        {
            "format": _FORMAT,
            "version": 1,
            "entries": [entry.model_dump(mode="json") for entry in entries],
        },
        indent=1,
    )


def read_entries(
    data: bytes, kind: KindName | None, name: str, known: dict[str, dict[str, Any]] | None = None
) -> ReadRows:
    """Entries of a CSV of one kind, or of a JSON export of any; ``known`` as in ``from_rows``.
    Raises FileRefused.
    """
    if not data.strip():
        raise FileRefused("the file is empty", "export a table first and fill it in")
    if len(data) > MOST_BYTES:
        raise FileRefused("the file is too big", f"at most {MOST_BYTES / 1e6:.0f} MB are read")
    text = _text(data)
    if text.lstrip()[:1] in ("{", "["):
        return _from_json(text, f"imported from {name}"[:200])
    if kind is None:
        raise FileRefused("a CSV holds one kind of thing", "choose which, then import it there")
    return _from_csv(text, kind, f"imported from {name}"[:200], known)


def _text(data: bytes) -> str:
    for encoding in (
        ("utf-8-sig", "utf-16") if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",)
    ):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    try:
        return data.decode("cp1252")
    except UnicodeDecodeError:
        raise FileRefused("the file is no text", "save the table as CSV, UTF-8") from None


def _from_csv(
    text: str, kind: KindName, origin: str, known: dict[str, dict[str, Any]] | None
) -> ReadRows:
    if "\x00" in text:
        raise FileRefused("the file is no text", "save the table as CSV, UTF-8")
    first = text.split("\n", 1)[0]
    mark = max((",", ";", "\t"), key=first.count)
    try:
        rows = [
            [_unmarked(cell) for cell in row]
            for row in csv.reader(io.StringIO(text), delimiter=mark)
        ]
    except csv.Error as error:
        raise unreadable("the table could not be read", "save it as CSV again", error) from None
    return from_rows(kind, rows, origin, known)


def _unmarked(cell: str) -> str:
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(_FORMULA) else cell


def _from_json(text: str, origin: str) -> ReadRows:
    try:
        given: Any = json.loads(text)
    except RecursionError:
        raise FileRefused(
            "the JSON is nested too deeply; no export here is", "export it again"
        ) from None
    except ValueError as error:
        raise unreadable("the JSON could not be read", "export it again", error) from None
    entries = (
        given.get("entries") if isinstance(given, dict) and given.get("format") == _FORMAT else None
    )
    if not isinstance(entries, list):
        raise FileRefused(
            "this JSON is no shop export", "export one first to see what it looks like"
        )
    if len(entries) > MOST_ROWS:
        raise FileRefused(f"{len(entries)} entries", f"at most {MOST_ROWS} are read")
    rows: dict[KindName, list[ShopEntry]] = {}
    faults = []
    for number, item in enumerate(entries, 1):
        found = _entry(item, number, origin)
        if isinstance(found, ShopEntry):
            rows.setdefault(found.kind, []).append(found)
        else:
            faults += found.faults
    return ReadRows(
        entries=[entry for kind in KINDS for entry in rows.get(kind, [])], faults=faults
    )


def _entry(item: Any, number: int, origin: str) -> ShopEntry | ReadRows:
    from pydantic import ValidationError

    from wedgecraft.core.ground.documents import field_errors
    from wedgecraft.core.shop.document import checked
    from wedgecraft.core.shop.table import RowFault

    try:
        entry = ShopEntry.model_validate(item)
        return entry.model_copy(
            update={
                "data": checked(entry.kind, entry.name, entry.data),
                "source": entry.source or origin,
            }
        )
    except ValidationError as error:
        faults = [
            RowFault(
                row=number, column=wrong.field, message=f"{wrong.value}: {wrong.message}"[:300]
            )
            for wrong in field_errors(error)
        ]
        return ReadRows(entries=[], faults=faults)
