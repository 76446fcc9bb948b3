"""Plates and faces: every hole their stations, hold-down, dowels, datum and lifting need."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from wedgecraft.core.ground.planar import turned
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.blocks import ALONE_KG
from wedgecraft.core.make.fasteners import SUNK_MM, THREADS, largest_sunk
from wedgecraft.core.make.finish import finished
from wedgecraft.core.make.holes import HoleTable, Placed, letter, sunk, table_of
from wedgecraft.core.make.plate_pockets import around, near_pockets, pockets_of
from wedgecraft.core.make.room import marked
from wedgecraft.core.make.set_stops import SetStop, set_stops
from wedgecraft.core.make.uneven import Holed, bolts_up, grid, two_dowels
from wedgecraft.core.make.webs import bored, least_web_mm, thin_webs
from wedgecraft.core.records.design import PlacedStation
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.piece import Bought, HolePlace, Holes, MakeDoubt, Piece, Pocket
from wedgecraft.core.records.plate import BORE_MM, PickUp, Plate
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.relief import RELIEF, reliefs

#: Dowels that say where a plate lies; from memory.
_DOWEL_MM = 8.0
_DOWEL_DEEP_MM = 12.0
_DATUM_DEEP_MM = 12.0
_EYE = "M10"
_EYE_DEEP_MM = 17.0
#: A keep-out is so much wider than what stands in it.
_ROOM_MM = 2.0
_GRID_MM = 20.0
_DATUM_SAYS: dict[PickUp, str] = {
    "corner": "lower left corner",
    "bore": "the bore so marked",
    "midway between faces": "midway between the side faces, and between front and back",
    "axis": "the axis of the block",
}
_MARK_MM = 5.0


def plate_pieces(asked: Asked, what: str = "Plate") -> list[Piece]:
    """A piece for each face; faces with the same holes are made alike."""
    faces = asked.request.block.faces
    found: list[tuple[Piece, list[str]]] = []
    for face in range(faces):
        piece = _plate(asked, face, what)
        name = asked.design.faces[face] if faces > 1 and asked.design.faces else ""
        known = next((item for item in found if _same(item[0], piece)), None)
        if known is not None:
            known[1].append(name)
        else:
            found.append((piece, [name]))
    return [_alike(piece, names, asked) for piece, names in found]


def _same(one: Piece, other: Piece) -> bool:
    """Whether two faces are cut alike, whichever station stands where."""
    without = {"name", "holes", "marks", "pockets"}
    pieces = (one, other)
    holes = [
        [{(round(p.x_mm, 3), round(p.y_mm, 3)) for p in row.places} | {row.says, row.side}
         for row in item.holes]
        for item in pieces
    ]  # fmt: skip
    milled = [
        {(frozenset(_rounded(pocket)), pocket.depth_mm) for pocket in item.pockets}
        for item in pieces
    ]
    return (
        holes[0] == holes[1]
        and milled[0] == milled[1]
        and one.model_dump(exclude=without) == other.model_dump(exclude=without)
    )


def _rounded(pocket: Pocket) -> set[tuple[float, float]]:
    return {(round(x, 3), round(y, 3)) for x, y in pocket.outline[0]}


def _alike(piece: Piece, names: Sequence[str], asked: Asked) -> Piece:
    many = len(names) * asked.copies
    serials = [f"{k + 1}/{many}" for k in range(many)] if many > 1 else []
    said = f"{piece.name}, {', '.join(names)}" if any(names) else piece.name
    notes = [*piece.notes]
    if asked.copies > 1:
        notes.append(
            f"{asked.copies} identical fixtures: made in one go, numbered, always put back the same"
            " way round"
        )
    whole = piece.model_copy(
        update={"alike": many, "serials": serials, "name": said, "notes": notes}
    )
    return finished(whole, asked.request.machine, asked.request.rules)


def _plate(asked: Asked, face: int, what: str) -> Piece:
    request, plate = asked.request, asked.request.plate
    stations = asked.on_face(face)
    fixed = {
        kind: set_stops(asked.kinds[kind], asked.verdict(kind), plate)
        for kind in sorted({station.kind for station in stations})
    }
    placed = [
        item
        for station in stations
        for item in _of_station(asked, station, fixed[station.kind].stops)
    ]
    placed += _datum(asked)
    table = table_of(placed, plate.thickness_mm, plate.material, request.rules.threads == "inserts")
    bars = Counter(stop.says for station in stations for stop in fixed[station.kind].stops)
    _hold_down(table, plate, on_block=request.block.across_mm > 0)
    _dowels(table, plate)
    _lifting(table, plate)
    rows = [row.model_copy(update={"letter": letter(k)}) for k, row in enumerate(table.rows)]
    datum = (request.datum.x_mm, request.datum.y_mm)
    pockets = [
        pocket
        for station in stations
        for pocket in pockets_of(asked, station, fixed[station.kind].stops)
    ]
    return Piece(
        name=f"{what}, op {' and '.join(map(str, asked.ops))}",
        kind="plate",
        alike=1,
        ops=asked.ops,
        material=plate.material,
        width_mm=plate.width_mm,
        depth_mm=plate.depth_mm,
        thickness_mm=plate.thickness_mm,
        datum_mm=datum,
        datum_says=f"X0 Y0: {_DATUM_SAYS[request.datum.from_what]}",
        holes=rows,
        pockets=pockets,
        marks=marked(
            _lines(asked), plate.width_mm, plate.depth_mm, [*rows, *around(pockets)], _MARK_MM
        ),
        notes=[*_notes(), *(says for own in fixed.values() for says in own.notes)],
        doubts=[
            *table.doubts,
            *(doubt for own in fixed.values() for doubt in own.doubts),
            *thin_webs(rows, plate.width_mm, plate.depth_mm, plate.thickness_mm),
            *near_pockets(pockets, rows, plate),
        ],
        bought=[
            *table.listed(),
            *(Bought(says=says, count=count, why="hardened") for says, count in bars.items()),
        ],
    )


def _of_station(asked: Asked, station: PlacedStation, stops: Sequence[SetStop]) -> list[Placed]:
    ready = asked.kinds[station.kind]
    kind, built = ready.view.station, ready.station
    own = [item for stop in stops for item in stop.fixings]
    over = max((body.high_mm for body in built.clamp_bodies), default=kind.clamp.height_mm)
    # what has no screw of its own from above is fixed where it pulls
    places = built.screws or [
        (float(x), float(y))
        for member in built.members
        for press in member.presses
        for x, y in [member.put(np.array([press.x, press.y]))]
    ]
    for x, y in places:
        own += [item.at(x, y) for item in kind.element.fixings(kind.clamp, over)]
    pinned = [
        item for member in built.members for item in _put(member, kind.locating.fixings(built.part))
    ]
    under = [
        Fixing(RELIEF, x, y, diameter_mm=wide, depth_mm=deep)
        for x, y, wide, deep in reliefs(ready.sitting, built.members)
    ]
    floor = [
        item
        for member in built.members
        for item in _put(member, kind.element.under(built.floor)[1])
    ]
    return [_at(item, station) for item in [*own, *pinned, *under, *floor]]


def _put(member: Member, fixings: Sequence[Fixing]) -> list[Fixing]:
    """As they stand for one member of a station."""
    at = [member.put(np.array([item.x, item.y])) for item in fixings]
    return [item.at(float(x), float(y)) for item, (x, y) in zip(fixings, at, strict=True)]


def _at(item: Fixing, station: PlacedStation) -> Placed:
    x, y = turned(np.array([[item.x, item.y]]), station.turn)[0]
    return Placed(
        item, round(float(x) + station.x_mm, 4), round(float(y) + station.y_mm, 4), station.number
    )


def _datum(asked: Asked) -> list[Placed]:
    datum = asked.request.datum
    if datum.from_what != "bore":
        return []
    bore = Fixing("datum bore", diameter_mm=BORE_MM, fit="H7", depth_mm=_DATUM_DEEP_MM)
    return [Placed(bore, datum.x_mm, datum.y_mm)]


def _hold_down(table: HoleTable, plate: Plate, on_block: bool) -> None:
    """A sunk screw in each round keep-out, the largest that goes into it. ``on_block``: what it
    lies on is made too, and says itself how long they are.
    """
    places: dict[str, list[HolePlace]] = {}
    for item in plate.keepouts:
        if item.shape != "round":
            continue
        thread = largest_sunk(item.width_mm - _ROOM_MM)
        if thread is None or thread.head_high_mm + SUNK_MM > plate.thickness_mm / 2:
            table.doubts.append(
                MakeDoubt(
                    what="hold-down screw",
                    says=f"no sunk screw goes into a keep-out {item.width_mm:g} mm wide of a plate"
                    f" {plate.thickness_mm:g} mm thick",
                    remedy="a wider keep-out, a thicker plate, or straps at the edge",
                    wrong=False,
                    places=[(item.x_mm, item.y_mm)],
                )
            )
            continue
        place = HolePlace(x_mm=item.x_mm, y_mm=item.y_mm, what="hold-down screw")
        places.setdefault(thread.name, []).append(place)
    if not plate.keepouts:
        table.doubts.append(
            MakeDoubt(
                what="hold-down",
                says="no keep-out says where the plate's screws are, so none are drawn",
                remedy="keep-outs at the plate's screws, in Method",
                wrong=False,
            )
        )
    for name, at in places.items():
        thread = THREADS[name]
        table.rows.append(sunk(thread, "top", at))
        if on_block:
            continue
        under = plate.thickness_mm - thread.head_high_mm - SUNK_MM
        long = under + 1.5 * thread.nominal_mm
        says = f"Screw {thread.standard} {name}, {long:.0f} mm at least, for what it lies on"
        table.bought[says, "hold-down"] += len(at)


def _dowels(table: HoleTable, plate: Plate) -> None:
    """Two dowels in the underside, where no turn of the plate meets all its holes again."""
    pattern = [
        Holed(place.x_mm, place.y_mm, row.says)
        for row in table.rows
        if row.sink_mm is not None
        for place in row.places
    ]
    if not pattern:
        return
    web = least_web_mm(plate.thickness_mm)
    taken = list(bored(table.rows, plate.thickness_mm))
    margin = _DOWEL_MM
    free = [
        (x, y)
        for x, y in grid(plate.width_mm, plate.depth_mm, margin + web, _GRID_MM)
        if all(
            np.hypot(x - hole.place.x_mm, y - hole.place.y_mm)
            >= hole.radius_mm + _DOWEL_MM / 2 + web
            or hole.low_mm > _DOWEL_DEEP_MM + web
            for hole in taken
        )
    ]
    found = two_dowels(pattern, free)
    if found is None:
        ways = "; ".join(way.said() for way in bolts_up(pattern)[:2])
        table.doubts.append(
            MakeDoubt(
                what="dowels",
                says=f"no two free places keep the plate from going on {ways or 'otherwise'}",
                remedy="a hold-down screw moved out of its row",
                wrong=False,
            )
        )
        return
    bore = Fixing("dowel below", diameter_mm=_DOWEL_MM, fit="H7", depth_mm=_DOWEL_DEEP_MM)
    own = table_of(
        [Placed(bore, x, y, side="bottom") for x, y in found],
        plate.thickness_mm,
        plate.material,
        False,
    )
    table.rows += own.rows
    table.bought[f"Dowel ISO 8734 {_DOWEL_MM:g} m6 x 20", "plate on what it lies on"] += 2


def _lifting(table: HoleTable, plate: Plate) -> None:
    """Two threads for eye bolts in the longer edges, beside the centre of gravity, where it is too
    heavy for one person.
    """
    volume = plate.width_mm * plate.depth_mm * plate.thickness_mm
    if volume * plate.material.density_kg_m3 * 1e-9 <= ALONE_KG:
        return
    thread = THREADS[_EYE]
    if plate.thickness_mm < 2 * thread.nominal_mm:
        return
    wide = plate.width_mm >= plate.depth_mm
    middle = (plate.width_mm if wide else plate.depth_mm) / 2
    place = HolePlace(x_mm=middle, y_mm=plate.thickness_mm / 2, what="lifting")
    for side in ("front", "back") if wide else ("left", "right"):
        table.rows.append(
            Holes(
                letter="",
                says=f"{_EYE}, {_EYE_DEEP_MM:g} deep; drill Ø{thread.drill_mm:g}, 22 deep",
                side=side,
                diameter_mm=thread.drill_mm,
                depth_mm=22,
                thread=_EYE,
                thread_depth_mm=_EYE_DEEP_MM,
                places=[place],
            )
        )
    table.bought[f"Eye bolt DIN 580 {_EYE}", "lifting, at the centre of gravity"] += 2


def _lines(asked: Asked) -> list[str]:
    """What must be read on it: part, ops, where X0 Y0 Z0 is, which way round."""
    parts = [asked.request.parts[kind.planned.part].name for kind in asked.design.kinds]
    part = f"{', '.join(dict.fromkeys(parts))[:60]} OP {' '.join(map(str, asked.ops))}"
    datum = asked.request.datum
    zero = "THIS CORNER" if (datum.x_mm, datum.y_mm) == (0, 0) else "IN THE BORE"
    return [part.upper(), f"SETUP {asked.number}  X0 Y0 {zero}  Z0 TOP", "THIS SIDE FRONT"]


def _notes() -> list[str]:
    return [
        "Break all edges 0.5 mm. Threads and bores free of burrs and chips.",
        "Check every dowel's engaged length against its hole before it is pressed in.",
    ]
