"""What an op mills: its top, what stands outside, its pockets, level by level."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon

from wedgecraft.core.cutting.reach import filled
from wedgecraft.core.cutting.starting import row_of, started
from wedgecraft.core.draft.tools import Crib
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, Cutter
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import Material
from wedgecraft.core.workpiece.body import Body, prism
from wedgecraft.core.workpiece.states import Scene, buried_mm, swept_by

#: Less than this is no cut, mm3, mm.
_NO_CUT_MM3, _NO_CUT_MM = 2.0, 0.02
#: Narrower than this, seen from above, is rounding.
_NARROW_MM = 0.05
#: What is so many times as long as it is wide is called a slot.
_SLOT = 2.5
#: A ring of more points is not written down.
_MOST_POINTS = 400
#: A last cut along a wall engages this share of its cutter.
_LAST_WIDE = 0.1


@dataclass(frozen=True)
class Shop:
    """What cuts are made with."""

    crib: Crib
    work: Material
    machine: Machine


@dataclass
class Bench:
    """A part in an op while its cuts are found: ``now`` is what is left of it."""

    finished: Body
    now: Body
    cuts: list[Cut]
    shop: Shop

    @property
    def top_mm(self) -> float:
        return self.finished.box[5]

    @property
    def scene(self) -> Scene:
        return Scene(self.finished, self.now)

    def take(self, cut: Cut, least: float = _NO_CUT_MM3) -> bool:
        """Add a cut, if it takes more than this."""
        body = swept_by(cut, self.scene, self.now)
        after: Body = self.now - body
        if self.now.volume_mm3 - after.volume_mm3 < least:
            return False
        buried = buried_mm(cut, self.scene, body)
        if buried:
            cut = self.deeper(cut, self.top_mm - cut.from_top_mm + buried)
        self.now = after
        self.cuts.append(cut)
        return True

    def deeper(self, cut: Cut, begins_mm: float) -> Cut:
        """The same from higher up. Raises OutOfRange."""
        deep = begins_mm - (self.top_mm - cut.depth_mm)
        higher = cut.model_copy(update={"from_top_mm": round(self.top_mm - begins_mm, 6) + 0.0})
        return started(higher, deep, self.shop.work, self.shop.machine)

    def cut(self, kind: str, name: str, tool: Cutter, begins_mm: float, ends_mm: float) -> Cut:
        """From a height down to another, with parameters to start from. Raises OutOfRange."""
        wide = 0.0
        if kind in ("face",):
            wide = 0.7 * tool.diameter_mm
        elif kind in ("clear", "pocket"):
            wide = row_of(self.shop.work).wide * tool.diameter_mm
        deep = begins_mm - ends_mm
        bare = Cut(
            name=f"T{self.shop.crib.number(tool)} {name}",
            kind=kind,
            tool=tool,
            axial_depth_mm=deep,
            radial_width_mm=wide,
            feed_per_tooth_mm=0.01,
            spindle_rpm=100,
            from_top_mm=round(self.top_mm - begins_mm, 6) + 0.0,
        )
        return started(bare, deep, self.shop.work, self.shop.machine)


def mill(
    bench: Bench, around_mm: float | None, round_ones: MultiPolygon, as_it_comes: bool = False
) -> None:
    """Add what can be milled from here; all round down to ``around_mm``, where that is not done
    yet. ``round_ones``: holes that are drilled; ``as_it_comes``: the top is finished.
    """
    if not as_it_comes:
        _face(bench)
    floors = {level for level in bench.finished.levels if level < bench.top_mm - _NO_CUT_MM}
    lowest = bench.finished.box[2] + _NO_CUT_MM
    steps = {level for level in floors if level > lowest}
    outside = sorted(steps if around_mm is None else {*steps, around_mm}, reverse=True)
    levels = sorted({*floors, *outside}, reverse=True)
    solids = {level: filled(bench.scene.kept_above(level)) for level in outside}
    for level, below in zip(outside, [*outside[1:], None], strict=False):
        # as deep as the part is as wide, in one go
        if below is not None and _wide(solids[below].difference(solids[level])).is_empty:
            del solids[level]
    for level in levels:
        if level in solids:
            _outside(bench, level)
        for place in _pockets(bench, level, round_ones):
            _pocket(bench, level, place)


def _face(bench: Bench) -> None:
    top, high = bench.top_mm, bench.now.box[5]
    if high - top < _NO_CUT_MM:
        return
    x0, y0, x1, y1 = bench.now.seen(top).bounds
    tool = bench.shop.crib.face_mill(min(x1 - x0, y1 - y0))
    if tool is None:
        mills = bench.shop.crib.of("end mill")
        if not mills:
            raise OutOfRange("shop", "no face mill", "a face mill or end mills in the shop")
        tool = mills[0]
    bench.take(bench.cut("face", "face", tool, high, top))


def _outside(bench: Bench, level: float) -> None:
    solid = filled(bench.scene.kept_above(level))
    if solid.is_empty:
        return
    around = bench.now.seen(level + _NO_CUT_MM).difference(solid)
    chunk = _above(bench.now, _wide(around), level)
    if chunk is None:
        return
    begins = chunk.box[5]
    wanted = around.union(solid.envelope.buffer(1.0)).difference(solid)
    picked = bench.shop.crib.mills(wanted, solid, begins - level)
    if picked is None:
        return
    first, last = picked
    bench.take(bench.cut("clear", "outside", first, begins, level))
    if last != first:
        rest = _above(bench.now, _wide(around), level)
        cut = bench.cut("clear", "outside, corners", last, begins, level)
        left = 0.0 if rest is None else rest.volume_mm3 / (begins - level)
        once = float(sum(part.exterior.length for part in shapely.get_parts(solid)))
        rows = left / cut.radial_width_mm
        bench.take(cut.model_copy(update={"path_mm": cut.passes * (once + rows)}))


def _pockets(bench: Bench, level: float, round_ones: MultiPolygon) -> Iterator[Polygon]:
    """Where the finished part is open inside down to a level and something stands there."""
    keep = bench.scene.kept_above(level)
    islands = list(shapely.get_parts(keep))
    for part in islands:
        for ring in part.interiors:
            hole = Polygon(ring)
            drilled = round_ones.buffer(_NARROW_MM).covers(hole)
            if not drilled and _above(bench.now, _wide(hole), level) is not None:
                yield hole


def _pocket(bench: Bench, level: float, hole: Polygon) -> None:
    keep = bench.scene.kept_above(level)
    within = hole.difference(keep)
    chunk = _above(bench.now, _wide(within), level)
    if chunk is None:
        return
    begins = chunk.box[5]
    picked = bench.shop.crib.mills(hole, hole.buffer(1.0).difference(hole), begins - level)
    if picked is None:
        return
    x, y = hole.centroid.x, hole.centroid.y
    for tool in dict.fromkeys(picked):
        name = f"{_called(within)} at X{x:.0f} Y{y:.0f}"
        cut = bench.cut("pocket", name, tool, begins, level)
        at = _written(within, tool.diameter_mm / 2)
        if at is None:
            return
        changed: dict[str, Any] = {"at": at}
        if tool is not picked[0]:
            once = float(hole.exterior.length) * cut.passes
            changed |= {"radial_width_mm": _LAST_WIDE * tool.diameter_mm, "path_mm": once}
        bench.take(cut.model_copy(update=changed))


def _called(area: shapely.Geometry) -> str:
    """As a drawing would call it: a groove goes round something, a slot is long for its width."""
    if any(part.interiors for part in shapely.get_parts(area) if isinstance(part, Polygon)):
        return "groove"
    a, b, c = shapely.get_coordinates(shapely.minimum_rotated_rectangle(area))[:3]
    narrow, long = sorted(float(np.hypot(*side)) for side in (b - a, c - b))
    return "slot" if long > _SLOT * narrow else "pocket"


def _written(area: Polygon, radius: float) -> list[tuple[float, float]] | None:
    """The ring of what a cutter gets to, in few points; nothing for an area with islands."""
    reached = area.buffer(-radius, quad_segs=24).buffer(radius - 1e-4, quad_segs=24)
    parts = [part for part in shapely.get_parts(reached) if isinstance(part, Polygon)]
    if len(parts) != 1 or parts[0].interiors:
        return []  # all that is open there
    ring = parts[0]
    for within in (1e-3, 5e-3, 0.02):
        points = shapely.get_coordinates(ring.simplify(within).exterior)[:-1]
        if len(points) <= _MOST_POINTS:
            return [(round(float(x), 4), round(float(y), 4)) for x, y in points]
    return []


def _wide(area: shapely.Geometry) -> MultiPolygon:
    """What of an area is wider than rounding, off its walls by as much."""
    open_ = area.buffer(-2 * _NARROW_MM).buffer(_NARROW_MM)
    return MultiPolygon([p for p in shapely.get_parts(open_) if isinstance(p, Polygon) and p.area])


def _above(body: Body, area: MultiPolygon, level: float) -> Body | None:
    """What stands over an area above a level; nothing for next to nothing."""
    if area.is_empty:
        return None
    found = body & prism(area, level + _NO_CUT_MM, body.box[5] + 1.0)
    return found if found.volume_mm3 > _NO_CUT_MM3 else None
