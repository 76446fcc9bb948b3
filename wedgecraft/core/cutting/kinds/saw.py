"""Sawing with a slitting saw, from one point to another."""

from __future__ import annotations

from typing import Any, ClassVar

from wedgecraft.core.cutting.kinds.slot import Line
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutterKind, Scene, Sweep


@CUT_KINDS.register
class Saw(Line):
    """A thin side mill of many teeth; a pass is at most as deep as its blade is thick."""

    kind: ClassVar[str] = "saw"
    listed: ClassVar[int] = 9
    cutters: ClassVar[tuple[CutterKind, ...]] = ("slitting saw",)
    usual: ClassVar[CutterKind] = "slitting saw"

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """It comes from the side: what stands above its blade stays, and may come loose."""
        top = scene.top_mm
        return [Sweep(self._band(cut), top - cut.depth_mm, top - cut.from_top_mm)]

    def edge(self, cut: Cut) -> tuple[float, str]:
        return cut.tool.width_mm, "the blade's thickness"

    def tool_unsaid(self, depth: Any) -> dict[str, Any]:
        return {"width_mm": depth if depth is not None else 0}

    def straight(self, cut: Cut) -> bool:
        return True
