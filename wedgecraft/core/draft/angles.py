"""How else a part could stand between its soft jaws: every angle worth trying, judged as a plan
judges it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from wedgecraft.core.draft.turned import op_turned
from wedgecraft.core.explain import reasons
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.hold.limit import NotSeated
from wedgecraft.core.hold.verdict import Holding
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.make.pair import pair_of
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument, Route
from wedgecraft.core.records.piece import AngleTried
from wedgecraft.core.records.view import OpView, views_of
from wedgecraft.core.station.cut_loads import cut_loads
from wedgecraft.core.station.nest import profile
from wedgecraft.core.station.stood import stood

#: Edges shorter than this share of the width are not laid along the jaws; at most so many are.
_SHORT, _MOST = 0.15, 4
#: Widths within this share are one; a part is round where all of them are.
_ALIKE = 0.01
#: Angles nearer together than this are one, degrees.
_ONE = 0.5
#: The best so many are offered.
_OFFERED = 3
#: Of hold, this share more is not worth a millimetre of grip less.
_AS_GOOD = 0.05


@dataclass(frozen=True)
class Turned:
    """An angle with the document as it then is."""

    tried: AngleTried
    document: JobDocument


def angles(document: JobDocument, number: int) -> list[Turned]:
    """How the op of a setup held in soft jaws stands now, then the best others, the best first.
    Nothing for a setup without soft jaws, or one that holds several ops. Raises OutOfRange where
    it cannot be judged as it is.
    """
    route = document.route
    if route is None or not 1 <= number <= len(route.setups):
        return []
    request = setup_request(document, number)
    if request is None or len(route.setups[number - 1].holds) != 1:
        return []
    (view,) = views_of(request)
    nest = view.station.element.nest
    if nest is None:
        return []
    held = Polygon(profile(stood(view), view.station).exterior)
    now = _judged(document, number, 0.0, "as it stands")
    found = [_judged(document, number, turn, why) for turn, why in _worth(held)]
    standing = [item for item in found if not item.tried.refused]
    return [now, *sorted(standing, key=_worse)[:_OFFERED]]


def _worse(item: Turned) -> tuple[float, float, float]:
    """What holds least to spare last; of what holds as well, what grips less."""
    tried = item.tried
    spare = tried.factor / tried.needed
    steps = math.floor(math.log(max(spare, 1e-3)) / math.log1p(_AS_GOOD))
    return -min(steps, math.log(2) / math.log1p(_AS_GOOD)), -tried.grip_mm, tried.along_mm


def _worth(held: Polygon) -> list[tuple[float, str]]:
    """Turns of the part, degrees, that lay an edge along or square to the jaws' travel, its least
    or greatest width across them, or an axis of symmetry along it; none twice.
    """
    found: list[tuple[float, str]] = []
    for turn, why in _turns(held):
        own = (turn + 90) % 180 - 90
        apart = [abs((own - other + 90) % 180 - 90) for other, _ in [(0.0, ""), *found]]
        if min(apart) > _ONE:
            found.append((round(own, 3), why))
    return found


def _turns(held: Polygon) -> Iterator[tuple[float, str]]:
    hull = shapely.get_coordinates(held.convex_hull.exterior)
    wide = [
        (float(np.ptp(hull @ (math.cos(a), math.sin(a)))), math.degrees(a))
        for a in np.radians(np.arange(180))
    ]
    least, most = min(wide), max(wide)
    if most[0] - least[0] < _ALIKE * most[0]:
        return
    corners = shapely.get_coordinates(held.simplify(0.05).exterior)
    ways = np.diff(corners, axis=0)
    long = np.hypot(*ways.T)
    order = [k for k in np.argsort(-long)[:_MOST] if long[k] > _SHORT * most[0]]
    for k in order:
        turn = -math.degrees(math.atan2(ways[k][1], ways[k][0]))
        yield turn + 90, f"its edge of {long[k]:.4g} mm against a jaw"
        yield turn, f"its edge of {long[k]:.4g} mm along the jaws' travel"
    tried = [0.0, *(math.degrees(math.atan2(*ways[k])) for k in order)]
    near = [wide[round(turn + more) % 180][0] for turn in tried for more in (0, 90)]
    for width, at, what in ((*least, "least"), (*most, "greatest")):
        if min(abs(width - other) for other in near) > _ALIKE * width:
            yield -at, f"its {what} width, {width:.4g} mm, between the jaws"
    if (axis := _mirrored(held)) is not None:
        yield -axis, "its axis of symmetry along the jaws' travel"
        yield 90 - axis, "its axis of symmetry along the jaws"


def _mirrored(held: Polygon) -> float | None:
    """Which way an axis of symmetry goes, degrees; nothing where there is none. It is one of the
    main axes of the area, or the area has so many that any width is one.
    """
    middle = np.array(held.centroid.coords[0])
    points = shapely.get_coordinates(held.segmentize(1.0).exterior) - middle
    _, vectors = np.linalg.eigh(points.T @ points)
    for way in vectors.T:
        flip = 2 * np.outer(way, way) - np.eye(2)
        other = shapely.transform(held, lambda p, flip=flip: (p - middle) @ flip.T + middle)
        if other.symmetric_difference(held).area < 1e-3 * held.area:
            return math.degrees(math.atan2(way[1], way[0]))
    return None


def _judged(document: JobDocument, number: int, more_deg: float, why: str) -> Turned:
    """With the part put in so much further round."""
    holds = (document.route or Route(setups=[])).setups[number - 1].holds[0]
    op = document.job.parts[holds.part].ops[holds.op]
    turn = round((op.turn_deg + more_deg) % 360, 3)
    other = document
    if more_deg:
        changed = op_turned(document.job.parts[holds.part], op, turn)
        job = document.job.with_op(holds.part, holds.op, changed)
        other = document.model_copy(update={"job": job, "result": None})
    none = AngleTried(turn_deg=turn, why=why, needed=1.0)
    try:
        request = setup_request(other, number)
        if request is None:
            raise OutOfRange("form", "", "a form that can be planned")
        (view,) = views_of(request)
        return Turned(_measured(none, view), other)
    except (OutOfRange, NotSeated) as error:
        if not more_deg:
            raise
        return Turned(none.model_copy(update={"refused": error.allowed}), other)


def _measured(none: AngleTried, view: OpView) -> AngleTried:
    sitting = stood(view)
    kind = ready(view)
    for wrong in [*reasons.of_grip(view), *reasons.of_tolerance(view, kind.locating)]:
        return none.model_copy(update={"refused": wrong.why})
    holding = Holding(view, kind.station, sitting, cut_loads(view, sitting))
    pair = pair_of(kind)
    if pair is None:
        raise OutOfRange("form.jaws", "hard", "soft jaws")
    x0, y0, x1, y1 = profile(sitting, view.station).bounds
    return none.model_copy(
        update={
            "factor": round(holding.weakest.result.factor, 3),
            "needed": holding.needed,
            "fixed_mm": round(pair.kept(0), 1),
            "moving_mm": round(pair.kept(1), 1),
            "across_mm": round(x1 - x0, 2),
            "along_mm": round(y1 - y0, 2),
        }
    )
