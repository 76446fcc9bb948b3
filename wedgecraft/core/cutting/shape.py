"""What a cutter's end and body are like, by its kind: asked here, and nowhere else."""

from __future__ import annotations

import math
from typing import NamedTuple

from wedgecraft.core.records.cut import Cutter, CutterKind

#: From a thread's diameter to its hole's, half of it, in pitches; ISO 724.
_THREAD = 1.0825 / 2


class CutterShape(NamedTuple):
    """``point``: it ends in the cone of its point angle; ``bevel``: its edge leans by the entering
    angle; ``thread``: it cuts a thread into a wall; ``blade``: it cuts no higher than it is thick;
    ``on_arbor``: what carries it is thinner.
    """

    point: bool = False
    bevel: bool = False
    thread: bool = False
    blade: bool = False
    on_arbor: bool = False


_PLAIN = CutterShape()
_SHAPES: dict[CutterKind, CutterShape] = {
    "drill": CutterShape(point=True),
    "chamfer mill": CutterShape(bevel=True),
    "tap": CutterShape(thread=True),
    "slitting saw": CutterShape(blade=True, on_arbor=True),
    "face mill": CutterShape(on_arbor=True),
    "fly cutter": CutterShape(on_arbor=True),
}


def shape_of(cutter: Cutter) -> CutterShape:
    return _SHAPES.get(cutter.kind, _PLAIN)


def rise_of(cutter: Cutter) -> float:
    """How much higher its end is for a millimetre from its axis.

    >>> rise_of(Cutter(kind="drill", diameter_mm=8, teeth=2, point_deg=90))
    1.0
    """
    shape = shape_of(cutter)
    if shape.point and cutter.point_deg < 180:
        return round(1 / math.tan(math.radians(cutter.point_deg / 2)), 12)
    if shape.bevel and cutter.entering_deg < 90:
        return round(math.tan(math.radians(cutter.entering_deg)), 12)
    return 0.0


def point_mm(cutter: Cutter) -> float:
    """How much longer a drill is in its middle than at its rim; nothing for other cutters."""
    return rise_of(cutter) * cutter.diameter_mm / 2 if shape_of(cutter).point else 0.0


def edge_radius_mm(cutter: Cutter) -> float:
    """How far from its axis it takes away what is not a thread."""
    radius = cutter.diameter_mm / 2
    return radius - _THREAD * cutter.pitch_mm if shape_of(cutter).thread else radius


def edge_length_mm(cutter: Cutter) -> float:
    """How high over its end it cuts."""
    return cutter.width_mm if shape_of(cutter).blade else cutter.flute_length_mm
