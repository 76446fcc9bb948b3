"""Cuts from a table, as pasted from a spreadsheet: one cut a line, tabs (or semicolons) between
cells, with or without titles.

Cells may carry units. What is not given is taken from the cut above, as a person filling in a tool
list would; nothing is guessed for the first. An unknown title or a cell that is no value is named
with its row.
"""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from wedgecraft.core.ground.documents import Document, field_errors
from wedgecraft.core.records.cut import CUT_KINDS, Cut

#: Column titles people use, by where the value goes.
TITLES: dict[str, tuple[str, ...]] = {
    "name": ("name", "cut", "tool", "t"),
    "kind": ("kind", "operation", "type"),
    "tool.name": ("cutter", "tool name"),
    "tool.diameter_mm": ("diameter", "dia", "d"),
    "tool.teeth": ("teeth", "flutes", "z"),
    "axial_depth_mm": ("depth", "ap", "axial depth", "depth of a pass"),
    "radial_width_mm": ("width", "ae", "radial width", "width engaged", "stepover"),
    "feed_per_tooth_mm": ("feed per tooth", "fz", "chip load", "feed"),
    "spindle_rpm": ("spindle", "rpm", "speed", "s", "spindle, 1/min"),
    "passes": ("passes",),
    "at": ("at", "places", "holes"),
    "seconds": ("seconds", "time", "s/part"),
    "tool.pitch_mm": ("pitch", "thread pitch"),
    "tool.helix_deg": ("helix",),
    "from_top_mm": ("from top", "begins below the top"),
}
#: The order of cells when the first line is no line of titles.
ORDER = (
    "name",
    "kind",
    "tool.diameter_mm",
    "tool.teeth",
    "axial_depth_mm",
    "radial_width_mm",
    "feed_per_tooth_mm",
    "spindle_rpm",
    "at",
    "seconds",
)
_MOST_LINES = 60
_NUMBERS = ("tool.teeth", "spindle_rpm", "passes", "seconds", "tool.helix_deg")


class CellFault(Document):
    """What is wrong in a line (the first is 1, titles included) and where."""

    line: int
    column: str
    message: str


def cuts_from_text(text: str, inch: bool = False) -> tuple[list[Cut], list[CellFault]]:
    """Cuts, and faults; with any fault nothing should be stored. ``inch``: bare lengths are
    inches.
    """
    lines = [line for line in text.replace("\r", "").split("\n") if line.strip()]
    if not lines:
        return [], [CellFault(line=1, column="", message="nothing was pasted")]
    if len(lines) > _MOST_LINES + 1:
        return [], [
            CellFault(
                line=1,
                column="",
                message=f"{len(lines)} lines; at most {_MOST_LINES} cuts fit in an op",
            )
        ]
    mark = "\t" if "\t" in text else ";" if ";" in lines[0] else ","
    rows = [[cell.strip() for cell in line.split(mark)] for line in lines]
    columns, first, faults = _columns(rows[0])
    cuts: list[Cut] = []
    above: dict[str, Any] = {}
    for number, row in enumerate(rows[first:], first + 1):
        cut, wrong, above = _cut(number, row, columns, above, inch)
        faults += wrong
        if cut is not None:
            cuts.append(cut)
    return cuts, faults


def _columns(cells: list[str]) -> tuple[list[str | None], int, list[CellFault]]:
    """Where each column goes, the first line of cuts, and titles that are not known."""
    known = {word: path for path, words in TITLES.items() for word in words}
    found = [known.get(cell.lower().split("[")[0].strip()) for cell in cells]
    if sum(path is not None for path in found) < min(2, len(cells)):
        return list(ORDER), 0, []
    faults = [
        CellFault(
            line=1,
            column=cell[:60],
            message="no such column; known are " + ", ".join(words[0] for words in TITLES.values()),
        )
        for cell, path in zip(cells, found, strict=True)
        if path is None and cell
    ]
    return found, 1, faults


def _cut(
    number: int, row: list[str], columns: list[str | None], above: dict[str, Any], inch: bool
) -> tuple[Cut | None, list[CellFault], dict[str, Any]]:
    given: dict[str, Any] = {}
    for path, cell in zip(columns, row, strict=False):
        if path is not None and cell:
            given[path] = _value(path, cell, inch)
    carried = {
        key: value
        for key, value in above.items()
        if key not in ("at", "seconds", "passes", "from_top_mm", "tool.pitch_mm", "tool.name")
    }
    if "kind" in given and given["kind"] != above.get("kind"):
        carried = {key: value for key, value in carried.items() if key == "spindle_rpm"}
    merged: dict[str, Any] = {"name": f"Cut {number}", "kind": "contour"} | carried | given
    merged["kind"] = str(merged["kind"]).lower()
    tool = {path.split(".")[1]: value for path, value in merged.items() if path.startswith("tool.")}
    depth = merged.get("axial_depth_mm")
    tool.setdefault("flute_length_mm", depth if depth is not None else 30)
    document = {path: value for path, value in merged.items() if not path.startswith("tool.")}
    if merged["kind"] in CUT_KINDS.names:  # what else is written there is refused below
        kind = CUT_KINDS[merged["kind"]]()
        tool = {"kind": kind.usual, "teeth": kind.usual_teeth} | kind.tool_unsaid(depth) | tool
        document = kind.unsaid() | document
    tool.setdefault("teeth", 1)
    document["tool"] = tool
    try:
        return Cut.model_validate(document), [], {**merged}
    except ValidationError as error:
        return (
            None,
            [_fault(number, item.field, item.value, item.message) for item in field_errors(error)],
            above,
        )


def _fault(number: int, field: str, value: str, message: str) -> CellFault:
    words = (
        TITLES.get(field)
        or TITLES.get(field.removeprefix("tool."))
        or (field.replace("_mm", "").replace("_", " "),)
    )
    return CellFault(line=number, column=words[0], message=f"{value}: {message}"[:300])


def _value(path: str, cell: str, inch: bool) -> Any:
    if path in _NUMBERS:
        try:
            value = float(cell.replace(",", "."))
        except ValueError:
            return cell
        return int(value) if value.is_integer() else value
    bare = (
        inch
        and path.endswith("_mm")
        and not any(letter.isalpha() or letter == '"' for letter in cell)
    )
    return (
        f"{cell} in"
        if bare or (inch and path == "at" and not any(map(str.isalpha, cell)))
        else cell
    )
