"""The part a file holds, any side of it up."""

from __future__ import annotations

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import Part, Solid
from wedgecraft.core.records.solid import SolidReading, WayUp
from wedgecraft.core.records.solid_ref import SolidRef

#: Heights are told to this many decimals of a millimetre.
_DECIMALS = 4


def part_of_solid(
    reading: SolidReading, mesh: SolidRef | None, material: Material, name: str, upload: str = ""
) -> Part:
    """The part with its likeliest side up. Raises OutOfRange where no side gives an outline, or its
    faces do not close.
    """
    if mesh is None:
        raise OutOfRange(
            "file",
            reading.name,
            "a solid whose faces close to one body: mend it where it was drawn, export it again",
        )
    way = next((item for item in reading.ways if item.outline is not None), None)
    if way is None or way.outline is None:
        wrong = next((item.wrong for item in reading.ways if item.wrong), "nothing is seen of it")
        raise OutOfRange("file", reading.name, f"a solid with an outline: {wrong}")
    return Part(
        name=name,
        outline=way.outline,
        height_mm=round(way.height_mm, _DECIMALS),
        material=material,
        solid=_solid(reading, way, mesh, upload),
    )


def _solid(reading: SolidReading, way: WayUp, mesh: SolidRef, upload: str) -> Solid:
    return Solid(
        upload=upload,
        name=reading.name,
        up=way.up,
        volume_mm3=reading.volume_mm3,
        faces=reading.faces,
        holes=way.holes,
        mesh=mesh,
    )


def part_of_outline(outline: Outline, thickness_mm: float, material: Material, name: str) -> Part:
    """The part a drawing's outline makes at this thickness."""
    return Part(name=name, outline=outline, height_mm=thickness_mm, material=material)
