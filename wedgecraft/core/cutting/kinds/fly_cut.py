"""Facing with one tooth."""

from __future__ import annotations

from typing import ClassVar

from wedgecraft.core.cutting.kinds.face import Face
from wedgecraft.core.records.cut import CUT_KINDS, CutterKind


@CUT_KINDS.register
class FlyCut(Face):
    """A face mill of one tooth."""

    kind: ClassVar[str] = "fly cut"
    listed: ClassVar[int] = 4
    cutters: ClassVar[tuple[CutterKind, ...]] = ("fly cutter",)
    usual: ClassVar[CutterKind] = "fly cutter"
