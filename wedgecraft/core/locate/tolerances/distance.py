"""A distance, plus or minus."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from wedgecraft.core.locate.chain import Chain, Check, Thing
from wedgecraft.core.locate.sources import Array
from wedgecraft.core.records.feature import TOLERANCES, Feature, ToleranceKind


@TOLERANCES.register
class Distance(ToleranceKind):
    """Off by at most so much along the way it is measured."""

    kind: ClassVar[str] = "distance"
    listed: ClassVar[int] = 2
    label: ClassVar[str] = "distance ±"
    given: ClassVar[str] = "plus or minus"

    def checks(self, chain: Chain, feature: Feature) -> list[Check]:
        base, point = chain.base(feature), chain.point(feature)
        sources, relative, said = chain.measured(feature, base, point)
        way, along = _way(chain, feature, base, point)
        start = np.zeros(3) if base is None else chain.point(base, point)
        far = abs(float(way @ (point - start)))
        return [
            Check(
                feature,
                point,
                way,
                feature.tolerance_mm,
                relative,
                sources,
                f"{along}, {said}",
                chain.gives(feature),
                nominal=(("", far),),
            )
        ]


def _way(chain: Chain, feature: Feature, base: Thing | None, point: Array) -> tuple[Array, str]:
    """Along what it is measured."""
    if isinstance(base, str):
        return chain.normal(base), f"square to face {base}"
    if feature.takes:
        return chain.normal(feature.takes[0]), f"square to face {feature.takes[0]}"
    if base is not None:
        line = point - chain.point(base)
        if np.linalg.norm(line) > 1e-6:
            return line / np.linalg.norm(line), "along the line between them"
    k = 0 if point[0] >= point[1] else 1
    return np.eye(3)[k], f"along {'XY'[k]}"
