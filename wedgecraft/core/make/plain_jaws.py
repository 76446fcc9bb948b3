"""Jaws without a profile: steps that a part stands on, hard ones with parallels."""

from __future__ import annotations

import shapely
from shapely.geometry import MultiPolygon, Polygon, box

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.finish import finished
from wedgecraft.core.make.holes import letter
from wedgecraft.core.make.jaw_holes import screws
from wedgecraft.core.make.pair import Pair, Turned
from wedgecraft.core.make.pocket import CUTTERS_MM, Cutting, Layer
from wedgecraft.core.make.room import marked
from wedgecraft.core.records.material import MATERIALS, TOOTHED_FRICTION
from wedgecraft.core.records.piece import Bought, MakeDoubt, Piece, Pocket
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.station.nest import profile

#: What steps are cut into; hardened where they must last.
_MATERIAL = MATERIALS["steel-c45"]
_MARK_MM = 4.0


def stepped_pieces(asked: Asked, vise: Vise) -> list[Piece]:
    """A pair for each op that stands on steps, as many alike as stations."""
    found = []
    for kind, ready in enumerate(asked.kinds):
        element = ready.view.station.element
        if element.nest is not None or not getattr(element, "stepped", False):
            continue
        many = asked.many(kind)
        piece = _stepped(asked, kind, vise).model_copy(
            update={"alike": many, "serials": [f"{k + 1}" for k in range(many)]}
        )
        found.append(finished(piece, asked.request.machine, asked.request.rules))
    return found


def _stepped(asked: Asked, kind: int, vise: Vise) -> Piece:
    ready = asked.kinds[kind]
    station = ready.view.station
    number = asked.design.kinds[kind].op_number
    depth, ledge = station.stops.height_mm, float(getattr(station.element, "ledge_mm", 0.0))
    moving_mm = float(getattr(station.element, "moving_mm", station.stops.thickness_mm))
    held = profile(ready.sitting, station)
    wide, half = float(held.bounds[2] - held.bounds[0]), vise.jaw_width_mm / 2
    gap = wide - 2 * ledge
    doubts = []
    if gap <= 0:
        doubts.append(
            MakeDoubt(
                what="steps",
                says=f"two of {ledge:g} mm are wider than the part, {wide:.4g} mm: they meet before"
                " the jaws close",
                remedy=f"steps under {wide / 2:.1f} mm wide, or parallels",
            )
        )
        gap = 1.0
        wide = 2 * ledge + gap
    pair = _pair(station.stops.thickness_mm, moving_mm, wide, ledge, half, depth)
    to = Turned(pair)
    both = shapely.union(pair.fixed, pair.moving)
    x0, y0, x1, y1 = to.area(both).bounds
    across = screws(pair, to, vise, vise.jaw_height_mm)
    floor = vise.jaw_height_mm - depth
    pockets = [
        Pocket(what="step", outline=to.rings(part), depth_mm=depth, corner_mm=0, floor_mm=floor)
        for part in shapely.get_parts(pair.layers[0].area.intersection(both))
        if isinstance(part, Polygon)
    ]
    name = asked.request.parts[asked.design.kinds[kind].planned.part].name
    piece = Piece(
        name=f"Stepped jaws, op {number}",
        kind="stepped jaws",
        alike=1,
        ops=[number],
        material=_MATERIAL,
        width_mm=x1 - x0,
        depth_mm=y1 - y0,
        thickness_mm=vise.jaw_height_mm,
        datum_mm=(0.0, to.split),
        datum_says="X0 at the jaws' left end, Y0 at the fixed jaw's step, Z0 on top",
        bodies=[to.rings(body)[0] for body in (pair.moving, pair.fixed)],
        pockets=pockets,
        holes=[row.model_copy(update={"letter": letter(k)}) for k, row in enumerate(across.rows)],
        doubts=[*doubts, *across.doubts],
        notes=[
            f"Steps {ledge:g} mm wide, {depth:g} mm below the top, both cut in one clamping:"
            " a part that stands on two heights rocks.",
            "No undercut needed where the part's edges are broken; else relieve the inner corner"
            " 0.5 mm.",
            "Break all other edges.",
        ],
        bought=[
            *across.bought,
            *(
                Bought(
                    says=f"Jaw blank {2 * half:.4g} x {jaw.bounds[2] - jaw.bounds[0]:.4g} x"
                    f" {vise.jaw_height_mm:.4g}, {_MATERIAL.name}",
                    count=1,
                    why=f"{which} jaw, each pair",
                )
                for which, jaw in (("fixed", pair.fixed), ("moving", pair.moving))
            ),
        ],
    )
    lines = [f"{name.upper()} OP {number}", f"SETUP {asked.number}  STEP {depth:g} BELOW TOP"]
    marks = marked(lines, piece.width_mm, to.split, [], _MARK_MM)
    return piece.model_copy(update={"marks": marks})


def _pair(
    fixed_mm: float, moving_mm: float, wide: float, ledge: float, half: float, depth: float
) -> Pair:
    """Both blanks, each as much thicker as its step is wide, what is milled over the steps."""
    over = MultiPolygon([box(0, -half, wide, half)])
    return Pair(
        fixed=box(-fixed_mm, -half, ledge, half),
        moving=box(wide - ledge, -half, wide + moving_mm, half),
        under_mm=0.0,
        depth_mm=depth,
        clearance_mm=0.0,
        split_mm=wide / 2,
        gap_mm=wide - 2 * ledge,
        layers=(Layer(0.0, depth, over),),
        cuttings=(Cutting(CUTTERS_MM[0], over, (), MultiPolygon()),),
        grips=(MultiPolygon().boundary, MultiPolygon().boundary),
    )


def with_hard_jaws(asked: Asked, vise: Vise) -> list[Bought]:
    """What stands in a vise with hard jaws: parallels of the height that leaves the part as deep
    between the jaws as it was planned, and which jaws.
    """
    found = []
    for kind, ready in enumerate(asked.kinds):
        station = ready.view.station
        if station.element.nest is not None or getattr(station.element, "stepped", False):
            continue
        many = asked.many(kind)
        number = asked.design.kinds[kind].op_number
        up = vise.jaw_height_mm - station.stops.height_mm
        if up > 0:
            says = f"Parallels, a pair, {up:.4g} mm high, {vise.jaw_width_mm:.4g} mm long"
            found.append(Bought(says=says, count=many, why=f"under op {number}, each vise"))
        teeth = "with toothed grips" if vise.jaw_friction >= TOOTHED_FRICTION else "smooth"
        found.append(Bought(says=f"Hard jaws, {teeth}, a pair", count=many, why=f"op {number}"))
    return found
