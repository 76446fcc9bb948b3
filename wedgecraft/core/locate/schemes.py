"""A station's locators: which six freedoms they keep, and what each of them, and the faces that
touch them, move the part by.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
import shapely

from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.locate.faces import DatumFace, axis_of, datum_face, made_in, raw_size
from wedgecraft.core.locate.freedoms import Locator, freedoms, jacobian
from wedgecraft.core.locate.in_jaws import play_in_jaws
from wedgecraft.core.locate.sources import Array, Source, shifting
from wedgecraft.core.records.feature import Direction, opposite
from wedgecraft.core.records.locating import Accuracy, Spread
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.contacts import stop_patch, touched_by_stop
from wedgecraft.core.station.patch import EVERYWHERE, Patch
from wedgecraft.core.station.pins import Pinned, Pins
from wedgecraft.core.station.vee import round_outline
from wedgecraft.core.workpiece.sitting import Sitting

#: How well an expanding pin or a stud centres, plus or minus; from memory.
CENTRES_MM = 0.005
#: How much a milled dimension varies beside the machine's positioning: tool wear and pressure;
#: common practice, no source.
MILLED_SIZE_MM = 0.01
#: Locators nearer together than this share of the part swing its far end by more than they are off
#: themselves, many times over.
_NEAR = 1 / 5
_SIDES: tuple[Direction, ...] = ("-X", "-Y", "-Z")


@dataclass(frozen=True)
class Located:
    """Locators in the frame of the part as it sits; ``free``: freedoms that nothing keeps,
    ``extra``: locators too many.

    ``sources``: by what moves the part; ``sentence``, ``warnings`` and ``notes`` in words;
    ``faces``: the part's faces that are datums, by side. ``pivot``: what a part turns about that
    nothing keeps from turning.
    """

    scheme: str
    locators: list[Locator]
    sources: list[Source]
    free: list[str]
    extra: int
    sentence: str
    warnings: list[str] = field(default_factory=list)
    faces: dict[Direction, DatumFace] = field(default_factory=dict)
    pivot: tuple[float, float] = (0.0, 0.0)
    notes: list[str] = field(default_factory=list)

    @property
    def turns(self) -> bool:
        """Can it turn about Z?"""
        return "turn about Z" in self.free


def located(view: OpView, sitting: Sitting, station: Station, member: int = 0) -> Located:
    """How a part of the station is located. Raises OutOfRange."""
    kind = view.station
    faces = {
        side: datum_face(sitting, side, *_touched(sitting, side, kind.stops.height_mm))
        for side in _SIDES
    }
    rests = _rests(station)
    around = round_outline(station.part)
    pins = kind.locating.pins(station.floor)
    extras: list[Source] = []
    warnings: list[str] = []
    notes: list[str] = []
    middle = station.part.centroid
    pivot = (float(middle.x), float(middle.y))
    touched: list[tuple[Locator, Direction | None]] = [(item, "-Z") for item in rests]
    if kind.element.locates:
        scheme = kind.element.locates
        touched += _centred(station, scheme)
        pivot = centres(station)[0]
        extras += [
            shifting("centring", "normal", CENTRES_MM * axis, f"±{CENTRES_MM:g} mm, from memory")
            for axis in np.eye(3)[:2]
        ]
    elif pins is not None:
        scheme = kind.locating.said
        touched += _on_pins(pins)
        notes += _pins_said(pins, kind.locating)  # type: ignore[arg-type]
    else:
        scheme = kind.locating.said
        touched += _stopped(station, sitting, kind.stops.height_mm, len(rests) < 3)
        extras += _of_size(view, sitting, station, faces, around is not None)
        nest = kind.element.nest
        if kind.locating.play_mm and nest is not None:
            extras += play_in_jaws(view, sitting, nest)
        elif kind.locating.play_mm:
            extras += _in_nest(kind.locating.play_mm, station)
    if kind.locating.caution:
        warnings.append(kind.locating.caution)
    if kind.sharing.against_neighbour and member:
        scheme += f", against {member} neighbour{'s' if member > 1 else ''}"
        size, spread, why = _size(view, sitting.face("-Y"))
        extras += [
            shifting("neighbours in the row", spread, (0, size, 0), f"neighbour {k + 1}: {why}")
            for k in range(member)
        ]
    locators = [locator for locator, _ in touched]
    free, extra, said = freedoms(locators)
    sources = _sources(touched, faces, view.accuracy, pins, pivot) + extras
    if "turn about Z" in free and around is None:
        warnings.append(
            "Nothing but friction keeps the part from turning about Z: features away from where it"
            " turns are not judged."
        )
    warnings += _near_together(locators, station)
    return Located(
        scheme,
        locators,
        sources,
        free,
        extra,
        _said(said, free, around is not None),
        warnings,
        faces,
        pivot,
        notes,
    )


def _touched(sitting: Sitting, side: Direction, reach_mm: float) -> tuple[float, float]:
    """Between which heights the station's corner touches the part on a side."""
    if side == "-Z":
        return -1.0, 1.0
    low, high = touched_by_stop(
        sitting, "left" if side == "-X" else "front", EVERYWHERE, reach_mm
    ).heights
    return (low, high) if high > low else (low - 0.5, high + 0.5)


