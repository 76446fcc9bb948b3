"""Locating: six locators fix a part; what each one is off, or the part's own datum faces, moves
every feature.

A locator touches a face of the part at a point and keeps it from moving along the face's normal. To
first order the part's six freedoms q (shift of the frame's origin, rotation) follow from what the
locators are off along their normals: ``G q = e``, rows of G being ``(n, p x n)``. A feature at f
then moves by ``t + r x f``. Theory: any text on kinematic fixture analysis, e.g. Asada and By,
1985.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length
from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.records.locating import SIGMAS, Spread

Array = NDArray[np.float64]
Vector = tuple[float, float, float]


_SEED = 20_250_301
#: Freedoms held this much worse than the best one, tilts measured over the part's own size, are as
#: good as free.
_NEARLY = 1e-4
_NAMES = (
    "slide along X",
    "slide along Y",
    "lift along Z",
    "turn about X",
    "turn about Y",
    "turn about Z",
)


class Locator(Document):
    """Touches the part at ``point_mm``; ``normal`` points from the locator into the part.

    ``off_mm``: plus-or-minus range of locator and datum face along the normal. Normal: the range is
    three standard deviations. ``fixed``: known, counts with its sign.
    """

    name: Text
    point_mm: Vector
    normal: Vector
    off_mm: Annotated[Length, Field(ge=-10, le=10)] = 0.0
    spread: Spread = "normal"


class Target(Document):
    """A feature: where it is, in which direction its place matters (nothing: as a diameter in X and
    Y), and its tolerance.

    With a direction the tolerance is plus or minus; without one it is the diameter of the zone (ISO
    1101).
    """

    name: Text
    point_mm: Vector
    direction: Vector | None = None
    tolerance_mm: Annotated[Length, Field(gt=0, le=100)]


class LocateRequest(Document):
    """Input of ``compute locate``: locators, the features that hang on them, and how many samples
    to draw.
    """

    locators: Annotated[list[Locator], Field(min_length=1, max_length=60)]
    targets: Annotated[list[Target], Field(min_length=1, max_length=200)]
    samples: Annotated[int, Field(ge=100, le=1_000_000)] = 20_000


class Share(Document):
    """One locator's part in a feature: what it moves it by at the end of its range."""

    locator: str
    moves_mm: float


class TargetResult(Document):
    """Worst case, root of the sum of squares of three standard deviations (99.7 in 100 where all
    are normal; never over the worst), and what sampling gives; ``contributions`` ranked.

    Of a diameter all are diameters. ``out_share``: samples out of tolerance; ``cpk``: of a
    direction, nothing for a diameter.
    """

    name: str
    worst_mm: float
    probable_mm: float
    within_mm: float
    out_share: float
    cpk: float | None
    contributions: list[Share]


class LocateResult(Document):
    """``free``: motions nothing keeps; ``extra``: locators beyond the six that a part needs, which
    make it rock or spring.
    """

    determined: Literal["fully", "under", "over"]
    sentence: str
    free: list[str]
    extra: int
    targets: list[TargetResult]


def jacobian(locators: list[Locator]) -> Array:
    """Rows ``(n, p x n)``, shape (locators, 6). Raises OutOfRange for a locator without a
    direction.
    """
    rows = []
    for locator in locators:
        normal = np.array(locator.normal, dtype=float)
        length = float(np.linalg.norm(normal))
        if length == 0:
            raise OutOfRange(
                f"locators.{locator.name}.normal", locator.normal, "a direction other than zero"
            )
        normal /= length
        rows.append(np.concatenate([normal, cross(locator.point_mm, normal)]))
    return np.array(rows)


def locate(request: LocateRequest) -> LocateResult:
    """Judge the locating and every feature that hangs on it. A part that is free to move has no
    features judged: it says how it moves.

    Raises OutOfRange.
    """
    free, extra, said = freedoms(request.locators)
    if free:
        return LocateResult(determined="under", sentence=said, free=free, extra=extra, targets=[])
    # More than six: the part settles where it is least off, as between springs of one stiffness.
    follows = np.asarray(np.linalg.pinv(jacobian(request.locators)), dtype=np.float64)
    samples = _samples(request)
    targets = [_judge(target, follows, request, samples) for target in request.targets]
    return LocateResult(
        determined="over" if extra else "fully",
        sentence=said,
        free=[],
        extra=extra,
        targets=targets,
    )


def freedoms(locators: list[Locator]) -> tuple[list[str], int, str]:
    """Motions that no locator keeps, in words, how many locators are more than are needed, and a
    sentence that tells.

    Raises OutOfRange for a locator without a direction.
    """
    matrix = jacobian(locators)
    free, extra = _kept(locators, matrix)
    if free:
        more = f" and {len(free) - 1} more ways" if len(free) > 1 else ""
        return free, extra, f"The part can still {free[0]}{more}{_why(locators)}."
    if extra:
        return (
            free,
            extra,
            (
                f"{len(locators)} locators for six freedoms: {extra} too many, so the part rocks on"
                " the highest or is sprung down."
            ),
        )
    return free, extra, "Six locators, six freedoms: the part sits in one way."


