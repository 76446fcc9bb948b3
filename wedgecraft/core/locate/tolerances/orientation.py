"""Out of square or parallel by at most the width of a zone."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.locate.chain import Chain, Check
from wedgecraft.core.locate.sources import ARC_SECOND, Array, Source, between, shifting
from wedgecraft.core.records.feature import TOLERANCES, Feature, ToleranceKind


@TOLERANCES.register
class Orientation(ToleranceKind):
    """A face or an axis: how far the far end stands off the near one, over both its diagonals, or
    both ways.
    """

    kind: ClassVar[str] = "orientation"
    listed: ClassVar[int] = 3
    label: ClassVar[str] = "orientation"
    given: ClassVar[str] = "width"
    both_ways: ClassVar[bool] = True

    def checks(self, chain: Chain, feature: Feature) -> list[Check]:
        x0, y0, x1, y1 = chain.sitting.outline.bounds
        box = np.array([x1 - x0, y1 - y0, chain.sitting.height_mm])
        if feature.takes:
            way = chain.normal(feature.takes[0])
            other = next(axis for axis in range(3) if not way[axis])
            lever = np.where(way, 0.0, box)
            mirrored = lever.copy()
            mirrored[other] = -mirrored[other]
            looked = [(lever, way), (mirrored, way)]
        else:
            looked = [(np.array([0.0, 0.0, box[2]]), axis) for axis in np.eye(3)[:2]]
        base = chain.base(feature)
        here = base is not None and chain.here(base)
        name = (
            "the station"
            if base is None
            else base.name
            if isinstance(base, Feature)
            else f"face {base}"
        )
        found = []
        for lever, way in looked:
            long = float(np.linalg.norm(lever))
            sources = between(
                chain.view.machine,
                chain.part.material,
                0.0,
                np.full(3, long),
                chain.gives(feature),
                straight=True,
            )
            said = f"over {long:.1f} mm, to {name}"
            if here:
                said += ", cut in the same clamping"
            else:
                sources += [
                    _swung(item, item.name, lever)
                    for item in chain.turning(base)
                    if np.any(item.turn)
                ]
                if chain.view.block.faces > 1:
                    angle, far = (
                        chain.view.machine.index_arcsec * ARC_SECOND,
                        float(np.abs(lever).max()),
                    )
                    sources.append(
                        shifting(
                            "rotary index",
                            "normal",
                            angle * far * way,
                            f"its angle, over {far:.1f} mm",
                        )
                    )
            found.append(
                Check(feature, np.zeros(3), way, feature.tolerance_mm, True, tuple(sources), said)
            )
        return found


def _swung(source: Source, name: str, lever: Array) -> Source:
    """How far the end of a lever goes when the part turns."""
    return Source(name, source.spread, cross(source.turn, lever), np.zeros(3), source.why)