def _said(said: str, free: Sequence[str], is_round: bool) -> str:
    if list(free) == ["turn about Z"] and is_round:
        return (
            "Five locators; the sixth freedom, its turn about Z, does not matter to a round part."
        )
    return said


def _rests(station: Station) -> list[Locator]:
    """The three points of the underside that span the most: what the plate's highest places come
    to; two of one that stands on an edge.
    """
    foot = station.floor if station.under is None else station.floor.intersection(station.under)
    hull = shapely.get_coordinates(foot.convex_hull.exterior)[:-1]
    across, far = _spans(hull)
    if across < _AN_EDGE_MM:
        return [_at(f"rest {k + 1}", (x, y, 0.0), (0, 0, 1)) for k, (x, y) in enumerate(far)]
    if len(hull) > 16:
        hull = hull[:: math.ceil(len(hull) / 16)]

    def area(three: tuple[int, ...]) -> float:
        (ax, ay), (bx, by), (cx, cy) = hull[list(three)]
        return abs(float((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)))

    best = max(
        combinations(range(len(hull)), 3),
        key=lambda three: (round(area(three), 6), [-k for k in three]),
    )
    return [_at(f"rest {k + 1}", (*hull[index], 0.0), (0, 0, 1)) for k, index in enumerate(best)]


#: What stands on less than this across stands on an edge; a round foot looks so wide.
_AN_EDGE_MM = 3.0


def _spans(hull: np.ndarray) -> tuple[float, list[tuple[float, float]]]:
    """How wide points lie across the line of the two farthest apart, and those two."""
    a, b = max(combinations(range(len(hull)), 2), key=lambda k: math.dist(hull[k[0]], hull[k[1]]))
    line = (hull[b] - hull[a]) / max(math.dist(hull[a], hull[b]), 1e-12)
    off = (hull - hull[a]) @ np.array([-line[1], line[0]])
    return float(np.ptp(off)), [(float(x), float(y)) for x, y in (hull[a], hull[b])]


def _at(name: str, point: Sequence[float], normal: Sequence[float]) -> Locator:
    x, y, z = map(float, point)
    a, b, c = map(float, normal)
    return Locator(name=name, point_mm=(x, y, z), normal=(a, b, c))


