"""Kienzle's milling force against quadrature, against a tooth-by-tooth loop, and against kc times removal rate."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from wedgecraft.core import materials
from wedgecraft.core.cutting import RADIAL_RATIO, CuttingRequest, cutting_load
from wedgecraft.core.errors import OutOfRange


def _request(diameter=10.0, teeth=3, helix=30.0, depth=8.0, share=0.15, feed=0.05, material="aluminium-6061", wear=1.0):
    return CuttingRequest.model_validate(
        {
            "material": material,
            "cut": {
                "tool": {"diameter_mm": diameter, "teeth": teeth, "helix_deg": helix, "flute_length_mm": max(depth, 1)},
                "axial_depth_mm": depth,
                "radial_width_mm": diameter * share,
                "feed_per_tooth_mm": feed,
                "spindle_rpm": 6000,
                "wear_factor": wear,
            },
        }
    )


CUTS = {
    "diameter": st.floats(2, 80),
    "teeth": st.integers(1, 8),
    "helix": st.floats(0, 50),
    "depth": st.floats(0.2, 30),
    "share": st.floats(0.02, 1.0),
    "feed": st.floats(0.005, 0.4),
}


@settings(max_examples=60, deadline=None)
@given(**CUTS)
def test_with_constant_cutting_force_mean_power_is_kc_times_removal_rate(**cut):
    flat = materials.MATERIALS["steel-c45"].model_copy(update={"id": "flat", "mc": 0.0})
    with pytest.MonkeyPatch.context() as patch:
        patch.setitem(materials.MATERIALS, "flat", flat)
        load = cutting_load(_request(material="flat", **cut))
    watts = flat.kc11_mpa * load.removal_rate_mm3_min / 60 / 1000
    assert load.mean_power_w == pytest.approx(watts, rel=1e-9)


@settings(max_examples=40, deadline=None)
@given(**CUTS)
def test_mean_power_against_adaptive_quadrature_and_mean_chip(**cut):
    request = _request(material="steel-42crmo4", **cut)
    load = cutting_load(request)
    work, mill = materials.MATERIALS["steel-42crmo4"], request.cut
    end = math.acos(1 - 2 * mill.radial_width_mm / mill.tool.diameter_mm)

    def force(phi: float) -> float:
        return work.kc11_mpa * mill.axial_depth_mm * (mill.feed_per_tooth_mm * math.sin(phi)) ** (1 - work.mc)

    mean = quad(force, 0, end)[0] * mill.tool.teeth / (2 * math.pi)
    assert load.mean_power_w == pytest.approx(mean * load.cutting_speed_m_min / 60, rel=2e-4)
    # Handbook rule: power is about kc at the mean chip thickness times the removal rate.
    kc = work.kc11_mpa * load.mean_chip_mm**-work.mc
    assert load.mean_power_w == pytest.approx(kc * load.removal_rate_mm3_min / 60_000, rel=0.12)


def test_peak_force_against_a_plain_loop_over_teeth_and_slices():
    request = _request(share=0.4, helix=35, depth=12, wear=1.3)
    mill, work = request.cut, materials.MATERIALS["aluminium-6061"]
    end = math.acos(1 - 2 * mill.radial_width_mm / mill.tool.diameter_mm)
    peak, slices = 0.0, 120
    for turn in range(1440):
        fx = fy = 0.0
        for tooth in range(mill.tool.teeth):
            for number in range(slices):
                height = (number + 0.5) * mill.axial_depth_mm / slices
                lag = 2 * height * math.tan(math.radians(35)) / mill.tool.diameter_mm
                phi = (turn * 2 * math.pi / 1440 + tooth * 2 * math.pi / mill.tool.teeth - lag) % (2 * math.pi)
                if phi <= end:
                    chip = mill.feed_per_tooth_mm * math.sin(phi)
                    ft = work.kc11_mpa * 1.3 * (mill.axial_depth_mm / slices) * chip ** (1 - work.mc)
                    fx += -ft * math.cos(phi) - RADIAL_RATIO * ft * math.sin(phi)
                    fy += ft * math.sin(phi) - RADIAL_RATIO * ft * math.cos(phi)
        peak = max(peak, math.hypot(fx, fy))
    assert cutting_load(request).in_plane_peak_n == pytest.approx(peak, rel=0.02)


def test_more_depth_more_feed_or_a_worn_edge_never_cut_easier():
    base = cutting_load(_request()).in_plane_peak_n
    assert cutting_load(_request(depth=10)).in_plane_peak_n > base
    assert cutting_load(_request(feed=0.08)).in_plane_peak_n > base
    assert cutting_load(_request(wear=1.5)).in_plane_peak_n == pytest.approx(1.5 * base)


@pytest.mark.parametrize(("change", "field"), [({"share": 1.2}, "cut.radial_width_mm"), ({"material": "cheese"}, "material")])
def test_what_cannot_be_cut_is_named(change, field):
    with pytest.raises(OutOfRange) as caught:
        cutting_load(_request(**change))
    assert caught.value.field == field
    assert caught.value.allowed
