"""What faces stand round: a solid block, or walls to be welded and machined after."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import combinations

import numpy as np
from shapely.geometry import LineString

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.fasteners import PICKED, SUNK_MM, THREADS, Thread
from wedgecraft.core.make.finish import finished
from wedgecraft.core.make.holes import HoleTable, Placed, letter, table_of
from wedgecraft.core.make.sides import frame, section
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.piece import Bought, HolePlace, Holes, MakeDoubt, Piece, Pocket, Side

#: Walls are machined after welding, mm a side; from memory.
_ALLOWANCE_MM = 3.0
#: Eye bolts DIN 580: what each carries upright, kg, and how long its thread is, mm; from memory.
_EYES = {"M10": (230, 17), "M12": (340, 20.5), "M16": (700, 27), "M20": (1200, 30)}
_LIFTING = (
    "Lifting: bare, by an eye bolt screwed home, within its maker's rating; whoever answers for"
    " lifting comes first."
)
#: One person lifts no more (NIOSH lifting equation, 1991: 51 lb, ideal conditions).
ALONE_KG = 23.0
#: From a hole to the block's edge, at least.
_EDGE_MM = 4.0
#: Sides that plates stand at, in the order they come before the spindle, by how many there are.
_SIDES: dict[int, tuple[Side, ...]] = {2: ("front", "back"), 4: ("front", "left", "back", "right")}
_FACES: tuple[Side, ...] = (
    *("face 1", "face 2", "face 3", "face 4"),
    *("face 5", "face 6", "face 7", "face 8"),
)  # fmt: skip


def block_pieces(asked: Asked, plates: Sequence[Piece]) -> list[Piece]:
    """The body of a block: one solid piece, or a cut list of walls; with what each of its
    ``plates`` is screwed and dowelled to it by.
    """
    block, plate = asked.request.block, asked.request.plate
    upright = block.axis == "upright"
    long_mm = plate.depth_mm if upright else plate.width_mm
    name, across = "Block", block.across_mm
    outline = None if block.faces in _SIDES or not across else section(block.faces, across)
    wide, deep = (across, across) if outline is None else _size(outline)
    common = {
        "name": name,
        "kind": "block",
        "alike": asked.copies,
        "ops": asked.ops,
        "material": block.material,
        "width_mm": wide,
        "depth_mm": deep,
        "thickness_mm": long_mm,
        "section": outline,
        "datum_mm": (0.0, 0.0),
        "datum_says": "X0 Y0: lower left corner of its foot",
    }
    if not across:
        return []
    if block.wall_mm and 2 * block.wall_mm >= across:
        doubt = MakeDoubt(
            what="wall",
            says=f"two walls of {block.wall_mm:g} mm leave nothing between them in {across:g} mm",
            remedy=f"walls under {across / 2:g} mm, or 0 for a solid block",
        )
        return [Piece(**common, doubts=[doubt])]
    holes = _holes(asked, plates, Piece(**common))
    common |= {
        "holes": [row.model_copy(update={"letter": letter(k)}) for k, row in enumerate(holes.rows)],
        "doubts": holes.doubts,
    }
    if not block.wall_mm:
        piece = Piece(
            **common,
            bought=holes.listed(),
            notes=[
                _faces_said(asked),
                "All faces square to its foot; faces finished in place, one clamping.",
                _LIFTING,
            ],
        )
        return [finished(piece, asked.request.machine, asked.request.rules)]
    wall, more = block.wall_mm, _ALLOWANCE_MM
    inner = across - 2 * wall
    hollow = [(0.0, 0.0), (inner, 0.0), (inner, inner), (0.0, inner)]
    cut = [
        (2, across + 2 * more, long_mm + 2 * more, "outer walls"),
        (2, inner, long_mm + 2 * more, "inner walls, between those"),
        (1, inner, inner, "a lid, let in"),
    ]
    if outline is not None:
        hollow = section(block.faces, inner)
        side = across * math.tan(math.pi / block.faces)
        mitre = f"walls, their long edges mitred {180 / block.faces:.4g}°"
        cut = [
            (block.faces, side + 2 * more, long_mm + 2 * more, mitre),
            (1, *_size(hollow), "a lid, to the shape inside, let in"),
        ]
    x, y = np.array(outline or [(0, 0), (across, across)]).mean(axis=0)
    x0, y0 = np.array(hollow).mean(axis=0)
    inside = Pocket(
        what="hollow, under its lid",
        outline=[[(px + x - x0, py + y - y0) for px, py in hollow]],
        depth_mm=long_mm - wall,
        corner_mm=0,
        floor_mm=0,
    )
    pieces = Piece(
        **common,
        pockets=[inside],
        bought=[
            *(
                Bought(says=f"Plate {wall:g}: {x:.0f} x {y:.0f}", count=count, why=why)
                for count, x, y, why in cut
            ),
            *holes.listed(),
        ],
        notes=[
            _faces_said(asked),
            "Weld all seams outside, chamfered; stress relieve; then machine its foot.",
            f"Faces finished in place on its own foot, {more:g} mm allowed a side.",
            "A hole for air in the lid: a closed hollow bursts when it is heated.",
            _LIFTING,
        ],
    )
    return [finished(pieces, asked.request.machine, asked.request.rules)]


def _size(outline: Sequence[tuple[float, float]]) -> tuple[float, float]:
    x, y = np.ptp(np.array(outline), axis=0)
    return float(x), float(y)


def _faces_said(asked: Asked) -> str:
    """Which plate stands where."""
    sides = _sides_of(asked)
    names = asked.design.faces or [f"{k + 1}" for k in range(len(sides))]
    listed = ", ".join(f"{name} {side}" for name, side in zip(names, sides, strict=False))
    return f"Faces, as they come before the spindle: {listed}."


def _sides_of(asked: Asked) -> tuple[Side, ...]:
    faces = asked.request.block.faces
    return _SIDES.get(faces) or _FACES[:faces]


def _holes(asked: Asked, plates: Sequence[Piece], bare: Piece) -> HoleTable:
    """Threads under every plate's hold-down screws and holes over its dowels, on each face; an eye
    bolt on top of what is too heavy for one person.
    """
    block, plate = asked.request.block, asked.request.plate
    across, deep = block.across_mm, block.wall_mm or block.across_mm
    sides = _sides_of(asked)
    # how wide a side is
    flat = across if block.faces in _SIDES else across * math.tan(math.pi / block.faces)
    placed: list[Placed] = []
    short: list[MakeDoubt] = []
    for face, side in enumerate(sides):
        piece = next((p for p in plates if is_on(asked, p, face)), plates[0])
        for fixing, x, y in _wanted(piece, plate.thickness_mm):
            aside, up = (x, y) if block.axis == "upright" else (plate.depth_mm - y, x)
            wide = plate.width_mm if block.axis == "upright" else plate.depth_mm
            along = aside - wide / 2 + flat / 2
            if not _EDGE_MM <= along <= flat - _EDGE_MM:
                short.append(
                    MakeDoubt(
                        what=fixing.what,
                        says=f"it stands {abs(along - flat / 2):.1f} mm off the middle of a face"
                        f" {flat:.4g} mm wide: there is no block behind it",
                        remedy="a wider block, or the plate's screws nearer to its middle",
                    )
                )
                continue
            if side in ("back", "left"):  # seen from outside, X and Y go the other way there
                along = across - along
            placed.append(Placed(fixing, round(along, 4), round(up, 4), side=side))
    table = table_of(placed, deep, block.material, asked.request.rules.threads == "inserts")
    table.rows = [_in_wall(row, block.wall_mm) for row in table.rows]
    table.doubts += list({doubt.says: doubt for doubt in short}.values())
    table.doubts += _meeting(table.rows, bare)
    _eye(table, asked, plates, bare.thickness_mm)
    return table


def _meeting(rows: Sequence[Holes], piece: Piece) -> list[MakeDoubt]:
    """Holes from two faces that come too near to each other round a corner, the worst."""
    bored = [
        (row, place, *_bore(piece, row, place))
        for row in rows
        for place in row.places
        if row.depth_mm is not None
    ]
    worst: tuple[float, str] | None = None
    for (one, a, here, high), (other, b, there, over) in combinations(bored, 2):
        if one.side == other.side:
            continue
        web = (
            math.hypot(here.distance(there), high - over)
            - (one.diameter_mm + other.diameter_mm) / 2
        )
        if web < _EDGE_MM and (worst is None or web < worst[0]):
            said = f"{a.what}s {a.x_mm:.4g} mm along its {one.side} and {b.what}s of its"
            worst = web, f"{said} {other.side}"
    if worst is None:
        return []
    web, said = worst
    how = "meet" if web <= 0 else f"leave {web:.1f} mm between them"
    return [
        MakeDoubt(
            what="corner",
            says=f"{said} {how}; at least {_EDGE_MM:g} mm",
            remedy="the plates' screws and dowels farther from their edges, or at other heights on"
            " every other face",
        )
    ]


def _bore(piece: Piece, row: Holes, place: HolePlace) -> tuple[LineString, float]:
    """A hole's axis from above, and how high it is."""
    side = frame(piece, row.side)
    start = side.at(place.x_mm, place.y_mm)
    end = start + (row.depth_mm or side.through_mm) * side.into
    return LineString([start[:2], end[:2]]), float(start[2])


