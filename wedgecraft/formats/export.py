"""Files a layout can be taken out as. Each kind is one file of ``formats/exports``, and says all
about itself there.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.ground.kinds import Kinds
from wedgecraft.core.records.design import Design
from wedgecraft.core.records.request import PlanRequest


class Export:
    """What every kind answers. Libraries are loaded by ``made``, not with the service."""

    #: Its name, which its file ends in.
    kind: ClassVar[str]
    mime: ClassVar[str]
    #: In the menu of files, and where it stands there.
    label: ClassVar[str]
    listed: ClassVar[int] = 50

    def made(
        self, request: PlanRequest, design: Design, units: Literal["mm", "inch"]
    ) -> str | bytes:
        """The file, its lengths in these units."""
        raise NotImplementedError


EXPORTS: Kinds[Export] = Kinds("wedgecraft.formats.exports", "format")