def _stopped(
    station: Station, sitting: Sitting, stop_height: float, upright: bool = False
) -> list[tuple[Locator, Direction | None]]:
    """``upright``: the long stop keeps it upright as well, where it stands on an edge."""
    high = min(stop_height, sitting.height_mm) / 2
    if station.vee is not None:
        pairs = zip(station.vee.touches, station.vee.normals, strict=True)
        return [
            (_at(f"flank {k + 1}", (*at, high), (*normal, 0)), None)
            for k, (at, normal) in enumerate(pairs)
        ]
    touching = (
        stop_patch(sitting, station.long_stop, "left", stop_height),
        stop_patch(sitting, station.end_stop, "front", stop_height),
    )
    long = [(0.0, y) for y in touching[0].ends]
    end = [(x, 0.0) for x in touching[1].ends]
    # else a round end is at the long stop, and the flat at the end stop keeps the part from turning
    if len(long) != 1 or len(end) != 2:
        x, y = np.mean(end, axis=0)
        end = [(float(x), float(y))]
    found: list[tuple[Locator, Direction | None]] = []
    sides: tuple[tuple[str, list[tuple[float, float]], Sequence[float], Direction], ...] = (
        ("long stop", long, (1, 0, 0), "-X"),
        ("end stop", end, (0, 1, 0), "-Y"),
    )
    for (name, points, normal, side), patch in zip(sides, touching, strict=True):
        names = [name] if len(points) == 1 else [f"{name}, near end", f"{name}, far end"]
        found += [
            (_at(each, (*at, _clamped(high, patch)), normal), side)
            for each, at in zip(names, points, strict=True)
        ]
    if upright and len(long) == 2:
        y = (long[0][1] + long[1][1]) / 2
        top = max(touching[0].heights)
        found.append((_at("long stop, top", (0.0, y, top), (1, 0, 0)), "-X"))
        low = min(touching[0].heights)
        found[:2] = [
            (item.model_copy(update={"point_mm": (*item.point_mm[:2], low)}), side)
            for item, side in found[:2]
        ]
    return found


def _clamped(height: float, patch: Patch) -> float:
    low, high = patch.heights
    return min(max(height, low), high)


def _pins_said(found: Pinned, pins: Pins) -> list[str]:
    """Sizes to make the pins to, and what their play lets the part do."""
    lines = []
    second = "second round pin" if found.both_round else "diamond pin"
    for name, one, hole in (
        ("round pin", found.fits[0], found.round),
        (second, found.fits[1], found.second),
    ):
        lines.append(
            f"{name} {one.pin_low_mm:.3f} to {one.pin_high_mm:.3f} mm ({hole.diameter_mm:.4g}"
            f" {pins.pin}) in {one.hole_low_mm:.3f} to {one.hole_high_mm:.3f} mm ({pins.hole}):"
            f" play {one.least_clearance_mm:.3f} to {one.most_clearance_mm:.3f} mm"
        )
    lines.append(
        f"with most play the part turns by up to ±{math.degrees(found.tilt_rad):.3f}° over"
        f" {found.apart_mm:.1f} mm (ISO 286)"
    )
    return lines


def centres(station: Station) -> list[tuple[float, float]]:
    """Where pins or studs centre a part that stands without stops."""
    return list(station.screws) or [(press.x, press.y) for press in station.members[0].presses]


def _centred(station: Station, scheme: str) -> list[tuple[Locator, Direction | None]]:
    (x, y), *more = centres(station)
    word = "pin" if "mandrel" in scheme else "stud"
    found: list[tuple[Locator, Direction | None]] = [
        (_at(f"{word}, X", (x, y, 0), (1, 0, 0)), None),
        (_at(f"{word}, Y", (x, y, 0), (0, 1, 0)), None),
    ]
    if more:
        dx, dy = more[-1][0] - x, more[-1][1] - y
        found.append((_at("second stud", (*more[-1], 0), (-dy, dx, 0)), None))
    return found


def _on_pins(found: Pinned) -> list[tuple[Locator, Direction | None]]:
    a, b = found.round, found.second
    made = [
        _at("round pin, X", (a.x_mm, a.y_mm, 0), (1, 0, 0)),
        _at("round pin, Y", (a.x_mm, a.y_mm, 0), (0, 1, 0)),
        _at("second pin, across", (b.x_mm, b.y_mm, 0), (*found.across, 0)),
    ]
    if found.both_round:
        made.append(
            _at("second pin, along", (b.x_mm, b.y_mm, 0), (-found.across[1], found.across[0], 0))
        )
    return [(item, None) for item in made]


def _in_nest(clearance: float, station: Station) -> list[Source]:
    x0, y0, x1, y1 = station.part.bounds
    why, middle = (
        f"{clearance:g} mm in all, and not pushed into a corner",
        np.array([(x0 + x1) / 2, (y0 + y1) / 2, 0.0]),
    )
    turn = np.array([0.0, 0.0, clearance / max(x1 - x0, y1 - y0)])
    return [
        shifting("play in the nest", "uniform", (clearance / 2, 0, 0), why),
        shifting("play in the nest", "uniform", (0, clearance / 2, 0), why),
        Source(
            "play in the nest",
            "uniform",
            -cross(turn, middle),
            turn,
            f"{why}: it turns until two corners touch",
        ),
    ]


