"""Screw torque to preload, long form against the short form and against the limits theory gives."""

from __future__ import annotations

import math

import pytest

from wedgecraft.core.clamping.screw import edge_clamp_preload, screw_preload_n
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.screw import SCREWS, EdgeClamp


@pytest.mark.parametrize("size", SCREWS)
def test_the_long_form_gives_the_usual_nut_factor(size):
    """T = K d F with K about 0.20 at friction 0.15 (Shigley, Mechanical Engineering Design, table
    of torque factors; from memory).
    """
    screw = SCREWS[size]
    force = screw_preload_n(screw, 10, 0.15)
    assert 10_000 / (force * screw.nominal_mm) == pytest.approx(0.20, abs=0.012)


@pytest.mark.parametrize(
    ("size", "friction", "force_kn", "torque_nm"),
    [
        ("M8", 0.08, 19.5, 18.5),
        ("M8", 0.12, 18.1, 24.6),
        ("M10", 0.12, 28.8, 48.0),
        ("M12", 0.12, 41.9, 84.0),
    ],
)
def test_force_and_torque_of_class_8_8_as_the_published_table_pairs_them(
    size, friction, force_kn, torque_nm
):
    """Assembly preload and tightening torque, VDI 2230 part 1, table A1 (from memory)."""
    assert screw_preload_n(SCREWS[size], torque_nm, friction) == pytest.approx(
        1000 * force_kn, rel=0.03
    )


@pytest.mark.parametrize("size", SCREWS)
def test_without_friction_the_work_of_one_turn_is_lead_times_force(size):
    screw = SCREWS[size]
    assert screw_preload_n(screw, 5, 0.0) * screw.pitch_mm == pytest.approx(2 * math.pi * 5000)


@pytest.mark.parametrize("size", SCREWS)
def test_thread_dimensions_agree_with_iso_724(size):
    """Pitch diameter d2 = d - 0.649519 P (ISO 724)."""
    screw = SCREWS[size]
    assert screw.pitch_diameter_mm == pytest.approx(
        screw.nominal_mm - 0.649519 * screw.pitch_mm, abs=6e-4
    )


def test_scatter_brackets_the_nominal_and_the_rating_is_kept():
    preload = edge_clamp_preload(EdgeClamp(torque_nm=14))
    nominal = screw_preload_n(SCREWS["M8"], 14, 0.13) * 0.7 * math.cos(math.radians(8))
    assert preload.low_n < nominal < preload.high_n
    with pytest.raises(OutOfRange, match="rated for 23 N·m") as caught:
        edge_clamp_preload(EdgeClamp(torque_nm=30))
    assert caught.value.field == "station.clamp.torque_nm"
