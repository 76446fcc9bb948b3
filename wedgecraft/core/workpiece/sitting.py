"""How the workpiece stands in a station: as the ops before left it, the finished part inside it.

The station's frame: the three faces of its corner touch the planes X0, Y0 and Z0, as far up as
stops reach; the part's own datum corner lies as far inside as the material still to be cut there.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.ground.errors import OutOfRange, under
from wedgecraft.core.records.cut import Cut, largest
from wedgecraft.core.records.feature import Direction
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.stock import AXES, Axis
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.mend import NotABody
from wedgecraft.core.workpiece.pose import Pose
from wedgecraft.core.workpiece.states import OpState, Scene, Workpiece, workpiece

Array = NDArray[np.float64]
#: A slice is taken this far inside the material, so that it is not the face itself.
_INSIDE_MM = 1e-3
#: Bands of height are told apart only where they cover this much more or less, as a share.
_ALIKE = 0.02
#: More bands than these are united, the ones that differ least first.
_MOST_BANDS = 6
#: A rounded place, so that what stands at 0 does.
_DECIMALS = 6


@dataclass(frozen=True)
class Band:
    """What the workpiece covers between two heights, seen from above."""

    low_mm: float
    high_mm: float
    area: Polygon


@dataclass(frozen=True, eq=False)
class Sitting:
    """A part in one op, as a station with stops of this height holds it.

    ``reach_mm``: how high over the floor what stands at its corner reaches. ``asked``: the op with
    other cuts, to see what those would do to it.
    """

    piece: Workpiece
    index: int
    reach_mm: float
    asked: Op | None = None

    @property
    def part(self) -> Part:
        return self.piece.part

    @property
    def state(self) -> OpState:
        return self.piece.ops[self.index]

    @property
    def op(self) -> Op:
        return self.asked or self.state.op

    @property
    def up(self) -> Direction:
        return self.op.up

    @cached_property
    def lift_mm(self) -> tuple[float, float, float]:
        """From the op's frame into the station's."""
        before = self.state.before
        floor = before.box[2]
        corner = before.seen(floor, floor + max(self.reach_mm, 0.1))
        x, y, _, _ = corner.bounds
        dx, dy, dz = (round(-value, _DECIMALS) + 0.0 for value in (x, y, floor))
        return dx, dy, dz

    @cached_property
    def pose(self) -> Pose:
        """From the part's frame into the station's."""
        return self.state.pose.moved(*self.lift_mm)

    @cached_property
    def before(self) -> Body:
        """What is put in, the largest there may be."""
        return _lifted(self.state.before, self.lift_mm)

    @cached_property
    def after(self) -> Body:
        """What is taken out."""
        return _lifted(self.state.after, self.lift_mm)

    @cached_property
    def finished(self) -> Body:
        return _lifted(self.state.finished, self.lift_mm)

    @property
    def before_kg(self) -> float:
        """As it is put in."""
        return self.before.volume_mm3 * self.part.material.density_kg_m3 * 1e-9

    @property
    def after_kg(self) -> float:
        """As it is taken out."""
        return self.after.volume_mm3 * self.part.material.density_kg_m3 * 1e-9

    @cached_property
    def outline(self) -> Polygon:
        """All it covers, seen from above."""
        return largest(self.before.seen())

    @cached_property
    def touching(self) -> Polygon:
        """What it covers as far up as stops reach: they touch its box at X0 and Y0."""
        return largest(self.before.seen(0.0, max(self.reach_mm, 0.1)))

    @cached_property
    def floor(self) -> Polygon:
        """What stands on the floor."""
        return self.at(_INSIDE_MM)

    @cached_property
    def floor_after(self) -> Polygon:
        """What still stands on it when the op is done."""
        return largest(self.after.slice(_INSIDE_MM))

    def left_at(self, height_mm: float) -> Polygon | None:
        """The slice at a height when the op is done, where it is thinnest; nothing for none."""
        found = largest(self.after.slice(height_mm))
        return None if found.is_empty else found

    @property
    def comes_out_different(self) -> bool:
        """Whether what is left stands on noticeably less than what was put in."""
        return float(self.floor_after.symmetric_difference(self.floor).area) > _ALIKE * float(
            self.floor.area
        )

    def at(self, height_mm: float) -> Polygon:
        """The slice at a height: the largest piece of it, nothing where there is none."""
        known: dict[float, Polygon] = self._slices
        if height_mm not in known:
            known[height_mm] = largest(self.before.slice(height_mm))
        return known[height_mm]

    @cached_property
    def _slices(self) -> dict[float, Polygon]:
        return {}

    def band(self, low_mm: float, high_mm: float) -> MultiPolygon:
        """All it covers between two heights."""
        return self.before.seen(low_mm, high_mm)

    def between(self, low_mm: float, high_mm: float) -> Polygon:
        """The largest piece of that."""
        return largest(self.band(low_mm, high_mm))

    @cached_property
    def height_mm(self) -> float:
        """Over what it stands on, as it is put in."""
        return round(self.before.box[5], _DECIMALS)

    @cached_property
    def top_mm(self) -> float:
        """Where the finished part's top lies."""
        return round(self.finished.box[5], _DECIMALS)

    def top_under(self, area: Polygon) -> tuple[float, Polygon]:
        """How high it stands under an area, and what of the area lies on it there."""
        for level in sorted(self.levels, reverse=True):
            there = shapely.intersection(self.before.slice(level - _INSIDE_MM), area)
            if there.area > 1e-3:
                return level, largest(MultiPolygon(_polygons(there)))
        return self.height_mm, Polygon()

    @cached_property
    def levels(self) -> list[float]:
        """Heights of level faces, and of its top."""
        return sorted({*self.before.levels, self.height_mm})

    @cached_property
    def bands(self) -> tuple[Band, ...]:
        """What it covers, by height: as few bands as say it without leaving anything out."""
        cuts = [0.0, *[level for level in self.levels if 0 < level < self.height_mm]]
        ends = [*cuts[1:], self.height_mm]
        found = [
            Band(low, high, largest(self.before.seen(low, high)))
            for low, high in zip(cuts, ends, strict=True)
            if high - low > _INSIDE_MM
        ]
        while len(found) > 1:
            costs = [_more(a, b) for a, b in pairwise(found)]
            k = int(np.argmin(costs))
            if costs[k] > _ALIKE and len(found) <= _MOST_BANDS:
                break
            a, b = found[k], found[k + 1]
            found[k : k + 2] = [Band(a.low_mm, b.high_mm, _both(a, b))]
        return tuple(found)

    @cached_property
    def scene(self) -> Scene:
        return Scene(self.finished, self.before)

    @cached_property
    def cuts(self) -> list[Cut]:
        """The op's cuts, their places in the station's frame."""
        dx, dy, _ = self.lift_mm
        return [
            cut.model_copy(update={"at": [(x + dx, y + dy) for x, y in cut.at]}) if cut.at else cut
            for cut in self.op.cuts
        ]

    @cached_property
    def guides(self) -> list[Polygon]:
        """What each cut follows. Raises OutOfRange naming the cut, as ``cuts.N.``."""
        found = []
        for number, cut in enumerate(self.cuts):
            with under(f"cuts.{number}.", instead_of="cut."):
                found.append(cut.of.guide(cut, self.scene))
        return found

    def lowest(self, cut: Cut) -> float:
        """How low over the floor a cut comes."""
        return self.top_mm - cut.depth_mm

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """The finished part's box, in its own frame."""
        x0, y0, z0, x1, y1, z1 = self.piece.finished.box
        return x1 - x0, y1 - y0, z1 - z0

    @property
    def turn(self) -> Array:
        """Rows give x', y', z' of the station's frame from the part's, (3, 3)."""
        return self.pose.turn

    @property
    def across(self) -> Axis:
        """The part's axis along X as it stands: what clamps grip over."""
        return AXES[int(np.argmax(np.abs(self.turn[0])))]

    def face(self, side: Direction) -> Direction:
        """Which face of the part is on this side as it stands."""
        return _named(self.turn.T @ _pointing(side))

    def side(self, face: Direction) -> Direction:
        """On which side a face of the part is as it stands."""
        return _named(self.turn @ _pointing(face))

    def place(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        """A place of the part's frame in the station's."""
        return self.pose.place(x, y, z)


def sits(part: Part, op: Op, reach_mm: float) -> Sitting:
    """An op's workpiece in a station whose stops reach so high; the same object each time, so that
    what is known of it stays known. Raises OutOfRange for a solid that cannot be read.
    """
    try:
        piece = workpiece(part, "largest")
    except NotABody as error:
        raise OutOfRange("part.solid", error.what, error.remedy) from None
    index = next(k for k, item in enumerate(part.ops) if item.number == op.number)
    known: dict[tuple[int, float], Sitting] = piece.sittings
    if (index, reach_mm) not in known:
        known[index, reach_mm] = Sitting(piece, index, reach_mm)
    return known[index, reach_mm]


def _polygons(shape: object) -> list[Polygon]:
    return [part for part in shapely.get_parts(shape) if isinstance(part, Polygon)]


def _lifted(body: Body, by_mm: tuple[float, float, float]) -> Body:
    """The same body each time: stops of another height do not change where it stands, and what is
    known of it stays known.
    """
    key = ("lifted", *by_mm)
    if key not in body.known:
        body.known[key] = body.moved(*by_mm)
    found: Body = body.known[key]
    return found


def _both(a: Band, b: Band) -> Polygon:
    return largest(MultiPolygon(_polygons(shapely.union(a.area, b.area))))


def _more(a: Band, b: Band) -> float:
    """How much more two bands cover as one, as a share of what they cover apart."""
    one, other = a.high_mm - a.low_mm, b.high_mm - b.low_mm
    apart = a.area.area * one + b.area.area * other
    return float(_both(a, b).area * (one + other) / apart - 1) if apart > 0 else 0.0


def _pointing(direction: Direction) -> Array:
    """Unit vector of a side."""
    found = np.zeros(3)
    found["XYZ".index(direction[1])] = 1.0 if direction[0] == "+" else -1.0
    return found


def _named(vector: Array) -> Direction:
    k = int(np.argmax(np.abs(vector)))
    found: Direction = ("+" if vector[k] > 0 else "-") + "XYZ"[k]  # type: ignore[assignment]
    return found
