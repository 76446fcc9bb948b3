"""Parameters to start from: within what handbooks print, and within what the machine has."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.cutting.starting import feed_mm, gives_mm, speed_m_min, started
from wedgecraft.core.records.cut import Cut, Cutter, CuttingRequest
from wedgecraft.core.records.machine import spindle_at
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.shop.picks import named

#: Cutting speeds of coated carbide, m/min, milling and drilling: lowest and highest that handbooks
#: and makers' tables print for the group; from memory.
PRINTED = {
    "aluminium-6061": ((200, 600), (80, 200)),
    "aluminium-7075": ((180, 600), (80, 200)),
    "steel-c45": ((100, 220), (60, 120)),
    "steel-42crmo4": ((70, 160), (40, 90)),
    "stainless-304": ((50, 120), (25, 60)),
    "brass-cz121": ((150, 350), (80, 200)),
    "cast-iron-250": ((90, 200), (60, 130)),
    "titanium-6al4v": ((30, 70), (15, 45)),
    "magnesium-az91": ((250, 800), (100, 250)),
    "acetal": ((150, 500), (60, 200)),
}


def _mill(diameter: float, teeth: int = 3) -> Cutter:
    return Cutter(diameter_mm=diameter, teeth=teeth, flute_length_mm=2.2 * diameter)


def _drill(diameter: float) -> Cutter:
    return Cutter(kind="drill", diameter_mm=diameter, teeth=2, flute_length_mm=8 * diameter)


@pytest.mark.parametrize("ident", PRINTED)
def test_starting_values_lie_within_what_is_printed(ident):
    work, (mills, drills) = MATERIALS[ident], PRINTED[ident]
    assert mills[0] <= speed_m_min(_mill(10), work) <= mills[1]
    assert drills[0] <= speed_m_min(_drill(10), work) <= drills[1]
    assert 0.03 <= feed_mm(_mill(10), work) <= 0.12  # a tooth of 10 mm
    assert 0.06 <= 2 * feed_mm(_drill(10), work) <= 0.25  # a turn of 10 mm


@settings(max_examples=60, deadline=None)
@given(
    ident=st.sampled_from(sorted(PRINTED)),
    diameter=st.sampled_from([3, 6, 10, 16, 20]),
    kind=st.sampled_from(["clear", "pocket", "contour", "face", "drill"]),
    deep=st.floats(0.5, 40),
)
def test_no_start_asks_more_than_the_machine_and_the_cutter_have(ident, diameter, kind, deep):
    machine, work = named("machine", "Vertical, 500 x 400 mm travel"), MATERIALS[ident]
    tool = _drill(diameter) if kind == "drill" else _mill(diameter)
    deep = min(deep, tool.flute_length_mm)
    bare = Cut(
        kind=kind,
        tool=tool,
        axial_depth_mm=deep,
        radial_width_mm=0 if kind == "drill" else 0.3 * diameter,
        feed_per_tooth_mm=0.01,
        spindle_rpm=100,
    )
    cut = started(bare, deep, work, machine)
    load = cutting_load(CuttingRequest(material=work, cut=cut))
    torque, power = spindle_at(machine, cut.spindle_rpm)
    assert load.peak_torque_nm <= torque
    assert load.mean_power_w <= 1000 * power
    assert cut.spindle_rpm <= machine.spindle_rpm
    assert cut.passes * cut.axial_depth_mm == pytest.approx(deep)
    if kind != "drill":
        # a cantilever of carbide, F L³ / 3 E I
        core, long = 0.8 * diameter, tool.flute_length_mm
        bends = load.in_plane_peak_n * long**3 / (3 * 580_000 * math.pi * core**4 / 64)
        assert gives_mm(cut, load) == pytest.approx(bends)
        assert bends <= 0.06 + 1e-9
