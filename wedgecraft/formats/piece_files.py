"""All files of a setup's pieces: drawings, lists, and a manifest of what is in the pack."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

from wedgecraft.core.make.drawing import Title, drawing
from wedgecraft.core.make.jaws import gap_bridged
from wedgecraft.core.make.milled import milled_rows
from wedgecraft.core.make.sides import seen_x_mm
from wedgecraft.core.make.solid import bodies
from wedgecraft.core.records.assembly import Assembly
from wedgecraft.core.records.piece import Made, Piece
from wedgecraft.core.records.sheet import DrawnUnits, Sheet
from wedgecraft.formats.glb import bodies_3mf, bodies_glb
from wedgecraft.formats.names import file_name
from wedgecraft.formats.sheets.dxf import to_dxf
from wedgecraft.formats.sheets.pdf import to_pdf
from wedgecraft.formats.sheets.svg import to_svg

#: Files in a pack have one date, so that the same pieces make the same pack.
_DATE = (1980, 1, 1, 0, 0, 0)


def numbered(made: Made, place: int) -> str:
    """A piece's number: its setup and its place in the list, both from 1."""
    return f"S{made.number}-{place + 1}"


def sheets_of(made: Made, place: int, title: Title, units: DrawnUnits) -> list[Sheet]:
    """The drawing of one piece, by its place in the list from 0."""
    whole = Title(title.owner, title.job, numbered(made, place), title.by, title.date)
    return drawing(made.pieces[place], whole, units)


class Kernel(NamedTuple):
    """What writes STEP: pieces, and a setup put together, both given as JSON."""

    pieces: Callable[[list[str]], bytes]
    assembly: Callable[[str], bytes]


def solids_of(made: Made, together: Assembly | None, kernel: Kernel) -> dict[str, bytes]:
    """All pieces in one STEP file, the setup ``together`` in another, and jaws with their gap
    bridged in one each, for cam systems.
    """
    found = {}
    if together is not None:
        found["assembly.step"] = kernel.assembly(together.model_dump_json())
    if not made.pieces:
        return found
    write = kernel.pieces
    found["pieces.step"] = write([piece.model_dump_json() for piece in made.pieces])
    for place, piece in enumerate(made.pieces):
        one = gap_bridged(piece)
        if one is not None:
            name = f"{numbered(made, place)} {file_name(one.name)}.step"
            found[name] = write([one.model_dump_json()])
    return found


def pack(
    made: Made, title: Title, units: DrawnUnits, solids: Mapping[str, bytes] | None = None
) -> Iterator[tuple[str, bytes]]:
    """Every file with its name, the manifest last; ``solids``: those of ``solids_of``, where the
    CAD kernel was asked.
    """
    listed = []
    for name, data in [*_files(made, title, units), *(solids or {}).items()]:
        digest = hashlib.sha256(data).hexdigest()
        listed.append({"file": name, "bytes": len(data), "sha256": digest})
        yield name, data
    about = {
        "format": "wedgecraft pieces",
        "version": 1,
        "job": title.job,
        "setup": made.number,
        "units": units,
        "date": title.date,
        "files": listed,
    }
    yield "manifest.json", (json.dumps(about, indent=1) + "\n").encode()


def _files(made: Made, title: Title, units: DrawnUnits) -> Iterator[tuple[str, bytes]]:
    for place, piece in enumerate(made.pieces):
        sheets = sheets_of(made, place, title, units)
        name = f"{numbered(made, place)} {file_name(piece.name)}"
        yield f"{name}.pdf", to_pdf(sheets, piece.name)
        for number, sheet in enumerate(sheets, 1):
            more = f" sheet {number}" if len(sheets) > 1 else ""
            yield f"{name}{more}.svg", to_svg(sheet)
            if sheet.views:
                yield f"{name}{more}.dxf", to_dxf(sheet)
        yield f"{name} holes.csv", holes_csv(piece, units)
        yield f"{name}.glb", bodies_glb(bodies(piece))
        yield f"{name}.3mf", bodies_3mf(bodies(piece))
    yield "parts list.csv", parts_csv(made)
    yield "pieces.json", (made.model_dump_json(indent=1) + "\n").encode()


def zipped(
    made: Made, title: Title, units: DrawnUnits, solids: Mapping[str, bytes] | None = None
) -> bytes:
    """The pack as one ZIP, the same bytes for the same pieces and solids."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in pack(made, title, units, solids):
            file.writestr(zipfile.ZipInfo(name, _DATE), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def holes_csv(piece: Piece, units: DrawnUnits) -> bytes:
    """Every hole from the datum, by tool."""
    scale, digits = (1.0, 4) if units == "mm" else (25.4, 6)
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(["hole", "side", f"x [{units}]", f"y [{units}]", "what", "station", "made"])
    for row in piece.holes:
        x0, y0 = piece.datum_mm if row.side in ("top", "bottom") else (0.0, 0.0)
        for number, place in enumerate(row.places, 1):
            x = seen_x_mm(piece, row.side, place.x_mm)
            at = ((x - x0) / scale, (place.y_mm - y0) / scale)
            write.writerow(
                [
                    f"{row.letter}{number}",
                    row.side,
                    *(f"{value:.{digits}f}" for value in at),
                    place.what,
                    place.station or "",
                    row.says,
                ]
            )
    x0, y0 = piece.datum_mm
    for group in milled_rows(piece):
        for number, middle in enumerate(group.places, 1):
            at = ((middle.x_mm - x0) / scale, (middle.y_mm - y0) / scale)
            write.writerow(
                [
                    f"{group.letter}{number}",
                    group.side,
                    *(f"{value:.{digits}f}" for value in at),
                    f"{middle.what}, at {middle.turn_deg:g}°",
                    "",
                    group.says,
                ]
            )
    return out.getvalue().encode()


def parts_csv(made: Made) -> bytes:
    """What is made and what is bought, with how many."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(["count", "what", "for", "material", "minutes"])
    for place, piece in enumerate(made.pieces):
        size = f"{piece.width_mm:g} x {piece.depth_mm:g} x {piece.thickness_mm:g} mm"
        name = f"{numbered(made, place)} {piece.name}, {size}"
        write.writerow([piece.alike, name, "made", piece.material.name, f"{piece.minutes:.0f}"])
    for item in made.bought:
        write.writerow([item.count, item.says, item.why, "", ""])
    return out.getvalue().encode()
