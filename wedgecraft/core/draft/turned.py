"""An op with its part put in at another angle, its cuts where they are on the part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wedgecraft.core.ground.documents import Point
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.workpiece.finished import finished_body
from wedgecraft.core.workpiece.pose import stands


def op_turned(part: Part, op: Op, turn_deg: float) -> Op:
    """``turn_deg`` in place of its own, counter-clockwise seen from the spindle."""
    finished = finished_body(part)
    was, now = (stands(finished, op.up, deg)[0] for deg in (op.turn_deg, turn_deg))

    def there(at: Sequence[Point]) -> list[Point]:
        points = was.back_points(np.array([(x, y, 0.0) for x, y in at]))
        return [(round(x, 6), round(y, 6)) for x, y, _ in (now.place(*p) for p in points)]

    cuts = [cut.model_copy(update={"at": there(cut.at)}) if cut.at else cut for cut in op.cuts]
    return op.model_copy(update={"turn_deg": turn_deg, "cuts": cuts})
