"""A log as a table: CSV with commas, semicolons or tabs; one entry a row."""

from __future__ import annotations

import csv
import io
import json
import uuid
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from wedgecraft.core.ground.documents import field_errors
from wedgecraft.core.records.log import AnyEntry
from wedgecraft.core.shop.table import RowFault
from wedgecraft.formats.errors import FileRefused

MOST_BYTES = 40_000_000
MOST_ROWS = 200_000
#: Columns in the order in which they are written.
COLUMNS = (
    "at", "kind", "setup", "station", "seconds", "good", "scrapped", "parts", "torque_nm",
    "feature", "axis", "off_mm", "tool", "minutes", "worn", "reason", "note", "by", "id",
)  # fmt: skip
_LISTS = {"scrapped"}
_ENTRY: TypeAdapter[AnyEntry] = TypeAdapter(AnyEntry)
#: Faults that are said one by one.
_SAID = 50


@dataclass(frozen=True)
class ReadLog:
    """Entries, and rows that could not be read; they take nothing else with them."""

    entries: list[AnyEntry]
    faults: list[RowFault]
    wrong: int = 0


def read_log(data: bytes, whose: str) -> ReadLog:
    """``whose`` log it is: rows without an ``id`` get one from what they say, so that the same file
    adds nothing a second time. Raises FileRefused.
    """
    if not data.strip():
        raise FileRefused("the file is empty", "a table with a row of titles first is needed")
    if len(data) > MOST_BYTES:
        raise FileRefused("the file is too big", f"at most {MOST_BYTES / 1e6:.0f} MB are read")
    text = data.decode("utf-8-sig", "replace")
    if "\0" in text:
        raise FileRefused("this is no table", "save it as CSV")
    first = text.lstrip("\n").split("\n", 1)[0]
    mark = max(";\t,", key=first.count)
    rows = csv.reader(io.StringIO(text), delimiter=mark)
    try:
        titles = [title.strip().lower() for title in next(rows)]
    except (StopIteration, csv.Error):
        raise FileRefused("this is no table", "save it as CSV") from None
    for needed in ("at", "kind"):
        if needed not in titles:
            raise FileRefused(f"there is no column “{needed}”", f"columns are {', '.join(COLUMNS)}")
    return _read(rows, titles, whose)


def _read(rows: Any, titles: list[str], whose: str) -> ReadLog:
    entries: list[AnyEntry] = []
    faults: list[RowFault] = []
    seen: Counter[str] = Counter()
    wrong = 0
    for number in range(1, MOST_ROWS + 2):
        try:
            cells = next(rows)
        except StopIteration:
            break
        except csv.Error as error:
            cells = []
            fault: RowFault | None = RowFault(row=number, column="", message=str(error))
        else:
            if not any(cell.strip() for cell in cells):
                continue
            fault = None
        if number > MOST_ROWS:
            fault = RowFault(row=number, column="", message=f"only {MOST_ROWS} rows are read")
        entry = None
        if fault is None:
            entry, fault = _entry(cells, titles, whose, number, seen)
        if entry is not None:
            entries.append(entry)
        else:
            wrong += 1
            if fault is not None and len(faults) < _SAID:
                faults.append(fault)
    return ReadLog(entries, faults, wrong)


def _entry(
    cells: list[str], titles: list[str], whose: str, number: int, seen: Counter[str]
) -> tuple[AnyEntry | None, RowFault | None]:
    if len(cells) < len(titles):
        said = f"the row has {len(cells)} cells of {len(titles)}: it is torn off"
        return None, RowFault(row=number, column="", message=said)
    given: dict[str, Any] = {
        title: cell.strip().removeprefix("'")
        for title, cell in zip(titles, cells, strict=False)
        if cell.strip() and title in COLUMNS
    }
    for name in _LISTS & given.keys():
        given[name] = [part for part in given[name].replace(",", " ").split() if part]
    if "id" not in given:
        said = json.dumps(given, sort_keys=True)
        seen[said] += 1
        given["id"] = uuid.uuid5(uuid.NAMESPACE_OID, f"{whose} {said} {seen[said]}").hex
    given.setdefault("by", "file")
    try:
        return _ENTRY.validate_python(given), None
    except ValidationError as error:
        first = field_errors(error)[0]
        column = first.field.rsplit(".", 1)[-1].replace("document", "kind")
        message = f"{first.message} (given: {first.value})"
        return None, RowFault(row=number, column=column, message=message)


def as_csv(entries: Sequence[AnyEntry]) -> str:
    """The same table; UTF-8 with a mark, so that spreadsheets read it right."""
    out = io.StringIO()
    write = csv.writer(out)
    write.writerow(COLUMNS)
    for entry in entries:
        said = entry.model_dump(mode="json")
        write.writerow([_cell(said.get(name)) for name in COLUMNS])
    return "\ufeff" + out.getvalue()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, list):
        return " ".join(str(item) for item in value)
    text = str(value)
    return "'" + text if text[:1] in ("=", "+", "@") else text
