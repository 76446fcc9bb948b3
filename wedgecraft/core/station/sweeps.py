"""What the cuts of an op sweep, and what stands in their way."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import shapely
from shapely.geometry import Polygon

from wedgecraft.core.cutting.path import CUTTER_CLEARANCE_MM, run_over, swept
from wedgecraft.core.ground.errors import OutOfRange, under
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.element import Body
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.member import Member
from wedgecraft.core.workpiece.sitting import Sitting

#: Heights this near are one.
_SAME_MM = 1e-6


def sweeps(
    sitting: Sitting,
    members: Sequence[Member],
    stops: Sequence[Polygon],
    clamps: Sequence[Body],
    kind: StopAndEdgeClamp,
) -> list[tuple[str, Polygon, float]]:
    """What each cut sweeps and how low; what another sweeps as low and wider is left out. Raises
    OutOfRange.
    """
    found: list[tuple[str, Polygon, float]] = []
    for number, (cut, guide) in enumerate(zip(sitting.cuts, sitting.guides, strict=True)):
        with under(f"cuts.{number}.", instead_of="cut."):
            found += _swept(cut, guide, sitting, members, stops, clamps, kind)
    found.sort(key=lambda item: (item[2], -item[1].area))
    kept: list[tuple[str, Polygon, float]] = []
    for name, area, low in found:
        if not any(other.covers(area) for _, other, _ in kept):
            kept.append((name, area, low))
    return kept


def _swept(
    cut: Cut,
    guide: Polygon,
    sitting: Sitting,
    members: Sequence[Member],
    stops: Sequence[Polygon],
    clamps: Sequence[Body],
    kind: StopAndEdgeClamp,
) -> list[tuple[str, Polygon, float]]:
    lowest = sitting.lowest(cut)
    if lowest < -1e-9 and not cut.of.through:
        raise OutOfRange(
            "cut.axial_depth_mm",
            cut.depth_mm,
            f"in all less than the part's height, {sitting.top_mm:g} mm",
        )
    low = max(lowest, CUTTER_CLEARANCE_MM)
    own, over = swept(cut, guide, sitting.outline), run_over(cut, guide)
    for member in members:
        _check_above(cut, member.put(over), low, stops, clamps, kind)
    every = [[member.put(area) for area in own] for member in members]
    _check_neighbours(cut, members, sitting.outline, [shapely.union_all(areas) for areas in every])
    return [(cut.name, area, low) for areas in every for area in areas]


def _check_neighbours(
    cut: Cut, members: Sequence[Member], outline: Polygon, sweeps: Sequence[Any]
) -> None:
    """Where a facing cutter runs over the next part of the same station, that part must be faced
    there itself; others keep off it.
    """
    for member, sweep in zip(members, sweeps, strict=True):
        for other, faced in zip(members, sweeps, strict=True):
            own = faced if cut.of.facing else Polygon()
            if (
                other is not member
                and sweep.intersection(other.put(outline)).difference(own).area > 1e-6
            ):
                raise OutOfRange(
                    "station.sharing.how",
                    cut.name,
                    f"parts farther apart: {cut.name} would run into the next part of the station;"
                    " thicker stops between them, a longer wedge, a smaller cutter, or a clamp for"
                    " each part",
                )


def _check_above(
    cut: Cut,
    area: Any,
    low: float,
    stops: Sequence[Polygon],
    clamps: Sequence[Body],
    kind: StopAndEdgeClamp,
) -> None:
    """The cutter must pass over stops and clamps it sweeps across."""
    allowed = low - CUTTER_CLEARANCE_MM
    toe = kind.element.stands_beside
    low_ones = "stops" if kind.element.flat_mm is None else "jaws"
    bodies = [(low_ones, "station.stops.height_mm", kind.stops.height_mm, stop) for stop in stops]
    own, field = kind.element.kind, "station.element.kind"
    if toe:
        own, field = "clamp", "station.clamp.height_mm"
    elif kind.element.flat_mm is not None:
        own, field = "jaws", "station.stops.height_mm"
    bodies += [(own, field, body.high_mm, body.polygon) for body in clamps]
    for name, field, height, body in bodies:
        if height > allowed + _SAME_MM and area.intersects(body):
            other = name == kind.element.kind  # of no height that could be set
            stands = f", the {name} stands {height:g} mm high" if other else ""
            raise OutOfRange(
                field,
                name if other else height,
                f"{'a clamp' if other else f'the {name}'} at most"
                f" {math.floor(100 * allowed + 1e-6) / 100:g} mm high there, or a cut less deep:"
                f" {cut.name} comes down to {round(low, 2):g} mm above the plate and keeps"
                f" {CUTTER_CLEARANCE_MM:g} mm{stands}",
            )
