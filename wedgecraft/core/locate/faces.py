"""The part's own faces as datums: which op cut them, how flat they are, how far apart."""

from __future__ import annotations

from dataclasses import dataclass

from wedgecraft.core.records.feature import DIRECTIONS, Direction
from wedgecraft.core.records.locating import Spread
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.stock import AXES, Axis
from wedgecraft.core.workpiece.blank import half_range_mm, spread, straight_mm
from wedgecraft.core.workpiece.made import face_made_in, touched_op
from wedgecraft.core.workpiece.sitting import Sitting
from wedgecraft.core.workpiece.states import workpiece

#: How far a milled face strays from flat where it touches, plus or minus; common practice, no
#: source.
MILLED_FLAT_MM = 0.003
#: A face this near to where it is drawn is down to its size.
_AT_SIZE_MM = 0.02


@dataclass(frozen=True)
class DatumFace:
    """A face that touches locators: plus-or-minus range where it touches, and why. No range: it
    leaves no trace.
    """

    face: Direction
    range_mm: float
    spread: Spread
    why: str
    cut_in: int | None


def cut_faces(part: Part, op: Op) -> set[Direction]:
    """Faces of the part that an op machines: those its features take, and those its cuts bring to
    their place.
    """
    found = {face for item in part.features if item.op == op.number for face in item.takes}
    index = _index(part, op.number)
    piece = workpiece(part, "largest")
    return found | {face for face in DIRECTIONS if face_made_in(piece, index + 1, face) == index}


def made_in(part: Part, face: Direction, before: int) -> int | None:
    """The last op before this one that cut a face; nothing while it is raw."""
    numbers = [
        op.number
        for op in part.ops
        if op.number < before
        and any(face in item.takes for item in part.features if item.op == op.number)
    ]
    cut = face_made_in(workpiece(part, "largest"), _index(part, before), face)
    return max([*numbers, *([] if cut is None else [part.ops[cut].number])], default=None)


def _index(part: Part, number: int) -> int:
    """The place of an op among the part's, or where it would stand."""
    return sum(op.number < number for op in part.ops)


def datum_face(sitting: Sitting, side: Direction, low_mm: float, high_mm: float) -> DatumFace:
    """What an op's locators touch on a side of the part, between two heights over the floor."""
    part, op, face = sitting.part, sitting.op, sitting.face(side)
    made = touched_op(sitting, side, low_mm, high_mm)
    if made is not None:
        number = part.ops[made].number
        return DatumFace(face, MILLED_FLAT_MM, "normal", f"face {face}, cut in op {number}", number)
    taken = made_in(part, face, op.number)
    # what a feature says it takes counts where the material is down to its size
    if taken is not None and abs(sitting.finished.box["XYZ".index(side[1])]) < _AT_SIZE_MM:
        return DatumFace(face, MILLED_FLAT_MM, "normal", f"face {face}, cut in op {taken}", taken)
    later = [
        other.number
        for other in part.ops
        if other.number >= op.number and face in cut_faces(part, other)
    ]
    if later:
        return DatumFace(
            face, 0.0, "uniform", f"face {face} is raw, and gone after op {min(later)}", None
        )
    flat = straight_mm(part.stock, axis_of(face))
    return DatumFace(
        face, flat, "uniform", f"face {face} is raw: {part.stock.kind}, from memory", None
    )


def axis_of(face: Direction) -> Axis:
    return AXES["XYZ".index(face[1])]


def raw_size(part: Part, axis: Axis) -> tuple[float, Spread, str]:
    """How much blanks vary along an axis: range, spread and why."""
    _, why = spread(part.stock, axis)
    if getattr(part.stock, axis).variation.kind in ("usual", "range"):
        return half_range_mm(part.stock, axis), "uniform", why
    return half_range_mm(part.stock, axis), "normal", f"{why}; three standard deviations"


def face_at(part: Part, face: Direction) -> float:
    """Where a face is along its axis, in the part's frame."""
    return workpiece(part, "largest").finished.box[
        "XYZ".index(face[1]) + (3 if face[0] == "+" else 0)
    ]
