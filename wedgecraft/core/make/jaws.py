"""Soft jaws: both jaws of a pair with the part's profile cut into them, as it drops in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.affinity import translate
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.locate.in_jaws import JAW_MATERIAL, InJaws, Resting, in_jaws
from wedgecraft.core.locate.lies import Profile, places
from wedgecraft.core.locate.ready import Ready
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.behind import behind, posts_give, too_thin, weak_posts
from wedgecraft.core.make.finish import finished
from wedgecraft.core.make.holes import letter
from wedgecraft.core.make.jaw_holes import dowels, screws
from wedgecraft.core.make.pair import Pair, Turned, pair_of
from wedgecraft.core.make.room import marked
from wedgecraft.core.records.element import Nest
from wedgecraft.core.records.piece import (
    Bought,
    HolePlace,
    Holes,
    MakeDoubt,
    Piece,
    Pocket,
    Rests,
    Touching,
)
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.station.nest import profile

#: The least that is left under a pocket.
_FLOOR_MM = 4.0
_MARK_MM = 4.0
#: A gap narrower than this is left by a card, a wider one by a parallel.
_CARD_MM = 1.5
_FORCE_UNKNOWN = MakeDoubt(
    what="walls",
    says="whether they stand the vise's force is not known: hold was not worked out",
    remedy="cuts for this op, so that Hold is",
    wrong=False,
)
#: Every so many places of a profile one is drawn.
_QUILLS = 8


def touching(pair: Pair, ready: Ready, nest: Nest) -> InJaws:
    """How the smallest, the nominal and the largest part lie in the pocket as it is cut."""
    gone = shapely.union_all([relief.takes for c in pair.cuttings for relief in c.reliefs])
    return in_jaws(ready.view, ready.sitting, nest, gone)


def _rests(at: Profile, item: Resting, to: Turned) -> Rests:
    lying = item.lying
    on = lying.pressure_mpa > 0
    most = float(lying.pressure_mpa.max()) if on.any() else 0.0
    runs = list(places(at, lying))
    every = np.flatnonzero(on)[::_QUILLS]
    ends = to(at.at[every]), to(at.at[every] + at.normals[every])
    return Rests(
        size=item.size,
        gap_mm=item.gap_mm,
        places_fixed=sum(not at.moving[run[0]] for run in runs),
        places_moving=sum(bool(at.moving[run[0]]) for run in runs),
        fixed_mm=float(at.lengths[on & ~at.moving].sum()),
        moving_mm=float(at.lengths[on & at.moving].sum()),
        pressure_mpa=most,
        within_mm=item.settled.apart_mm,
        turns_freely=item.settled.free,
        quills=[
            (float(x), float(y), float(u - x), float(v - y), float(p / most))
            for (x, y), (u, v), p in zip(*ends, lying.pressure_mpa[every], strict=True)
        ],
    )


def jaw_pieces(asked: Asked, vise: Vise) -> list[Piece]:
    """A pair for each op that is held in soft jaws, as many alike as stations stand in them."""
    found = []
    for k, ready in enumerate(asked.kinds):
        pair, nest = pair_of(ready), ready.view.station.element.nest
        if pair is None or nest is None:
            continue
        many = asked.many(k)
        piece = _piece(asked, k, pair, nest, vise)
        whole = piece.model_copy(
            update={"alike": many, "serials": [f"{n + 1}" for n in range(many)]}
        )
        found.append(finished(whole, asked.request.machine, asked.request.rules))
    return found


def _piece(asked: Asked, kind: int, pair: Pair, nest: Nest, vise: Vise) -> Piece:
    jaw_height_mm = vise.jaw_height_mm
    number = asked.design.kinds[kind].op_number
    to = Turned(pair)
    floor = jaw_height_mm - pair.depth_mm
    both = shapely.union(pair.fixed, pair.moving)
    x0, y0, x1, y1 = to.area(both).bounds
    name = asked.request.parts[asked.design.kinds[kind].planned.part].name

    def milled(over: BaseGeometry) -> list[Pocket]:
        return [
            Pocket(
                what=f"{layer.low_mm:.4g} to {layer.high_mm:.4g} mm over the floor",
                outline=to.rings(part),
                depth_mm=layer.high_mm - layer.low_mm,
                corner_mm=cutting.cutter_mm / 2,
                floor_mm=floor + layer.low_mm,
            )
            for layer, cutting in zip(pair.layers, pair.cuttings, strict=True)
            for part in _within(cutting.area, over).geoms
        ]

    ready = asked.kinds[kind]
    held = profile(ready.sitting, ready.view.station)
    walls = [float(grip.length) for grip in pair.grips]
    meets = touching(pair, ready, nest)
    lying = [_rests(meets.profile, item, to) for item in meets.rests]
    varies, source = meets.varies_mm, meets.varies_says
    verdict = asked.verdict(kind)
    force = None if verdict is None else verdict.preload_high_n
    walls_behind = behind(pair, force or 0.0)
    posts = posts_give(pair, force or 0.0)
    reliefs = sum(len(cutting.reliefs) for cutting in pair.cuttings)
    rules = asked.request.rules
    across = [screws(pair, to, vise, jaw_height_mm)]
    if rules.jaws_aligned == "dowels" and not vise.carrier_deep_mm:
        across.append(dowels(pair, to, vise, jaw_height_mm))
    lines = [f"{name.upper()} OP {number}", f"SETUP {asked.number}  X0 Y0 THIS CORNER  Z0 TOP"]
    piece = Piece(
        name=f"Soft jaws, op {number}",
        kind="soft jaws",
        alike=1,
        ops=[number],
        material=JAW_MATERIAL,
        width_mm=x1 - x0,
        depth_mm=y1 - y0,
        thickness_mm=jaw_height_mm,
        datum_mm=(0.0, to.split),
        datum_says="X0 at the jaws' left end, Y0 at the fixed jaw's face, Z0 on top",
        bodies=[to.rings(body)[0] for body in (pair.moving, pair.fixed)],
        drawn_part=[ring for y in pair.along for ring in to.rings(translate(held, 0.0, y))],
        pockets=milled(both),
        bridged=milled(both.convex_hull),
        holes=_lettered([*_reliefs(pair, to), *(row for one in across for row in one.rows)]),
        notes=_notes(pair, rules, vise.carrier_deep_mm),
        doubts=[
            *(doubt for one in across for doubt in one.doubts),
            *_doubts(pair, floor - vise.carrier_deep_mm, walls),
            *_too_large(lying, varies, source),
            *_free(lying),
            *(
                [_FORCE_UNKNOWN]
                if verdict is None
                else [
                    *too_thin(walls_behind, verdict.needed, force or 0.0),
                    *weak_posts(posts, verdict.needed),
                ]
            ),
        ],
        bought=[
            *_bought(pair, jaw_height_mm, vise.carrier_deep_mm > 0),
            *(item for one in across for item in one.bought),
        ],
        touching=Touching(
            clearance_mm=pair.clearance_mm,
            cutter_mm=pair.cutter_mm,
            reliefs=reliefs,
            fixed_mm=pair.kept(0),
            fixed_of_mm=walls[0],
            moving_mm=pair.kept(1),
            moving_of_mm=walls[1],
            floor_mm=floor,
            depth_mm=pair.depth_mm,
            gap_mm=pair.gap_mm,
            varies_mm=varies,
            varies_says=source,
            force_n=force,
            behind_mm=[item.thick_mm for item in walls_behind],
            bends_mm=[] if force is None else [item.bends_mm for item in walls_behind],
            rests=lying,
        ),
    )
    marks = marked(lines, piece.width_mm, to.split, [], _MARK_MM)
    return piece.model_copy(update={"marks": marks})


def _reliefs(pair: Pair, to: Turned) -> list[Holes]:
    """Circles in corners, those of one depth in a row."""
    rows: list[Holes] = []
    for layer, cutting in zip(pair.layers, pair.cuttings, strict=True):
        if not cutting.reliefs:
            continue
        deep = pair.depth_mm - layer.low_mm
        at = to(np.array([(relief.x, relief.y) for relief in cutting.reliefs]))
        rows.append(
            Holes(
                letter="",
                says=f"Ø{cutting.cutter_mm:g}, {deep:.4g} deep, corner relief",
                diameter_mm=cutting.cutter_mm,
                depth_mm=deep,
                in_pocket=True,
                places=[
                    HolePlace(x_mm=round(float(x), 4), y_mm=round(float(y), 4), what="relief")
                    for x, y in at
                ],
            )
        )
    return rows


def _within(area: BaseGeometry, both: BaseGeometry) -> MultiPolygon:
    """What of a pocket is in the jaws, not in the gap."""
    found = area.intersection(both)
    return MultiPolygon([p for p in shapely.get_parts(found) if isinstance(p, Polygon)])


def gap_bridged(piece: Piece) -> Piece | None:
    """Both jaws as one block, the pocket going on over the gap, nothing else in it: what a cam
    system wants, so that its paths do not fall into the gap. Nothing for other pieces.
    """
    if not piece.bridged:
        return None
    return piece.model_copy(
        update={
            "name": f"{piece.name}, gap bridged",
            "bodies": [],
            "pockets": piece.bridged,
            "holes": [],
            "marks": [],
        }
    )


def _lettered(rows: Sequence[Holes]) -> list[Holes]:
    return [row.model_copy(update={"letter": letter(k)}) for k, row in enumerate(rows)]


def _notes(pair: Pair, rules: HouseRules, carrier_mm: float) -> list[str]:
    leave = -pair.clearance_mm
    pitch = f"{pair.along[1]:.4g} mm" if len(pair.along) > 1 else ""
    return [
        *_cut_steps(pair, rules),
        *([f"{len(pair.along)} pockets alike, {pitch} apart, from one zero."] if pitch else []),
        f"Stock to leave for the cam system: {leave:+.3f} mm ({leave / 25.4:+.4f} in) on the"
        " profile: the pocket is larger than the part all round, never undersize.",
        "No undercut at the foot: the part would rock and chips hide there.",
        *(
            [f"{len(pair.posts)} posts stand in its openings, a clearance smaller all round."]
            if pair.posts
            else []
        ),
        "Chamfer the pocket's upper edge 0.5 x 45°. Break all other edges.",
        _ON_CARRIERS.format(high=carrier_mm) if carrier_mm else _ALIGNED[rules.jaws_aligned],
    ]


def _cut_steps(pair: Pair, rules: HouseRules) -> list[str]:
    """How both jaws are cut, in steps, by the house's way."""
    if rules.jaws_cut == "apart":
        return [
            "Cut each jaw by itself, clamped on its back: X0 at its left end, Y0 at the gap's face,"
            " Z0 on top, a zero of its own; the gap between them is then free."
        ]
    what = "a card" if pair.gap_mm < _CARD_MM else "a parallel"
    return [
        f"Cut both jaws together: 1. bolt both on, screws just tight; 2. close them on {what} of"
        f" {pair.gap_mm:g} mm below the pocket, as tight as in use; 3. tighten the screws, then the"
        " vise again; 4. one zero for both, X0 at the left end, Y0 at the fixed jaw's face; 5. cut"
        " in the middle of the vise's play, so that it can open and close from there."
    ]


