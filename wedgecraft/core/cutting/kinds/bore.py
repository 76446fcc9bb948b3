"""Boring."""

from __future__ import annotations

import math
from typing import ClassVar

from wedgecraft.core.cutting.holes import (
    FEED_RATIO,
    HoleCut,
    HoleForces,
    hole_stories,
    specific_mpa,
)
from wedgecraft.core.cutting.milling import RADIAL_RATIO
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutterKind, Stories
from wedgecraft.core.records.material import Material


@CUT_KINDS.register
class Bore(HoleCut):
    """Force ``Fc = kc ap f``; with one edge it turns with the bar."""

    kind: ClassVar[str] = "bore"
    listed: ClassVar[int] = 8
    cutters: ClassVar[tuple[CutterKind, ...]] = ("boring bar",)
    usual: ClassVar[CutterKind] = "boring bar"
    takes_radius: ClassVar[bool] = True
    stories: ClassVar[Stories] = hole_stories(
        force="kc ap f with Fr = 0.4 Fc, turning with the bar",
        pull="none: the bar presses",
        push="0.5 Fc",
        torque="kc ap f D / 2",
    )

    def forces(self, cut: Cut, work: Material) -> HoleForces:
        diameter, feed = cut.tool.diameter_mm, self.feed_per_turn_mm(cut)
        kappa = math.radians(cut.tool.entering_deg)
        chip = feed / cut.tool.teeth * math.sin(kappa)
        force = specific_mpa(cut, work, chip) * cut.radial_width_mm * feed
        in_plane = force / cut.tool.teeth * math.hypot(1, RADIAL_RATIO)
        area = math.pi * cut.radial_width_mm * (diameter - cut.radial_width_mm)
        return HoleForces(
            force * diameter / 2,
            chip,
            FEED_RATIO * force,
            0.0,
            in_plane if cut.tool.teeth == 1 else 0.0,
            area,
        )
