"""What is left between holes, and between holes and edges."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from wedgecraft.core.records.piece import HolePlace, Holes, MakeDoubt
from wedgecraft.core.station.relief import RELIEF

#: A web is at least this share of the piece's thickness, and at least so much, mm; from memory.
WEB_SHARE = 0.08
LEAST_WEB_MM = 1.5
#: Nearer than this, two holes are one, stepped.
_SAME_MM = 0.01


@dataclass(frozen=True)
class Bored:
    """A hole from one height to another, as wide as it gets there."""

    name: str
    place: HolePlace
    radius_mm: float
    low_mm: float
    high_mm: float


def least_web_mm(thickness_mm: float) -> float:
    """What must be left in a piece so thick."""
    return max(LEAST_WEB_MM, WEB_SHARE * thickness_mm)


def bored(rows: Sequence[Holes], thickness_mm: float) -> Iterator[Bored]:
    """Every upright hole of a table, and every counterbore."""
    for row in rows:
        if row.side not in ("top", "bottom") or row.in_pocket:
            continue
        for number, place in enumerate(row.places, 1):
            name = f"{row.letter}{number}"
            steps = [(row.diameter_mm, row.depth_mm)]
            if row.through_mm is not None:
                steps.append((row.through_mm, None))
            if row.sink_mm is not None:
                steps.append((row.sink_mm, row.sink_depth_mm))
            for size, depth in steps:
                end = thickness_mm if depth is None else min(row.begins_mm + depth, thickness_mm)
                low, high = thickness_mm - end, thickness_mm - row.begins_mm
                if row.side == "bottom":
                    low, high = row.begins_mm, end
                yield Bored(name, place, size / 2, low, high)


def thin_webs(
    rows: Sequence[Holes], width_mm: float, depth_mm: float, thickness_mm: float
) -> list[MakeDoubt]:
    """Holes that come too near one another, over a height that both have, or too near an edge."""
    holes, least = list(bored(rows, thickness_mm)), least_web_mm(thickness_mm)
    if not holes:
        return []
    at = np.array([(hole.place.x_mm, hole.place.y_mm) for hole in holes])
    radius = np.array([hole.radius_mm for hole in holes])
    low, high = (
        np.array([hole.low_mm for hole in holes]),
        np.array([hole.high_mm for hole in holes]),
    )
    apart = np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
    web = apart - radius[:, None] - radius[None, :]
    meet = (low[:, None] < high[None, :] + least) & (low[None, :] < high[:, None] + least)
    # nothing stands in a relief: two of them may run into one another
    empty = np.array([hole.place.what == RELIEF for hole in holes])
    meet &= ~(empty[:, None] & empty[None, :])
    first, second = np.nonzero(np.triu((web < least - 1e-6) & meet & (apart > _SAME_MM), 1))
    found: dict[tuple[str, str], MakeDoubt] = {}
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        one, other, left = holes[a], holes[b], float(web[a, b])
        known = found.get((one.name, other.name))
        if known is None:
            found[one.name, other.name] = _between(one, other, left, least)
    edge = np.minimum(at, np.array([width_mm, depth_mm]) - at).min(axis=1) - radius
    for k in np.flatnonzero(edge < least - 1e-6).tolist():
        hole, left = holes[k], float(edge[k])
        found.setdefault(
            (hole.name, ""),
            MakeDoubt(
                what=f"{hole.name}, {hole.place.what}",
                says=f"{max(left, 0.0):.1f} mm are left to the edge; at least {least:.1f} mm",
                remedy=f"{_whose(hole)} {least - left:.1f} mm inward, or a larger piece",
                places=[(hole.place.x_mm, hole.place.y_mm)],
            ),
        )
    return list(found.values())


def _between(one: Bored, other: Bored, left_mm: float, least_mm: float) -> MakeDoubt:
    says = "they run into one another" if left_mm <= 0 else f"{left_mm:.1f} mm are left"
    return MakeDoubt(
        what=f"{one.name}, {one.place.what}, and {other.name}, {other.place.what}",
        says=f"{says} between them; at least {least_mm:.1f} mm",
        remedy=f"{_whose(one, other)} {least_mm - left_mm:.1f} mm away, or smaller screws",
        places=[(hole.place.x_mm, hole.place.y_mm) for hole in (one, other)],
    )


def _whose(*holes: Bored) -> str:
    stations = {hole.place.station for hole in holes} - {None}
    return f"station {max(number for number in stations if number)}" if stations else "the hole"