def _size(view: OpView, face: Direction) -> tuple[float, Spread, str]:
    """How much the part varies from one face to the one across."""
    ops = [made_in(view.part, item, view.op.number) for item in (face, opposite(face))]
    if all(number is not None for number in ops):
        size = view.machine.positioning_mm + MILLED_SIZE_MM
        return (
            size,
            "normal",
            "both faces cut: tool wear and positioning, common practice, no source",
        )
    return raw_size(view.part, axis_of(face))


def _of_size(
    view: OpView,
    sitting: Sitting,
    station: Station,
    faces: dict[Direction, DatumFace],
    is_round: bool,
) -> list[Source]:
    """What a round's diameter does to where its middle stands, in a V or against two stops."""
    if not is_round or faces["-X"].range_mm == 0:
        return []
    size, spread, why = _size(view, sitting.face("-X"))
    moved = view.station.locating.shift_mm(size)
    if station.vee is not None and moved is not None:
        shift = (moved, 0, 0)
        return [
            shifting("diameter of the round", spread, shift, f"{why}; over 2 sin of half the V")
        ]
    return [
        shifting(
            "diameter of the round",
            spread,
            (size / 2, size / 2, 0),
            f"{why}; half of it along X and Y",
        )
    ]


def _sources(
    touched: Sequence[tuple[Locator, Direction | None]],
    faces: dict[Direction, DatumFace],
    accuracy: Accuracy,
    pins: Pinned | None,
    pivot: tuple[float, float],
) -> list[Source]:
    """What each locator moves the part by: its own place, its wear, the face that touches it, the
    play of a pin.
    """
    locators = [locator for locator, _ in touched]
    follows = about(locators, (*pivot, 0.0))
    found = []
    for k, (locator, side) in enumerate(touched):
        shift, turn = follows[:3, k], follows[3:, k]

        def add(
            name: str,
            spread: Spread,
            size: float,
            why: str,
            shift: Array = shift,
            turn: Array = turn,
        ) -> None:
            if size:
                found.append(Source(name, spread, size * shift, size * turn, why))

        add(
            "locators' place",
            "normal",
            accuracy.locator_mm,
            f"{locator.name}, ±{accuracy.locator_mm:g} mm",
        )
        if side != "-Z":
            add(
                "locators' wear",
                "uniform",
                accuracy.wear_mm,
                f"{locator.name}, ±{accuracy.wear_mm:g} mm",
            )
        if side is not None:
            face = faces[side]
            add("datum faces", face.spread, face.range_mm, f"{locator.name}: {face.why}")
        if pins is not None and "pin" in locator.name:
            one = pins.fits[0 if locator.name.startswith("round") else 1]
            add(
                "play on the pins",
                "uniform",
                one.most_clearance_mm / 2,
                f"{locator.name}: half of {one.most_clearance_mm:.3f} mm (ISO 286)",
            )
    return found


def about(locators: Sequence[Locator], middle: tuple[float, float, float]) -> Array:
    """What a unit error of each locator does, (6, locators): shift of the frame's origin and turn.
    A freedom that is left stays put, the part turning about ``middle``.
    """
    centre = np.array(middle)
    moved = [
        item.model_copy(update={"point_mm": tuple(np.array(item.point_mm) - centre)})
        for item in locators
    ]
    follows = np.linalg.pinv(jacobian(moved), rcond=1e-6)
    follows[:3] -= cross(follows[3:].T, centre).T
    return np.asarray(follows, dtype=np.float64)


def _near_together(locators: Sequence[Locator], station: Station) -> list[str]:
    long = [item for item in locators if item.name.startswith("long stop")]
    if len(long) < 2:
        return []
    apart = abs(long[1].point_mm[1] - long[0].point_mm[1])
    reach = float(station.part.bounds[3])
    if apart >= _NEAR * reach:
        return []
    times = reach / max(apart, 1e-6)
    return [
        f"The long stop touches over {apart:.1f} mm of {reach:.1f} mm: what it is off swings the"
        f" far end {times:.0f} times as far."
    ]
