"""The parts of a station and the clamps that hold them: where toes press, what stands there, where
it goes to let go.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import pairwise

from shapely.affinity import translate
from shapely.geometry import Polygon, box

from wedgecraft.core.clamping.sharing import BEHIND_MM
from wedgecraft.core.cutting.path import swept
from wedgecraft.core.ground.errors import OutOfRange, under
from wedgecraft.core.records.contact import Contact
from wedgecraft.core.records.element import Body, Press
from wedgecraft.core.records.screw import EdgeClamp
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.member import Member
from wedgecraft.core.station.nest import moving_half
from wedgecraft.core.station.touch import EPSILON_MM, Interval, touch
from wedgecraft.core.workpiece.sitting import Sitting


@dataclass(frozen=True)
class Clamped:
    """The parts of a station, its clamps' bodies, where those go when open, and their screws."""

    members: tuple[Member, ...]
    bodies: tuple[Body, ...]
    screws: tuple[tuple[float, float], ...]
    screw_height_mm: float
    opened: tuple[Body, ...] = ()
    seats: tuple[Contact, ...] = ()


def apart(sitting: Sitting, stop_mm: float) -> float:
    """Gap between parts side by side: for the stop of the next one, so thick, and for cutters that
    go round a part.
    """
    _, low, _, depth = sitting.outline.bounds
    beyond = []
    for number, (cut, guide) in enumerate(zip(sitting.cuts, sitting.guides, strict=True)):
        with under(f"cuts.{number}.", instead_of="cut."):
            areas = [] if cut.of.facing else swept(cut, guide, sitting.outline)
        beyond += [max(area.bounds[3] - depth, low - area.bounds[1]) for area in areas]
    return max(stop_mm + BEHIND_MM, *beyond, 0.0)


def clamped(sitting: Sitting, aim: float, kind: StopAndEdgeClamp, gap: float) -> Clamped:
    """The parts of the station, ``gap`` between those side by side, its clamps' bodies and their
    screws.
    """
    clamp, pressed_on = kind.clamp, pressed_at(sitting, kind)
    _, _, _, depth = sitting.outline.bounds
    width, right = float(pressed_on.bounds[2]), touch(pressed_on, "right")
    screw = max(clamp.length_mm / 2, clamp.wrench_diameter_mm / 2)
    how = kind.sharing.how
    if how == "a clamp each":
        pressed = kind.element.along_side_mm(clamp)
        places = () if pressed is None else _clamp_places(right, aim, kind, pressed)
        grip = kind.element.grip(sitting, clamp, kind.clamps, places)
        one = (Member(0.0, 0.0, False, grip.presses),)
        bodies = _pocketed(grip.bodies, sitting, kind, one)
        return Clamped(one, bodies, grip.screws, grip.screw_height_mm, grip.opened, grip.seats)
    if how == "double wedge between two":
        places = _clamp_places(right, aim, kind, clamp.width_mm)
        presses = tuple(Press(width, y, 1.0) for y in places)
        wedges = tuple(
            box(width, y - clamp.width_mm / 2, width + clamp.length_mm, y + clamp.width_mm / 2)
            for y in places
        )
        middle = (places[0] + places[-1]) / 2
        if any(abs(a + b - 2 * middle) > 1e-6 for a, b in zip(places, places[::-1], strict=True)):
            raise OutOfRange(
                "station.clamps",
                kind.clamps,
                "one, or clamps evenly about their middle: the part on the other side of a double"
                " wedge is turned half round",
            )
        pair = (
            Member(0.0, 0.0, False, presses),
            Member(2 * width + clamp.length_mm, 2 * middle, True, presses),
        )
        return _shared(pair, wedges, tuple((width + clamp.length_mm / 2, y) for y in places), clamp)
    if kind.clamps != 1:
        raise OutOfRange("station.clamps", kind.clamps, f"one: {how} means that the parts share it")
    _, low, _, _ = sitting.outline.bounds  # below what stops touch, where it overhangs them
    touching = kind.sharing.against_neighbour and how == "row between jaws"
    pitch = depth - low + (0.0 if touching else gap)
    if kind.element.nest is not None:
        pitch = math.ceil(pitch / _PITCH_MM - 1e-9) * _PITCH_MM
    count = kind.sharing.parts
    if how == "one clamp for two":
        middle = (depth + pitch) / 2
        reach = middle - clamp.width_mm / 2, middle + clamp.width_mm / 2
        near, far = _pressed(right, *reach), _pressed(right, reach[0] - pitch, reach[1] - pitch)
        if near is None or far is None:
            least = 2 * max(middle - right[-1][1], right[0][0] + pitch - middle) + 2 * _LEAST_TOE_MM
            raise OutOfRange(
                "station.clamp.width_mm",
                clamp.width_mm,
                f"at least {least:.1f} mm, so that the toe presses on both parts across the stop"
                " between them",
            )
        body = box(width, reach[0], width + clamp.length_mm, reach[1])
        both = (
            Member(0.0, 0.0, False, (Press(width, near, 1.0),)),
            Member(0.0, pitch, False, (Press(width, far, 1.0),)),
        )
        return _shared(both, (body,), ((width + screw, middle),), clamp)
    if kind.element.flat_mm is not None:
        return _between_jaws(sitting, kind, pitch, kind.element.flat_mm)
    ends = sorted({right[0][0], right[-1][1]})
    presses = tuple(Press(width, y, 1.0 / len(ends)) for y in ends)
    middle = (count - 1) * pitch / 2 + (ends[0] + ends[-1]) / 2
    back = width + kind.sharing.jaw_mm
    jaw = box(width, 0, back, (count - 1) * pitch + depth)
    body = box(
        back, middle - clamp.width_mm / 2, back + clamp.length_mm, middle + clamp.width_mm / 2
    )
    row = tuple(Member(0.0, number * pitch, False, presses) for number in range(count))
    return _shared(row, (jaw, body), ((back + screw, middle),), clamp)


