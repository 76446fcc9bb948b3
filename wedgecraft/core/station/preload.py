"""What the clamps of a station press each part with, from its torque, its element and what the
parts share.
"""

from __future__ import annotations

import math

from wedgecraft.core.clamping.sharing import amid, part_preload
from wedgecraft.core.records.screw import Preload
from wedgecraft.core.records.sharing import Blanks
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.patch import EVERYWHERE, touched
from wedgecraft.core.workpiece.blank import FACED_MM, spread
from wedgecraft.core.workpiece.made import pressed_op, touched_op
from wedgecraft.core.workpiece.sitting import Sitting


def preload_of(view: OpView, sitting: Sitting, station: Station) -> Preload:
    """Of each part of the station, low and high. Raises OutOfRange."""
    kind = view.station
    if kind.sharing.how == "a clamp each":
        return kind.element.preload(kind.clamp, kind.element.sealed_mm2(sitting))
    whole = kind.element.preload(kind.clamp) if kind.element.flat_mm is not None else None
    places, screw = row_places(sitting, kind, station)
    return part_preload(kind.clamp, kind.sharing, blanks_of(view, sitting), places, whole, screw)


def row_places(
    sitting: Sitting, kind: StopAndEdgeClamp, station: Station
) -> tuple[tuple[float, ...], float]:
    """Where along the jaw the parts of a station are pressed, the middles of what it touches, and
    where its screw pushes: amid the parts, whatever of them it touches.
    """
    stand = tuple(
        member.y_mm + sum(press.share * press.y for press in member.presses)
        for member in station.members
    )
    off = 0.0
    if kind.element.flat_mm is not None and len(stand) > 1:
        press = station.members[0].presses[0]
        patch = touched(sitting.before, "right", press.x, EVERYWHERE, (0.0, kind.stops.height_mm))
        off = 0.0 if patch is None else sum(patch.along) / 2 - press.y
    return tuple(place + off for place in stand), amid(stand)


def blanks_of(view: OpView, sitting: Sitting) -> Blanks:
    """How much the parts of this op differ over the jaws: raw stock where they touch what no op
    has cut, else cut faces.
    """
    rule = view.rules.two_part_vise
    stock = view.part.stock
    pressed = view.station.clamp.toe_height_mm
    raw = touched_op(sitting, "-X", 0.0, view.station.stops.height_mm) is None or (
        pressed_op(sitting, "+X", pressed) is None
    )
    if not raw or stock is None:
        return Blanks(FACED_MM, True, rule, "faces cut in an op before")
    axis = sitting.across
    deviation, source = spread(stock, axis)
    uniform = getattr(stock, axis).variation.kind in ("usual", "range")
    return Blanks(deviation * math.sqrt(3) if uniform else deviation, uniform, rule, source)
