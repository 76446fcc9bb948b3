"""Station positions as a table: what a program, a coordinate measuring machine or a spreadsheet
reads and writes.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence
from typing import Literal

from wedgecraft.core.ground.documents import field_errors
from wedgecraft.core.ground.units import parse
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.request import OwnStation
from wedgecraft.core.shop.table import RowFault

TableUnits = Literal["mm", "inch"]
_SCALES: dict[TableUnits, float] = {"mm": 1.0, "inch": 25.4}
_DIGITS: dict[TableUnits, int] = {"mm": 4, "inch": 6}
_MOST = 1000
_COLUMNS = ("station", "face", "op", "x", "y", "turn", "locked")


def to_csv(stations: Sequence[PlacedStation], units: TableUnits = "mm") -> str:
    """One row a station: face and planned op, counted from 1, its datum corner from the plate's
    corner, its turn, its feature's place.

    The last column is the tolerance it uses.
    """
    scale, digits = _SCALES[units], _DIGITS[units]
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    lengths = [f"{name} [{units}]" for name in ("x", "y", "feature x", "feature y")]
    write.writerow(
        [
            "station",
            "face",
            "op",
            *lengths[:2],
            "turn",
            "locked",
            "feature",
            *lengths[2:],
            "tolerance used [%]",
        ]
    )
    for item in stations:
        place = [f"{value / scale:.{digits}f}" for value in (item.x_mm, item.y_mm)]
        feature = [
            f"{value / scale:.{digits}f}" for value in (item.feature_x_mm, item.feature_y_mm)
        ]
        name = f"'{item.feature}" if item.feature[:1] in "=+-@" and item.feature else item.feature
        used = f"{100 * item.tolerance_share:.1f}"
        write.writerow(
            [
                item.number,
                item.face + 1,
                item.kind + 1,
                *place,
                item.turn,
                "yes" if item.locked else "no",
                name,
                *feature,
                used,
            ]
        )
    return out.getvalue()


def from_csv(text: str, units: TableUnits = "mm") -> tuple[list[OwnStation], list[RowFault]]:
    """Stations of a table with columns x and y, and face, op, turn and locked where it has them;
    others are passed over.

    A unit in a column's title ("x [inch]") or in a cell ("2.5 in") counts before ``units``. Rows
    count from 1 below the titles.
    """
    titles, rows, wrong = rows_of(text, _COLUMNS, ("x", "y"))
    if wrong:
        return [], wrong
    scales = {name: scale_of(titles[name], units) for name in ("x", "y")}
    found, faults = [], []
    for number, cells in enumerate(rows, 1):
        station, off = _station(cells, scales)
        faults += [RowFault(row=number, column=column, message=message) for column, message in off]
        found += [station] if station else []
    return ([], faults) if faults else (found, [])


def rows_of(
    text: str, known: Sequence[str], needed: Sequence[str]
) -> tuple[dict[str, str], list[dict[str, str]], list[RowFault]]:
    """Titles of the columns that are known, rows as cells by column, and what keeps the table from
    being read.
    """

    def fault(
        message: str, column: str = ""
    ) -> tuple[dict[str, str], list[dict[str, str]], list[RowFault]]:
        return {}, [], [RowFault(row=0, column=column, message=message)]

    try:
        dialect = csv.Sniffer().sniff(text[:4000], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    try:
        rows = [
            row
            for row in csv.reader(io.StringIO(text.lstrip("\ufeff")), dialect)
            if any(cell.strip() for cell in row)
        ]
    except csv.Error:
        return fault("not a table that can be read; save it as CSV again")
    if len(rows) < 2:
        return fault("a row of titles with x and y, and a row for every station, are needed")
    if len(rows) > _MOST + 1:
        return fault(f"{len(rows) - 1} stations; at most {_MOST} are read")
    titles = [cell.strip().lower() for cell in rows[0]]
    columns = {
        name: index
        for index, title in enumerate(titles)
        if (name := title.split("[")[0].strip()) in known
    }
    missing = [name for name in needed if name not in columns]
    if missing:
        return (
            {},
            [],
            [RowFault(row=0, column=name, message="this column is needed") for name in missing],
        )
    cells = [
        {name: row[index].strip() if index < len(row) else "" for name, index in columns.items()}
        for row in rows[1:]
    ]
    return {name: titles[index] for name, index in columns.items()}, cells, []


def scale_of(title: str, units: TableUnits) -> float:
    if "[inch]" in title or "[in]" in title:
        return _SCALES["inch"]
    return _SCALES["mm"] if "[mm]" in title else _SCALES[units]


def _station(
    cells: dict[str, str], scales: dict[str, float]
) -> tuple[OwnStation | None, list[tuple[str, str]]]:
    wrong: list[tuple[str, str]] = []
    values: dict[str, object] = {}
    for name in ("x", "y"):
        try:
            values[f"{name}_mm"] = length(cells[name], scales[name])
        except ValueError as error:
            wrong.append((name, str(error)))
    turn = cells.get("turn", "").rstrip("°").strip() or "0"
    try:
        values["turn"] = int(float(turn)) if float(turn) == int(float(turn)) else turn
    except (ValueError, OverflowError):
        values["turn"] = turn
    if values["turn"] not in (0, 90, 180, 270):
        wrong.append(("turn", f"“{turn[:20]}” is not a turn; 0, 90, 180 or 270"))
    for name, field in (("face", "face"), ("op", "kind")):
        given = cells.get(name, "") or "1"
        if given.isdigit() and 1 <= int(given) <= 8:
            values[field] = int(given) - 1
        else:
            wrong.append((name, f"“{given[:20]}” is no {name}; 1 for the first"))
    word = cells.get("locked", "").lower()
    if word not in ("", "yes", "no", "true", "false", "1", "0"):
        wrong.append(("locked", f"“{word[:20]}” is neither yes nor no"))
    if wrong:
        return None, wrong
    try:
        return OwnStation.model_validate(values | {"locked": word in ("yes", "true", "1")}), []
    except ValueError as error:
        said = field_errors(error) if hasattr(error, "errors") else []  # type: ignore[arg-type]
        return None, [(item.field.removesuffix("_mm"), item.message) for item in said] or [
            ("", str(error))
        ]


def length(cell: str, scale: float) -> float:
    """A bare number in the table's unit, or a length with its own."""
    try:
        bare = float(cell.replace(",", "."))
    except ValueError:
        return parse("length", cell)
    if not math.isfinite(bare) or abs(bare * scale) > 1e5:
        raise ValueError(f"“{cell[:30]}” is no place on a plate")
    return bare * scale
