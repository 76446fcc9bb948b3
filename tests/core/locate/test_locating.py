"""Locating against finite motions solved exactly, closed forms, analytic variance, and what does
not locate.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.locate.freedoms import (
    LocateRequest,
    Locator,
    Target,
    feature_shift,
    jacobian,
    locate,
    two_pins_tilt,
)

#: 3-2-1 on a block 60 x 40: three under it, two at the left, one in front.
BLOCK = [
    ("rest 1", (5, 5, 0), (0, 0, 1)),
    ("rest 2", (55, 5, 0), (0, 0, 1)),
    ("rest 3", (30, 35, 0), (0, 0, 1)),
    ("stop 1", (0, 8, 6), (1, 0, 0)),
    ("stop 2", (0, 32, 6), (1, 0, 0)),
    ("end", (30, 0, 6), (0, 1, 0)),
]


def _locators(given=BLOCK, **more) -> list[Locator]:
    return [
        Locator(name=name, point_mm=point, normal=normal, **more) for name, point, normal in given
    ]


def _moved(locators: list[Locator], errors: np.ndarray) -> tuple[np.ndarray, Rotation]:
    """Exactly: the rigid motion after which every face, moved with the part, passes through its
    locator's tip again.
    """
    points = np.array([item.point_mm for item in locators], dtype=float)
    normals = np.array([item.normal for item in locators], dtype=float)
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    tips = points + errors[:, None] * normals

    def gaps(q: np.ndarray) -> np.ndarray:
        back = Rotation.from_rotvec(q[3:]).inv().apply(tips - q[:3])
        return ((back - points) * normals).sum(axis=1)

    q = least_squares(gaps, np.zeros(6), xtol=1e-15, ftol=1e-15, gtol=1e-15).x
    return q[:3], Rotation.from_rotvec(q[3:])


@pytest.mark.parametrize("seed", range(5))
def test_features_move_as_the_exact_motion_of_the_part_has_it(seed):
    """Random locatings, small errors: the first-order answer against the exact one, whose rest is
    of second order.
    """
    rng = np.random.default_rng(seed)
    given = [
        (
            name,
            tuple(np.array(point) + rng.uniform(-3, 3, 3)),
            tuple(np.array(normal) + rng.uniform(-0.2, 0.2, 3)),
        )
        for name, point, normal in BLOCK
    ]
    locators, feature = (
        _locators(given),
        (rng.uniform(0, 60), rng.uniform(0, 40), rng.uniform(0, 25)),
    )
    errors = rng.uniform(-1, 1, 6)
    first = feature_shift(np.linalg.pinv(jacobian(locators)), feature) @ errors
    for size in (1e-3, 1e-4):
        shift, turn = _moved(locators, size * errors)
        exact = shift + turn.apply(feature) - np.array(feature)
        assert exact == pytest.approx(size * first, abs=50 * size**2)


def test_the_lever_of_two_stops_and_the_tilt_of_two_pins_in_closed_form():
    """One of two stops at distance L off by e turns the part by e / L; common practice. Play c over
    L: tilt c / L.
    """
    locators = _locators()
    locators[3] = locators[3].model_copy(update={"off_mm": 0.024, "spread": "fixed"})
    far = Target(name="far bore", point_mm=(50, 56, 6), direction=(1, 0, 0), tolerance_mm=0.1)
    across = Target(name="far bore, Y", point_mm=(50, 56, 6), direction=(0, 1, 0), tolerance_mm=0.1)
    found = locate(LocateRequest(locators=locators, targets=[far, across]))
    assert found.determined == "fully"
    turn = -0.024 / 24  # stop 1 is lower: the part turns clockwise seen from above
    assert found.targets[0].worst_mm == pytest.approx(abs(0.024 - 0.024 * (56 - 8) / 24))
    assert found.targets[1].worst_mm == pytest.approx(abs(turn) * (50 - 30))
    assert two_pins_tilt(0.02, 80) == pytest.approx(0.00025)
    # The gang: 0.010 in over 6 in is 0.10 degrees (common practice, no source).
    assert math.degrees(two_pins_tilt(0.010, 6)) == pytest.approx(0.10, abs=0.005)


def test_sampling_agrees_with_analytic_variance_and_never_passes_the_worst_case():
    for spread, deviation in (("normal", 1 / 3), ("uniform", 1 / math.sqrt(3))):
        locators = _locators(off_mm=0.01, spread=spread)
        target = Target(name="bore", point_mm=(45, 30, 20), direction=(1, 0, 0), tolerance_mm=0.05)
        found = locate(LocateRequest(locators=locators, targets=[target], samples=200_000)).targets[
            0
        ]
        shares = np.array([item.moves_mm for item in found.contributions])
        sigma = deviation * math.sqrt((shares**2).sum())
        assert found.cpk == pytest.approx(0.05 / (3 * sigma), rel=0.01)
        assert found.probable_mm == pytest.approx(min(3 * sigma, shares.sum()))
        assert found.within_mm <= found.worst_mm * (1 if spread == "uniform" else 1.5)
        assert list(shares) == sorted(shares, reverse=True)
    tight = Target(name="bore", point_mm=(45, 30, 20), direction=(1, 0, 0), tolerance_mm=sigma)
    share = locate(
        LocateRequest(locators=_locators(off_mm=0.01), targets=[tight], samples=200_000)
    ).targets[0]
    beyond = math.erfc(
        sigma / math.sqrt((shares**2).sum() / 9) / math.sqrt(2)
    )  # two tails of a normal distribution
    assert share.out_share == pytest.approx(beyond, abs=0.004)


def test_a_zone_is_a_diameter_and_known_errors_count_with_their_sign():
    locators = [item.model_copy(update={"off_mm": 0.01, "spread": "fixed"}) for item in _locators()]
    target = Target(name="bore", point_mm=(30, 20, 0), tolerance_mm=0.05)
    found = locate(LocateRequest(locators=locators, targets=[target])).targets[0]
    # All stops out by the same: the part shifts along X and Y by that, and does not turn.
    assert found.worst_mm == found.probable_mm == pytest.approx(2 * 0.01 * math.sqrt(2), rel=1e-6)
    assert found.within_mm == pytest.approx(found.worst_mm)
    assert found.cpk is None


@pytest.mark.parametrize(
    ("given", "free", "said"),
    [
        (BLOCK[:5], ["slide along Y"], "5 locators keep at most 5"),
        (
            [*BLOCK[:3], ("a", (0, 20, 6), (1, 0, 0)), ("b", (0, 20, 8), (1, 0, 0)), BLOCK[5]],
            None,
            "several locators keep the same freedom",
        ),
        (
            [(f"rest {k}", (10 * k, 10, 0), (0, 0, 1)) for k in range(6)],
            None,
            "all locators stand in one line",
        ),
    ],
)
def test_what_is_not_located_is_said_with_the_motion_that_is_left(given, free, said):
    found = locate(
        LocateRequest(
            locators=_locators(given),
            targets=[Target(name="bore", point_mm=(1, 1, 1), tolerance_mm=1)],
        )
    )
    assert found.determined == "under"
    assert said in found.sentence
    assert found.targets == []
    if free:
        assert found.free == free
    shifted = [
        (name, tuple(np.array(point) + (900, -700, 50)), normal) for name, point, normal in given
    ]
    again = locate(
        LocateRequest(
            locators=_locators(shifted),
            targets=[Target(name="bore", point_mm=(1, 1, 1), tolerance_mm=1)],
        )
    )
    assert len(again.free) == len(found.free)


def test_a_seventh_locator_is_one_too_many_and_directions_of_nothing_are_refused():
    target = Target(name="bore", point_mm=(1, 1, 1), tolerance_mm=1)
    more = locate(
        LocateRequest(
            locators=_locators([*BLOCK, ("rest 4", (30, 20, 0), (0, 0, 1))]), targets=[target]
        )
    )
    assert (more.determined, more.extra) == ("over", 1)
    assert "rocks" in more.sentence
    with pytest.raises(OutOfRange):
        locate(LocateRequest(locators=_locators([("a", (0, 0, 0), (0, 0, 0))]), targets=[target]))
    nowhere = target.model_copy(update={"direction": (0, 0, 0)})
    with pytest.raises(OutOfRange):
        locate(LocateRequest(locators=_locators(), targets=[nowhere]))
    with pytest.raises(OutOfRange):
        two_pins_tilt(0.01, 0)
