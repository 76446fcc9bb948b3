"""Improve a layout piece by piece: clear a part of the face and fill it again another way; keep
what is no worse.

Own choice of windows and orders, the same every time; the idea is Shaw's, "Using constraint
programming and local search methods to solve vehicle routing problems" (1998).
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

import numpy as np
import shapely

from wedgecraft.core.layout.fill import DIRECTIONS, fill
from wedgecraft.core.layout.search import FaceProblem, Layout

#: Windows as shares of the face: from, to, in x and y.
_STRIPS = [(0.0, 0.45), (0.55, 1.0), (0.25, 0.75), (0.0, 0.3), (0.7, 1.0)]
_WHOLE = (0.0, 1.0)


def renewals(problem: FaceProblem, start: Layout, rounds: int) -> Iterator[Layout]:
    """Better and better layouts; ends after so many tries."""
    current, everything = start, tuple(range(len(problem.variants)))
    groups = [everything, *((index,) for index in everything)]
    windows = [window for strip in _STRIPS for window in ((strip, _WHOLE), (_WHOLE, strip))]
    windows += [(x, y) for x, y in product(_STRIPS[:2], _STRIPS[:2])]
    ways = [
        (window, direction, group)
        for group in groups
        for direction in DIRECTIONS
        for window in windows
    ]
    # Neighbours in this order differ much, so that a few tries see a little of everything.
    order = np.random.default_rng(3).permutation(len(ways))
    x0, y0, x1, y1 = shapely.Polygon(problem.face.outer).bounds
    middles = [
        shapely.Point(problem.geometry.body(v).envelope.centroid).coords[0]
        for v in problem.variants
    ]
    for turn in range(rounds):
        (across, along), direction, group = ways[int(order[turn % len(ways)])]
        kept = [
            spot
            for spot in current.spots
            if not (
                across[0] <= (spot[1] + middles[spot[0]][0] - x0) / (x1 - x0) <= across[1]
                and along[0] <= (spot[2] + middles[spot[0]][1] - y0) / (y1 - y0) <= along[1]
            )
        ]
        if len(kept) == len(current.spots):
            continue
        again = fill(problem, group, *direction, start=kept)
        if group != everything:
            again += fill(problem, everything, *direction, start=[*kept, *again])
        if len(kept) + len(again) >= len(current.spots):
            better = len(kept) + len(again) > len(current.spots)
            name = (
                current.method
                if current.method.endswith("renewed")
                else f"{current.method}, renewed"
            )
            current = Layout(
                name, tuple((v, round(x, 4), round(y, 4)) for v, x, y in (*kept, *again))
            )
            if better:
                yield current
