"""A profile within the width of a zone round it."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from wedgecraft.core.locate.chain import Chain, Check
from wedgecraft.core.records.feature import TOLERANCES, Feature, ToleranceKind


@TOLERANCES.register
class Profile(ToleranceKind):
    """It lies in its zone when its corners do, half of it to either side."""

    kind: ClassVar[str] = "profile"
    listed: ClassVar[int] = 4
    label: ClassVar[str] = "profile"
    given: ClassVar[str] = "width"
    both_ways: ClassVar[bool] = True
    placed: ClassVar[bool] = False

    def checks(self, chain: Chain, feature: Feature) -> list[Check]:
        x0, y0, x1, y1 = chain.sitting.outline.bounds
        base, found = chain.base(feature), []
        for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)):
            point = np.array([x, y, chain.point(feature)[2]])
            sources, relative, said = chain.measured(feature, base, point)
            for k in (0, 1):
                found.append(
                    Check(
                        feature,
                        point,
                        np.eye(3)[k],
                        feature.tolerance_mm / 2,
                        relative,
                        sources,
                        f"along {'XY'[k]} at X{x:.1f} Y{y:.1f}, {said}",
                        chain.gives(feature),
                    )
                )
        return found
