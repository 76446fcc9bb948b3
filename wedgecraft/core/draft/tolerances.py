"""What a drawing that was not sent would ask for: general tolerances of the house.

ISO 2768-1, class m, linear dimensions, from memory; a position zone is twice the plus-or-minus.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from wedgecraft.core.records.feature import Direction, Feature
from wedgecraft.core.records.op import Op
from wedgecraft.core.workpiece.pose import turn_of
from wedgecraft.core.workpiece.surfaces import RoundFace, side_of

#: Up to so long, plus or minus, mm.
CLASS_M_MM = (
    (6.0, 0.1), (30.0, 0.2), (120.0, 0.3), (400.0, 0.5), (1000.0, 0.8), (2000.0, 1.2),
)  # fmt: skip
_LONGER_MM = 2.0
#: No more features than a person looks through.
_MOST = 24
#: Holes of these diameters may be meant for a thread, mm: coarse threads, ISO 261 and unified.
TAPPING_MM = {
    1.6: "M2", 2.05: "M2.5", 2.5: "M3", 3.3: "M4", 4.2: "M5", 5.0: "M6", 6.8: "M8", 8.5: "M10",
    10.2: "M12", 14.0: "M16", 17.5: "M20", 3.8: "#10-24", 5.1: "1/4-20", 6.5: "5/16-18",
    7.94: "3/8-16", 10.7: "1/2-13",
}  # fmt: skip
_TAPPING_WITHIN_MM = 0.06


def general_mm(length_mm: float) -> float:
    """Plus or minus of a length.

    >>> general_mm(25), general_mm(80)
    (0.2, 0.3)
    """
    return next((allowed for most, allowed in CLASS_M_MM if length_mm <= most), _LONGER_MM)


def features_of(
    holes: Sequence[RoundFace], ops: Sequence[Op], known: Sequence[Feature] = ()
) -> list[Feature]:
    """The position of each round hole, in the op that makes it; of those that are not ``known``."""
    found: list[Feature] = []
    for hole in holes:
        sides = [side for way in hole.open_to if (side := side_of(way)) is not None]
        op = next((item for item in ops if item.up in sides and _makes(item)), None)
        if op is None or len(found) >= _MOST:
            continue
        x, y, z = _mouth(hole, op.up)
        if any(math.dist((x, y), (item.x_mm, item.y_mm)) < hole.diameter_mm / 4 for item in known):
            continue
        far = max(abs(x), abs(y), abs(z))
        found.append(
            Feature(
                name=f"Ø{hole.diameter_mm:.4g} hole {len(found) + 1}",
                x_mm=x,
                y_mm=y,
                z_mm=z,
                tolerance_mm=2 * general_mm(far),
                op=op.number,
                directions=list(dict.fromkeys(sides)),
            )
        )
    return found


def _makes(op: Op) -> bool:
    return any(cut.of.inside for cut in op.cuts)


def _mouth(hole: RoundFace, up: Direction) -> tuple[float, float, float]:
    """The end a tool comes from."""
    way = turn_of(up)[2]

    def high(end: tuple[float, float, float]) -> float:
        return float(sum(a * b for a, b in zip(end, way, strict=True)))

    x, y, z = max((hole.start_mm, hole.end_mm), key=high)
    return round(x, 4), round(y, 4), round(z, 4)


def thread_of(diameter_mm: float) -> str | None:
    """The thread a hole may be drilled for; nothing for a size no tap asks for.

    >>> thread_of(5.0), thread_of(9.0)
    ('M6', None)
    """
    size = min(TAPPING_MM, key=lambda item: math.fabs(item - diameter_mm))
    return TAPPING_MM[size] if abs(size - diameter_mm) <= _TAPPING_WITHIN_MM else None
