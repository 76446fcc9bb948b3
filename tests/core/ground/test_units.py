"""Quantities as people write them. Factors: inch 25.4 mm exactly; pound-force 4.4482216152605 N
(NIST SP 811).
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wedgecraft.core.ground.units import UNITS, parse


@pytest.mark.parametrize(
    ("kind", "text", "value"),
    [
        ("length", "2.5in", 63.5),
        ("length", "63.5", 63.5),
        ("length", '1 1/4"', 31.75),
        ("length", "1-1/4 in", 31.75),
        ("length", "3/8in", 9.525),
        ("length", "20 thou", 0.508),
        ("length", "0.020", 0.020),
        ("length", "0,5 mm", 0.5),
        ("length", "-3", -3.0),
        ("length", "5 µm", 0.005),
        ("torque", "14 N·m", 14.0),
        ("torque", "100 in·lb", 11.2984829),
        ("torque", "10 ft-lb", 13.5581795),
        ("force", "1.2 kN", 1200.0),
        ("force", "100 lbf", 444.82216152605),
        ("mass", "51 lb", 23.13321),
        ("temperature_difference", "9 °F", 5.0),
    ],
)
def test_known_writings(kind, text, value):
    assert parse(kind, text) == pytest.approx(value, rel=1e-7)


@pytest.mark.parametrize(
    "text", ["", "abc", "5 kg", "1/0 in", "1 2 3", "nan", "inf", "1e999", "--3", True, None, [1]]
)
def test_what_is_no_length_is_refused_in_words(text):
    with pytest.raises(ValueError, match=r"length|unit|zero|large"):
        parse("length", text)


@given(st.floats(-1e5, 1e5, allow_nan=False), st.sampled_from(sorted(UNITS["length"])))
def test_every_length_unit_is_its_factor(value, unit):
    assert parse("length", f"{value:.9f} {unit}") == pytest.approx(
        round(value, 9) * UNITS["length"][unit], rel=1e-12, abs=1e-12
    )