def is_on(asked: Asked, piece: Piece, face: int) -> bool:
    """Whether a plate is that of a face."""
    names = asked.design.faces
    return not names or any(name == names[face] for name in piece.name.split(", ")[1:])


def _wanted(piece: Piece, thick: float) -> Iterator[tuple[Fixing, float, float]]:
    """What a plate's own screws and dowels ask of what it lies on, in its frame."""
    for row in piece.holes:
        for place in row.places:
            if row.sink_mm is not None and place.what == "hold-down screw":
                thread = _thread_of(row)
                under = thick - thread.head_high_mm - SUNK_MM
                yield (
                    Fixing("plate's screw", thread=thread.name, clamped_mm=under),
                    place.x_mm,
                    place.y_mm,
                )
            elif row.side == "bottom" and row.fit:
                bore = Fixing("plate's dowel", diameter_mm=row.diameter_mm, fit="G7", depth_mm=12.0)
                yield bore, place.x_mm, place.y_mm


def _thread_of(row: Holes) -> Thread:
    return min(PICKED, key=lambda it: abs(it.clear_mm - row.diameter_mm))


def _in_wall(row: Holes, wall_mm: float) -> Holes:
    """Through the wall of a hollow block, not on through the other one."""
    if not wall_mm or row.depth_mm is None or row.depth_mm < wall_mm:
        return row
    says = f"{row.thread or row.says.split(',')[0]}, through the wall"
    return row.model_copy(update={"depth_mm": wall_mm + 0.5, "thread_depth_mm": None, "says": says})


