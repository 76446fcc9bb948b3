"""A part out of any file that holds one, complete in its document."""

from __future__ import annotations

import base64
from typing import Literal

from wedgecraft.core.draft.shape import part_of_outline, part_of_solid
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.part import Part
from wedgecraft.formats.drawings import kind_of as drawing_kind
from wedgecraft.formats.drawings import read_drawing
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.solid_kinds import kind_of
from wedgecraft.formats.step.reader import StepReader

Unit = Literal["mm", "in"]


def read_part(
    data: bytes,
    name: str,
    material: Material,
    thickness_mm: float | None = None,
    unit: Unit | None = None,
    reader: StepReader | None = None,
) -> Part:
    """The part of a STEP, STL, 3MF, GLB, DXF or SVG file, its mesh in the document. ``unit``: of a
    file that names none; ``reader``: one that goes on reading afterwards. Raises FileRefused.
    """
    called = name.rsplit("/", 1)[-1].rsplit(".", 1)[0][:120] or "Part"
    if kind_of(data) is None and drawing_kind(data, name) != "step":
        found = read_drawing(data, None if unit is None else _DRAWN[unit], name)
        if thickness_mm is None:
            raise FileRefused("a drawing says no thickness", "give the part's thickness with it")
        return part_of_outline(found.outlines[0].outline, thickness_mm, material, called)
    kernel = reader or StepReader()
    try:
        reading, *_, packed = kernel.read(data, name, unit or "mm")
    finally:
        if reader is None:
            kernel.close()
    mesh = reading.mesh
    if mesh is not None:
        text = base64.b64encode(packed).decode()
        mesh = mesh.model_copy(update={"mesh_base64": text})
    try:
        return part_of_solid(reading, mesh, material, called)
    except OutOfRange as error:
        raise FileRefused(f"“{name[:80]}” cannot be drafted", str(error.allowed)) from None


_DRAWN: dict[Unit, Literal["mm", "inch"]] = {"mm": "mm", "in": "inch"}
