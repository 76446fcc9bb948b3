"""Drilling."""

from __future__ import annotations

import math
from typing import ClassVar

from wedgecraft.core.cutting.holes import (
    BREAKTHROUGH,
    DRILL_THRUST,
    HoleCut,
    HoleForces,
    hole_stories,
    specific_mpa,
)
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutterKind, Stories
from wedgecraft.core.records.material import Material


@CUT_KINDS.register
class Drill(HoleCut):
    """Torque ``M = kc f D² / 8``."""

    kind: ClassVar[str] = "drill"
    listed: ClassVar[int] = 5
    cutters: ClassVar[tuple[CutterKind, ...]] = ("drill",)
    usual: ClassVar[CutterKind] = "drill"
    usual_teeth: ClassVar[int] = 2
    stories: ClassVar[Stories] = hole_stories(
        force="edges balance one another: none",
        pull="0.3 x thrust as the point breaks through",
        push="kc D f / 2 sin κ, the chisel edge included",
        torque="kc f D² / 8",
    )

    def point_deg(self, cut: Cut) -> float | None:
        return cut.tool.point_deg

    def forces(self, cut: Cut, work: Material) -> HoleForces:
        diameter, feed = cut.tool.diameter_mm, self.feed_per_turn_mm(cut)
        kappa = math.radians(cut.tool.point_deg / 2)
        chip = feed / cut.tool.teeth * math.sin(kappa)
        kc = specific_mpa(cut, work, chip)
        push = DRILL_THRUST * kc * diameter * feed / 2 * math.sin(kappa)
        torque, area = kc * feed * diameter**2 / 8, math.pi * diameter**2 / 4
        return HoleForces(torque, chip, push, BREAKTHROUGH * push, 0.0, area)
