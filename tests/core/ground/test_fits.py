"""Fits against an independent package's table over all its sizes and classes, and against what
every handbook prints.
"""

from __future__ import annotations

import importlib.util
from pathlib import Path

import pytest

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.fits import HOLES, SHAFTS, FitRequest, fit, limits_mm


def _table() -> dict[str, dict[str, list[str]]]:
    """The package's data; the package itself only runs from its own folder."""
    found = importlib.util.find_spec("isofits")
    assert found is not None and found.origin is not None  # noqa: PT018
    spec = importlib.util.spec_from_file_location(
        "isofits_data", Path(found.origin).parent / "data.py"
    )
    assert spec is not None and spec.loader is not None  # noqa: PT018
    data = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(data)
    return {"hole": data.hole_data, "shaft": data.shaft_data}


#: Misprints of that table: 43 + 25 is 68, and 2 less a grade of 9 is -7.
MISPRINTS = {("K6", "10"), ("f6", "140"), ("f6", "160"), ("f6", "180")}


#: Classes that package does not offer; the preferred fits below and the grades it does offer cover
#: their tables.
NOT_THERE = {"E8", "d9", "e8"}


@pytest.mark.parametrize("name", [name for name in (*HOLES, *SHAFTS) if name not in NOT_THERE])
def test_limits_agree_with_an_independent_package_at_every_size_it_has(name):
    table = _table()["hole" if name[0].isupper() else "shaft"]
    for over, up_to, limits in zip(table["over"], table["inc."], table[name], strict=True):
        if (name, up_to) in MISPRINTS:
            continue
        high, low = (float(value) / 1000 for value in limits.split("\n"))
        for size in (float(up_to), float(over) + 0.01):
            assert limits_mm(size, name) == pytest.approx((low, high), abs=1e-9), size


@pytest.mark.parametrize(
    ("size", "hole", "pin", "least", "most", "kind"),
    [
        (8, "H7", "g6", 0.005, 0.029, "clearance"),
        (12, "H7", "g6", 0.006, 0.035, "clearance"),
        (16, "H7", "h6", 0.0, 0.029, "clearance"),
        (25, "H7", "p6", -0.035, -0.001, "interference"),
        (25, "H7", "k6", -0.015, 0.019, "transition"),
        (50, "H8", "f7", 0.025, 0.089, "clearance"),
        (2, "H7", "g6", 0.002, 0.018, "clearance"),
        (450, "H7", "p6", -0.108, -0.005, "interference"),
    ],
)
def test_usual_fits_of_pins_as_handbooks_print_them(size, hole, pin, least, most, kind):
    """Preferred fits, ISO 286-1 annex and any handbook of machine elements (from memory)."""
    found = fit(FitRequest(nominal_mm=size, hole=hole, pin=pin))
    assert (found.least_clearance_mm, found.most_clearance_mm) == pytest.approx(
        (least, most), abs=1e-9
    )
    assert found.kind == kind


def test_what_is_not_offered_is_refused():
    for values, field in (
        ({"hole": "Z9"}, "class"),
        ({"hole": "g6"}, "hole"),
        ({"pin": "H7"}, "pin"),
    ):
        with pytest.raises(OutOfRange) as caught:
            fit(FitRequest.model_validate({"nominal_mm": 8, "hole": "H7", "pin": "g6"} | values))
        assert caught.value.field == field
