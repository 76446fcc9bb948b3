"""The section of a part that its clamps press on from the sides: how it gives, and how out of round
the bores come that are cut while it is pressed.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy.optimize import nnls
from shapely.geometry import Point, Polygon

from wedgecraft.core.ground.limits import FigureInput
from wedgecraft.core.hold.squeeze import Push, Squeezed, squeezed
from wedgecraft.core.records.hold import BoreSqueezed, Give
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.contacts import stop_patch
from wedgecraft.core.station.nest import Touch, touches
from wedgecraft.core.workpiece.sitting import Sitting

#: The limit of a bore's change: this share of its tolerance, house rule.
SHARE = 0.5
#: A bore is cut in this op where there was material this much inside its wall.
_INSIDE = 0.99


def section_gives(
    view: OpView, sitting: Sitting, station: Station, force_n: float
) -> tuple[list[Give], list[BoreSqueezed]]:
    """What clamps at the sides do with ``force_n`` a part, its preload at the high end; nothing
    where they press elsewhere.
    """
    pressed = _pressed(view, sitting, station, force_n)
    if pressed is None:
        return [], []
    section, z, height, pushes, count = pressed
    try:
        found = squeezed(section, pushes, height, view.part.material.youngs_mpa)
    except ValueError:
        return [], []
    return [_give(view, found, pushes, count, height)], _bores(view, sitting, found, pushes, z)


def too_squeezed(bores: list[BoreSqueezed], torque_nm: float | None) -> list[str]:
    """What to do about bores that change by more than they may; ``torque_nm``: of the screw, where
    one presses.
    """
    found = []
    for bore in bores:
        if not bore.limit_mm or bore.changes_mm <= bore.limit_mm:
            continue
        share = bore.limit_mm / bore.changes_mm
        less = f"at most {torque_nm * share:.1f} N·m" if torque_nm else "less force"
        found.append(
            f"{bore.feature} springs by {bore.changes_mm:.3f} mm when the clamps let go, more than"
            f" half its tolerance, {bore.limit_mm:.3f} mm: {less}, press where it is stiffer, or"
            " from above."
        )
    return found


def _pressed(
    view: OpView, sitting: Sitting, station: Station, force_n: float
) -> tuple[Polygon, float, float, list[Push], int] | None:
    """The section when the op is done, where and how high it is, and what pushes on it: the clamps
    first, so many, then what holds against them.
    """
    presses = [item for item in station.members[0].presses if item.normal[0] < -0.5]
    if not presses:
        return None
    clamp = view.station.clamp
    z = presses[0].z if presses[0].z is not None else sum(clamp.toe_mm) / 2
    z = min(z, sitting.after.box[5] - 1e-3)
    section = sitting.left_at(z)
    if section is None:
        return None
    pushes = [
        Push((press.x, press.y), (-1.0, 0.0), press.share * force_n, clamp.width_mm)
        for press in presses
    ]
    if view.station.sharing.how == "row between jaws":
        middle = sum(press.share * press.y for press in presses)
        pushes = [Push((presses[0].x, middle), (-1.0, 0.0), force_n, 1e4)]
    nest = view.station.element.nest
    if nest is not None:
        pushes = _along(touches(sitting, view.station, nest, "moving"), force_n)
        holds = _along(touches(sitting, view.station, nest, "fixed"), 0.0)
    else:
        holds = _held_by(view, sitting, station)
    if not holds:
        return None
    middle_x, middle_y = section.centroid.coords[0]
    size = math.sqrt(section.area)

    def wrench(push: Push) -> tuple[float, float, float]:
        (x, y), (nx, ny) = push.at, push.way
        return nx, ny, ((x - middle_x) * ny - (y - middle_y) * nx) / size

    wanted = -np.sum([np.array(wrench(push)) * push.force_n for push in pushes], axis=0)
    forces, _ = nnls(np.array([wrench(push) for push in holds]).T, wanted)
    every = pushes + [
        Push(push.at, push.way, float(force), push.wide_mm)
        for push, force in zip(holds, forces, strict=True)
        if force > 1e-6 * force_n
    ]
    levels = [0.0, *sitting.after.levels, sitting.after.box[5]]
    low = max((level for level in levels if level <= z), default=0.0)
    high = min((level for level in levels if level > z), default=sitting.height_mm)
    return section, z, high - low, every, len(pushes)


def _along(pieces: Sequence[Touch], force_n: float) -> list[Push]:
    """What a soft jaw presses on in one level, its force spread as ``nest_contacts`` does."""
    one = [item for item in pieces if item.at[2] == pieces[0].at[2]]
    total = sum(item.length_mm * item.faces[0] ** 2 for item in one)
    return [
        Push(
            item.at[:2],
            (-item.faces[0], -item.faces[1]),
            force_n * item.length_mm * abs(item.faces[0]) / total,
            item.length_mm,
        )
        for item in one
    ]


def _held_by(view: OpView, sitting: Sitting, station: Station) -> list[Push]:
    """Stops, a V or pins, with no force yet: each half of a stop by itself."""
    if station.vee is not None:
        pairs = zip(station.vee.touches, station.vee.normals, strict=True)
        return [Push(at, way, 0.0) for at, way in pairs]
    found = []
    for stop, way, axis in ((station.long_stop, (1.0, 0.0), 1), (station.end_stop, (0.0, 1.0), 0)):
        if stop.is_empty or not view.station.stopped:
            continue
        side = "left" if axis == 1 else "front"
        patch = stop_patch(sitting, stop, side, view.station.stops.height_mm)  # type: ignore[arg-type]
        low, high = patch.along
        half = (high - low) / 2
        places = [low + half / 2, high - half / 2] if len(patch.ends) == 2 else [low + half]
        for place in places:
            at = (0.0, place) if axis == 1 else (place, 0.0)
            found.append(Push(at, way, 0.0, half))
    return found


def _give(view: OpView, found: Squeezed, pushes: list[Push], count: int, height_mm: float) -> Give:
    """Of the clamp that moves farthest, against what holds there."""
    held = pushes[count:]
    total = sum(push.force_n for push in held) or 1.0
    back = sum(
        moves * push.force_n for moves, push in zip(found.gives_mm[count:], held, strict=True)
    )
    k = int(np.argmax(found.gives_mm[:count]))
    return Give(
        id="give_section",
        label=f"Part squeezed under the clamp at Y {pushes[k].at[1]:.1f}",
        digits=4,
        unit="mm",
        value=found.gives_mm[k] + back / total,
        counted=False,
        formula="plane stress in the section at the clamp's height, when the op is done",
        source="finite elements, six-node triangles; any text",
        inputs=[
            _given("F", pushes[k].force_n, "N", "this plan, at the high end"),
            _given("height of the section", height_mm, "mm", "workpiece"),
            _given("E", view.part.material.youngs_mpa, "MPa", view.part.material.source),
        ],
    )


def _given(name: str, value: float, unit: str, source: str) -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)


def _bores(
    view: OpView, sitting: Sitting, found: Squeezed, pushes: list[Push], z: float
) -> list[BoreSqueezed]:
    """The bores that this op cuts; with the tightest tolerance of what the drawing asks of each."""
    answers = []
    before = sitting.before.slice(z)
    for bore in found.bores:
        x, y = bore.middle
        rim = Point(x + _INSIDE * bore.diameter_mm / 2, y)
        if not before.contains(rim):
            continue  # there already: what is elastic springs back with it
        mine = [
            item
            for item in view.judged
            if item.of.zone
            and math.dist(sitting.place(item.x_mm, item.y_mm, item.z_mm or 0.0)[:2], (x, y))
            < bore.diameter_mm / 4
        ]
        asked = min(mine, key=lambda item: item.tolerance_mm, default=None)
        answers.append(
            BoreSqueezed(
                feature=asked.name if asked else "",
                diameter_mm=bore.diameter_mm,
                x_mm=x,
                y_mm=y,
                changes_mm=bore.changes_mm,
                limit_mm=SHARE * asked.tolerance_mm if asked else None,
                force_n=sum(push.force_n for push in pushes if push.way[0] < 0),
            )
        )
    return answers
