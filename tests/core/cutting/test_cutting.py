"""Kienzle's forces against quadrature, against a tooth-by-tooth loop, against kc times removal
rate, and handbook formulas by hand.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from shapely.geometry import Polygon

from wedgecraft.core.cutting.figures import cut_answer
from wedgecraft.core.cutting.load import cutting_chart, cutting_load
from wedgecraft.core.cutting.milling import RADIAL_RATIO
from wedgecraft.core.cutting.path import cut_path
from wedgecraft.core.cutting.table import cuts_from_text
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut, Cutter, CuttingRequest
from wedgecraft.core.records.machine import Machine, spindle_at
from wedgecraft.core.records.material import MATERIALS

_CUTTERS = {
    "contour": "end mill",
    "face": "face mill",
    "slot": "end mill",
    "fly cut": "fly cutter",
    "saw": "slitting saw",
}
STEEL = MATERIALS["steel-c45"]


def _request(
    kind="contour",
    diameter=10.0,
    teeth=3,
    helix=30.0,
    kappa=90.0,
    depth=8.0,
    share=0.15,
    feed=0.05,
    material=STEEL,
    wear=1.0,
):
    tool = {
        "kind": _CUTTERS[kind],
        "diameter_mm": diameter,
        "teeth": 1 if kind == "fly cut" else teeth,
        "helix_deg": helix,
        "entering_deg": kappa,
        "flute_length_mm": max(depth, 1),
        "width_mm": depth if kind == "saw" else 0,
    }
    cut = {
        "kind": kind,
        "tool": tool,
        "axial_depth_mm": depth,
        "radial_width_mm": diameter * share,
        "feed_per_tooth_mm": feed,
        "spindle_rpm": 6000,
        "wear_factor": wear,
        "at": [(0, 5), (50, 5)] if kind in ("slot", "saw") else [],
    }
    return CuttingRequest.model_validate({"material": material, "cut": cut})


CUTS = {
    "kind": st.sampled_from(sorted(_CUTTERS)),
    "diameter": st.floats(2, 80),
    "teeth": st.integers(1, 8),
    "helix": st.floats(0, 50),
    "kappa": st.floats(20, 90),
    "depth": st.floats(0.2, 30),
    "share": st.floats(0.02, 1.0),
    "feed": st.floats(0.005, 0.4),
}


def _arc(request: CuttingRequest) -> tuple[float, float]:
    """Worked out again: facing is centred, a slot is half a turn, everything else enters from one
    side.
    """
    cut = request.cut
    share = 1.0 if cut.kind == "slot" else cut.radial_width_mm / cut.tool.diameter_mm
    if cut.kind in ("face", "fly cut"):
        return math.pi / 2 - math.asin(min(1, share)), math.pi / 2 + math.asin(min(1, share))
    return 0.0, math.acos(1 - 2 * share)


@settings(max_examples=80, deadline=None)
@given(**CUTS)
def test_with_constant_cutting_force_mean_power_is_kc_times_removal_rate(**cut):
    flat = STEEL.model_copy(update={"id": "flat", "mc": 0.0})
    load = cutting_load(_request(material=flat, **cut))
    watts = flat.kc11_mpa * load.removal_rate_mm3_min / 60 / 1000
    assert load.mean_power_w == pytest.approx(watts, rel=1e-9)


@settings(max_examples=50, deadline=None)
@given(**CUTS)
def test_mean_power_against_adaptive_quadrature_and_mean_chip(**cut):
    request = _request(**cut)
    load, mill = cutting_load(request), request.cut
    start, end = _arc(request)
    kappa = math.radians(mill.tool.entering_deg)

    def force(phi: float) -> float:
        chip = mill.feed_per_tooth_mm * math.sin(phi) * math.sin(kappa)
        return (
            STEEL.kc11_mpa
            * mill.axial_depth_mm
            / math.sin(kappa)
            * max(0.0, chip) ** (1 - STEEL.mc)
        )

    mean = quad(force, start, end)[0] * mill.tool.teeth / (2 * math.pi)
    assert load.mean_power_w == pytest.approx(mean * load.cutting_speed_m_min / 60, rel=2e-4)
    # Handbook rule: power is about kc at the mean chip thickness times the removal rate.
    kc = STEEL.kc11_mpa * load.mean_chip_mm**-STEEL.mc
    assert load.mean_power_w == pytest.approx(kc * load.removal_rate_mm3_min / 60_000, rel=0.12)


@pytest.mark.parametrize(("kind", "kappa"), [("contour", 90), ("face", 45), ("slot", 90)])
def test_peak_force_and_chart_against_a_plain_loop_over_teeth_and_slices(kind, kappa):
    request = _request(kind=kind, share=0.4, helix=35, depth=12, wear=1.3, kappa=kappa)
    mill, (start, end) = request.cut, _arc(request)
    sin_kappa, slices, resultants = math.sin(math.radians(kappa)), 120, []
    for turn in range(1440):
        fx = fy = 0.0
        for tooth in range(mill.tool.teeth):
            for number in range(slices):
                height = (number + 0.5) * mill.axial_depth_mm / slices
                lag = 2 * height * math.tan(math.radians(35)) / mill.tool.diameter_mm
                phi = (turn * 2 * math.pi / 1440 + tooth * 2 * math.pi / mill.tool.teeth - lag) % (
                    2 * math.pi
                )
                if start <= phi <= end:
                    chip = mill.feed_per_tooth_mm * math.sin(phi) * sin_kappa
                    ft = (
                        STEEL.kc11_mpa
                        * 1.3
                        * (mill.axial_depth_mm / slices / sin_kappa)
                        * max(0.0, chip) ** (1 - STEEL.mc)
                    )
                    fr = RADIAL_RATIO * sin_kappa * ft
                    fx += -ft * math.cos(phi) - fr * math.sin(phi)
                    fy += ft * math.sin(phi) - fr * math.cos(phi)
        resultants.append(math.hypot(fx, fy))
    assert cutting_load(request).in_plane_peak_n == pytest.approx(max(resultants), rel=0.02)
    chart = cutting_chart(request)
    assert chart.in_plane_n == pytest.approx(resultants[::12], rel=0.06, abs=0.03 * max(resultants))


def _hole(
    kind: str,
    diameter: float,
    teeth: int,
    feed: float,
    depth: float = 20,
    stock: float = 0.0,
    pitch: float = 0.0,
):
    names = {"drill": "drill", "ream": "reamer", "tap": "tap", "bore": "boring bar"}
    tool = Cutter(
        kind=names[kind],
        diameter_mm=diameter,
        teeth=teeth,
        flute_length_mm=60,
        pitch_mm=pitch,
        point_deg=118,
    )
    cut = Cut(
        kind=kind,
        tool=tool,
        axial_depth_mm=depth,
        radial_width_mm=stock,
        feed_per_tooth_mm=feed,
        spindle_rpm=800,
        wear_factor=1,
    )
    return cutting_load(CuttingRequest(material=STEEL, cut=cut))


def test_hole_cuts_against_handbook_formulas_worked_by_hand():
    """Drill 10 mm, 0.2 mm a turn, point 118°, C45 with kc1.1 2220, mc 0.14: h = 0.1 sin 59° =
    0.0857, kc = 3131 MPa.
    """
    drill = _hole("drill", 10, 2, 0.1)
    assert drill.mean_chip_mm == pytest.approx(0.0857, rel=1e-3)
    assert drill.twist_nm == pytest.approx(3131 * 0.2 * 100 / 8 / 1000, rel=1e-3)  # 7.83 N·m
    assert drill.mean_power_w == pytest.approx(drill.twist_nm * 2 * math.pi * 800 / 60)
    # Machinery's Handbook's drill formula, from memory: M = Kd Ff FM A W with Kd 24,000, Ff 0.021,
    # FM 0.19, A 1.085: about 104 in·lb.
    assert drill.twist_nm == pytest.approx(104 * 0.11298, rel=0.35)
    # M8 in C45: h = 0.5413 x 1.25 / 12 = 0.0564, kc = 3320 MPa; M = kc P² D / 8 = 5.19 N·m.
    assert _hole("tap", 8, 3, 0, pitch=1.25).twist_nm == pytest.approx(5.19, rel=0.01)
    # A reamer takes a thin ring: what two drills would take, one less the other.
    ream = _hole("ream", 10, 6, 0.05, stock=0.1)
    kc = 2220 * (0.05 * math.sin(math.pi / 4)) ** -0.14
    assert ream.twist_nm == pytest.approx(kc * 0.3 * (10**2 - 9.8**2) / 8 / 1000)
    # Boring 40 mm, ap 1, f 0.2: Fc = 2220 x 0.2^-0.14 x 1 x 0.2 = 556 N, at 20 mm.
    assert _hole("bore", 40, 1, 0.2, stock=1).twist_nm == pytest.approx(556 * 0.020, rel=0.01)


@settings(max_examples=40, deadline=None)
@given(st.floats(2, 30), st.integers(1, 4), st.floats(0.02, 0.3))
def test_drilling_power_is_kc_at_its_chip_times_removal_rate(diameter, teeth, feed):
    load = _hole("drill", diameter, teeth, feed)
    kc = STEEL.kc11_mpa * load.mean_chip_mm**-STEEL.mc
    assert load.mean_power_w == pytest.approx(kc * load.removal_rate_mm3_min / 60_000, rel=1e-9)


def test_more_depth_more_feed_or_a_worn_edge_never_cut_easier():
    base = cutting_load(_request()).in_plane_peak_n
    assert cutting_load(_request(depth=10)).in_plane_peak_n > base
    assert cutting_load(_request(feed=0.08)).in_plane_peak_n > base
    assert cutting_load(_request(wear=1.5)).in_plane_peak_n == pytest.approx(1.5 * base)


def test_paths_and_seconds_against_arithmetic():
    block = Polygon([(0, 0), (60, 0), (60, 40), (0, 40)])

    def length(**given) -> float:
        return cut_path(
            Cut.model_validate(_request(**{"kind": given.pop("kind")}).cut.model_dump() | given),
            block,
        ).length_mm

    assert length(kind="contour") == pytest.approx(2 * (60 + 40) + math.pi * 10, rel=1e-3)
    assert length(kind="contour", passes=3) == pytest.approx(
        3 * (2 * (60 + 40) + math.pi * 10), rel=1e-3
    )
    assert length(kind="face", radial_width_mm=8) == pytest.approx(5 * (60 + 10))
    assert length(kind="face", radial_width_mm=8, at=[(0, 0), (20, 16)]) == pytest.approx(
        2 * (20 + 10)
    )
    assert length(kind="slot", at=[(0, 0), (30, 40)]) == pytest.approx(50 + 10)
    machine = Machine(
        name="m",
        travel_x_mm=500,
        travel_y_mm=400,
        table_load_kg=300,
        spindle_power_kw=10,
        spindle_torque_nm=60,
    )
    drill = {"kind": "drill", "diameter_mm": 5, "teeth": 2, "flute_length_mm": 40}
    cut = Cut.model_validate(
        {
            "kind": "drill",
            "tool": drill,
            "axial_depth_mm": 18,
            "feed_per_tooth_mm": 0.05,
            "spindle_rpm": 6000,
            "at": "10, 10; 50, 10; 50, 30",
        }
    )
    answer = cut_answer(cut, STEEL, block, machine)
    assert answer.seconds == pytest.approx(60 * 3 * (18 + 2) / 600)
    assert cut_answer(
        cut.model_copy(update={"path_mm": 100.0}), STEEL, block, machine
    ).seconds == pytest.approx(10)
    assert cut_answer(cut.model_copy(update={"seconds": 7.5}), STEEL, block, machine).seconds == 7.5
    outside = cut_answer(cut.model_copy(update={"at": [(90.0, 10.0)]}), STEEL, block, machine)
    assert (outside.wrong_field, outside.load) == ("cut.at", None)


def test_the_spindle_curve_is_read_between_its_points_and_ratings_hold_without_one():
    machine = {
        "name": "m",
        "travel_x_mm": 500,
        "travel_y_mm": 400,
        "table_load_kg": 300,
        "spindle_power_kw": 10,
        "spindle_torque_nm": 60,
    }
    plain = Machine.model_validate(machine)
    assert spindle_at(plain, 1000) == pytest.approx((60, 10))
    assert spindle_at(plain, 9549.3)[0] == pytest.approx(
        10, rel=1e-4
    )  # 10 kW at 9549 1/min is 10 N·m
    curve = Machine.model_validate(
        machine | {"torque_curve": [{"rpm": 1000, "torque_nm": 60}, {"rpm": 3000, "torque_nm": 20}]}
    )
    assert spindle_at(curve, 2000) == pytest.approx((40, 40 * 2 * math.pi * 2000 / 60 / 1000))


def test_a_pasted_table_gives_the_cuts_it_says_and_names_every_wrong_cell():
    titles = "Name\tKind\tDia\tZ\tAp\tAe\tfz\tRPM\tAt\n"
    text = (
        titles
        + "T1\tcontour\t1/2 in\t3\t8\t1.5\t0.002 in\t9000\t\nT2\tdrill\t5\t\t14\t\t0.06\t\t13, 16;"
        " 39, 16\n"
    )
    cuts, faults = cuts_from_text(text)
    assert faults == []
    assert (cuts[0].tool.diameter_mm, cuts[0].feed_per_tooth_mm) == pytest.approx((12.7, 0.0508))
    assert (cuts[1].kind, cuts[1].tool.teeth, cuts[1].spindle_rpm, cuts[1].at) == (
        "drill",
        2,
        9000,
        [(13, 16), (39, 16)],
    )
    bare, faults = cuts_from_text("T1;contour;10;3;8;1.5;0.05;9000\nT2;;;;4", inch=False)
    assert faults == []
    assert (bare[1].tool.diameter_mm, bare[1].tool.teeth, bare[1].axial_depth_mm) == (10, 3, 4)
    inch, _ = cuts_from_text("T1\tcontour\t0.5\t3\t0.25\t0.05\t0.002\t9000", inch=True)
    assert (inch[0].tool.diameter_mm, inch[0].axial_depth_mm) == pytest.approx((12.7, 6.35))
    none, faults = cuts_from_text("Name\tDepth\tColour\nT1\t-3\tred\nT2\tdeep\t\n")
    assert none == []
    assert {(item.line, item.column) for item in faults} >= {
        (1, "Colour"),
        (2, "depth"),
        (3, "depth"),
    }


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"share": 1.2}, "cut.radial_width_mm"),
        ({"share": 0.0}, "cut.radial_width_mm"),
        ({"kind": "slot", "feed": 0.0}, "cut.feed_per_tooth_mm"),
    ],
)
def test_what_cannot_be_cut_is_named(change, field):
    with pytest.raises(OutOfRange) as caught:
        cutting_load(_request(**change))
    assert caught.value.field == field
    assert caught.value.allowed


def test_an_unknown_material_and_a_wrong_cutter_are_named():
    with pytest.raises(ValueError, match="not a known material; known are"):
        _request(material="cheese")
    request = _request()
    with pytest.raises(OutOfRange, match="a drill takes a drill"):
        cutting_load(
            request.model_copy(update={"cut": request.cut.model_copy(update={"kind": "drill"})})
        )
    assert np.isfinite(cutting_load(request).in_plane_peak_n)
