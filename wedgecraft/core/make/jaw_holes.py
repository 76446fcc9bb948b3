"""Holes across soft jaws: the screws that hold them to the vise, and dowels that align them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from shapely.geometry import LineString
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.fits import limits_mm
from wedgecraft.core.make.fasteners import DOWEL_LENGTHS, SUNK_MM, THREADS, Thread, screw_for
from wedgecraft.core.make.pair import Pair, Turned
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.piece import Bought, HolePlace, Holes, MakeDoubt
from wedgecraft.core.records.vise import Vise

#: Under a jaw screw's head stays so many of its diameters; common practice, from memory.
_UNDER_HEAD = 2.0
#: A screw or dowel keeps so far from what is milled, at least; house usage, from memory.
_WEB_MM = 2.0
#: A dowel across both jaws, how deep it is pressed in, as its diameters, and slides, at the least.
_DOWEL_MM, _PRESSED, _SLIDES = 6, 2.0, 2.0
#: From a jaw's end to a dowel.
_END_MM = 10.0
_STEEL = MATERIALS["steel-c45"]


@dataclass(frozen=True)
class Across:
    """Rows of holes across both jaws, what they want bought, and what is wrong with them."""

    rows: tuple[Holes, ...] = ()
    bought: tuple[Bought, ...] = ()
    doubts: tuple[MakeDoubt, ...] = ()


def screws(pair: Pair, to: Turned, vise: Vise, jaw_height_mm: float) -> Across:
    """Two in each jaw, sunk from the gap, where the vise has its threads."""
    if vise.carrier_deep_mm:
        return Across()
    if not vise.jaw_screw:
        return Across(
            doubts=(
                MakeDoubt(
                    what="jaw screws",
                    says="not drawn: nobody has said where the vise has their threads",
                    remedy="put in the size, how far apart and how high of “"
                    f"{vise.name}” in the shop, from its maker's sheet",
                    wrong=False,
                ),
            )
        )
    thread, up = THREADS[vise.jaw_screw], vise.jaw_screws_up_mm
    middle = vise.jaw_width_mm / 2
    at = [middle - vise.jaw_screws_apart_mm / 2, middle + vise.jaw_screws_apart_mm / 2]
    rows, doubts, bought = [], [], []
    for name, side, thick, begins in _jaws(pair):
        sunk = max(thick - _UNDER_HEAD * thread.nominal_mm, thread.head_high_mm + SUNK_MM)
        try:
            screw = screw_for(thread, thick - sunk, _STEEL)
        except OutOfRange as error:
            doubts.append(MakeDoubt(what=f"{name} jaw's screws", says=str(error), remedy=""))
            continue
        rows.append(
            Holes(
                letter="",
                says=f"Ø{thread.clear_mm:g} through, sunk Ø{thread.sink_mm:g} x {sunk:.4g} from the"
                f" gap, {thread.name} x {screw.length_mm:g}, {name} jaw",
                side=side,
                diameter_mm=thread.clear_mm,
                depth_mm=None,
                sink_mm=thread.sink_mm,
                sink_depth_mm=sunk,
                begins_mm=begins,
                places=[HolePlace(x_mm=x, y_mm=up, what=f"{name} jaw, screw") for x in at],
            )
        )
        bought.append(
            Bought(
                says=thread.screw(screw.length_mm),
                count=2,
                why=f"{name} jaw, into the vise: {screw.engaged_mm:.4g} mm in the thread",
            )
        )
        doubts += _at_the_edge(name, vise, thread, at, jaw_height_mm)
        near = _web(pair, to, at, up, thread.sink_mm / 2, jaw_height_mm)
        if near < _WEB_MM:
            doubts.append(
                MakeDoubt(
                    what=f"{name} jaw's screws",
                    says=f"{near:.1f} mm between their counterbore and the pocket; at least"
                    f" {_WEB_MM:g} mm",
                    remedy=f"the part {_WEB_MM - near:.1f} mm less deep between jaws, or jaws as"
                    " much higher",
                    places=[(x, begins) for x in at],
                )
            )
    return Across(tuple(rows), tuple(bought), tuple(doubts))


def _at_the_edge(
    name: str, vise: Vise, thread: Thread, at: Sequence[float], high: float
) -> list[MakeDoubt]:
    """Counterbores that break out at the jaw's foot, top or ends, or into one another."""
    radius, up = thread.sink_mm / 2, vise.jaw_screws_up_mm
    webs = {
        "the jaw's foot": up - radius,
        "the jaw's top": high - up - radius,
        "the jaw's end": at[0] - radius,
        "one another": at[1] - at[0] - 2 * radius,
    }
    where, least = min(webs.items(), key=lambda item: item[1])
    if least >= _WEB_MM:
        return []
    return [
        MakeDoubt(
            what=f"{name} jaw's screws",
            says=f"{least:.1f} mm between their counterbores and {where}; at least {_WEB_MM:g} mm",
            remedy=f"what “{vise.name}” says of its jaw screws, looked at again in the shop",
        )
    ]


