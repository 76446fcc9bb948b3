"""The shop's cutters for a place: wide enough to be quick, small enough for its corners, long
enough for its depth.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache

import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.cutting.reach import cleared, left_in_corners
from wedgecraft.core.cutting.starting import reach_mm
from wedgecraft.core.ground.arcs import CHORD_ERROR_MM
from wedgecraft.core.records.cut import Cutter, CutterKind

#: A first cutter clears at least so much of a place; what it leaves another takes.
_MOST_OF_IT = 0.75
#: A hole of a drill's size, give or take.
_SIZE_MM = 0.03
#: So much is left for a reamer or mill to size, at most and at least, on the diameter.
_TO_SIZE_MM = (0.1, 4.0)
#: Less than this in corners is not looked at; so many times what the smallest cutter leaves is as
#: good.
_NO_CORNER_MM3, _LIKE_LEAST = 0.4, 3.0
#: A cutter goes in where it clears more than this share of a place.
_GOES_IN = 1e-3
#: What a cutter leaves that is thinner than this is chords.
_FILM_MM = 6 * CHORD_ERROR_MM


@dataclass
class Crib:
    """The cutters there are; each gets a number when it is first used. ``others``: those of
    the other unit, taken where none of the first makes a place.
    """

    cutters: Sequence[Cutter]
    others: Sequence[Cutter] = ()
    used: list[Cutter] = field(default_factory=list)

    def number(self, cutter: Cutter) -> int:
        """Under which T it goes in this job."""
        if cutter not in self.used:
            self.used.append(cutter)
        return self.used.index(cutter) + 1

    def of(self, *kinds: CutterKind) -> list[Cutter]:
        """The widest first; of one width the shortest, which is the stiffest."""
        found = [item for item in self.cutters if item.kind in kinds]
        return sorted(found, key=lambda item: (-item.diameter_mm, reach_mm(item), item.name))

    def face_mill(self, width_mm: float) -> Cutter | None:
        """For a top so wide: the smallest that covers it in one row, else the widest."""
        found = self.of("face mill")
        covering = [item for item in found if item.diameter_mm >= 1.2 * width_mm]
        return covering[-1] if covering else next(iter(found), None)

    def mills(
        self, wanted: BaseGeometry, keep: BaseGeometry, deep_mm: float
    ) -> tuple[Cutter, Cutter] | None:
        """One that clears most of a place and one, perhaps the same, that leaves the least in its
        corners. Nothing where none is long enough and goes in.
        """
        own = self._mills(wanted, keep, deep_mm)
        left = math.inf if own is None else self._corners(wanted, keep, own[1]) * deep_mm
        if left <= _NO_CORNER_MM3 or not self.others:
            return own
        both = Crib([*self.cutters, *self.others])._mills(wanted, keep, deep_mm)
        if both is None or self._corners(wanted, keep, both[1]) * deep_mm * _LIKE_LEAST > left:
            return own
        return both

    def _mills(
        self, wanted: BaseGeometry, keep: BaseGeometry, deep_mm: float
    ) -> tuple[Cutter, Cutter] | None:
        long_enough = [item for item in self.of("end mill") if reach_mm(item) >= deep_mm - 1e-9]
        whole = max(wanted.difference(keep).area, 1e-9)

        @cache
        def share(diameter_mm: float) -> float:
            return float(cleared(wanted, keep, diameter_mm / 2).area) / whole

        @cache
        def corners(diameter_mm: float) -> float:
            return float(left_in_corners(wanted, keep, diameter_mm / 2, _FILM_MM).area)

        # the smaller the cutter, the more it clears: what is smaller than one that goes in does too
        first = next((item for item in long_enough if share(item.diameter_mm) >= _MOST_OF_IT), None)
        if first is None:
            going_in = [item for item in long_enough if share(item.diameter_mm) > _GOES_IN]
            if not going_in:
                return None
            first = going_in[-1]
            long_enough = going_in
        none = _NO_CORNER_MM3 / deep_mm
        if corners(first.diameter_mm) <= none:
            return first, first
        smaller = long_enough[long_enough.index(first) :]
        # in sharp corners something stays whatever is taken: not the smallest for the sake of it
        least = corners(smaller[-1].diameter_mm)
        enough = none if least <= none else _LIKE_LEAST * least
        last = bisect_left(smaller, True, key=lambda item: corners(item.diameter_mm) <= enough)
        return first, smaller[last]

    def _corners(self, wanted: BaseGeometry, keep: BaseGeometry, cutter: Cutter) -> float:
        return float(left_in_corners(wanted, keep, cutter.diameter_mm / 2, _FILM_MM).area)

    def drill(self, diameter_mm: float, deep_mm: float) -> Cutter | None:
        """Of a hole's own size, long enough."""
        for crib in (self, Crib(self.others)):
            fits = [
                item
                for item in crib.of("drill")
                if abs(item.diameter_mm - diameter_mm) <= _SIZE_MM
                and item.flute_length_mm >= deep_mm
            ]
            if fits:
                return min(fits, key=lambda item: abs(item.diameter_mm - diameter_mm))
        return None

    def smaller_drill(self, diameter_mm: float, deep_mm: float) -> Cutter | None:
        """The widest that leaves something to mill to size."""
        low, high = _TO_SIZE_MM
        return next(
            (
                item
                for item in self.of("drill")
                if low <= diameter_mm - item.diameter_mm <= high and item.flute_length_mm >= deep_mm
            ),
            None,
        )


def disc_of(x: float, y: float, diameter_mm: float) -> Polygon:
    """A round hole seen from above, a little inside its circle."""
    found: Polygon = shapely.Point(x, y).buffer(diameter_mm / 2, quad_segs=24)
    return found
