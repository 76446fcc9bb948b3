"""How the workpiece of an op stands in its station."""

from __future__ import annotations

from wedgecraft.core.ground.errors import under
from wedgecraft.core.records.view import OpView
from wedgecraft.core.workpiece.sitting import Sitting, sits


def stood(view: OpView) -> Sitting:
    """As high as stops reach it touches the station's corner. Raises OutOfRange for a solid that
    cannot be read.
    """
    with under(f"parts.{view.planned.part}.", instead_of="part."):
        return sits(view.part, view.op, view.station.stops.height_mm)