_ON_CARRIERS = (
    "Blanks for the vise's carrier jaws: the dovetail in their foot, {high:g} mm high, is the"
    " carrier maker's; slid on against its stop and tightened before they are cut, and always put"
    " back on the same carrier, the same way round."
)
_ALIGNED = {
    "dowels": "Two dowels across both jaws, pressed into the fixed one, keep them where they were"
    " cut: put the jaws together on them, then bolt them on.",
    "side stop": "Bolted on again: both pushed against the side stop of the vise, then screws"
    " tightened; check with a part or a pin.",
    "by a part": "Bolted on again: screws just tight, a good part clamped in the pocket, then the"
    " screws tightened.",
}


def _doubts(pair: Pair, floor_mm: float, walls: Sequence[float]) -> list[MakeDoubt]:
    found: list[MakeDoubt] = []
    left = sum(cutting.left.area for cutting in pair.cuttings)
    if left:
        worst = max((p for c in pair.cuttings for p in c.left.geoms), key=lambda p: p.area)
        at = worst.representative_point()
        found.append(
            MakeDoubt(
                what="pocket",
                says=f"a cutter of {pair.cutter_mm:g} mm leaves {left:.2f} mm² of it, so the part"
                " cannot go in",
                remedy="a smaller cutter, a corner of the part that is rounded, or jaws that do not"
                " reach there",
                places=[(float(at.x), float(at.y))],
            )
        )
    if floor_mm < _FLOOR_MM:
        found.append(
            MakeDoubt(
                what="floor",
                says=f"{floor_mm:.1f} mm are left under the pocket; at least {_FLOOR_MM:g} mm",
                remedy=f"jaws {_FLOOR_MM - floor_mm:.1f} mm higher, or the part held by as much"
                " less",
            )
        )
    for jaw, name in enumerate(("fixed", "moving")):
        if pair.kept(jaw) < 0.5 * walls[jaw]:
            found.append(
                MakeDoubt(
                    what=f"{name} jaw",
                    says=f"reliefs leave {pair.kept(jaw):.0f} of {walls[jaw]:.0f} mm of the wall"
                    " that grips",
                    remedy="a smaller cutter, or the part turned",
                    wrong=False,
                )
            )
    return found


