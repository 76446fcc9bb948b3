"""A planned job at a glance, for a list: a small picture of its first setup, and how its steps
stand.
"""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon

from wedgecraft.core.explain.steps import step_states
from wedgecraft.core.explain.waiting import Card, worst_of
from wedgecraft.core.ground.planar import turned
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.job import JobDocument, JobResult
from wedgecraft.core.records.picture import Picture

#: What is smaller than this share of the plate is not drawn.
_FINE = 0.006
#: Faces of a block stand so far apart, as a share of their width.
_PITCH = 1.07


def card_of(document: JobDocument, result: JobResult) -> Card:
    """Of the job as it was planned."""
    setups = [
        step_states(item.result, result.reasons, result.doubts, item.making)
        for item in result.setups
    ] or [step_states(None)]
    return Card(
        picture=_picture(document, result), states=worst_of(setups), setups=len(result.setups)
    )


def _picture(document: JobDocument, result: JobResult) -> Picture | None:
    route = document.route
    if route is None or not result.setups or not result.setups[0].result.designs:
        return None
    setup, design = route.setups[0], result.setups[0].result.designs[0]
    carrier = setup.form.carrier(setup.machine)
    if carrier is None:
        return None
    wide, high = carrier.plate.width_mm, carrier.plate.depth_mm
    faces = carrier.block.faces
    pitch = wide * _PITCH
    parts, kinds = _parts(design, pitch, _FINE * max(wide, high))
    return Picture(
        width_mm=pitch * (faces - 1) + wide,
        height_mm=high,
        faces=[(round(k * pitch, 1), 0.0, wide, high) for k in range(faces)],
        parts=parts,
        kinds=kinds,
    )


def _parts(
    design: Design, pitch: float, fine: float
) -> tuple[list[list[tuple[float, float]]], list[int]]:
    outlines = [
        [
            np.array(Polygon(rings[0]).simplify(fine).exterior.coords[:-1])
            for rings in kind.drawing.parts or [kind.drawing.part]
        ]
        for kind in design.kinds
    ]
    parts, kinds = [], []
    for station in design.stations:
        for ring in outlines[station.kind]:
            corner = (station.x_mm + station.face * pitch, station.y_mm)
            there = np.round(turned(ring, station.turn) + corner, 1)
            parts.append([(float(x), float(y)) for x, y in there])
            kinds.append(station.kind)
    return parts, kinds
