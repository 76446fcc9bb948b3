"""Tapping."""

from __future__ import annotations

import math
from typing import Any, ClassVar

from wedgecraft.core.cutting.holes import (
    TAP_AXIAL,
    TAP_LEAD_THREADS,
    THREAD_DEPTH,
    HoleCut,
    HoleForces,
    hole_stories,
    specific_mpa,
)
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutterKind, Stories
from wedgecraft.core.records.material import Material


@CUT_KINDS.register
class Tap(HoleCut):
    """Torque ``M = kc P² D / 8``; it feeds by its pitch."""

    kind: ClassVar[str] = "tap"
    listed: ClassVar[int] = 7
    cutters: ClassVar[tuple[CutterKind, ...]] = ("tap",)
    usual: ClassVar[CutterKind] = "tap"
    usual_teeth: ClassVar[int] = 3
    back_at_feed: ClassVar[bool] = True
    by_pitch: ClassVar[bool] = True
    stories: ClassVar[Stories] = hole_stories(
        force="edges balance one another: none",
        pull="0.2 x tangential force",
        push="0.2 x tangential force",
        torque="kc P² D / 8",
        feed="thread pitch x spindle speed",
    )

    def unsaid(self) -> dict[str, Any]:
        return {"feed_per_tooth_mm": 0}

    def feed_per_turn_mm(self, cut: Cut) -> float:
        return cut.tool.pitch_mm

    def forces(self, cut: Cut, work: Material) -> HoleForces:
        diameter, pitch = cut.tool.diameter_mm, cut.tool.pitch_mm
        chip = THREAD_DEPTH * pitch / (TAP_LEAD_THREADS * cut.tool.teeth)
        torque = specific_mpa(cut, work, chip) * pitch**2 * diameter / 8
        axial = TAP_AXIAL * 2 * torque / diameter
        area = math.pi * diameter * THREAD_DEPTH * pitch / 2
        return HoleForces(torque, chip, axial, axial, 0.0, area)
