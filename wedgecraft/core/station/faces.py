"""Where the faces of a plate or a block stand, as the table sees them: X to the right, Y away, Z up
from the middle of the table.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block

Vector = tuple[float, float, float]
#: How far a lying bar is drawn over the table: where its axis is, nobody has said.
_CLEAR_MM = 30.0


class FacePose(Document):
    """A plate's datum corner on its top, the directions of its X and Y, and outwards; unit
    vectors, mm. As it stands before the block is indexed.
    """

    origin_mm: Vector
    x: Vector
    y: Vector
    out: Vector


class BlockBody(Document):
    """What the plates stand round: a prism of so many ``sides`` about ``axis``, from its
    ``start_mm`` on; ``apothem_mm`` from the axis to a side.
    """

    axis: Vector
    start_mm: Vector
    length_mm: float
    apothem_mm: float
    sides: int


class Faces(NamedTuple):
    """All of them, and the body; nothing for one plate, or where its size is not known."""

    faces: list[FacePose]
    body: BlockBody | None


def apothem_mm(plate: Plate, block: Block) -> float:
    """From the axis to the plates' backs: half of what the block is across; where that is not
    known, of the smallest prism the plates go round edge to edge: ``across / (2 tan(pi / n))``.

    >>> from wedgecraft.core.shop.picks import named
    >>> plate = named("plate", "Plate 400 x 350 x 25")
    >>> round(apothem_mm(plate, Block(faces=4)), 6)
    200.0
    """
    if block.across_mm:
        return block.across_mm / 2
    across = plate.width_mm if block.axis == "upright" else plate.depth_mm
    return across / (2 * math.tan(math.pi / block.faces)) if block.faces > 2 else 0.0


def faces_of(plate: Plate, block: Block) -> Faces:
    """Face k comes to where face 0 stands when the block is indexed by ``360 k / n`` degrees about
    its axis: up through its middle, or along X.
    """
    width, depth, thick = plate.width_mm, plate.depth_mm, plate.thickness_mm
    if block.faces == 1:
        flat = FacePose(
            origin_mm=(-width / 2, -depth / 2, 0.0), x=(1, 0, 0), y=(0, 1, 0), out=(0, 0, 1)
        )
        return Faces([flat], None)
    apothem = apothem_mm(plate, block)
    far = apothem + thick
    lying = block.axis == "lying"
    height = math.hypot(far, depth / 2) + _CLEAR_MM if lying else 0.0
    faces = []
    for k in range(block.faces):
        turn = 2 * math.pi * k / block.faces
        s, c = math.sin(turn), math.cos(turn)
        x, y, out = (
            ((1.0, 0.0, 0.0), (0.0, c, -s), (0.0, s, c))
            if lying
            else ((c, -s, 0.0), (0.0, 0.0, 1.0), (-s, -c, 0.0))
        )
        back = depth / 2 if lying else 0.0
        corner = (
            far * out[0] - width / 2 * x[0] - back * y[0],
            far * out[1] - width / 2 * x[1] - back * y[1],
            far * out[2] - width / 2 * x[2] - back * y[2] + height,
        )
        faces.append(FacePose(origin_mm=corner, x=x, y=y, out=out))
    body = BlockBody(
        axis=(1, 0, 0) if lying else (0, 0, 1),
        start_mm=(-width / 2, 0.0, height) if lying else (0.0, 0.0, 0.0),
        length_mm=width if lying else depth,
        apothem_mm=apothem,
        sides=block.faces if block.faces > 2 else 4,
    )
    return Faces(faces, body if apothem else None)
