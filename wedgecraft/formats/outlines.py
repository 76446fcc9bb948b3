"""From the curves of any drawing to what was found in it."""

from __future__ import annotations

import gc
import math
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, on_the_outside
from wedgecraft.core.records.drawing import FoundGap, FoundLayer, FoundOutline, OutlinesFound
from wedgecraft.core.records.outline import Outline, check_outline
from wedgecraft.core.workpiece.loops import (
    Chained,
    Gap,
    LoopFault,
    Nested,
    chain,
    nest,
    rings_of,
    what_keeps_open,
)
from wedgecraft.formats.errors import FileRefused

Array = NDArray[np.float64]

MOST_BYTES = 25_000_000
MOST_ENTITIES = 50_000
#: Ends closer than this belong together, unless the person says otherwise.
JOIN_MM, MOST_JOIN_MM = 0.01, 2.0
_MOST_OUTLINES = 50
_MOST_HOLES, _MOST_POINTS = 5_000, 19_000
_FARTHEST_MM = 1e6


@contextmanager
def without_collecting() -> Iterator[None]:
    """Reading makes many thousand small things and drops none of them: looking for garbage
    meanwhile takes as long as the reading.
    """
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def check_size(data: bytes, kind: str) -> None:
    """Raises FileRefused for a file that is empty or too big."""
    if len(data) == 0:
        raise FileRefused("the file is empty", f"export the outline again as {kind}")
    if len(data) > MOST_BYTES:
        raise FileRefused(
            "the file is too big",
            f"at most {MOST_BYTES / 1e6:.0f} MB are read; export the part's outline only",
        )


def check_finite(points: Array) -> None:
    if not np.isfinite(points).all() or np.abs(points).max(initial=0) > _FARTHEST_MM:
        raise FileRefused(
            "a curve has coordinates that are not finite or beyond 1 km",
            "check the drawing, and its units",
        )


def found_in(
    pieces: list[Array],
    *,
    join_mm: float,
    origin: str,
    units: str,
    layers: list[FoundLayer],
    notes: list[str],
) -> OutlinesFound:
    """Join, nest and judge curves in mm, (n, 3) as ``arcs`` has them. Raises FileRefused, in words,
    when there is no outline.
    """
    if not 1e-6 <= join_mm <= MOST_JOIN_MM:
        raise FileRefused(
            f"ends cannot be joined over {join_mm:g} mm",
            f"between 0.000001 and {MOST_JOIN_MM:g} mm",
        )
    if pieces:
        check_finite(np.concatenate(pieces))
    chained = chain(pieces, join_mm)
    if not chained.loops:
        raise _nothing_closes(chained, join_mm)
    try:
        nested, more = nest(chained.loops)
    except LoopFault as fault:
        raise FileRefused(fault.what, fault.remedy) from None
    notes = [*notes, *more]
    if chained.twice:
        notes.append(f"{chained.twice} curves drawn twice were taken once")
    outlines, refused = [], None
    for item in nested[:_MOST_OUTLINES]:
        try:
            outlines.append(_outline(item, origin))
        except ValueError as error:
            refused = refused or error
    if not outlines:
        raise FileRefused(str(refused), "check the drawing, and its units")
    if len(nested) > len(outlines):
        notes.append(
            f"{len(nested) - len(outlines)} loops too small or too many for a part were left out"
        )
    return OutlinesFound(
        outlines=outlines,
        layers=layers,
        healed=_gaps(chained.healed),
        open=_gaps(chained.open),
        join_mm=join_mm,
        units=units,
        notes=notes,
    )


def _nothing_closes(chained: Chained, join_mm: float) -> FileRefused:
    if not chained.loose:
        return FileRefused("no outline was found", "draw it with lines, arcs, circles or polylines")
    gap, closes = what_keeps_open(chained.loose, MOST_JOIN_MM)
    where = f"{gap.gap_mm:.3g} mm at X{gap.x_mm:.3f} Y{gap.y_mm:.3f}"
    if closes:
        return FileRefused(
            f"the outline is open: {len(chained.loose)} chain(s) of curves do not close; the widest"
            f" gap in the way is {where}",
            f"close the gap in the drawing, or join ends up to {_rounded_up(gap.gap_mm):g} mm"
            f" apart; now it is {join_mm:g} mm",
        )
    return FileRefused(
        f"the outline is open: {len(chained.loose)} chain(s) of curves do not close, and joining"
        f" ends up to {MOST_JOIN_MM:g} mm apart would not close one; the ends nearest to each other"
        f" are {where}",
        "draw what is missing in the drawing",
    )


def _rounded_up(gap_mm: float) -> float:
    """To two digits, never below it."""
    digit = 10.0 ** (math.floor(math.log10(gap_mm)) - 1)
    return math.ceil((gap_mm + 2e-9) / digit) * digit


def _outline(item: Nested, origin: str) -> FoundOutline:
    check_outline(item.outer)
    if len(item.holes) > _MOST_HOLES or len(item.islands) > _MOST_HOLES:
        raise ValueError(
            f"the outline has {max(len(item.holes), len(item.islands)):,} loops inside; at most"
            f" {_MOST_HOLES:,} are read"
        )
    outer, holes, islands = (
        _outside(item.outer),
        _true_holes(item.holes),
        [_outside(island) for island in item.islands],
    )
    if shapely.get_num_coordinates(outer) > _MOST_POINTS:  # fewer, and still none of it left out
        outer = outer.simplify(CHORD_ERROR_MM).buffer(CHORD_ERROR_MM, join_style="mitre")
    if shapely.get_num_coordinates(outer) > _MOST_POINTS:
        raise ValueError(
            f"the outline has more than {_MOST_POINTS:,} points that matter; draw it with fewer"
        )
    # Sound already: every loop was looked at by itself, and none crosses another. Looking again
    # would take as long as the reading.
    outline = Outline.model_construct(
        outer=rings_of([outer])[0],
        holes=rings_of(holes),
        islands=rings_of(islands),
        chord_error_mm=CHORD_ERROR_MM,
        origin=origin[:200],
    )
    object.__setattr__(outline, "_checked", True)
    left, low, right, high = outer.bounds
    area = outer.area - sum(hole.area for hole in holes) + sum(island.area for island in islands)
    return FoundOutline(outline=outline, width_mm=right - left, depth_mm=high - low, area_mm2=area)


def _outside(loop: Polygon, hole: bool = False) -> Polygon:
    """A loop that leaves no material out; as it is where its neighbours stand so near that it would
    cross itself.
    """
    ring = shapely.get_coordinates(loop.exterior, include_z=True)[:-1]
    if loop.exterior.is_ccw == hole:
        ring = ring[::-1]
    found = Polygon(on_the_outside(ring))
    return found if found.is_valid else loop


def _true_holes(holes: list[Polygon]) -> list[Polygon]:
    """Of a round hole the points lie on its circle, and nothing is left out; what bulges into a
    hole is seen to.
    """
    if not holes:
        return holes
    hollow = shapely.area(shapely.convex_hull(holes)) - shapely.area(holes) < 1e-9 * shapely.area(
        holes
    )
    return [
        hole if plain else _outside(hole, hole=True)
        for hole, plain in zip(holes, hollow.tolist(), strict=True)
    ]


def _gaps(gaps: list[Gap]) -> list[FoundGap]:
    worst = sorted(gaps, key=lambda item: -item.gap_mm)[:200]
    return [FoundGap(x_mm=item.x_mm, y_mm=item.y_mm, gap_mm=item.gap_mm) for item in worst]
