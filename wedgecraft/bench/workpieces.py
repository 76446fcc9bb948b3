"""The workpiece's speed bars: a part of about 20,000 triangles through six ops and sixty cuts."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

from wedgecraft.core.records.cut import Cut, Cutter
from wedgecraft.core.records.feature import DIRECTIONS
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.recess import Hole
from wedgecraft.core.records.stock import Stock, StockDimension
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.states import Workpiece, workpiece

_SIZE = {"+X": (80, 120), "-X": (80, 120), "+Y": (160, 80), "-Y": (160, 80)}


def _holes(side: str) -> list[tuple[float, float]]:
    wide, deep = _SIZE.get(side, (160, 120))
    return [(wide * (k + 1) / 6, deep * (n + 1) / 3) for n in range(2) for k in range(5)]


def many_cuts() -> Part:
    """A 160 x 120 x 80 block: from each of six sides a face and nine drilled holes in rows of ten
    places.
    """
    drilled = [
        Hole(side=side, x_mm=x + 0.5 * row, y_mm=y + 0.5 * row, diameter_mm=4 + row / 2, depth_mm=9)
        for side in DIRECTIONS
        for row, (x, y) in enumerate(_holes(side)[:9])
    ]
    ops = []
    for number, side in enumerate(DIRECTIONS):
        mine = [hole for hole in drilled if hole.side == side]
        face = _cut("face", Cutter(kind="face mill", diameter_mm=50, teeth=5), 1, -1, [])
        cuts = [face] + [
            _cut(
                "drill",
                Cutter(kind="drill", diameter_mm=hole.diameter_mm, teeth=2, point_deg=180),
                9,
                0,
                [(hole.x_mm, hole.y_mm)],
            )
            for hole in mine
        ]
        ops.append(Op(number=10 + 10 * number, up=side, cuts=cuts))
    allowed = StockDimension(allowance_mm=1)
    return Part(
        name="bench",
        outline=Outline(outer=[(0, 0), (160, 0), (160, 120), (0, 120)]),
        height_mm=80,
        material=starting_request("bench", 1).parts[0].material,
        stock=Stock(x=allowed, y=allowed, z=allowed),
        recesses=drilled,
        ops=ops,
    )


def _cut(kind: str, tool: Cutter, depth: float, top: float, at: list[tuple[float, float]]) -> Cut:
    return Cut(
        name=kind,
        kind=kind,
        tool=tool,
        axial_depth_mm=depth,
        radial_width_mm=20,
        feed_per_tooth_mm=0.1,
        spindle_rpm=4000,
        from_top_mm=top,
        at=at,
    )


@cache
def _part() -> Part:
    return many_cuts()


def _states() -> str:
    piece: Workpiece = workpiece(_part())
    return f"{len(piece.last.mesh[1]):,} triangles, {sum(len(op.cuts) for op in piece.ops)} cuts"


def _body() -> Body:
    return workpiece(_part()).last


def _slices() -> str:
    body = Body(_body().solid)
    for step in range(100):
        body.slice(0.7 * step + 0.05)
    return "100 slices"


def _shadows() -> str:
    body = Body(_body().solid)
    for step in range(100):
        body.seen(0.7 * step + 0.05)
    return "100 silhouettes of a band"


Work = tuple[str, str, Callable[[], str]]


def workpiece_works() -> list[Work]:
    """States, slices, silhouettes."""
    return [
        ("workpiece: six ops, sixty cuts", "1 s", _states),
        ("workpiece: slices", "2 ms each", _slices),
        ("workpiece: silhouettes", "2 ms each", _shadows),
    ]
