"""Shop entries as rows of text, and rows of text as entries: what spreadsheets and files speak.

Columns are ``name``, then one a field titled ``Travel X [mm]``, then ``source``. Cells may carry
their own units ("30 in"); lists are separated by semicolons. Nothing is guessed: an unknown column
or a cell that is no value is named with its row.
"""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from wedgecraft.core.ground.documents import Document, field_errors
from wedgecraft.core.shop.document import FieldInfo, KindName, ShopEntry, checked, kind_info

MOST_ROWS = 5000


class RowFault(Document):
    """What is wrong with a row (1 is the first below the titles; 0 the titles) and which column."""

    row: int
    column: str
    message: str


class ReadRows(Document):
    """Entries read, and faults; with any fault nothing should be stored. ``columns``: fields the
    file has, where not all.
    """

    entries: list[ShopEntry]
    faults: list[RowFault]
    columns: list[str] | None = None


def title(field: FieldInfo) -> str:
    return f"{field.title} [{field.unit}]" if field.unit else field.title


def to_rows(kind: KindName, entries: list[ShopEntry]) -> list[list[str]]:
    """Titles first; a value reads back as it was."""
    fields = kind_info(kind).fields
    rows = [["Name", *map(title, fields), "Source"]]
    rows += [
        [entry.name, *(_cell(field, entry.data.get(field.name)) for field in fields), entry.source]
        for entry in entries
    ]
    return rows


def _cell(field: FieldInfo, value: Any) -> str:
    if value is None:
        return ""
    if field.type == "material":
        return str(value.get("id", "")) if isinstance(value, dict) else str(value)
    if field.type == "list of texts":
        return "; ".join(value)
    if field.type in ("keep-outs", "curve", "tools"):
        return json.dumps(value) if value else ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return repr(value) if isinstance(value, float) else str(value)


def from_rows(
    kind: KindName,
    rows: list[list[str]],
    origin: str,
    known: dict[str, dict[str, Any]] | None = None,
) -> ReadRows:
    """Entries of one kind. Columns may come in any order and need not all be there.

    ``known``: data of entries by their names in lower case, which rows of that name are changes of.
    """
    if not rows:
        return ReadRows(
            entries=[], faults=[RowFault(row=0, column="", message="there is no row of titles")]
        )
    if len(rows) > MOST_ROWS + 1:
        return ReadRows(
            entries=[],
            faults=[
                RowFault(
                    row=0, column="", message=f"{len(rows) - 1} rows; at most {MOST_ROWS} are read"
                )
            ],
        )
    columns, faults = _columns(kind, rows[0])
    entries: list[ShopEntry] = []
    names: set[str] = set()
    for number, row in enumerate(rows[1:], 1):
        if not any(cell.strip() for cell in row):
            continue
        entry, wrong = _entry(kind, number, row, columns, origin, known or {})
        if entry is not None and entry.name in names:
            wrong.append(
                RowFault(row=number, column="Name", message=f"“{entry.name}” is there twice")
            )
        faults += wrong
        if entry is not None:
            names.add(entry.name)
            entries.append(entry)
    return ReadRows(
        entries=entries,
        faults=faults,
        columns=[item.name for item in columns if isinstance(item, FieldInfo)],
    )


def _columns(
    kind: KindName, titles: list[str]
) -> tuple[list[FieldInfo | str | None], list[RowFault]]:
    """What each column is: a field, ``name``, ``source``, or nothing for one that is not known."""
    fields = kind_info(kind).fields
    known: dict[str, FieldInfo | str] = {"name": "name", "source": "source"}
    for field in fields:
        for word in (title(field), field.title, field.name):
            known.setdefault(word.strip().lower(), field)
    found: list[FieldInfo | str | None] = [
        known.get(cell.strip().lower().lstrip("\ufeff")) for cell in titles
    ]
    faults = [
        RowFault(
            row=0,
            column=cell[:80],
            message="no such column; known are Name, Source, " + ", ".join(map(title, fields)),
        )
        for cell, column in zip(titles, found, strict=True)
        if column is None and cell.strip()
    ]
    if "name" not in found:
        faults.append(RowFault(row=0, column="Name", message="this column is needed"))
    return found, faults


def _entry(
    kind: KindName,
    number: int,
    row: list[str],
    columns: list[FieldInfo | str | None],
    origin: str,
    known: dict[str, dict[str, Any]],
) -> tuple[ShopEntry | None, list[RowFault]]:
    data: dict[str, Any] = {}
    name, source, faults = "", origin, []
    for cell, column in zip(row, columns, strict=False):
        text = cell.strip()
        if column == "name":
            name = text
        elif column == "source":
            source = text or origin
        elif isinstance(column, FieldInfo) and text:
            try:
                data[column.name] = _value(column, text)
            except ValueError as error:
                faults.append(RowFault(row=number, column=title(column), message=str(error)))
    if not name:
        return None, [
            *faults,
            RowFault(row=number, column="Name", message="every row needs a name"),
        ]
    if faults:
        return None, faults
    try:
        return ShopEntry(
            kind=kind,
            name=name,
            data=checked(kind, name, {**known.get(name.lower(), {}), **data}),
            source=source[:200],
        ), []
    except ValidationError as error:
        titles = {field.name: title(field) for field in kind_info(kind).fields}
        wrong = [
            RowFault(
                row=number,
                column=titles.get(item.field.split(".")[0], item.field),
                message=f"{item.value}: {item.message}"[:300],
            )
            for item in field_errors(error)
        ]
        return None, wrong


def _value(field: FieldInfo, text: str) -> Any:
    """What a cell says, before its kind checks it. Raises ValueError."""
    if field.type in ("number", "whole number"):
        try:
            value = float(text.replace(",", ".")) if "." not in text else float(text)
        except ValueError:
            raise ValueError(f"“{text[:60]}” is not a number") from None
        return int(value) if field.type == "whole number" and value.is_integer() else value
    if field.type == "yes or no":
        word = text.lower()
        if word not in ("yes", "no", "true", "false", "1", "0"):
            raise ValueError(f"“{text[:60]}” is neither yes nor no")
        return word in ("yes", "true", "1")
    if field.type == "list of texts":
        return [part.strip() for part in text.split(";") if part.strip()]
    if field.type in ("keep-outs", "curve", "tools"):
        try:
            return json.loads(text)
        except (ValueError, RecursionError):
            raise ValueError("not a list as the export writes it") from None
    return text