def dowels(pair: Pair, to: Turned, vise: Vise, jaw_height_mm: float) -> Across:
    """Two across both jaws, pressed into the fixed one, sliding in the other; beside the pocket,
    clear of the screws. Refused with numbers where there is no room.
    """
    size, up = float(_DOWEL_MM), jaw_height_mm - pair.depth_mm - _WEB_MM - _DOWEL_MM / 2
    at = [_END_MM, vise.jaw_width_mm - _END_MM]
    screw = THREADS[vise.jaw_screw].sink_mm / 2 if vise.jaw_screw else 0.0
    beside = [vise.jaw_width_mm / 2 + s * vise.jaw_screws_apart_mm / 2 for s in (-1, 1)]
    for x, other in zip(at, beside, strict=True):
        if abs(x - other) < size / 2 + screw + _WEB_MM:
            up = max(up, vise.jaw_screws_up_mm + size / 2 + screw + _WEB_MM)
    near = _web(pair, to, at, up, size / 2, jaw_height_mm)
    most = jaw_height_mm - _WEB_MM - size / 2
    thick = [thick for _, _, thick, _ in _jaws(pair)]
    deep = _PRESSED * size
    slides = _SLIDES * size + pair.gap_mm
    if near < _WEB_MM or up > most or up < size or min(thick) < max(deep, slides) + _WEB_MM:
        return Across(
            doubts=(
                MakeDoubt(
                    what="dowels across",
                    says=f"no room for two of {size:g} mm: {max(near, 0.0):.1f} mm to the pocket,"
                    f" at least {_WEB_MM:g} mm",
                    remedy="wider or higher jaws, or aligned by a side stop or by a part (house"
                    " rule)",
                    wrong=False,
                ),
            )
        )
    long = next(n for n in DOWEL_LENGTHS if n >= deep + pair.gap_mm + _SLIDES * size - 1e-9)
    found = []
    for name, side, _, begins in _jaws(pair):
        fixed = name == "fixed"
        fit = "H7" if fixed else "F7"
        low, high = limits_mm(size, fit)
        depth = deep if fixed else long - deep + 1.0
        what = "dowel, pressed in" if fixed else "dowel, slides"
        found.append(
            Holes(
                letter="",
                says=f"Ø{size:g} {fit}, {depth:.4g} deep from the gap, {what}, {name} jaw",
                side=side,
                diameter_mm=size,
                depth_mm=depth,
                fit=fit,
                low_mm=low,
                high_mm=high,
                begins_mm=begins,
                places=[
                    HolePlace(x_mm=x, y_mm=round(up, 3), what=f"{name} jaw, dowel") for x in at
                ],
            )
        )
    item = Bought(
        says=f"Dowel ISO 8734 {size:g} m6 x {long:g}", count=2, why="across both jaws of each pair"
    )
    return Across(tuple(found), (item,))


def _jaws(pair: Pair) -> Sequence[tuple[str, str, float, float]]:
    """Of either jaw: its name, the side from which holes begin at the gap, how thick it is, and how
    far below that side the gap's face lies.
    """
    fixed = float(pair.fixed.bounds[2] - pair.fixed.bounds[0])
    moving = float(pair.moving.bounds[2] - pair.moving.bounds[0])
    # the piece's front is the moving jaw's back
    return (
        ("fixed", "front", fixed, moving + pair.gap_mm),
        ("moving", "back", moving, fixed + pair.gap_mm),
    )


def _web(
    pair: Pair, to: Turned, at: Sequence[float], up: float, radius: float, high: float
) -> float:
    """The least that stays between holes right across the jaws and what is milled from above."""
    least = float("inf")
    for layer, cutting in zip(pair.layers, pair.cuttings, strict=True):
        area: BaseGeometry = to.area(cutting.area)
        floor = high - pair.depth_mm + layer.low_mm
        for x in at:
            aside = LineString([(x, -1e4), (x, 1e4)]).distance(area)
            above = max(0.0, floor - up)
            least = min(least, (aside**2 + above**2) ** 0.5 - radius)
    return least
