"""A piece on paper: views to a standard scale, the hole table, frame and title block.

Paper ISO 216, frame ISO 5457, scales ISO 5455, title block fields ISO 7200, projection by named
views; dimensions from the datum (ISO 129-1, coordinates): from memory of those standards.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from wedgecraft.core.make.faces_sheet import face_views
from wedgecraft.core.make.milled import milled_rows
from wedgecraft.core.make.sides import seen_x_mm
from wedgecraft.core.make.views import (
    across_rows,
    across_view,
    front_view,
    length_text,
    plan_view,
    profile_view,
    section_view,
)
from wedgecraft.core.records.piece import Piece
from wedgecraft.core.records.sheet import (
    PAPERS,
    DrawnUnits,
    Item,
    Label,
    Paper,
    Sheet,
    SheetView,
    Stroke,
)

#: Standard scales, the largest first.
SCALES = (2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02)
_LEFT_MM, _OTHER_MM = 20.0, 10.0
_TITLE_W, _TITLE_H = 180.0, 40.0
_TABLE_W = 118.0
_ROW_MM = 4.2
#: Round a view for its ordinates, and between views.
_ORDINATES_MM = 28.0
_BETWEEN_MM = 16.0
#: A column of a table with its room, and lines left for notes below it.
_COLUMN_MM = 126.0
_NOTE_MM = 4.0
#: Of tables on a sheet of their own.
_COLUMNS: dict[Paper, int] = {"A4": 1, "A3": 3, "A2": 3}
PAPER_NAMES: tuple[Paper, ...] = ("A4", "A3", "A2")
#: A print is measured by it.
_BAR_MM = 100.0


@dataclass(frozen=True)
class Title:
    """What a title block says besides the piece: whose it is, of which job, its number, by whom, on
    which day (ISO 8601).
    """

    owner: str
    job: str
    number: str
    by: str
    date: str


class _Room(NamedTuple):
    """What a view and its neighbours leave each other on the paper."""

    paper: Paper
    scale: float


def drawing(piece: Piece, title: Title, units: DrawnUnits = "mm") -> list[Sheet]:
    """The sheets of a piece: views and rows of holes, then every hole's place where those are
    many.
    """
    room = _fits(piece)
    width, height = PAPERS[room.paper]
    scale, left = room.scale, _LEFT_MM + _ORDINATES_MM
    thick, right = piece.thickness_mm * scale, left + piece.width_mm * scale + 14
    low = _OTHER_MM + 6
    if right > width - _OTHER_MM - _TITLE_W:
        low += _TITLE_H
    tall = _tall(piece, scale)
    low += max(0.0, height - _OTHER_MM - 12 - low - tall) / 2
    across = across_view(piece, scale, units)
    if across:
        low += _ORDINATES_MM - 6
    front = (left, low + (thick + _BETWEEN_MM if across else 0.0))
    plan = (left, front[1] + thick + _BETWEEN_MM + _ORDINATES_MM)
    views = [
        SheetView(name="From above", at_mm=plan, items=plan_view(piece, scale, units)),
        SheetView(name="From the front", at_mm=front, items=front_view(piece, scale, units)),
    ]
    if piece.bodies:
        views[1] = SheetView(
            name="Section amid the pocket", at_mm=front, items=section_view(piece, scale, units)
        )
    if across:
        views.append(SheetView(name="Either jaw from the gap", at_mm=(left, low), items=across))
    rows = _rows(piece, units)
    columns = max(1, int((width - _OTHER_MM - right) / _COLUMN_MM))
    small = room.paper == "A4"  # no room beside the views: tables and notes on sheets of their own
    beside = not small and len(rows) + _note_rows(piece) <= columns * _column(room.paper)
    said = rows if beside else [row for row in rows if row.head]
    lists = [] if beside else _pages(rows, "A4" if small else "A3", _notes(piece) if small else [])
    faces = face_views(piece, SCALES, units)
    count = 1 + len(lists) + bool(piece.bodies) + len(faces)
    first = Sheet(
        name=piece.name,
        paper=room.paper,
        width_mm=width,
        height_mm=height,
        scale=scale,
        units=units,
        datum_mm=piece.datum_mm,
        views=views,
        items=[
            *_frame(width, height),
            *_title(piece, title, width, scale, units, 1, count),
            *([] if small else _table(said, room.paper, columns, piece)),
        ],
    )
    whole = [first, *_lists(lists, piece, title, units, count)]
    whole += [
        Sheet(
            name=f"{piece.name}, from its sides",
            paper=paper,
            width_mm=PAPERS[paper][0],
            height_mm=PAPERS[paper][1],
            scale=own,
            units=units,
            datum_mm=(0.0, 0.0),
            views=views,
            items=[
                *_frame(*PAPERS[paper]),
                *_title(piece, title, PAPERS[paper][0], own, units, number, count),
            ],
        )
        for number, (paper, own, views) in enumerate(faces, 2 + len(lists))
    ]
    return [*whole, *([to_lay_on(piece, title, units, count)] if piece.bodies else [])]


def to_lay_on(piece: Piece, title: Title, units: DrawnUnits, count: int = 1) -> Sheet:
    """The bodies with their pockets as large as life, and a bar to measure the print by: the part,
    or the jaws, are laid on it.
    """
    wide, high = piece.width_mm + 60, piece.depth_mm + _TITLE_H + 60
    fits = [name for name, (w, h) in PAPERS.items() if wide <= w and high <= h]
    paper: Paper = fits[0] if fits else "A2"  # type: ignore[assignment]
    width, height = PAPERS[paper]
    low = _OTHER_MM + _TITLE_H + 22
    bar = (_LEFT_MM + 12, low - 12)
    end = bar[0] + _BAR_MM
    items: list[Item] = [
        *_frame(width, height),
        *_title(piece, title, width, 1.0, units, count, count),
        Stroke(layer="OUTLINE", points=[bar, (end, bar[1])]),
        *(
            Stroke(layer="OUTLINE", points=[(x, bar[1] - 2), (x, bar[1] + 2)])
            for x in (bar[0], end)
        ),
        Label(
            text=f"{_BAR_MM:g} mm: measure it; print at 100 %", x=end + 4, y=bar[1] - 1, high=2.5
        ),
    ]
    view = SheetView(name="1:1", at_mm=(_LEFT_MM + 12, low), items=profile_view(piece))
    return Sheet(
        name=f"{piece.name}, to lay the part on",
        paper=paper,
        width_mm=width,
        height_mm=height,
        scale=1.0,
        units=units,
        datum_mm=piece.datum_mm,
        views=[view],
        items=items,
    )


def _fits(piece: Piece) -> _Room:
    """The smallest paper on which the views are at least half as large as life, else the largest
    scale on the largest.
    """
    # what comes in bodies has a sheet as large as life besides
    for least in (0.5, 0.2, 0.0) if piece.bodies else (1.0, 0.5, 0.2, 0.0):
        for paper in PAPER_NAMES:
            for scale in SCALES:
                if scale >= least and _has_room(piece, paper, scale):
                    return _Room(paper, scale)
    return _Room("A2", SCALES[-1])


def _has_room(piece: Piece, paper: str, scale: float) -> bool:
    width, height = PAPERS[paper]
    wide = width - _LEFT_MM - _OTHER_MM - _ORDINATES_MM - 16
    if paper != "A4":
        wide -= _TABLE_W
    high = height - 2 * _OTHER_MM - _ORDINATES_MM - _BETWEEN_MM - 12
    if _LEFT_MM + _ORDINATES_MM + piece.width_mm * scale + 14 > width - _OTHER_MM - _TITLE_W:
        high -= _TITLE_H
    room = high + _ORDINATES_MM + _BETWEEN_MM
    return piece.width_mm * scale <= wide and _tall(piece, scale) <= room and scale <= 1.0


def _tall(piece: Piece, scale: float) -> float:
    """All views over one another, with their ordinates and what is between."""
    more = _BETWEEN_MM + _ORDINATES_MM
    tall = (piece.thickness_mm + piece.depth_mm) * scale + more
    if across_rows(piece):
        tall += piece.thickness_mm * scale + more - 6
    return tall


class _Row(NamedTuple):
    """A line of a table; ``head``: of all holes of one kind."""

    head: bool
    name: str
    x: str
    y: str
    says: str


def _rows(piece: Piece, units: DrawnUnits) -> list[_Row]:
    found = []
    for row in piece.holes:
        side = "" if row.side == "top" else f", {row.side}"
        found.append(_Row(True, row.letter, f"{len(row.places)} x", "", row.says + side))
        x0, y0 = piece.datum_mm if row.side in ("top", "bottom") else (0.0, 0.0)
        for number, place in enumerate(row.places, 1):
            of = f", station {place.station}" if place.station else ""
            found.append(
                _Row(
                    False,
                    f"{row.letter}{number}",
                    length_text(seen_x_mm(piece, row.side, place.x_mm) - x0, units),
                    length_text(place.y_mm - y0, units),
                    place.what + of,
                )
            )
    x0, y0 = piece.datum_mm
    for group in milled_rows(piece):
        side = "" if group.side == "top" else f", {group.side}"
        found.append(_Row(True, group.letter, f"{len(group.places)} x", "", group.says + side))
        for number, at in enumerate(group.places, 1):
            found.append(
                _Row(
                    False,
                    f"{group.letter}{number}",
                    length_text(at.x_mm - x0, units),
                    length_text(at.y_mm - y0, units),
                    f"middle, at {at.turn_deg:g}°, {at.what}",
                )
            )
    return found


def _column(paper: str) -> int:
    """Lines of a table from the top of a sheet down to its title block."""
    return int((PAPERS[paper][1] - 2 * _OTHER_MM - _TITLE_H - 24) / _ROW_MM)


class _Page(NamedTuple):
    """A sheet of rows, and of notes below them."""

    paper: Paper
    rows: list[_Row]
    notes: list[str]


def _pages(rows: Sequence[_Row], paper: Paper, notes: Sequence[str]) -> list[_Page]:
    """As many as go on a sheet in its columns, and so on; notes where there is room below them."""
    each = _COLUMNS[paper] * _column(paper)
    pages = [_Page(paper, list(rows[k : k + each]), []) for k in range(0, len(rows), each)]
    if notes and pages and len(pages[-1].rows) + len(notes) + 3 <= _column(paper):
        pages[-1].notes.extend(notes)
    elif notes:
        pages.append(_Page(paper, [], list(notes)))
    return pages


def _lists(
    lists: Sequence[_Page], piece: Piece, title: Title, units: DrawnUnits, count: int
) -> Iterator[Sheet]:
    for number, (paper, rows, notes) in enumerate(lists, 2):
        width, height = PAPERS[paper]
        column = _column(paper)
        items: list[Item] = [
            *_frame(width, height),
            *_title(piece, title, width, 0.0, units, number, count),
        ]
        for k in range(0, len(rows), column):
            x = _LEFT_MM + 8 + (k // column) * 128
            items += _lines(rows[k : k + column], x, height - _OTHER_MM - 10)
        y = height - _OTHER_MM - 10 - _ROW_MM * (len(rows) + 3)
        items += [
            Label(text=note, x=_LEFT_MM + 8, y=y - 4.0 * k, high=2.0)
            for k, note in enumerate(notes)
        ]
        yield Sheet(
            name=f"{piece.name}, places",
            paper=paper,
            width_mm=width,
            height_mm=height,
            scale=1.0,
            units=units,
            datum_mm=piece.datum_mm,
            views=[],
            items=items,
        )


def _table(rows: Sequence[_Row], paper: str, columns: int, piece: Piece) -> list[Item]:
    width, height = PAPERS[paper]
    each, top = _column(paper), height - _OTHER_MM - 10
    # notes stand below the last rows, or in a column of their own
    last = len(rows) % each or (each if rows else 0)
    apart = last + _note_rows(piece) > each
    used = max(1, min(columns, -(-len(rows) // each) + apart))
    found: list[Item] = []
    x, y = width - _OTHER_MM - _COLUMN_MM * used + 4, top
    for k in range(0, max(len(rows), 1), each):
        own = rows[k : k + each]
        x = width - _OTHER_MM - _COLUMN_MM * (used - k // each) + 4
        found += _lines(own, x, top)
        y = top - _ROW_MM * (len(own) + 3)
    if apart and used > -(-len(rows) // each):
        x, y = x + _COLUMN_MM, top
    for note in _notes(piece):
        found.append(Label(text=note, x=x, y=y, high=2.0))
        y -= _NOTE_MM
    return found


def _note_rows(piece: Piece) -> int:
    """How many rows of a table notes take, with what is above them."""
    return math.ceil(len(_notes(piece)) * _NOTE_MM / _ROW_MM) + 3


def _notes(piece: Piece) -> list[str]:
    """Short enough for the column beside the views."""
    found = [piece.datum_says]
    for note in [*piece.notes, *(f"CHECK: {d.what}: {d.says}" for d in piece.doubts[:4])]:
        line = ""
        for word in note.split():
            if len(line) + len(word) > 74:
                found.append(line)
                line = "  "
            line += ("" if not line.strip() else " ") + word
        found.append(line)
    return found


def _lines(rows: Sequence[_Row], x: float, y: float) -> list[Item]:
    if not rows:
        return []
    found: list[Item] = [
        Label(text=text, x=x + at, y=y, high=2.0)
        for at, text in ((0, "Hole"), (14, "X"), (32, "Y"), (52, "What"))
    ]
    found.append(Stroke(layer="FRAME", points=[(x, y - 1.6), (x + _TABLE_W, y - 1.6)]))
    for row in rows:
        y -= _ROW_MM
        high = 2.2 if row.head else 2.0
        found.append(Label(text=row.name, x=x, y=y, high=high, figures=True))
        if row.head:
            found.append(Label(text=row.x, x=x + 14, y=y, high=high, figures=True))
            found.append(Label(text=row.says, x=x + 28, y=y, high=high))
            found.append(Stroke(layer="DIMENSIONS", points=[(x, y - 1.3), (x + _TABLE_W, y - 1.3)]))
            continue
        found += [
            Label(text=row.x, x=x + 28, y=y, high=high, anchor="end", figures=True),
            Label(text=row.y, x=x + 48, y=y, high=high, anchor="end", figures=True),
            Label(text=row.says, x=x + 52, y=y, high=high),
        ]
    return found


def _frame(width: float, height: float) -> list[Item]:
    x0, y0, x1, y1 = _LEFT_MM, _OTHER_MM, width - _OTHER_MM, height - _OTHER_MM
    found: list[Item] = [
        Stroke(layer="FRAME", points=[(x0, y0), (x1, y0), (x1, y1), (x0, y1)], closed=True)
    ]
    for a, b in (
        ((width / 2, 0), (width / 2, y0 + 5)),
        ((width / 2, height), (width / 2, y1 - 5)),
        ((0, height / 2), (x0 + 5, height / 2)),
        ((width, height / 2), (x1 - 5, height / 2)),
    ):
        found.append(Stroke(layer="FRAME", points=[a, b]))
    return found


def _title(
    piece: Piece,
    title: Title,
    width: float,
    scale: float,
    units: DrawnUnits,
    number: int,
    count: int,
) -> list[Item]:
    x0, y0 = width - _OTHER_MM - _TITLE_W, _OTHER_MM
    x1, y1 = x0 + _TITLE_W, y0 + _TITLE_H
    found: list[Item] = [
        Stroke(layer="FRAME", points=[(x0, y0), (x1, y0), (x1, y1), (x0, y1)], closed=True)
    ]
    for k in (1, 2, 3):
        y = y0 + k * _TITLE_H / 4
        found.append(Stroke(layer="FRAME", points=[(x0, y), (x1, y)]))
    size = f"{piece.width_mm:g} x {piece.depth_mm:g} x {piece.thickness_mm:g} mm"
    cells = [
        [("Owner", title.owner, 0), ("Title", piece.name, 60)],
        [("Job", title.job, 0), ("Material, size", f"{piece.material.name}, {size}", 60)],
        [
            ("Number", title.number, 0),
            ("Made", f"{piece.alike} alike" if piece.alike > 1 else "1", 60),
            ("Mass", f"{piece.mass_kg:.2f} kg", 90),
            ("General tolerance", "ISO 2768-m", 125),
        ],
        [
            ("Date", title.date, 0),
            ("By", title.by, 30),
            ("Units", units, 75),
            ("Scale", scale_text(scale), 100),
            ("Sheet", f"{number}/{count}", 125),
            ("Type", "Part drawing", 145),
        ],
    ]
    for row, fields in enumerate(cells):
        y = y1 - row * _TITLE_H / 4
        for what, text, at in fields:
            found.append(Label(text=what, x=x0 + at + 1.5, y=y - 3.0, high=1.4))
            found.append(Label(text=_cut(text, 60), x=x0 + at + 1.5, y=y - 7.8, high=2.4))
            if at:
                found.append(
                    Stroke(layer="FRAME", points=[(x0 + at, y), (x0 + at, y - _TITLE_H / 4)])
                )
    return found


def scale_text(scale: float) -> str:
    """As ISO 5455 writes it; a dash where nothing is drawn."""
    if not scale:
        return "–"
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def _cut(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
