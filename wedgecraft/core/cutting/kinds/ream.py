"""Reaming."""

from __future__ import annotations

import math
from typing import ClassVar

from wedgecraft.core.cutting.holes import (
    BREAKTHROUGH,
    FEED_RATIO,
    HoleCut,
    HoleForces,
    hole_stories,
    specific_mpa,
)
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutterKind, Stories
from wedgecraft.core.records.material import Material


@CUT_KINDS.register
class Ream(HoleCut):
    """Torque ``M = kc f (D² - d²) / 8``."""

    kind: ClassVar[str] = "ream"
    listed: ClassVar[int] = 6
    cutters: ClassVar[tuple[CutterKind, ...]] = ("reamer",)
    usual: ClassVar[CutterKind] = "reamer"
    back_at_feed: ClassVar[bool] = True
    takes_radius: ClassVar[bool] = True
    stories: ClassVar[Stories] = hole_stories(
        force="edges balance one another: none",
        pull="0.3 x thrust as the point breaks through",
        push="0.5 kc ap f",
        torque="kc f (D² - d²) / 8",
    )

    def forces(self, cut: Cut, work: Material) -> HoleForces:
        outer, feed = cut.tool.diameter_mm, self.feed_per_turn_mm(cut)
        inner = outer - 2 * cut.radial_width_mm
        chip = feed / cut.tool.teeth * math.sin(math.radians(45))
        kc = specific_mpa(cut, work, chip)
        push = FEED_RATIO * kc * cut.radial_width_mm * feed
        torque = kc * feed * (outer**2 - inner**2) / 8
        area = math.pi * (outer**2 - inner**2) / 4
        return HoleForces(torque, chip, push, BREAKTHROUGH * push, 0.0, area)
