"""A piece seen from above and from the front, with its dimensions from the datum."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import shapely
from shapely.geometry import LineString, Polygon, box

from wedgecraft.core.make.finish import solid_plan
from wedgecraft.core.make.milled import milled_rows
from wedgecraft.core.make.room import Box, beside
from wedgecraft.core.make.sides import seen_x_mm
from wedgecraft.core.make.strokes import strokes
from wedgecraft.core.records.piece import Holes, Piece, Side, Touching
from wedgecraft.core.records.sheet import DrawnUnits, Item, Label, Linear, Ordinate, Round, Stroke

#: On paper: from the piece to where leaders bend, and on to their text; least room of a text.
_BEND_MM = 4.0
_LEADER_MM = 12.0
_ROOM_MM = 3.4
_TEXT_MM = 2.5
_WEDGE_MM = 5.0
_NAME_MM = 1.7
_QUILL_MM = 9.0


def length_text(value_mm: float, units: DrawnUnits) -> str:
    """As a drawing has it: hundredths of a millimetre, or ten-thousandths of an inch."""
    text = f"{value_mm:.2f}" if units == "mm" else f"{value_mm / 25.4:.4f}"
    return text.removeprefix("-") if float(text) == 0 else text


def spread(wanted: Sequence[float], room: float) -> list[float]:
    """Places in the order of those wanted, no two nearer than ``room``, as near to those wanted as
    that allows in the sense of least squares.

    >>> spread([0.0, 1.0, 10.0], 4.0)
    [-1.5, 2.5, 10.0]
    """
    blocks: list[tuple[float, int]] = []  # middle of a run of neighbours, how many
    for value in wanted:
        blocks.append((value, 1))
        while len(blocks) > 1:
            (one, n), (other, m) = blocks[-2], blocks[-1]
            if one + room * (n - 1) / 2 + room <= other - room * (m - 1) / 2 + 1e-12:
                break
            # a run is where the mean of what its members want puts it
            first = one - room * (n - 1) / 2
            then = other - room * (m - 1) / 2
            start = (n * first + m * (then - n * room)) / (n + m)
            blocks[-2:] = [(start + room * (n + m - 1) / 2, n + m)]
    return [middle + room * (k - (count - 1) / 2) for middle, count in blocks for k in range(count)]


def plan_view(piece: Piece, scale: float, units: DrawnUnits) -> list[Item]:
    """From above: outline, holes with their names, pockets, marking, the wedge at the datum, and
    ordinates of every column and row.
    """
    w, d = piece.width_mm, piece.depth_mm
    blocks = [list(body.exterior.coords[:-1]) for body in solid_plan(piece)]
    found: list[Item] = [
        Stroke(layer="OUTLINE", points=[(x, y) for x, y in block], closed=True) for block in blocks
    ]
    found += [Stroke(layer="PART", points=list(ring), closed=True) for ring in piece.drawn_part]
    for pocket in piece.pockets:
        below = pocket.floor_mm <= 0 and pocket.depth_mm < piece.thickness_mm
        layer = "HIDDEN" if below else "OUTLINE"
        found += [Stroke(layer=layer, points=list(ring), closed=True) for ring in pocket.outline]
    taken = [
        Box(p.x_mm - r, p.y_mm - r, p.x_mm + r, p.y_mm + r)
        for row in piece.holes
        for p in row.places
        for r in [row.widest_mm / 2]
    ]
    for row in piece.holes:
        if row.side in ("top", "bottom"):
            found += _holes(row, scale, taken)
    for group in milled_rows(piece):
        for number, at in enumerate(group.places, 1):
            name = f"{group.letter}{number}"
            room = beside(name, at.x_mm, at.y_mm, 0.0, _NAME_MM / scale, taken)
            found.append(Label(text=name, x=room.x0, y=room.y0, high=_NAME_MM))
    found += [
        Stroke(layer="MARKING", points=line)
        for mark in piece.marks
        for line in strokes(mark.text, mark.x_mm, mark.y_mm, mark.high_mm)
    ]
    found += _wedge(piece, scale)
    places = [
        (place.x_mm, place.y_mm)
        for row in piece.holes
        if row.side in ("top", "bottom")
        for place in row.places
    ]
    corners = [(0.0, 0.0), (w, d), *((x, y) for block in blocks for x, y in block)]
    first = [
        (x, y)
        for pocket in piece.pockets[:1]
        for x0, y0, x1, y1 in [Polygon(pocket.outline[0]).bounds]
        for x, y in ((x0, y0), (x1, y1))
    ]
    # of jaws it is what they are for; of a plate one of many
    corners, places = (corners + first, places) if piece.bodies else (corners, places + first)
    return found + _both_ways(corners, places, (w, d), piece.datum_mm, scale, units)


def profile_view(piece: Piece) -> list[Item]:
    """Blocks, their pockets and the part that goes in, without dimensions."""
    rings = [list(body.exterior.coords[:-1]) for body in solid_plan(piece)]
    rings += [list(ring) for pocket in piece.pockets for ring in pocket.outline]
    return [
        *(Stroke(layer="OUTLINE", points=ring, closed=True) for ring in rings),
        *(Stroke(layer="PART", points=list(ring), closed=True) for ring in piece.drawn_part),
        *_wedge(piece, 1.0),
    ]


def side_view(piece: Piece, side: Side, wide: float, scale: float, units: DrawnUnits) -> list[Item]:
    """One side from outside, with its holes and their ordinates from its lower left corner as it is
    seen.
    """
    t = piece.thickness_mm
    found: list[Item] = [
        Stroke(layer="OUTLINE", points=[(0, 0), (wide, 0), (wide, t), (0, t)], closed=True)
    ]
    rows = [
        row.model_copy(
            update={
                "places": [
                    place.model_copy(update={"x_mm": seen_x_mm(piece, side, place.x_mm)})
                    for place in row.places
                ]
            }
        )
        for row in piece.holes
        if row.side == side
    ]
    taken: list[Box] = []
    for row in rows:
        found += _holes(row, scale, taken)
    places = [(place.x_mm, place.y_mm) for row in rows for place in row.places]
    corners = [(0.0, 0.0), (wide, t)]
    return found + _both_ways(corners, places, (wide, t), (0, 0), scale, units)


def across_rows(piece: Piece) -> list[Holes]:
    """Holes that begin at a gap between bodies."""
    return [row for row in piece.holes if row.begins_mm and row.side in ("front", "back")]


def across_view(piece: Piece, scale: float, units: DrawnUnits) -> list[Item]:
    """Either body from the gap between them, with the holes right across; nothing where there are
    none. Places from the datum along, from the foot up.
    """
    rows = across_rows(piece)
    if not rows:
        return []
    w, t = piece.width_mm, piece.thickness_mm
    found: list[Item] = [
        Stroke(layer="OUTLINE", points=[(0, 0), (w, 0), (w, t), (0, t)], closed=True)
    ]
    taken: list[Box] = []
    for row in rows:
        # the other body has the same ones: drawn once
        found += _holes(row, scale, taken) if row.side == "front" else []
    places = [(place.x_mm, place.y_mm) for row in rows for place in row.places]
    corners = [(0.0, 0.0), (w, t)]
    return found + _both_ways(corners, places, (w, t), (piece.datum_mm[0], 0.0), scale, units)


def _both_ways(
    corners: Sequence[tuple[float, float]],
    holes: Sequence[tuple[float, float]],
    size: tuple[float, float],
    datum: tuple[float, float],
    scale: float,
    units: DrawnUnits,
) -> list[Item]:
    """Along and across: of corners and holes, or, where that is too many, of corners alone: the
    table of holes says every place.
    """
    found: list[Item] = []
    axes: tuple[Literal["x", "y"], ...] = ("x", "y")
    for axis in axes:
        every = _ordinates([*corners, *holes], size, datum, scale, axis, units)
        found += every or _ordinates(corners, size, datum, scale, axis, units)
    return found


def pressed(touching: Touching, size: str, scale: float) -> list[Item]:
    """Where a size of the part touches: quills out of it, the longer the harder it presses."""
    lying = next((item for item in touching.rests if item.size == size), None)
    return [
        Stroke(
            layer="PRESSURE",
            points=[(x, y), (x + u * _QUILL_MM * p / scale, y + v * _QUILL_MM * p / scale)],
        )
        for x, y, u, v, p in (lying.quills if lying is not None else [])
    ]


def _holes(row: Holes, scale: float, taken: list[Box]) -> list[Item]:
    found: list[Item] = []
    seen = "HIDDEN" if row.side == "bottom" else "OUTLINE"
    for number, place in enumerate(row.places, 1):
        x, y, radius = place.x_mm, place.y_mm, row.diameter_mm / 2
        found.append(Round(layer=seen, x=x, y=y, radius=radius))
        if row.sink_mm is not None:
            found.append(Round(layer="OUTLINE", x=x, y=y, radius=row.sink_mm / 2))
        if row.thread and not row.insert:
            found.append(_thread(x, y, float(row.thread[1:]) / 2))
        arm, name = row.widest_mm / 2 + 1.0 / scale, f"{row.letter}{number}"
        room = beside(name, x, y, row.widest_mm / 2, _NAME_MM / scale, taken)
        found += [
            Stroke(layer="CENTRE", points=[(x - arm, y), (x + arm, y)]),
            Stroke(layer="CENTRE", points=[(x, y - arm), (x, y + arm)]),
            Label(text=name, x=room.x0, y=room.y0, high=_NAME_MM),
        ]
    return found


def _thread(x: float, y: float, radius: float) -> Stroke:
    """Three quarters of a circle, as ISO 6410 draws an inner thread."""
    angles = [math.radians(10 + 270 * k / 24) for k in range(25)]
    return Stroke(
        layer="DIMENSIONS",
        points=[(x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles],
    )


def _wedge(piece: Piece, scale: float) -> list[Item]:
    """The datum: a filled wedge in its corner."""
    (x, y), size = piece.datum_mm, _WEDGE_MM / scale
    return [
        Stroke(
            layer="TEXT", points=[(x, y), (x + size, y), (x, y + size)], closed=True, filled=True
        )
    ]


def _ordinates(
    places: Sequence[tuple[float, float]],
    size: tuple[float, float],
    datum: tuple[float, float],
    scale: float,
    axis: Literal["x", "y"],
    units: DrawnUnits,
) -> list[Item]:
    """Every column from the lowest hole in it downwards, every row from its leftmost to the left;
    nothing where they would not have room.
    """
    k = 0 if axis == "x" else 1
    lowest: dict[float, tuple[float, float]] = {}
    for place in places:
        key = round(place[k], 2)
        if key not in lowest or place[1 - k] < lowest[key][1 - k]:
            lowest[key] = place
    values = sorted(lowest)
    room = _ROOM_MM / scale
    side = size[k]
    if room * (len(values) - 1) > side + 4 * room:
        return []
    at = spread(values, room)
    found: list[Item] = []
    for value, along in zip(values, at, strict=True):
        bend, end = -_BEND_MM / scale, -_LEADER_MM / scale
        feature = lowest[value]
        found.append(
            Ordinate(
                axis=axis,
                feature=feature,
                bend=_across(feature[k], bend, axis),
                end=_across(along, end, axis),
                value=value - datum[k],
                text=length_text(value - datum[k], units),
            )
        )
    return found


def _across(along: float, aside: float, axis: str) -> tuple[float, float]:
    return (along, aside) if axis == "x" else (aside, along)


def section_view(piece: Piece, scale: float, units: DrawnUnits) -> list[Item]:
    """Cut across amid its first pocket: the blocks with what is milled out of them, hatched."""
    first = Polygon(piece.pockets[0].outline[0]) if piece.pockets else None
    at = first.representative_point().x if first is not None else piece.width_mm / 2
    high = piece.depth_mm + piece.width_mm
    line = LineString([(at, -high), (at, high)])
    whole = [
        box(a, 0, b, piece.thickness_mm)
        for body in solid_plan(piece)
        for a, b in _crossed(body, line)
    ]
    gone = [
        box(a, pocket.floor_mm, b, pocket.floor_mm + pocket.depth_mm)
        for pocket in piece.pockets
        for a, b in _crossed(Polygon(pocket.outline[0], pocket.outline[1:]), line)
    ]
    cut = shapely.union_all(whole).difference(shapely.union_all(gone))
    found: list[Item] = []
    for part in shapely.get_parts(cut):
        ring = [(float(x), float(y)) for x, y in part.exterior.coords[:-1]]
        found.append(Stroke(layer="OUTLINE", points=ring, closed=True))
        found += _hatch(part, scale)
    t, right = piece.thickness_mm, max(x for part in whole for x, _ in part.exterior.coords)
    found.append(
        Linear(
            axis="y",
            first=(right, 0),
            second=(right, t),
            line=right + 8 / scale,
            text=length_text(t, units),
        )
    )
    if gone:
        left, low, _, top = gone[0].bounds
        found.append(
            Linear(
                axis="y",
                first=(left, low if low > 0 else top),
                second=(left, t),
                line=-8 / scale,
                text=length_text(t - (low if low > 0 else top), units),
            )
        )
    return found


def _crossed(body: Polygon, line: LineString) -> list[tuple[float, float]]:
    """From where to where a line along Y is in a body."""
    parts = shapely.get_parts(body.intersection(line))
    return [(part.bounds[1], part.bounds[3]) for part in parts if part.length > 0]


def _hatch(part: Polygon, scale: float) -> list[Item]:
    """Thin lines at 45°, 3 mm apart on paper."""
    x0, y0, x1, y1 = part.bounds
    step = 3.0 * math.sqrt(2) / scale
    lines = [
        LineString([(x0 + k * step - (y1 - y0), y0), (x0 + k * step, y1)])
        for k in range(1, int((x1 - x0 + y1 - y0) / step) + 1)
    ]
    return [
        Stroke(layer="HATCH", points=[(float(x), float(y)) for x, y in piece.coords])
        for line in lines
        for piece in shapely.get_parts(line.intersection(part))
        if piece.length > 0
    ]


def front_view(piece: Piece, scale: float, units: DrawnUnits) -> list[Item]:
    """From the front: how thick it is, and how deep its holes are, hidden."""
    w, t = piece.width_mm, piece.thickness_mm
    found: list[Item] = [
        Stroke(layer="OUTLINE", points=[(0, 0), (w, 0), (w, t), (0, t)], closed=True)
    ]
    for pocket in piece.pockets:
        if pocket.floor_mm <= 0:  # hollow from below
            x0, _, x1, _ = Polygon(pocket.outline[0]).bounds
            high = pocket.depth_mm
            ring = [(x0, 0.0), (x0, high), (x1, high), (x1, 0.0)]
            found.append(Stroke(layer="HIDDEN", points=ring, closed=False))
    drawn: set[tuple[float, str]] = set()
    for row in piece.holes:
        if row.side in ("front", "face 1"):
            found += [
                Round(layer="OUTLINE", x=p.x_mm, y=p.y_mm, radius=row.diameter_mm / 2)
                for p in row.places
            ]
        if row.side not in ("top", "bottom"):
            continue
        for place in row.places:
            key = (round(place.x_mm, 2), row.says)
            if key in drawn:
                continue
            drawn.add(key)
            found += _bored(row, place.x_mm, t)
    found.append(
        Linear(
            axis="y", first=(w, 0), second=(w, t), line=w + 8 / scale, text=length_text(t, units)
        )
    )
    return found


def _bored(row: Holes, x: float, thick: float) -> list[Item]:
    deep = thick if row.depth_mm is None else min(row.depth_mm, thick)
    steps = [(row.diameter_mm / 2, deep)]
    if row.sink_mm is not None and row.sink_depth_mm is not None:
        steps.append((row.sink_mm / 2, row.sink_depth_mm))
    if row.through_mm is not None:
        steps.append((row.through_mm / 2, thick))
    found: list[Item] = []
    for radius, depth in steps:
        high, low = thick - row.begins_mm, max(0.0, thick - row.begins_mm - depth)
        if row.side == "bottom":
            low, high = row.begins_mm, min(thick, row.begins_mm + depth)
        found.append(
            Stroke(
                layer="HIDDEN",
                points=[
                    (x - radius, low),
                    (x - radius, high),
                    (x + radius, high),
                    (x + radius, low),
                ],
                closed=depth < thick,
            )
        )
    return found
