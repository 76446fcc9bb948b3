"""A place within the diameter of a zone."""

from __future__ import annotations

from typing import ClassVar

from wedgecraft.core.locate.chain import Chain, Check
from wedgecraft.core.records.feature import TOLERANCES, Feature, ToleranceKind


@TOLERANCES.register
class Position(ToleranceKind):
    """Off by at most half the zone, whichever way."""

    kind: ClassVar[str] = "position"
    listed: ClassVar[int] = 1
    label: ClassVar[str] = "position ⌀"
    given: ClassVar[str] = "diameter of the zone"
    zone: ClassVar[bool] = True

    def checks(self, chain: Chain, feature: Feature) -> list[Check]:
        base, point = chain.base(feature), chain.point(feature)
        sources, relative, said = chain.measured(feature, base, point)
        x, y = (base.x_mm, base.y_mm) if isinstance(base, Feature) else (0.0, 0.0)
        return [
            Check(
                feature,
                point,
                None,
                feature.tolerance_mm,
                relative,
                sources,
                said,
                chain.gives(feature),
                nominal=(("X", feature.x_mm - x), ("Y", feature.y_mm - y)),
            )
        ]