def _free(lying: Sequence[Rests]) -> list[MakeDoubt]:
    """A round in a round pocket stands at any angle."""
    if not any(item.turns_freely for item in lying):
        return []
    return [
        MakeDoubt(
            what="turn",
            says="nothing of the pocket keeps the part from turning: it may stand at any angle",
            remedy="a flat, a pin in one of its holes, or nothing where no feature minds",
            wrong=False,
        )
    ]


def _too_large(lying: Sequence[Rests], varies: float, source: str) -> list[MakeDoubt]:
    """The largest part must go in too: a pocket is never undersize."""
    over = -min(item.gap_mm for item in lying)
    if over <= 0:
        return []
    return [
        MakeDoubt(
            what="pocket",
            says=f"the largest part is {over:.3f} mm larger all round than its pocket: parts differ"
            f" by ±{varies:.3g} mm ({source})",
            remedy=f"a clearance of {varies:.3g} mm in all at least, or parts sorted or cut closer",
        )
    ]


def _bought(pair: Pair, jaw_height_mm: float, on_carriers: bool) -> list[Bought]:
    found = []
    for name, jaw in (("fixed", pair.fixed), ("moving", pair.moving)):
        x0, y0, x1, y1 = jaw.bounds
        kind = "Blank for carrier jaws, dovetailed," if on_carriers else "Jaw blank"
        says = f"{kind} {x1 - x0:.4g} x {y1 - y0:.4g} x {jaw_height_mm:.4g}, 6061"
        found.append(Bought(says=says, count=1, why=f"{name} jaw, each pair"))
    return found
