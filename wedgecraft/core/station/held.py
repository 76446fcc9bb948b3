"""A workpiece cut at the height its clamps press at, and what holds it: raw, or cut before."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from wedgecraft.core.ground.documents import Rings
from wedgecraft.core.ground.planar import rings_of
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.held import HeldSection, Touched
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import build_station
from wedgecraft.core.station.contacts import station_contacts
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.station.stood import stood
from wedgecraft.core.workpiece.made import made_at
from wedgecraft.core.workpiece.sitting import Sitting

#: Slices are taken this far from a face.
_OFF_MM = 1e-3


def held_section(view: OpView) -> HeldSection:
    """Of one op as its setup holds it, the station's frame. Raises OutOfRange where it cannot be
    held like that.
    """
    sitting = stood(view)
    station = build_station(sitting, view.station)
    contacts = station_contacts(
        station, sitting, view.station, preload_of(view, sitting, station).low_n
    )
    sides = [c.point_mm[2] for c in contacts if c.kind == "clamp" and abs(c.normal[2]) < 0.7]
    level = sides[0] if sides else sitting.height_mm / 2
    level = min(max(level, _OFF_MM), sitting.height_mm - _OFF_MM)
    return HeldSection(
        op=view.op.number,
        height_mm=level,
        before=_rings(sitting.before.slice(level)),
        finished=_rings(sitting.finished.slice(level)),
        touched=[
            _touched(name, [c for c in contacts if _what(c) == name], sitting)
            for name in dict.fromkeys(map(_what, contacts))
        ],
    )


def _what(contact: Contact) -> str:
    """Of which stop, toe or rest a contact is one corner."""
    name = contact.name.split(",")[0]
    return "plate" if name.startswith("plate ") else name


def _touched(name: str, contacts: list[Contact], sitting: Sitting) -> Touched:
    points = np.array([contact.point_mm for contact in contacts])
    middle, normal = points.mean(axis=0), contacts[0].normal
    op = made_at(sitting, tuple(map(float, middle)), normal)
    back = sitting.pose.back_points(points)
    return Touched(
        name=name,
        kind=contacts[0].kind,
        made_in=None if op is None else sitting.part.ops[op].number,
        area_mm2=float(sum(contact.area_mm2 or 0.0 for contact in contacts)),
        at_mm=[(float(x), float(y), float(z)) for x, y, z in points],
        on_part_mm=[(float(x), float(y), float(z)) for x, y, z in back],
        normal=normal,
    )


def _rings(areas: MultiPolygon) -> list[Rings]:
    return [rings_of(area) for area in shapely.get_parts(areas)]
