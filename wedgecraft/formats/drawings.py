"""Any drawing, by what it is: the extension is believed only when the content agrees."""

from __future__ import annotations

import gc

from wedgecraft.core.records.drawing import DrawingUnits, OutlinesFound
from wedgecraft.formats.child import Limits
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.outlines import JOIN_MM

LIMITS = Limits(
    seconds=15,
    memory=950_000_000,
    libraries=("wedgecraft.formats.dxf", "wedgecraft.formats.svg", "wedgecraft.formats.tables"),
)


def read_json(
    data: bytes, units: DrawingUnits | None, name: str, layers: list[str] | None, join_mm: float
) -> str:
    """As ``read_drawing``, written out: thousands of points cross between processes quicker so, and
    are not validated once more.
    """
    return read_drawing(data, units, name, layers, join_mm).model_dump_json()


def kind_of(data: bytes, name: str) -> str:
    """``dxf``, ``svg`` or ``step``, from the content; the name only where the content does not say.
    Raises FileRefused.
    """
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"ISO-10303-21"):
        return "step"
    if head.startswith((b"<?xml", b"<svg", b"<!--", b"<!DOCTYPE")) or b"<svg" in head:
        return "svg"
    if (
        head.startswith(b"AutoCAD Binary DXF")
        or head.startswith(b"999")
        or head[:80].split(b"\n")[0].strip() == b"0"
    ):
        return "dxf"
    for known, kind in (
        (b"%PDF", "a PDF"),
        (b"\x89PNG", "a picture"),
        (b"\xff\xd8", "a picture"),
        (b"PK", "a ZIP archive"),
        (b"AC10", "a DWG drawing"),
    ):
        if head.startswith(known):
            raise FileRefused(f"“{name[:80]}” is {kind}", "export the part as DXF, SVG or STEP")
    ending = name.rsplit(".", 1)[-1].lower()
    if ending in ("dxf", "svg"):
        return ending
    if ending in ("step", "stp"):
        raise FileRefused(
            f"“{name[:80]}” does not begin as a STEP file does",
            "export the solid again as STEP (AP203, AP214 or AP242)",
        )
    raise FileRefused(
        f"“{name[:80]}” is no kind of drawing that is read here",
        "export the part as DXF, SVG or STEP",
    )


def read_drawing(
    data: bytes,
    units: DrawingUnits | None = None,
    name: str = "drawing",
    layers: list[str] | None = None,
    join_mm: float = JOIN_MM,
) -> OutlinesFound:
    """Outlines of a DXF or SVG. Raises FileRefused, UnitsMissing."""
    from wedgecraft.formats import dxf, svg

    if not data:
        raise FileRefused("the file is empty", "export the part again as DXF, SVG or STEP")
    kind = kind_of(data, name)
    if kind == "step":
        raise FileRefused(f"“{name[:80]}” is a solid", "load it as a solid, not as a drawing")
    reader = svg if kind == "svg" else dxf
    # A drawing is a hundred thousand small objects that all live until it is read: looking for
    # garbage meanwhile is a third of the time.
    was_on = gc.isenabled()
    gc.disable()
    try:
        return reader.read_outlines(data, units, name, layers, join_mm)
    finally:
        if was_on:
            gc.enable()