def _eye(table: HoleTable, asked: Asked, plates: Sequence[Piece], long_mm: float) -> None:
    """Where all of it is too heavy for one person: on top, over the centre of gravity."""
    block = asked.request.block
    inner = max(0.0, block.across_mm - 2 * block.wall_mm) if block.wall_mm else 0.0
    # of a regular polygon about a circle; two faces stand on a square too
    sides = 4 if block.faces in _SIDES else block.faces
    area = sides * math.tan(math.pi / sides) / 4
    own = area * (block.across_mm**2 * long_mm - inner**2 * (long_mm - block.wall_mm))
    own *= block.material.density_kg_m3 * 1e-9
    plate = asked.request.plate
    each = plate.width_mm * plate.depth_mm * plate.thickness_mm * plate.material.density_kg_m3
    mass = own + block.faces * each * 1e-9
    if mass <= ALONE_KG or not plates:
        return
    picked = next((name for name, (most, _) in _EYES.items() if most >= mass), None)
    if block.axis != "upright" or picked is None:
        table.doubts.append(
            MakeDoubt(
                what="lifting",
                says=f"it weighs {mass:.0f} kg with its plates, and where it is slung is not drawn",
                remedy="slings round it, or threads placed by whoever answers for lifting",
                wrong=False,
            )
        )
        return
    thread, deep = THREADS[picked], _EYES[picked][1] + 3.0
    outline = section(sides, block.across_mm)
    middle = np.array(outline).mean(axis=0)
    table.rows.append(
        Holes(
            letter="",
            says=f"{picked}, {deep:g} deep; drill Ø{thread.drill_mm:g}, {deep + 6:g} deep",
            diameter_mm=thread.drill_mm,
            depth_mm=deep + 6,
            thread=picked,
            thread_depth_mm=deep,
            places=[HolePlace(x_mm=float(middle[0]), y_mm=float(middle[1]), what="lifting")],
        )
    )
    table.bought[
        f"Eye bolt DIN 580 {picked}",
        f"lifting {mass:.0f} kg: block and plates, no parts or clamps on them",
    ] += 1