def _between_jaws(sitting: Sitting, kind: StopAndEdgeClamp, pitch: float, jaw_mm: float) -> Clamped:
    """Parts side by side between the jaws of one vise, which stand amid them. Raises OutOfRange for
    more than the jaws are wide.
    """
    one = kind.element.grip(sitting, kind.clamp, 1, ())
    count, depth = kind.sharing.parts, float(sitting.touching.bounds[3])
    if kind.element.nest is not None:
        depth += 2 * kind.element.nest.wall_mm
    if (count - 1) * pitch + depth > jaw_mm + EPSILON_MM:
        fit = int((jaw_mm + EPSILON_MM - depth) // pitch) + 1
        raise OutOfRange(
            "station.sharing.row",
            count,
            f"at most {max(fit, 1)}: jaws {jaw_mm:g} mm wide hold parts {pitch:.1f} mm apart",
        )
    along = (count - 1) * pitch / 2

    def put(bodies: tuple[Body, ...]) -> tuple[Body, ...]:
        return tuple(
            Body(translate(body.polygon, 0, along), body.low_mm, body.high_mm) for body in bodies
        )

    row = tuple(Member(0.0, number * pitch, False, one.presses) for number in range(count))
    screws = tuple((x, y + along) for x, y in one.screws)
    bodies = _pocketed(put(one.bodies), sitting, kind, row)
    return Clamped(row, bodies, screws, one.screw_height_mm, put(one.opened))


def _pocketed(
    bodies: tuple[Body, ...], sitting: Sitting, kind: StopAndEdgeClamp, row: tuple[Member, ...]
) -> tuple[Body, ...]:
    """With the profile of every part cut into a soft jaw, the first of the bodies."""
    nest = kind.element.nest
    if nest is None:
        return bodies
    along = tuple(member.y_mm for member in row)
    jaw = moving_half(bodies[0].polygon, sitting, kind, nest, along)
    return (replace(bodies[0], polygon=jaw), *bodies[1:])


def pressed_at(sitting: Sitting, kind: StopAndEdgeClamp) -> Polygon:
    """What toes press on from the side, as high as they are; nothing stands there where an element
    presses elsewhere. Raises OutOfRange.
    """
    if not kind.element.is_toe:
        return sitting.touching
    found = sitting.between(*kind.clamp.toe_mm)
    if found.is_empty:
        raise OutOfRange(
            "station.clamp.toe_height_mm",
            kind.clamp.toe_height_mm,
            f"where the part is: it stands {sitting.height_mm:g} mm high",
        )
    return found


def _shared(
    members: tuple[Member, ...],
    polygons: tuple[Polygon, ...],
    screws: tuple[tuple[float, float], ...],
    clamp: EdgeClamp,
) -> Clamped:
    """Parts that share edge clamps, which stand as high as the clamp is."""
    bodies = tuple(Body(polygon, 0, clamp.height_mm) for polygon in polygons)
    return Clamped(members, bodies, screws, clamp.height_mm, bodies)


#: Pockets of one pair of jaws are a multiple of this apart: round figures on the drawing.
_PITCH_MM = 0.5
#: A toe that presses on less of a part than this slips off it.
_LEAST_TOE_MM = 2.0


def _pressed(touch: list[Interval], low: float, high: float) -> float | None:
    """Middle of what a toe from ``low`` to ``high`` presses on; nothing when that is too little."""
    met = [(max(a, low), min(b, high)) for a, b in touch if min(b, high) >= max(a, low)]
    if not met or met[-1][1] - met[0][0] < _LEAST_TOE_MM:
        return None
    return (met[0][0] + met[-1][1]) / 2


def _clamp_places(
    touch: list[Interval], aim: float, kind: StopAndEdgeClamp, width: float
) -> tuple[float, ...]:
    """Where toes press: spread over the side, each moved to where its whole width, or as much as
    there is, meets the part.
    """
    low, high = touch[0][0], touch[-1][1]
    count = kind.clamps
    pitch = max(width, kind.clamp.wrench_diameter_mm)
    room = high - low
    if count > 1 and room + width < count * pitch:
        raise OutOfRange(
            "station.clamps",
            count,
            f"the side across from the long stop touches over {room:.1f} mm; {count} clamps need"
            f" {count * pitch - width:.1f} mm",
        )
    if count == 1:
        targets = [aim]
    else:
        spread = max((count - 1) * pitch, room * (count - 1) / count)
        targets = [
            (low + high - spread) / 2 + spread * index / (count - 1) for index in range(count)
        ]
    places = tuple(
        min((_on(interval, target, width) for interval in touch), key=lambda y: abs(y - target))
        for target in targets
    )
    if any(after - before < pitch - EPSILON_MM for before, after in pairwise(places)):
        raise OutOfRange(
            "station.clamps",
            count,
            "the side across from the long stop has too little to press on; fewer clamps, or"
            " narrower ones",
        )
    return places


def _on(interval: Interval, target: float, width: float) -> float:
    """The place on an interval nearest to the target with the whole toe on the part, or in the
    middle of a short interval.
    """
    low, high = interval
    return (
        (low + high) / 2
        if high - low < width
        else min(max(target, low + width / 2), high - width / 2)
    )