def _kept(locators: list[Locator], matrix: Array) -> tuple[list[str], int]:
    points = np.array([locator.point_mm for locator in locators], dtype=float)
    middle, size = points.mean(axis=0), max(1.0, float(np.ptp(points, axis=0).max()))
    # About the middle of the locators and over their own size, so that where the frame is and in
    # which units does not matter.
    arms = cross(points - middle, matrix[:, :3]) / size
    _, values, ways = np.linalg.svd(np.concatenate([matrix[:, :3], arms], axis=1))
    held = int((values > _NEARLY * max(values.max(), 1e-12)).sum())
    return [_motion(way) for way in ways[held:]], len(locators) - held


def _motion(way: Array) -> str:
    return _NAMES[int(np.argmax(np.abs(way)))]


def _why(locators: list[Locator]) -> str:
    points = np.array([locator.point_mm for locator in locators])
    if len(locators) > 2 and np.linalg.matrix_rank(points - points.mean(axis=0), tol=1e-6) < 2:
        return ": all locators stand in one line"
    if len(locators) < 6:
        return f": {len(locators)} locators keep at most {len(locators)} of six freedoms"
    return ": several locators keep the same freedom"


def feature_shift(follows: Array, point: Vector) -> Array:
    """What each locator's error does to a point, shape (3, locators): ``t + r x f``."""
    f = np.array(point, dtype=float)
    turned = cross(follows[3:].T, f).T
    shift: Array = follows[:3] + turned
    return shift


def _samples(request: LocateRequest) -> Array:
    rng = np.random.default_rng(_SEED)
    off = np.array([locator.off_mm for locator in request.locators])
    shape = (request.samples, len(off))
    drawn = {
        "uniform": rng.uniform(-1, 1, shape),
        "normal": rng.normal(0, 1 / 3, shape),
        "fixed": np.ones(shape),
    }
    spread = np.array([[locator.spread == name for locator in request.locators] for name in drawn])
    errors: Array = off * sum(
        values * chosen for values, chosen in zip(drawn.values(), spread, strict=True)
    )
    return errors


def _judge(target: Target, follows: Array, request: LocateRequest, samples: Array) -> TargetResult:
    shift = feature_shift(follows, target.point_mm)
    off = np.array([locator.off_mm for locator in request.locators])
    known = np.array([locator.spread == "fixed" for locator in request.locators])
    sigmas = np.array([SIGMAS[locator.spread] for locator in request.locators])[~known]
    if target.direction is not None:
        way = np.array(target.direction, dtype=float)
        if not way.any():
            raise OutOfRange(
                f"targets.{target.name}.direction",
                target.direction,
                "a direction other than zero, or none",
            )
        each = (way / np.linalg.norm(way)) @ shift * off
        sure, varying = float(each[known].sum()), each[~known]
        worst = abs(sure) + float(np.abs(varying).sum())
        probable = min(worst, abs(sure) + math.sqrt(float(((sigmas * varying) ** 2).sum())))
        moved = samples / np.where(off == 0, 1, off) @ each
        deviation, mean = float(moved.std()), float(moved.mean())
        room = target.tolerance_mm - abs(mean)
        cpk = room / (3 * deviation) if deviation > 0 else None
        far, limit = np.abs(moved), target.tolerance_mm
        shares = np.abs(each)
    else:
        pair = shift[:2] * off
        sure_at = pair[:, known].sum(axis=1)
        varying_at = pair[:, ~known]
        ends = np.abs(sure_at) + np.abs(varying_at).sum(axis=1)
        likely = np.minimum(
            ends, np.abs(sure_at) + np.sqrt(((sigmas * varying_at) ** 2).sum(axis=1))
        )
        worst, probable = 2 * float(np.linalg.norm(ends)), 2 * float(np.linalg.norm(likely))
        far, limit, cpk = (
            2 * np.linalg.norm(samples / np.where(off == 0, 1, off) @ pair.T, axis=1),
            target.tolerance_mm,
            None,
        )
        shares = 2 * np.linalg.norm(pair, axis=0)
    ranked = sorted(zip(request.locators, shares, strict=True), key=lambda item: -item[1])
    return TargetResult(
        name=target.name,
        worst_mm=worst,
        probable_mm=probable,
        within_mm=float(np.quantile(far, 0.997)),
        out_share=float((far > limit).mean()),
        cpk=cpk,
        contributions=[
            Share(locator=locator.name, moves_mm=float(moves)) for locator, moves in ranked
        ],
    )


def two_pins_tilt(play_mm: float, apart_mm: float) -> float:
    """How far a part can turn on a round and a diamond pin, radians each way: ``c / L`` in all, the
    play at both being c.

    ``play_mm``: the clearance on diameter at each. Each pin may lie at either side of its hole,
    half the clearance off, so that the ends go opposite ways by half each. Raises OutOfRange.
    """
    if apart_mm <= 0:
        raise OutOfRange("apart_mm", apart_mm, "pins that stand apart")
    return play_mm / apart_mm
